//! Finding what a description names while it is resolved.

use crate::describe::{
    EffectId, EntityId, Fault, Features, Field, KindId, Named, ReactionId, SlotId, StatId, TagId,
    nearest,
};
use crate::model::Names;

use super::resolver::Resolver;

impl Resolver {
    pub(crate) fn entity(&mut self, name: &str, field: &Field) -> Option<EntityId> {
        let found = Names::entity(self, name);
        self.known(found, field)
    }

    pub(crate) fn kind(&mut self, name: &str, field: &Field) -> Option<KindId> {
        let found = Names::kind(self, name);
        self.known(found, field)
    }

    pub(crate) fn tag(&mut self, name: &str, field: &Field) -> Option<TagId> {
        let found = Names::tag(self, name);
        self.known(found, field)
    }

    pub(crate) fn stat(&mut self, name: &str, field: &Field) -> Option<StatId> {
        let found = Names::stat(self, name);
        self.known(found, field)
    }

    fn find<Id: Copy>(
        &self,
        what: Named,
        name: &str,
        found: Option<&Id>,
        names: &[String],
    ) -> Result<Id, Fault> {
        found.copied().ok_or_else(|| {
            // Whoever has misspelt hundreds has another mistake; looking for each takes long.
            let left = self.suggestions.get();
            self.suggestions.set(left.saturating_sub(1));
            let names = names.iter().map(String::as_str);
            let nearest = if left > 0 { nearest(name, names) } else { None };
            Fault::Unknown { what, name: name.into(), nearest }
        })
    }
}

impl Names for Resolver {
    fn entity(&self, name: &str) -> Result<EntityId, Fault> {
        self.find(Named::Entity, name, self.ids.get(name), &self.names)
    }

    fn kind(&self, name: &str) -> Result<KindId, Fault> {
        self.find(Named::Kind, name, self.kinds.get(name), &self.kind_names)
    }

    fn given(&self, kind: KindId) -> &Features {
        &self.kind_specs[kind.0 as usize].features
    }

    fn tag(&self, name: &str) -> Result<TagId, Fault> {
        self.find(Named::Tag, name, self.tags.ids.get(name), &self.tags.names)
    }

    fn stat(&self, name: &str) -> Result<StatId, Fault> {
        self.find(Named::Stat, name, self.stats.ids.get(name), &self.stats.names)
    }

    fn effect(&self, name: &str) -> Result<EffectId, Fault> {
        self.find(Named::Effect, name, self.effects.ids.get(name), &self.effects.names)
    }

    fn slot(&self, name: &str) -> Result<SlotId, Fault> {
        self.find(Named::Slot, name, self.slots.ids.get(name), &self.slots.names)
    }

    fn reaction(&self, name: &str) -> Result<ReactionId, Fault> {
        self.find(Named::Reaction, name, self.reactions.ids.get(name), &self.reactions.names)
    }
}
