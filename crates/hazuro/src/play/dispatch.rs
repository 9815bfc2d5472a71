//! From an event to what is done about it.

use std::collections::{BTreeMap, VecDeque};

use crate::Time;
use crate::react::{Consider, consider, still_so};
use crate::scene::{EntityId, ReactionId};
use crate::state::{Event, Item};
use crate::why::Witness;

use super::Play;
use super::act::{Act, Effects};
use super::entry::{By, Entry, Problem};

/// How often, at one instant, the same reaction may react to the same subject and detector.
const MAX_ROUNDS: u32 = 32;

/// What goes on at one instant. Empty between instants, so no part of the state.
#[derive(Debug, Default)]
pub(super) struct Instant {
    time: Time,
    runs: BTreeMap<Run, u32>,
    /// Who reacted, in order, for naming a circle.
    trail: VecDeque<By>,
    effects: Effects,
    cues: VecDeque<Event>,
    sending: bool,
}

type Run = (By, Option<EntityId>, Option<EntityId>);

impl Instant {
    /// Counts another run at this time. The circle, if it has been round too often.
    fn enter(&mut self, time: Time, by: By, event: &Event) -> Result<(), Vec<By>> {
        if self.time != time {
            self.time = time;
            self.runs.clear();
            self.trail.clear();
        }
        let runs = self.runs.entry((by, event.on, event.who)).or_default();
        *runs += 1;
        if *runs > MAX_ROUNDS {
            let back = self.trail.iter().rev().position(|other| *other == by);
            let from = back.map_or(0, |back| self.trail.len() - 1 - back);
            return Err(self.trail.iter().skip(from).copied().chain([by]).collect());
        }
        if self.trail.len() == MAX_ROUNDS as usize {
            self.trail.pop_front();
        }
        self.trail.push_back(by);
        Ok(())
    }
}

impl Play {
    /// Reports an event and lets everybody react who waits for it: the scene's reactions in
    /// order, then the handlers in order. Whether somebody reacted and did not pass it on.
    pub(super) fn dispatch<W: Witness>(&mut self, event: &Event, witness: &mut W) -> bool {
        self.entries.push(Entry::Event(event.clone()));
        let scene = self.scene.clone();
        let mut handled = false;
        for reaction in scene.listening(event.kind, event.on, event.cue.as_deref()) {
            handled |= self.consider(*reaction, event, witness);
        }
        for index in 0..self.handlers.count(event) {
            if let Some(number) = self.handlers.wanting(event, index) {
                handled |= self.handle(number, event);
            }
        }
        self.see_to_effects(witness);
        handled
    }

    /// Runs the gates of a reaction and, if it need not wait, its actions.
    fn consider<W: Witness>(
        &mut self,
        reaction: ReactionId,
        event: &Event,
        witness: &mut W,
    ) -> bool {
        let mut look =
            Consider { scene: &self.scene, state: &self.state, reaction, event, failure: None };
        let reacts = consider(&mut look, witness);
        if let Some(failure) = look.failure {
            self.problem(By::Reaction(reaction), Problem::Condition(failure));
        }
        if !reacts || !self.may_run(By::Reaction(reaction), event) {
            return false;
        }
        let wire = self.scene.wire(reaction);
        let wear = &mut self.state.wear[reaction.index()];
        wear.times += 1;
        wear.ready_at = event.time + wire.cooldown;
        if wire.after > Time::ZERO {
            let turns = if wire.only_edge { self.turns(event) } else { None };
            let item = Item::React { reaction, event: Box::new(event.clone()), turns };
            self.state.agenda.put(event.time + wire.after, item);
        } else {
            self.act_on(reaction, event);
        }
        !self.scene.reaction(reaction).passes_on()
    }

    /// The actions of a reaction whose waiting is over.
    pub(super) fn react_now<W: Witness>(
        &mut self,
        reaction: ReactionId,
        event: &Event,
        turns: Option<u64>,
        witness: &mut W,
    ) {
        let now = if turns.is_some() { self.turns(event) } else { None };
        if still_so((reaction, event), (turns, now), self.state.now, witness)
            && self.may_run(By::Reaction(reaction), event)
        {
            self.act_on(reaction, event);
            self.see_to_effects(witness);
        }
    }

    /// How often the zone of an event has turned from empty to occupied or back.
    fn turns(&self, event: &Event) -> Option<u64> {
        self.state.occupancies.get(&(event.on?, event.kind.detector()?)).map(|found| found.turns)
    }

    fn act_on(&mut self, reaction: ReactionId, event: &Event) {
        let scene = self.scene.clone();
        let actions = &scene.wire(reaction).actions;
        self.acting(By::Reaction(reaction), event, |act| {
            act.perform_all(actions);
        });
    }

    fn handle(&mut self, number: usize, event: &Event) -> bool {
        let by = By::Handler(number);
        if !self.may_run(by, event) {
            return false;
        }
        let mut handlers = std::mem::take(&mut self.handlers);
        let outcome = self.acting(by, event, |act| handlers.run(number, act));
        self.handlers = handlers;
        if let Err(failure) = outcome {
            self.problem(by, Problem::Handler(failure));
        }
        !std::mem::take(&mut self.instant.effects.passed_on)
    }

    /// Lets somebody act on an event.
    pub(super) fn acting<T>(
        &mut self,
        by: By,
        event: &Event,
        run: impl FnOnce(&mut Act<'_>) -> T,
    ) -> T {
        let event = &Event { time: self.state.now, ..event.clone() };
        run(&mut Act {
            scene: &self.scene,
            state: &mut self.state,
            event,
            by,
            entries: &mut self.entries,
            effects: &mut self.instant.effects,
            watch: &mut self.watch,
        })
    }

    fn may_run(&mut self, by: By, event: &Event) -> bool {
        match self.instant.enter(self.state.now, by, event) {
            Ok(()) => true,
            Err(circle) => {
                self.problem(by, Problem::Circle(circle));
                false
            }
        }
    }

    pub(super) fn problem(&mut self, by: By, problem: Problem) {
        self.entries.push(Entry::Problem { time: self.state.now, by, problem });
    }

    /// Looks again at what actions have disturbed, then sends the cues they sent, one after
    /// another.
    pub(super) fn see_to_effects<W: Witness>(&mut self, witness: &mut W) {
        let Effects { disturbed, cues, acted, .. } = std::mem::take(&mut self.instant.effects);
        for (entity, cause) in disturbed {
            self.watch.disturb(&self.scene, &self.state, entity, cause);
        }
        if acted && !self.scene.conditional().is_empty() {
            self.admit_again(witness);
        }
        let tick = self.state.now.tick(self.rate);
        let time = self.state.now;
        self.instant.cues.extend(cues.into_iter().map(|cue| Event { time, tick, ..cue }));
        if self.instant.sending {
            // The call that is sending already will come to them.
            return;
        }
        self.instant.sending = true;
        while let Some(cue) = self.instant.cues.pop_front() {
            self.dispatch(&cue, witness);
        }
        self.instant.sending = false;
    }
}
