//! Where somebody must be at a moment.

use hazuro::glam::DVec3;
use hazuro::{EntityId, Target, Time};

use super::judge::{Judge, Judged};
use super::read::Reading;
use super::{Expect, Watcher};
use crate::words::place_words;

/// Somebody must be there.
#[derive(Debug)]
pub(crate) struct Stands {
    who: EntityId,
    place: Target,
    within: f64,
    at: Time,
}

impl Expect for Stands {
    /// Where the entity was, and where it was expected.
    type Seen = [DVec3; 2];

    fn read(reading: &mut Reading<'_, '_>) -> Option<Self> {
        let keys = reading.keys.place.as_ref()?;
        let place = reading.reader.place(keys, &reading.field.key("place"))?;
        let within = reading.within(0.01);
        Some(Self { who: reading.who()?, place, within, at: reading.moment() })
    }

    fn moment(&self) -> Option<Time> {
        Some(self.at)
    }

    fn look(&self, watcher: &Watcher<'_>) -> Option<Self::Seen> {
        let there = match self.place {
            Target::Entity(entity) => watcher.position(entity)?,
            Target::Place(place) => place,
            Target::Pose(pose) => pose.position,
        };
        Some([watcher.position(self.who)?, there])
    }

    fn judge(&self, judge: &Judge<'_>, seen: Option<&Self::Seen>) -> Judged {
        let Self { who, place, within, at } = self;
        let (name, place) = (judge.scene().name(*who), place_words(judge.scene(), place));
        let expected = format!("{name} within {within} m of {place} at {} s", at.secs());
        let Some([here, there]) = seen else {
            return judge.unseen(expected);
        };
        let off = here.distance(*there);
        let here = here.to_array().map(|along| (along * 1000.0).round() / 1000.0 + 0.0);
        let met = off <= *within;
        let why = judge.unless(met, || judge.inquiry.place(*who, *at, off));
        Judged { met, expected, seen: format!("{off:.3} m off, at {here:?}"), why }
    }
}
