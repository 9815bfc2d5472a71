//! Events that must happen one after another.

use std::convert::Infallible;

use hazuro::Time;
use hazuro_format::Code;

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
            reading.error("in_order", Code::OneExpectation, "an order takes several events", help);
        }
        let mut patterns = Vec::new();
        for (index, keys) in all.iter().enumerate() {
            let field = field.item(index);
            let often = [keys.times.is_some(), keys.never.is_some(), keys.at_least.is_some()];
            if keys.seen_by.is_some() {
                let message = "`seen_by` says of a whole order who sees it";
                let help = "put it beside `in_order`";
                reading.reader.error(&field.key("seen_by"), Code::NoPartner, message, help);
            }
            if keys.event.is_none() || often.contains(&true) || keys.at_most.is_some() {
                let message = "an order consists of events, each of which happens";
                let help = "as in { event = \"enter\", on = \"pad\", who = \"miller\" }";
                reading.reader.error(&field, Code::OneExpectation, message, help);
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
        let all = judge.sightings();
        let mut rest = all.iter().copied();
        let mut found: Vec<Time> = Vec::new();
        for (pattern, words) in self.0.iter().zip(&words) {
            let Some(sighting) = rest.find(|it| pattern.matches(*it)) else {
                let since = found.last();
                let after = since.map_or("never".into(), |time| format!("not after {time} s"));
                let earlier = all.iter().rfind(|it| pattern.matches(**it));
                let earlier =
                    earlier.map_or(String::new(), |it| format!("; but before, at {} s", it.at));
                let seen = format!("{words}: {after}{earlier}");
                let why = judge.unless(!earlier.is_empty(), || judge.missing(pattern, 1));
                return Judged { met: false, expected, seen, why };
            };
            found.push(sighting.at);
        }
        let times: Vec<String> = found.iter().map(|time| format!("{time} s")).collect();
        let seen = format!("at {}", times.join(", "));
        Judged { met: true, expected, seen, why: Vec::new() }
    }
}
