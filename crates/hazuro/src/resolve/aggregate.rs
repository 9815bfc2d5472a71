//! What can only be told of all entities together.

use crate::describe::{Entity, EntityId, Fault, Kind, MAX_DEPTH, SceneBuilder};
use crate::fast_hash::FastMap;
use crate::model::{Kin, LegStats, Scene, Thing};

use super::resolver::{Listed, Resolver};

/// The name of something of a kind's stock, numbered from 1.
pub(super) fn stock_name(kind: &str, number: usize) -> String {
    format!("{kind}#{number}")
}

/// Adds the stock of each kind to the entities. `false` if that is too much.
pub(crate) fn stock(kinds: &[Kind], entities: &mut Vec<Entity>) -> bool {
    let total: u64 = kinds.iter().map(|kind| u64::from(kind.features.stock)).sum();
    if total > u64::from(SceneBuilder::MOST_STOCK) {
        return false;
    }
    for kind in kinds {
        for number in 1..=kind.features.stock {
            let name = stock_name(&kind.name, number as usize);
            entities.push(Entity::new(name).kind(&kind.name));
        }
    }
    true
}

impl Scene {
    /// Reckons with the things from number `first` on: whose children they are, to whose body they
    /// belong, and what is asked of all things together.
    pub(crate) fn take_up(&mut self, first: usize) {
        self.leg_stats = LegStats::of(&self.stats);
        let new = first..self.things.len();
        let kin = self.things[first..].iter().map(|it| Kin { parent: it.parent, childless: true });
        self.kin.extend(kin);
        for index in new.clone() {
            let (entity, parent) = (self.numbering.entity(index), self.things[index].parent);
            if let Some(parent) = parent {
                self.things[parent.index()].children.push(entity);
                self.kin[parent.index()].childless = false;
            }
            let bearer = self.lineage(entity).find(|entity| self.has_body(*entity));
            self.things[index].bearer = bearer;
        }
        for index in new {
            let (entity, thing) = (self.numbering.entity(index), &self.things[index]);
            if let Some(bearer) = thing.bearer.filter(|it| thing.solid.is_some() && *it != entity) {
                self.attached_solids.entry(bearer).or_default().push(entity);
            }
            self.has_movers |= thing.mover.is_some();
            if let (Some(kind), true) = (thing.kinds.first(), thing.stocked) {
                self.stocks[kind.0 as usize].push(entity);
            }
            self.reckon_with(entity);
        }
    }

    /// Reckons with an entity in what is asked of all things together. What it was before may go on being
    /// reckoned with: that costs time, and changes nothing.
    pub(crate) fn reckon_with(&mut self, entity: EntityId) {
        let thing = &self.things[entity.index()];
        let senses = thing.senses.as_ref();
        let rules = [
            senses.map(|senses| &senses.admission),
            thing.zone.as_ref().map(|zone| &zone.admission),
        ];
        for rule in rules.into_iter().flatten() {
            self.ruling_tags.extend(rule.lists.tags.iter().chain(&rule.not.tags));
        }
        if rules.into_iter().flatten().any(|rule| rule.condition.is_some())
            && let Err(place) = self.conditional.binary_search(&entity)
        {
            self.conditional.insert(place, entity);
        }
        let prompt = senses.and_then(|senses| senses.prompt.as_ref());
        let reach = prompt.map_or(0.0, |prompt| prompt.config.reach + prompt.config.margin);
        self.widest_prompt = self.widest_prompt.max(reach);
        self.has_pointers |= senses.is_some_and(|senses| senses.pointer.is_some());
        self.has_blocking_bodies |= thing.body.as_ref().is_some_and(|body| body.blocks);
    }
}

/// How low somebody may get who stands on something: as low as the lowest ground, the lowest top of
/// another solid, or the feet of the lowest walker to begin with; 0 at the highest.
pub(crate) fn lowest(scene: &Scene) -> f64 {
    let height = |entity: EntityId| {
        let (thing, pose) = (scene.thing(entity), scene.pose(entity));
        let solid = thing.solid.as_ref().filter(|solid| !solid.form.is_endless());
        let solid = solid.map_or(0.0, |solid| {
            let bounds = solid.form.bounds(&pose);
            if solid.form.is_ground() { bounds.min.y } else { bounds.max.y }
        });
        let walks = thing.mover.is_some() && thing.parent.is_none();
        let body = thing.body.as_ref().filter(|_| walks);
        // The feet of who walks are at its origin, up to some rounding.
        body.map_or(0.0, |body| body.bounds_at(&pose).min.y.max(pose.position.y)).min(solid)
    };
    scene.ids().map(height).fold(0.0, f64::min)
}

impl Resolver {
    /// Reports each circle of parents once, at its first entity; of the things from number `first` on.
    pub(crate) fn circles(&mut self, entities: Listed<'_>, things: &[Thing]) {
        let mut depths: FastMap<usize, usize> = FastMap::default();
        let mut too_deep: Option<usize> = None;
        let below = |index: &usize| things[*index].parent.is_some();
        for start in (entities.first()..things.len()).filter(below) {
            let mut chain = Vec::new();
            let mut next = Some(start);
            while let Some(index) = next.filter(|index| !depths.contains_key(index)) {
                depths.insert(index, 0);
                chain.push(index);
                next = things[index].parent.map(EntityId::index);
            }
            let top = next.map_or(0, |above| depths[&above] + 1);
            for (depth, index) in (top..).zip(chain.iter().rev()) {
                depths.insert(*index, depth);
                if depth > MAX_DEPTH {
                    too_deep = Some(too_deep.map_or(*index, |first| first.min(*index)));
                }
            }
            let Some(back) = next.and_then(|next| chain.iter().position(|index| *index == next))
            else {
                continue;
            };
            let circle = &chain[back..];
            let names = circle.iter().chain(circle.first());
            let names = names.map(|index| entities.name(*index).into()).collect();
            let field = entities.field(circle[0]).key("parent");
            self.error(field, Fault::ParentCircle { names });
        }
        if let Some(index) = too_deep {
            let name = entities.name(index).into();
            self.error(entities.field(index).key("parent"), Fault::TooDeep { name });
        }
    }
}
