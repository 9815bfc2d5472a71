//! What reactions still have to do.

use std::collections::{BTreeMap, VecDeque};

use smallvec::SmallVec;

use crate::Time;
use crate::describe::{EntityId, Per, ReactionId};
use crate::model::Scene;

use super::part::part;
use super::{Event, Origin, State, Usage};

/// A reaction that has not yet done everything.
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Run {
    pub reaction: ReactionId,
    pub event: Box<Event>,
    /// [`Occupancy::turns`](super::detected::Occupancy::turns) as it must still be when the waiting is over.
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

/// Within what a reaction counts its limit and cooldown, and is under way or not.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Scope {
    pub reaction: ReactionId,
    /// The subject, if each is by itself.
    who: Option<EntityId>,
    /// The detector, if each is by itself.
    on: Option<EntityId>,
}

impl Scope {
    /// Where an event belongs.
    pub fn of(scene: &Scene, reaction: ReactionId, event: &Event) -> Self {
        let per = scene.reaction(reaction).counts_per();
        let who = event.who.filter(|_| matches!(per, Per::Subject | Per::Both));
        let on = event.on.filter(|_| matches!(per, Per::Detector | Per::Both));
        Self { reaction, who, on }
    }
}

impl State {
    /// Whether a reaction has not yet done everything about an event of a scope.
    pub(crate) fn is_busy(&self, scene: &Scene, scope: Scope) -> bool {
        let mut runs = self.runs.under_way.values().filter(|run| run.reaction == scope.reaction);
        runs.any(|run| Scope::of(scene, run.reaction, &run.event) == scope)
    }
}

part! {
    /// What reactions have done and still have to do.
    Runs as RunsPart {
        /// Of each reaction, for all subjects.
        usage: Vec<Usage>,
        /// And for each subject, or at each detector, where that is wanted.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        reaction_usage: BTreeMap<Scope, Usage>,
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        under_way: BTreeMap<u64, Run>,
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        queues: BTreeMap<Scope, Queue>,
        /// How many events wait in queues for their reactions.
        queued: usize,
        /// In which second of the play anything was last done, and how often in that second.
        actions: (i64, u64),
        /// How often each choice of destinations has been gone through in turn.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        turns: BTreeMap<Vec<EntityId>, u64>,
    }
}
