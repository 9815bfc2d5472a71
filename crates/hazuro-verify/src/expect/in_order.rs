//! Events that must happen one after another.

use std::convert::Infallible;

use hazuro::{Event, Time};

use super::judge::{Judge, Judged};
use super::pattern::Pattern;
use super::read::Reading;
use super::{Expect, Sort, Watcher};

/// Events must happen in this order.
#[derive(Debug)]
pub(crate) struct InOrder(Vec<Pattern>);

impl Expect for InOrder {
    type Seen = Infallible;

    fn read(reading: &mut Reading<'_, '_>) -> Option<Self> {
        let field = reading.field.key("in_order");
        let all = reading.keys.in_order.as_ref()?;
        if all.len() < 2 {
            let help = "name at least two events";
            reading.error("in_order", "one-expectation", "an order takes several events", help);
        }
        let mut patterns = Vec::new();
        for (index, keys) in all.iter().enumerate() {
            let field = field.item(index);
            let often = [keys.times.is_some(), keys.never.is_some(), keys.at_least.is_some()];
            if keys.event.is_none() || often.contains(&true) || keys.at_most.is_some() {
                let message = "an order consists of events, each of which happens";
                let help = "as in { event = \"enter\", on = \"pad\", who = \"miller\" }";
                reading.reader.error(&field, "one-expectation", message, help);
                continue;
            }
            let end = reading.end;
            let mut inner = Reading { reader: reading.reader, keys, field: &field, end };
            inner.strays(Sort::Happens);
            patterns.extend(Pattern::read(&mut inner));
        }
        Some(Self(patterns))
    }

    fn earliest(&self) -> Option<Time> {
        self.0.iter().filter_map(|pattern| pattern.span.after).max()
    }

    fn look(&self, _: &Watcher<'_>) -> Option<Infallible> {
        None
    }

    fn judge(&self, judge: &Judge<'_>, _: Option<&Infallible>) -> Judged {
        let words: Vec<String> = self.0.iter().map(|it| it.words(judge.scene())).collect();
        let expected = words.join(", then ");
        let mut events = judge.events();
        let mut found: Vec<&Event> = Vec::new();
        for (pattern, words) in self.0.iter().zip(&words) {
            let Some(event) = events.find(|event| pattern.matches(event)) else {
                let since = found.last().map(|event| event.time);
                let after = since.map_or("never".into(), |time| format!("not after {time} s"));
                let earlier = judge.events().rfind(|event| pattern.matches(event));
                let earlier = earlier
                    .map_or(String::new(), |event| format!("; but before, at {} s", event.time));
                let seen = format!("{words}: {after}{earlier}");
                let why = judge.unless(!earlier.is_empty(), || judge.missing(pattern, 1));
                return Judged { met: false, expected, seen, why };
            };
            found.push(event);
        }
        let times: Vec<String> = found.iter().map(|event| format!("{} s", event.time)).collect();
        let seen = format!("at {}", times.join(", "));
        Judged { met: true, expected, seen, why: Vec::new() }
    }
}
