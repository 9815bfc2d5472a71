//! From what a witness heard to an answer.

use hazuro::scene::{EventKind, ReactionId, Selector, Trigger};
use hazuro::why::{Chain, Gate, Notebook, Record, Verdict, Witness};
use hazuro::{By, Entry, Event, Play, Scene};
use serde::Serialize;

use crate::playtest::Playtest;
use crate::words::came_of;

use super::{Question, advice, senders};

/// Why an event happened, or why not.
///
/// See [`Question`] for an example.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Answer {
    /// What was asked, in words.
    pub question: String,
    /// How long was played, in seconds.
    pub seconds: f64,
    /// Each time it happened, in order.
    pub fired: Vec<Firing>,
    /// Each who could have been its subject, in the scene's order.
    pub candidates: Vec<Candidate>,
    /// What else there is to say, in words.
    pub notes: Vec<String>,
}

/// One time that the event happened.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Firing {
    /// When, in seconds.
    pub t: f64,
    /// The subject.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub who: Option<String>,
    /// Which part of it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub part: Option<String>,
    /// Why it began or ended.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cause: Option<&'static str>,
    /// What each reaction did that waits for it, in order.
    pub reactions: Vec<Reacted>,
}

/// What one reaction made of an event.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Reacted {
    /// The reaction, in words.
    pub reaction: String,
    /// The gate that stopped it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub miss: Option<Miss>,
    /// What it did, was refused, or failed at, each with its time.
    pub did: Vec<(f64, String)>,
}

/// One who could have been the subject.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Candidate {
    /// Who.
    pub who: String,
    /// How often it happened with it.
    pub fired: usize,
    /// The gates of the best attempt, in order, to the first that did not let pass.
    pub gates: Vec<GateSeen>,
    /// What stopped it, if it never happened.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub miss: Option<Miss>,
}

/// One gate that was tried.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct GateSeen {
    /// Its short name.
    pub gate: &'static str,
    /// What it asks.
    pub asks: &'static str,
    /// Whether it let pass.
    pub passed: bool,
}

/// A gate that did not let pass.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Miss {
    /// Its short name.
    pub gate: &'static str,
    /// What it asks.
    pub asks: &'static str,
    /// What it saw.
    pub saw: String,
    /// When it came closest, in seconds.
    pub t: f64,
    /// How much was missing, if that is a number.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub amount: Option<f64>,
    /// In what that is: `m`, `degrees`, `s`, `m/s` or `%`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub unit: Option<&'static str>,
    /// What would let it pass.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cure: Option<String>,
}

impl Miss {
    pub(crate) fn of(scene: &Scene, verdict: &Verdict) -> Self {
        let missing = verdict.missing().map(hazuro::why::Missing::amount);
        Self {
            gate: verdict.gate.code(),
            asks: verdict.gate.words(),
            saw: verdict.reason(scene),
            t: micros(verdict.nearest().secs()),
            amount: missing.map(|(amount, _)| micros(amount)),
            unit: missing.map(|(_, unit)| unit),
            cure: verdict.cure(scene),
        }
    }

    /// In one line: the gate, and what it saw.
    pub fn line(&self) -> String {
        let colon = if self.saw.is_empty() { "" } else { ": " };
        format!("{}{colon}{}", self.asks, self.saw)
    }
}

impl Answer {
    /// Who came nearest without making it happen: whom it was asked about, or else who got
    /// farthest through the gates.
    pub fn nearest(&self) -> Option<&Candidate> {
        let missed = self.candidates.iter().filter(|it| it.fired == 0 && it.miss.is_some());
        let passed = |it: &&Candidate| it.gates.iter().filter(|gate| gate.passed).count();
        // Of equals the first.
        missed.rev().max_by_key(passed)
    }
}

/// Somebody who listens to what is asked about, and to every reaction.
struct Listener {
    notebook: Notebook,
    /// What stopped reactions, in order.
    reactions: Vec<Verdict>,
}

impl Witness for Listener {
    fn wants(&self, chain: &Chain) -> bool {
        matches!(chain, Chain::Reaction { .. }) || self.notebook.wants(chain)
    }

    fn wants_from(&self, chain: &Chain, metres: f64) -> bool {
        self.notebook.wants_from(chain, metres)
    }

    fn hear(&mut self, verdict: Verdict) {
        if matches!(verdict.chain, Chain::Reaction { .. }) && !verdict.passed {
            self.reactions.push(verdict.clone());
        }
        self.notebook.hear(verdict);
    }
}

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

/// Plays a playtest with a witness on what is asked about, and answers.
pub fn explain(playtest: &Playtest, question: &Question) -> Answer {
    let mut play: Play = playtest.play();
    if let Some(rate) = question.rate {
        // Whoever asks has checked it.
        let _ = play.set_rate(rate);
    }
    // Of a cue, whatever leads to it counts.
    let about = Notebook::about(question.on, question.who);
    let until = question.until.min(playtest.length());
    let notebook = about.within(question.from, until);
    let mut listener = Listener { notebook, reactions: Vec::new() };
    let entries = play.advance_witnessed(playtest.length(), &mut listener).to_vec();
    let heard = Heard {
        scene: playtest.scene(),
        playtest,
        question,
        entries: &entries,
        notebook: &listener.notebook,
        stopped: &listener.reactions,
    };
    heard.answer()
}

impl Heard<'_> {
    fn answer(&self) -> Answer {
        let fired = self.firings();
        let candidates = self.candidates(&fired);
        let mut notes = senders::notes(self, fired.is_empty());
        notes.extend(advice::often(self, &fired));
        notes.extend(advice::bound(self));
        let seconds = self.playtest.length().secs();
        Answer { question: self.question.words(self.scene), seconds, fired, candidates, notes }
    }

    pub fn is_wanted(&self, entry: &Entry) -> bool {
        entry.event().is_some_and(|event| self.question.is_met_by(event))
    }

    fn firings(&self) -> Vec<Firing> {
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

    /// What somebody did, in words, if it is his.
    fn deed(&self, entry: &Entry, whose: By) -> Option<String> {
        match entry {
            Entry::Did { by, .. } | Entry::Said { by, .. } | Entry::Refused { by, .. }
                if *by == whose =>
            {
                came_of(self.scene, entry)
            }
            // Whose it is has been said.
            Entry::Problem { by, problem, .. } if *by == whose => {
                Some(format!("! {}", problem.describe(self.scene)))
            }
            _ => None,
        }
    }

    fn candidates(&self, fired: &[Firing]) -> Vec<Candidate> {
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

/// A number to six places.
pub(super) fn micros(number: f64) -> f64 {
    (number * 1e6).round() / 1e6 + 0.0
}
