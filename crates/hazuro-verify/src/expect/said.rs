//! A text that must be shown, or must not.

use std::convert::Infallible;

use hazuro::scene::{Fault, Named, nearest};
use hazuro::{EntityId, Entry, Happening, Time};

use super::judge::{Counted, Judge, Judged};
use super::often::{Often, Span};
use super::read::Reading;
use super::{Expect, Watcher};

/// That a text was shown, and to whom if not to everybody.
type Showing<'a> = (&'a Entry, Option<EntityId>);

/// A text must be shown so often.
#[derive(Debug)]
pub(crate) struct Said {
    key: String,
    /// Who is shown it, alone or with everybody.
    who: Option<EntityId>,
    span: Span,
    often: Often,
}

impl Expect for Said {
    type Seen = Infallible;

    fn read(reading: &mut Reading<'_, '_>) -> Option<Self> {
        let key = reading.keys.said.clone()?;
        let texts = reading.reader.scene.texts();
        if !texts.contains_key(&key) {
            let nearest = nearest(&key, texts.keys().map(String::as_str));
            let fault = Fault::Unknown { what: Named::Text, name: key, nearest };
            reading.reader.fault(&reading.field.key("said"), &fault);
            return None;
        }
        let (who, often) = (reading.subject(), reading.often()?);
        Some(Self { key, who, span: reading.span(), often })
    }

    fn earliest(&self) -> Option<Time> {
        self.span.after
    }

    fn look(&self, _: &Watcher<'_>) -> Option<Infallible> {
        None
    }

    fn judge(&self, judge: &Judge<'_>, _: Option<&Infallible>) -> Judged {
        let Self { key, who, span, often } = self;
        let name = |id| judge.scene().name(id);
        let all: Vec<Showing<'_>> = judge
            .entries
            .iter()
            .filter_map(|entry| match &entry.what {
                Happening::Said { key: its, to, .. } if its == key => Some((entry, *to)),
                _ => None,
            })
            .collect();
        let fits = |(entry, to): &&Showing<'_>| {
            span.holds(entry.time()) && who.is_none_or(|who| to.is_none_or(|to| to == who))
        };
        let to = who.map_or(String::new(), |who| format!(" to {}", name(who)));
        let counted = Counted {
            expected: format!("the text `{key}`{to}{}", span.words()),
            often: *often,
            matching: all.iter().filter(fits).copied().collect(),
            instead: all,
            told: &|(entry, to)| {
                let to = to.map_or(String::new(), |to| format!(" (to {})", name(to)));
                format!("at {} s{to}", entry.time())
            },
        };
        counted.judged(
            judge,
            |(entry, _)| vec![judge.inquiry.shown(entry)],
            |missing| judge.inquiry.text(key, span.by.unwrap_or(judge.length), missing),
        )
    }
}
