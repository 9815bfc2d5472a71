//! What is different in a state from an earlier one: what a host sends to those who mirror its play.

use std::collections::{BTreeMap, BTreeSet};

use serde::{Deserialize, Serialize};

use crate::describe::EntityId;

use super::{Cast, Causes, SavedLive, Schedule, State};

/// A part of a state that can be told by what is different in it.
pub(crate) trait Part {
    /// What is different.
    type Change;

    /// What is different from how it was; none if nothing is.
    fn change(&self, was: &Self) -> Option<Self::Change>;

    /// Lets it be different. What does not fit is left out, and makes the whole unfit.
    fn make(&mut self, change: Self::Change) -> bool;
}

/// Parts that are told as a whole.
macro_rules! whole {
    ($($type:ty),* $(,)?) => {
        $(impl Part for $type {
            type Change = Self;

            fn change(&self, was: &Self) -> Option<Self> {
                (self != was).then(|| self.clone())
            }

            fn make(&mut self, change: Self) -> bool {
                *self = change;
                true
            }
        })*
    };
}

whole! {
    bool,
    u64,
    usize,
    (i64, u64),
    (u64, crate::Time),
    (crate::Time, BTreeMap<EntityId, crate::geometry::Pose>),
    crate::Chance,
    crate::Time,
    super::CountsAndFlags,
    super::Origin,
    super::told::AllTold,
    std::collections::VecDeque<(u64, super::Input)>,
}

/// What is different in a map: the keys that went, and what was put in.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct MapChange<K, V> {
    gone: Vec<K>,
    put: Vec<(K, V)>,
}

impl<K: Clone + Ord, V: Clone + PartialEq> Part for BTreeMap<K, V> {
    type Change = MapChange<K, V>;

    fn change(&self, was: &Self) -> Option<MapChange<K, V>> {
        // Most maps stay as they are.
        if self == was {
            return None;
        }
        let gone = was.keys().filter(|key| !self.contains_key(key)).cloned().collect();
        let put = self.iter().filter(|(key, value)| was.get(key) != Some(value));
        Some(MapChange {
            gone,
            put: put.map(|(key, value)| (key.clone(), value.clone())).collect(),
        })
    }

    fn make(&mut self, MapChange { gone, put }: MapChange<K, V>) -> bool {
        for key in &gone {
            self.remove(key);
        }
        self.extend(put);
        true
    }
}

/// What is different in a set: what went, and what came.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct SetChange<K> {
    gone: Vec<K>,
    came: Vec<K>,
}

impl<K: Clone + Ord> Part for BTreeSet<K> {
    type Change = SetChange<K>;

    fn change(&self, was: &Self) -> Option<SetChange<K>> {
        let gone: Vec<K> = was.difference(self).cloned().collect();
        let came: Vec<K> = self.difference(was).cloned().collect();
        (!gone.is_empty() || !came.is_empty()).then_some(SetChange { gone, came })
    }

    fn make(&mut self, SetChange { gone, came }: SetChange<K>) -> bool {
        for key in &gone {
            self.remove(key);
        }
        self.extend(came);
        true
    }
}

/// What is different in a list of as many.
impl<V: Clone + PartialEq> Part for Vec<V> {
    type Change = Vec<(u32, V)>;

    fn change(&self, was: &Self) -> Option<Self::Change> {
        let differing = self.iter().zip(was).zip(0_u32..).filter(|((is, was), _)| is != was);
        let change: Vec<_> = differing.map(|((is, _), place)| (place, is.clone())).collect();
        (!change.is_empty()).then_some(change)
    }

    fn make(&mut self, change: Self::Change) -> bool {
        change.into_iter().all(|(place, value)| {
            let place = self.get_mut(place as usize);
            place.map(|place| *place = value).is_some()
        })
    }
}

impl Part for Cast {
    type Change = Vec<(u32, SavedLive)>;

    fn change(&self, was: &Self) -> Option<Self::Change> {
        let differing: Vec<_> = self.differing(was).collect();
        (!differing.is_empty()).then_some(differing)
    }

    fn make(&mut self, change: Self::Change) -> bool {
        change.into_iter().all(|(place, saved)| self.set(place as usize, saved))
    }
}

/// What makes a state of its parts, each once; one that is forgotten does not compile.
macro_rules! delta {
    ($of:ident as $whole:ident { $($part:ident: $type:ty,)* } but { $($skip:ident),* }) => {
        /// What is different in one part.
        #[derive(Clone, Debug, PartialEq, serde::Serialize, serde::Deserialize)]
        #[allow(non_camel_case_types, reason = "each has the name of its part")]
        pub(crate) enum $whole {
            $($part(<$type as $crate::state::delta::Part>::Change),)*
        }

        impl $crate::state::delta::Part for $of {
            type Change = Vec<$whole>;

            fn change(&self, was: &Self) -> Option<Vec<$whole>> {
                let Self { $($part,)* $($skip: _,)* } = self;
                let mut changes = Vec::new();
                $(changes.extend($crate::state::delta::Part::change($part, &was.$part).map($whole::$part));)*
                (!changes.is_empty()).then_some(changes)
            }

            fn make(&mut self, changes: Vec<$whole>) -> bool {
                changes.into_iter().all(|change| match change {
                    $($whole::$part(change) => $crate::state::delta::Part::make(&mut self.$part, change),)*
                })
            }
        }
    };
}

pub(super) use delta;

delta! {
    State as StatePart {
        now: crate::Time,
        started: bool,
        causes: Causes,
        cast: Cast,
        presence: super::Presence,
        senses: super::Senses,
        motion: super::Motion,
        values: super::Values,
        runs: super::Runs,
        schedule: Schedule,
        chance: crate::Chance,
        numbers_so_far: u64,
    } but { scene }
}

/// What is different in a state from an earlier one of the same scene, for any format of serde. It is read
/// [within](crate::Scene::within) its scene, since it names entities by number.
///
/// ```
/// use hazuro::{Delta, Play, Scene, geometry::Shape, scene::{Body, Entity}};
/// let ball = Body::new(Shape::Sphere { radius: 0.1 });
/// let scene = Scene::builder("Yard").entity(Entity::new("ball").body(ball)).build()?;
/// let mut host = Play::new(scene.clone());
/// let mut mirror = Play::new(scene);
/// let before = host.state().clone();
/// host.drive("ball", [1.0, 0.0, 0.0])?;
/// host.step();
///
/// let sent = serde_json::to_string(&host.state().delta(&before))?;
/// let delta: Delta = mirror.scene().within(|| serde_json::from_str(&sent))?;
/// mirror.take(delta)?;
/// assert_eq!(mirror.state(), host.state());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Delta(Vec<StatePart>);

impl Delta {
    /// Whether nothing is different.
    pub fn is_empty(&self) -> bool {
        self.0.is_empty()
    }
}

impl State {
    /// What is different from an earlier state of the same scene, with as many entities.
    pub fn delta(&self, was: &Self) -> Delta {
        Delta(self.change(was).unwrap_or_default())
    }
}

impl State {
    /// Makes of the state from which a delta was taken the one to which it leads. Whether it fits.
    pub(crate) fn go_over(&mut self, delta: Delta) -> bool {
        self.make(delta.0)
    }
}
