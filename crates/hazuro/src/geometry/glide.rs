//! Shapes that move evenly, and when two of them overlap.

use super::{Convex, Pose};

/// A shape that glides from one pose of its carrier to another, evenly in time.
///
/// The carrier's position moves on a straight line, its rotation at an even rate; the shape sits
/// on it at `offset`.
#[derive(Clone, Copy, Debug)]
pub struct Glide<'a> {
    /// The shape that moves.
    pub shape: &'a Convex,
    /// Its pose on the carrier.
    pub offset: Pose,
    /// The carrier's pose at the start.
    pub from: Pose,
    /// The carrier's pose at the end.
    pub to: Pose,
}

impl Glide<'_> {
    pub(super) fn at(&self, fraction: f64) -> Pose {
        self.from.towards(&self.to, fraction) * self.offset
    }

    /// How far its surface, where that can be nearest to `other`, moves because the carrier turns,
    /// in metres; exactly 0 if the turn changes nothing.
    pub(super) fn swing(&self, other: &Self) -> f64 {
        let angle = self.from.angle_to(&self.to);
        if angle == 0.0 {
            return 0.0;
        }
        if !self.shape.is_endless() {
            // The carrier turns about one axis all the way, and what is round about that axis only
            // goes round it.
            let turn = self.from.rotation.conjugate() * self.to.rotation;
            let axis = turn.xyz().normalize_or_zero();
            let aside = self.offset.position.reject_from(axis).length();
            return angle
                * (aside + self.shape.reach_across(self.offset.rotation.conjugate() * axis));
        }
        // The point nearest to something is no farther from any point of the shape than that is,
        // and from the turning point so much more as the shape's origin is.
        let arm = |one: &Pose, other: &Pose| one.position.distance(other.position);
        let apart = [arm(&self.from, &other.from), arm(&self.to, &other.to)];
        let beyond = other.offset.position.length() + other.shape.reach();
        angle * (2.0 * self.offset.position.length() + apart[0].max(apart[1]) + beyond)
    }

    /// How fast the velocity of any point of its surface changes because the carrier turns, in metres for
    /// the whole movement squared: what goes round once in a radian is pulled in by as much as it moves.
    /// What is round may roll about its own axis to stay the same, which at most doubles it.
    pub(super) fn bend(&self, other: &Self) -> f64 {
        let angle = self.from.angle_to(&self.to);
        if angle > 0.0 && self.shape.is_endless() {
            return f64::INFINITY;
        }
        let rolls = if self.shape.is_round() { 2.0 } else { 1.0 };
        rolls * angle * self.swing(other)
    }
}

/// A span of overlap, as fractions of the movement: `0 <= start <= end <= 1`.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Overlap {
    /// When it starts.
    pub start: f64,
    /// When it ends; contact at the very end is still overlap.
    pub end: f64,
}
