//! The four questions asked of space directly: ray, sweep, overlap, nearest.

use glam::DVec3;

use crate::geometry::{
    Aabb, Convex, Glide, Pose, Ray, Shape, ShapeError, cast, distance, distance_to_point, overlaps,
    sweep,
};
use crate::scene::{EntityId, Scene};
use crate::space::Beam;

use super::Play;

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

    fn admits(&self, scene: &Scene, entity: EntityId) -> bool {
        self.tag.is_none_or(|tag| scene.tags_of(entity).any(|other| other == tag))
            && self.without.is_none_or(|without| !scene.lineage(entity).any(|id| id == without))
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

/// A shape of an entity, as it is now.
struct Target<'a> {
    entity: EntityId,
    part: Option<usize>,
    shape: &'a Convex,
    pose: Pose,
}

impl Play {
    /// The first thing a ray hits, if it hits anything. Of several at the same distance, the
    /// first in the scene. What is off is not hit.
    ///
    /// ```
    /// use hazuro::{Filter, Play, Scene, geometry::{Ray, Shape}, scene::Entity};
    /// let wall = Entity::new("wall").at([5.0, 0.0, 0.0]).solid(Shape::Box { size: [1.0, 4.0, 4.0] });
    /// let play = Play::new(Scene::builder("Yard").entity(wall).build()?);
    /// let ray = Ray::new([0.0; 3].into(), [1.0, 0.0, 0.0].into(), f64::INFINITY)?;
    /// let hit = play.ray(&ray, &Filter::solids()).unwrap();
    /// assert_eq!((play.scene().name(hit.entity), hit.distance), ("wall", 4.5));
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn ray(&self, ray: &Ray, filter: &Filter<'_>) -> Option<Hit> {
        let mut first: Option<Hit> = None;
        self.cast(ray, filter, |hit| {
            if first.is_none_or(|first| order(&hit, &first).is_lt()) {
                first = Some(hit);
            }
            first.map_or(ray.length(), |first| first.distance)
        });
        first
    }

    /// Everything a ray hits, nearest first; each part of a body at most once.
    pub fn ray_all(&self, ray: &Ray, filter: &Filter<'_>) -> Vec<Hit> {
        let mut hits = Vec::new();
        self.cast(ray, filter, |hit| {
            hits.push(hit);
            ray.length()
        });
        hits.sort_by(order);
        hits
    }

    /// Whether a ray hits anything at all.
    pub fn ray_any(&self, ray: &Ray, filter: &Filter<'_>) -> bool {
        let mut any = false;
        self.cast(ray, filter, |_| {
            any = true;
            f64::NEG_INFINITY
        });
        any
    }

    /// The first thing a shape meets on its way in a straight line, not turning.
    ///
    /// # Errors
    /// If it is no good shape.
    pub fn sweep(
        &self,
        shape: &Shape,
        from: Pose,
        to: DVec3,
        filter: &Filter<'_>,
    ) -> Result<Option<Hit>, ShapeError> {
        let shape = Convex::new(shape)?;
        let way = to - from.position;
        let start = shape.bounds(&from);
        let bounds = start.join(&start.moved(way));
        let end = Pose { position: to, ..from };
        let moving = Glide { shape: &shape, offset: Pose::IDENTITY, from, to: end };
        let mut first: Option<Hit> = None;
        self.targets(&bounds, filter, |target| {
            let Target { entity, part, shape: other, pose } = target;
            let still = Glide { shape: other, offset: Pose::IDENTITY, from: pose, to: pose };
            let Some(span) = sweep(&still, &moving).first().copied() else { return };
            let there = from.towards(&end, span.start);
            let between = distance(other, &pose, &shape, &there);
            let inside = span.start == 0.0 && overlaps(other, &pose, &shape, &from);
            let normal = if inside { -way.normalize_or_zero() } else { between.normal };
            let distance = way.length() * span.start;
            let (fraction, point) = (span.start, between.on_a);
            let hit = Hit { entity, part, distance, fraction, point, normal, inside };
            if first.is_none_or(|first| order(&hit, &first).is_lt()) {
                first = Some(hit);
            }
        });
        Ok(first)
    }

    /// Everything that overlaps a shape, in the scene's order.
    ///
    /// # Errors
    /// If it is no good shape.
    pub fn overlap(
        &self,
        shape: &Shape,
        pose: Pose,
        filter: &Filter<'_>,
    ) -> Result<Vec<Found>, ShapeError> {
        let shape = Convex::new(shape)?;
        let mut found = Vec::new();
        self.targets(&shape.bounds(&pose), filter, |target| {
            if overlaps(&shape, &pose, target.shape, &target.pose) {
                let Target { entity, part, .. } = target;
                let distance = distance_to_point(target.shape, &target.pose, pose.position);
                found.push(Found { entity, part, distance });
            }
        });
        found.sort_by_key(|found| (found.entity, found.part));
        Ok(found)
    }

