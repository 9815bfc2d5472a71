//! What inputs make of the state: who sets out for where.

use crate::Time;
use crate::geometry::Pose;
use crate::motion::{Easing, Travel};
use crate::react::facing;
use crate::scene::{EntityId, Scene};
use crate::state::{State, Target};

/// Sets out on foot. `false` if this body cannot walk.
pub(super) fn walk(scene: &Scene, state: &mut State, who: EntityId, to: Target) -> bool {
    let Some(speed) = state.walking_speed(scene, who).filter(|speed| *speed > 0.0) else {
        return false;
    };
    let here = state.pose(scene, who, state.now);
    let mut place = to.pose(state, scene, here).position;
    place.y = here.position.y;
    let way = place - here.position;
    let facing = facing(here, way);
    let until = state.now + Time::from_secs(way.length() / speed);
    travel(scene, state, who, (facing, Pose { position: place, ..facing }), until);
    let to = state.live(who).travel.as_deref().map(|travel| *travel.to());
    state.live_mut(who).walks_to = to.map(Box::new);
    true
}

/// Sets out straight and evenly.
pub(super) fn drive(scene: &Scene, state: &mut State, who: EntityId, to: Target, until: Time) {
    let here = state.pose(scene, who, state.now);
    let there = to.pose(state, scene, here);
    travel(scene, state, who, (here, there), until);
}

/// Is somewhere else at once.
pub(super) fn place(scene: &Scene, state: &mut State, who: EntityId, at: Target) {
    let here = state.pose(scene, who, state.now);
    let pose = state.in_parent(scene, who, at.pose(state, scene, here));
    state.put(who, pose);
}

fn travel(scene: &Scene, state: &mut State, who: EntityId, way: (Pose, Pose), until: Time) {
    let from = state.in_parent(scene, who, way.0);
    let to = state.in_parent(scene, who, way.1);
    let travel = Travel::new(state.now, until.max(state.now), from, to, Easing::Linear);
    state.send(who, from, travel);
}
