//! Names and numbers of the things in a scene.

use std::fmt;
use std::hash::Hash;
use std::hash::Hasher;
use std::num::{NonZeroU32, NonZeroU64};

use crate::fast_hash::Fnv;

/// The names that an entity cannot have, since they mean something in actions.
pub const RESERVED_NAMES: [&str; 5] = ["who", "on", "home", "point", "scene"];

/// An entity of one scene.
///
/// Ids of a scene are ordered as the scene lists its entities. Events of one instant are ordered by
/// them, so the order in a scene is the order in a log. Scenes whose entities and reactions have the
/// same names in the same order share their ids; an id of any other scene is refused.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct EntityId(NonZeroU64);

impl EntityId {
    /// Not above any other.
    pub(crate) const LOWEST: Self = Self(NonZeroU64::MIN);
    /// Not below any other.
    pub(crate) const HIGHEST: Self = Self(NonZeroU64::MAX);

    /// Its place in the scene's list of entities, from 0.
    pub fn index(self) -> usize {
        (self.0.get() >> 32) as usize
    }
}

impl fmt::Debug for EntityId {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "EntityId({})", self.index())
    }
}

/// A reaction of one scene.
///
/// As with entities, the order is the scene's, and an id of another scene is refused.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct ReactionId(NonZeroU64);

impl ReactionId {
    /// Its place in the scene's list of reactions, from 0.
    pub fn index(self) -> usize {
        (self.0.get() >> 32) as usize
    }
}

impl fmt::Debug for ReactionId {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "ReactionId({})", self.index())
    }
}

/// Makes the ids of one scene: each is an index, and a mark that tells the scene from others.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Numbering {
    mark: NonZeroU32,
}

impl Numbering {
    /// For a scene with entities and reactions of these names.
    pub fn of<'a>(
        entities: impl Iterator<Item = &'a str>,
        reactions: impl Iterator<Item = Option<&'a str>>,
    ) -> Self {
        let mut hasher = Fnv::default();
        entities.for_each(|name| name.hash(&mut hasher));
        reactions.for_each(|name| name.hash(&mut hasher));
        let hash = hasher.finish();
        let mark = (hash >> 32) as u32 ^ hash as u32;
        Self { mark: NonZeroU32::new(mark).unwrap_or(NonZeroU32::MIN) }
    }

    fn number(self, index: usize) -> NonZeroU64 {
        NonZeroU64::from(self.mark) | (index as u64) << 32
    }

    /// The entity at this place in the scene's list.
    pub fn entity(self, index: usize) -> EntityId {
        EntityId(self.number(index))
    }

    /// The reaction at this place in the scene's list.
    pub fn reaction(self, index: usize) -> ReactionId {
        ReactionId(self.number(index))
    }

    /// The first `count` entities, in order.
    pub fn entities(self, count: usize) -> impl Iterator<Item = EntityId> + use<> {
        (0..count).map(move |index| self.entity(index))
    }
}

/// The number of a tag among all tags of a scene.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct TagId(pub u32);

/// The number of a slot's name among all names of slots of a scene.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct SlotId(pub u32);

/// The number of a stat among all stats of a scene.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct StatId(pub(crate) u32);

impl StatId {
    /// Not above any other.
    pub(crate) const FIRST: Self = Self(0);
}

/// The number of an effect among all effects of a scene.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct EffectId(pub u32);

/// The number of a kind among all kinds of a scene.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct KindId(pub u32);

/// One entity, all of a kind, with a tag or in a layer, or all there are.
///
/// Written `miller`, `kind:person`, `tag:player`, `layer:water` and `*`.
///
/// ```
/// use hazuro::scene::Selector;
/// assert_eq!(Selector::from("kind:person"), Selector::Kind("person".into()));
/// assert_eq!(Selector::from("miller").to_string(), "miller");
/// assert_eq!(Selector::from("*"), Selector::Any);
/// ```
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum Selector {
    /// The entity of this name.
    Entity(String),
    /// All entities of this kind.
    Kind(String),
    /// All entities with this tag.
    Tag(String),
    /// All entities in this layer.
    Layer(String),
    /// All entities.
    Any,
}

impl From<&str> for Selector {
    fn from(text: &str) -> Self {
        match text.split_once(':') {
            Some(("kind", name)) => Self::Kind(name.into()),
            Some(("tag", name)) => Self::Tag(name.into()),
            Some(("layer", name)) => Self::Layer(name.into()),
            None if text == "*" => Self::Any,
            _ => Self::Entity(text.into()),
        }
    }
}

impl From<String> for Selector {
    fn from(text: String) -> Self {
        text.as_str().into()
    }
}

impl fmt::Display for Selector {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Entity(name) => f.write_str(name),
            Self::Kind(name) => write!(f, "kind:{name}"),
            Self::Tag(name) => write!(f, "tag:{name}"),
            Self::Layer(name) => write!(f, "layer:{name}"),
            Self::Any => f.write_str("*"),
        }
    }
}
