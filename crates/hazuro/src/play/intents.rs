//! What inputs make of the state: who sets out for where.

use glam::{DVec2, DVec3};

use crate::Time;
use crate::geometry::Pose;
use crate::motion::{Easing, Travel};
use crate::scene::{EntityId, Scene};
use crate::state::{State, Target};

/// Sets out on foot. `false` if this body cannot walk.
pub(super) fn walk(scene: &Scene, state: &mut State, who: EntityId, to: Target) -> bool {
    let Some(speed) = scene.walking_speed(who) else {
        return false;
    };
    let here = state.pose(scene, who, state.now);
    let mut place = to.pose(state, scene, here).position;
    place.y = here.position.y;
    let way = place - here.position;
    let facing = facing(here, way);
    let until = state.now + Time::from_secs(way.length() / speed);
    travel(scene, state, who, (facing, Pose { position: place, ..facing }), until);
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

/// Turns towards a place at once; a journey under way goes on from here.
pub(super) fn face(scene: &Scene, state: &mut State, who: EntityId, to: Target) {
    let here = state.pose(scene, who, state.now);
    let facing = facing(here, to.pose(state, scene, here).position - here.position);
    let journey = state.live(who).travel.as_deref().cloned();
    place(scene, state, who, facing.into());
    if let Some(journey) = journey.filter(|journey| journey.end() > state.now) {
        let from = state.local_pose(who, state.now);
        let to = Pose { rotation: from.rotation, ..*journey.to() };
        let rest = Travel::new(state.now, journey.end(), from, to, Easing::Linear);
        state.send(who, from, rest);
    }
}

fn travel(scene: &Scene, state: &mut State, who: EntityId, way: (Pose, Pose), until: Time) {
    let from = state.in_parent(scene, who, way.0);
    let to = state.in_parent(scene, who, way.1);
    let travel = Travel::new(state.now, until.max(state.now), from, to, Easing::Linear);
    state.send(who, from, travel);
}

/// The pose turned about Y so that -Z points along `way`; unturned if that is straight up or down.
fn facing(pose: Pose, way: DVec3) -> Pose {
    if way.x == 0.0 && way.z == 0.0 {
        pose
    } else {
        pose.turned(DVec2::new(-way.z, -way.x).to_angle())
    }
}
