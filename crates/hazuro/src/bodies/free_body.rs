//! Things that nobody holds: they fall, bounce, slide, and come to rest.

use glam::DVec3;
use smallvec::SmallVec;

use crate::Time;
use crate::describe::EntityId;
use crate::geometry::ROUNDING;
use crate::state::Mode;

use super::contact::{CONTACT, Contact, SUPPORT};
use super::controller::{Controller, Course, Desire, Plan};
use super::tolerance::{AT_REST, PARTING};

/// What comes together slower than this does not bounce, in metres per second.
const SOFT: f64 = 0.5;

/// What slides slower than this rests, in metres per second.
const SLOW: f64 = 1e-3;

/// How long a thing slides the same way before it is looked at anew.
const GLANCE: Time = Time::from_nanos(250_000_000);

impl Controller<'_> {
    fn gravity(&self) -> DVec3 {
        let falls = self.around.mover.carry.gravity;
        if falls { DVec3::NEG_Y * self.around.scene().gravity() } else { DVec3::ZERO }
    }

    /// Flies on with a velocity in the world, off whatever it has hit.
    pub fn free_fall(mut self, velocity: DVec3) -> Plan {
        let around = self.around;
        let carry = around.mover.carry;
        let contacts = around.contacts(&self.pose, CONTACT);
        let moving = |contact: &Contact| around.velocity_of(contact.by, contact.point);
        let mut velocity = velocity;
        self.stance.stirred = true;
        if !contacts.is_empty() {
            self.stance.spin = 0.0;
        }
        for _ in 0..4 {
            for contact in &contacts {
                let comes = velocity - moving(contact);
                let into = comes.dot(contact.normal);
                if into >= -ROUNDING {
                    continue;
                }
                let keeps = if into < -SOFT { carry.bounce } else { 0.0 };
                velocity -= contact.normal * (into * (1.0 + keeps));
                if into < -SOFT {
                    // What it rubs along while it bounces slows it down.
                    let along = comes - contact.normal * into;
                    let rubs = carry.friction * (1.0 + keeps) * -into;
                    velocity -= along.clamp_length_max(rubs);
                }
            }
        }
        let Some(velocity) = self.deflected(velocity, &contacts) else {
            return self.resolve_stuck(&contacts);
        };
        let rests = |contact: &Contact| (velocity - moving(contact)).dot(contact.normal) <= PARTING;
        let ground = contacts.iter().find(|it| around.is_walkable(it.normal) && rests(it));
        if let Some(ground) = ground.filter(|_| carry.gravity).copied() {
            self.rides = ground.by;
            let velocity = velocity - moving(&ground);
            return self.slide(ground, &contacts, velocity);
        }
        let mut acceleration = self.gravity();
        let mut leans: SmallVec<[Option<EntityId>; 2]> = SmallVec::new();
        for _ in 0..4 {
            for contact in &contacts {
                let into = acceleration.dot(contact.normal);
                if rests(contact) && into < 0.0 {
                    acceleration -= contact.normal * into;
                    leans.push(contact.by);
                }
            }
        }
        leans.sort_unstable();
        leans.dedup();
        self.stance.leans = leans;
        self.rides = None;
        self.stance.mode = Mode::Falls;
        if velocity.length() < SLOW && acceleration.length() < AT_REST {
            return self.rest();
        }
        let mut until = self.around.now() + Time::from_secs(4.0);
        if self.stance.spin != 0.0 {
            // Less than half a turn at one go.
            let seconds = 2.5 / self.stance.spin.abs();
            until = until.min(self.around.now() + Time::from_secs(seconds));
        }
        self.planned(Course::Arc { velocity, acceleration, until })
    }

    /// Slides on something with a velocity seen from there, until friction stops it.
    fn slide(mut self, ground: Contact, contacts: &[Contact], velocity: DVec3) -> Plan {
        let around = self.around;
        let normal = ground.normal;
        let mut velocity = velocity - normal * velocity.dot(normal);
        let carried = self.carried();
        for contact in contacts.iter().filter(|contact| contact.gap <= CONTACT) {
            let moves = around.velocity_of(contact.by, contact.point) - carried;
            let into = (velocity - moves).dot(contact.normal);
            if into < 0.0 {
                velocity -= contact.normal * into;
            }
        }
        let speed = velocity.length();
        if speed < SLOW {
            self.stance.mode = Mode::Stands;
            return self.stay(ground, contacts);
        }
        let gravity = self.gravity();
        let weight = -gravity.dot(normal);
        let along = velocity / speed;
        let acceleration =
            gravity + normal * weight - along * (around.mover.carry.friction * weight);
        let slows = -acceleration.dot(along);
        let until = if slows > AT_REST { Time::from_secs(speed / slows) } else { GLANCE };
        let until = self.around.now() + until.min(GLANCE).max(Time::from_nanos(1000));
        self.stance.mode = Mode::Stands;
        self.stance.stirred = true;
        self.stance.leans = SmallVec::from_slice(&[ground.by]);
        self.planned(Course::Arc { velocity, acceleration, until })
    }

    /// Lies where it is, floating or wedged in.
    fn rest(mut self) -> Plan {
        self.stance.mode = Mode::Stands;
        let settled = std::mem::take(&mut self.stance.stirred);
        Plan { settled, ..self.planned(Course::Still) }
    }

    /// Lies on something, and is pushed along by what comes.
    fn stay(mut self, ground: Contact, contacts: &[Contact]) -> Plan {
        self.rides = ground.by;
        let settled = std::mem::take(&mut self.stance.stirred);
        let plan = self.walk(ground, contacts, Desire::default());
        Plan { settled, ..plan }
    }

    /// Lies or slides on what is below, or falls if there is nothing.
    pub fn lie(mut self) -> Plan {
        self.stance.mode = Mode::Stands;
        self.stance.jumps = false;
        if !self.around.mover.carry.gravity && self.own.length() < SLOW {
            let contacts = self.around.contacts(&self.pose, CONTACT);
            if !contacts
                .iter()
                .any(|it| self.around.velocity_of(it.by, it.point).dot(it.normal) > AT_REST)
            {
                return self.rest();
            }
        }
        let mut contacts = self.around.contacts(&self.pose, SUPPORT);
        let mut supports = self.supports(&contacts);
        if supports.is_empty() && self.settles(glam::DVec2::ZERO) {
            contacts = self.around.contacts(&self.pose, SUPPORT);
            supports = self.supports(&contacts);
        }
        if supports.is_empty() {
            let velocity = self.velocity();
            return self.free_fall(velocity);
        }
        let turn = self.rides.map(|carrier| self.around.pose_of(Some(carrier), self.around.now()));
        let velocity = turn.map_or(self.own, |pose| pose.rotation * self.own);
        let ground = self.choose(&supports, glam::DVec2::ZERO);
        self.rides = ground.by;
        if velocity.length() >= SLOW {
            return self.slide(ground, &contacts, velocity);
        }
        self.stay(ground, &contacts)
    }
}
