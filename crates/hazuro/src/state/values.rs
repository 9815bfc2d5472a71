//! Counts, flags, slots, stats and effects.

use std::collections::{BTreeMap, BTreeSet};
use std::hash::{Hash, Hasher};

use crate::Time;
use crate::describe::most::MAX_AMOUNT;
use crate::describe::{
    EffectId, EntityId, Fault, SlotId, SlotSort, SlotValue, Stat, StatId, TagId,
};
use crate::model::Scene;

use super::part::part;
use super::{Owned, State};

/// Counts and flags, of the scene or of an entity.
#[derive(Clone, Debug, Default, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct CountsAndFlags {
    pub counts: BTreeMap<String, i64>,
    pub flags: BTreeMap<String, bool>,
}

/// What a stat was at some time, without its effects, and how it has changed since.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct StatTrack {
    pub base: f64,
    pub since: Time,
    /// Each second.
    pub rate: f64,
    /// What it was, effects and all, when that was last told of.
    pub reported: f64,
    /// Tells what was foreseen before a change from what was after it.
    pub turn: u64,
}

impl Hash for StatTrack {
    fn hash<H: Hasher>(&self, state: &mut H) {
        let bits = [self.base, self.rate, self.reported].map(|number| (number + 0.0).to_bits());
        (bits, self.since, self.turn).hash(state);
    }
}

/// An effect that somebody has.
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Active {
    pub effect: EffectId,
    /// Tells it from others of its sort.
    pub number: u64,
    pub since: Time,
    pub until: Option<Time>,
    /// The stay it ends with.
    pub stay: Option<u64>,
}

/// What a stat changed from and to.
///
/// ```
/// use hazuro::{Play, Scene, scene::{Action, Entity, Stat}};
/// let health = Stat { start: 10.0, ..Stat::default() };
/// let mut play =
///     Play::new(Scene::builder("Yard").entity(Entity::new("miller").stat("health", health)).build()?);
/// play.act(Action::hurt("miller", 4.0))?;
/// let reading = play.step().iter().find_map(|entry| entry.event()?.reading).unwrap();
/// assert_eq!((reading.was, reading.is), (10.0, 6.0));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Reading {
    /// Which stat.
    pub stat: StatId,
    /// What it was.
    pub was: f64,
    /// What it is.
    pub is: f64,
}

impl Hash for Reading {
    fn hash<H: Hasher>(&self, state: &mut H) {
        (self.stat, self.was.to_bits(), self.is.to_bits()).hash(state);
    }
}

impl State {
    /// The counts and flags of the scene or of an entity.
    pub(crate) fn values(&self, of: Option<EntityId>) -> Option<&CountsAndFlags> {
        match of {
            Some(of) => self.values.own.get(&of),
            None => Some(&self.values.of_scene),
        }
    }

    pub(crate) fn values_mut(&mut self, of: Option<EntityId>) -> &mut CountsAndFlags {
        match of {
            Some(of) => self.values.own.entry(of).or_default(),
            None => &mut self.values.of_scene,
        }
    }

    pub(crate) fn count(&self, of: Option<EntityId>, name: &str) -> i64 {
        self.values(of).and_then(|values| values.counts.get(name)).copied().unwrap_or_default()
    }

    pub(crate) fn flag(&self, of: Option<EntityId>, name: &str) -> bool {
        self.values(of).and_then(|values| values.flags.get(name)).copied().unwrap_or_default()
    }

