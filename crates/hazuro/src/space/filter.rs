//! What a question of space is about, and what it finds.

use glam::DVec3;

use crate::describe::{Among, EntityId, Layers};
use crate::model::Scene;
use crate::state::State;

/// Which entities a question is about.
///
/// ```
/// use hazuro::Filter;
/// let walls = Filter::solids().tag("wall");
/// let anything = Filter::solids().and_zones().and_bodies();
/// ```
#[derive(Clone, Copy, Default)]
pub struct Filter<'a> {
    solids: bool,
    zones: bool,
    bodies: bool,
    layers: Option<Layers>,
    tag: Option<&'a str>,
    without: Option<EntityId>,
    only: Option<&'a dyn Fn(EntityId) -> bool>,
}

impl<'a> Filter<'a> {
    /// What is solid.
    pub fn solids() -> Self {
        Self { solids: true, ..Self::default() }
    }

    /// Zones.
    pub fn zones() -> Self {
        Self { zones: true, ..Self::default() }
    }

    /// Bodies, part by part.
    pub fn bodies() -> Self {
        Self { bodies: true, ..Self::default() }
    }

    /// What a detector looks for.
    pub(crate) fn among(among: Among) -> Self {
        let Among { solids, bodies, zones } = among;
        Self { solids, zones, bodies, ..Self::default() }
    }

    /// And what is solid.
    #[must_use]
    pub fn and_solids(self) -> Self {
        Self { solids: true, ..self }
    }

    /// And zones.
    #[must_use]
    pub fn and_zones(self) -> Self {
        Self { zones: true, ..self }
    }

    /// And bodies.
    #[must_use]
    pub fn and_bodies(self) -> Self {
        Self { bodies: true, ..self }
    }

    /// Only in one of these layers, which [`Scene::layers`] finds by their names.
    #[must_use]
    pub fn layers(self, layers: Layers) -> Self {
        Self { layers: Some(layers), ..self }
    }

    /// Only with this tag.
    #[must_use]
    pub fn tag(self, tag: &'a str) -> Self {
        Self { tag: Some(tag), ..self }
    }

    /// Without this entity and all that belongs to it: its children, at any depth.
    #[must_use]
    pub fn without(self, entity: EntityId) -> Self {
        Self { without: Some(entity), ..self }
    }

    /// Only for which this holds.
    #[must_use]
    pub fn only(self, holds: &'a dyn Fn(EntityId) -> bool) -> Self {
        Self { only: Some(holds), ..self }
    }

    /// The layers that an index of `side` need look through.
    pub(super) fn layers_of(&self, side: Side) -> Layers {
        match side {
            // Zones are kept by the layers they admit, not by those they are in.
            Side::Zone => Layers::ALL,
            Side::Solid | Side::Body => self.layers.unwrap_or(Layers::ALL),
        }
    }

    pub(super) fn admits(&self, scene: &Scene, state: &State, entity: EntityId) -> bool {
        let tagged = |tag| {
            let tags = state.tags(scene, entity).iter();
            tags.map(|tag| scene.tag_name(*tag)).any(|other| other == tag)
        };
        let within = |family| state.lineage(scene, entity).any(|ancestor| ancestor == family);
        self.layers.is_none_or(|layers| layers.meet(scene.layers_of(entity)))
            && self.tag.is_none_or(tagged)
            && self.without.is_none_or(|without| !within(without))
            && self.only.is_none_or(|holds| holds(entity))
    }
}

impl std::fmt::Debug for Filter<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Filter")
            .field("solids", &self.solids)
            .field("zones", &self.zones)
            .field("bodies", &self.bodies)
            .field("tag", &self.tag)
            .field("without", &self.without)
            .finish_non_exhaustive()
    }
}

/// What a ray or a swept shape met.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Hit {
    /// Whom.
    pub entity: EntityId,
    /// Which part of a body, numbered from 0.
    pub part: Option<usize>,
    /// How far along, in metres; 0 if it starts inside.
    pub distance: f64,
    /// How far along, as a share of the length; 0 if that is infinite.
    pub fraction: f64,
    /// Where they meet.
    pub point: DVec3,
    /// The unit vector out of the surface that was met; against the way if it starts inside.
    pub normal: DVec3,
    /// Whether it starts inside.
    pub inside: bool,
}

/// Something found in a shape or near a point.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Found {
    /// Whom.
    pub entity: EntityId,
    /// Which part of a body, numbered from 0.
    pub part: Option<usize>,
    /// How far from the point, in metres; 0 inside.
    pub distance: f64,
}

/// What of an entity a question is about.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Side {
    Solid,
    Zone,
    Body,
}

impl Filter<'_> {
    /// What it asks for.
    pub(super) fn sides(&self) -> impl Iterator<Item = Side> + use<> {
        let wanted =
            [(self.solids, Side::Solid), (self.zones, Side::Zone), (self.bodies, Side::Body)];
        wanted.into_iter().filter(|(wanted, _)| *wanted).map(|(_, side)| side)
    }
}
