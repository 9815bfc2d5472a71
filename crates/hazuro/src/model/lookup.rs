//! Finding what a scene names: counts, flags, stats, effects, tags, kinds, reactions.

use std::collections::BTreeMap;

use crate::describe::{
    Action, Allowance, EffectId, Entity, EntityId, Fault, Features, Grant, Kind, KindId, Layers,
    Named, Reaction, ReactionId, Selector, SlotId, SlotSort, SlotValue, Stat, StatId, TagId,
    nearest,
};

use super::Scene;
use super::door::Names;
use super::names::EffectSpec;

impl Scene {
    /// The flags that the scene says how to begin with, by name.
    pub fn flags(&self) -> &BTreeMap<String, bool> {
        &self.flags
    }

    /// The names of all counts that the scene starts or changes.
    pub fn count_names(&self) -> impl Iterator<Item = &str> {
        let changed = self.changed(|action| match action {
            Action::Count { name, .. } => Some(name),
            _ => None,
        });
        let granted =
            self.grants().flat_map(|grant| grant.counts.keys().chain(grant.own_counts.keys()));
        self.counts.keys().chain(granted).map(String::as_str).chain(changed)
    }

    /// The names of all flags that the scene starts or changes.
    pub fn flag_names(&self) -> impl Iterator<Item = &str> {
        let changed = self.changed(|action| match action {
            Action::Flag { name, .. } => Some(name),
            _ => None,
        });
        let granted = self.grants().flat_map(|grant| &grant.flags);
        self.flags.keys().chain(granted).map(String::as_str).chain(changed)
    }

    fn changed<'a>(
        &'a self,
        name: impl Fn(&'a Action) -> Option<&'a String> + 'a,
    ) -> impl Iterator<Item = &'a str> {
        let actions = self.reactions.iter().flat_map(Reaction::actions);
        actions.filter_map(move |(.., action)| name(action)).map(String::as_str)
    }

    /// Whatever somebody may be given.
    fn grants(&self) -> impl Iterator<Item = &Grant> {
        let kinds = self.kinds.iter().filter_map(Kind::own_pickup);
        let pickups = kinds.chain(self.entities.iter().filter_map(Entity::own_pickup));
        let actions = self.reactions.iter().flat_map(Reaction::actions);
        let given = actions.filter_map(|(.., action)| match action {
            Action::Grant { grant, .. } => Some(grant),
            _ => None,
        });
        pickups.map(|pickup| &pickup.grant).chain(given)
    }

    /// The names of all stats, in order of appearance.
    pub fn stat_names(&self) -> &[String] {
        &self.stats.names
    }

    /// The name of a stat.
    pub fn stat_name(&self, stat: StatId) -> &str {
        &self.stats.names[stat.0 as usize]
    }

    /// The number of a stat.
    ///
    /// # Errors
    /// If there is none of this name; the error has the nearest name that exists.
    pub fn stat_id(&self, name: &str) -> Result<StatId, Fault> {
        self.stats
            .ids
            .get(name)
            .copied()
            .ok_or_else(|| unknown(Named::Stat, name, &self.stats.names))
    }

    /// What a stat of an entity is like, its own or its kind's; none if it has no such stat. Who
    /// walks has the stat [`WALK`](crate::scene::WALK).
    pub fn stat(&self, entity: EntityId, stat: StatId) -> Option<&Stat> {
        self.thing(entity).stat(stat)
    }

    /// The stats of an entity, in order of their numbers.
    pub fn stats_of(&self, entity: EntityId) -> impl Iterator<Item = (StatId, &Stat)> {
        self.thing(entity).stats.iter().map(|(id, stat)| (*id, stat))
    }

    pub(crate) fn effect_id(&self, name: &str) -> Result<EffectId, Fault> {
        let found = self.effect_ids.ids.get(name).copied();
        found.ok_or_else(|| unknown(Named::Effect, name, &self.effect_ids.names))
    }

    pub(crate) fn effect_name(&self, effect: EffectId) -> &str {
        &self.effect_ids.names[effect.0 as usize]
    }

    pub(crate) fn effect_spec(&self, effect: EffectId) -> &EffectSpec {
        // The effects are in the order of their names, as are their numbers.
        &self.effect_specs[effect.0 as usize]
    }

    pub(crate) fn kind_id(&self, name: &str) -> Result<KindId, Fault> {
        let found = self.kinds.iter().position(|kind| kind.name == name);
        found.map(|found| KindId(found as u32)).ok_or_else(|| {
            let nearest = nearest(name, self.kinds.iter().map(Kind::name));
            Fault::Unknown { what: Named::Kind, name: name.into(), nearest }
        })
    }

    pub(crate) fn tag_id(&self, name: &str) -> Result<TagId, Fault> {
        let found = self.tags.iter().position(|tag| tag == name);
        found.map(|found| TagId(found as u32)).ok_or_else(|| unknown(Named::Tag, name, &self.tags))
    }

    /// Whether who has this tag matters to any detector.
    pub(crate) fn rules_on(&self, tag: TagId) -> bool {
        self.ruling_tags.contains(&tag)
    }

    pub(crate) fn tag_name(&self, tag: TagId) -> &str {
        &self.tags[tag.0 as usize]
    }

    /// The reactions of this name: at most one.
    pub fn reaction_named(&self, name: &str) -> Option<ReactionId> {
        let found = self.reactions.iter().position(|reaction| reaction.name() == Some(name));
        found.map(|found| self.numbering.reaction(found))
    }

    /// The entities meant by a selector, in order.
    ///
    /// # Errors
    /// If the scene has no such entity, kind, tag or layer; the error has the nearest name that exists.
    pub fn select(&self, selector: &Selector) -> Result<Vec<EntityId>, Fault> {
        self.select_group(selector).map(|(found, _)| found)
    }
}

