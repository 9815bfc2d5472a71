//! Whether expectations were met, and why not.

use hazuro::scene::EventKind;
use hazuro::{EntityId, Entry, Event, Happening, Scene, Time};
use hazuro_format::Literal;
use hazuro_script::Value;

use super::outcome::{Outcome, Seen};
use crate::playtest::{Expectation, Often, Pattern, Playtest, What};
use crate::why::{Inquiry, Question};
use crate::words::place_words;

pub(super) struct Judge<'a> {
    pub playtest: &'a Playtest,
    pub entries: &'a [Entry],
    pub inquiry: &'a Inquiry<'a>,
    /// Whether to say why.
    pub explains: bool,
}

/// An outcome but for its line: whether it was met, what was expected, what was seen, and why not.
type Judged = (bool, String, String, Vec<String>);

impl Judge<'_> {
    pub fn outcomes(&self, moments: &[Option<Seen>]) -> Vec<Outcome> {
        let judged = self.playtest.expectations.iter().zip(moments).map(|(expectation, moment)| {
            let (met, expected, seen, why) = self.judge(expectation, moment.as_ref());
            let line = self.playtest.source.line_and_column(expectation.span.start).0;
            Outcome { met, expected, seen, why, line }
        });
        judged.collect()
    }

    fn scene(&self) -> &Scene {
        &self.playtest.scene
    }

    fn judge(&self, expectation: &Expectation, seen: Option<&Seen>) -> Judged {
        let name = |id| self.scene().name(id);
        let not = |is: bool| if is { "" } else { "not " };
        match (&expectation.what, seen) {
            (What::Event { pattern, often }, _) => self.event(pattern, *often),
            (What::InOrder(patterns), _) => self.in_order(patterns),
            (What::Said { key, who, after, by, often }, _) => {
                self.said(key, *who, (*after, *by), *often)
            }
            (What::Value { text, who, is, within, at, .. }, Some(Seen::Value(value))) => {
                let about = who.map_or(String::new(), |who| format!("{}: ", name(who)));
                let off = if *within == Value::CLOSE {
                    String::new()
                } else {
                    format!(" within {within}")
                };
                let expected = format!("{about}{text} is {is}{off} at {} s", at.secs());
                match value {
                    Ok(value) => {
                        let met = value.is_within(is, *within);
                        let lacks = lacks(value, is);
                        let why = || self.inquiry.value(text, *who, *at, lacks);
                        (met, expected, format!("it is {value}"), self.unless(met, why))
                    }
                    Err(why) => (false, expected, why.clone(), Vec::new()),
                }
            }
            (What::Place { who, place, within, at }, Some(Seen::Place(here, there))) => {
                let off = here.distance(*there);
                let place = place_words(self.scene(), place);
                let expected =
                    format!("{} within {within} m of {place} at {} s", name(*who), at.secs());
                let here = here.to_array().map(|along| (along * 1000.0).round() / 1000.0 + 0.0);
                let met = off <= *within;
                let why = self.unless(met, || self.inquiry.place(*who, *at, off));
                (met, expected, format!("{off:.3} m off, at {here:?}"), why)
            }
            (What::Offered { prompt, who, is, at }, Some(Seen::Is(was, _))) => {
                let (prompt_name, who_name) = (name(*prompt), name(*who));
                let expected = format!(
                    "{prompt_name} is {}offered to {who_name} at {} s",
                    not(*is),
                    at.secs()
                );
                let why = || {
                    if *was {
                        return self.inquiry.still_offered(*prompt, *who, *at);
                    }
                    let about = Question::about(EventKind::Offer, *prompt);
                    let question = Question { who: Some(*who), until: *at, ..about };
                    self.inquiry.missing_now(&question)
                };
                let why = self.unless(was == is, why);
                (was == is, expected, format!("it is {}offered", not(*was)), why)
            }
            (What::Visible { what, is, at }, Some(Seen::Is(was, off))) => {
                let expected = format!("{} is {}visible at {} s", name(*what), not(*is), at.secs());
                let why = self.unless(was == is, || self.inquiry.visible(*what, *off, *is, *at));
                (was == is, expected, format!("it is {}visible", not(*was)), why)
            }
            _ => (false, "something at a moment".into(), "it was never asked".into(), Vec::new()),
        }
    }

    fn events(&self) -> impl DoubleEndedIterator<Item = &Event> {
        self.entries.iter().filter_map(Entry::event)
    }

    fn event(&self, pattern: &Pattern, often: Often) -> Judged {
        let matching: Vec<&Event> = self.events().filter(|event| pattern.matches(event)).collect();
        let met = often.fits(matching.len());
        let expected = pattern.words(self.scene()) + often.words().as_str();
        if met && matching.is_empty() {
            return (met, expected, String::new(), Vec::new());
        }
        let mut seen = list(self.scene(), &matching);
        let mut why = Vec::new();
        if !met {
            if matching.is_empty() {
                // What came nearest: the same event without the limits on who and when.
                let (event, on, cue) = (pattern.event, pattern.on, pattern.cue.clone());
                let loose = Pattern { on, cue, ..Pattern::of(event) };
                let others: Vec<&Event> =
                    self.events().filter(|event| loose.matches(event)).collect();
                if !others.is_empty() {
                    seen = format!("{seen}; instead {}", list(self.scene(), &others));
                }
            }
            why.extend(self.unless(met, || match often.most {
                // The first that is one too many.
                Some(most) if matching.len() > most => self.inquiry.came_of(matching[most]),
                _ => self.missing(pattern, often.least.saturating_sub(matching.len())),
            }));
        }
        (met, expected, seen, why)
    }

    /// Whether a text was shown as often as it must be, within a span.
    fn said(
        &self,
        key: &str,
        who: Option<EntityId>,
        (after, by): (Option<Time>, Option<Time>),
        often: Often,
    ) -> Judged {
        let name = |id| self.scene().name(id);
        let of_key = self.entries.iter().filter_map(|entry| match &entry.what {
            Happening::Said { key: its, time, to, .. } if its == key => Some((*time, *to, entry)),
            _ => None,
        });
        let all: Vec<(Time, Option<EntityId>, &Entry)> = of_key.collect();
        let fits = |(time, to, _): &(Time, Option<EntityId>, &Entry)| {
            after.is_none_or(|after| *time >= after)
                && by.is_none_or(|by| *time <= by)
                && who.is_none_or(|who| to.is_none_or(|to| to == who))
        };
        let told = |(time, to, _): &(Time, Option<EntityId>, &Entry)| {
            let to = to.map_or(String::new(), |to| format!(" (to {})", name(to)));
            format!("at {time} s{to}")
        };
        let matching: Vec<_> = all.iter().filter(|it| fits(it)).copied().collect();
        let met = often.fits(matching.len());
        let mut expected = format!("the text `{key}`");
        expected.extend(who.map(|who| format!(" to {}", name(who))));
        expected.extend(after.map(|after| format!(", not before {} s", after.secs())));
        expected.extend(by.map(|by| format!(", by {} s", by.secs())));
        expected += &often.words();
        let mut seen = times(matching.iter().map(told));
        if matching.is_empty() && !met && !all.is_empty() {
            seen = format!("{seen}; instead {}", times(all.iter().map(told)));
        }
        let why = self.unless(met, || match often.most {
            // The first that is one too many.
            Some(most) if matching.len() > most => vec![self.inquiry.shown(matching[most].2)],
            _ => {
                let missing = often.least.saturating_sub(matching.len());
                self.inquiry.text(key, by.unwrap_or(self.playtest.length()), missing)
            }
        });
        (met, expected, seen, why)
    }

    /// The reasons, if it was not met and they are asked for.
    fn unless(&self, met: bool, why: impl FnOnce() -> Vec<String>) -> Vec<String> {
        if met || !self.explains { Vec::new() } else { why() }
    }

    /// Why an event did not come often enough.
    fn missing(&self, pattern: &Pattern, missing: usize) -> Vec<String> {
        let question = Question {
            on: pattern.on,
            cue: pattern.cue.clone(),
            who: pattern.who,
            from: pattern.after.unwrap_or(Time::ZERO),
            until: pattern.by.unwrap_or(Time::MAX),
            ..Question::of(pattern.event)
        };
        self.inquiry.missing(&question, missing)
    }

    fn in_order(&self, patterns: &[Pattern]) -> Judged {
        let words: Vec<String> =
            patterns.iter().map(|pattern| pattern.words(self.scene())).collect();
        let expected = words.join(", then ");
        let mut events = self.events();
        let mut found: Vec<&Event> = Vec::new();
        for (pattern, words) in patterns.iter().zip(&words) {
            let Some(event) = events.find(|event| pattern.matches(event)) else {
                let since = found.last().map(|event| event.time);
                let after = since.map_or("never".into(), |time| format!("not after {time} s"));
                let earlier = self.events().rfind(|event| pattern.matches(event));
                let earlier = earlier
                    .map_or(String::new(), |event| format!("; but before, at {} s", event.time));
                let seen = format!("{words}: {after}{earlier}");
                let why = self.unless(!earlier.is_empty(), || self.missing(pattern, 1));
                return (false, expected, seen, why);
            };
            found.push(event);
        }
        let times: Vec<String> = found.iter().map(|event| format!("{} s", event.time)).collect();
        (true, expected, format!("at {}", times.join(", ")), Vec::new())
    }
}

/// How often a count that is too small would have had to be raised by one.
fn lacks(value: &Value, is: &Literal) -> Option<usize> {
    match (value, is) {
        (Value::Whole(value), Literal::Whole(is)) if is > value => Some((is - value) as usize),
        (Value::Number(value), Literal::Number(is)) if is > value => Some(1),
        (Value::Flag(false), Literal::Flag(true)) => Some(1),
        _ => None,
    }
}

/// Events as a short list of times.
fn list(scene: &Scene, events: &[&Event]) -> String {
    times(events.iter().map(|event| {
        let who = event.who.map_or(String::new(), |who| format!(" ({})", scene.name(who)));
        format!("at {} s{who}", event.time)
    }))
}

/// A short list of times.
fn times(all: impl ExactSizeIterator<Item = String>) -> String {
    const SHOWN: usize = 4;
    let count = all.len();
    if count == 0 {
        return "never".into();
    }
    let more = if count > SHOWN { " ..." } else { "" };
    let times = if count == 1 { String::new() } else { format!("{count} times: ") };
    format!("{times}{}{more}", all.take(SHOWN).collect::<Vec<_>>().join(", "))
}
