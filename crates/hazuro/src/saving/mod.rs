//! Saving what a play has come to, and going on from there: in another process, on another machine,
//! with a scene that has grown meanwhile.

mod adapt;
mod mirror;
mod names;

use std::fmt;

use serde::de::{self, SeqAccess, Visitor};
use serde::ser::SerializeTuple;
use serde::{Deserialize, Deserializer, Serializer};
use thiserror::Error;

use crate::describe::{Entity, Fault};
use crate::play::Play;
use crate::state::State;

use names::{Names, Numbers, find, put_aside, reading};

/// The version of what is saved. It changes when a state has other parts.
const VERSION: u32 = 7;
/// How many parts a saved play has: version, names, fingerprint, state.
const PARTS: usize = 4;
/// The most names that a message lists.
const LISTED: usize = 3;

/// Why a saved play cannot be gone on with. The play is as it was before, but that it may have more in
/// stock.
///
/// ```
/// use hazuro::{LoadError, Play, Scene, scene::Entity};
/// let scene = |name: &str| Scene::builder("Yard").entity(Entity::new(name)).build();
/// let saved = Play::new(scene("gate")?).save();
/// let why = Play::new(scene("door")?).load(&saved).unwrap_err();
/// assert_eq!(why, LoadError::Missing { what: "entity", names: vec!["gate".into()] });
/// assert_eq!(why.to_string(), "the scene has not got what was saved: the entity `gate`");
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Debug, Error, PartialEq, Eq)]
#[non_exhaustive]
pub enum LoadError {
    /// It was saved by another version of this crate.
    #[error("it was saved in version {found}, and this is version {VERSION}")]
    Version {
        /// The version in which it was saved.
        found: u32,
    },
    /// The scene lacks what was there when it was saved.
    #[error("the scene has not got what was saved: the {what} {}", listed(names))]
    Missing {
        /// What sort of thing: `entity`, `kind`, `reaction`, `tag`, `stat` or `effect`.
        what: &'static str,
        /// Their names.
        names: Vec<String>,
    },
    /// Reactions without names were added or taken away, so that it cannot be told which is which.
    #[error(
        "there were {saved} reactions without names, and there are {there}: name them, so that they \
         can be told apart"
    )]
    Nameless {
        /// How many there were.
        saved: usize,
        /// How many there are.
        there: usize,
    },
    /// Something is another sort of thing now than when it was saved.
    #[error("{0} is another than when it was saved")]
    Changed(String),
    /// It is cut off, or not what was saved.
    #[error("it is damaged: {0}")]
    Damaged(String),
}

fn listed(names: &[String]) -> String {
    let first: Vec<String> = names.iter().take(LISTED).map(|name| format!("`{name}`")).collect();
    let more = names.len().saturating_sub(LISTED);
    let first = first.join(", ");
    if more == 0 { first } else { format!("{first} and {more} more") }
}

impl Play {
    /// All that a play has come to, as bytes (CBOR, RFC 8949). Handlers, the tick rate and the
    /// language are the host's, and are not in it.
    ///
    /// ```
    /// use hazuro::{Play, Scene, geometry::Shape, scene::{Body, Entity, Zone}};
    /// let scene = Scene::builder("Yard")
    ///     .entity(Entity::new("ball").body(Body::new(Shape::Sphere { radius: 0.1 })))
    ///     .entity(Entity::new("pad").zone(Zone::new(Shape::Box { size: [1.0; 3] })));
    /// let mut play = Play::new(scene.build()?);
    /// play.step();
    /// let saved = play.save();
    ///
    /// // In another process, with a scene to which something was added:
    /// let scene = Scene::builder("Yard")
    ///     .entity(Entity::new("gate"))
    ///     .entity(Entity::new("ball").body(Body::new(Shape::Sphere { radius: 0.1 })))
    ///     .entity(Entity::new("pad").zone(Zone::new(Shape::Box { size: [1.0; 3] })));
    /// let mut later = Play::new(scene.build()?);
    /// later.load(&saved)?;
    /// assert_eq!(later.now(), play.now());
    /// assert_eq!(later.occupants("pad")?, [later.scene().entity_id("ball")?]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Panics
    /// Never: nothing that a play holds cannot be written to memory.
    pub fn save(&self) -> Vec<u8> {
        let mut bytes = Vec::new();
        ciborium::into_writer(&Saved(self), &mut bytes).expect("a state can be written to memory");
        bytes
    }

