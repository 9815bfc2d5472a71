//! Who would have done what an expectation is about, and what became of each.

use std::cell::{Cell, OnceCell};

use hazuro::scene::{Action, ReactionId, Selector, Trigger};
use hazuro::why::{Chain, Evidence, Gate, Verdict, Witness};
use hazuro::{
    By, EntityId, Entry, Event, Happening, Life, Origin, Play, Problem, Scene, Step, Stopped, Time,
};

use crate::meaning::may_mean;
use crate::tape::Tape;
use crate::words::life_words;

use super::aim::{Aim, Named};
use super::because::{Because, event_words};
use super::heard::waits_for;
use super::listen::listen;
use super::question::Question;

/// How far back it asks why what was waited for did not happen.
const DEEPEST: usize = 3;

/// A play that is over, and questions about it.
pub(crate) struct Inquiry<'a> {
    pub tape: &'a Tape,
    pub entries: &'a [Entry],
    pub rate: Option<u32>,
    pub(super) because: Because<'a>,
    /// How many questions deep it asks: why did that not happen which was waited for?
    depth: Cell<usize>,
    /// What stopped reactions, in order; found out when it is first asked for.
    stopped: OnceCell<Vec<Verdict>>,
}

/// Hears what stops reactions.
#[derive(Default)]
struct Reactions(Vec<Verdict>);

impl Witness for Reactions {
    fn wants(&self, chain: &Chain) -> bool {
        matches!(chain, Chain::Reaction { .. })
    }
    fn wants_of(&self, _: EntityId) -> bool {
        false
    }
    fn hear(&mut self, verdict: Verdict) {
        if !verdict.passed {
            self.0.push(verdict);
        }
    }
}

/// What kept a reaction from doing something, alike several times.
struct Hindrance {
    key: String,
    times: usize,
    last: Time,
    words: String,
}

/// What became of a reaction.
pub(super) struct Fate {
    /// What kept it, the most frequent first.
    hindrances: Vec<Hindrance>,
    /// How often it still waits at the end.
    pending: usize,
    waits: String,
    /// How often it has done what is asked about.
    done: usize,
    /// What it has done to another instead, and when.
    others: Option<String>,
    /// Why it was never set off, if it never was.
    idle: Option<String>,
}

impl<'a> Inquiry<'a> {
    pub fn new(tape: &'a Tape, entries: &'a [Entry], rate: Option<u32>) -> Self {
        let because = Because::new(tape, entries);
        let (depth, stopped) = (Cell::new(0), OnceCell::new());
        Self { tape, entries, rate, because, depth, stopped }
    }

    /// With what stopped reactions, in order, if that is known already.
    pub(super) fn hearing(self, stopped: &[Verdict]) -> Self {
        Self { stopped: OnceCell::from(stopped.to_vec()), ..self }
    }

