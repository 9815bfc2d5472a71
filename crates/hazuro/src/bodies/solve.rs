//! Which velocity over the ground comes nearest to the wanted one, given what must not be run into:
//! a quadratic program in two dimensions, small enough to try every corner.

use glam::DVec2;
use smallvec::SmallVec;

use crate::describe::EntityId;
use crate::geometry::ROUNDING;

/// What a body must not run into: its velocity along `along` must be at least `least`.
pub(super) struct Bound {
    pub along: DVec2,
    pub least: f64,
    pub by: Option<EntityId>,
    /// How fast what is touched comes towards the body.
    pub pushes: f64,
}

/// The velocity nearest to the wanted one that keeps to some bounds.
pub(super) struct Solution {
    pub velocity: DVec2,
    /// The bounds that it just keeps to.
    pub active: SmallVec<[usize; 2]>,
    /// Whether there is none.
    pub stuck: bool,
}

pub(super) fn solve(wanted: DVec2, bounds: &[Bound]) -> Solution {
    let keeps = |velocity: DVec2| {
        bounds.iter().all(|bound| bound.along.dot(velocity) >= bound.least - ROUNDING)
    };
    let active = |velocity: DVec2| {
        let just = |bound: &Bound| {
            bound.along.dot(velocity) - bound.least < ROUNDING
                && bound.along.dot(wanted) < bound.least
        };
        (0..bounds.len()).filter(|index| just(&bounds[*index])).collect()
    };
    if keeps(wanted) {
        return Solution { velocity: wanted, active: SmallVec::new(), stuck: false };
    }
    let mut candidates: SmallVec<[DVec2; 8]> = SmallVec::new();
    for (index, one) in bounds.iter().enumerate() {
        candidates.push(wanted + one.along * (one.least - one.along.dot(wanted)));
        for other in &bounds[..index] {
            let across = one.along.perp_dot(other.along);
            if across.abs() > ROUNDING {
                let x = one.least * other.along.y - other.least * one.along.y;
                let y = one.along.x * other.least - other.along.x * one.least;
                candidates.push(DVec2::new(x, y) / across);
            }
        }
    }
    let far = |velocity: &DVec2| velocity.distance_squared(wanted);
    let best = candidates.into_iter().filter(|candidate| keeps(*candidate));
    match best.reduce(|best, next| if far(&next) < far(&best) { next } else { best }) {
        // What is left of rounding is none.
        Some(velocity) if velocity.length() < ROUNDING => {
            Solution { velocity: DVec2::ZERO, active: active(DVec2::ZERO), stuck: false }
        }
        Some(velocity) => Solution { velocity, active: active(velocity), stuck: false },
        None => Solution { velocity: DVec2::ZERO, active: SmallVec::new(), stuck: true },
    }
}
