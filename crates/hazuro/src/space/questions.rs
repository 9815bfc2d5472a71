//! The four questions asked of space directly: ray, sweep, overlap, nearest.

use glam::{DQuat, DVec3};

use crate::describe::{EntityId, range};
use crate::geometry::tree::Beam;
use crate::geometry::{
    Aabb, Form, Met, Pose, Ray, Shape, ShapeError, TOUCH, each_met, is_rotation, overlaps,
    way_bounds,
};
use crate::model::Scene;
use crate::state::State;

use super::filter::{Filter, Found, Hit, Side};
use super::{Face, Index, Indices};

/// A shape of an entity, as it is now.
struct Target<'a> {
    entity: EntityId,
    part: Option<usize>,
    form: &'a Form,
    pose: Pose,
}

/// A moment of a play, to be asked what is where: [`Play::space`](crate::Play::space) gives it, and
/// [`Act::space`](crate::Act::space) within a handler.
///
/// ```
/// use hazuro::{Filter, Play, Scene, geometry::Shape, scene::{Body, Entity, Trigger, Zone}};
/// let ball = || Body::new(Shape::Sphere { radius: 0.1 });
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("ball").body(ball()))
///     .entity(Entity::new("moth").at([0.0, 2.0, 0.0]).body(ball()))
///     .entity(Entity::new("pad").zone(Zone::new(Shape::Box { size: [1.0; 3] })))
///     .build()?;
/// let mut play = Play::new(scene);
/// play.on(Trigger::enter("pad"), |event, act| {
///     let (who, at) = (event.who.unwrap(), event.at.unwrap());
///     let near = act.space().nearest(at, 5.0, 1, &Filter::bodies().without(who));
///     act.add("moths_near", near.len() as i64);
/// })?;
/// play.step();
/// assert_eq!(play.count("moths_near"), 1);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy)]
pub struct Space<'a> {
    pub(crate) scene: &'a Scene,
    pub(crate) state: &'a State,
    pub(crate) indices: &'a Indices,
}

impl std::fmt::Debug for Space<'_> {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.debug_struct("Space").field("now", &self.state.now).finish_non_exhaustive()
    }
}

impl<'a> Space<'a> {
    /// The first thing a ray hits, if it hits anything. Of several at the same distance, the
    /// first in the scene. What is off is not hit.
    ///
    /// ```
    /// use hazuro::{Filter, Play, Scene, geometry::{Ray, Shape}, scene::Entity};
    /// let wall = Entity::new("wall").at([5.0, 0.0, 0.0]).solid(Shape::Box { size: [1.0, 4.0, 4.0] });
    /// let play = Play::new(Scene::builder("Yard").entity(wall).build()?);
    /// let ray = Ray::new([0.0; 3].into(), [1.0, 0.0, 0.0].into(), f64::INFINITY)?;
    /// let hit = play.space().ray(&ray, &Filter::solids()).unwrap();
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
    /// If it is no good shape, a place is not from -1,000,000 to 1,000,000 metres, or the rotation is
    /// not of length 1.
    pub fn sweep(
        &self,
        shape: &Shape,
        from: Pose,
        to: DVec3,
        filter: &Filter<'_>,
    ) -> Result<Option<Hit>, ShapeError> {
        let form = asked(shape, from.rotation, &[from.position, to])?;
        Ok(self.first_in_way(&form, from, to, filter))
    }

    /// The first thing a form meets on its way in a straight line, not turning.
    pub(crate) fn first_in_way(
        &self,
        form: &Form,
        from: Pose,
        to: DVec3,
        filter: &Filter<'_>,
    ) -> Option<Hit> {
        let mut first: Option<Hit> = None;
        self.each_in_way(form, from, to, filter, |hit| {
            if first.is_none_or(|first| order(&hit, &first).is_lt()) {
                first = Some(hit);
            }
        });
        first
    }

    /// Calls `visit` with everything that a form meets on its way, in no particular order: once
    /// for each pair of convex pieces.
    pub(crate) fn each_in_way(
        &self,
        form: &Form,
        from: Pose,
        to: DVec3,
        filter: &Filter<'_>,
        mut visit: impl FnMut(Hit),
    ) {
        let far = to.distance(from.position);
        let bounds = way_bounds(form, from, to);
        self.targets(&bounds, filter, |target| {
            let Target { entity, part, .. } = target;
            each_met((form, from, to), &bounds, (target.form, &target.pose), |met| {
                let Met { share: fraction, point, normal, inside } = met;
                let distance = far * fraction;
                visit(Hit { entity, part, distance, fraction, point, normal, inside });
            });
        });
    }

