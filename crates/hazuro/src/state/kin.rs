//! Who is whose child now. A scene says who is to begin with; attaching changes it.

use smallvec::SmallVec;

use crate::scene::{EntityId, Scene, TagId};

use super::State;

impl State {
    /// An entity's parent.
    pub(crate) fn parent(&self, scene: &Scene, entity: EntityId) -> Option<EntityId> {
        if self.links.is_empty() {
            return scene.parent(entity);
        }
        self.links.get(&entity).copied().unwrap_or_else(|| scene.parent(entity))
    }

    /// An entity and its ancestors, from itself upwards.
    pub(crate) fn lineage(
        &self,
        scene: &Scene,
        entity: EntityId,
    ) -> impl Iterator<Item = EntityId> {
        std::iter::successors(Some(entity), |entity| self.parent(scene, *entity))
    }

    /// Whether the entity has no children.
    pub(crate) fn is_childless(&self, scene: &Scene, entity: EntityId) -> bool {
        if self.links.is_empty() {
            return scene.is_childless(entity);
        }
        self.children(scene, entity).is_empty()
    }

    fn children(&self, scene: &Scene, entity: EntityId) -> SmallVec<[EntityId; 4]> {
        let own = scene.thing(entity).children.iter().copied();
        let mut children: SmallVec<[EntityId; 4]> =
            own.filter(|child| !self.links.contains_key(child)).collect();
        let attached = self.links.iter().filter(|(_, parent)| **parent == Some(entity));
        children.extend(attached.map(|(child, _)| *child));
        children
    }

    /// An entity and all its descendants, parents before children.
    pub(crate) fn family(&self, scene: &Scene, entity: EntityId) -> SmallVec<[EntityId; 4]> {
        if self.links.is_empty() {
            return scene.family(entity).collect();
        }
        let mut family: SmallVec<[EntityId; 4]> = SmallVec::new();
        let mut waiting = vec![entity];
        while let Some(next) = waiting.pop() {
            family.push(next);
            waiting.extend(self.children(scene, next).iter().rev());
        }
        family
    }

    /// Whose body an entity is a part of: its own or that of its nearest ancestor with one.
    pub(crate) fn owner(&self, scene: &Scene, entity: EntityId) -> Option<EntityId> {
        if self.links.is_empty() {
            return scene.owner(entity);
        }
        self.lineage(scene, entity).find(|entity| scene.has_body(*entity))
    }

    /// The tags of an entity now.
    pub(crate) fn tags<'a>(&'a self, scene: &'a Scene, entity: EntityId) -> &'a [TagId] {
        let changed = if self.tags.is_empty() { None } else { self.tags.get(&entity) };
        changed.map_or(&scene.thing(entity).tags, Vec::as_slice)
    }
}
