//! Reactions that take time: their rounds, sequences and ends.

use std::collections::VecDeque;

use smallvec::SmallVec;

use crate::Time;
use crate::describe::most::MAX_RUNS;
use crate::describe::{Action, Again, Fault, Formula, Quantity, Range, ReactionId, Wait, range};
use crate::model::{Hearers, TargetRef};
use crate::react::{holds, is_wanted, still_so};
use crate::record::{By, Life, Problem, Stopped};
use crate::state::{Event, Queued, Run, Scheduled, Scope, Thread};
use crate::why::Witness;

use super::Play;
use super::ending::stop;
use super::meant::Due;

/// A reaction that has not yet done everything.
///
/// ```
/// use hazuro::{Play, Scene, scene::{Action, Reaction, Trigger}};
/// let scene = Scene::builder("Yard")
///     .reaction(
///         Reaction::on(Trigger::Start)
///             .named("bells")
///             .then(Action::cue("ding"))
///             .then(Action::wait(2.0))
///             .then(Action::cue("dong")),
///     )
///     .build()?;
/// let mut play = Play::new(scene);
/// play.step();
/// let running = play.running();
/// assert_eq!(running[0].name, Some("bells"));
/// assert_eq!(running[0].next.secs(), 2.0);
/// play.stop("bells")?;
/// play.step();
/// assert!(play.running().is_empty());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Running<'a> {
    /// Which reaction.
    pub reaction: ReactionId,
    /// Its name, if it has one.
    pub name: Option<&'a str>,
    /// The event it reacts to.
    pub event: &'a Event,
    /// How often it has begun.
    pub rounds: u64,
    /// When it goes on.
    pub next: Time,
    /// How many events wait until it is done.
    pub queued: usize,
}

