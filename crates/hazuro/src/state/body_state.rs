//! How bodies that move by themselves get along.

use std::collections::VecDeque;
use std::hash::{Hash, Hasher};

use glam::DVec3;
use smallvec::SmallVec;

use crate::Time;
use crate::describe::EntityId;
use crate::geometry::bits;

use super::Target;

/// What a body does by itself.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum Mode {
    /// Stands on something, or walks.
    #[default]
    Stands,
    /// Is in the air, or slides down something steep.
    Falls,
    /// Something else moves it, until its journey is over.
    Led,
    /// Is held by what carries it.
    Carried,
    /// Can do nothing for a moment, since whatever it does leads nowhere.
    Held,
}

/// How a body that moves by itself gets along.
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct BodyState {
    pub mode: Mode,
    /// Whether it is yet to be found out what it does from here.
    pub undecided: bool,
    /// Whether it is about to jump.
    pub jumps: bool,
    /// What it stands on and leans against; none is the floor.
    pub leans: SmallVec<[Option<EntityId>; 2]>,
    pub order: Option<Box<Order>>,
    /// When it thinks again, whatever happens.
    pub wait: Option<Time>,
    /// Where it puts its feet next, over a step, in the frame of what carries it; the next last.
    pub stride: SmallVec<[DVec3; 2]>,
    /// How fast it sets out from here, in the world, in metres per second.
    pub launch: Option<[f64; 3]>,
    /// How fast it turns about Y in the air, in radians per second.
    pub spin: f64,
    /// Who held it last.
    pub holder: Option<EntityId>,
    /// Whether it is yet to come to rest.
    pub stirred: bool,
}

impl Default for BodyState {
    fn default() -> Self {
        Self {
            mode: Mode::default(),
            undecided: true,
            jumps: false,
            leans: SmallVec::new(),
            order: None,
            wait: None,
            stride: SmallVec::new(),
            launch: None,
            spin: 0.0,
            holder: None,
            stirred: false,
        }
    }
}

impl Hash for BodyState {
    fn hash<H: Hasher>(&self, state: &mut H) {
        (self.mode, self.undecided, self.jumps).hash(state);
        (&self.leans, &self.order, self.wait).hash(state);
        self.launch.map(|launch| bits(launch.into())).hash(state);
        (self.spin.to_bits(), self.holder, self.stirred, self.stride.len()).hash(state);
        self.stride.iter().for_each(|point| bits(*point).hash(state));
    }
}

/// Where somebody walks.
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Order {
    /// The places, the next one first.
    pub to: VecDeque<Target>,
    /// How near to keep to the last one, if it is followed.
    pub follow: Option<f64>,
    /// Whether it goes straight there, and looks for no way around what is between.
    pub straight: bool,
    /// The next place, when the way there was looked for.
    pub goal: DVec3,
    /// The way there, its next point last.
    pub way: Vec<DVec3>,
    /// When that was looked for.
    pub sought: Option<Time>,
    /// How often anything had stirred by then.
    pub stirs: u64,
    /// Whether the way leads all the way there.
    pub whole: bool,
    /// Whether it has been told that it cannot get there.
    pub reported: bool,
}

impl Order {
    pub fn new(to: impl IntoIterator<Item = Target>, follow: Option<f64>) -> Self {
        Self {
            to: to.into_iter().collect(),
            follow,
            straight: false,
            goal: DVec3::ZERO,
            way: Vec::new(),
            sought: None,
            stirs: 0,
            whole: false,
            reported: false,
        }
    }
}

impl Hash for Order {
    fn hash<H: Hasher>(&self, state: &mut H) {
        (&self.to, self.follow.map(f64::to_bits), self.straight, bits(self.goal)).hash(state);
        (self.sought, self.stirs, self.whole, self.reported, self.way.len()).hash(state);
        self.way.iter().for_each(|point| bits(*point).hash(state));
    }
}
