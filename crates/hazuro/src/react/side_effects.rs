//! What actions leave to see to.

use smallvec::SmallVec;

use crate::describe::EntityId;
use crate::model::Converted;
use crate::record::Happening;
use crate::state::{Cause, Event, Origin};

/// What actions have left to see to.
#[derive(Debug, Default)]
pub(crate) struct SideEffects {
    /// What was changed so that detection must look at it again, and why.
    pub disturbed: SmallVec<[(EntityId, Cause); 4]>,
    /// What has been converted, and to what, or reverted.
    pub converted: Vec<(EntityId, Option<Converted>)>,
    /// To be sent, in order, each with what it comes of: cues, what became of stats, what is sent
    /// by hand.
    pub events: SmallVec<[(Origin, Event); 1]>,
    /// To be told, each with what it comes of.
    pub told: Vec<(Origin, Happening)>,
    /// What was halted since it came to more stops in a second than it may.
    pub endless: SmallVec<[EntityId; 1]>,
    /// The last action that was done, if any was.
    pub acted: Option<Origin>,
    /// Whether the event is left to others.
    pub passed_on: bool,
    /// What was brought out last.
    pub spawned: Option<EntityId>,
}
