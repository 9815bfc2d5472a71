//! A text that must be shown, or must not.

use std::convert::Infallible;

use hazuro::scene::{Fault, Named, nearest};
use hazuro::{EntityId, Entry, Happening, Time};

use super::judge::{Judge, Judged, times};
use super::often::{Often, Span};
use super::read::Reading;
use super::{Expect, Watcher};

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
        let of_key = judge.entries.iter().filter_map(|entry| match &entry.what {
            Happening::Said { key: its, time, to, .. } if its == key => Some((*time, *to, entry)),
            _ => None,
        });
        let all: Vec<(Time, Option<EntityId>, &Entry)> = of_key.collect();
        let fits = |(time, to, _): &(Time, Option<EntityId>, &Entry)| {
            span.holds(*time) && who.is_none_or(|who| to.is_none_or(|to| to == who))
        };
        let told = |(time, to, _): &(Time, Option<EntityId>, &Entry)| {
            let to = to.map_or(String::new(), |to| format!(" (to {})", name(to)));
            format!("at {time} s{to}")
        };
        let matching: Vec<_> = all.iter().filter(|it| fits(it)).copied().collect();
        let met = often.fits(matching.len());
        let to = who.map_or(String::new(), |who| format!(" to {}", name(who)));
        let expected = format!("the text `{key}`{to}{}{}", span.words(), often.words());
        let mut seen = times(matching.iter().map(told));
        if matching.is_empty() && !met && !all.is_empty() {
            seen = format!("{seen}; instead {}", times(all.iter().map(told)));
        }
        let why = judge.unless(met, || match often.most {
            // The first that is one too many.
            Some(most) if matching.len() > most => vec![judge.inquiry.shown(matching[most].2)],
            _ => {
                let missing = often.least.saturating_sub(matching.len());
                judge.inquiry.text(key, span.by.unwrap_or(judge.length), missing)
            }
        });
        Judged { met, expected, seen, why }
    }
}
