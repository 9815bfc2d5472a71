//! Letting bodies that move by themselves decide when it is time for that.

use glam::DQuat;

use crate::Time;
use crate::bodies::{Course, Plan, ahead, decide, hand, pressing};
use crate::describe::{Detector, EntityId, EventKind};
use crate::geometry::Pose;
use crate::model::{Mover, Scene};
use crate::motion::{Easing, Travel};
use crate::react::hold;
use crate::record::Happening;
use crate::state::{Cause, Event, Mode, State};
use crate::why::Witness;

use super::Play;
use super::watch::Watch;

/// How often a body may decide in one instant before it is held still.
const MOST_DECISIONS: u32 = 24;

/// What is held nearer than this to where it is held, in metres, stays there.
const HELD_STILL: f64 = 1e-9;

/// How long a walker that comes to no decision is held.
const HELD: Time = Time::from_nanos(10_000_000);

impl Watch {
    /// When somebody decides next.
    pub fn next_decision(&self) -> Option<Time> {
        self.decisions.first().map(|(time, _)| *time)
    }

    /// Takes who decides next.
    pub fn take_decision(&mut self) -> Option<EntityId> {
        let (_, who) = self.decisions.pop_first()?;
        self.decision_of.remove(&who);
        Some(who)
    }

    /// Why somebody who decides now is detected anew.
    fn reason(&self, who: EntityId, now: Time) -> Cause {
        match self.other_reason(who, now) {
            Some(cause) => cause,
            None if now == Time::ZERO => Cause::Appear,
            None => Cause::Move,
        }
    }

    /// What else than moving has happened to an entity at this instant.
    pub(super) fn other_reason(&self, who: EntityId, now: Time) -> Option<Cause> {
        let reason = self.reasons.get(&who).filter(|(time, _)| *time == now);
        // Whatever is told at the very start, it was there before.
        let there = (now == Time::ZERO).then_some(Cause::Appear);
        reason.map(|(_, cause)| *cause).or(there)
    }

    fn plan_decision(&mut self, who: EntityId, time: Option<Time>) {
        let before = match time {
            Some(time) => self.decision_of.insert(who, time),
            None => self.decision_of.remove(&who),
        };
        if let Some(before) = before {
            self.decisions.remove(&(before, who));
        }
        if let Some(time) = time {
            self.decisions.insert((time, who));
        }
    }

    /// Something has begun to move otherwise, or has come or gone: the walkers near it look around.
    pub(super) fn wake_neighbours(&mut self, scene: &Scene, state: &State, entity: EntityId) {
        let thing = scene.thing(entity);
        if thing.mover.is_some() {
            self.dirty_bodies.insert(entity);
            // Whoever holds it, or has just let go of it, gets about otherwise.
            let stance = state.live(entity).stance.as_deref();
            self.dirty_bodies.extend(stance.and_then(|stance| stance.holder));
        }
        let body = thing.body.as_ref().filter(|body| body.blocks);
        if thing.solid.is_none() && body.is_none() {
            return;
        }
        let until = state.horizon(scene, entity);
        let until = if until < Time::MAX { until } else { state.now };
        let path = state.path(scene, entity, state.now, until);
        let bounds = [
            thing.solid.as_ref().map(|solid| solid.bounds(&path)),
            body.map(|body| body.bounds(&path)),
        ];
        for bounds in bounds.into_iter().flatten() {
            self.indices.bodies.meeting(&bounds.grown(Mover::REACH), u64::MAX, |face| {
                if face.entity != entity && scene.mover(face.entity).is_some() {
                    // What is held decides nothing: whoever holds it does.
                    self.dirty_bodies.insert(state.holder(face.entity).unwrap_or(face.entity));
                }
            });
        }
        self.dirty_bodies.extend(state.riders_on(entity));
    }
}

impl Play {
    /// Lets somebody decide, if there is anything to decide, and works out when that is so again.
    pub(super) fn settle<W: Witness>(&mut self, who: EntityId, witness: &mut W) {
        self.runtime.watch.plan_decision(who, None);
        if self.is_held_now(who) {
            // Two that wake one another, while something presses on both, would never end this instant.
            self.stop_pressing(who, witness);
            self.plan_after_hold(who);
            self.runtime.watch.dirty_bodies.remove(&who);
            return;
        }
        self.steady(who, witness);
        for round in 0..=MOST_DECISIONS {
            let now = self.state.now;
            match ahead(self.space(), who) {
                Some(ahead) if ahead.decides && ahead.time <= now => {
                    if round == MOST_DECISIONS {
                        self.hold(who, witness);
                    } else if let Some(plan) = decide(self.space(), who) {
                        self.carry_out(who, plan, witness);
                    }
                }
                next => {
                    let next = next.map(|ahead| ahead.time.max(now + Time::from_nanos(1)));
                    self.runtime.watch.plan_decision(who, next);
                    break;
                }
            }
        }
        self.runtime.watch.dirty_bodies.remove(&who);
    }

    /// Holds what somebody holds where there is room for it, if they were turned, put elsewhere or have just
    /// taken it; lets go of it where there is none.
    fn steady<W: Witness>(&mut self, who: EntityId, witness: &mut W) {
        let (scene, state) = (&*self.scene, &self.state);
        let undecided = state.live(who).stance.as_ref().is_some_and(|stance| stance.undecided);
        let held = if undecided { state.held_by(who).next() } else { None };
        let Some(what) = held else { return };
        let now = state.pose(scene, what, state.now);
        let usual = state.pose(scene, who, state.now).point(hold(scene, what, who));
        match hand(self.space(), (what, Pose { position: usual, ..now }), who) {
            Some(place) if place.position.distance(now.position) > HELD_STILL => {
                self.in_context(witness, |it| it.hold_at(what, place));
            }
            Some(_) => {}
            None => self.in_context(witness, |it| it.let_go(what, who, None)),
        }
    }

