//! Detectors, one file each, each written as its list of gates.

pub(crate) mod footing;
mod limits;
mod pair;
pub(crate) mod pointer;
pub(crate) mod probe;
pub(crate) mod prompt;
mod region;
pub(crate) mod seeker;
pub(crate) mod sight;
mod target;
mod touch;
mod zone;

pub(crate) use limits::{Ruling, rule_on};
pub(crate) use pair::Pair;
pub(crate) use region::{Crossing, boundary_distance, members};
pub(crate) use target::{Failed, Failure, Failures};

use smallvec::SmallVec;

use crate::Time;
use crate::describe::{Detector, EntityId};
use crate::model::Scene;
use crate::state::{Cause, Meeting, State, WHOLE};
use crate::why::Witness;

/// Runs the gates of a zone or a touch for a subject from now until `until`. What happens at the very
/// end belongs to the next span.
pub(crate) fn look<W: Witness>(
    space: (&Scene, &State),
    pair: (EntityId, Detector, EntityId),
    until: Time,
    witness: &mut W,
) -> SmallVec<[Crossing; 2]> {
    let gates = if pair.1 == Detector::Zone { zone::gates() } else { touch::gates() };
    region::look(&gates, space, pair, until, witness)
}

/// A subject begins or ceases to be detected.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Change {
    pub on: EntityId,
    pub detector: Detector,
    pub who: EntityId,
    /// Which part, if each is detected for itself; else [`WHOLE`].
    pub by_part: u32,
    pub opens: bool,
    pub cause: Cause,
    /// The part to be told of.
    pub part: Option<usize>,
    pub meeting: Option<Meeting>,
}

impl Change {
    /// A change of a whole subject, with nothing else known of it.
    pub fn of(on: EntityId, detector: Detector, who: EntityId, opens: bool, cause: Cause) -> Self {
        let (part, meeting) = (None, None);
        Self { on, detector, who, by_part: WHOLE, opens, cause, part, meeting }
    }
}
