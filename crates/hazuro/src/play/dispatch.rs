//! From an event to what is done about it.

use crate::describe::{EventKind, Per, ReactionId};
use crate::model::{Call, Listener};
use crate::react::{ActionContext, Consider, consider, is_wanted};
use crate::record::{By, Entry, Happening, Life, Problem};
use crate::state::{Event, Origin, Scope};
use crate::why::Witness;

use super::Play;
use super::act::Act;
use super::handler::{Ended, Whose};

impl Play {
    /// Reports an event and lets everybody react who waits for it: the scene's reactions in
    /// order, then the handlers in order. Whether somebody reacted and did not pass it on.
    pub(super) fn dispatch<W: Witness>(&mut self, event: &Event, witness: &mut W) -> bool {
        let (came_of, this) = (self.state.causes.now, self.state.causes.next());
        self.record(Happening::Event(event.clone()));
        self.state.causes.now = this;
        let tags = if self.state.values.tags.is_empty() { None } else { event.on };
        let call = Call {
            kind: event.kind,
            on: event.on,
            cue: event.cue.as_deref(),
            stat: event.reading.map(|reading| reading.stat),
            tags: tags.and_then(|on| self.state.values.tags.get(&on)).map(Vec::as_slice),
        };
        // Whoever is added while it is told does not hear of it.
        let met = |wanted| is_wanted(wanted, (&self.scene, &self.state), event);
        let (reactions, replaced) = self.scene.listening(&call, &met);
        let handlers = self.runtime.handlers.hearing(&call, &met);
        if !self.state.runs.under_way.is_empty() {
            let enders = self.scene.ending(&call, &met);
            self.end_runs(&enders, event);
        }
        for (reaction, by) in replaced {
            self.live(reaction, event, Life::Replaced(by));
        }
        let mut handled = false;
        for listener in reactions {
            handled |= self.consider(listener, event, witness);
        }
        for listener in handlers {
            if is_wanted(listener.wanted, (&self.scene, &self.state), event) {
                handled |= self.handle(listener.who(), event);
            }
        }
        self.see_to_effects(witness);
        self.state.causes.now = came_of;
        handled
    }

    /// Records what happens now.
    pub(super) fn record(&mut self, what: Happening) {
        let entry = Entry::next(&mut self.state, what);
        self.runtime.entries.push(entry);
    }

    /// Records what becomes of a reaction.
    pub(super) fn live(&mut self, reaction: ReactionId, event: &Event, life: Life) {
        let (time, who) = (self.state.now, event.who);
        self.record(Happening::Run { time, reaction, who, life });
    }

    /// Lets something happen that comes of this.
    pub(super) fn because<T>(&mut self, origin: Origin, happens: impl FnOnce(&mut Self) -> T) -> T {
        let before = std::mem::replace(&mut self.state.causes.now, origin);
        let outcome = happens(self);
        self.state.causes.now = before;
        outcome
    }

    /// Runs the gates of a reaction and begins what it does.
    fn consider<W: Witness>(
        &mut self,
        listener: Listener<ReactionId>,
        event: &Event,
        witness: &mut W,
    ) -> bool {
        let (reaction, wanted) = (listener.who(), listener.wanted);
        let (scene, state) = (&*self.scene, &self.state);
        let (failure, unmet, busy) = (None, false, false);
        let mut look = Consider { scene, state, reaction, wanted, event, failure, unmet, busy };
        let reacts = consider(&mut look, witness);
        let (failure, unmet, busy) = (look.failure, look.unmet, look.busy);
        if busy {
            self.live(reaction, event, Life::Ignored);
        }
        let by = By::Reaction(reaction);
        if let Some(failure) = failure {
            self.problem(by, Some(event), Problem::Condition(failure));
        }
        let otherwise = unmet && !self.scene.wire(reaction).otherwise.is_empty();
        if !(reacts || otherwise) || !self.may_run(by, event) {
            return false;
        }
        let (spec, wire) = (self.scene.reaction(reaction), self.scene.wire(reaction));
        let passes_on = spec.passes_on();
        if otherwise {
            self.begin_otherwise(reaction, event, witness);
            return !passes_on;
        }
        let usage = if spec.counts_per() == Per::All {
            &mut self.state.runs.usage[reaction.index()]
        } else {
            let scope = Scope::of(&self.scene, reaction, event);
            self.state.runs.reaction_usage.entry(scope).or_default()
        };
        usage.times += 1;
        usage.ready_at = event.time + wire.cooldown;
        let turns = if wanted.only_edge { self.turns(event) } else { None };
        self.begin(reaction, event, turns, witness);
        !passes_on
    }

