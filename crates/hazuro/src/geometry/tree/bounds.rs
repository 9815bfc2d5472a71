//! Bounds as the tree keeps them: single precision, rounded outwards.

use super::super::Aabb;

/// A box along the axes that holds the box it was made from, in half the memory.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Bounds {
    pub min: [f32; 3],
    pub max: [f32; 3],
}

impl Bounds {
    /// Holds nothing and meets nothing.
    pub const EMPTY: Self = Self { min: [f32::INFINITY; 3], max: [f32::NEG_INFINITY; 3] };

    /// The smallest box that holds both.
    pub fn join(&self, other: &Self) -> Self {
        let mut joined = *self;
        for axis in 0..3 {
            joined.min[axis] = joined.min[axis].min(other.min[axis]);
            joined.max[axis] = joined.max[axis].max(other.max[axis]);
        }
        joined
    }

    /// Whether the other box lies wholly inside.
    pub fn holds(&self, other: &Self) -> bool {
        (0..3).all(|axis| self.min[axis] <= other.min[axis] && other.max[axis] <= self.max[axis])
    }

    /// Half the surface: how likely something meets the box, up to a factor. 0 if it is empty.
    pub fn cost(&self) -> f32 {
        let [x, y, z] = std::array::from_fn(|axis| self.max[axis] - self.min[axis]);
        if x < 0.0 { 0.0 } else { x * y + y * z + z * x }
    }

    /// Twice the middle along an axis.
    pub fn middle(&self, axis: usize) -> f32 {
        self.min[axis] + self.max[axis]
    }
}

/// More than what a single may be off, relative to it.
const OFF: f32 = f32::EPSILON;

/// A single not above `value`, and hardly below it.
pub(super) fn down(value: f64) -> f32 {
    let near = value as f32;
    near - (near.abs().min(f32::MAX) * OFF + f32::MIN_POSITIVE)
}

/// A single not below `value`, and hardly above it.
pub(super) fn up(value: f64) -> f32 {
    let near = value as f32;
    near + (near.abs().min(f32::MAX) * OFF + f32::MIN_POSITIVE)
}

/// The low and the high side of what reaches from `low` to `high`. What has no end, or ends beyond
/// single precision, ends where that does: so it never looks like what is empty, and the difference
/// of two sides is always a number.
pub(super) fn sides(low: f64, high: f64) -> (f32, f32) {
    let finite = |value: f32| value.clamp(f32::MIN, f32::MAX);
    (finite(down(low)), finite(up(high)))
}

impl From<&Aabb> for Bounds {
    /// Bounds that are no numbers, or none, are [empty](Self::EMPTY): they are in no tree and meet
    /// nothing.
    fn from(exact: &Aabb) -> Self {
        let (min, max) = (exact.min.to_array(), exact.max.to_array());
        if !(0..3).all(|axis| min[axis] <= max[axis]) {
            return Self::EMPTY;
        }
        let sides: [_; 3] = std::array::from_fn(|axis| sides(min[axis], max[axis]));
        Self { min: sides.map(|(low, _)| low), max: sides.map(|(_, high)| high) }
    }
}
