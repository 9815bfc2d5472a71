//! The names under which things are saved, and their numbers in the scene into which they are read.

use std::cell::RefCell;
use std::collections::{HashMap, HashSet};

use serde::{Deserialize, Deserializer, Serialize, Serializer, de};

use crate::describe::{EffectId, EntityId, Numbering, ReactionId, StatId, TagId};
use crate::model::Scene;

use super::LoadError;

/// The names of all that has a number in a state, in the order of the numbers.
#[derive(Debug, Default, PartialEq, Serialize, Deserialize)]
pub(super) struct Names {
    entities: Vec<String>,
    reactions: Vec<Option<String>>,
    tags: Vec<String>,
    stats: Vec<String>,
    effects: Vec<String>,
}

impl Names {
    pub fn of(scene: &Scene) -> Self {
        let entities = scene.ids().map(|entity| scene.name(entity).to_owned());
        let reactions = scene.reactions().iter().map(|it| it.name().map(ToOwned::to_owned));
        Self {
            entities: entities.collect(),
            reactions: reactions.collect(),
            tags: scene.tags.clone(),
            stats: scene.stats.names.clone(),
            effects: scene.effect_ids.names.clone(),
        }
    }
}

/// The number in a scene of each thing that was saved.
#[derive(Clone, Debug, Default)]
pub(super) struct Numbers {
    pub entities: Vec<EntityId>,
    /// What must be added to the scene's stocks first, in this order: names and kinds.
    pub more_in_stock: Vec<(String, String)>,
    pub reactions: Vec<ReactionId>,
    tags: Vec<u32>,
    stats: Vec<u32>,
    effects: Vec<u32>,
}

/// What must be known to read a state: a reader of serde is told nothing else.
struct Reading {
    there: Names,
    /// The kinds of the scene, of which there may be more in stock when it was saved, each with what is
    /// added to a name for the children that come with it.
    kinds: Vec<(String, Vec<String>)>,
    numbering: Numbering,
    /// Once the names have been read.
    numbers: Numbers,
    /// What is wrong, beside the form.
    why: Option<LoadError>,
}

thread_local! {
    /// What is being read on this thread.
    static READING: RefCell<Option<Reading>> = const { RefCell::new(None) };
}

/// Reads a state into a scene.
pub(super) fn reading<T>(
    scene: &Scene,
    read: impl FnOnce() -> Result<T, String>,
) -> Result<T, LoadError> {
    let (there, numbering) = (Names::of(scene), scene.numbering);
    let kinds = scene.kinds().iter().map(|kind| {
        let name = kind.name();
        (name.to_owned(), scene.names_below(name))
    });
    let kinds = kinds.collect();
    let reading = Reading { there, kinds, numbering, numbers: Numbers::default(), why: None };
    let before = READING.replace(Some(reading));
    let outcome = read();
    let reading = READING.replace(before);
    let why = reading.and_then(|reading| reading.why);
    outcome.map_err(|error| why.unwrap_or(LoadError::Damaged(error)))
}

/// Reads something that names things by their numbers in a scene.
pub(super) fn inside<T>(
    scene: &Scene,
    read: impl FnOnce() -> Result<T, String>,
) -> Result<T, LoadError> {
    let count = |names: usize| 0..names as u32;
    let numbers = Numbers {
        entities: scene.ids().collect(),
        more_in_stock: Vec::new(),
        reactions: scene.reaction_ids().collect(),
        tags: count(scene.tags.len()).collect(),
        stats: count(scene.stats.names.len()).collect(),
        effects: count(scene.effect_ids.names.len()).collect(),
    };
    let (there, numbering) = (Names::default(), scene.numbering);
    let reading = Reading { there, kinds: Vec::new(), numbering, numbers, why: None };
    let before = READING.replace(Some(reading));
    let outcome = read();
    READING.set(before);
    outcome.map_err(LoadError::Damaged)
}

/// Keeps what is wrong, which an error of serde cannot hold.
pub(super) fn put_aside<E: de::Error>(error: LoadError) -> E {
    let text = error.to_string();
    READING.with_borrow_mut(|reading| {
        if let Some(reading) = reading {
            reading.why = Some(error);
        }
    });
    E::custom(text)
}

