//! Shapes and the questions between two of them: pure functions, no state.
//!
//! Lengths are metres, angles radians, Y is up and axes are right-handed.
//!
//! **Tolerance.** Two shapes that touch overlap: a gap of up to [`TOUCH`] counts as none. Sweeps
//! of shapes that keep their rotation are exact up to that gap, those of cylinders and cones, whose
//! edges are round, up to 1e-6 m; sweeps of turning shapes look closely enough that nothing deeper
//! than [`TURNING_TOLERANCE`] is missed.

mod bounds;
mod convex;
mod core;
mod distance;
mod form;
mod gjk;
mod glide;
mod heights;
mod host;
mod mesh;
mod passage;
mod polytope;
mod pose;
mod proof;
mod ray;
mod shape;
mod simplex;
mod sweep;
pub(crate) mod tree;
mod turning;

pub use bounds::Aabb;
pub use convex::Convex;
pub(crate) use distance::gap;
pub use distance::{distance, overlaps};
pub use form::Form;
pub use gjk::Separation;
pub use glide::{Glide, Overlap};
pub(crate) use passage::{Met, each_met, way_bounds};
pub use pose::Pose;
pub(crate) use pose::{bits, is_rotation};
pub(crate) use proof::Proof;
pub use ray::{Contact, Ray, RayError, cast, distance_to_point};
pub use shape::{MAX_LENGTH, MIN_LENGTH, Posed, Shape, ShapeError};
pub use sweep::{closest_approach, sweep};

/// The gap, in metres, up to which two shapes count as touching.
pub const TOUCH: f64 = 1e-8;

/// Lengths in metres, speeds in metres per second, angles in radians, shares, times in seconds and cosines that
/// differ by less are equal: what is left of rounding, a thousand times below anything that matters here.
pub(crate) const ROUNDING: f64 = 1e-9;

/// The depth, in metres, below which a contact of turning shapes may go unseen; more for shapes
/// whose farthest point travels more than 0.1 m at one go.
pub const TURNING_TOLERANCE: f64 = 1e-4;