impl Play {
    /// What reactions still have to do, in the order in which they began.
    pub fn running(&self) -> Vec<Running<'_>> {
        let running = self.state.runs.under_way.values().map(|run| {
            let threads = run.threads.iter().map(|thread| thread.due);
            let next = threads.chain(run.next_round).min().unwrap_or(self.state.now);
            let queue =
                self.state.runs.queues.get(&Scope::of(&self.scene, run.reaction, &run.event));
            Running {
                reaction: run.reaction,
                name: self.scene.reaction(run.reaction).name(),
                event: &run.event,
                rounds: run.rounds,
                next,
                queued: queue.map_or(0, VecDeque::len),
            }
        });
        running.collect()
    }

    /// Begins what a reaction does about an event.
    pub(super) fn begin<W: Witness>(
        &mut self,
        reaction: ReactionId,
        event: &Event,
        turns: Option<u64>,
        witness: &mut W,
    ) {
        let scene = self.scene.clone();
        let (spec, wire) = (scene.reaction(reaction), scene.wire(reaction));
        if wire.at_once {
            let mut first = 0;
            for sequence in &wire.sequences {
                self.perform(reaction, event, (sequence, first), None);
                first += sequence.len();
            }
            return;
        }
        let scope = Scope::of(&scene, reaction, event);
        let concerns = |run: &Event| Scope::of(&scene, reaction, run) == scope;
        if self.state.runs.under_way.len() + self.state.runs.queued >= MAX_RUNS {
            return self.problem(By::Reaction(reaction), Some(event), Problem::TooManyRuns);
        }
        match spec.when_again() {
            Again::Restart => {
                let why = (reaction, Stopped::Anew);
                stop(&mut self.state, &mut self.runtime.entries, why, concerns);
            }
            Again::Queue if self.state.is_busy(&scene, scope) => {
                let origin = self.state.causes.now;
                let queue = self.state.runs.queues.entry(scope).or_default();
                queue.push_back(Queued { event: Box::new(event.clone()), turns, origin });
                self.state.runs.queued += 1;
                self.live(reaction, event, Life::Queued);
                return;
            }
            _ => {}
        }
        let delay = match self.pause(&wire.after, event, &range::PAUSE) {
            Ok(delay) => delay,
            Err(fault) => return self.unclear(reaction, event, ("after", fault)),
        };
        let begun = self.state.causes.next();
        self.live(reaction, event, Life::Begins);
        self.because(begun, |play| {
            let number = play.new_run(reaction, event, (turns, delay), false);
            if delay > Time::ZERO {
                let time = play.state.now + delay;
                if let Some(run) = play.state.runs.under_way.get_mut(&number) {
                    run.next_round = Some(time);
                }
                play.state.put_off(time, Scheduled::Poll { run: number, round: 0 });
                play.live(reaction, event, Life::Waits { until: time, arrival: None });
            } else {
                play.round(number, 0, witness);
            }
        });
    }

    /// Begins what a reaction does when its condition does not hold.
    pub(super) fn begin_otherwise<W: Witness>(
        &mut self,
        reaction: ReactionId,
        event: &Event,
        witness: &mut W,
    ) {
        let scene = self.scene.clone();
        let wire = scene.wire(reaction);
        if !wire.otherwise_waits {
            let first = wire.sequences.iter().map(Vec::len).sum();
            self.perform(reaction, event, (&wire.otherwise, first), None);
            return;
        }
        let begun = self.state.causes.next();
        self.live(reaction, event, Life::Begins);
        self.because(begun, |play| {
            let number = play.new_run(reaction, event, (None, Time::ZERO), true);
            play.go_on(number, (0, 0));
            play.end_if_done(number, witness);
        });
    }

    fn new_run(
        &mut self,
        reaction: ReactionId,
        event: &Event,
        (turns, delay): (Option<u64>, Time),
        otherwise: bool,
    ) -> u64 {
        let number = self.state.next_number();
        let (event, threads) = (Box::new(event.clone()), SmallVec::new());
        let (rounds, next_round) = (0, None);
        let run = Run { reaction, event, turns, delay, rounds, next_round, threads, otherwise };
        self.state.runs.under_way.insert(number, run);
        number
    }

    /// A reaction begins, maybe not for the first time.
    pub(super) fn round<W: Witness>(&mut self, number: u64, round: u64, witness: &mut W) {
        let scene = self.scene.clone();
        let now = self.state.now;
        let Some(run) = self.state.runs.under_way.get(&number).filter(|run| run.rounds == round)
        else {
            return;
        };
        let (reaction, event, turns) = (run.reaction, run.event.clone(), run.turns);
        let delay = run.delay;
        let (spec, wire) = (scene.reaction(reaction), scene.wire(reaction));
        let waited = round == 0 && delay > Time::ZERO;
        let turned = if waited && turns.is_some() { self.turns(&event) } else { turns };
        let by = By::Reaction(reaction);
        let mut goes_on = !waited || still_so((reaction, &event), (turns, turned), now, witness);
        let mut stopped = (!goes_on).then_some(Stopped::NoLonger);
        if let Some(condition) = spec.ending().filter(|_| goes_on) {
            match holds(condition, &scene, &self.state, &event) {
                Ok(over) => {
                    goes_on = !over;
                    stopped = over.then_some(Stopped::UntilHolds);
                }
                Err(failure) => self.problem(by, Some(&event), Problem::Condition(failure)),
            }
        }
        // What begins with its event, or has its turn in a queue at last, has been let through by then.
        if !goes_on || ((waited || round > 0) && !self.may_run(by, &event)) {
            if let Some(run) = self.state.runs.under_way.get_mut(&number) {
                (run.next_round, run.threads) = (None, SmallVec::new());
            }
            self.live(reaction, &event, Life::Stopped(stopped.unwrap_or(Stopped::Stop)));
            self.forget(number, witness);
            return;
        }
        let every = match wire.every.as_ref() {
            Some(every) => match self.pause(every, &event, &range::INTERVAL) {
                Ok(time) => Some((time, every.fixed().is_some())),
                Err(fault) => {
                    self.unclear(reaction, &event, ("every", fault));
                    None
                }
            },
            None => None,
        };
        if let Some(run) = self.state.runs.under_way.get_mut(&number) {
            run.rounds += 1;
            let again = spec.repetition().1.is_none_or(|times| run.rounds < times);
            run.next_round = every.filter(|_| again).map(|(every, is_fixed)| {
                // What is always the same is counted from the first, so that rounding never adds up.
                let rounds = Time::from_nanos(every.nanos().saturating_mul(run.rounds as i64));
                let time = event.time + delay + rounds;
                // A queued event is come to late: then from now on.
                if is_fixed && time > now { time } else { now + every }
            });
            if let Some(time) = run.next_round {
                self.state.put_off(time, Scheduled::Poll { run: number, round: round + 1 });
            }
        }
        for sequence in 0..wire.sequences.len() {
            self.go_on(number, (sequence as u32, 0));
        }
        self.end_if_done(number, witness);
    }

    /// A sequence goes on after having waited.
    pub(super) fn resume<W: Witness>(&mut self, number: u64, thread: u64, witness: &mut W) {
        let Some(run) = self.state.runs.under_way.get_mut(&number) else { return };
        let Some(place) = run.threads.iter().position(|it| it.number == thread) else { return };
        let Thread { sequence, place, .. } = run.threads.remove(place);
        self.go_on(number, (sequence, place));
        self.end_if_done(number, witness);
    }

    /// Does what a sequence does up to where it waits.
    fn go_on(&mut self, number: u64, (sequence, mut place): (u32, u32)) {
        let scene = self.scene.clone();
        loop {
            let Some(run) = self.state.runs.under_way.get(&number) else { return };
            let (reaction, event) = (run.reaction, run.event.clone());
            let wire = scene.wire(reaction);
            let actions =
                if run.otherwise { &wire.otherwise } else { &wire.sequences[sequence as usize] };
            let before = if run.otherwise { wire.sequences.len() } else { sequence as usize };
            let first: usize = wire.sequences[..before].iter().map(Vec::len).sum();
            let rest = &actions[place as usize..];
            let waits = |action: &Action<TargetRef>| matches!(action, Action::Wait(_));
            let until = rest.iter().position(waits).unwrap_or(rest.len());
            let first = first + place as usize;
            self.perform(reaction, &event, (&rest[..until], first), Some(number));
            let Some(Action::Wait(wait)) = rest.get(until) else { return };
            let now = self.state.now;
            let arrival = match wait {
                Wait::Arrival(what) => self.due(&event).meant(*what).ok(),
                Wait::Seconds(_) => None,
            };
            // An arrival may have been put off meanwhile, so it is looked at again then.
            let (due, next) = match wait {
                Wait::Seconds(seconds) => {
                    match self.wait(seconds, &event) {
                        Ok(time) => (now + time, until + 1),
                        Err(fault) => {
                            // Without it what comes after would come at the wrong time.
                            return self.unclear(reaction, &event, ("wait", fault));
                        }
                    }
                }
                Wait::Arrival(_) => match arrival {
                    Some(what) => (self.state.arrival(&scene, what).max(now), until),
                    None => (now, until + 1),
                },
            };
            if due > now {
                let thread = self.state.next_number();
                if let Some(run) = self.state.runs.under_way.get_mut(&number) {
                    let place = place + next as u32;
                    run.threads.push(Thread { number: thread, sequence, place, due });
                    self.state.put_off(due, Scheduled::Resume { run: number, thread });
                    self.live(reaction, &event, Life::Waits { until: due, arrival });
                }
                return;
            }
            place += until as u32 + 1;
        }
    }

    fn due<'a>(&'a self, event: &'a Event) -> Due<'a> {
        Due { scene: &self.scene, state: &self.state, event, one: None }
    }

    /// How long a sequence waits, as it is now.
    fn wait(&self, seconds: &Quantity, event: &Event) -> Result<Time, Fault> {
        match seconds {
            Quantity::Fixed(seconds) => Ok(Time::from_secs(*seconds)),
            Quantity::Formula(formula) => self.seconds(formula, event, &range::PAUSE),
        }
    }

    /// How long a reaction is put off, as it is now.
    fn pause(&self, pause: &Quantity<Time>, event: &Event, range: &Range) -> Result<Time, Fault> {
        match pause {
            Quantity::Fixed(time) => Ok(*time),
            Quantity::Formula(formula) => self.seconds(formula, event, range),
        }
    }

    fn seconds(&self, formula: &Formula, event: &Event, range: &Range) -> Result<Time, Fault> {
        self.due(event).formula(formula, |it| range.check(it)).map(Time::from_secs)
    }

    /// Reports a formula of a reaction that does not give what is needed.
    fn unclear(
        &mut self,
        reaction: ReactionId,
        event: &Event,
        (key, fault): (&'static str, Fault),
    ) {
        self.problem(By::Reaction(reaction), Some(event), Problem::Formula { key, fault });
    }

    /// Sees whether a run is over.
    fn end_if_done<W: Witness>(&mut self, number: u64, witness: &mut W) {
        let Some(run) = self.state.runs.under_way.get(&number) else { return };
        if run.next_round.is_some() || !run.threads.is_empty() {
            return;
        }
        let (reaction, event) = (run.reaction, run.event.clone());
        self.live(reaction, &event, Life::Done);
        self.forget(number, witness);
    }

    /// Forgets a run, and begins with the next event that waits for that.
    fn forget<W: Witness>(&mut self, number: u64, witness: &mut W) {
        let Some(run) = self.state.runs.under_way.get(&number) else { return };
        let scope = Scope::of(&self.scene, run.reaction, &run.event);
        self.state.runs.under_way.remove(&number);
        let Some(queue) = self.state.runs.queues.get_mut(&scope) else { return };
        let next = queue.pop_front();
        if queue.is_empty() {
            self.state.runs.queues.remove(&scope);
        }
        let Some(next) = next else { return };
        self.state.runs.queued -= 1;
        self.instant.next_runs.push_back((scope.reaction, next));
        if self.instant.beginning {
            // The call that begins them already will come to it: a queue may be long.
            return;
        }
        self.instant.beginning = true;
        while let Some((reaction, next)) = self.instant.next_runs.pop_front() {
            let Queued { event, turns, origin } = next;
            self.because(origin, |play| play.begin(reaction, &event, turns, witness));
        }
        self.instant.beginning = false;
    }

    /// Ends the runs that an event ends.
    pub(super) fn end_runs(&mut self, enders: &Hearers<(ReactionId, bool)>, event: &Event) {
        for listener in enders {
            if !is_wanted(listener.wanted, (&self.scene, &self.state), event) {
                continue;
            }
            let (reaction, same) = listener.who();
            let why = (reaction, Stopped::Until);
            stop(&mut self.state, &mut self.runtime.entries, why, |run| {
                let concerns = run.who == event.who || run.who.is_none() || event.who.is_none();
                concerns && (!same || run.on == event.on)
            });
        }
    }

    fn perform(
        &mut self,
        reaction: ReactionId,
        event: &Event,
        (actions, first): (&[Action<TargetRef>], usize),
        run: Option<u64>,
    ) {
        self.acting(By::Reaction(reaction), event, |act| act.perform_all(actions, first, run));
    }
}
