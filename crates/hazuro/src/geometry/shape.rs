//! The shapes that scenes are made of.

use thiserror::Error;

use super::Pose;
use crate::shown::number;

/// The most points of a hull.
pub(super) const MAX_POINTS: usize = 256;

/// The least length, in metres, that a shape may have in any direction.
pub const MIN_LENGTH: f64 = 1e-6;
/// The greatest length, in metres, that a shape may have in any direction.
pub const MAX_LENGTH: f64 = 1e6;

/// A shape as its author writes it, centred on its own origin. Lengths are in metres.
///
/// A description only: [`Form::new`](super::Form::new) checks it and makes it ready for use.
///
/// ```
/// use hazuro::geometry::{Form, Shape};
/// let pad = Shape::Box { size: [4.0, 2.0, 4.0] };
/// assert!(Form::new(&pad).is_ok());
/// assert!(Form::new(&Shape::Sphere { radius: -1.0 }).is_err());
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
    /// Everything from its origin downwards, without end. For zones and solids.
    HalfSpace,
    /// Ground: heights at the points of a square grid, solid down to 1 m below the lowest. Centred
    /// in x and z; two triangles to a cell, parted from the corner of least x and greatest z to the
    /// opposite one. For solids.
    Heights {
        /// Between two points of the grid, along x and along z.
        spacing: f64,
        /// The heights above the origin: rows along x, one after another along z. At least two
        /// rows of at least two.
        rows: Vec<Vec<f64>>,
    },
    /// Triangles, each solid from both sides but without thickness. For solids.
    Mesh {
        /// The corners, from the origin of the shape.
        points: Vec<[f64; 3]>,
        /// Three corners each, by their places in `points`.
        triangles: Vec<[u32; 3]>,
    },
    /// All of several convex shapes together.
    Any {
        /// The shapes.
        shapes: Vec<Posed>,
    },
}

/// A shape somewhere in a bigger one.
///
/// ```
/// use hazuro::geometry::{Posed, Shape};
/// let rail = |x: f64| Posed::new(Shape::Box { size: [0.1, 1.0, 4.0] }).at([x, 0.0, 0.0]);
/// let bridge = Shape::Any { shapes: vec![rail(-1.0), rail(1.0)] };
/// assert_eq!(bridge.word(), "any");
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Posed {
    /// The shape.
    pub shape: Shape,
    /// Where it is, from the origin of the bigger one.
    pub pose: Pose,
}

impl Posed {
    /// A shape at the origin, not turned.
    pub fn new(shape: Shape) -> Self {
        Self { shape, pose: Pose::IDENTITY }
    }

    /// Put it here.
    #[must_use]
    pub fn at(self, pose: impl Into<Pose>) -> Self {
        Self { pose: pose.into(), ..self }
    }
}

/// Why a [`Shape`] cannot be used.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum ShapeError {
    /// A length is not a number, infinite, or outside the supported range.
    #[error("{what} is {}, but must be from {MIN_LENGTH} to {MAX_LENGTH} metres", number(*value))]
    Length {
        /// Which length.
        what: &'static str,
        /// What was given.
        value: f64,
    },
    /// A rotation is no unit quaternion.
    #[error("a rotation is a quaternion [x, y, z, w] of length 1")]
    Rotation,
    /// A coordinate is not a number, infinite, or outside the supported range.
    #[error("{what} is {}, but must be from -{MAX_LENGTH} to {MAX_LENGTH} metres", number(*value))]
    Coordinate {
        /// Which coordinate.
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
    #[error("a hull has from 4 to {most} points, not {0}", most = MAX_POINTS)]
    HullPoints(usize),
    /// A hull whose points all lie, nearly, in one plane.
    #[error("a hull needs four points that do not all lie in one plane")]
    FlatHull,
    /// A shape that is not convex where only convex ones can be.
    #[error(
        "a `{0}` cannot be here, only convex shapes can: box, sphere, capsule, cylinder, cone, hull"
    )]
    NotConvex(&'static str),
    /// A shape without end where only bounded ones can be.
    #[error("a `half_space` has no end, so it cannot be here")]
    Endless,
    /// A combination of no shapes.
    #[error("`any` needs at least one shape")]
    NoShapes,
    /// A ground of too few points.
    #[error("a ground needs at least two rows of at least two heights")]
    FewHeights,
    /// A ground with rows of different lengths.
    #[error(
        "all rows of a ground are equally long: row {row}, counted from 0, has {length} heights, the first has {wanted}"
    )]
    UnevenRows {
        /// Which row, from 0.
        row: usize,
        /// How many heights it has.
        length: usize,
        /// How many the first row has.
        wanted: usize,
    },
    /// A mesh without triangles.
    #[error("a mesh needs at least one triangle")]
    NoTriangles,
    /// A triangle of a mesh names a point that is not there.
    #[error("triangle {triangle} names point {point}, but there are {points}, counted from 0")]
    NoPoint {
        /// Which triangle, from 0.
        triangle: usize,
        /// The point it names.
        point: u32,
        /// How many points there are.
        points: usize,
    },
    /// A triangle of a mesh without area.
    #[error("triangle {0} has no area: its corners lie on one line")]
    FlatTriangle(usize),
}

impl ShapeError {
    /// What would cure it, if that can be said.
    pub fn cure(&self) -> Option<String> {
        Some(match self {
            Self::NotConvex("any") => "list its shapes here instead".into(),
            Self::NotConvex(_) => "ground can only be a `solid` by itself".into(),
            Self::Endless => "use a large box, or make it a zone or a solid".into(),
            Self::CapsuleTooShort { .. } => "make it higher, or a sphere".into(),
            Self::FlatTriangle(_) => "leave the triangle out".into(),
            _ => return None,
        })
    }
}

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
            Self::HalfSpace => "half_space",
            Self::Heights { .. } => "heights",
            Self::Mesh { .. } => "mesh",
            Self::Any { .. } => "any",
        }
    }

    /// The same shape, `factor` times as large in every direction.
    #[must_use]
    pub fn scaled(&self, factor: f64) -> Self {
        let all = |points: &[[f64; 3]]| points.iter().map(|p| p.map(|c| c * factor)).collect();
        match *self {
            Self::Box { size } => Self::Box { size: size.map(|length| length * factor) },
            Self::Sphere { radius } => Self::Sphere { radius: radius * factor },
            Self::Capsule { radius, height } => {
                Self::Capsule { radius: radius * factor, height: height * factor }
            }
            Self::Cylinder { radius, height } => {
                Self::Cylinder { radius: radius * factor, height: height * factor }
            }
            Self::Cone { radius, height } => {
                Self::Cone { radius: radius * factor, height: height * factor }
            }
            Self::Hull { ref points } => Self::Hull { points: all(points) },
            Self::HalfSpace => Self::HalfSpace,
            Self::Heights { spacing, ref rows } => Self::Heights {
                spacing: spacing * factor,
                rows: rows.iter().map(|row| row.iter().map(|y| y * factor).collect()).collect(),
            },
            Self::Mesh { ref points, ref triangles } => {
                Self::Mesh { points: all(points), triangles: triangles.clone() }
            }
            Self::Any { ref shapes } => {
                let scaled = |posed: &Posed| Posed {
                    shape: posed.shape.scaled(factor),
                    pose: Pose { position: posed.pose.position * factor, ..posed.pose },
                };
                Self::Any { shapes: shapes.iter().map(scaled).collect() }
            }
        }
    }
}
