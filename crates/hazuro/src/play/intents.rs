//! What inputs make of the state: who sets out for where.

use crate::Time;
use crate::describe::EntityId;
use crate::geometry::Pose;
use crate::model::Scene;
use crate::state::{Order, State, Target};

/// Sets out on foot as ordered. `false` if this body cannot walk.
pub(super) fn walk(scene: &Scene, state: &mut State, who: EntityId, order: Order) -> bool {
    let walks = scene.walking_speed(who).is_some();
    if walks {
        state.order(who, Some(order));
    }
    walks
}

/// Sets out straight and evenly.
pub(super) fn drive(scene: &Scene, state: &mut State, who: EntityId, to: Target, until: Time) {
    state.dismount(scene, who);
    let here = state.pose(scene, who, state.now);
    let there = to.pose(state, scene, here);
    let from = state.in_parent(scene, who, here);
    let to = state.in_parent(scene, who, there);
    state.drive(scene, who, [from, to], until.max(state.now));
}

/// Is somewhere else at once.
pub(super) fn place(scene: &Scene, state: &mut State, who: EntityId, at: Target) {
    state.dismount(scene, who);
    let here: Pose = state.pose(scene, who, state.now);
    let pose = state.in_parent(scene, who, at.pose(state, scene, here));
    state.put(who, pose);
}
