//! The children that entities are given by their descriptions, and whose slots they see.

use crate::describe::{
    CHILD_MARK, Entity, EntityId, Fault, Features, Field, MAX_MADE, MAX_NESTED, Numbering, PARENT,
    SceneError, SlotId, SlotValue,
};
use crate::model::Thing;

use super::kinds::{Kinds, name_of_child};
use super::resolver::{Listed, Resolver};

/// Adds the children of the entities from number `first` on, and the children of those.
pub(super) fn add_children(
    entities: &mut Vec<Entity>,
    first: usize,
    kinds: &Kinds<'_>,
) -> Result<(), SceneError> {
    let (mut number, described) = (first, entities.len());
    while number < entities.len() {
        let given = children_of(&entities[number], kinds);
        if let Some(child) =
            given.first().filter(|it| it.name.matches(CHILD_MARK).count() > MAX_NESTED)
        {
            let field = Listed::all(entities).field(number);
            let fault = Fault::NestedChildren { name: child.name.clone() };
            return Err(SceneError { field, fault });
        }
        if entities.len() - described + given.len() > MAX_MADE {
            let name = entities[number].name.clone();
            let field = Listed::all(entities).field(number);
            return Err(SceneError { field, fault: Fault::TooManyChildren { name } });
        }
        let place = u32::try_from(number).ok();
        entities.extend(given.into_iter().map(|child| Entity { made_for: place, ..child }));
        number += 1;
    }
    Ok(())
}

/// The children of an entity, each by its own name and with what it is of.
fn children_of(entity: &Entity, kinds: &Kinds<'_>) -> Vec<Entity> {
    let of = kinds.of(entity);
    let own = &entity.features.children;
    if own.is_empty() && of.iter().all(|it| kinds.spec(*it).features.children.is_empty()) {
        return Vec::new();
    }
    let described = Features { children: own.clone(), ..Features::default() };
    let all = match kinds.features(&of) {
        Some(given) => described.or(&given).children,
        None => described.children,
    };
    let make = |child: Entity| {
        let mut features = own
            .iter()
            .find(|it| it.name == child.name)
            .map_or_else(Features::default, |own| own.features.clone());
        let given = of.iter().map(|kind| &kinds.all[kind.0 as usize].name);
        let given = given.map(|kind| name_of_child(kind, &child.name));
        features.kinds.extend(given.filter(|kind| kinds.find(kind).is_some()));
        let name = name_of_child(&entity.name, &child.name);
        // Whatever a child says of its parent has been reported where it is described.
        Entity { name, parent: Some(entity.name.clone()), features, ..child }
    };
    all.into_iter().map(make).collect()
}

impl Resolver {
    /// Reads the names of children, by which they are in the slots of their parents.
    pub(super) fn name_children(&mut self, entities: Listed<'_>) {
        for (_, child) in entities.numbered().filter(|(_, it)| it.made_for.is_some()) {
            self.slots.intern(PARENT, SlotId);
            self.slots.intern(child.own_name(), SlotId);
        }
    }

    /// Reports what cannot be among the children described here.
    pub(super) fn check_children(&mut self, features: &Features, field: &Field) {
        for child in &features.children {
            let field = field.key("children").key(&child.name);
            self.given_name(&child.name, &field);
            let fault = if child.name == PARENT {
                let why = "`slot.parent` is the parent";
                Some(Fault::BadName { name: child.name.clone(), why })
            } else if child.parent.is_some() {
                Some(Fault::ParentOfChild { name: child.name.clone() })
            } else if features.slots.iter().any(|(slot, _)| *slot == child.name) {
                Some(Fault::ChildAndSlot { name: child.name.clone() })
            } else {
                None
            };
            if let Some(fault) = fault {
                self.error(field, fault);
            }
        }
    }

    /// Puts children into the slots of their parents, and parents and all that is in their slots into those
    /// of their children, which come after them.
    pub(super) fn share_slots(&self, entities: Listed<'_>, things: &mut [Thing]) {
        let parent = self.slots.ids.get(PARENT).copied();
        let first = entities.first();
        let made = || {
            let made =
                entities.numbered().filter_map(|(number, it)| Some((number, it, it.made_for?)));
            made.map(|(number, it, of)| (number - first, it, of as usize))
        };
        let id = |numbering: Numbering, place: usize| numbering.entity(place + first);
        for (place, child, of) in made() {
            if let Some(slot) = self.slots.ids.get(child.own_name()) {
                put(&mut things[of], (*slot, SlotValue::Entity(id(self.numbering, place))));
            }
        }
        for (place, _, of) in made() {
            let above = parent.map(|slot| (slot, SlotValue::Entity(id(self.numbering, of))));
            let seen: Vec<_> = above.into_iter().chain(things[of].slots.iter().cloned()).collect();
            for slot in seen {
                put(&mut things[place], slot);
            }
        }
    }
}

/// Puts something into a slot in which nothing is.
fn put(thing: &mut Thing, slot: (SlotId, SlotValue<EntityId>)) {
    if let Err(place) = thing.slots.binary_search_by_key(&slot.0, |(id, _)| *id) {
        let mut slots = std::mem::take(&mut thing.slots).into_vec();
        slots.insert(place, slot);
        thing.slots = slots.into();
    }
}
