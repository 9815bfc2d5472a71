//! From the keys of slots to their descriptions, and back.

use std::collections::BTreeMap;

use hazuro::scene::{Field, Slot, SlotSort, SlotValue};

use crate::code::Code;
use crate::keys::quantity::{SlotKeys, SlotTable};
use crate::read::Reader;
use crate::read::words::word;

impl Reader<'_> {
    /// The slot that the keys describe.
    pub fn slot(&mut self, keys: &SlotKeys, field: &Field) -> Option<Slot> {
        let filled = |value| Some(Slot::Filled(value));
        match keys {
            SlotKeys::Flag(up) => filled(SlotValue::Flag(*up)),
            SlotKeys::Number(number) => filled(SlotValue::Number(*number)),
            SlotKeys::Text(text) => filled(SlotValue::Text(text.clone())),
            SlotKeys::Table(SlotTable { entity: Some(name), needs: None }) => {
                filled(SlotValue::entity(name))
            }
            SlotKeys::Table(SlotTable { entity: None, needs: Some(sort) }) => {
                match word(sort, &SlotSort::ALL, SlotSort::word) {
                    Ok(sort) => Some(Slot::Needed(sort)),
                    Err(help) => {
                        let message = format!("`{sort}` is nothing that a slot can hold");
                        self.error(&field.key("needs"), Code::UnknownName, &message, help);
                        None
                    }
                }
            }
            SlotKeys::Table(SlotTable { entity, .. }) => {
                let message = match entity {
                    Some(_) => "`entity` and `needs` are two ways to say it",
                    None => "this slot says neither what is in it nor what it is for",
                };
                let help = "give one of { entity = \"...\" } and { needs = \"...\" }";
                self.error(field, Code::OneSlot, message, help);
                None
            }
        }
    }
}

/// The keys of slots.
pub(crate) fn slot_keys(slots: &[(String, Slot)]) -> BTreeMap<String, SlotKeys> {
    let keys = |slot: &Slot| match slot {
        Slot::Filled(SlotValue::Flag(up)) => SlotKeys::Flag(*up),
        Slot::Filled(SlotValue::Number(number)) => SlotKeys::Number(*number),
        Slot::Filled(SlotValue::Text(text)) => SlotKeys::Text(text.clone()),
        Slot::Filled(SlotValue::Entity(name)) => {
            SlotKeys::Table(SlotTable { entity: Some(name.clone()), needs: None })
        }
        Slot::Needed(sort) => {
            SlotKeys::Table(SlotTable { entity: None, needs: Some(sort.word().into()) })
        }
    };
    slots.iter().map(|(name, slot)| (name.clone(), keys(slot))).collect()
}
