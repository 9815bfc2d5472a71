//! Whether expectations were met, and why not.

use hazuro::scene::EventKind;
use hazuro::{Entry, Event, Scene, Time};

use super::outcome::{Outcome, Seen};
use crate::playtest::{Expectation, Often, Pattern, Playtest, What};
use crate::why::{Question, explain};
use crate::words::place_words;

pub(super) struct Judge<'a> {
    pub playtest: &'a Playtest,
    pub entries: &'a [Entry],
    pub rate: Option<u32>,
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
            (What::Value { text, who, is, at, .. }, Some(Seen::Value(value))) => {
                let about = who.map_or(String::new(), |who| format!("{}: ", name(who)));
                let expected = format!("{about}{text} is {} at {} s", is, at.secs());
                match value {
                    Ok(value) => (value.is(is), expected, format!("it is {value}"), Vec::new()),
                    Err(why) => (false, expected, why.clone(), Vec::new()),
                }
            }
            (What::Place { who, place, within, at }, Some(Seen::Place(here, there))) => {
                let off = here.distance(*there);
                let place = place_words(self.scene(), place);
                let expected =
                    format!("{} within {within} m of {place} at {} s", name(*who), at.secs());
                let here = here.to_array().map(|along| (along * 1000.0).round() / 1000.0 + 0.0);
                (off <= *within, expected, format!("{off:.3} m off, at {here:?}"), Vec::new())
            }
            (What::Offered { prompt, who, is, at }, Some(Seen::Is(was))) => {
                let (prompt_name, who_name) = (name(*prompt), name(*who));
                let expected = format!(
                    "{prompt_name} is {}offered to {who_name} at {} s",
                    not(*is),
                    at.secs()
                );
                let why = if *is && !was {
                    let question =
                        Question { who: Some(*who), ..Question::about(EventKind::Offer, *prompt) };
                    self.why(Question { until: *at, ..question })
                } else {
                    Vec::new()
                };
                (was == is, expected, format!("it is {}offered", not(*was)), why)
            }
            (What::Visible { what, is, at }, Some(Seen::Is(was))) => {
                let expected = format!("{} is {}visible at {} s", name(*what), not(*is), at.secs());
                (was == is, expected, format!("it is {}visible", not(*was)), Vec::new())
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
            let question = Question {
                on: pattern.on,
                cue: pattern.cue.clone(),
                who: pattern.who,
                from: pattern.after.unwrap_or(Time::ZERO),
                until: pattern.by.unwrap_or(Time::MAX),
                ..Question::of(pattern.event)
            };
            why.extend(self.why(question));
        }
        (met, expected, seen, why)
    }

    /// What stopped an event, in a few lines.
    fn why(&self, question: Question) -> Vec<String> {
        if !self.explains {
            return Vec::new();
        }
        let answer = explain(self.playtest, &Question { rate: self.rate, ..question });
        let mut lines = Vec::new();
        if answer.fired.is_empty()
            && let Some(candidate) = answer.nearest()
            && let Some(miss) = &candidate.miss
        {
            let (who, asks) = (&candidate.who, miss.asks);
            let saw = if miss.saw.is_empty() { String::new() } else { format!(": {}", miss.saw) };
            lines.push(format!("{who} was stopped at \"{asks}\"{saw}"));
            lines.extend(miss.cure.as_ref().map(|cure| format!("cure: {cure}")));
            return lines;
        }
        // That nothing waits for it is no reason why it did not happen.
        lines.extend(answer.notes.into_iter().find(|note| !note.starts_with("no reaction")));
        lines
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
                let why = if earlier.is_empty() {
                    let (on, cue, who) = (pattern.on, pattern.cue.clone(), pattern.who);
                    self.why(Question { on, cue, who, ..Question::of(pattern.event) })
                } else {
                    Vec::new()
                };
                return (false, expected, seen, why);
            };
            found.push(event);
        }
        let times: Vec<String> = found.iter().map(|event| format!("{} s", event.time)).collect();
        (true, expected, format!("at {}", times.join(", ")), Vec::new())
    }
}

/// Events as a short list of times.
fn list(scene: &Scene, events: &[&Event]) -> String {
    const SHOWN: usize = 4;
    if events.is_empty() {
        return "never".into();
    }
    let each = events.iter().take(SHOWN).map(|event| {
        let who = event.who.map_or(String::new(), |who| format!(" ({})", scene.name(who)));
        format!("at {} s{who}", event.time)
    });
    let more = if events.len() > SHOWN { " ..." } else { "" };
    let times = if events.len() == 1 { String::new() } else { format!("{} times: ", events.len()) };
    format!("{times}{}{more}", each.collect::<Vec<_>>().join(", "))
}