    /// What is in a slot of an entity now.
    pub(crate) fn slot<'a>(
        &'a self,
        scene: &'a Scene,
        of: EntityId,
        name: &str,
    ) -> Option<&'a SlotValue<EntityId>> {
        match self.values.slots.get(&of).and_then(|own| own.get(name)) {
            Some(put) => put.as_ref(),
            None => scene.slot(of, name),
        }
    }

    /// The entity in a slot now.
    ///
    /// # Errors
    /// If there is none: what is there instead.
    pub(crate) fn entity_in_slot(
        &self,
        scene: &Scene,
        of: EntityId,
        slot: SlotId,
    ) -> Result<EntityId, Fault> {
        let name = &scene.slot_names()[slot.0 as usize];
        let is = match self.slot(scene, of, name) {
            Some(SlotValue::Entity(entity)) => return Ok(*entity),
            other => other.map(SlotValue::sort),
        };
        let (key, need) = (name.clone(), SlotSort::Entity);
        Err(Fault::Slot { name: scene.name(of).into(), key, is, need })
    }

    /// A stat without its effects; none if the entity has no such stat.
    pub(crate) fn base(&self, scene: &Scene, entity: EntityId, stat: StatId) -> Option<f64> {
        let spec = scene.stat(entity, stat)?;
        let Some(meter) = self.values.stat_tracks.get(&(entity, stat)) else {
            return Some(spec.start);
        };
        let base = meter.base + meter.rate * (self.now - meter.since).secs();
        Some(within(base, spec))
    }

    /// A stat as it is now, with its effects; none if the entity has no such stat.
    pub(crate) fn stat(&self, scene: &Scene, entity: EntityId, stat: StatId) -> Option<f64> {
        let spec = scene.stat(entity, stat)?;
        let base = self.base(scene, entity, stat)?;
        let (add, times) = self.alteration(scene, entity, stat);
        Some(within((base + add) * times, spec))
    }

    /// What the effects on an entity add to a stat and multiply it by. Summed up anew each time,
    /// so that nothing is left of what has ended.
    pub(crate) fn alteration(&self, scene: &Scene, entity: EntityId, stat: StatId) -> (f64, f64) {
        let effects = self.values.effects.get(&entity).into_iter().flatten();
        let alters = effects.flat_map(|active| &*scene.effect_spec(active.effect).alters);
        alters.filter(|(altered, _)| *altered == stat).fold(
            (0.0, 1.0),
            |(add, times): (f64, f64), (_, alter)| {
                // Bounded, however many effects there are at once.
                let add = (add + alter.add).clamp(-MAX_AMOUNT, MAX_AMOUNT);
                (add, (times * alter.times).min(MAX_AMOUNT))
            },
        )
    }

    /// By how much the effects on an entity change a stat each second.
    pub(crate) fn rate(&self, scene: &Scene, entity: EntityId, stat: StatId) -> f64 {
        let effects = self.values.effects.get(&entity).into_iter().flatten();
        let alters = effects.flat_map(|active| &*scene.effect_spec(active.effect).alters);
        alters.filter(|(altered, _)| *altered == stat).map(|(_, alter)| alter.rate).sum()
    }

    /// Counts another action. How many there have been in this second of the play.
    pub(crate) fn count_action(&mut self) -> u64 {
        let second = self.now.nanos() / 1_000_000_000;
        let (last, count) = self.runs.actions;
        self.runs.actions = (second, if last == second { count + 1 } else { 1 });
        self.runs.actions.1
    }

    /// The next number that nothing else has.
    pub(crate) fn next_number(&mut self) -> u64 {
        self.numbers_so_far += 1;
        self.numbers_so_far
    }
}

/// A number as a stat can have it.
pub(crate) fn within(value: f64, spec: &Stat) -> f64 {
    value.clamp(spec.least, spec.most).clamp(-MAX_AMOUNT, MAX_AMOUNT)
}

part! {
    /// What the scene and its entities have.
    Values as ValuesPart {
        of_scene: CountsAndFlags,
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        own: BTreeMap<EntityId, CountsAndFlags>,
        /// What was put into slots, by whose they are and by name; none where one was emptied.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        slots: BTreeMap<EntityId, BTreeMap<String, Option<SlotValue<EntityId>>>>,
        /// Of stats that have changed.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        stat_tracks: BTreeMap<(EntityId, StatId), StatTrack>,
        /// In the order in which they were put there.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        effects: BTreeMap<EntityId, Vec<Active>>,
        /// Of those whose tags have changed, sorted.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        tags: BTreeMap<EntityId, Vec<TagId>>,
        /// Whose things are, of those that belong to somebody.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        owned: BTreeMap<EntityId, Owned>,
        /// How often each subject has collected each pickup that is limited.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        collected: BTreeMap<(EntityId, EntityId), u64>,
        /// Pickups that were left lying by somebody who is there.
        left_lying: BTreeSet<(EntityId, EntityId)>,
    }
}
