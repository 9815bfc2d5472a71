//! Sending things along their stops.

use crate::Time;
use crate::describe::{Blocked, EntityId, EventKind, Lead, Pace, RouteOrder, Then};
use crate::geometry::{Pose, ROUNDING};
use crate::motion::{Easing, Travel};
use crate::record::Refusal;
use crate::state::{Cause, Event, HeldUp, Progress, Scheduled, Trip};

use super::ActionContext;

/// What has come no farther than this since it was held up, in metres, is held up still: that is no event.
const NEWS: f64 = 1e-3;
/// How long what is held up waits before it tries again.
const RETRY: Time = Time::from_nanos(100_000_000);

impl ActionContext<'_> {
    /// Sets something going along its route, or back.
    pub fn route(&mut self, what: EntityId, order: RouteOrder) -> Result<(), Refusal> {
        let Some(route) = &self.scene.thing(what).route else {
            return Err(Refusal::Lacks("a route".into()));
        };
        let config = &route.config;
        let fresh = || Trip {
            stops: route.stops.to_vec(),
            at: 0,
            target: 0,
            forward: true,
            pace: config.pace,
            ease: config.ease,
            wait: Time::from_secs(config.wait),
            then: config.then,
            blocked: config.blocked,
            phase: Progress::Halted,
            leads: false,
            turn: 0,
            stretches: (0, 0),
            at_once: (Time::ZERO, 0),
        };
        if !self.state.motion.trips.contains_key(&what) {
            let mut trip = fresh();
            if self.is_at(what, trip.stops[0]) {
                trip.target = trip.after(0).unwrap_or(0);
            }
            self.state.motion.trips.insert(what, trip);
        }
        let Some(trip) = self.state.motion.trips.get_mut(&what) else { return Ok(()) };
        match order {
            RouteOrder::Run if trip.phase == Progress::Going => return Ok(()),
            RouteOrder::Run if trip.phase == Progress::Done => {
                trip.forward = !trip.forward;
                trip.target = trip.stop_beside(trip.at);
            }
            RouteOrder::Run => {}
            RouteOrder::Reverse => {
                trip.forward = !trip.forward;
                if matches!(trip.phase, Progress::Waiting | Progress::Done) {
                    trip.target = trip.stop_beside(trip.at);
                } else {
                    std::mem::swap(&mut trip.at, &mut trip.target);
                }
            }
        }
        self.set_off(what);
        Ok(())
    }

    /// Whether something is at a stop.
    fn is_at(&self, what: EntityId, stop: Option<EntityId>) -> bool {
        let (scene, now) = (self.scene, self.state.now);
        let here = self.state.local_pose(what, now);
        let there = match stop {
            None => scene.entity(what).pose(),
            Some(stop) => self.state.in_parent(scene, what, self.state.pose(scene, stop, now)),
        };
        here.position.distance(there.position) < ROUNDING && here.angle_to(&there) < ROUNDING
    }

    /// Takes somebody along some places.
    pub fn lead(&mut self, lead: &Lead<EntityId, f64>) {
        let trip = Trip {
            stops: lead.through.iter().map(|stop| Some(*stop)).collect(),
            at: 0,
            target: 0,
            forward: true,
            pace: lead.pace,
            ease: lead.ease,
            wait: Time::ZERO,
            then: Then::Stop,
            blocked: Blocked::Push,
            phase: Progress::Halted,
            leads: true,
            turn: 0,
            stretches: (0, 0),
            at_once: (Time::ZERO, 0),
        };
        self.release(lead.what);
        self.state.dismount(self.scene, lead.what);
        self.state.motion.trips.insert(lead.what, trip);
        self.set_off(lead.what);
    }

    /// Stops something on its way, or somebody on foot.
    pub fn halt(&mut self, what: EntityId) -> Result<(), Refusal> {
        if self.state.motion.aims.remove(&what).is_some()
            && !self.state.motion.trips.contains_key(&what)
        {
            // Its last turn ends where it is.
            let here = self.state.local_pose(what, self.state.now);
            self.state.put(what, here);
        } else if let Some(under_way) = self.stop_on_way(what) {
            if under_way {
                let here = self.state.local_pose(what, self.state.now);
                self.state.put(what, here);
            }
        } else {
            self.may_walk(what)?;
            self.state.order(what, None);
        }
        self.disturb(what, Cause::Move);
        Ok(())
    }

    /// Lets something go no further on its way until it is told to. Whether it was just going; none
    /// if it is on no way.
    pub fn stop_on_way(&mut self, what: EntityId) -> Option<bool> {
        self.state.motion.held_up.remove(&what);
        let trip = self.state.motion.trips.get_mut(&what)?;
        let under_way = trip.phase == Progress::Going;
        (trip.phase, trip.turn) = (Progress::Halted, 0);
        if trip.leads {
            self.state.motion.trips.remove(&what);
        }
        Some(under_way)
    }

    /// Sends something to its next stop.
    fn set_off(&mut self, what: EntityId) {
        let (scene, now) = (self.scene, self.state.now);
        self.state.motion.held_up.remove(&what);
        let Some(trip) = self.state.motion.trips.get_mut(&what) else { return };
        if !trip.begins_stretch(now) {
            (trip.phase, trip.turn) = (Progress::Halted, 0);
            self.after.endless.push(what);
            return;
        }
        let trip = trip.clone();
        let from = self.state.local_pose(what, now);
        let local = |in_context: &Self, stop: usize| match trip.stops[stop] {
            None => scene.entity(what).pose(),
            Some(stop) => {
                let place = in_context.state.pose(scene, stop, now);
                let place = in_context.state.in_parent(scene, what, place);
                if trip.leads { Pose { rotation: from.rotation, ..place } } else { place }
            }
        };
        let (to, before) = (local(self, trip.target), local(self, trip.at));
        let span = |one: &Pose, other: &Pose| {
            let way = one.position.distance(other.position);
            if way > ROUNDING { way } else { one.angle_to(other) }
        };
        let left = span(&from, &to);
        let seconds = match trip.pace {
            Pace::Rate(speed) => left / speed,
            // As much of the time as of the stretch is left.
            Pace::Over(seconds) => {
                let whole = span(&before, &to);
                seconds * if whole > ROUNDING { (left / whole).min(1.0) } else { 1.0 }
            }
        };
        let nothing = left < ROUNDING;
        let end = if nothing { now } else { now + Time::from_secs(seconds) };
        let turn = self.state.next_number();
        if end > now {
            self.state.send(what, Travel::new(now, end, from, to, trip.ease));
        } else if !nothing {
            self.state.put(what, to);
        }
        if let Some(trip) = self.state.motion.trips.get_mut(&what) {
            (trip.phase, trip.turn) = (Progress::Going, turn);
        }
        self.state.put_off(end, Scheduled::Trip { what, turn });
        self.disturb(what, Cause::Move);
    }

    /// Something has come to a stop, or has waited there.
    pub fn trip_over(&mut self, what: EntityId, turn: u64) {
        let Some(trip) = self.state.motion.trips.get_mut(&what).filter(|trip| trip.turn == turn)
        else {
            return;
        };
        if trip.phase == Progress::Waiting {
            self.set_off(what);
            return;
        }
        trip.at = trip.target;
        let at = trip.at;
        let (stop, wait, next) = (trip.stops[at], trip.wait, trip.after(at));
        let leads = trip.leads;
        let event = Event { on: Some(what), who: stop, ..self.bare(EventKind::Reach) };
        self.send(event);
        let Some(trip) = self.state.motion.trips.get_mut(&what) else { return };
        match next {
            None if leads => drop(self.state.motion.trips.remove(&what)),
            None => trip.phase = Progress::Done,
            Some(next) if wait > Time::ZERO => {
                (trip.phase, trip.target) = (Progress::Waiting, next);
                let turn = self.state.next_number();
                if let Some(trip) = self.state.motion.trips.get_mut(&what) {
                    trip.turn = turn;
                }
                self.state.put_off(self.state.now + wait, Scheduled::Trip { what, turn });
            }
            Some(next) => {
                trip.target = next;
                self.set_off(what);
            }
        }
    }

    /// Stops something on its way since a body is in its way, and says so if that is news.
    pub fn hold_up(&mut self, what: EntityId, by: EntityId) {
        let now = self.state.now;
        let Some(travel) = self.state.cast.travel(what) else { return };
        let (from, to, left) = (*travel.from(), *travel.to(), travel.end() - now);
        let here = self.state.local_pose(what, now);
        let known = self.state.motion.held_up.get(&what).cloned();
        let moved = from.position.distance(here.position) > NEWS;
        if known.is_none() || moved {
            let event = Event { on: Some(what), who: Some(by), ..self.bare(EventKind::Blocked) };
            self.send(event);
        }
        let policy = self.state.motion.trips.get(&what).map(|trip| trip.blocked);
        if policy == Some(Blocked::Back) {
            let _ = self.route(what, RouteOrder::Reverse);
            return;
        }
        self.state.put(what, here);
        let number = self.state.next_number();
        let held = HeldUp { to, left, number };
        self.state.motion.held_up.insert(what, held);
        self.state.put_off(now + RETRY, Scheduled::Retry { what, number });
        self.disturb(what, Cause::Move);
    }

    /// What was held up tries to go on.
    pub fn retry(&mut self, what: EntityId, number: u64) {
        let now = self.state.now;
        let Some(held) = self.state.motion.held_up.get(&what).filter(|held| held.number == number)
        else {
            return;
        };
        let (to, end) = (held.to, now + held.left);
        let here = self.state.local_pose(what, now);
        self.state.send(what, Travel::new(now, end, here, to, Easing::Linear));
        if self.state.motion.trips.contains_key(&what) {
            let turn = self.state.next_number();
            if let Some(trip) = self.state.motion.trips.get_mut(&what) {
                trip.turn = turn;
            }
            self.state.put_off(end, Scheduled::Trip { what, turn });
        }
        self.disturb(what, Cause::Move);
    }

    /// Something is sent elsewhere otherwise: it is on no way any more, and in nobody's hands.
    pub fn release(&mut self, what: EntityId) {
        self.state.motion.trips.remove(&what);
        self.state.motion.held_up.remove(&what);
        if let Some(holder) = self.state.holder(what) {
            self.let_go(what, holder, None);
        }
    }

    pub(super) fn bare(&self, kind: EventKind) -> Event {
        let Event { time, tick, .. } = *self.event;
        Event::bare(kind, time, tick)
    }
}
