//! What actions do to switches, counts and stats, and for what they wait.

use crate::describe::Quantity;

/// The switches of an entity. Each is on only if it is on for all ancestors too.
///
/// ```
/// use hazuro::scene::{Action, Switch};
/// let open: Action = Action::Switch { what: "gate".into(), switch: Switch::Solid, to: Some(false) };
/// assert_eq!(open, Action::solid("gate", false));
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Switch {
    /// Whether it is there at all: for detectors, for rays, as a subject.
    Enabled,
    /// Whether it is shown.
    Visible,
    /// Whether its solid blocks.
    Solid,
    /// Whether its detectors detect.
    Detect,
}

impl Switch {
    /// All of them.
    pub const ALL: [Self; 4] = [Self::Enabled, Self::Visible, Self::Solid, Self::Detect];

    /// The word for it where it is asked for.
    pub fn word(self) -> &'static str {
        match self {
            Self::Enabled => "enabled",
            Self::Visible => "visible",
            Self::Solid => "solid",
            Self::Detect => "detect",
        }
    }

    /// The word of the action that puts it so, or over.
    pub(super) fn verb(self, to: Option<bool>) -> &'static str {
        match (self, to) {
            (Self::Enabled, Some(true)) => "enable",
            (Self::Enabled, Some(false)) => "disable",
            (Self::Enabled, None) => "toggle",
            (Self::Visible, Some(false)) => "hide",
            (Self::Visible, _) => "show",
            (Self::Solid, _) => "solid",
            (Self::Detect, _) => "detect",
        }
    }
}

/// How a count or a stat changes. Counts stop at the ends of their range, stats at their least
/// and most.
///
/// ```
/// use hazuro::scene::{Action, Change};
/// let train = Action::stat("who", "strength", Change::Add(1.0));
/// let rest = Action::stat("who", "strength", Change::Set(5.0));
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Change<A = i64> {
    /// Add this much, which may be negative.
    Add(A),
    /// Make it this much.
    Set(A),
}

/// For what the actions after it wait.
///
/// ```
/// use hazuro::scene::{Action, Wait};
/// assert_eq!(Action::wait(2.0), Action::Wait(Wait::Seconds(2.0.into())));
/// assert_eq!(Action::wait_for("gate"), Action::Wait(Wait::Arrival("gate".into())));
/// ```
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Wait<T = String, N = Quantity> {
    /// So many seconds.
    Seconds(N),
    /// Until this entity has arrived where it is going.
    Arrival(T),
}