/// Finds what was saved under these names, for the ids that are read next; and whether the scene
/// has nothing else.
pub(super) fn find(names: &Names) -> Result<(Numbers, bool), LoadError> {
    READING.with_borrow_mut(|reading| {
        let outside = || LoadError::Damaged("it is read outside of `load`".into());
        let reading = reading.as_mut().ok_or_else(outside)?;
        let more_in_stock = reading.more_in_stock(names);
        let there = &mut reading.there;
        for (name, kind) in &more_in_stock {
            there.entities.push(name.clone());
            let below = reading.kinds.iter().find(|(it, _)| it == kind).map(|(_, below)| below);
            there.entities.extend(below.into_iter().flatten().map(|it| format!("{name}{it}")));
        }
        let there = &*there;
        let all = |what, saved: &[String], there: &[String]| {
            found(what, saved.iter().map(String::as_str), there)
        };
        let entity = |place: u32| reading.numbering.entity(place as usize);
        let reaction = |place: u32| reading.numbering.reaction(place as usize);
        let entities = all("entity", &names.entities, &there.entities)?;
        let reactions = reactions(&names.reactions, &there.reactions)?;
        reading.numbers = Numbers {
            entities: entities.into_iter().map(entity).collect(),
            more_in_stock,
            reactions: reactions.into_iter().map(reaction).collect(),
            tags: all("tag", &names.tags, &there.tags)?,
            stats: all("stat", &names.stats, &there.stats)?,
            effects: all("effect", &names.effects, &there.effects)?,
        };
        Ok((reading.numbers.clone(), names == there))
    })
}

impl Reading {
    /// What was in stock when it was saved, and is not in the scene: names and kinds.
    fn more_in_stock(&self, saved: &Names) -> Vec<(String, String)> {
        let there: HashSet<&String> = self.there.entities.iter().collect();
        let stocked = |name: &&String| {
            let (kind, number) = name.rsplit_once('#')?;
            let fits = number.parse::<u32>().is_ok() && self.kinds.iter().any(|(it, _)| it == kind);
            fits.then(|| ((*name).clone(), kind.to_owned()))
        };
        let missing = saved.entities.iter().filter(|name| !there.contains(name));
        missing.filter_map(|name| stocked(&name)).collect()
    }
}

/// The place among those who are there of each of these names.
fn found<'a>(
    what: &'static str,
    saved: impl Iterator<Item = &'a str>,
    there: &[String],
) -> Result<Vec<u32>, LoadError> {
    let places = there.iter().zip(0..).map(|(name, place)| (name.as_str(), place));
    let places: HashMap<&str, u32> = places.collect();
    let (mut found, mut names) = (Vec::new(), Vec::new());
    for name in saved {
        match places.get(name) {
            Some(place) => found.push(*place),
            None => names.push(name.to_owned()),
        }
    }
    if names.is_empty() { Ok(found) } else { Err(LoadError::Missing { what, names }) }
}

/// Reactions with a name are found by it, those without by their order.
fn reactions(saved: &[Option<String>], there: &[Option<String>]) -> Result<Vec<u32>, LoadError> {
    let nameless = |all: &[Option<String>]| all.iter().filter(|name| name.is_none()).count();
    let (were, are) = (nameless(saved), nameless(there));
    if were != are {
        return Err(LoadError::Nameless { saved: were, there: are });
    }
    let known: Vec<String> = there.iter().map(|name| name.clone().unwrap_or_default()).collect();
    let mut named =
        found("reaction", saved.iter().flatten().map(String::as_str), &known)?.into_iter();
    let mut rest = (0_u32..).zip(there).filter(|(_, name)| name.is_none()).map(|(place, _)| place);
    let place = |name: &Option<String>| if name.is_some() { named.next() } else { rest.next() };
    Ok(saved.iter().filter_map(place).collect())
}

/// What was saved under a number, in the scene into which it is read.
fn numbered<'de, D: Deserializer<'de>, T: Copy>(
    from: D,
    of: impl FnOnce(&Numbers) -> &[T],
) -> Result<T, D::Error> {
    let number = usize::deserialize(from)?;
    READING.with_borrow(|reading| {
        let Some(Reading { numbers, .. }) = reading else {
            return Err(de::Error::custom("an id means something only in a play that is loaded"));
        };
        let found = of(numbers).get(number).copied();
        found.ok_or_else(|| de::Error::custom(format!("there is nothing of the number {number}")))
    })
}

macro_rules! saved_by_number {
    ($($id:ident: $list:ident, $index:expr, $of:expr;)*) => {
        $(
            /// As its place in the scene's list, from 0.
            impl Serialize for $id {
                fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
                    Serialize::serialize(&$index(*self), to)
                }
            }

            /// Only while a play is loaded: alone, a number means nothing.
            impl<'de> Deserialize<'de> for $id {
                fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
                    numbered(from, |numbers| &numbers.$list).map($of)
                }
            }
        )*
    };
}

saved_by_number! {
    EntityId: entities, EntityId::index, |id| id;
    ReactionId: reactions, ReactionId::index, |id| id;
    TagId: tags, |id: Self| id.0, TagId;
    StatId: stats, |id: Self| id.0, StatId;
    EffectId: effects, |id: Self| id.0, EffectId;
}