    pub(crate) fn scene(&self) -> &'a Scene {
        &self.tape.scene
    }

    pub(super) fn name(&self, entity: EntityId) -> &'a str {
        self.scene().name(entity)
    }

    /// What had happened by a time.
    pub(super) fn until(&self, time: Time) -> &'a [Entry] {
        &self.entries[..self.entries.partition_point(|entry| entry.time() <= time)]
    }

    /// The last action by a time that was done and bears on an aim.
    pub(super) fn last_done(&self, aim: &Aim, until: Time) -> Option<&'a Entry> {
        let done =
            |entry: &&Entry| matches!(entry.what, Happening::Did { .. }) && self.bears(aim, entry);
        self.until(until).iter().rfind(done)
    }

    /// The play that it is about, from its start.
    pub(super) fn play(&self) -> Play {
        self.tape.play_at(self.rate)
    }

    fn stopped(&self) -> &[Verdict] {
        self.stopped.get_or_init(|| {
            let mut play = self.play();
            let mut heard = Reactions::default();
            play.advance_witnessed(self.tape.length, &mut heard);
            heard.0
        })
    }

    /// What went wrong, with its place and what led there.
    pub(crate) fn failure(&self, entry: &Entry) -> String {
        let Happening::Problem { problem, .. } = &entry.what else { return String::new() };
        let place = match problem {
            Problem::Handler(failure) => failure.place.as_ref(),
            _ => None,
        };
        let place = place.map_or(String::new(), |it| format!("{}:{}: ", it.file, it.line));
        let by = entry.by().map_or(String::new(), |by| match by {
            By::Reaction(reaction) => self.because.reaction(reaction),
            other => other.describe(self.scene()),
        });
        let since = self.because.since(entry.number);
        format!(
            "{place}{} in {by} at {:#} s, {since}",
            problem.describe(self.scene()),
            entry.time()
        )
    }

    /// The reactions that have an action which bears on an aim.
    pub(super) fn makers(&self, aim: &Aim) -> Vec<ReactionId> {
        let scene = self.scene();
        let bears = |action: &Action| {
            aim.is_met_by(scene, action, |name, entity| may_mean(scene, name, entity))
        };
        let would = |it: &ReactionId| scene.reaction(*it).actions().any(|(.., it)| bears(it));
        let declared: Vec<ReactionId> = scene.reaction_ids().filter(would).collect();
        // What a script did is not written in the scene.
        let scripted = self.entries.iter().filter_map(|entry| match entry.by() {
            Some(By::Reaction(reaction)) if self.bears(aim, entry) => Some(reaction),
            _ => None,
        });
        let mut all: Vec<ReactionId> = declared.into_iter().chain(scripted).collect();
        all.sort_unstable_by_key(|it| it.index());
        all.dedup();
        all
    }

    /// Whether an entry tells of an action which bears on an aim, done or refused.
    pub(super) fn bears(&self, aim: &Aim, entry: &Entry) -> bool {
        let scene = self.scene();
        entry.action().is_some_and(|it| aim.is_met_by(scene, it, |id, wanted| *id == wanted))
    }

    /// Whether an entry tells of a step of a reaction that would bear on an aim, had it been done
    /// to another.
    fn might_bear(&self, aim: &Aim, entry: &Entry) -> bool {
        let (Some(By::Reaction(reaction)), Some(Step::Action(step))) = (entry.by(), &entry.step)
        else {
            return self.bears(aim, entry);
        };
        let scene = self.scene();
        let declared = scene.reaction(reaction).actions().nth(*step);
        declared.is_some_and(|(.., action)| {
            aim.is_met_by(scene, action, |name, entity| may_mean(scene, name, entity))
        })
    }

    /// What became of a reaction until a time, with regard to an aim.
    pub(super) fn fate(&self, reaction: ReactionId, aim: &Aim, until: Time) -> Fate {
        let entries = self.until(until);
        let mut fate = Fate {
            hindrances: Vec::new(),
            pending: 0,
            waits: String::new(),
            done: 0,
            others: None,
            idle: None,
        };
        let by = By::Reaction(reaction);
        // The latest of each run, by the entry that began it.
        let mut runs: Vec<(Origin, &Entry)> = Vec::new();
        for entry in entries {
            match &entry.what {
                Happening::Run { reaction: its, life, .. } if *its == reaction => {
                    match life {
                        Life::Begins => {
                            runs.push((Origin::Entry(entry.number), entry));
                        }
                        Life::Ignored | Life::Replaced(_) => {
                            let words = life_words(self.scene(), *life);
                            let since = self.because.since(entry.number);
                            fate.keep("life", entry.time(), format!("{words}, {since}"));
                        }
                        Life::Queued | Life::Waits { .. } | Life::Done | Life::Stopped(_) => {}
                    }
                    if let Some(run) = runs.iter_mut().find(|(begun, _)| *begun == entry.origin) {
                        run.1 = entry;
                    }
                    if let Life::Stopped(why) = life {
                        runs.retain(|(begun, _)| *begun != entry.origin);
                        fate.keep(why.words(), entry.time(), self.ended(entry, reaction, *why));
                    }
                }
                Happening::Did { by: its, .. } if *its == by && self.bears(aim, entry) => {
                    fate.done += 1;
                }
                Happening::Said { by: its, key, .. }
                    if *its == by && matches!(aim, Aim::Text(text) if text == key) =>
                {
                    fate.done += 1;
                }
                Happening::Did { by: its, .. } if *its == by && self.might_bear(aim, entry) => {
                    let words = self.because.sentence(entry);
                    fate.others = Some(words.trim_start_matches("at ").to_owned());
                }
                Happening::Refused { by: its, why, .. }
                    if *its == by && self.might_bear(aim, entry) =>
                {
                    let words = self.because.told(entry);
                    let since = self.because.since(entry.number);
                    fate.keep(&why.words(self.scene()), entry.time(), format!("{words}, {since}"));
                }
                Happening::Problem { by: its, problem, .. } if *its == by => {
                    let words = problem.describe(self.scene());
                    fate.keep(&words.clone(), entry.time(), words);
                }
                _ => {}
            }
        }
        for (_, latest) in runs {
            if let Happening::Run { life: life @ Life::Waits { until: due, .. }, .. } = &latest.what
                && *due > until
            {
                fate.pending += 1;
                let delay = self.because.delay(reaction, *life);
                fate.waits = format!("{}{delay}", life_words(self.scene(), *life));
            }
        }
        for verdict in self.stopped().iter().take_while(|verdict| verdict.time <= until) {
            let its =
                matches!(verdict.chain, Chain::Reaction { reaction: it, .. } if it == reaction);
            // These are told as what becomes of a run.
            if !its || matches!(verdict.gate, Gate::Idle | Gate::StillSo) {
                continue;
            }
            fate.keep(verdict.gate.code(), verdict.time, self.gate(verdict, until));
        }
        let spec = self.scene().reaction(reaction);
        let hears =
            |event: &Event| spec.triggers().iter().any(|it| waits_for(self.scene(), it, event));
        let is_heard = entries.iter().filter_map(Entry::event).any(hears);
        if !is_heard && fate.hindrances.is_empty() && fate.pending == 0 {
            fate.idle = Some(self.idle(reaction, until));
        }
        fate.hindrances.sort_by_key(|it| std::cmp::Reverse((it.times, it.last)));
        fate
    }

    /// What ended a run, in words.
    fn ended(&self, entry: &Entry, reaction: ReactionId, why: Stopped) -> String {
        let condition = match why {
            Stopped::UntilHolds => self.scene().reaction(reaction).ending(),
            _ => None,
        };
        let condition = condition.map_or(String::new(), |it| format!(": `{}`", it.text()));
        let since = self.because.since(entry.number);
        format!("ended: {}{condition}, {since}", why.words())
    }

    /// The gate that stopped a reaction, in words.
    fn gate(&self, verdict: &Verdict, until: Time) -> String {
        let who = verdict.chain.pair().1.map(|who| format!(" for {}", self.name(who)));
        let saw = verdict.reason(self.scene());
        let saw = if saw.is_empty() { saw } else { format!(": {saw}") };
        let mut words =
            format!("was stopped{} at \"{}\"{saw}", who.unwrap_or_default(), verdict.gate.words());
        if let Evidence::Condition { saw, .. } = &verdict.evidence {
            for (path, value) in saw {
                if !value.contains("nobody has") {
                    continue;
                }
                let all = Named::all_in(path, verdict.chain.pair().1);
                if let Some(named) = all.into_iter().next() {
                    words += &self.who_would(&Aim::Value(named), until.min(verdict.time));
                }
            }
        }
        words
    }

    /// Who would have changed something that nobody has, in words.
    fn who_would(&self, aim: &Aim, until: Time) -> String {
        let Some(maker) = self.makers(aim).into_iter().next() else {
            return "; no action in the scene does that".into();
        };
        let idle = self.idle(maker, until);
        format!("; {} would, but {idle}", self.because.reaction(maker))
    }

    /// Why a reaction was never set off, in words.
    fn idle(&self, reaction: ReactionId, until: Time) -> String {
        let spec = self.scene().reaction(reaction);
        let Some(trigger) = spec.triggers().first() else { return "it waits for nothing".into() };
        let why = self.never(trigger, until).map_or(String::new(), |why| format!(": {why}"));
        format!("`{trigger}` never happened{why}")
    }

    /// Why what a reaction waits for did not happen, in words.
    fn never(&self, trigger: &Trigger, until: Time) -> Option<String> {
        match trigger {
            Trigger::Cue(cue) => {
                let aim = Aim::Cue(cue.clone());
                let makers = self.makers(&aim);
                if makers.is_empty() {
                    return Some("nothing sends it".into());
                }
                let depth = self.depth.get();
                if depth < DEEPEST {
                    self.depth.set(depth + 1);
                    let fate = self.fates(&aim, until, 1).into_iter().next();
                    self.depth.set(depth);
                    if fate.is_some() {
                        return fate;
                    }
                }
                let makers: Vec<_> = makers.iter().map(|it| self.because.reaction(*it)).collect();
                Some(format!("{} would send it", makers.join(", ")))
            }
            Trigger::Detected { event, on: Selector::Entity(on), .. } => {
                let on = self.scene().find(on)?;
                let question = Question { until, rate: self.rate, ..Question::about(*event, on) };
                let answer = listen(self.tape, &question).answer;
                let nearest = answer.nearest()?;
                let miss = nearest.miss.as_ref()?;
                Some(format!("{} was stopped at {}", nearest.who, miss.quoted()))
            }
            Trigger::Start | Trigger::Detected { .. } => None,
        }
    }

    /// The last action that any reaction was refused until a time.
    pub(super) fn refused(&self, until: Time) -> Option<String> {
        let is = |entry: &&Entry| matches!(entry.what, Happening::Refused { .. });
        self.until(until).iter().rfind(is).map(|entry| self.because.sentence(entry))
    }

    /// What became of all who would have done what is aimed at, a line each, those first that
    /// explain most; `missing` is how often it should have been done and was not.
    pub(super) fn fates(&self, aim: &Aim, until: Time, missing: usize) -> Vec<String> {
        let makers = self.makers(aim);
        if let (Aim::Cue(cue), true) = (aim, makers.is_empty()) {
            let sent = "a script, a host or the tape would have to";
            return vec![format!("no action sends `{cue}`: {sent}")];
        }
        let fates = makers.iter().map(|it| (*it, self.fate(*it, aim, until)));
        let mut told: Vec<(usize, String)> = Vec::new();
        for (reaction, fate) in fates {
            let Some(words) = fate.words(self.tape.length, until, missing) else { continue };
            let rank = match &fate.idle {
                Some(_) => 0,
                None => 1 + fate.pending + fate.hindrances.first().map_or(0, |it| it.times),
            };
            told.push((rank, format!("{} {words}", self.because.reaction(reaction))));
        }
        told.sort_by_key(|(rank, _)| std::cmp::Reverse(*rank));
        told.into_iter().map(|(_, line)| line).collect()
    }
}

