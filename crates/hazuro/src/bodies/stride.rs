//! Going up and down steps.

use glam::{DVec2, DVec3};
use smallvec::SmallVec;

use crate::Time;
use crate::geometry::Pose;

use super::contact::Contact;
use super::controller::{Controller, Course, Plan};
use super::tolerance::AT_REST;

/// How far over a step to set the feet, as shares of one's width: the first that will do.
const OVER: [f64; 3] = [0.25, 0.5, 1.0];

/// How high above the step the feet are lifted, in metres.
const CLEAR: f64 = 1e-4;

/// How fast one goes at least up and down steps, in metres per second.
const LEAST_SPEED: f64 = 1.0;

impl Controller<'_> {
    /// Goes up a step that is in the way, if it is one.
    pub fn step_up(&mut self, wanted: DVec2) -> Option<Plan> {
        let (around, start) = (self.around, self.pose.position);
        let at = |position: DVec3| Pose { position, ..self.pose };
        let step = around.step();
        let ceiling = around.in_way(self.pose, start + DVec3::Y * step);
        let lift = ceiling.map_or(step, |hit| hit.distance - CLEAR);
        if lift <= CLEAR {
            return None;
        }
        for share in OVER {
            let over = wanted.normalize_or_zero() * (around.mover.width * share);
            let over = DVec3::new(over.x, 0.0, over.y);
            let lifted = start + DVec3::Y * lift;
            if around.in_way(at(lifted), lifted + over).is_some() {
                return None;
            }
            let Some((depth, ..)) = around.drop(at(lifted + over), lift) else { continue };
            let gain = lift - depth;
            if gain < CLEAR {
                continue;
            }
            let low = start + DVec3::Y * (gain + CLEAR).min(lift);
            let free = around.in_way(at(low), low + over).is_none();
            let up = if free { low } else { lifted };
            let down = start + over + DVec3::Y * gain;
            return self.stride(&[up, up + over, down]);
        }
        None
    }

    /// Goes down a step where the ground ends, if there is one.
    pub fn step_down(&mut self, wanted: DVec2) -> Option<Plan> {
        if wanted == DVec2::ZERO {
            return None;
        }
        let (around, start) = (self.around, self.pose.position);
        for share in OVER {
            let over = wanted.normalize_or_zero() * (around.mover.width * share);
            let over = start + DVec3::new(over.x, 0.0, over.y);
            if around.in_way(self.pose, over).is_some() {
                return None;
            }
            let there = Pose { position: over, ..self.pose };
            if let Some((depth, ..)) = around.drop(there, around.step()) {
                return self.stride(&[over, over - DVec3::Y * depth]);
            }
        }
        None
    }

    fn stride(&mut self, points: &[DVec3]) -> Option<Plan> {
        let frame = self.carrier().inverse();
        self.stance.stride = points.iter().rev().map(|point| frame.point(*point)).collect();
        self.stride_on()
    }

    fn carrier(&self) -> Pose {
        let pose = |by| self.around.pose_of(Some(by), self.around.now());
        self.rides.map_or(Pose::IDENTITY, pose)
    }

    /// Goes on over a step; none if it is over, or something has got in the way.
    pub fn stride_on(&mut self) -> Option<Plan> {
        let carrier = self.carrier();
        while let Some(next) = self.stance.stride.last() {
            let way = carrier.point(*next) - self.pose.position;
            let length = way.length();
            if length < AT_REST {
                self.stance.stride.pop();
                continue;
            }
            let (state, who) = (self.around.state(), self.around.who);
            let speed = state.walking_speed(self.around.scene(), who).unwrap_or_default();
            let speed = speed.max(LEAST_SPEED);
            let velocity = self.carried() + way * (speed / length);
            let contacts = self.around.contacts(&self.pose, super::contact::CONTACT);
            let into = |contact: &Contact| {
                let moves = self.around.velocity_of(contact.by, contact.point);
                (velocity - moves).dot(contact.normal) < -AT_REST * speed
            };
            if contacts.iter().any(into) {
                break;
            }
            let seconds = length / speed;
            let until = self.around.now() + Time::from_secs(seconds);
            self.stance.leans = SmallVec::new();
            return Some(self.planned(Course::Straight { way, until }));
        }
        self.stance.stride.clear();
        None
    }
}
