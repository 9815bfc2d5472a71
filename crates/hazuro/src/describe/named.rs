//! What errors are about: what was named, and what something would need.

use std::fmt;

use super::{Detector, SlotSort};
use crate::shown::short;

/// What has a name.
///
/// ```
/// use hazuro::scene::Named;
/// assert_eq!(Named::Entity.to_string(), "entity");
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Named {
    /// An entity.
    Entity,
    /// A kind.
    Kind,
    /// A part of a body.
    Part,
    /// A tag.
    Tag,
    /// A layer.
    Layer,
    /// A stat.
    Stat,
    /// An effect.
    Effect,
    /// A slot.
    Slot,
    /// A reaction.
    Reaction,
    /// A text, by its key.
    Text,
    /// An event.
    Event,
    /// A cause of an event.
    Cause,
}

impl Named {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Entity => "entity",
            Self::Kind => "kind",
            Self::Part => "part",
            Self::Tag => "tag",
            Self::Layer => "layer",
            Self::Stat => "stat",
            Self::Effect => "effect",
            Self::Slot => "slot",
            Self::Reaction => "reaction",
            Self::Text => "text",
            Self::Event => "event",
            Self::Cause => "cause",
        }
    }

    pub(crate) fn article(self) -> &'static str {
        if self.word().starts_with(['a', 'e', 'i', 'o', 'u']) { "an" } else { "a" }
    }
}

impl fmt::Display for Named {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.word())
    }
}

/// What something would need to be able to do what it is told.
///
/// ```
/// use hazuro::scene::Need;
/// assert_eq!(Need::Stat("oil".into()).to_string(), "the stat `oil`");
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Need {
    /// A kind some of which can be spawned.
    Stock,
    /// A solid, its own or of something below it.
    Solid,
    /// A detector of any sort, its own or of something below it.
    AnyDetector,
    /// A detector of this sort.
    Detector(Detector),
    /// This stat.
    Stat(String),
    /// A slot of this name.
    Slot(String),
    /// A slot of this name for that.
    SlotFor(String, SlotSort),
    /// One of the stats that an effect changes.
    StatOfEffect,
    /// A body.
    Body,
    /// A body of this many parts.
    Parts(usize),
    /// To be collectable.
    Pickup,
    /// To be carryable.
    Carry,
    /// To be ownable.
    Ownership,
    /// A route.
    Route,
    /// A body that walks.
    Walking,
    /// A body that jumps.
    Jumping,
}

impl fmt::Display for Need {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Stock => f.write_str("a kind with a `stock`"),
            Self::Solid => f.write_str("a solid"),
            Self::AnyDetector => f.write_str("a detector"),
            Self::Detector(detector) => f.write_str(&detector.noun()),
            Self::Stat(name) => write!(f, "the stat `{}`", short(name)),
            Self::Slot(name) => write!(f, "a slot `{}`", short(name)),
            Self::SlotFor(name, sort) => write!(f, "a slot `{}` for {sort}", short(name)),
            Self::StatOfEffect => f.write_str("a stat that the effect changes"),
            Self::Body => f.write_str("a body"),
            Self::Parts(1) => f.write_str("a body of one part"),
            Self::Parts(number) => write!(f, "a body of {number} parts"),
            Self::Pickup => f.write_str("a pickup"),
            Self::Carry => f.write_str("a `carry`"),
            Self::Ownership => f.write_str("an `ownership`"),
            Self::Route => f.write_str("a `route`"),
            Self::Walking => f.write_str("legs to walk with"),
            Self::Jumping => f.write_str("legs to jump with"),
        }
    }
}
