//! An event that must happen, or must not.

use std::convert::Infallible;

use hazuro::Time;

use super::judge::{Counted, Judge, Judged, one};
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
        let like = |pattern: &Pattern| -> Vec<_> {
            all.iter().copied().filter(|it| pattern.matches(*it)).collect()
        };
        // What comes nearest: the same event without the limits on who and when.
        let (event, on, cue) = (pattern.event, pattern.on, pattern.cue.clone());
        let loose = Pattern { on, cue, ..Pattern::of(event) };
        let counted = Counted {
            expected: pattern.words(judge.scene()),
            often: *often,
            matching: like(pattern),
            instead: like(&loose),
            told: &|it| one(judge.scene(), it),
        };
        counted.judged(
            judge,
            |it| judge.inquiry.came_of(it.event),
            |missing| judge.missing(pattern, missing),
        )
    }
}
