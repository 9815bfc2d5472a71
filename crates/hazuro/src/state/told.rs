//! Where bodies are told to be, in the order in which a host says so.

use glam::{DQuat, DVec3};

use crate::Time;
use crate::describe::EntityId;
use crate::geometry::Pose;

use super::{Input, Target};

/// A body is told to be somewhere at a time.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Told {
    /// The number of the input.
    pub number: u64,
    pub who: EntityId,
    pub to: DVec3,
    /// How it is to be turned, if not as before.
    pub rotation: Option<DQuat>,
    pub until: Time,
}

impl Told {
    /// Where it is to be.
    pub fn target(&self) -> Target {
        let position = self.to;
        match self.rotation {
            Some(rotation) => Target::Pose(Pose { position, rotation }),
            None => Target::Place(position),
        }
    }

    /// The same as an input.
    pub fn input(&self) -> Input {
        Input::Drive { who: self.who, to: self.target(), until: self.until }
    }
}

/// What many have been told, in little memory: most are told no rotation.
#[derive(Clone, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct AllTold {
    told: Vec<Placed>,
    /// Of those that are told any, in order.
    rotations: Vec<DQuat>,
}

/// What one has been told, without a rotation.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
struct Placed {
    number: u64,
    who: EntityId,
    turned: bool,
    to: DVec3,
    until: Time,
}

impl AllTold {
    pub fn is_empty(&self) -> bool {
        self.told.is_empty()
    }

    pub fn len(&self) -> usize {
        self.told.len()
    }

    pub fn push(&mut self, told: &Told) {
        let Told { number, who, to, rotation, until } = *told;
        self.told.push(Placed { number, who, turned: rotation.is_some(), to, until });
        self.rotations.extend(rotation);
    }

    /// All of it, in order.
    pub fn iter(&self) -> impl Iterator<Item = Told> {
        let mut rotations = self.rotations.iter();
        self.told.iter().map(move |told| {
            let Placed { number, who, turned, to, until } = *told;
            let rotation = if turned { rotations.next().copied() } else { None };
            Told { number, who, to, rotation, until }
        })
    }

    /// Forgets all of it, but keeps the memory.
    pub fn clear(&mut self) {
        self.told.clear();
        self.rotations.clear();
    }
}

impl std::hash::Hash for AllTold {
    fn hash<H: std::hash::Hasher>(&self, state: &mut H) {
        self.len().hash(state);
        self.iter().for_each(|told| (told.number, told.input()).hash(state));
    }
}
