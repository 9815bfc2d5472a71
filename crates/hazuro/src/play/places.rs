//! Actions that depend on what is around: teleports, letting go, throwing.

use glam::DVec3;

use crate::bodies::{hand, has_room, on_ground, places_beside};
use crate::describe::most::MAX_COORDINATE;
use crate::describe::{Choose, Detector, EntityId, EventKind, Teleport, Throw};
use crate::geometry::Pose;
use crate::react::{Release, hold};
use crate::record::Refusal;
use crate::state::{Cause, Event, Mode};

use super::Act;

impl Act<'_> {
    /// Puts somebody elsewhere at once.
    pub(super) fn go_elsewhere(&mut self, teleport: &Teleport<EntityId>) -> Result<(), Refusal> {
        let what = teleport.what;
        if self.has_just_arrived(what) {
            return Err(Refusal::JustArrived);
        }
        let now = self.state.now;
        let before = self.state.pose(self.scene, what, now);
        let mut refusal = Refusal::NoRoom;
        for to in self.destinations(teleport, before) {
            let pose = self.arrival(teleport, to, before);
            if pose.position.abs().max_element() > MAX_COORDINATE {
                refusal = Refusal::TooFar;
                continue;
            }
            match self.fitting(teleport, pose) {
                Ok(pose) => {
                    let velocity = teleport.keep_speed.then(|| self.speed_of(what, before, pose));
                    self.moved(what, to, pose, velocity.flatten());
                    return Ok(());
                }
                Err(why) => refusal = why,
            }
        }
        Err(refusal)
    }

    /// Whether a subject is still in the zone of the event since it was put there.
    fn has_just_arrived(&self, what: EntityId) -> bool {
        self.event.who == Some(what)
            && self.event.kind != EventKind::Exit
            && self.event.on.is_some_and(|zone| {
                let stay = self.state.stay(zone, Detector::Zone, what);
                stay.is_some_and(|stay| stay.cause == Cause::Teleport)
            })
    }

    /// Where it may lead, the best choice first.
    fn destinations(&mut self, teleport: &Teleport<EntityId>, before: Pose) -> Vec<EntityId> {
        let mut to = teleport.to.clone();
        match teleport.choose {
            Choose::First => {}
            Choose::InTurn => {
                let turn = self.state.runs.turns.entry(to.clone()).or_default();
                let first = (*turn % to.len().max(1) as u64) as usize;
                *turn += 1;
                to.rotate_left(first);
            }
            Choose::Random => {
                // Each order is as likely. Source: R. Durstenfeld, "Random permutation", 1964.
                for last in (1..to.len()).rev() {
                    let other = (self.state.chance.next() * (last + 1) as f64) as usize;
                    to.swap(last, other.min(last));
                }
            }
            Choose::Nearest => {
                let far = |to: &EntityId| {
                    let place = self.state.pose(self.scene, *to, self.state.now).position;
                    place.distance(before.position)
                };
                to.sort_by(|one, other| far(one).total_cmp(&far(other)));
            }
        }
        to
    }

    /// The pose at a destination.
    fn arrival(&self, teleport: &Teleport<EntityId>, to: EntityId, before: Pose) -> Pose {
        let now = self.state.now;
        let mut pose = self.state.pose(self.scene, to, now);
        if let Some(from) = self.event.on.filter(|_| teleport.keep_offset) {
            let from = self.state.pose(self.scene, from, now);
            pose = pose * (from.inverse() * before);
        }
        if teleport.keep_facing {
            pose.rotation = before.rotation;
        }
        pose
    }

    /// The pose, or one beside it, at which there is room and something to stand on, if that is
    /// asked for.
    fn fitting(&mut self, teleport: &Teleport<EntityId>, pose: Pose) -> Result<Pose, Refusal> {
        let Teleport { what, free, stand, .. } = *teleport;
        if !free && !stand {
            return Ok(pose);
        }
        let scene = self.scene.clone();
        let space = self.space();
        let fits = |pose: Pose| {
            let pose =
                if stand { on_ground(space, what, pose).ok_or(Refusal::NoGround)? } else { pose };
            if !free || has_room(space, what, &pose) { Ok(pose) } else { Err(Refusal::NoRoom) }
        };
        let mut refusal = match fits(pose) {
            Ok(pose) => return Ok(pose),
            Err(why) => why,
        };
        for other in places_beside(&scene, what, pose) {
            match fits(other) {
                Ok(pose) => return Ok(pose),
                Err(why) if refusal == Refusal::NoGround => refusal = why,
                Err(_) => {}
            }
        }
        Err(refusal)
    }

    /// How fast it moves by itself, turned as it will be.
    fn speed_of(&self, what: EntityId, before: Pose, after: Pose) -> Option<DVec3> {
        let live = self.state.live(what);
        let stance = live.stance.as_ref()?;
        let falls = matches!(stance.mode, Mode::Falls | Mode::Stands);
        let travel = self.state.cast.travel(what).filter(|_| falls)?;
        let turn = after.rotation * before.rotation.conjugate();
        Some(turn * travel.velocity(self.state.now))
    }

    fn moved(&mut self, what: EntityId, to: EntityId, pose: Pose, velocity: Option<DVec3>) {
        let gate = self.event.on.unwrap_or(to);
        let Event { time, tick, .. } = *self.event;
        let tell = |kind, on| {
            let (on, who) = (Some(on), Some(what));
            Event { on, who, cause: Some(Cause::Teleport), ..Event::bare(kind, time, tick) }
        };
        let events = [tell(EventKind::Depart, gate), tell(EventKind::Arrive, to)];
        self.in_context().put_in_world(what, pose, velocity);
        let origin = self.state.causes.now;
        self.runtime.after.events.extend(events.map(|event| (origin, event)));
    }

    /// Puts a thing into somebody's hands, if there is room for it there.
    pub(super) fn take_in_hand(&mut self, what: EntityId, to: EntityId) -> Result<(), Refusal> {
        self.state.may_grab(self.scene, what, to)?;
        let (scene, now) = (&**self.scene, self.state.now);
        let holder = self.state.pose(scene, to, now);
        let held = Pose { position: holder.point(hold(scene, what, to)), ..holder };
        if scene.mover(to).is_some() && hand(self.space(), (what, held), to).is_none() {
            return Err(Refusal::NoRoom);
        }
        self.in_context().grab(what, to)
    }

    /// Lets go of a thing, or of what somebody holds; throws it, if it is thrown.
    pub(super) fn let_go(
        &mut self,
        what: EntityId,
        throw: Option<&Throw<EntityId, f64>>,
    ) -> Result<(), Refusal> {
        let held: Vec<(EntityId, EntityId)> = match self.state.holder(what) {
            Some(holder) => vec![(what, holder)],
            None => self.state.held_by(what).map(|thing| (thing, what)).collect(),
        };
        if held.is_empty() {
            return Err(Refusal::NotHeld);
        }
        for (thing, holder) in held {
            let held = self.state.pose(self.scene, thing, self.state.now);
            let pose = hand(self.space(), (thing, held), holder).ok_or(Refusal::NoRoom)?;
            let facing = self.state.pose(self.scene, holder, self.state.now).rotation;
            let way = throw.map_or(DVec3::ZERO, |throw| DVec3::from(throw.velocity));
            let velocity = self.state.velocity(self.scene, holder) + facing * way;
            let spin = throw.map_or(0.0, |throw| throw.spin);
            let release = Release { pose, velocity, spin };
            self.in_context().let_go(thing, holder, Some(release));
        }
        Ok(())
    }
}
