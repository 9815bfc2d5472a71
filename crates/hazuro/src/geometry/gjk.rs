//! The points of two convex sets that are nearest to one another.
//!
//! Source: E. G. Gilbert, D. W. Johnson, S. S. Keerthi, "A fast procedure for computing the
//! distance between complex objects in three-dimensional space", IEEE Journal of Robotics and
//! Automation 4(2), 1988.

use glam::DVec3;

use super::simplex::{Corner, Simplex};

/// Far more rounds than any pair of shapes needs; a bound, not a setting.
const MAX_ROUNDS: usize = 64;
/// Stop when the lower bound comes this close to the squared distance, relative to it.
const GAP: f64 = 1e-14;

/// How two shapes lie to one another.
///
/// ```
/// use hazuro::geometry::{Convex, Pose, Shape, distance};
/// use glam::DVec3;
/// let ball = Convex::new(&Shape::Sphere { radius: 0.5 })?;
/// let between = distance(&ball, &Pose::IDENTITY, &ball, &Pose::at(DVec3::X * 3.0));
/// assert_eq!(between.gap, 2.0);
/// assert_eq!(between.on_a, DVec3::X * 0.5);
/// # Ok::<(), hazuro::geometry::ShapeError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Separation {
    /// Metres between the surfaces. Below zero the shapes overlap, and that is how far one of
    /// them must at least be moved to part them: the penetration depth.
    pub gap: f64,
    /// The point of the first shape nearest to the second, or deepest in it.
    pub on_a: DVec3,
    /// The point of the second shape nearest to the first, or deepest in it.
    pub on_b: DVec3,
    /// The unit vector from the first to the second: moving the second along it parts them.
    pub normal: DVec3,
}

impl Separation {
    /// The two the other way round, the first now at `offset` from the second.
    pub(super) fn seen_from(self, offset: DVec3) -> Self {
        let Self { gap, on_a, on_b, normal } = self;
        Self { gap, on_a: on_b + offset, on_b: on_a + offset, normal: -normal }
    }

    /// Of two points.
    pub(super) fn between(on_a: DVec3, on_b: DVec3) -> Self {
        let way = on_b - on_a;
        let gap = way.length();
        let normal = if gap > 0.0 { way / gap } else { DVec3::ZERO };
        Self { gap, on_a, on_b, normal }
    }
}

/// Closes in on the points of two convex sets that are nearest to one another. `corner` gives the
/// points farthest along a direction and against it; `offset` leads from somewhere in the first set
/// to somewhere in the second.
pub(super) fn search(offset: DVec3, corner: impl Fn(DVec3) -> Corner) -> Separation {
    let mut simplex = Simplex::of(corner(offset));
    let mut nearest = simplex.nearest();
    let mut proof = Proof::default();
    for _ in 0..MAX_ROUNDS {
        let distance_squared = nearest.length_squared();
        if distance_squared == 0.0 {
            break;
        }
        let next = corner(-nearest);
        let along = nearest.dot(next.difference);
        proof.offer(nearest, distance_squared, along);
        let progress = distance_squared - along;
        if progress <= GAP * distance_squared || simplex.holds(next.difference) {
            break;
        }
        let before = simplex;
        if simplex.extend(next) {
            nearest = DVec3::ZERO;
            break;
        }
        let closer = simplex.nearest();
        if closer.length_squared() >= distance_squared {
            simplex = before;
            break;
        }
        nearest = closer;
    }
    let (on_a, on_b) = simplex.witnesses();
    let length = nearest.length();
    let normal = if length > 0.0 { proof.normal(nearest) } else { DVec3::ZERO };
    Separation { gap: length, on_a, on_b, normal }
}

/// The direction along which the sets were found to lie farthest apart. The points come nearer to one another
/// until the last round, but on thin triangles the way between them is known to fewer and fewer digits.
#[derive(Default)]
struct Proof {
    way: DVec3,
    length_squared: f64,
    along: f64,
}

impl Proof {
    /// `along` is how far apart they lie along `way`, times its length.
    fn offer(&mut self, way: DVec3, length_squared: f64, along: f64) {
        let is_farther =
            along * along * self.length_squared >= self.along * self.along * length_squared;
        if along > 0.0 && is_farther {
            *self = Self { way, length_squared, along };
        }
    }

    /// The unit vector from the first set to the second; `last` is the way found last.
    fn normal(&self, last: DVec3) -> DVec3 {
        if self.along > 0.0 { -self.way / self.length_squared.sqrt() } else { -last.normalize() }
    }
}