    /// How often the zone of an event has turned from empty to occupied or back.
    pub(super) fn turns(&self, event: &Event) -> Option<u64> {
        self.state
            .senses
            .occupancies
            .get(&(event.on?, event.kind.detector()?))
            .map(|found| found.turns)
    }

    fn handle(&mut self, number: usize, event: &Event) -> bool {
        let by = By::Handler(number);
        if !self.may_run(by, event) {
            return false;
        }
        let ended = self.acting(by, event, |act| act.run_closure(Whose::Handler(number)));
        match ended {
            Ended::Well | Ended::Busy => {}
            Ended::Missing => return false,
            Ended::Failed(failure) => self.problem(by, Some(event), Problem::Handler(failure)),
            Ended::Panicked(why) => self.problem(by, Some(event), Problem::Panic(why)),
        }
        !std::mem::take(&mut self.runtime.after.passed_on)
    }

    /// Lets somebody act on an event.
    pub(super) fn acting<T>(
        &mut self,
        by: By,
        event: &Event,
        run: impl FnOnce(&mut Act<'_>) -> T,
    ) -> T {
        let now = self.state.now;
        let late;
        let event = if event.time == now {
            event
        } else {
            late = Event { time: now, ..event.clone() };
            &late
        };
        run(&mut Act {
            scene: &self.scene,
            state: &mut self.state,
            runtime: &mut self.runtime,
            event,
            by,
            depth: 0,
            step: None,
        })
    }

    pub(super) fn may_run(&mut self, by: By, event: &Event) -> bool {
        match self.instant.enter(self.state.now, by, event) {
            Ok(()) => true,
            Err(circle) => {
                self.problem(by, Some(event), Problem::Circle(circle));
                false
            }
        }
    }

    pub(super) fn problem(&mut self, by: By, event: Option<&Event>, problem: Problem) {
        let event = event.map(|event| Box::new(event.clone()));
        self.record(Happening::Problem { time: self.state.now, by, problem, event });
    }

    /// Lets something happen to stats or pickups, and sees to what comes of it.
    pub(super) fn in_context<W: Witness>(
        &mut self,
        witness: &mut W,
        run: impl FnOnce(&mut ActionContext<'_>),
    ) {
        let event = self.event(EventKind::Stat);
        let (scene, state, after) = (&*self.scene, &mut self.state, &mut self.runtime.after);
        run(&mut ActionContext { scene, state, event: &event, after });
        self.see_to_effects(witness);
    }

    /// Looks again at what actions have disturbed, then sends the events they caused, one after
    /// another.
    pub(super) fn see_to_effects<W: Witness>(&mut self, witness: &mut W) {
        self.runtime.tell(&mut self.state);
        let after = std::mem::take(&mut self.runtime.after);
        for (what, to) in after.converted {
            self.convert(what, to);
        }
        for (entity, cause) in after.disturbed {
            self.runtime.watch.disturb(&self.scene, &self.state, entity, cause);
        }
        for what in after.endless {
            self.problem(By::Host, None, Problem::EndlessWay(what));
        }
        let tick = self.state.now.tick(self.rate);
        let time = self.state.now;
        let at_once = |(origin, it)| (origin, Event { time, tick, ..it });
        self.instant.events.extend(after.events.into_iter().map(at_once));
        if let Some(action) = after.acted {
            if !self.scene.conditional().is_empty() {
                self.because(action, |play| play.admit_again(witness));
            }
            if !self.state.values.left_lying.is_empty() {
                self.because(action, |play| play.collect_again(witness));
            }
        }
        if self.instant.sending {
            // The call that is sending already will come to them.
            return;
        }
        self.instant.sending = true;
        while let Some((origin, event)) = self.instant.events.pop_front() {
            self.because(origin, |play| play.dispatch(&event, witness));
        }
        self.instant.sending = false;
    }
}
