//! Convex shapes, checked and ready for use.

use std::f64::consts::PI;
use std::sync::Arc;

use glam::DVec3;

use super::core::Core;
use super::polytope::Polytope;
use super::shape::MAX_POINTS;
use super::{Aabb, MAX_LENGTH, MIN_LENGTH, Pose, Shape, ShapeError};

/// A checked convex shape: a core (point, segment, box, ...) and all that lies within a radius of it.
///
/// A half-space counts as a box that ends 1e9 m from its origin, where it must have an end.
///
/// ```
/// use hazuro::geometry::{Convex, Pose, Shape};
/// let ball = Convex::new(&Shape::Sphere { radius: 0.5 })?;
/// assert_eq!(ball.bounds(&Pose::IDENTITY).max.y, 0.5);
/// # Ok::<(), hazuro::geometry::ShapeError>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Convex {
    core: Core,
    radius: f64,
}

impl Convex {
    /// Checks a shape and makes it ready for use.
    ///
    /// # Errors
    /// If a length is not finite, not from [`MIN_LENGTH`] to [`MAX_LENGTH`], a capsule is less high
    /// than wide, a hull is flat, or the shape is none of the convex ones.
    pub fn new(shape: &Shape) -> Result<Self, ShapeError> {
        Ok(match *shape {
            Shape::Box { size: [x, y, z] } => Self {
                core: Core::Box(
                    DVec3::new(
                        length("a box's length along x", x)?,
                        length("a box's length along y", y)?,
                        length("a box's length along z", z)?,
                    ) / 2.0,
                ),
                radius: 0.0,
            },
            Shape::Sphere { radius } => {
                Self { core: Core::Point, radius: length("a sphere's radius", radius)? }
            }
            Shape::Capsule { radius, height } => {
                let radius = length("a capsule's radius", radius)?;
                let height = length("a capsule's height", height)?;
                if height < 2.0 * radius {
                    return Err(ShapeError::CapsuleTooShort { height, radius });
                }
                Self { core: Core::Segment(height / 2.0 - radius), radius }
            }
            Shape::Cylinder { radius, height } => Self::sharp(Core::Cylinder {
                radius: length("a cylinder's radius", radius)?,
                half: length("a cylinder's height", height)? / 2.0,
            }),
            Shape::Cone { radius, height } => Self::sharp(Core::Cone {
                radius: length("a cone's radius", radius)?,
                half: length("a cone's height", height)? / 2.0,
            }),
            Shape::Hull { ref points } => Self::sharp(hull(points)?),
            Shape::HalfSpace => Self::sharp(Core::HalfSpace),
            Shape::Heights { .. } | Shape::Mesh { .. } | Shape::Any { .. } => {
                return Err(ShapeError::NotConvex(shape.word()));
            }
        })
    }

    /// The convex hull of points that need not have any volume.
    pub(super) fn of_points(points: &[DVec3]) -> Self {
        Self::sharp(Core::Hull(points.into()))
    }

    /// Puts other points, as many, in the place of those of [`of_points`](Self::of_points).
    pub(super) fn set_points(&mut self, points: &[DVec3]) {
        let Core::Hull(known) = &mut self.core else { return };
        match Arc::get_mut(known) {
            Some(known) if known.len() == points.len() => known.copy_from_slice(points),
            _ => *known = points.into(),
        }
    }

    /// The same, larger by `margin` on all sides, with round edges.
    #[must_use]
    pub(crate) fn grown(&self, margin: f64) -> Self {
        Self { radius: self.radius + margin, ..self.clone() }
    }

    /// The same with edges rounded by `margin`, so that what lies against it, but for a hull or a
    /// cone, is as far from its core as that. Those become larger instead.
    pub(crate) fn rounded(&self, margin: f64) -> Self {
        let core = match self.core {
            Core::Point | Core::Segment(_) => return self.clone(),
            Core::Box(half) if half.min_element() > margin => Core::Box(half - margin),
            Core::Cylinder { radius, half } if radius.min(half) > margin => {
                Core::Cylinder { radius: radius - margin, half: half - margin }
            }
            ref core => core.clone(),
        };
        Self { core, radius: self.radius + margin }
    }

    /// Whether turning about Y makes no difference to it.
    pub(crate) fn is_round(&self) -> bool {
        !matches!(self.core, Core::Box(_) | Core::Hull(_))
    }

    /// Whether it is all of its bounds while it is not turned.
    pub(crate) fn is_box(&self) -> bool {
        matches!(self.core, Core::Box(_)) && self.radius == 0.0
    }

    /// Whether it has no end.
    pub fn is_endless(&self) -> bool {
        self.core == Core::HalfSpace
    }

    /// Its volume in cubic metres; infinite for a half-space.
    pub fn volume(&self) -> f64 {
        let r = self.radius;
        match self.core {
            Core::Point => PI * r * r * r * 4.0 / 3.0,
            Core::Segment(half) => PI * r * r * (2.0 * half + r * 4.0 / 3.0),
            Core::Box(half) => 8.0 * half.x * half.y * half.z,
            Core::Cylinder { radius, half } => PI * radius * radius * 2.0 * half,
            Core::Cone { radius, half } => PI * radius * radius * 2.0 * half / 3.0,
            Core::Hull(ref points) => Polytope::hull(points).map_or(0.0, |hull| hull.volume()),
            Core::HalfSpace => f64::INFINITY,
        }
    }

