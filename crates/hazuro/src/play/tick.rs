//! The tick: what happens between two moments, in the order in which it happens.

use crate::Time;
use crate::describe::{Detector, EventKind};
use crate::react::face;
use crate::record::{By, Happening, Problem, Stopped};
use crate::state::{Cause, Event, Input, Order, Origin, Scheduled, Target};
use crate::why::Witness;

use super::ending::stop;
use super::{Play, intents};

/// What can be next at one instant, in the order in which it happens.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
enum Phase {
    /// A body comes to where it must decide how it goes on.
    Decide,
    /// Paths are looked along as far as they have not been.
    Look,
    /// Something planned from outside is due.
    Input,
    /// Somebody begins or ceases to be detected, as was seen ahead.
    Cross,
    /// Detectors that are asked in rounds are asked.
    Ask,
    /// What was put off is due: reactions that waited, effects, ways.
    PutOff,
}

impl Play {
    /// Plays until `until`, or only through the first moment at which something happens.
    pub(super) fn run<W: Witness>(&mut self, until: Time, only_one: bool, witness: &mut W) {
        self.runtime.entries.clear();
        self.runtime.watch.hearing.clear();
        if self.state.now >= until {
            return;
        }
        if !self.state.started {
            self.state.started = true;
            self.dispatch(&Event::bare(EventKind::Start, Time::ZERO, 0), witness);
            self.begin_ways(witness);
        }
        self.take_told(witness);
        while let Some((number, input)) = self.state.schedule.take_at_once() {
            self.because(Origin::Input(number), |play| play.apply_input(input, witness));
            self.settle_all(witness);
        }
        let mut end = until;
        loop {
            if only_one && let Some(first) = self.runtime.entries.first() {
                end = end.min(first.time() + Time::from_nanos(1));
            }
            if !self.process_next(end, witness) {
                break;
            }
        }
        self.state.now = self.state.now.max(end);
        self.runtime.watch.refresh(&self.scene, &self.state);
    }

    /// As if what has been done had been planned for now: whom it concerns decides before anything else.
    pub(super) fn settle_all<W: Witness>(&mut self, witness: &mut W) {
        while let Some(who) = self.runtime.watch.dirty_bodies.pop_first() {
            self.settle(who, witness);
        }
    }

    /// Sets going what goes by itself from the start.
    fn begin_ways<W: Witness>(&mut self, witness: &mut W) {
        let scene = self.scene.clone();
        for entity in scene.ids().filter(|entity| scene.thing(*entity).goes_by_itself()) {
            if !self.state.live(entity).removed {
                self.in_context(witness, |it| it.set_going(entity));
            }
        }
    }

    /// Lets the next thing before `end` happen. `false` if there is none.
    fn process_next<W: Witness>(&mut self, end: Time, witness: &mut W) -> bool {
        if let Some(who) = self.runtime.watch.dirty_bodies.pop_first() {
            self.settle(who, witness);
            return true;
        }
        let Some((time, phase)) = self.next_phase().filter(|(time, _)| *time < end) else {
            self.hear_until(end, witness);
            return false;
        };
        self.hear_until(end.min(time + Time::from_nanos(1)), witness);
        match phase {
            Phase::Cross => self.cross(witness),
            Phase::Decide => {
                self.state.now = time;
                if let Some(who) = self.runtime.watch.take_decision() {
                    self.settle(who, witness);
                }
            }
            Phase::Look => {
                self.state.now = time;
                self.runtime.watch.wake(&self.scene, &self.state);
            }
            Phase::Ask => {
                self.state.now = time;
                self.ask(witness);
            }
            Phase::Input | Phase::PutOff => {
                if let Some((due, origin, item)) = self.state.schedule.take() {
                    self.state.now = due.time;
                    self.because(origin, |play| play.run_due(item, witness));
                }
            }
        }
        true
    }

    /// When the next thing happens, and what it is.
    fn next_phase(&mut self) -> Option<(Time, Phase)> {
        let due = self.state.schedule.next();
        let watch = &mut self.runtime.watch;
        let next = [
            watch.next_decision().map(|time| (time, Phase::Decide)),
            watch.next_wake().map(|time| (time, Phase::Look)),
            due.map(|due| {
                (due.time, if due.after_detection { Phase::PutOff } else { Phase::Input })
            }),
            watch.next_crossing(&self.scene).map(|time| (time, Phase::Cross)),
            watch.rounds.next().map(|time| (time, Phase::Ask)),
        ];
        next.into_iter().flatten().min()
    }

    /// Lets a witness hear what nothing changes before `until`.
    fn hear_until<W: Witness>(&mut self, until: Time, witness: &mut W) {
        if W::LISTENS {
            self.runtime.watch.hear(&self.scene, &self.state, until, witness);
        }
    }

    /// A subject begins or ceases to be detected, as was seen ahead.
    fn cross<W: Witness>(&mut self, witness: &mut W) {
        if let Some((time, change)) = self.runtime.watch.take(&self.scene) {
            self.state.now = time;
            self.report(&change, witness);
        }
    }

