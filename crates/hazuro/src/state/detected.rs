//! Whom and what detectors detect.

use std::collections::{BTreeMap, BTreeSet};

use crate::Time;
use crate::describe::{Detector, EntityId};
use crate::model::LimitsSpec;

use super::part::part;
use super::{Awareness, Cause, KeyHold, PointerState, Stand, Usage};

/// A subject's stay in a zone.
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Stay {
    pub since: Time,
    /// How it came in; a subject that arrived by teleport is not sent on from there.
    pub cause: Cause,
    /// Tells this stay from an earlier or later one of the same subject.
    pub number: u64,
    /// Nothing is told of it.
    pub silent: bool,
}

/// Whom a detector detects.
#[derive(Clone, Debug, Default, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Occupancy {
    /// By subject, and by its part or [`WHOLE`](super::WHOLE).
    #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
    pub stays: BTreeMap<(EntityId, u32), Stay>,
    /// How many of them are told of.
    pub reported: usize,
    /// How often it went from none to some or back.
    pub turns: u64,
}

part! {
    /// What detectors remember, and how often they may still act.
    Senses as SensesPart {
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        occupancies: BTreeMap<(EntityId, Detector), Occupancy>,
        /// Of a detector, by subject; and of all subjects together.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        detector_usage: BTreeMap<(EntityId, Detector, Option<EntityId>), Usage>,
        /// Where they are others than the scene's.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        limits: BTreeMap<EntityId, LimitsSpec>,
        /// By watcher and whom it sees.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        awareness: BTreeMap<(EntityId, EntityId), Awareness>,
        /// Of which subject it could not be told, when last asked, whether a detector admits it or how
        /// good a target it is.
        failing: BTreeSet<(EntityId, Detector, EntityId)>,
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        stands: BTreeMap<EntityId, Stand>,
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        pointers: BTreeMap<EntityId, PointerState>,
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        holdings: BTreeMap<EntityId, KeyHold>,
        /// What is highlighted for each offer, by player and prompt.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        highlights: BTreeMap<(EntityId, EntityId), EntityId>,
    }
}
