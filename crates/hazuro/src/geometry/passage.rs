//! What a form meets on its way in a straight line.

use glam::DVec3;

use super::{Aabb, Form, Glide, Pose, TOUCH, distance, sweep};

/// Where a form first meets a convex piece of another on its way.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Met {
    /// After which share of the way, from 0 to 1.
    pub share: f64,
    /// Where, on what is met.
    pub point: DVec3,
    /// The unit vector out of what is met; against the way where the two overlap from the start.
    pub normal: DVec3,
    /// Whether they overlap from the start.
    pub inside: bool,
}

/// The bounds of a form on its way from a pose straight to a place, not turning.
pub(crate) fn way_bounds(form: &Form, from: Pose, to: DVec3) -> Aabb {
    let start = form.bounds(&from);
    start.join(&start.moved(to - from.position))
}

/// Calls `visit` with what a form meets of another on its way from a pose straight to a place, not turning:
/// once for each pair of convex pieces, in no particular order. `bounds` are those of its way.
pub(crate) fn each_met(
    (form, from, to): (&Form, Pose, DVec3),
    bounds: &Aabb,
    (other, at): (&Form, &Pose),
    mut visit: impl FnMut(Met),
) {
    let way = to - from.position;
    let end = Pose { position: to, ..from };
    other.near(at, bounds, |other, pose| {
        let still = Glide { shape: other, offset: Pose::IDENTITY, from: *pose, to: *pose };
        for (offset, piece) in form.pieces() {
            let moving = Glide { shape: piece, offset, from, to: end };
            let Some(span) = sweep(&still, &moving).first().copied() else { continue };
            let there = from.towards(&end, span.start) * offset;
            let between = distance(other, pose, piece, &there);
            let inside = span.start == 0.0 && between.gap < -TOUCH;
            let normal = if inside { -way.normalize_or_zero() } else { between.normal };
            visit(Met { share: span.start, point: between.on_a, normal, inside });
        }
    });
}
