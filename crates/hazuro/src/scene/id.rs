//! Names and numbers of the things in a scene.

use std::fmt;

/// The number of an entity, in the order in which the scene lists them.
///
/// Events of one instant are ordered by it, so the order in a scene is the order in a log.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct EntityId(pub(crate) u32);

impl EntityId {
    /// Its place in the scene's list of entities, from 0.
    pub fn index(self) -> usize {
        self.0 as usize
    }
}

/// The number of a reaction, in the order in which the scene lists them.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct ReactionId(pub(crate) u32);

impl ReactionId {
    /// Its place in the scene's list of reactions, from 0.
    pub fn index(self) -> usize {
        self.0 as usize
    }
}

/// The number of a tag among all tags of a scene.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct TagId(pub u32);

/// The number of a stat among all stats of a scene.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct StatId(pub(crate) u32);

/// The number of an effect among all effects of a scene.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct EffectId(pub u32);

/// The number of a kind among all kinds of a scene.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct KindId(pub u32);

/// One entity, all of a kind, or all with a tag.
///
/// Written `miller`, `kind:person` and `tag:player`.
///
/// ```
/// use hazuro::scene::Selector;
/// assert_eq!(Selector::from("kind:person"), Selector::Kind("person".into()));
/// assert_eq!(Selector::from("miller").to_string(), "miller");
/// ```
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Selector {
    /// The entity of this name.
    Entity(String),
    /// All entities of this kind.
    Kind(String),
    /// All entities with this tag.
    Tag(String),
}

impl From<&str> for Selector {
    fn from(text: &str) -> Self {
        match text.split_once(':') {
            Some(("kind", name)) => Self::Kind(name.into()),
            Some(("tag", name)) => Self::Tag(name.into()),
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
        }
    }
}

/// An entity, by name or by number: what calls that mean one entity take.
pub trait EntityKey {
    /// The entity meant, if the scene has it.
    fn find_in(&self, scene: &super::Scene) -> Option<EntityId>;
    /// What was given, for error messages.
    fn text(&self) -> String;
    /// What is wrong if the scene does not have it.
    #[doc(hidden)]
    fn fault(&self, scene: &super::Scene) -> super::Fault {
        scene.unknown_entity(self.text())
    }
}

impl EntityKey for EntityId {
    fn find_in(&self, scene: &super::Scene) -> Option<EntityId> {
        (self.index() < scene.len()).then_some(*self)
    }
    fn text(&self) -> String {
        format!("#{}", self.0)
    }
    fn fault(&self, scene: &super::Scene) -> super::Fault {
        super::Fault::NoSuchId { what: "entity", number: self.index(), count: scene.len() }
    }
}

impl EntityKey for str {
    fn find_in(&self, scene: &super::Scene) -> Option<EntityId> {
        scene.find(self)
    }
    fn text(&self) -> String {
        self.into()
    }
}

impl<K: EntityKey + ?Sized> EntityKey for &K {
    fn find_in(&self, scene: &super::Scene) -> Option<EntityId> {
        (**self).find_in(scene)
    }
    fn text(&self) -> String {
        (**self).text()
    }
    fn fault(&self, scene: &super::Scene) -> super::Fault {
        (**self).fault(scene)
    }
}

impl EntityKey for String {
    fn find_in(&self, scene: &super::Scene) -> Option<EntityId> {
        self.as_str().find_in(scene)
    }
    fn text(&self) -> String {
        self.clone()
    }
}
