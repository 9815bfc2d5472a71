//! What a witness heard and what happened, put together.

use hazuro::scene::{EventKind, ReactionId, Selector, Trigger};
use hazuro::why::{Chain, Gate, Notebook, Record, Verdict};
use hazuro::{By, Entry, Event, Happening, Scene};

use crate::playtest::Playtest;
use crate::words::came_of;

use super::answer::{Candidate, Firing, GateSeen, Miss, Reacted, micros};
use super::question::Question;

/// What was heard and what happened.
pub(super) struct Heard<'a> {
    pub scene: &'a Scene,
    pub playtest: &'a Playtest,
    pub question: &'a Question,
    pub entries: &'a [Entry],
    pub notebook: &'a Notebook,
    /// What stopped reactions, in order.
    pub stopped: &'a [Verdict],
}

impl Heard<'_> {
    pub fn is_wanted(&self, entry: &Entry) -> bool {
        entry.event().is_some_and(|event| self.question.is_met_by(event))
    }

    pub fn firings(&self) -> Vec<Firing> {
        let wanted = self.entries.iter().enumerate().filter(|(_, entry)| self.is_wanted(entry));
        let firing = |(index, entry): (usize, &Entry)| {
            let event = entry.event()?;
            let name = |id| self.scene.name(id).to_owned();
            let part = event.who.zip(event.part);
            let part = part.and_then(|(who, part)| self.scene.part_name(who, part));
            Some(Firing {
                t: micros(event.time.secs()),
                who: event.who.map(name),
                part: part.map(Into::into),
                cause: event.cause.map(hazuro::Cause::word),
                reactions: self.reacted(index, event),
            })
        };
        wanted.filter_map(firing).collect()
    }

    /// The reactions that wait for an event, in the scene's order.
    pub fn waiting(&self, event: &Event) -> impl Iterator<Item = ReactionId> {
        let waits = |trigger: &Trigger| match trigger {
            Trigger::Start => event.kind == EventKind::Start,
            Trigger::Cue(name) => event.kind == EventKind::Cue && event.cue.as_ref() == Some(name),
            Trigger::Detected { event: kind, on, .. } => {
                *kind == event.kind && event.on.is_some_and(|it| selects(self.scene, on, it))
            }
        };
        let reactions = self.scene.reaction_ids();
        reactions.filter(move |it| self.scene.reaction(*it).triggers().iter().any(waits))
    }

    /// What each reaction made of the event at an index.
    fn reacted(&self, index: usize, event: &Event) -> Vec<Reacted> {
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
            // Until it reacts again, what it does comes of this event.
            let rest = &self.entries[index + 1..];
            let again = rest.iter().position(|entry| {
                let other = entry.event().filter(|other| other.kind == event.kind);
                other.is_some_and(|other| self.waiting(other).any(|it| it == reaction))
            });
            let rest = &rest[..again.unwrap_or(rest.len())];
            let did = rest
                .iter()
                .filter_map(|entry| Some((micros(entry.time().secs()), self.deed(entry, by)?)));
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

    pub fn candidates(&self, fired: &[Firing]) -> Vec<Candidate> {
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
        let mut candidates: Vec<Candidate> = Vec::new();
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
            let miss = record.stopped().filter(|_| times == 0);
            let candidate = Candidate {
                who: who.into(),
                fired: times,
                gates: record.gates().into_iter().map(gate).collect(),
                miss: miss.map(|verdict| Miss::of(self.scene, verdict)),
            };
            // What was tried at a use tells more than whether it was detected at some time.
            let known = candidates.iter().position(|known| known.who == candidate.who);
            match (known, record.chain()) {
                (Some(known), Chain::Use { .. }) => candidates[known] = candidate,
                (Some(_), _) => {}
                (None, _) => candidates.push(candidate),
            }
        }
        let place = |it: &Candidate| self.scene.find(&it.who);
        candidates.sort_by_key(place);
        candidates
    }
}

/// Whether a selector means an entity.
pub(crate) fn selects(scene: &Scene, selector: &Selector, entity: hazuro::EntityId) -> bool {
    scene.select(selector).is_ok_and(|all| all.contains(&entity))
}
