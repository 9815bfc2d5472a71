//! Following somebody with one's look, in both angles, at a bounded rate in radians a second.

use glam::{DQuat, DVec3};
use std::f64::consts::{PI, TAU};

use crate::Time;
use crate::describe::{Aim, EntityId, angles};
use crate::geometry::Pose;
use crate::model::Scene;
use crate::motion::{Easing, Travel};
use crate::state::{Aiming, Cause, Scheduled, State};

use super::ActionContext;

/// How long it turns evenly before it looks anew where the other is: the same at any tick rate.
const STRETCH: Time = Time::from_nanos(20_000_000);

/// Turns of less than this, in radians, are none.
const LEAST: f64 = 1e-9;

impl ActionContext<'_> {
    /// Lets an entity follow another with its look from now on.
    pub fn aim(&mut self, aim: &Aim<EntityId, f64>) {
        let Aim { what, at, rate, pitch: [one, other] } = *aim;
        let pitch = [one.min(other), one.max(other)];
        self.state.numbers_so_far += 1;
        let number = self.state.numbers_so_far;
        self.state.motion.aims.insert(what, Aiming { at, rate, pitch, number });
        self.aim_on(what, number);
    }

    /// Turns on towards the entity that something follows, if it still does.
    pub fn aim_on(&mut self, what: EntityId, number: u64) {
        let Some(aiming) =
            self.state.motion.aims.get(&what).filter(|it| it.number == number).copied()
        else {
            return;
        };
        let (scene, now) = (self.scene, self.state.now);
        let then = now + STRETCH;
        self.state.put_off(then, Scheduled::Aim { what, number });
        let off = |it| self.state.switched_off_by(scene, it).is_some();
        if off(what) || off(aiming.at) {
            return;
        }
        let here = self.state.pose(scene, what, now);
        let to = aiming.turned(&here, self.state.middle(scene, aiming.at, then), STRETCH.secs());
        if here.angle_to(&to) < LEAST {
            return;
        }
        let (from, to) = (self.state.local_pose(what, now), self.state.in_parent(scene, what, to));
        if self.state.cast.end(what).is_some_and(|end| end > now) {
            // It is on its way somewhere: turned as it goes.
            self.state.cast.turn(what, to.rotation, now);
        } else {
            let to = Pose { position: from.position, ..to };
            let travel = Travel::new(now, then, from, to, Easing::Linear);
            self.state.cast.go(what, travel);
        }
        self.disturb(what, Cause::Move);
    }
}

impl Aiming {
    /// Something turned towards `place` as far as it gets in `seconds`.
    fn turned(&self, here: &Pose, place: DVec3, seconds: f64) -> Pose {
        let way = place - here.position;
        if way == DVec3::ZERO {
            return *here;
        }
        let goal =
            Pose { rotation: DQuat::from_rotation_arc(DVec3::NEG_Z, way.normalize()), ..*here };
        let [yaw, pitch] = angles(here.rotation).map(f64::to_radians);
        let [to_yaw, to_pitch] = angles(goal.rotation).map(f64::to_radians);
        let most = self.rate * seconds;
        // The shorter way round.
        let round = (to_yaw - yaw + PI).rem_euclid(TAU) - PI;
        let turn = |by: f64| by.clamp(-most, most);
        let pitch = pitch + turn(to_pitch.clamp(self.pitch[0], self.pitch[1]) - pitch);
        let rotation = DQuat::from_rotation_y(yaw + turn(round)) * DQuat::from_rotation_x(pitch);
        Pose { rotation, ..*here }
    }
}

impl State {
    /// The middle of an entity's body, solid or zone at a time; its origin if it has none.
    fn middle(&self, scene: &Scene, entity: EntityId, time: Time) -> DVec3 {
        let pose = self.pose(scene, entity, time);
        let bounds = scene.body_bounds(entity, &pose).or_else(|| scene.solid_bounds(entity, &pose));
        bounds.map_or(pose.position, |bounds| (bounds.min + bounds.max) / 2.0)
    }
}