impl Fate {
    fn keep(&mut self, key: &str, time: Time, words: String) {
        match self.hindrances.iter_mut().find(|it| it.key == key) {
            Some(known) => {
                known.times += 1;
                (known.last, known.words) = (time, words);
            }
            None => {
                self.hindrances.push(Hindrance { key: key.into(), times: 1, last: time, words });
            }
        }
    }

    /// In words, as the rest of a sentence; nothing if nothing kept it.
    fn words(&self, end: Time, until: Time, missing: usize) -> Option<String> {
        if let Some(idle) = &self.idle {
            return Some(format!("would do it, but {idle}"));
        }
        let over = if until >= end {
            format!("and the play ends at {end:#} s")
        } else {
            format!("and it is looked at at {until:#} s")
        };
        let waits = (self.pending > 0).then(|| format!("{}, {over}", self.waits));
        let kept = self.hindrances.iter().take(2).map(|it| {
            let times = match it.times {
                1 => format!("at {:#} s", it.last),
                times => format!("{times} times, last at {:#} s,", it.last),
            };
            format!("{times} {}", it.words)
        });
        let mut words: Vec<String> = kept.collect();
        if self.pending >= missing.max(1) {
            words.splice(0..0, waits);
        } else {
            words.extend(waits);
        }
        if words.is_empty() && self.done == 0 {
            words.extend(self.others.iter().map(|it| format!("did it to another: at {it}")));
        }
        (!words.is_empty()).then(|| words.join("; "))
    }
}

/// The event in words, with its time.
pub(super) fn event_at(scene: &Scene, event: &Event) -> String {
    format!("{} at {:#} s", event_words(scene, event), event.time)
}
