//! Crossings that will happen if nothing changes.

use std::cmp::{Ordering, Reverse};
use std::collections::{BTreeSet, BinaryHeap};

use crate::Time;
use crate::describe::{Detector, EntityId};
use crate::detect::Crossing;
use crate::state::{Cause, State};

/// The detectors that look ahead along paths.
pub(super) const REGIONS: [Detector; 2] = [Detector::Zone, Detector::Touch];

/// A detector and a subject.
pub(super) type Pair = (EntityId, Detector, EntityId);

/// A crossing that will happen if nothing changes.
#[derive(Clone, Debug)]
pub(super) struct Pending {
    pub pair: Pair,
    /// The changes of detector and subject that it rests on.
    pub changes: (u32, u32),
    pub crossing: Crossing,
    pub cause: Cause,
    /// Its place among several of the pair at the same instant.
    pub order: usize,
}

impl Pending {
    fn key(&self) -> (Time, Pair, usize, (u32, u32)) {
        (self.crossing.time, self.pair, self.order, self.changes)
    }
}

impl PartialEq for Pending {
    fn eq(&self, other: &Self) -> bool {
        self.cmp(other).is_eq()
    }
}

impl Eq for Pending {}

impl PartialOrd for Pending {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Pending {
    fn cmp(&self, other: &Self) -> Ordering {
        self.key().cmp(&other.key())
    }
}

/// All of them, the next one first.
pub(super) type Pendings = BinaryHeap<Reverse<Pending>>;

/// The stays of a state, by subject.
#[derive(Debug, Default)]
pub(super) struct Insides(BTreeSet<(EntityId, EntityId, Detector, u32)>);

impl Insides {
    pub fn of(state: &State) -> Self {
        let all = state.senses.occupancies.iter().flat_map(|((on, detector), occupancy)| {
            occupancy.stays.keys().map(|(who, part)| (*who, *on, *detector, *part))
        });
        Self(all.collect())
    }

    /// Whether a subject, or this part of it, is detected.
    pub fn has(&self, (on, detector, who): Pair, part: u32) -> bool {
        self.0.contains(&(who, on, detector, part))
    }

    /// A subject, or this part of it, is detected from now on, or is so no more.
    pub fn set(&mut self, (on, detector, who): Pair, part: u32, inside: bool) {
        if inside {
            self.0.insert((who, on, detector, part));
        } else {
            self.0.remove(&(who, on, detector, part));
        }
    }

    /// The detectors that detect a subject, in order; some several times.
    pub fn of_subject(&self, who: EntityId) -> impl Iterator<Item = (EntityId, Detector)> {
        let range = (who, EntityId::LOWEST, Detector::Zone, 0)
            ..=(who, EntityId::HIGHEST, Detector::Seeker, u32::MAX);
        self.0.range(range).map(|(_, on, detector, _)| (*on, *detector))
    }
}
