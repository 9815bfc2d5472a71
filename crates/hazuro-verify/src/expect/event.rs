//! An event that must happen, or must not.

use std::convert::Infallible;

use hazuro::Time;

use super::judge::{Judge, Judged, list};
use super::often::Often;
use super::pattern::Pattern;
use super::read::Reading;
use super::{Expect, Watcher};

/// An event must happen so often.
#[derive(Debug)]
pub(crate) struct Happens {
    pub pattern: Pattern,
    pub often: Often,
}

impl Expect for Happens {
    type Seen = Infallible;

    fn read(reading: &mut Reading<'_, '_>) -> Option<Self> {
        let often = reading.often()?;
        Some(Self { pattern: Pattern::read(reading)?, often })
    }

    fn earliest(&self) -> Option<Time> {
        self.pattern.span.after
    }

    fn look(&self, _: &Watcher<'_>) -> Option<Infallible> {
        None
    }

    fn judge(&self, judge: &Judge<'_>, _: Option<&Infallible>) -> Judged {
        let Self { pattern, often } = self;
        let all = judge.sightings();
        let matching: Vec<_> = all.iter().copied().filter(|it| pattern.matches(*it)).collect();
        let met = often.fits(matching.len());
        let expected = pattern.words(judge.scene()) + often.words().as_str();
        if met && matching.is_empty() {
            return Judged { met, expected, seen: String::new(), why: Vec::new() };
        }
        let mut seen = list(judge.scene(), &matching);
        if !met && matching.is_empty() {
            // What came nearest: the same event without the limits on who and when.
            let (event, on, cue) = (pattern.event, pattern.on, pattern.cue.clone());
            let loose = Pattern { on, cue, ..Pattern::of(event) };
            let others: Vec<_> = all.iter().copied().filter(|it| loose.matches(*it)).collect();
            if !others.is_empty() {
                seen = format!("{seen}; instead {}", list(judge.scene(), &others));
            }
        }
        let why = judge.unless(met, || match often.most {
            // The first that is one too many.
            Some(most) if matching.len() > most => judge.inquiry.came_of(matching[most].event),
            _ => judge.missing(pattern, often.least.saturating_sub(matching.len())),
        });
        Judged { met, expected, seen, why }
    }
}