    /// The nearest `count` things within `range` metres of a point, nearest first; of several
    /// equally near, the first in the scene. Each body once, by its nearest part.
    pub fn nearest(
        &self,
        point: DVec3,
        range: f64,
        count: usize,
        filter: &Filter<'_>,
    ) -> Vec<Found> {
        let mut nearest: Vec<Found> = Vec::new();
        if count == 0 || range.is_nan() || !point.is_finite() {
            return nearest;
        }
        let mut parts = Vec::new();
        for (index, side) in self.sides(filter) {
            let mut limit = range;
            index.around(point, range, |entity, _| {
                if self.may_be(entity, filter) {
                    parts.clear();
                    self.shapes(entity, side, |target| {
                        let distance = distance_to_point(target.shape, &target.pose, point);
                        parts.push(Found { entity, part: target.part, distance });
                    });
                    let near =
                        |one: &&Found, other: &&Found| one.distance.total_cmp(&other.distance);
                    let found = parts.iter().min_by(near).filter(|found| found.distance <= limit);
                    if let Some(found) = found {
                        let before = nearest.partition_point(|other| {
                            (other.distance, other.entity) < (found.distance, entity)
                        });
                        nearest.insert(before, *found);
                        nearest.truncate(count);
                    }
                }
                if nearest.len() == count {
                    limit = nearest.last().map_or(range, |last| last.distance);
                }
                limit
            });
        }
        nearest
    }

    /// Calls `hit` with everything the ray meets; it gives how far to look on.
    fn cast(&self, ray: &Ray, filter: &Filter<'_>, mut hit: impl FnMut(Hit) -> f64) {
        let beam = Beam::new(ray.origin(), ray.direction(), DVec3::ZERO);
        let mut limit = ray.length();
        for (index, side) in self.sides(filter) {
            index.along(&beam, limit, |entity, mut until| {
                if !self.may_be(entity, filter) {
                    return until;
                }
                self.shapes(entity, side, |target| {
                    let Some(contact) = cast(ray, target.shape, &target.pose) else { return };
                    let whole = ray.length();
                    let share = contact.distance / whole;
                    until = hit(Hit {
                        entity,
                        part: target.part,
                        distance: contact.distance,
                        fraction: if whole.is_finite() && whole > 0.0 { share } else { 0.0 },
                        point: ray.at(contact.distance),
                        normal: contact.normal,
                        inside: contact.inside,
                    });
                });
                limit = until;
                until
            });
        }
    }

    /// Calls `visit` with the shapes of all that is near `bounds`.
    fn targets(&self, bounds: &Aabb, filter: &Filter<'_>, mut visit: impl FnMut(Target<'_>)) {
        let bounds = bounds.grown(crate::geometry::TOUCH);
        for (index, side) in self.sides(filter) {
            index.meeting(&bounds, |entity| {
                if self.may_be(entity, filter) {
                    self.shapes(entity, side, &mut visit);
                }
            });
        }
    }

    /// The indices that a filter asks for.
    fn sides(&self, filter: &Filter<'_>) -> impl Iterator<Item = (&crate::space::Index, Side)> {
        let wanted =
            [(filter.solids, Side::Solid), (filter.zones, Side::Zone), (filter.bodies, Side::Body)];
        wanted.into_iter().filter(|(wanted, _)| *wanted).map(|(_, side)| {
            let index = match side {
                Side::Solid => self.watch.solids(),
                Side::Zone => self.watch.zones(),
                Side::Body => self.watch.bodies(),
            };
            (index, side)
        })
    }

    fn may_be(&self, entity: EntityId, filter: &Filter<'_>) -> bool {
        filter.admits(&self.scene, entity)
            && self.state.switched_off_by(&self.scene, entity).is_none()
    }

    /// Calls `visit` with each shape of one side of an entity, as it is now.
    fn shapes<'s>(&'s self, entity: EntityId, side: Side, mut visit: impl FnMut(Target<'s>)) {
        let thing = self.scene.thing(entity);
        let pose = self.state.pose(&self.scene, entity, self.state.now);
        let mut one = |shape| visit(Target { entity, part: None, shape, pose });
        match side {
            Side::Solid => thing.solid.iter().for_each(|solid| one(&solid.shape)),
            Side::Zone => thing.zone.iter().for_each(|zone| one(&zone.shape)),
            Side::Body => {
                let parts = thing.body.iter().flat_map(|body| body.parts.iter().enumerate());
                for (index, part) in parts {
                    let (shape, pose) = (&part.shape, pose * part.pose);
                    visit(Target { entity, part: Some(index), shape, pose });
                }
            }
        }
    }
}

/// What of an entity a question is about.
#[derive(Clone, Copy)]
enum Side {
    Solid,
    Zone,
    Body,
}

/// Nearest first, then in the scene's order.
fn order(one: &Hit, other: &Hit) -> std::cmp::Ordering {
    let place = |hit: &Hit| (hit.entity, hit.part);
    one.distance.total_cmp(&other.distance).then(place(one).cmp(&place(other)))
}
