//! What a witness heard and what happened, put together.

use std::collections::BTreeSet;

use hazuro::scene::{EventKind, ReactionId, Selector, Trigger};
use hazuro::why::{Chain, Gate, Notebook, Record, Verdict};
use hazuro::{By, Entry, Event, Happening, Scene};

use crate::tape::Tape;
use crate::words::came_of;

use super::answer::{Candidate, Firing, GateSeen, Link, Miss, Reacted, micros};
use super::because::Because;
use super::question::Question;

/// What was heard and what happened.
pub(super) struct Heard<'a> {
    pub scene: &'a Scene,
    pub tape: &'a Tape,
    pub question: &'a Question,
    pub entries: &'a [Entry],
    pub notebook: &'a Notebook,
    /// What stopped reactions, in order.
    pub stopped: &'a [Verdict],
    /// Who was off, absent or not admitted when it was tried, at any time.
    pub barred: &'a BTreeSet<Chain>,
    pub because: &'a Because<'a>,
}

impl Heard<'_> {
    pub fn is_wanted(&self, entry: &Entry) -> bool {
        entry.event().is_some_and(|event| self.question.is_met_by(event))
    }

    pub fn firings(&self) -> Vec<Firing> {
        let wanted = self.entries.iter().filter(|entry| self.is_wanted(entry));
        let firing = |entry: &Entry| {
            let event = entry.event()?;
            let name = |id| self.scene.name(id).to_owned();
            let part = event.who.zip(event.part);
            let part = part.and_then(|(who, part)| self.scene.part_name(who, part));
            Some(Firing {
                t: micros(event.time.secs()),
                who: event.who.map(name),
                part: part.map(Into::into),
                cause: event.cause.map(hazuro::Cause::word),
                came_of: self.because.links(entry.number).into_iter().skip(1).collect(),
                led_to: self.led_to(entry.number),
                reactions: self.reacted(entry.number, event),
            })
        };
        wanted.filter_map(firing).collect()
    }

    /// The reactions that wait for an event, in the order in which they hear of it.
    pub fn waiting(&self, event: &Event) -> impl Iterator<Item = ReactionId> + use<> {
        let waits = |trigger: &Trigger| waits_for(self.scene, trigger, event);
        let reactions = self.scene.reaction_ids();
        let mut waiting: Vec<ReactionId> =
            reactions.filter(|it| self.scene.reaction(*it).triggers().iter().any(waits)).collect();
        // As they ran.
        waiting.sort_by_key(|it| (self.scene.reaction(*it).place(), it.index()));
        waiting.into_iter()
    }

    /// What each reaction made of the event of this number.
    fn reacted(&self, number: u64, event: &Event) -> Vec<Reacted> {
        let came: Vec<&Entry> =
            self.because.history.all_of(number).into_iter().map(|(_, entry)| entry).collect();
        let each = self.waiting(event).map(|reaction| {
            let by = By::Reaction(reaction);
            let chain = Chain::Reaction { reaction, on: event.on, who: event.who };
            let miss = self.stopped.iter().find(|verdict| {
                verdict.chain == chain
                    && verdict.time == event.time
                    && verdict.gate != Gate::StillSo
            });
            let later = self.stopped.iter().find(|verdict| {
                verdict.chain == chain
                    && verdict.gate == Gate::StillSo
                    && verdict.time >= event.time
            });
            let did = came.iter().filter(|entry| self.is_at_first_hand(entry, number));
            let did =
                did.filter_map(|entry| Some((micros(entry.time().secs()), self.deed(entry, by)?)));
            let alternative = !self.scene.reaction(reaction).alternative().is_empty();
            let silent = miss.is_some() && !alternative;
            Reacted {
                reaction: by.describe(self.scene),
                miss: miss.or(later).map(|verdict| Miss::of(self.scene, verdict)),
                did: if silent { Vec::new() } else { did.collect() },
            }
        });
        each.collect()
    }

    /// Whether an entry came of an event without another event between.
    fn is_at_first_hand(&self, entry: &Entry, event: u64) -> bool {
        let before = self.because.history.back(entry.number).skip(1);
        before.take_while(|it| it.number != event).all(|it| it.event().is_none())
    }

    /// The events that came of the entry of this number, in the order in which they happened.
    fn led_to(&self, number: u64) -> Vec<Link> {
        let all = self.because.history.all_of(number);
        let events = all.into_iter().map(|(_, entry)| entry).filter(|it| it.event().is_some());
        events.map(|entry| self.because.link(entry)).collect()
    }

    /// What an action of this origin did, in words.
    fn deed(&self, entry: &Entry, whose: By) -> Option<String> {
        match &entry.what {
            Happening::Did { by, .. }
            | Happening::Said { by, .. }
            | Happening::Refused { by, .. }
                if *by == whose =>
            {
                came_of(self.scene, entry)
            }
            // Whose it is has been said.
            Happening::Problem { by, problem, .. } if *by == whose => {
                Some(format!("! {}", problem.describe(self.scene)))
            }
            _ => None,
        }
    }

    /// Who could have been the subject, each with what stopped it.
    pub fn candidates(&self, fired: &[Firing]) -> Vec<(Candidate, Option<Verdict>)> {
        let Some(detector) = self.question.detector() else { return Vec::new() };
        let is_use = self.question.is_use();
        let wanted = |record: &&Record| match record.chain() {
            Chain::Use { on, detector: its, .. } => {
                is_use && Some(on) == self.question.on && its == detector
            }
            Chain::Detector { on, detector: its, .. } => {
                Some(on) == self.question.on && its == detector
            }
            Chain::Reaction { .. } => false,
        };
        let mut candidates: Vec<(Candidate, Option<Verdict>)> = Vec::new();
        for record in self.notebook.records().filter(wanted) {
            let Some(who) = record.chain().pair().1.map(|who| self.scene.name(who)) else {
                continue;
            };
            let times = fired.iter().filter(|it| it.who.as_deref() == Some(who)).count();
            let gate = |verdict: &Verdict| GateSeen {
                gate: verdict.gate.code(),
                asks: verdict.gate.words(),
                passed: verdict.passed,
            };
            let off = self.off_when_it_mattered(record).filter(|_| times == 0);
            let miss = record.stopped().filter(|_| times == 0);
            let gates = match &off {
                Some(off) => vec![gate(off)],
                None => record.gates().into_iter().map(gate).collect(),
            };
            let miss = off.as_ref().or(miss);
            let candidate = Candidate {
                who: who.into(),
                fired: times,
                gates,
                miss: miss.map(|verdict| Miss::of(self.scene, verdict)),
            };
            let candidate = (candidate, miss.cloned());
            // What was tried at a use tells more than whether it was detected at some time.
            let known = candidates.iter().position(|known| known.0.who == candidate.0.who);
            match (known, record.chain()) {
                (Some(known), Chain::Use { .. }) => candidates[known] = candidate,
                (Some(_), _) => {}
                (None, _) => candidates.push(candidate),
            }
        }
        let place = |it: &(Candidate, Option<Verdict>)| self.scene.find(&it.0.who);
        candidates.sort_by_key(place);
        candidates
    }

    /// The gate that stopped a zone or touch detector while the two met all the same: off, absent,
    /// not admitted. That tells more than how near they came before.
    fn off_when_it_mattered(&self, record: &Record) -> Option<Verdict> {
        let chain = record.chain();
        let Chain::Detector { on, detector, who } = chain else { return None };
        let stopped = record.stopped()?;
        let near = matches!(stopped.gate, Gate::InShape | Gate::Touches);
        // Had they met while it was off, it would have been tried then, and nearer than ever.
        if !near || !self.barred.contains(&chain) {
            return None;
        }
        let mut play = self.tape.play_at(self.question.rate);
        let until = self.question.until.min(self.tape.length);
        while play.now() < until {
            play.step();
            let (Ok(there), Ok(here)) = (play.pose(on), play.pose(who)) else { continue };
            if !self.scene.would_meet((on, detector, &there), (who, &here)) {
                continue;
            }
            let mut now = Notebook::about(Some(on), Some(who));
            // Both are of this scene.
            let _ = play.try_gates(on, who, &mut now);
            let stopped = now.record(&chain).and_then(Record::stopped);
            if let Some(verdict) = stopped.filter(|it| is_bar(it)) {
                return Some(verdict.clone());
            }
        }
        None
    }
}

/// Whether it is no question of where the two are.
pub(super) fn is_bar(verdict: &Verdict) -> bool {
    matches!(verdict.gate, Gate::Enabled | Gate::Present | Gate::Admitted)
}

/// Whether a trigger waits for an event, whoever was inside already.
pub(super) fn waits_for(scene: &Scene, trigger: &Trigger, event: &Event) -> bool {
    match trigger {
        Trigger::Start => event.kind == EventKind::Start,
        Trigger::Cue(name) => event.kind == EventKind::Cue && event.cue.as_ref() == Some(name),
        Trigger::Detected { event: kind, on, .. } => {
            *kind == event.kind && event.on.is_some_and(|it| selects(scene, on, it))
        }
    }
}

/// Whether a selector means an entity.
pub(crate) fn selects(scene: &Scene, selector: &Selector, entity: hazuro::EntityId) -> bool {
    scene.select(selector).is_ok_and(|all| all.contains(&entity))
}
