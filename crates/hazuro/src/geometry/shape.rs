//! The shapes that scenes are made of.

use glam::DVec3;
use thiserror::Error;

use super::core::Core;
use super::{Aabb, Pose};

/// The least length, in metres, that a shape may have in any direction.
pub const MIN_LENGTH: f64 = 1e-6;
/// The greatest length, in metres, that a shape may have in any direction.
pub const MAX_LENGTH: f64 = 1e6;

/// A shape as its author writes it, centred on its own origin. Lengths are in metres.
///
/// A description only: [`Convex::new`] checks it and makes it ready for use.
///
/// ```
/// use hazuro::geometry::{Convex, Shape};
/// let pad = Shape::Box { size: [4.0, 2.0, 4.0] };
/// assert!(Convex::new(&pad).is_ok());
/// assert!(Convex::new(&Shape::Sphere { radius: -1.0 }).is_err());
/// ```
#[derive(Clone, Debug, PartialEq)]
pub enum Shape {
    /// A box, by its full edge lengths along x, y and z.
    Box {
        /// Full edge lengths.
        size: [f64; 3],
    },
    /// A ball.
    Sphere {
        /// From its centre to its surface.
        radius: f64,
    },
    /// A cylinder along Y with a half ball at either end.
    Capsule {
        /// Of the cylinder and of both half balls.
        radius: f64,
        /// The whole height, half balls included: at least twice the radius.
        height: f64,
    },
    /// A cylinder along Y.
    Cylinder {
        /// Of its round faces.
        radius: f64,
        /// The whole height.
        height: f64,
    },
    /// A cone along Y, its tip up, centred at half its height.
    Cone {
        /// Of its round face, which is at the bottom.
        radius: f64,
        /// The whole height.
        height: f64,
    },
    /// The convex hull of points: at least four, not all in one plane, at most 256.
    Hull {
        /// The points, from the origin of the shape.
        points: Vec<[f64; 3]>,
    },
}

/// Why a [`Shape`] cannot be used.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum ShapeError {
    /// A length is not a number, infinite, or outside the supported range.
    #[error("{what} is {value}, but must be from {MIN_LENGTH} to {MAX_LENGTH} metres")]
    Length {
        /// Which length.
        what: &'static str,
        /// What was given.
        value: f64,
    },
    /// A capsule's height leaves no room for its two half balls.
    #[error(
        "a capsule's height is its whole height: {height} is less than twice its radius, {}",
        2.0 * radius
    )]
    CapsuleTooShort {
        /// The height that was given.
        height: f64,
        /// The radius that was given.
        radius: f64,
    },
    /// A hull of too few or too many points.
    #[error("a hull has from 4 to {MAX_POINTS} points, not {0}")]
    HullPoints(usize),
    /// A hull whose points all lie, nearly, in one plane.
    #[error("a hull needs four points that do not all lie in one plane")]
    FlatHull,
}

/// The most points of a hull.
const MAX_POINTS: usize = 256;

impl Shape {
    /// The word for this sort of shape: as in `box`.
    pub fn word(&self) -> &'static str {
        match self {
            Self::Box { .. } => "box",
            Self::Sphere { .. } => "sphere",
            Self::Capsule { .. } => "capsule",
            Self::Cylinder { .. } => "cylinder",
            Self::Cone { .. } => "cone",
            Self::Hull { .. } => "hull",
        }
    }

    /// How far below its centre it reaches, in metres.
    pub fn below(&self) -> f64 {
        match self {
            Self::Box { size } => size[1] / 2.0,
            Self::Sphere { radius } => *radius,
            Self::Capsule { height, .. }
            | Self::Cylinder { height, .. }
            | Self::Cone { height, .. } => height / 2.0,
            Self::Hull { points } => points.iter().map(|point| -point[1]).fold(0.0, f64::max),
        }
    }
}

/// A checked convex shape: a core (point, segment, box, ...) and all that lies within a radius of it.
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
    /// If a length is not finite, not from [`MIN_LENGTH`] to [`MAX_LENGTH`], or a capsule is less
    /// high than wide.
    pub fn new(shape: &Shape) -> Result<Self, ShapeError> {
        let length = |what, value: f64| {
            if (MIN_LENGTH..=MAX_LENGTH).contains(&value) {
                Ok(value)
            } else {
                Err(ShapeError::Length { what, value })
            }
        };
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
        })
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
    pub(super) fn is_ball(&self) -> bool {
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

    /// The radius of a ball around its centre that it holds.
    pub fn inner_radius(&self) -> f64 {
        self.radius + self.core.depth(DVec3::ZERO)
    }

    /// The farthest any of its points lies from its centre, in metres.
    pub fn reach(&self) -> f64 {
        self.radius + self.core.reach()
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

/// The core of a hull.
fn hull(points: &[[f64; 3]]) -> Result<Core, ShapeError> {
    if !(4..=MAX_POINTS).contains(&points.len()) {
        return Err(ShapeError::HullPoints(points.len()));
    }
    for value in points.iter().flatten() {
        if !(-MAX_LENGTH..=MAX_LENGTH).contains(value) {
            return Err(ShapeError::Length { what: "a hull's coordinate", value: *value });
        }
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
