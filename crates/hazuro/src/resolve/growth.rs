//! Adding entities to a scene that is being played.

use std::hash::{Hash, Hasher};
use std::mem::take;
use std::sync::Arc;

use crate::describe::{Entity, Features, KindId, SceneErrors, TagId};
use crate::fast_hash::Fnv;
use crate::model::{Scene, Thing};

use super::aggregate::stock_name;
use super::children::add_children;
use super::kinds::Kinds;
use super::resolver::{Listed, Resolver, Tags};

impl Scene {
    /// Adds entities after all others, or none of them if anything is wrong: errors speak of them as
    /// numbered from 0. What is `stocked` adds to the stock of its kind.
    pub(crate) fn grow(&mut self, mut new: Vec<Entity>, stocked: bool) -> Result<(), SceneErrors> {
        let first = self.things.len();
        let kinds = Kinds::new(&self.kinds, &self.kind_specs);
        add_children(&mut new, 0, &kinds).map_err(|error| SceneErrors(vec![error]))?;
        // If anything is wrong once more, with the names that might have been meant.
        let things = self.resolve_new(&new, false).or_else(|_| self.resolve_new(&new, true))?;
        let stocked = |entity: &Entity| stocked && entity.made_for.is_none();
        let things = things.into_iter().zip(&new);
        self.things.extend(things.map(|(it, entity)| Thing { stocked: stocked(entity), ..it }));
        self.entities.extend(new);
        self.take_up(first);
        for index in first..self.things.len() {
            let entity = self.numbering.entity(index);
            self.listeners.meet(entity, &self.things[index]);
            self.enders.meet(entity, &self.things[index]);
        }
        self.former.insert(self.mark, first);
        self.mark = self.mark_from(first);
        Ok(())
    }

    /// Adds one more to the stock of a kind, named as the others are.
    pub(crate) fn grow_stock(&mut self, kind: KindId) -> Result<(), SceneErrors> {
        let (kind, there) = (&self.kinds[kind.0 as usize].name, self.stocks[kind.0 as usize].len());
        let names = (there + 1..).map(|number| stock_name(kind, number));
        let name = names.into_iter().find(|name| !self.ids.contains_key(name));
        let entity = name.map(|name| Entity::new(name).kind(kind));
        self.grow(entity.into_iter().collect(), true)
    }

    /// What is added to the name of something of a kind for each child that comes with it, in order.
    #[cfg(feature = "serde")]
    pub(crate) fn names_below(&self, kind: &str) -> Vec<String> {
        let kinds = Kinds::new(&self.kinds, &self.kind_specs);
        let mut all = vec![Entity::new("").kind(kind)];
        // The scene was built with the kind, so there is room for its children.
        let _ = add_children(&mut all, 0, &kinds);
        all.drain(1..).map(|child| child.name).collect()
    }

    /// Looks up new entities. What is wrong leaves no trace.
    fn resolve_new(&mut self, new: &[Entity], suggests: bool) -> Result<Vec<Thing>, SceneErrors> {
        let (tags, stats) = (self.tags.len(), self.stats.names.len());
        let slots = self.slot_ids.names.len();
        let (layers, given_tags) = (self.layers.clone(), self.given_tags.clone());
        let mut resolver = Resolver::of_scene(self);
        if suggests {
            let names = self.entities.iter().chain(new).map(|entity| entity.name.clone());
            resolver.names = names.collect();
        }
        let entities = Listed { before: &self.entities, new };
        resolver.entities(entities);
        for entity in new {
            resolver.name_stats(&entity.features);
        }
        resolver.name_children(entities);
        let sound_kinds = vec![true; self.kinds.len()];
        let mut things = take(&mut self.things);
        let first = things.len();
        let specs = Arc::clone(&self.kind_specs);
        let kinds = Kinds::new(&self.kinds, &specs);
        things.extend(resolver.things((&kinds, &sound_kinds), entities));
        if resolver.errors.is_empty() {
            resolver.circles(entities, &things);
            resolver.areas(&self.kinds, entities, &things);
        }
        let found = things.split_off(first);
        self.things = things;
        let errors = take(&mut resolver.errors);
        self.take_back(resolver);
        if errors.is_empty() {
            return Ok(found);
        }
        for entity in new {
            if self.ids.get(&entity.name).is_some_and(|id| id.index() >= first) {
                Arc::make_mut(&mut self.ids).remove(&entity.name);
            }
        }
        self.tags.truncate(tags);
        self.stats.truncate(stats);
        self.slot_ids.truncate(slots);
        (self.layers, self.given_tags) = (layers, given_tags);
        Err(SceneErrors(errors))
    }

    /// Takes back the names that a resolver has taken.
    fn take_back(&mut self, resolver: Resolver) {
        let Resolver { ids, tags, stats, effects, slots, layers, given_tags, .. } = resolver;
        (self.ids, self.stats, self.effect_ids, self.slot_ids) = (ids, stats, effects, slots);
        (self.tags, self.layers, self.given_tags) = (tags.names, layers, given_tags);
    }

    /// The mark of the scene with the entities from number `first` on: the same however many of them come
    /// at once.
    fn mark_from(&self, first: usize) -> u64 {
        self.entities[first..].iter().fold(self.mark, |mark, entity| {
            let Features { kinds, tags, layers, stats, pickup, .. } = &entity.features;
            let mut hasher = Fnv::default();
            (mark, &entity.name, kinds, &entity.parent, tags, layers).hash(&mut hasher);
            for (name, _) in stats {
                name.hash(&mut hasher);
            }
            pickup.as_ref().map(|pickup| &pickup.grant.tags).hash(&mut hasher);
            hasher.finish()
        })
    }
}

impl Resolver {
    /// One that knows the names of a scene, and takes them from it meanwhile.
    fn of_scene(scene: &mut Scene) -> Self {
        let tags = take(&mut scene.tags);
        Self {
            ids: take(&mut scene.ids),
            stats: take(&mut scene.stats),
            effects: take(&mut scene.effect_ids),
            slots: take(&mut scene.slot_ids),
            layers: take(&mut scene.layers),
            given_tags: take(&mut scene.given_tags),
            ..Self::with_kinds(scene, tags)
        }
    }

    /// One that knows the names of a scene, beside it. Those of all entities are shared.
    pub(super) fn beside(scene: &Scene) -> Self {
        Self {
            ids: Arc::clone(&scene.ids),
            stats: scene.stats.clone(),
            effects: scene.effect_ids.clone(),
            slots: scene.slot_ids.clone(),
            layers: scene.layers.clone(),
            given_tags: scene.given_tags.clone(),
            ..Self::with_kinds(scene, scene.tags.clone())
        }
    }

    /// One that knows the kinds of a scene, and its tags.
    fn with_kinds(scene: &Scene, names: Vec<String>) -> Self {
        let ids = names.iter().cloned().zip((0..).map(TagId)).collect();
        let kinds = scene.kinds.iter().zip(0..);
        Self {
            kinds: kinds.map(|(kind, number)| (kind.name.clone(), KindId(number))).collect(),
            tags: Tags { names, ids },
            kind_names: scene.kinds.iter().map(|kind| kind.name.clone()).collect(),
            kind_specs: Arc::clone(&scene.kind_specs),
            gravity: scene.gravity,
            ..Self::empty(scene.numbering)
        }
    }
}
