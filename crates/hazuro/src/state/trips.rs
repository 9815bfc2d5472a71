//! What is under way from stop to stop, what is held up, and what spawners have brought out.

use std::collections::{BTreeMap, BTreeSet};
use std::hash::{Hash, Hasher};

use crate::Time;
use crate::describe::{
    Blocked, EntityId, Pace, Then, most::MAX_STRETCHES, most::MAX_STRETCHES_AT_ONCE,
};
use crate::geometry::Pose;
use crate::motion::Easing;

use super::part::part;

/// Where something is on its way.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum Progress {
    /// Going to `target`.
    Going,
    /// At `at`, and goes on by itself.
    Waiting,
    /// Told to stop, between `at` and `target` or there.
    Halted,
    /// At `at`, for good.
    Done,
}

/// A way from stop to stop.
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Trip {
    /// None is where it was placed.
    pub stops: Vec<Option<EntityId>>,
    /// The stop before, and the next.
    pub at: usize,
    pub target: usize,
    /// Whether it goes through the stops in their order.
    pub forward: bool,
    pub pace: Pace,
    pub ease: Easing,
    pub wait: Time,
    pub then: Then,
    pub blocked: Blocked,
    pub phase: Progress,
    /// Whether it ends for good at the last stop, and keeps the mover turned as it is.
    pub leads: bool,
    /// Tells what was planned before a change from what was planned after it.
    pub turn: u64,
    /// In which second of the play it set off last, and for how many stretches in that second.
    pub stretches: (i64, u32),
    /// When it set off last, and for how many stretches at that very instant.
    pub at_once: (Time, u32),
}

impl Trip {
    /// Counts another stretch that begins now. `false` if these are too many to go on.
    pub fn begins_stretch(&mut self, now: Time) -> bool {
        let second = now.nanos() / 1_000_000_000;
        let (last, count) = self.stretches;
        self.stretches = (second, if last == second { count + 1 } else { 1 });
        let (last, count) = self.at_once;
        self.at_once = (now, if last == now { count + 1 } else { 1 });
        self.stretches.1 <= MAX_STRETCHES && self.at_once.1 <= MAX_STRETCHES_AT_ONCE
    }

    /// The stop after this one, if there is one; turns back where it must.
    pub fn after(&mut self, stop: usize) -> Option<usize> {
        let last = self.stops.len() - 1;
        let end = if self.forward { last } else { 0 };
        if stop == end {
            match self.then {
                Then::Stop => return None,
                Then::Back => self.forward = !self.forward,
                Then::Around => return Some(last - end),
            }
        }
        Some(self.stop_beside(stop))
    }

    /// The stop beside this one, the way it goes.
    pub fn stop_beside(&self, stop: usize) -> usize {
        let last = self.stops.len() - 1;
        if self.forward { (stop + 1).min(last) } else { stop.saturating_sub(1) }
    }
}

impl Hash for Trip {
    fn hash<H: Hasher>(&self, state: &mut H) {
        let pace = match self.pace {
            Pace::Over(seconds) => (0_u8, seconds.to_bits()),
            Pace::Rate(speed) => (1, speed.to_bits()),
        };
        (&self.stops, self.at, self.target, self.forward, pace, self.ease).hash(state);
        (self.wait, self.then, self.blocked, self.phase, self.leads, self.turn).hash(state);
        (self.stretches, self.at_once).hash(state);
    }
}

/// Something that has stopped on its way since somebody is in the way.
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct HeldUp {
    /// Where it was going, in its carrier's frame.
    pub to: Pose,
    /// How long that would still have taken.
    pub left: Time,
    pub number: u64,
}

/// What a spawner has brought out.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Spawned {
    pub by: EntityId,
    pub since: Time,
}

/// Whom something follows with its look.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Aiming {
    pub at: EntityId,
    /// In radians per second.
    pub rate: f64,
    /// The least and the most, in radians above level.
    pub pitch: [f64; 2],
    /// Tells what was planned for it from what was planned for another before.
    pub number: u64,
}

impl Hash for Aiming {
    fn hash<H: Hasher>(&self, state: &mut H) {
        let Self { at, rate, pitch, number } = self;
        (at, rate.to_bits(), pitch.map(f64::to_bits), number).hash(state);
    }
}

part! {
    /// What is under way, and who goes along with it.
    Motion as MotionPart {
        /// Who rides on what, by what.
        riders: BTreeSet<(EntityId, EntityId)>,
        /// What is under way from stop to stop, or has been.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        trips: BTreeMap<EntityId, Trip>,
        /// What has stopped on its way since somebody is in the way.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        held_up: BTreeMap<EntityId, HeldUp>,
        /// What follows somebody with its look.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        aims: BTreeMap<EntityId, Aiming>,
        /// When anything was last put elsewhere at once, and where all that was, in the frames of their
        /// carriers, before that instant.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs::beside_a_time"))]
        jumped: (Time, BTreeMap<EntityId, Pose>),
        /// How often anything has been moved, switched or taken away, and until when what was sent on
        /// its way is under way: whether there may be another way for who found none.
        stirs: (u64, Time),
    }
}
