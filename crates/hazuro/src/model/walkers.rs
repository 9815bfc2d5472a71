//! What a scene says of what moves, and through which camera players look at it.

use crate::describe::EntityId;

use super::Scene;
use super::thing::Mover;

impl Scene {
    /// The walking speed of an entity in metres per second, if it walks.
    pub fn walking_speed(&self, entity: EntityId) -> Option<f64> {
        self.body_of(entity)?.walking_speed()
    }

    /// How high an entity jumps, in metres, if it walks; 0 if it cannot.
    pub fn jump_height(&self, entity: EntityId) -> Option<f64> {
        self.mover(entity).filter(|mover| mover.walks).map(|mover| mover.legs.jump)
    }

    /// How an entity moves by itself, if it does.
    pub(crate) fn mover(&self, entity: EntityId) -> Option<&Mover> {
        self.thing(entity).mover.as_deref()
    }

    /// Whether any body is in the way of others.
    pub(crate) fn has_blocking_bodies(&self) -> bool {
        self.has_blocking_bodies
    }

    /// Whether anything moves by itself.
    pub(crate) fn has_movers(&self) -> bool {
        self.has_movers
    }

    /// The camera that a player points through: the first that belongs to it, or else the first
    /// that belongs to no player.
    pub fn camera_of(&self, player: EntityId) -> Option<EntityId> {
        let has = |camera: &EntityId| {
            self.thing(*camera).senses.as_ref().is_some_and(|senses| senses.camera.is_some())
        };
        let anybodys =
            |camera: &EntityId| !self.lineage(*camera).any(|entity| self.is_player(entity));
        self.family(player).find(has).or_else(|| self.ids().filter(has).find(anybodys))
    }
}
