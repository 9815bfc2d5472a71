//! What must be shown at a moment, or must not.

use hazuro::scene::Facts;
use hazuro::{EntityId, Time};

use super::judge::{Judge, Judged, not};
use super::read::Reading;
use super::{Expect, Watcher};

/// Something must be shown, or must not.
#[derive(Debug)]
pub(crate) struct Visible {
    what: EntityId,
    is: bool,
    at: Time,
}

impl Expect for Visible {
    /// The first of it and its ancestors that is hidden or off, if any is.
    type Seen = Option<EntityId>;

    fn read(reading: &mut Reading<'_, '_>) -> Option<Self> {
        let what = reading.entity(reading.keys.visible.as_ref()?, "visible")?;
        Some(Self { what, is: reading.whether(), at: reading.moment() })
    }

    fn moment(&self) -> Option<Time> {
        Some(self.at)
    }

    fn look(&self, watcher: &Watcher<'_>) -> Option<Self::Seen> {
        let facts = watcher.play.facts();
        let up = std::iter::successors(Some(self.what), |it| facts.parent(*it));
        let lineage: Vec<EntityId> = up.collect();
        // From the top: the first that is not shown although what is above it is.
        Some(lineage.into_iter().rev().find(|it| !facts.is_visible(*it)))
    }

    fn judge(&self, judge: &Judge<'_>, seen: Option<&Self::Seen>) -> Judged {
        let Self { what, is, at } = *self;
        let expected =
            format!("{} is {}visible at {} s", judge.scene().name(what), not(is), at.secs());
        let Some(off) = seen.copied() else {
            return judge.unseen(expected);
        };
        let was = off.is_none();
        let why = judge.unless(was == is, || judge.inquiry.visible(what, off, is, at));
        Judged { met: was == is, expected, seen: format!("it is {}visible", not(was)), why }
    }
}
