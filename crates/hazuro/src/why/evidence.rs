//! What a gate saw, in words: the reason, how much was missing, and the cure.

use glam::DVec3;

use crate::Time;
use crate::describe::{Clause, EntityId};

/// What a gate saw.
///
/// See [`Verdict`](super::Verdict) for an example.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Evidence {
    /// Nothing worth telling.
    None,
    /// This entity, itself or an ancestor, is off.
    OffBy(EntityId),
    /// This list of the rule refused it.
    Refused(Clause),
    /// How near it came, in metres, and when. At most 0 if it was inside.
    Gap {
        /// Metres between the shapes.
        metres: f64,
        /// When they were nearest.
        time: Time,
        /// In which direction the subject would have had to go by that distance: of length 1, or zero if it was
        /// inside.
        way: DVec3,
    },
    /// How far off it was, in metres, and how far it may be.
    Range {
        /// Metres.
        got: f64,
        /// Metres.
        most: f64,
    },
    /// How far off the middle it was, in radians, and how far it may be.
    Angle {
        /// Radians.
        got: f64,
        /// Radians.
        most: f64,
    },
    /// How fast it was, in metres per second, and how fast it must be.
    Speed {
        /// Metres a second.
        got: f64,
        /// Metres a second.
        need: f64,
    },
    /// What share of its points was seen, and what share must be.
    Share {
        /// From 0 to 1.
        got: f64,
        /// From 0 to 1.
        need: f64,
    },
    /// For how long, in seconds, and for how long it must be.
    Span {
        /// Seconds.
        got: f64,
        /// Seconds.
        need: f64,
    },
    /// This hides it.
    HiddenBy(EntityId),
    /// A pointer was beside it.
    Pointed {
        /// Where the pointer was, in pixels from the top left.
        at: [f64; 2],
        /// Where the middle of the thing is on the screen; none if it is behind the camera.
        is: Option<[f64; 2]>,
    },
    /// It belongs to somebody else.
    BelongsTo {
        /// To whom.
        owner: EntityId,
        /// Since when.
        since: Time,
    },
    /// This was chosen instead.
    Instead(EntityId),
    /// These are inside, too.
    Occupants(Vec<EntityId>),
    /// From then on it would have passed.
    ReadyAt(Time),
    /// This tag is lacking, or there is too little of this count or stat.
    Lacks {
        /// Its name.
        need: String,
        /// How much there is, and how much there must be; nothing for a tag.
        short: Option<(f64, f64)>,
    },
    /// A condition: its text, and what it asked with the answers, in the order of the names.
    Condition {
        /// As it was written.
        text: String,
        /// What it asked, as in `count.tokens`, and the answer. If it is made of parts, only what
        /// those asked that did not hold.
        saw: Vec<(String, String)>,
        /// Those of its parts that did not hold, as they were written.
        failed: Vec<String>,
    },
}

/// How much was missing for a gate to let pass.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Missing {
    /// Metres.
    Metres(f64),
    /// Radians.
    Radians(f64),
    /// Seconds.
    Seconds(f64),
    /// Metres a second.
    Speed(f64),
    /// A share from 0 to 1.
    Share(f64),
    /// So much of a count or stat.
    Amount(f64),
}

impl Missing {
    /// The amount, as people read it, and its unit.
    pub fn amount(self) -> (f64, &'static str) {
        match self {
            Self::Metres(amount) => (amount, "m"),
            Self::Radians(amount) => (amount.to_degrees(), "degrees"),
            Self::Seconds(amount) => (amount, "s"),
            Self::Speed(amount) => (amount, "m/s"),
            Self::Share(amount) => (amount * 100.0, "%"),
            Self::Amount(amount) => (amount, "more"),
        }
    }
}
