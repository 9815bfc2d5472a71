//! The shapes that scenes are made of.

use glam::DVec3;
use thiserror::Error;

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
}

impl Shape {
    /// The word for this sort of shape: `box`, `sphere` or `capsule`.
    pub fn word(&self) -> &'static str {
        match self {
            Self::Box { .. } => "box",
            Self::Sphere { .. } => "sphere",
            Self::Capsule { .. } => "capsule",
        }
    }

    /// The whole height along Y, in metres.
    pub fn height(&self) -> f64 {
        match *self {
            Self::Box { size } => size[1],
            Self::Sphere { radius } => 2.0 * radius,
            Self::Capsule { height, .. } => height,
        }
    }
}

/// A checked convex shape: a core (point, segment or box) and all that lies within a radius of it.
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

#[derive(Clone, Debug, PartialEq)]
pub(super) enum Core {
    Point,
    /// Along Y, this far up and down.
    Segment(f64),
    /// This far along each axis.
    Box(DVec3),
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
        })
    }

    /// How far the surface lies from the core, in metres.
    pub(super) fn radius(&self) -> f64 {
        self.radius
    }

    /// The point of the core farthest along `direction`, both in the shape's own frame.
    pub(super) fn core_support(&self, direction: DVec3) -> DVec3 {
        match self.core {
            Core::Point => DVec3::ZERO,
            Core::Segment(half) => DVec3::new(0.0, half.copysign(direction.y), 0.0),
            Core::Box(half) => DVec3::new(
                half.x.copysign(direction.x),
                half.y.copysign(direction.y),
                half.z.copysign(direction.z),
            ),
        }
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
        match self.core {
            Core::Point => DVec3::ZERO,
            Core::Segment(half) => DVec3::new(0.0, point.y.clamp(-half, half), 0.0),
            Core::Box(half) => point.clamp(-half, half),
        }
    }

    /// The point of the shape farthest along `direction` (any length but zero), both given in the
    /// frame that `pose` is given in.
    pub fn support(&self, pose: &Pose, direction: DVec3) -> DVec3 {
        let local = pose.rotation.conjugate() * direction;
        pose.point(self.core_support(local)) + direction.normalize_or_zero() * self.radius
    }

    /// How deep a point lies inside: its distance to the surface, and 0 outside.
    pub fn depth(&self, pose: &Pose, point: DVec3) -> f64 {
        let local = pose.rotation.conjugate() * (point - pose.position);
        let depth = match self.core {
            Core::Point => self.radius - local.length(),
            Core::Segment(half) => {
                self.radius - (local - DVec3::Y * local.y.clamp(-half, half)).length()
            }
            Core::Box(half) => (half - local.abs()).min_element(),
        };
        depth.max(0.0)
    }

    /// The radius of the largest ball around its centre that it holds.
    pub fn inner_radius(&self) -> f64 {
        match self.core {
            Core::Point | Core::Segment(_) => self.radius,
            Core::Box(half) => half.min_element(),
        }
    }

    /// The farthest any of its points lies from its centre, in metres.
    pub fn reach(&self) -> f64 {
        self.radius
            + match self.core {
                Core::Point => 0.0,
                Core::Segment(half) => half,
                Core::Box(half) => half.length(),
            }
    }

    /// The box along the axes that holds the shape.
    pub fn bounds(&self, pose: &Pose) -> Aabb {
        let half = match self.core {
            Core::Point => DVec3::ZERO,
            Core::Segment(half) => (pose.rotation * DVec3::Y).abs() * half,
            Core::Box(half) => {
                (pose.rotation * DVec3::X).abs() * half.x
                    + (pose.rotation * DVec3::Y).abs() * half.y
                    + (pose.rotation * DVec3::Z).abs() * half.z
            }
        };
        Aabb::around(pose.position, half + self.radius)
    }
}
