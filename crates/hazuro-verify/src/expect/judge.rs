//! What an expectation is held against.

use hazuro::{Entry, Event, Scene, Time};

use super::pattern::Pattern;
use crate::why::{Inquiry, Question};

/// What has happened in a play, and whom to ask for reasons.
pub(crate) struct Judge<'a> {
    pub entries: &'a [Entry],
    pub inquiry: &'a Inquiry<'a>,
    /// How long it was played.
    pub length: Time,
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
    pub const NEVER_ASKED: &str = "it was never asked";

    /// That it could not be seen whether it was met: why not.
    pub fn unseen(expected: String, why: &str) -> Self {
        Self { met: false, expected, seen: why.to_owned(), why: Vec::new() }
    }
}

impl<'a> Judge<'a> {
    pub fn scene(&self) -> &'a Scene {
        self.inquiry.scene()
    }

    /// What was detected, in order.
    pub fn events(&self) -> impl DoubleEndedIterator<Item = &'a Event> {
        self.entries.iter().filter_map(Entry::event)
    }

    /// The reasons, if it was not met and they are asked for.
    pub fn unless(&self, met: bool, why: impl FnOnce() -> Vec<String>) -> Vec<String> {
        if met || !self.explains { Vec::new() } else { why() }
    }

    /// Why an event did not come often enough.
    pub fn missing(&self, pattern: &Pattern, missing: usize) -> Vec<String> {
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
}

/// Events as a short list of times.
pub(super) fn list(scene: &Scene, events: &[&Event]) -> String {
    times(events.iter().map(|event| {
        let who = event.who.map_or(String::new(), |who| format!(" ({})", scene.name(who)));
        format!("at {} s{who}", event.time)
    }))
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
