//! What reactions still have to do.

use std::collections::VecDeque;

use smallvec::SmallVec;

use crate::Time;
use crate::describe::ReactionId;

use super::{Event, Origin, State};

/// A reaction that has not yet done everything.
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Run {
    pub reaction: ReactionId,
    pub event: Box<Event>,
    /// [`Occupancy::turns`](super::Occupancy::turns) as it must still be when the waiting is over.
    pub turns: Option<u64>,
    /// How long it waited, or waits, before it first begins.
    pub delay: Time,
    /// How often it has begun.
    pub rounds: u64,
    /// When it begins next, if it does.
    pub next_round: Option<Time>,
    pub threads: SmallVec<[Thread; 1]>,
    /// Does what is to be done otherwise.
    pub otherwise: bool,
}

/// A sequence that waits.
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Thread {
    pub number: u64,
    pub sequence: u32,
    /// The first action yet to be done.
    pub place: u32,
    pub due: Time,
}

/// An event that a reaction will come to later.
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Queued {
    pub event: Box<Event>,
    pub turns: Option<u64>,
    /// What the run will come of.
    pub origin: Origin,
}

/// Events that a reaction will come to later.
pub(crate) type Queue = VecDeque<Queued>;

impl State {
    /// Whether a reaction has not yet done everything about an event that `concerns` holds of.
    pub(crate) fn is_busy(&self, reaction: ReactionId, concerns: impl Fn(&Event) -> bool) -> bool {
        self.runs.values().any(|run| run.reaction == reaction && concerns(&run.event))
    }
}
