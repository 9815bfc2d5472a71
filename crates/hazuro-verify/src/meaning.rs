//! Whom the names in the actions of a scene may mean.

use hazuro::scene::{Selector, SlotValue, slot_reference};
use hazuro::{EntityId, Scene};

/// Whether a name in an action may mean an entity: `who` and `on` may mean anybody, a slot of theirs
/// what anybody has in such a slot.
pub(crate) fn may_mean(scene: &Scene, name: &str, entity: EntityId) -> bool {
    if ["who", "on"].contains(&name) {
        return true;
    }
    if let Some((whose, slot)) = slot_reference(name) {
        return in_slots(scene, whose, slot).any(|id| id == entity);
    }
    match Selector::from(name) {
        Selector::Entity(name) => scene.name(entity) == name,
        Selector::Kind(kind) => scene.kind_of(entity).is_some_and(|it| it.name() == kind),
        Selector::Tag(tag) => scene.tags_of(entity).any(|it| it == tag),
        _ => false,
    }
}

/// Whether a name in an action, other than `who` and `on`, may mean an entity.
pub(crate) fn names(scene: &Scene, name: &str, entity: EntityId) -> bool {
    !["who", "on"].contains(&name) && may_mean(scene, name, entity)
}

/// The entities that a name in an action may mean; none if that may be anybody.
pub(crate) fn meant(scene: &Scene, name: &str) -> Option<Vec<EntityId>> {
    if ["who", "on"].contains(&name) {
        return None;
    }
    if let Some((whose, slot)) = slot_reference(name) {
        let mut all: Vec<_> = in_slots(scene, whose, slot).collect();
        all.sort_unstable();
        all.dedup();
        return Some(all);
    }
    scene.select(&Selector::from(name)).ok()
}

/// The entity that a name in an action means if this is the detector of the event; none if that is not
/// one that can be known.
pub(crate) fn meant_with(scene: &Scene, name: &str, on: Option<EntityId>) -> Option<EntityId> {
    let Some((whose, slot)) = slot_reference(name) else { return scene.find(name) };
    let owner = if whose == "on" { on } else { scene.find(whose) };
    match scene.slot(owner?, slot)? {
        SlotValue::Entity(entity) => Some(*entity),
        _ => None,
    }
}

/// The entities in slots of this name.
fn in_slots<'a>(
    scene: &'a Scene,
    whose: &'a str,
    slot: &'a str,
) -> impl Iterator<Item = EntityId> + 'a {
    let owner = scene.find(whose).filter(|_| !["who", "on"].contains(&whose));
    let owners = scene.ids().filter(move |id| owner.is_none_or(|owner| owner == *id));
    owners.filter_map(move |id| match scene.slot(id, slot)? {
        SlotValue::Entity(entity) => Some(*entity),
        _ => None,
    })
}