    /// Something planned is due.
    fn run_due<W: Witness>(&mut self, item: Scheduled, witness: &mut W) {
        match item {
            Scheduled::Input(input) => self.apply_input(input, witness),
            Scheduled::Poll { run, round } => {
                self.round(run, round, witness);
                self.see_to_effects(witness);
            }
            Scheduled::Resume { run, thread } => {
                self.resume(run, thread, witness);
                self.see_to_effects(witness);
            }
            Scheduled::EffectEnd { on, number, until } => {
                self.in_context(witness, |it| it.effect_over(on, number, until));
            }
            Scheduled::StatLimit { entity, stat, turn } => {
                self.in_context(witness, |it| it.reach_brim(entity, stat, turn));
            }
            Scheduled::Respawn { pickup, number } => {
                self.in_context(witness, |it| it.respawn(pickup, number));
            }
            Scheduled::Trip { what, turn } => {
                self.in_context(witness, |it| it.trip_over(what, turn));
            }
            Scheduled::Retry { what, number } => {
                self.in_context(witness, |it| it.retry(what, number));
            }
            Scheduled::Aim { what, number } => {
                self.in_context(witness, |it| it.aim_on(what, number));
            }
            Scheduled::Disown { what, number } => {
                self.in_context(witness, |it| it.kept_enough(what, number));
            }
            Scheduled::Spawner(spawner) => {
                self.in_context(witness, |it| it.look_after(spawner, false));
            }
            Scheduled::Held { player, since } => self.held(player, since, witness),
            Scheduled::IntervalTick { zone, subject, stay, number } => {
                let Some(found) = self
                    .state
                    .stay(zone, Detector::Zone, subject)
                    .filter(|found| found.number == stay)
                else {
                    return;
                };
                let since = found.since;
                let spec = self.scene.thing(zone).zone.as_ref();
                if let Some(every) = spec.and_then(|zone| zone.inside_every) {
                    // Counted from the start of the stay, so that rounding never adds up.
                    let next =
                        since + Time::from_nanos(every.nanos().saturating_mul(number as i64 + 1));
                    let number = number + 1;
                    self.state
                        .put_off(next, Scheduled::IntervalTick { zone, subject, stay, number });
                }
                let event =
                    Event { on: Some(zone), who: Some(subject), ..self.event(EventKind::Inside) };
                let event = self.located(event, None);
                self.dispatch(&event, witness);
            }
        }
    }

    /// Something is done to the play from outside.
    pub(super) fn apply_input<W: Witness>(&mut self, input: Input, witness: &mut W) {
        if let Some(who) = input.moves().filter(|who| self.state.is_gone(&self.scene, *who)) {
            return self.problem(By::Host, None, Problem::NotInPlay(who));
        }
        let (scene, state) = (&*self.scene, &mut self.state);
        let (who, cause) = match input {
            Input::Walk { who, to } => {
                if !intents::walk(scene, state, who, Order::new([to], None)) {
                    return;
                }
                (who, Cause::Move)
            }
            Input::WalkStraight { who, to } => {
                let order = Order { straight: true, ..Order::new([to], None) };
                if !intents::walk(scene, state, who, order) {
                    return;
                }
                (who, Cause::Move)
            }
            Input::WalkAlong { who, through } => {
                if !intents::walk(scene, state, who, Order::new(through, None)) {
                    return;
                }
                (who, Cause::Move)
            }
            Input::Follow { who, whom, near } => {
                let order = Order::new([Target::Entity(whom)], Some(near));
                if !intents::walk(scene, state, who, order) {
                    return;
                }
                (who, Cause::Move)
            }
            Input::Drive { who, to, until } => {
                intents::drive(scene, state, who, to, until);
                (who, Cause::Move)
            }
            Input::Place { who, at } => {
                intents::place(scene, state, who, at);
                (who, Cause::Teleport)
            }
            Input::Face { who, to } => {
                face(scene, state, who, to);
                (who, Cause::Move)
            }
            Input::Remove(who) => {
                let (time, what) = (self.state.now, who);
                return self.in_context(witness, |it| {
                    it.tell_of(Happening::Removed { time, what });
                    it.remove(who);
                });
            }
            Input::Add { what, at } => {
                if !self.state.live(what).removed {
                    return self.problem(By::Host, None, Problem::InPlay(what));
                }
                let time = self.state.now;
                return self.in_context(witness, |it| {
                    it.tell_of(Happening::Added { time, what });
                    it.come_in(what, at);
                });
            }
            Input::Stop(reaction) => {
                let why = (reaction, Stopped::Stop);
                return stop(state, &mut self.runtime.entries, why, |_| true);
            }
            Input::Press { who, ref key } => return self.press(who, key, witness),
            Input::Release { who, ref key } => return self.release(who, key, witness),
            Input::Interact { who, with } => return self.interact(who, with, witness),
            Input::Point { who, at, button } => return self.point(who, at, button, witness),
            Input::Limit { what, limits } => {
                state.senses.limits.insert(what, limits.into());
                (what, Cause::Admit)
            }
            Input::Renew(what) => {
                state.senses.detector_usage.retain(|(on, ..), _| *on != what);
                (what, Cause::Admit)
            }
            Input::Grab { who, what } => {
                let nobody = self.event(EventKind::Cue);
                self.acting(By::Host, &nobody, |act| act.reach_for(what, who));
                self.see_to_effects(witness);
                return;
            }
            Input::Act(action) => {
                let nobody = self.event(EventKind::Cue);
                self.acting(By::Host, &nobody, |act| act.perform(&action));
                self.see_to_effects(witness);
                return;
            }
        };
        self.state.stir(who, cause);
        self.runtime.watch.disturb(&self.scene, &self.state, who, cause);
    }
}
