//! What actions leave to see to.

use smallvec::SmallVec;

use crate::describe::EntityId;
use crate::state::{Cause, Event};

/// What actions have left to see to.
#[derive(Debug, Default)]
pub(crate) struct SideEffects {
    /// What was changed so that detection must look at it again, and why.
    pub disturbed: SmallVec<[(EntityId, Cause); 4]>,
    /// To be sent, in order: cues, what became of stats, what is sent by hand.
    pub events: SmallVec<[Event; 1]>,
    /// What came to so many stops in a second that it was halted.
    pub endless: SmallVec<[EntityId; 1]>,
    /// Whether anything was done at all.
    pub acted: bool,
    /// Whether the event is left to others.
    pub passed_on: bool,
    /// What was brought out last.
    pub spawned: Option<EntityId>,
}
