//! Checking slots, and looking up what is in them.

use crate::describe::{
    EntityId, Fault, Features, Field, Slot, SlotId, SlotSort, SlotValue, nearest, range,
};
use crate::model::Names;

use super::resolver::Resolver;

impl Resolver {
    /// Checks the slots described here.
    pub(super) fn check_slots(&mut self, features: &Features, field: &Field) {
        for (name, slot) in &features.slots {
            let field = field.key("slots").key(name);
            self.name(name, &field);
            match slot {
                Slot::Filled(SlotValue::Number(value)) => {
                    self.range(field, *value, &range::AMOUNT);
                }
                Slot::Filled(SlotValue::Entity(entity)) => {
                    self.entity(entity, &field.key(SlotSort::Entity.word()));
                }
                Slot::Filled(SlotValue::Text(_) | SlotValue::Flag(_)) | Slot::Needed(_) => {}
            }
        }
    }

    /// Holds the slots of an entity against those of its kind: if that has any, it fills these and has
    /// no others.
    pub(super) fn own_slots(
        &mut self,
        own: &Features,
        (kind, given): (Option<&str>, &Features),
        field: &Field,
    ) {
        let given = &given.slots;
        for (name, slot) in &own.slots {
            let field = field.key("slots").key(name);
            let Some((_, meant)) = given.iter().find(|(other, _)| other == name) else {
                let Some(kind) = kind.filter(|_| !given.is_empty()) else { continue };
                let nearest = nearest(name, given.iter().map(|(name, _)| name.as_str()));
                let (name, kind) = (name.clone(), kind.to_owned());
                self.error(field, Fault::NoSlot { name, kind, nearest });
                continue;
            };
            match (meant.sort(), slot) {
                (SlotSort::Entity, Slot::Filled(SlotValue::Text(entity))) => {
                    self.entity(entity, &field);
                }
                (need, Slot::Filled(value)) if value.sort() != need => {
                    let fault = Fault::SlotSort { key: name.clone(), is: value.sort(), need };
                    self.error(field, fault);
                }
                _ => {}
            }
        }
    }

    /// What the slots of merged features are for.
    pub(super) fn slot_sorts(&self, features: &Features) -> Box<[(SlotId, SlotSort)]> {
        let slots = features.slots.iter();
        let sorts = slots.filter_map(|(name, it)| Some((*self.slots.ids.get(name)?, it.sort())));
        let mut found: Vec<_> = sorts.collect();
        found.sort_unstable_by_key(|(id, _)| *id);
        found.into()
    }

    /// What is in the slots of merged features; what is wrong with them is reported elsewhere.
    pub(super) fn slots_of(&self, features: &Features) -> Box<[(SlotId, SlotValue<EntityId>)]> {
        let mut found: Vec<_> = features
            .slots
            .iter()
            .filter_map(|(name, slot)| {
                let Slot::Filled(value) = slot else { return None };
                let entity = |name: &str| Names::entity(self, name).ok().map(SlotValue::Entity);
                let value = match value {
                    SlotValue::Entity(name) => entity(name)?,
                    SlotValue::Text(text) => SlotValue::Text(text.clone()),
                    SlotValue::Number(number) => SlotValue::Number(*number),
                    SlotValue::Flag(flag) => SlotValue::Flag(*flag),
                };
                Some((*self.slots.ids.get(name)?, value))
            })
            .collect();
        found.sort_unstable_by_key(|(id, _)| *id);
        found.into()
    }
}
