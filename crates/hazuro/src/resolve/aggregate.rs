//! What can only be told of all entities together.

use std::collections::{BTreeMap, BTreeSet};
use std::ops::Range;

use crate::describe::{
    Entity, EntityId, Fault, Field, Kind, MAX_DEPTH, Numbering, SceneBuilder, TagId,
};
use crate::model::{Scene, Thing};

use super::resolver::Resolver;

/// Of each kind, the numbers that the entities of its stock have, after all that are described.
pub(crate) fn stocks(scene: &SceneBuilder, described: usize) -> Vec<Range<usize>> {
    let mut first = described;
    let stock = |kind: &Kind| {
        let stock = first..first + kind.features.stock as usize;
        first = stock.end;
        stock
    };
    scene.kinds.iter().map(stock).collect()
}

/// Adds the stock of each kind to the entities. `false` if that is too much.
pub(crate) fn stock(scene: &mut SceneBuilder) -> bool {
    let total: u64 = scene.kinds.iter().map(|kind| u64::from(kind.features.stock)).sum();
    if total > u64::from(SceneBuilder::MOST_STOCK) {
        return false;
    }
    for kind in &scene.kinds {
        for number in 1..=kind.features.stock {
            let entity = Entity::new(format!("{}#{number}", kind.name)).kind(&kind.name);
            scene.entities.push(entity);
        }
    }
    true
}

/// What is asked of all things together: the solids that belong to each body, whose rules have a
/// condition, and the tags that rules name.
pub(crate) fn gathered(
    numbering: Numbering,
    things: &[Thing],
) -> (BTreeMap<EntityId, Vec<EntityId>>, Vec<EntityId>, BTreeSet<TagId>) {
    let mut attached_solids: BTreeMap<EntityId, Vec<EntityId>> = BTreeMap::new();
    let (mut conditional, mut ruling_tags) = (Vec::new(), BTreeSet::new());
    for (index, thing) in things.iter().enumerate() {
        let entity = numbering.entity(index);
        if let Some(owner) = thing.owner.filter(|owner| thing.solid.is_some() && *owner != entity) {
            attached_solids.entry(owner).or_default().push(entity);
        }
        let senses = thing.senses.as_ref().map(|senses| &senses.admission);
        let rules = [senses, thing.zone.as_ref().map(|zone| &zone.admission)];
        for rule in rules.into_iter().flatten() {
            ruling_tags.extend(rule.lists.tags.iter().chain(&rule.not.tags));
        }
        if rules.into_iter().flatten().any(|rule| rule.condition.is_some()) {
            conditional.push(entity);
        }
    }
    (attached_solids, conditional, ruling_tags)
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
    /// Reports each circle of parents once, at its first entity.
    pub(crate) fn circles(&mut self, scene: &SceneBuilder, things: &[Thing]) {
        let mut done = vec![false; things.len()];
        let mut depths = vec![0; things.len()];
        let mut too_deep: Option<usize> = None;
        for start in 0..things.len() {
            let mut chain = Vec::new();
            let mut next = Some(start);
            while let Some(index) = next.filter(|index| !done[*index]) {
                done[index] = true;
                chain.push(index);
                next = things[index].parent.map(EntityId::index);
            }
            let top = next.map_or(0, |above| depths[above] + 1);
            for (depth, index) in (top..).zip(chain.iter().rev()) {
                depths[*index] = depth;
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
            let names = names.map(|index| scene.entities[*index].name.clone()).collect();
            let field = Field::ROOT.key("entity").item(circle[0]).key("parent");
            self.error(field, Fault::ParentCircle { names });
        }
        if let Some(index) = too_deep {
            let name = scene.entities[index].name.clone();
            let field = Field::ROOT.key("entity").item(index).key("parent");
            self.error(field, Fault::TooDeep { name });
        }
    }
}
