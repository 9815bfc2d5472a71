//! What a host may want to know of a room.

use hazuro::EntityId;

use crate::deed::NotDone;
use crate::line::LineId;
use crate::message::Denial;

/// The most news that is kept until somebody asks for it; the oldest goes first.
pub(super) const MOST_NEWS: usize = 4096;

/// Who came and went, and what was not done.
///
/// ```
/// use hazuro_link::News;
/// let is_trouble = |news: &News| matches!(news, News::Refused { .. } | News::Closed { .. });
/// # let _ = is_trouble;
/// ```
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum News {
    /// Somebody plays a player from now on.
    Joined {
        /// The player.
        player: EntityId,
    },
    /// Somebody who was cut off is back.
    Back {
        /// The player.
        player: EntityId,
    },
    /// Somebody was cut off; the seat is kept for a while.
    CutOff {
        /// The player.
        player: EntityId,
    },
    /// Nobody plays the player any more.
    Left {
        /// The player.
        player: EntityId,
    },
    /// Somebody may not join.
    Denied {
        /// By which line.
        line: LineId,
        /// Why not.
        why: Denial,
    },
    /// A deed was not done.
    Refused {
        /// Whose.
        player: EntityId,
        /// Its number.
        number: u64,
        /// Why not.
        why: NotDone,
    },
    /// A line was closed by the host.
    Closed {
        /// Which.
        line: LineId,
        /// Why.
        why: String,
    },
}