    /// A shape without rounding.
    fn sharp(core: Core) -> Self {
        Self { core, radius: 0.0 }
    }

    /// How far the surface lies from the core, in metres.
    pub(super) fn radius(&self) -> f64 {
        self.radius
    }

    /// The point of the core farthest along `direction`, both in the shape's own frame.
    pub(super) fn core_support(&self, direction: DVec3) -> DVec3 {
        self.core.support(direction)
    }

    pub(super) fn core(&self) -> &Core {
        &self.core
    }

    /// Whether the core is a single point.
    pub(crate) fn is_ball(&self) -> bool {
        self.core == Core::Point
    }

    /// The point of the core nearest to `point`, both in the shape's own frame.
    pub(super) fn nearest_on_core(&self, point: DVec3) -> DVec3 {
        self.core.nearest(point)
    }

    /// The point of the shape farthest along `direction` (any length but zero), both given in the
    /// frame that `pose` is given in.
    pub fn support(&self, pose: &Pose, direction: DVec3) -> DVec3 {
        let local = pose.rotation.conjugate() * direction;
        pose.point(self.core_support(local)) + direction.normalize_or_zero() * self.radius
    }

    /// How deep a point lies inside: no more than its distance to the surface, and 0 outside.
    pub fn depth(&self, pose: &Pose, point: DVec3) -> f64 {
        let local = pose.rotation.conjugate() * (point - pose.position);
        let depth = self.core.depth(local);
        if depth > 0.0 {
            return depth + self.radius;
        }
        (self.radius - local.distance(self.core.nearest(local))).max(0.0)
    }

    /// Whether a point, in its own frame, lies in it.
    pub(super) fn holds(&self, point: DVec3) -> bool {
        self.core.nearest(point).distance(point) <= self.radius
    }

    /// The radius of a ball around its centre that it holds.
    pub fn inner_radius(&self) -> f64 {
        self.radius + self.core.depth(DVec3::ZERO)
    }

    /// The farthest any of its points lies from its centre, in metres.
    pub fn reach(&self) -> f64 {
        self.radius + self.core.reach()
    }

    /// How far a turn about `axis`, a unit vector through its centre, carries its surface for each
    /// radian at most, in metres. No rounding ever counts: a ball does not change.
    pub(crate) fn reach_across(&self, axis: DVec3) -> f64 {
        self.core.reach_across(axis)
    }

    /// A box along the axes and a radius: what is within that of the box holds the shape.
    pub(crate) fn rounded_bounds(&self, pose: &Pose) -> (Aabb, f64) {
        (self.bounds(pose).grown(-self.radius), self.radius)
    }

    /// The box along the axes that holds the shape.
    pub fn bounds(&self, pose: &Pose) -> Aabb {
        if let Core::Point = self.core {
            return Aabb::around(pose.position, DVec3::splat(self.radius));
        }
        let unturn = pose.rotation.conjugate();
        let mut bounds = Aabb::EMPTY;
        for axis in 0..3 {
            let way = unturn * DVec3::AXES[axis];
            bounds.max[axis] = pose.point(self.core.support(way))[axis] + self.radius;
            bounds.min[axis] = pose.point(self.core.support(-way))[axis] - self.radius;
        }
        bounds
    }
}

/// A length in the supported range.
pub(super) fn length(what: &'static str, value: f64) -> Result<f64, ShapeError> {
    if (MIN_LENGTH..=MAX_LENGTH).contains(&value) {
        Ok(value)
    } else {
        Err(ShapeError::Length { what, value })
    }
}

/// A place in the supported range.
pub(super) fn coordinate(what: &'static str, value: f64) -> Result<(), ShapeError> {
    if (-MAX_LENGTH..=MAX_LENGTH).contains(&value) {
        Ok(())
    } else {
        Err(ShapeError::Coordinate { what, value })
    }
}

/// The core of a hull.
fn hull(points: &[[f64; 3]]) -> Result<Core, ShapeError> {
    if !(4..=MAX_POINTS).contains(&points.len()) {
        return Err(ShapeError::HullPoints(points.len()));
    }
    for value in points.iter().flatten() {
        coordinate("a hull's coordinate", *value)?;
    }
    let points: Vec<DVec3> = points.iter().copied().map(DVec3::from_array).collect();
    // The two farthest apart, the one farthest from their line, the one farthest from that plane.
    let first = points[0];
    let farthest = |far: &dyn Fn(DVec3) -> f64| {
        points
            .iter()
            .copied()
            .max_by(|one, other| far(*one).total_cmp(&far(*other)))
            .unwrap_or(first)
    };
    let a = farthest(&|point| point.distance_squared(first));
    let b = farthest(&|point| point.distance_squared(a));
    let along = (b - a).normalize_or_zero();
    let c = farthest(&|point| (point - a).cross(along).length_squared());
    let across = along.cross(c - a).normalize_or_zero();
    let d = farthest(&|point| (point - a).dot(across).abs());
    if (d - a).dot(across).abs() < MIN_LENGTH || (c - a).cross(along).length() < MIN_LENGTH {
        return Err(ShapeError::FlatHull);
    }
    Ok(Core::Hull(points.into()))
}
