//! Who is whose child now. A scene says who is to begin with; attaching changes it.

use smallvec::SmallVec;

use crate::describe::{EntityId, TagId};
use crate::model::{Kinship, Scene};

use super::State;

impl State {
    /// An entity's parent.
    pub(crate) fn parent(&self, scene: &Scene, entity: EntityId) -> Option<EntityId> {
        if self.presence.links.is_empty() {
            return scene.parent(entity);
        }
        self.presence.links.get(&entity).copied().unwrap_or_else(|| scene.parent(entity))
    }

    /// An entity and its ancestors, from itself upwards.
    pub(crate) fn lineage(
        &self,
        scene: &Scene,
        entity: EntityId,
    ) -> impl Iterator<Item = EntityId> {
        std::iter::successors(Some(entity), |entity| self.parent(scene, *entity))
    }

    /// How many ancestors an entity has.
    pub(crate) fn depth(&self, scene: &Scene, entity: EntityId) -> usize {
        self.lineage(scene, entity).count() - 1
    }

    /// An entity, what carries it, what carries that, and so on: what it rides on, or else its
    /// parent.
    pub(crate) fn carriers(
        &self,
        scene: &Scene,
        entity: EntityId,
    ) -> impl Iterator<Item = EntityId> {
        std::iter::successors(Some(entity), |entity| {
            self.live(*entity).rides.or_else(|| self.parent(scene, *entity))
        })
    }

    /// Lets an entity ride on another, or on nothing. Its pose in the frame of that is left to the
    /// caller.
    pub(crate) fn set_rides(&mut self, entity: EntityId, on: Option<EntityId>) {
        let before = std::mem::replace(&mut self.live_mut(entity).rides, on);
        if before == on {
            return;
        }
        if let Some(before) = before {
            self.motion.riders.remove(&(before, entity));
        }
        if let Some(on) = on {
            self.motion.riders.insert((on, entity));
        }
    }

    /// Lets an entity ride on nothing from now on. Where it is stays the same.
    pub(crate) fn dismount(&mut self, scene: &Scene, entity: EntityId) {
        if self.live(entity).rides.is_none() {
            return;
        }
        let here = self.pose(scene, entity, self.now);
        self.set_rides(entity, None);
        self.motion.stirs.0 += 1;
        self.set_pose(entity, self.in_parent(scene, entity, here));
    }

    /// Who rides on an entity.
    pub(crate) fn riders_on(&self, entity: EntityId) -> impl Iterator<Item = EntityId> {
        let range = (entity, EntityId::LOWEST)..=(entity, EntityId::HIGHEST);
        self.motion.riders.range(range).map(|(_, rider)| *rider)
    }

    /// An entity and all that moves along with it: its descendants, who rides on any of them, the
    /// descendants of those, and so on.
    pub(crate) fn company(&self, scene: &Scene, entity: EntityId) -> SmallVec<[EntityId; 4]> {
        let mut company = self.family(scene, entity);
        let mut next = 0;
        while next < company.len() && !self.motion.riders.is_empty() {
            for rider in self.riders_on(company[next]) {
                company.extend(self.family(scene, rider));
            }
            next += 1;
        }
        company
    }

    /// Whether nothing moves along with the entity.
    pub(crate) fn is_alone(&self, scene: &Scene, entity: EntityId) -> bool {
        self.is_childless(scene, entity)
            && (self.motion.riders.is_empty() || self.riders_on(entity).next().is_none())
    }

    /// Whether the entity has no children.
    pub(crate) fn is_childless(&self, scene: &Scene, entity: EntityId) -> bool {
        if self.presence.links.is_empty() {
            return scene.is_childless(entity);
        }
        self.children(scene, entity).is_empty()
    }

    fn children(&self, scene: &Scene, entity: EntityId) -> SmallVec<[EntityId; 4]> {
        let own = scene.thing(entity).children.iter().copied();
        let mut children: SmallVec<[EntityId; 4]> =
            own.filter(|child| !self.presence.links.contains_key(child)).collect();
        let attached = self.presence.links.iter().filter(|(_, parent)| **parent == Some(entity));
        children.extend(attached.map(|(child, _)| *child));
        children
    }

    /// An entity and all its descendants, parents before children.
    pub(crate) fn family(&self, scene: &Scene, entity: EntityId) -> SmallVec<[EntityId; 4]> {
        if self.presence.links.is_empty() {
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
    pub(crate) fn bearer(&self, scene: &Scene, entity: EntityId) -> Option<EntityId> {
        if self.presence.links.is_empty() {
            return scene.bearer(entity);
        }
        self.lineage(scene, entity).find(|entity| scene.has_body(*entity))
    }

    /// The tags of an entity now.
    pub(crate) fn tags<'a>(&'a self, scene: &'a Scene, entity: EntityId) -> &'a [TagId] {
        let changed =
            if self.values.tags.is_empty() { None } else { self.values.tags.get(&entity) };
        changed.map_or(&scene.thing(entity).tags, Vec::as_slice)
    }
}

impl Kinship for (&Scene, &State) {
    fn lineage(&self, entity: EntityId) -> impl Iterator<Item = EntityId> {
        self.1.lineage(self.0, entity)
    }

    fn bearer(&self, entity: EntityId) -> Option<EntityId> {
        self.1.bearer(self.0, entity)
    }

    fn holder(&self, entity: EntityId) -> Option<EntityId> {
        self.1.holder(entity)
    }
}
