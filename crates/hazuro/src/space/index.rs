//! What stands still and what moves, kept apart.

use glam::DVec3;

use crate::geometry::Aabb;
use crate::scene::EntityId;

use super::{Beam, Bounds, Tree};

/// The bounds of some entities. What moves is kept apart from what stands still, so that its
/// coming and going never touches the bounds of the others.
#[derive(Clone, Debug, Default)]
pub(crate) struct Index {
    still: Tree,
    moving: Tree,
}

impl Index {
    /// An index of entities that all stand still.
    pub fn build(still: impl Iterator<Item = (EntityId, Aabb)>) -> Self {
        let items: Vec<(u32, Bounds)> =
            still.map(|(entity, bounds)| (entity.0, Bounds::from(&bounds))).collect();
        Self { still: Tree::build(&items), moving: Tree::default() }
    }

    /// Adds an entity or changes its bounds. It may change sides at any time.
    pub fn set(&mut self, entity: EntityId, bounds: &Aabb, moving: bool) {
        let (here, other) = if moving {
            (&mut self.moving, &mut self.still)
        } else {
            (&mut self.still, &mut self.moving)
        };
        other.remove(entity.0);
        here.set(entity.0, &Bounds::from(bounds));
    }

    /// Sees to it that the bounds of something that moves hold `bounds`. If they must be changed,
    /// `margin` metres more on each side keep them from changing again soon.
    pub fn cover(&mut self, entity: EntityId, bounds: &Aabb, margin: f64) {
        if !self.moving.covers(entity.0, &Bounds::from(bounds)) {
            self.set(entity, &bounds.grown(margin), true);
        }
    }

    /// Whether anything in it moves.
    pub fn anything_moves(&self) -> bool {
        !self.moving.is_empty()
    }

    /// Calls `visit` with each entity whose bounds meet `bounds`, in no particular order.
    pub fn meeting(&self, bounds: &Aabb, mut visit: impl FnMut(EntityId)) {
        let bounds = Bounds::from(bounds);
        self.still.meeting(&bounds, |entity| visit(EntityId(entity)));
        self.moving.meeting(&bounds, |entity| visit(EntityId(entity)));
    }

    /// Calls `visit` with the entities whose bounds a beam meets before `limit`. What it gives is
    /// the new limit.
    pub fn along(&self, beam: &Beam, mut limit: f64, mut visit: impl FnMut(EntityId, f64) -> f64) {
        for tree in [&self.still, &self.moving] {
            tree.along(beam, limit, |entity, until| {
                limit = visit(EntityId(entity), until);
                limit
            });
        }
    }

    /// Calls `visit` with the entities whose bounds lie within `limit` of a point. What it gives
    /// is the new limit.
    pub fn around(
        &self,
        point: DVec3,
        mut limit: f64,
        mut visit: impl FnMut(EntityId, f64) -> f64,
    ) {
        for tree in [&self.still, &self.moving] {
            tree.around(point, limit, |entity, until| {
                limit = visit(EntityId(entity), until);
                limit
            });
        }
    }
}
