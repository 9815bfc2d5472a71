//! The bounds of things, and who meets them.

use std::collections::BTreeMap;

use crate::geometry::Aabb;
use crate::scene::EntityId;

/// The bounds of some entities over the span of time being looked at.
#[derive(Clone, Debug, Default)]
pub(crate) struct Index {
    bounds: BTreeMap<EntityId, Aabb>,
}

impl Index {
    /// Adds an entity or changes its bounds.
    pub fn set(&mut self, entity: EntityId, bounds: Aabb) {
        self.bounds.insert(entity, bounds);
    }

    /// The bounds of an entity, if it has been added.
    pub fn bounds(&self, entity: EntityId) -> Option<&Aabb> {
        self.bounds.get(&entity)
    }

    /// The entities whose bounds meet `bounds`, in the scene's order.
    pub fn meeting(&self, bounds: &Aabb) -> impl Iterator<Item = EntityId> {
        self.bounds.iter().filter(|(_, other)| other.meets(bounds)).map(|(entity, _)| *entity)
    }
}