    /// Holds a walker that comes to no decision for a moment. Nor does what comes towards them go on.
    fn hold<W: Witness>(&mut self, who: EntityId, witness: &mut W) {
        self.stop_pressing(who, witness);
        let (now, here) = (self.state.now, self.state.local_pose(who, self.state.now));
        self.state.cast.rest(who, here);
        if let Some(stance) = &mut self.state.live_mut(who).stance {
            (stance.mode, stance.wait) = (Mode::Held, Some(now + HELD));
            stance.undecided = false;
        }
        self.runtime.watch.disturb(&self.scene, &self.state, who, Cause::Move);
        self.plan_after_hold(who);
    }

    /// Whether somebody has come to no decision at this very instant, and was told nothing since.
    fn is_held_now(&self, who: EntityId) -> bool {
        self.state.live(who).stance.as_ref().is_some_and(|stance| {
            let until = Some(self.state.now + HELD);
            stance.mode == Mode::Held && stance.wait == until && !stance.undecided
        })
    }

    /// A walker that is held for a moment decides after it, unless something gets there before.
    fn plan_after_hold(&mut self, who: EntityId) {
        let now = self.state.now;
        let next = ahead(self.space(), who).filter(|ahead| ahead.time > now);
        let next = next.map_or(now + HELD, |ahead| ahead.time.min(now + HELD));
        self.runtime.watch.plan_decision(who, Some(next));
    }

    fn carry_out<W: Witness>(&mut self, who: EntityId, plan: Plan, witness: &mut W) {
        let origin = self.state.mover(&self.scene, who);
        self.because(origin, |play| play.carry_it_out(who, plan, witness));
    }

    fn carry_it_out<W: Witness>(&mut self, who: EntityId, plan: Plan, witness: &mut W) {
        let Plan { pose, rides, course, stance, stops, halt, settled } = plan;
        let now = self.state.now;
        let (scene, state) = (&*self.scene, &mut self.state);
        let moves = |state: &State| state.cast.end(who).is_some();
        let before = (state.live(who).rides, moves(state), state.cast.start(who));
        state.set_rides(who, rides);
        let local = state.in_parent(scene, who, pose);
        let unturn = rides.map(|carrier| state.pose(scene, carrier, now).rotation.conjugate());
        match course {
            Course::Still => {
                state.cast.rest(who, local);
            }
            Course::Straight { way, until } => {
                let way = unturn.map_or(way, |unturn| unturn * way);
                let to = Pose { position: local.position + way, ..local };
                state.cast.go(who, Travel::new(now, until, local, to, Easing::Linear));
            }
            Course::Arc { velocity, acceleration, until } => {
                let [velocity, acceleration] = [velocity, acceleration]
                    .map(|along| unturn.map_or(along, |unturn| unturn * along));
                let spin = DQuat::from_rotation_y(stance.spin * (until - now).secs());
                let turned =
                    if stance.spin == 0.0 { local.rotation } else { spin * local.rotation };
                let arc = Travel::arc(now, until, local, turned, velocity, acceleration);
                state.cast.go(who, arc);
            }
        }
        let stands = stance.mode == Mode::Stands;
        let fell = state.live(who).stance.as_ref().is_some_and(|was| was.mode == Mode::Falls);
        let landed = fell && stands;
        if let Some(own) = &mut state.live_mut(who).stance {
            **own = stance;
        }
        let after = (rides, moves(state), local);
        if before != after || after.1 {
            let cause = self.runtime.watch.reason(who, now);
            self.runtime.watch.disturb(&self.scene, &self.state, who, cause);
        }
        if landed {
            self.runtime.watch.rounds.ask_now(who, Detector::Footing, now);
        }
        if let Some(halt) = halt {
            let (by, goal) = (halt.by, halt.goal);
            self.record(Happening::Halted { time: now, who, by, goal });
        }
        if settled {
            let holder = self.state.live(who).stance.as_ref().and_then(|stance| stance.holder);
            let event = Event { on: Some(who), who: holder, ..self.event(EventKind::Settle) };
            let event = self.located(event, None);
            self.dispatch(&event, witness);
            self.in_context(witness, |it| it.is_at_rest(who));
        }
        for what in stops {
            self.stop_moving(what, who, witness);
            self.state.decide_anew(who);
        }
    }

    /// Stops what touches somebody and moves towards them.
    fn stop_pressing<W: Witness>(&mut self, who: EntityId, witness: &mut W) {
        for what in pressing(self.space(), who) {
            self.stop_moving(what, who, witness);
        }
    }

    /// Stops something that moves where it is, since a body is in its way.
    fn stop_moving<W: Witness>(&mut self, what: EntityId, by: EntityId, witness: &mut W) {
        let now = self.state.now;
        let carriers: Vec<EntityId> = self.state.carriers(&self.scene, what).collect();
        for mover in carriers {
            let moves = self.state.cast.end(mover).is_some_and(|end| end > now);
            if moves && self.scene.mover(mover).is_none() {
                self.in_context(witness, |it| it.hold_up(mover, by));
            }
        }
    }
}