    /// Everything that overlaps a shape, in the scene's order.
    ///
    /// # Errors
    /// If it is no good shape, the place is not from -1,000,000 to 1,000,000 metres, or the rotation is
    /// not of length 1.
    pub fn overlap(
        &self,
        shape: &Shape,
        pose: Pose,
        filter: &Filter<'_>,
    ) -> Result<Vec<Found>, ShapeError> {
        let form = asked(shape, pose.rotation, &[pose.position])?;
        let mut found = Vec::new();
        let bounds = form.bounds(&pose);
        self.targets(&bounds, filter, |target| {
            let mut meets = false;
            target.form.near(&target.pose, &bounds, |other, at| {
                let mut pieces = form.pieces();
                meets |= pieces.any(|(offset, piece)| overlaps(piece, &(pose * offset), other, at));
            });
            if meets {
                let Target { entity, part, .. } = target;
                let distance = target.form.distance_to_point(&target.pose, pose.position);
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
        for side in filter.sides() {
            let mut limit = range;
            let layers = filter.layers_of(side).0;
            self.index(side).around(self.state.now, point, layers, range, |face, _| {
                if self.may_be(face, filter) {
                    let entity = face.entity;
                    let mut best: Option<Found> = None;
                    self.shapes(face, side, |target| {
                        let distance = target.form.distance_to_point(&target.pose, point);
                        if best.is_none_or(|best| distance < best.distance) {
                            best = Some(Found { entity, part: target.part, distance });
                        }
                    });
                    if let Some(found) = best.filter(|found| found.distance <= limit) {
                        let before = nearest.partition_point(|other| {
                            (other.distance, other.entity) < (found.distance, entity)
                        });
                        if nearest.len() == count && before < count {
                            nearest.pop();
                        }
                        if before < count {
                            nearest.insert(before, found);
                        }
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
        for side in filter.sides() {
            self.index(side).along(
                self.state.now,
                &beam,
                filter.layers_of(side).0,
                limit,
                |face, mut until| {
                    if !self.may_be(face, filter) {
                        return until;
                    }
                    self.shapes(face, side, |target| {
                        let Some(contact) = target.form.cast(ray, &target.pose) else { return };
                        let whole = ray.length();
                        let share = contact.distance / whole;
                        until = hit(Hit {
                            entity: target.entity,
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
                },
            );
        }
    }

    /// Calls `visit` with the shapes of all that is near `bounds`.
    fn targets(&self, bounds: &Aabb, filter: &Filter<'_>, mut visit: impl FnMut(Target<'_>)) {
        let bounds = bounds.grown(TOUCH);
        for side in filter.sides() {
            self.index(side).meeting(&bounds, filter.layers_of(side).0, |face| {
                if self.may_be(face, filter) {
                    self.shapes(face, side, &mut visit);
                }
            });
        }
    }

    fn index(&self, side: Side) -> &'a Index {
        match side {
            Side::Solid => &self.indices.solids,
            Side::Zone => &self.indices.zones,
            Side::Body => &self.indices.bodies,
        }
    }

    fn may_be(&self, face: &Face, filter: &Filter<'_>) -> bool {
        !face.off && filter.admits(self.scene, self.state, face.entity)
    }

    /// Calls `visit` with each shape of one side of an entity, as it is now.
    fn shapes(&self, face: &Face, side: Side, mut visit: impl FnMut(Target<'_>)) {
        let entity = face.entity;
        let pose = if face.still {
            face.pose
        } else {
            self.state.pose(self.scene, entity, self.state.now)
        };
        match &face.form {
            Some(form) => {
                let part = (side == Side::Body).then_some(0);
                visit(Target { entity, part, form, pose });
            }
            None if side == Side::Body => {
                let parts = self.scene.thing(entity).body.iter().flat_map(|body| &body.parts);
                for (index, part) in parts.enumerate() {
                    let (form, pose) = (&part.form, pose * part.pose);
                    visit(Target { entity, part: Some(index), form, pose });
                }
            }
            None => {}
        }
    }
}

/// The shape that a question is asked with, at these places.
fn asked(shape: &Shape, rotation: DQuat, places: &[DVec3]) -> Result<Form, ShapeError> {
    for value in places.iter().flat_map(DVec3::to_array) {
        if !range::COORDINATE.holds(value) {
            return Err(ShapeError::Coordinate { what: "a place", value });
        }
    }
    if !is_rotation(rotation) {
        return Err(ShapeError::Rotation);
    }
    let form = Form::new(shape)?;
    if form.is_ground() {
        Err(ShapeError::NotConvex(shape.word()))
    } else if form.is_endless() {
        Err(ShapeError::Endless)
    } else {
        Ok(form)
    }
}

/// Nearest first, then in the scene's order.
fn order(one: &Hit, other: &Hit) -> std::cmp::Ordering {
    let place = |hit: &Hit| (hit.entity, hit.part);
    one.distance.total_cmp(&other.distance).then(place(one).cmp(&place(other)))
}
