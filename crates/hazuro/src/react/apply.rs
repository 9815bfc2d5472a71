//! What actions do to the state.

use glam::{DVec2, DVec3};
use smallvec::{SmallVec, smallvec};

use crate::Time;
use crate::geometry::Pose;
use crate::motion::{Easing, Travel};
use crate::scene::{Action, Change, Destination, EntityId, Scene};
use crate::state::{Cause, State, Target};

/// What an action leaves for the play to see to.
#[derive(Debug, Default)]
pub(crate) struct Effect {
    /// What was changed so that detection must look at it again, and why.
    pub disturbed: SmallVec<[(EntityId, Cause); 1]>,
    /// A cue to send.
    pub cue: Option<String>,
}

/// Does one action now; `point` is where the event is.
pub(crate) fn apply(
    scene: &Scene,
    state: &mut State,
    action: &Action<EntityId>,
    point: Option<DVec3>,
) -> Effect {
    let disturbed = match *action {
        Action::Move(ref movement) => {
            let to = match movement.to {
                Destination::Point => {
                    let here = state.pose(scene, movement.what, state.now);
                    let there = Pose { position: point.unwrap_or(here.position), ..here };
                    state.in_parent(scene, movement.what, there)
                }
                Destination::Home => scene.entity(movement.what).pose(),
                Destination::Entity(to) => {
                    let place = state.pose(scene, to, state.now);
                    state.in_parent(scene, movement.what, place)
                }
            };
            let from = state.local_pose(movement.what, state.now);
            let end = state.now + Time::from_secs(movement.over);
            if end > state.now {
                let travel = Travel::new(state.now, end, from, to, movement.ease);
                state.send(movement.what, from, travel);
                smallvec![(movement.what, Cause::Move)]
            } else {
                put(state, movement.what, to)
            }
        }
        Action::Teleport { what, to } => {
            let place = state.pose(scene, to, state.now);
            put(state, what, state.in_parent(scene, what, place))
        }
        Action::Face { what, to } => {
            face(scene, state, what, Target::Entity(to));
            smallvec![(what, Cause::Move)]
        }
        Action::Enable(what) => switch(state, what, true),
        Action::Disable(what) => switch(state, what, false),
        Action::Toggle(what) => {
            let enabled = !state.live(what).enabled;
            switch(state, what, enabled)
        }
        Action::Show(what) => {
            state.live_mut(what).visible = true;
            smallvec![]
        }
        Action::Hide(what) => {
            state.live_mut(what).visible = false;
            smallvec![]
        }
        Action::Count { ref name, change } => {
            let count = state.counts.entry(name.clone()).or_default();
            *count = match change {
                Change::Add(amount) => count.saturating_add(amount),
                Change::Set(value) => value,
            };
            smallvec![]
        }
        Action::Say(_) => smallvec![],
        Action::Cue(ref name) => {
            return Effect { cue: Some(name.clone()), ..Effect::default() };
        }
    };
    Effect { disturbed, cue: None }
}

/// Puts an entity somewhere at once.
fn put(state: &mut State, what: EntityId, pose: Pose) -> SmallVec<[(EntityId, Cause); 1]> {
    state.put(what, pose);
    smallvec![(what, Cause::Teleport)]
}

fn switch(state: &mut State, what: EntityId, enabled: bool) -> SmallVec<[(EntityId, Cause); 1]> {
    let live = state.live_mut(what);
    if live.enabled == enabled {
        return smallvec![];
    }
    live.enabled = enabled;
    smallvec![(what, if enabled { Cause::Enable } else { Cause::Disable })]
}

/// Turns towards a place at once; a journey under way goes on from here.
pub(crate) fn face(scene: &Scene, state: &mut State, who: EntityId, to: Target) {
    let here = state.pose(scene, who, state.now);
    let facing = facing(here, to.pose(state, scene, here).position - here.position);
    let journey = state.live(who).travel.as_deref().cloned();
    state.put(who, state.in_parent(scene, who, facing));
    if let Some(journey) = journey.filter(|journey| journey.end() > state.now) {
        let from = state.local_pose(who, state.now);
        let to = Pose { rotation: from.rotation, ..*journey.to() };
        let rest = Travel::new(state.now, journey.end(), from, to, Easing::Linear);
        state.send(who, from, rest);
    }
}

/// The pose turned about Y so that -Z points along `way`; unturned if that is straight up or down.
pub(crate) fn facing(pose: Pose, way: DVec3) -> Pose {
    if way.x == 0.0 && way.z == 0.0 {
        pose
    } else {
        pose.turned(DVec2::new(-way.z, -way.x).to_angle())
    }
}
