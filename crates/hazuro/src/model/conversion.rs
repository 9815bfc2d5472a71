//! Entities that are like a kind for a while.

use std::mem::replace;

use crate::describe::{EntityId, Features, KindId};

use super::{Scene, Thing};

/// To what an entity has been converted.
#[derive(Clone, Debug)]
pub(crate) struct Conversion {
    to: KindId,
    /// What it has, with what the kind gives.
    features: Features,
    /// What it is by itself.
    itself: Thing,
}

/// What an entity is once it is converted to a kind.
#[derive(Debug)]
pub(crate) struct Converted {
    pub to: KindId,
    pub features: Features,
    pub thing: Thing,
}

impl Scene {
    /// The name of the kind to which an entity has been converted in the play whose scene this is.
    pub fn converted_to(&self, entity: EntityId) -> Option<&str> {
        let conversion = self.conversions.get(&entity)?;
        Some(&self.kinds[conversion.to.0 as usize].name)
    }

    /// What an entity has, if it has been converted.
    pub(super) fn features_now(&self, entity: EntityId) -> Option<&Features> {
        self.conversions.get(&entity).map(|conversion| &conversion.features)
    }

    /// What an entity is by itself, whatever it has been converted to.
    pub(crate) fn itself(&self, entity: EntityId) -> &Thing {
        match self.conversions.get(&entity) {
            Some(conversion) => &conversion.itself,
            None => self.thing(entity),
        }
    }

    /// Lets an entity be what it is once converted to a kind, or by itself again.
    pub(crate) fn convert(&mut self, entity: EntityId, to: Option<Converted>) {
        let thing = &mut self.things[entity.index()];
        let before = self.conversions.remove(&entity);
        match (to, before) {
            (Some(Converted { to, features, thing: converted }), before) => {
                let is = replace(thing, converted);
                let itself = before.map_or(is, |before| before.itself);
                self.conversions.insert(entity, Conversion { to, features, itself });
            }
            (None, Some(before)) => *thing = before.itself,
            (None, None) => {}
        }
        self.reckon_with(entity);
    }
}