impl Scene {
    /// The names of all slots, in order of appearance.
    pub fn slot_names(&self) -> &[String] {
        &self.slot_ids.names
    }

    /// The slots of an entity that have something in them at the start, its own and its kind's, by name.
    pub fn slots_of(&self, entity: EntityId) -> impl Iterator<Item = (&str, &SlotValue<EntityId>)> {
        let slots = self.thing(entity).slots.iter();
        slots.map(|(id, value)| (self.slot_ids.names[id.0 as usize].as_str(), value))
    }

    /// What a slot of an entity is for; none if it has no such slot, or one that nothing can be put into, as
    /// that for its parent.
    pub fn slot_sort(&self, entity: EntityId, name: &str) -> Option<SlotSort> {
        self.thing(entity).slot_sort(*self.slot_ids.ids.get(name)?)
    }

    /// What is in a slot of an entity at the start; none if it has no such slot, or nothing is in it.
    pub fn slot(&self, entity: EntityId, name: &str) -> Option<&SlotValue<EntityId>> {
        self.thing(entity).slot(*self.slot_ids.ids.get(name)?)
    }

    /// The entities in slots of this name, whosever they are, in the scene's order of these.
    pub fn in_slots(&self, name: &str) -> impl Iterator<Item = EntityId> {
        let slot = self.slot_ids.ids.get(name).copied();
        self.ids().filter_map(move |of| match self.thing(of).slot(slot?)? {
            SlotValue::Entity(entity) => Some(*entity),
            _ => None,
        })
    }
}

impl Names for Scene {
    fn entity(&self, name: &str) -> Result<EntityId, Fault> {
        self.entity_id(name)
    }

    fn kind(&self, name: &str) -> Result<KindId, Fault> {
        self.kind_id(name)
    }

    fn given(&self, kind: KindId) -> &Features {
        &self.kind_specs[kind.0 as usize].features
    }

    fn tag(&self, name: &str) -> Result<TagId, Fault> {
        self.tag_id(name)
    }

    fn stat(&self, name: &str) -> Result<StatId, Fault> {
        self.stat_id(name)
    }

    fn effect(&self, name: &str) -> Result<EffectId, Fault> {
        self.effect_id(name)
    }

    fn slot(&self, name: &str) -> Result<SlotId, Fault> {
        let found = self.slot_ids.ids.get(name).copied();
        found.ok_or_else(|| unknown(Named::Slot, name, &self.slot_ids.names))
    }

    fn reaction(&self, name: &str) -> Result<ReactionId, Fault> {
        self.reaction_named(name).ok_or_else(|| {
            let names = self.reactions.iter().filter_map(Reaction::name);
            Fault::Unknown {
                what: Named::Reaction,
                name: name.into(),
                nearest: nearest(name, names),
            }
        })
    }
}

fn unknown(what: Named, name: &str, known: &[String]) -> Fault {
    let nearest = nearest(name, known.iter().map(String::as_str));
    Fault::Unknown { what, name: name.into(), nearest }
}

impl Scene {
    /// The findings that the scene allows, in the order in which they were allowed.
    pub fn allowances(&self) -> &[Allowance] {
        &self.allowances
    }
}

impl Scene {
    /// The layers of these names, all together.
    ///
    /// # Errors
    /// If an entity of the scene is in none of them, by name; the error has the nearest name.
    pub fn layers<'a>(&self, names: impl IntoIterator<Item = &'a str>) -> Result<Layers, Fault> {
        names.into_iter().try_fold(Layers::NONE, |all, name| Ok(all.and(self.layers.find(name)?)))
    }

    /// The layers that an entity is in: its own or its kind's, else the default one.
    pub fn layers_of(&self, entity: EntityId) -> Layers {
        self.thing(entity).layers
    }

    /// The names of some layers, in order of appearance.
    pub fn layer_names(&self, layers: Layers) -> impl Iterator<Item = &str> {
        self.layers.of(layers)
    }
}
