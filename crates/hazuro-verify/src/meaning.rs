//! Whom the names in the actions of a scene may mean.

use hazuro::scene::{Action, Filling, Reaction, Selector, SlotValue, slot_reference};
use hazuro::{EntityId, Scene};

/// Whether a name in an action may mean an entity: `who` and `on` may mean anybody, a slot of theirs
/// what anybody has in such a slot.
pub(crate) fn may_mean(scene: &Scene, name: &str, entity: EntityId) -> bool {
    if ["who", "on"].contains(&name) {
        return true;
    }
    if let Some((whose, slot)) = slot_reference(name) {
        return in_slot(scene, whose, slot).is_none_or(|all| all.contains(&entity));
    }
    match Selector::from(name) {
        Selector::Entity(name) => scene.name(entity) == name,
        Selector::Kind(kind) => scene.is_of_kind(entity, &kind),
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
        let mut all = in_slot(scene, whose, slot)?;
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
    if fillings(scene, slot).next().is_some() {
        return None;
    }
    let owner = if whose == "on" { on } else { scene.find(whose) };
    entity_in(scene, owner?, slot)
}

/// The entities that may be in a slot: that of a named entity, or of whoever is part of the event; and what
/// is put into one of this name. None if that may be anybody.
fn in_slot(scene: &Scene, whose: &str, slot: &str) -> Option<Vec<EntityId>> {
    let mut found: Vec<EntityId> = if ["who", "on"].contains(&whose) {
        scene.in_slots(slot).collect()
    } else {
        scene.find(whose).and_then(|of| entity_in(scene, of, slot)).into_iter().collect()
    };
    for with in fillings(scene, slot) {
        match with {
            Filling::Entity(name) => found.push(scene.find(name)?),
            // A text may be any name.
            Filling::Text(name) => found.extend(scene.find(name)),
            Filling::Number(_) | Filling::Flag(_) | Filling::Nothing => {}
        }
    }
    Some(found)
}

/// What reactions put into slots of a name.
pub(crate) fn fillings<'a>(scene: &'a Scene, slot: &'a str) -> impl Iterator<Item = &'a Filling> {
    let done = scene.reactions().iter().flat_map(Reaction::actions);
    done.filter_map(move |(.., action)| match action {
        Action::Fill { slot: name, with, .. } if name == slot => Some(with),
        _ => None,
    })
}

fn entity_in(scene: &Scene, of: EntityId, slot: &str) -> Option<EntityId> {
    match scene.slot(of, slot)? {
        SlotValue::Entity(entity) => Some(*entity),
        _ => None,
    }
}
