//! What an expectation is held against.

use hazuro::{EntityId, Entry, Event, Scene, Time};

use super::often::Often;
use super::pattern::Pattern;
use super::told::{Sighting, Told};
use crate::why::{Inquiry, Question};

/// What has happened in a play, and whom to ask for reasons.
#[derive(Clone, Copy)]
pub(crate) struct Judge<'a> {
    pub entries: &'a [Entry],
    pub inquiry: &'a Inquiry<'a>,
    /// How long it was played.
    pub length: Time,
    /// What those were told who play from elsewhere.
    pub told: &'a [Told],
    /// As whom of these it is seen; none for the play itself.
    pub seen_by: Option<&'a Told>,
    /// Whether to say why.
    pub explains: bool,
}

/// Whether an expectation was met.
pub(crate) struct Judged {
    pub met: bool,
    /// What was expected, in words.
    pub expected: String,
    /// What was seen, in words.
    pub seen: String,
    /// Why it was not met, a line each.
    pub why: Vec<String>,
}

impl Judged {
    /// That it could not be seen whether it was met: why not.
    pub fn unseen(expected: String, why: &str) -> Self {
        Self { met: false, expected, seen: why.to_owned(), why: Vec::new() }
    }
}

impl<'a> Judge<'a> {
    pub fn scene(&self) -> &'a Scene {
        self.inquiry.scene()
    }

    /// As it is seen by a player who plays from elsewhere.
    pub fn of(self, player: EntityId) -> Self {
        Self { seen_by: self.told.iter().find(|told| told.player == player), ..self }
    }

    /// What was detected, in order, and when that was seen.
    pub fn sightings(&self) -> Vec<Sighting<'a>> {
        let mut events = self.entries.iter().filter_map(Entry::event);
        let Some(told) = self.seen_by else { return events.map(Sighting::of).collect() };
        // What was told is a part of what happened, in the same order.
        let sightings = told.events.iter().filter_map(|(at, heard)| {
            let mut rest = events.clone();
            let event = rest.find(|event| *event == heard)?;
            events = rest;
            Some(Sighting { event, at: *at })
        });
        sightings.collect()
    }

    /// That what is expected could not be seen.
    pub fn unseen(&self, expected: String) -> Judged {
        let why = match self.seen_by {
            Some(told) => format!("{} was not in the play then", self.scene().name(told.player)),
            None => "it was never asked".to_owned(),
        };
        Judged::unseen(expected, &why)
    }

    /// The reasons, if it was not met and they are asked for.
    pub fn unless(&self, met: bool, why: impl FnOnce() -> Vec<String>) -> Vec<String> {
        if met || !self.explains { Vec::new() } else { why() }
    }

    /// Why an event did not come often enough.
    pub fn missing(&self, pattern: &Pattern, missing: usize) -> Vec<String> {
        if let Some(told) = self.seen_by {
            let happened = self.entries.iter().filter_map(Entry::event);
            let happened = happened.filter(|event| pattern.is_about(event));
            let lines: Vec<String> = happened.map(|event| self.late(told, event)).take(3).collect();
            if !lines.is_empty() {
                return lines;
            }
        }
        let question = Question {
            on: pattern.on,
            cue: pattern.cue.clone(),
            who: pattern.who,
            from: pattern.span.after.unwrap_or(Time::ZERO),
            until: pattern.span.by.unwrap_or(Time::MAX),
            ..Question::of(pattern.event)
        };
        self.inquiry.missing(&question, missing)
    }

    /// When a player was told of an event, or why not, in words.
    fn late(&self, told: &Told, event: &Event) -> String {
        let (name, time) = (self.scene().name(told.player), event.time);
        let heard = told.events.iter().find(|(_, it)| it == event);
        let rest = match (heard, told.since) {
            (Some((at, _)), _) => format!("and {name} was told of it at {at:#} s"),
            (None, None) => format!("and {name} was never let in"),
            (None, Some(since)) if since > time => format!(
                "before {name} was in, at {since:#} s: whoever comes is told what is so, not what has happened"
            ),
            (None, Some(_)) if self.scene().has_secrets() => {
                format!(
                    "and {name} was not told of it: the line was late, or it is somebody's secret"
                )
            }
            (None, Some(_)) => format!("and {name} was not told of it by the end"),
        };
        format!("it happened at {time:#} s, {rest}")
    }
}

/// What is counted for an expectation.
pub(super) struct Counted<'a, T> {
    /// What is expected, without how often.
    pub expected: String,
    pub often: Often,
    /// What is as expected.
    pub matching: Vec<T>,
    /// What comes nearest, if nothing is.
    pub instead: Vec<T>,
    /// How one is told.
    pub told: &'a dyn Fn(&T) -> String,
}

impl<T> Counted<'_, T> {
    /// Whether it was so as often as it must; if not, why there is `one_too_many`, or why so and so many are
    /// `missing`.
    pub fn judged(
        self,
        judge: &Judge<'_>,
        one_too_many: impl FnOnce(&T) -> Vec<String>,
        missing: impl FnOnce(usize) -> Vec<String>,
    ) -> Judged {
        let Self { expected, often, matching, instead, told } = self;
        let (count, met) = (matching.len(), often.fits(matching.len()));
        let expected = expected + often.words().as_str();
        let seen = match (count, met) {
            (0, true) => String::new(),
            (0, false) if !instead.is_empty() => {
                format!("never; instead {}", times(instead.iter().map(told)))
            }
            _ => times(matching.iter().map(told)),
        };
        let why = judge.unless(met, || match often.most.and_then(|most| matching.get(most)) {
            Some(first_too_many) => one_too_many(first_too_many),
            None => missing(often.least.saturating_sub(count)),
        });
        Judged { met, expected, seen, why }
    }
}

/// An event as its time, and who.
pub(super) fn one(scene: &Scene, Sighting { event, at }: &Sighting<'_>) -> String {
    let who = event.who.map_or(String::new(), |who| format!(" ({})", scene.name(who)));
    format!("at {at} s{who}")
}

/// A short list of times.
pub(super) fn times(all: impl ExactSizeIterator<Item = String>) -> String {
    const SHOWN: usize = 4;
    let count = all.len();
    if count == 0 {
        return "never".into();
    }
    let more = if count > SHOWN { " ..." } else { "" };
    let times = if count == 1 { String::new() } else { format!("{count} times: ") };
    format!("{times}{}{more}", all.take(SHOWN).collect::<Vec<_>>().join(", "))
}

/// A word before what is or is not.
pub(super) fn not(is: bool) -> &'static str {
    if is { "" } else { "not " }
}
