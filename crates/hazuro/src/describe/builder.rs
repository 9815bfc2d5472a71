//! Putting a scene together.

use std::collections::BTreeMap;

use super::{Allowance, Effect, Entity, Field, Kind, Reaction, Text};

/// A scene being described; [`build`](Self::build) checks it.
///
/// ```
/// use hazuro::{Scene, scene::Entity};
/// let mistake = Scene::builder("Tide mill")
///     .entity(Entity::new("weir"))
///     .entity(Entity::new("sill").parent("wier"))
///     .build()
///     .unwrap_err();
/// assert_eq!(mistake.to_string(), "entity[1].parent: there is no entity named `wier`");
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct SceneBuilder {
    pub(crate) title: String,
    pub(crate) rate: u32,
    pub(crate) seed: u64,
    pub(crate) kinds: Vec<Kind>,
    pub(crate) entities: Vec<Entity>,
    pub(crate) reactions: Vec<Reaction>,
    pub(crate) effects: Vec<Effect>,
    pub(crate) texts: BTreeMap<String, Text>,
    pub(crate) language: String,
    pub(crate) counts: BTreeMap<String, i64>,
    pub(crate) flags: BTreeMap<String, bool>,
    pub(crate) scripts: Vec<String>,
    pub(crate) gravity: f64,
    pub(crate) floor: Floor,
    pub(crate) allowances: Vec<Allowance>,
}

/// The level ground below everything, on which falls whatever finds nothing else to fall on. It is
/// no entity.
///
/// ```
/// use hazuro::{Scene, scene::Floor};
/// let scene = Scene::builder("Loft").floor(Floor::At(4.0)).build()?;
/// assert_eq!(scene.floor_height(), Some(4.0));
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub enum Floor {
    /// As low as the lowest walker stands to begin with, the lowest top of a solid, or the lowest
    /// ground (height field or mesh); at 0 if all of these are higher.
    #[default]
    Lowest,
    /// So high, in metres.
    At(f64),
    /// There is none.
    Missing,
}

impl SceneBuilder {
    /// The tick rate of a scene that gives none.
    pub const RATE: u32 = 60;
    /// The gravity of a scene that gives none, in metres per second squared.
    pub const GRAVITY: f64 = 9.81;
    /// The language of a scene that gives none.
    pub const LANGUAGE: &str = "en";
    /// The most that all kinds together may keep in stock.
    pub const MOST_STOCK: u32 = 1_000_000;

    pub(crate) fn new(title: impl Into<String>) -> Self {
        Self {
            title: title.into(),
            rate: Self::RATE,
            seed: 1,
            kinds: Vec::new(),
            entities: Vec::new(),
            reactions: Vec::new(),
            effects: Vec::new(),
            texts: BTreeMap::new(),
            language: Self::LANGUAGE.into(),
            counts: BTreeMap::new(),
            flags: BTreeMap::new(),
            scripts: Vec::new(),
            gravity: Self::GRAVITY,
            floor: Floor::default(),
            allowances: Vec::new(),
        }
    }

    /// How fast what falls gathers speed, in metres per second squared, from 0. The
    /// default is 9.81.
    #[must_use]
    pub fn gravity(self, gravity: f64) -> Self {
        Self { gravity, ..self }
    }

    /// Where the level ground below everything lies.
    #[must_use]
    pub fn floor(self, floor: Floor) -> Self {
        Self { floor, ..self }
    }

    /// Ticks per second, from 1 to 10 000. The default is 60.
    #[must_use]
    pub fn rate(self, rate: u32) -> Self {
        Self { rate, ..self }
    }

    /// The seed of everything random. The default is 1.
    #[must_use]
    pub fn seed(self, seed: u64) -> Self {
        Self { seed, ..self }
    }

    /// Add a kind.
    #[must_use]
    pub fn kind(mut self, kind: Kind) -> Self {
        self.kinds.push(kind);
        self
    }

    /// Add an entity. Their order is the order of events that happen at the same time.
    #[must_use]
    pub fn entity(mut self, entity: Entity) -> Self {
        self.entities.push(entity);
        self
    }

    /// Add a reaction. Reactions to one event happen in this order.
    #[must_use]
    pub fn reaction(mut self, reaction: Reaction) -> Self {
        self.reactions.push(reaction);
        self
    }

    /// Add an effect.
    #[must_use]
    pub fn effect(mut self, effect: Effect) -> Self {
        self.effects.push(effect);
        self
    }

    /// The language of texts that name none. The default is `en`.
    #[must_use]
    pub fn language(self, language: impl Into<String>) -> Self {
        Self { language: language.into(), ..self }
    }

    /// Add a text, in one or several languages. Names between braces are filled, see [`Text`].
    #[must_use]
    pub fn text(mut self, key: impl Into<String>, text: impl Into<Text>) -> Self {
        self.texts.insert(key.into(), text.into());
        self
    }

    /// Let a count start at this value instead of 0.
    #[must_use]
    pub fn count(mut self, name: impl Into<String>, value: i64) -> Self {
        self.counts.insert(name.into(), value);
        self
    }

    /// Raises or lowers a flag at the start. The default is lowered.
    #[must_use]
    pub fn flag(mut self, name: impl Into<String>, up: bool) -> Self {
        self.flags.insert(name.into(), up);
        self
    }

    /// Note the name of a script whose functions it calls. The program that plays the scene provides them.
    #[must_use]
    pub fn script(mut self, name: impl Into<String>) -> Self {
        self.scripts.push(name.into());
        self
    }
}

impl SceneBuilder {
    /// Allow what a check would find at a field of the description, or below it.
    #[must_use]
    pub fn allow(
        mut self,
        field: Field,
        finding: impl Into<String>,
        because: impl Into<String>,
    ) -> Self {
        let (finding, because) = (finding.into(), because.into());
        self.allowances.push(Allowance { field, finding, because });
        self
    }
}
