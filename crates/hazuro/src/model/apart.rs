//! Which entities belong together, so that none of them detects another.

use crate::describe::EntityId;

use super::Scene;

/// Who is whose child, whose body and in whose hands: in a scene as described, or in a play now.
pub(crate) trait Kinship {
    /// An entity and its ancestors, from itself upwards.
    fn lineage(&self, entity: EntityId) -> impl Iterator<Item = EntityId>;
    /// Whose body an entity is a part of.
    fn bearer(&self, entity: EntityId) -> Option<EntityId>;
    /// In whose hands an entity is.
    fn holder(&self, entity: EntityId) -> Option<EntityId>;
}

/// Whether neither of two entities is a part of the other, they are parts of two bodies, and
/// neither is in the other's hands. What is in somebody's hands is a part of them for as long.
pub(crate) fn are_apart(kinship: &impl Kinship, one: EntityId, other: EntityId) -> bool {
    let below = |entity, above| kinship.lineage(entity).any(|up| up == above);
    let in_hands = |entity, of| {
        let holder = kinship.lineage(entity).find_map(|up| kinship.holder(up));
        holder.is_some_and(|holder| below(of, holder))
    };
    let bearer = kinship.bearer(one);
    let same_body = bearer.is_some() && bearer == kinship.bearer(other);
    !same_body
        && !below(one, other)
        && !below(other, one)
        && !in_hands(one, other)
        && !in_hands(other, one)
}

impl Kinship for Scene {
    fn lineage(&self, entity: EntityId) -> impl Iterator<Item = EntityId> {
        Scene::lineage(self, entity)
    }

    fn bearer(&self, entity: EntityId) -> Option<EntityId> {
        Scene::bearer(self, entity)
    }

    fn holder(&self, _: EntityId) -> Option<EntityId> {
        None
    }
}

impl Scene {
    /// Whether a detector of the one may detect the other at the start: neither is a part of the
    /// other, nor are they parts of one body.
    ///
    /// # Panics
    /// If one of them is an entity of another scene.
    pub fn are_apart(&self, one: EntityId, other: EntityId) -> bool {
        are_apart(self, one, other)
    }
}
