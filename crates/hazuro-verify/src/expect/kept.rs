//! What somebody must want to take and not get.

use std::convert::Infallible;

use hazuro::scene::Detector;
use hazuro::{EntityId, Entry, Happening, Time};
use hazuro_format::Code;

use super::judge::{Counted, Judge, Judged};
use super::often::{Often, Span};
use super::read::Reading;
use super::{Expect, Watcher};
use crate::words::taking;

/// That somebody was refused something, and why in words.
type Refusal<'a> = (&'a Entry, EntityId, String);

/// Somebody must be kept from taking something so often.
#[derive(Debug)]
pub(crate) struct Kept {
    what: EntityId,
    who: Option<EntityId>,
    /// Words of the reason.
    why: Option<String>,
    span: Span,
    often: Often,
}

impl Expect for Kept {
    type Seen = Infallible;

    fn read(reading: &mut Reading<'_, '_>) -> Option<Self> {
        const TAKEN: [Detector; 3] = [Detector::Carry, Detector::Ownership, Detector::Pickup];
        let name = reading.keys.kept.as_ref()?;
        let what = reading.entity(name, "kept")?;
        if !TAKEN.into_iter().any(|it| reading.reader.scene.has(what, it)) {
            let message = format!("`{name}` can be taken by nobody, so nobody is kept from it");
            let help = "give it `carry`, `ownership` or `pickup`";
            reading.error("kept", Code::NoDetector, &message, help);
        }
        let (who, often) = (reading.subject(), reading.often()?);
        Some(Self { what, who, why: reading.keys.why.clone(), span: reading.span(), often })
    }

    fn earliest(&self) -> Option<Time> {
        self.span.after
    }

    fn look(&self, _: &Watcher<'_>) -> Option<Infallible> {
        None
    }

    fn judge(&self, judge: &Judge<'_>, _: Option<&Infallible>) -> Judged {
        let Self { what, who, why, span, often } = self;
        let scene = judge.scene();
        let all: Vec<Refusal<'_>> = judge
            .entries
            .iter()
            .filter_map(|entry| {
                let Happening::Refused { action, why, .. } = &entry.what else { return None };
                let (_, to) = taking(action).filter(|(taken, _)| taken == what)?;
                Some((entry, to, why.words(scene)))
            })
            .collect();
        let fits = |(entry, to, reason): &&Refusal<'_>| {
            span.holds(entry.time())
                && who.is_none_or(|who| *to == who)
                && why.as_ref().is_none_or(|why| reason.contains(why.as_str()))
        };
        let by = who.map_or("somebody", |who| scene.name(who));
        let because = why.as_ref().map_or(String::new(), |why| format!(" (\"{why}\")"));
        let counted = Counted {
            expected: format!("{by} kept from {}{because}{}", scene.name(*what), span.words()),
            often: *often,
            matching: all.iter().filter(fits).cloned().collect(),
            instead: all,
            told: &|(entry, to, reason)| {
                format!("at {} s ({}: {reason})", entry.time(), scene.name(*to))
            },
        };
        counted.judged(
            judge,
            |(entry, ..)| vec![judge.inquiry.told(entry)],
            |_| judge.inquiry.taken(*what, *who, span.by.unwrap_or(judge.length)),
        )
    }
}
