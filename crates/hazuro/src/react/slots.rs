//! Putting something else into slots.

use crate::describe::{EntityId, Filling, SlotSort, SlotValue};
use crate::model::Names;
use crate::record::Refusal;
use crate::shown::short;

use super::ActionContext;

impl ActionContext<'_> {
    /// Puts something into a slot of an entity, or empties it.
    ///
    /// # Errors
    /// If it has no such slot, or the slot is for another sort of thing.
    pub(super) fn fill(
        &mut self,
        of: EntityId,
        name: &str,
        with: &Filling<EntityId, f64>,
    ) -> Result<(), Refusal> {
        let lacks = |fault: &dyn ToString| Refusal::Lacks(fault.to_string());
        let slot = Names::slot(self.scene, name).map_err(|fault| lacks(&fault))?;
        let thing = self.scene.thing(of);
        if let Some(need) = thing.lacks_for_slot((name, slot), with) {
            return Err(lacks(&need));
        }
        let is_entity = thing.slot_sort(slot) == Some(SlotSort::Entity);
        let value = match with {
            Filling::Entity(entity) => Some(SlotValue::Entity(*entity)),
            Filling::Text(name) if is_entity => {
                let entity = self.scene.find(name);
                let unknown = || lacks(&format!("an entity named `{}` for it", short(name)));
                Some(SlotValue::Entity(entity.ok_or_else(unknown)?))
            }
            Filling::Text(text) => Some(SlotValue::Text(text.clone())),
            Filling::Number(number) => Some(SlotValue::Number(*number)),
            Filling::Flag(up) => Some(SlotValue::Flag(*up)),
            Filling::Nothing => None,
        };
        let slots = self.state.values.slots.entry(of).or_default();
        if value.as_ref() == self.scene.thing(of).slot(slot) {
            // As at the start: nothing is kept of it.
            slots.remove(name);
            if slots.is_empty() {
                self.state.values.slots.remove(&of);
            }
        } else {
            slots.insert(name.to_owned(), value);
        }
        Ok(())
    }
}
