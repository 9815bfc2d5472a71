//! Axis-aligned bounding boxes.

use glam::DVec3;

use super::Pose;

/// A box along the axes of the world, from its lowest to its highest corner.
///
/// ```
/// use hazuro::geometry::Aabb;
/// use glam::DVec3;
/// let yard = Aabb::around(DVec3::ZERO, DVec3::splat(2.0));
/// assert!(yard.meets(&Aabb::around(DVec3::splat(3.0), DVec3::splat(1.0))));
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Aabb {
    /// The corner with the least x, y and z.
    pub min: DVec3,
    /// The corner with the greatest x, y and z.
    pub max: DVec3,
}

impl Aabb {
    /// Holds nothing; joined with another box it gives that box.
    pub const EMPTY: Self = Self { min: DVec3::INFINITY, max: DVec3::NEG_INFINITY };

    /// The box that reaches `half` in each direction from `center`.
    pub fn around(center: DVec3, half: DVec3) -> Self {
        Self { min: center - half, max: center + half }
    }

    /// The smallest box that holds all of these points.
    pub fn of(points: impl IntoIterator<Item = DVec3>) -> Self {
        let points = points.into_iter();
        points.fold(Self::EMPTY, |all, point| all.join(&Self { min: point, max: point }))
    }

    /// The eight corners.
    fn corners(&self) -> [DVec3; 8] {
        std::array::from_fn(|number| {
            let high = |axis: usize| number >> axis & 1 == 1;
            DVec3::from_array(std::array::from_fn(|axis| {
                if high(axis) { self.max[axis] } else { self.min[axis] }
            }))
        })
    }

    /// The smallest box along the axes that holds this one, given in the frame of `pose`.
    #[must_use]
    pub fn placed(&self, pose: &Pose) -> Self {
        Self::of(self.corners().map(|corner| pose.point(corner)))
    }

    /// The smallest box in the frame of `pose` that holds this one.
    #[must_use]
    pub fn within(&self, pose: &Pose) -> Self {
        self.placed(&pose.inverse())
    }

    /// The smallest box that holds both.
    #[must_use]
    pub fn join(&self, other: &Self) -> Self {
        Self { min: self.min.min(other.min), max: self.max.max(other.max) }
    }

    /// The box moved by `way`.
    #[must_use]
    pub fn moved(&self, way: DVec3) -> Self {
        Self { min: self.min + way, max: self.max + way }
    }

    /// The box grown by `margin` metres on every side.
    #[must_use]
    pub fn grown(&self, margin: f64) -> Self {
        Self { min: self.min - margin, max: self.max + margin }
    }

    /// How far apart the two are, in metres; 0 if they meet. From nothing, infinitely far.
    pub fn distance(&self, other: &Self) -> f64 {
        let gap = (self.min - other.max).max(other.min - self.max).max(DVec3::ZERO);
        gap.length()
    }

    /// Whether the two share at least a point.
    pub fn meets(&self, other: &Self) -> bool {
        self.min.cmple(other.max).all() && other.min.cmple(self.max).all()
    }
}
