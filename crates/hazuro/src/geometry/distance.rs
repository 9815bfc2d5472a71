//! The distance between two convex shapes, with the points that realise it.
//!
//! The search runs on the cores of the shapes; their radii are subtracted at the end, which keeps
//! balls and capsules exact.

use glam::{DMat3, DVec3};

use super::gjk::{Separation, search};
use super::simplex::Corner;
use super::{Convex, Pose, TOUCH, polytope};

/// The point of a turned core nearest to a point given relative to its centre.
fn nearest((shape, turn): &(&Convex, DMat3), point: DVec3) -> DVec3 {
    *turn * shape.nearest_on_core(turn.transpose() * point)
}

/// Both shapes, placed relative to the first one's centre.
pub(super) struct Pair<'a> {
    a: (&'a Convex, DMat3),
    b: (&'a Convex, DMat3),
}

impl<'a> Pair<'a> {
    pub fn new(a: &'a Convex, pose_a: &Pose, b: &'a Convex, pose_b: &Pose) -> Self {
        Self {
            a: (a, DMat3::from_quat(pose_a.rotation)),
            b: (b, DMat3::from_quat(pose_b.rotation)),
        }
    }

    /// The distance of the cores when B's centre lies at `offset` from A's. Points are relative
    /// to A's centre. A gap of 0 means that they overlap; only half-spaces tell how deep.
    pub fn core_distance(&self, offset: DVec3) -> Separation {
        if self.b.0.is_endless() {
            return self.above(self.b.1.y_axis, offset);
        }
        if self.a.0.is_endless() {
            return Self { a: self.b, b: self.a }.above(self.a.1.y_axis, -offset).seen_from(offset);
        }
        if self.b.0.is_ball() {
            let on_a = nearest(&self.a, offset);
            return Separation::between(on_a, offset);
        }
        if self.a.0.is_ball() {
            let on_b = offset + nearest(&self.b, -offset);
            return Separation::between(DVec3::ZERO, on_b);
        }
        self.search(offset)
    }

    /// The same for any two cores.
    fn search(&self, offset: DVec3) -> Separation {
        search(offset, |direction| self.farthest(offset, direction))
    }

    /// The points of the two cores that are farthest apart along a direction.
    fn farthest(&self, offset: DVec3, direction: DVec3) -> Corner {
        let on_a = self.a.1 * self.a.0.core_support(self.a.1.transpose() * direction);
        let on_b = offset + self.b.1 * self.b.0.core_support(self.b.1.transpose() * -direction);
        Corner { difference: on_a - on_b, on_a, on_b }
    }

    /// How high the first core lies above the second, which is all that is below `offset`.
    fn above(&self, up: DVec3, offset: DVec3) -> Separation {
        let on_a = self.a.1 * self.a.0.core_support(self.a.1.transpose() * -up);
        let gap = (on_a - offset).dot(up);
        Separation { gap, on_a, on_b: on_a - up * gap, normal: -up }
    }

    /// How deep overlapping cores lie in one another.
    fn depth(&self, offset: DVec3) -> Separation {
        let found = polytope::depth(|direction| self.farthest(offset, direction));
        if let Some(polytope::Depth { metres, normal, on_a, on_b }) = found {
            return Separation { gap: -metres, on_a, on_b, normal };
        }
        // The cores, points or segments, only touch. Across both of them they part soonest.
        let (one, other) = (self.a.1.y_axis, self.b.1.y_axis);
        let across = one.cross(other).try_normalize();
        let normal = across.unwrap_or_else(|| one.any_orthonormal_vector());
        Separation { normal, ..self.search(offset) }
    }

    /// The sum of the two radii.
    pub fn radius(&self) -> f64 {
        self.a.0.radius() + self.b.0.radius()
    }

    /// The gap between the surfaces when B's centre lies at `offset` from A's.
    pub fn gap(&self, offset: DVec3) -> f64 {
        self.core_distance(offset).gap - self.radius()
    }
}

/// The distance between two placed shapes and the points that realise it, or how deep they
/// overlap.
///
/// Depths are exact for balls, capsules, boxes, hulls and half-spaces; where the round edges of
/// cylinders and cones decide, within a thousandth. Of two half-spaces no more is known than that
/// they meet. Shapes far beyond the supported lengths give inexact answers, never a panic.
pub fn distance(a: &Convex, pose_a: &Pose, b: &Convex, pose_b: &Pose) -> Separation {
    let pair = Pair::new(a, pose_a, b, pose_b);
    let offset = pose_b.position - pose_a.position;
    let mut cores = pair.core_distance(offset);
    // Cores that overlap may seem some rounding apart, in whatever direction.
    if cores.gap.abs() <= TOUCH {
        cores = pair.depth(offset);
    }
    Separation {
        gap: cores.gap - pair.radius(),
        on_a: pose_a.position + cores.on_a + cores.normal * a.radius(),
        on_b: pose_a.position + cores.on_b - cores.normal * b.radius(),
        normal: cores.normal,
    }
}

/// The gap between two placed shapes; where they overlap, below zero, but it need not say how deep.
pub(crate) fn gap(a: &Convex, pose_a: &Pose, b: &Convex, pose_b: &Pose) -> f64 {
    Pair::new(a, pose_a, b, pose_b).gap(pose_b.position - pose_a.position)
}

/// Whether two placed shapes overlap or touch: their gap is at most [`TOUCH`].
pub fn overlaps(a: &Convex, pose_a: &Pose, b: &Convex, pose_b: &Pose) -> bool {
    gap(a, pose_a, b, pose_b) <= TOUCH
}