    /// Goes on from what [`save`](Self::save) gave. Handlers stay.
    ///
    /// The scene may have grown: things are found by their names, and what is new begins as it would
    /// at the start. What was [added](Self::add) is to be added again first; what was
    /// [spawned](Self::spawn) beyond a stock makes the stock as large again. A stay of what no longer detects is forgotten without a word.
    ///
    /// # Errors
    /// If it is of another version, is damaged, or of a scene that had what this one lacks.
    pub fn load(&mut self, mut bytes: &[u8]) -> Result<(), LoadError> {
        let read = reading(self.scene(), || {
            let read = ciborium::from_reader::<Read, _>(&mut bytes);
            read.map_err(|error| error.to_string())
        })?;
        if !bytes.is_empty() {
            return Err(LoadError::Damaged(format!("{} bytes too many", bytes.len())));
        }
        self.go_on_from(read)
    }

    /// As [`save`](Self::save), in any format of serde.
    ///
    /// ```
    /// use hazuro::{Play, Scene};
    /// let scene = || Scene::builder("Yard").count("rings", 3).build();
    /// let mut text = Vec::new();
    /// Play::new(scene()?).save_with(&mut serde_json::Serializer::new(&mut text))?;
    /// let mut later = Play::new(scene()?);
    /// later.load_with(&mut serde_json::Deserializer::from_slice(&text))?;
    /// assert_eq!(later.count("rings"), 3);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    ///
    /// # Errors
    /// What the format cannot write: JSON has no infinite numbers, for one.
    pub fn save_with<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        serde::Serialize::serialize(&Saved(self), to)
    }

    /// As [`load`](Self::load), from any format of serde.
    ///
    /// # Errors
    /// As [`load`](Self::load).
    pub fn load_with<'de, D: Deserializer<'de>>(&mut self, from: D) -> Result<(), LoadError> {
        let read = reading(self.scene(), || Read::deserialize(from).map_err(|it| it.to_string()))?;
        self.go_on_from(read)
    }

    fn go_on_from(&mut self, Read { state, numbers, fingerprint }: Read) -> Result<(), LoadError> {
        for (name, kind) in &numbers.more_in_stock {
            let entity = Entity::new(name).kind(kind);
            let grown = self.grow(|scene| scene.grow(vec![entity], true));
            grown.map_err(|errors| LoadError::Damaged(errors.to_string()))?;
        }
        let state = adapt::adapt(state, &numbers, self.scene())?;
        if fingerprint.is_some_and(|saved| saved != state.fingerprint()) {
            return Err(LoadError::Damaged("it is not what was saved".into()));
        }
        // It is of this scene, so that nothing can be wrong but to what things have been converted.
        self.restore(state).map_err(|fault| match fault {
            Fault::Unable { name, .. } => LoadError::Changed(format!("`{name}`")),
            Fault::Unconvertible { kind, .. } => LoadError::Changed(format!("the kind `{kind}`")),
            other => LoadError::Damaged(other.to_string()),
        })
    }
}

/// A play, as it is saved.
struct Saved<'a>(&'a Play);

impl serde::Serialize for Saved<'_> {
    fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
        let mut parts = to.serialize_tuple(PARTS)?;
        parts.serialize_element(&VERSION)?;
        parts.serialize_element(&Names::of(self.0.scene()))?;
        parts.serialize_element(&self.0.state().fingerprint())?;
        parts.serialize_element(self.0.state())?;
        parts.end()
    }
}

/// What was read, before it fits its scene.
struct Read {
    state: State,
    numbers: Numbers,
    /// If the scene is as it was, that of the state.
    fingerprint: Option<u64>,
}

impl<'de> Deserialize<'de> for Read {
    fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
        from.deserialize_tuple(PARTS, Parts)
    }
}

/// Reads part after part, since the names are needed to read the state.
struct Parts;

impl<'de> Visitor<'de> for Parts {
    type Value = Read;

    fn expecting(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str("a saved play")
    }

    fn visit_seq<A: SeqAccess<'de>>(self, mut parts: A) -> Result<Read, A::Error> {
        let missing = || de::Error::custom("it is cut off");
        let found: u32 = parts.next_element()?.ok_or_else(missing)?;
        if found != VERSION {
            return Err(put_aside(LoadError::Version { found }));
        }
        let names: Names = parts.next_element()?.ok_or_else(missing)?;
        let (numbers, same) = find(&names).map_err(put_aside)?;
        let fingerprint: u64 = parts.next_element()?.ok_or_else(missing)?;
        let state = parts.next_element()?.ok_or_else(missing)?;
        Ok(Read { state, numbers, fingerprint: same.then_some(fingerprint) })
    }
}
