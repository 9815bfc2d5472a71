//! When two moving shapes overlap.
//!
//! Without turning, the gap between two convex shapes is a convex function of time, so they
//! overlap during at most one span. Newton's method started outside a convex function closes in
//! on its root from that side and never steps over it: started at either end of the movement it
//! finds the exact start and end of the span, at any speed. The gap's slope is the relative
//! velocity along the line between the nearest points. Compare G. van den Bergen, "Ray casting
//! against general convex objects with application to continuous collision detection", 2004.
//!
//! With turning the gap has no such form: see `turning`.

use glam::DVec3;
use smallvec::SmallVec;

use super::distance::Pair;
use super::glide::{Glide, Overlap};
use super::turning::sweep_turning;
use super::{TOUCH, gap};

/// All spans during which two gliding shapes overlap, in order.
///
/// ```
/// use hazuro::geometry::{Convex, Glide, Pose, Shape, sweep};
/// use glam::DVec3;
/// let door = Convex::new(&Shape::Box { size: [2.0, 2.0, 0.01] })?;
/// let ball = Convex::new(&Shape::Sphere { radius: 0.05 })?;
/// let still = Glide { shape: &door, offset: Pose::IDENTITY, from: Pose::IDENTITY, to: Pose::IDENTITY };
/// let thrown = Glide {
///     shape: &ball,
///     from: Pose::at(DVec3::Z * -10.0),
///     to: Pose::at(DVec3::Z * 10.0),
///     ..still
/// };
/// let spans = sweep(&still, &thrown);
/// assert!((spans[0].start - (10.0 - 0.055) / 20.0).abs() < 1e-12);
/// assert!((spans[0].end - (10.0 + 0.055) / 20.0).abs() < 1e-12);
/// # Ok::<(), hazuro::geometry::ShapeError>(())
/// ```
pub fn sweep(a: &Glide<'_>, b: &Glide<'_>) -> SmallVec<[Overlap; 2]> {
    let swing = a.swing(b) + b.swing(a);
    if swing > 0.0 {
        sweep_turning(a, b, swing)
    } else {
        sweep_straight(a, b).into_iter().collect()
    }
}

/// When two gliding shapes are nearest: the fraction of the movement, and the gap then; not above
/// 0 if they overlap, but it need not say how deep.
///
/// Exact for shapes that do not turn; for shapes that do, the best of a fine sampling.
pub fn closest_approach(a: &Glide<'_>, b: &Glide<'_>) -> (f64, f64) {
    const SAMPLES: usize = 32;
    const INVERSE_GOLDEN: f64 = 0.618_033_988_749_894_9;
    let gap = |s: f64| gap(a.shape, &a.at(s), b.shape, &b.at(s));
    let step = 1.0 / SAMPLES as f64;
    let best = (0..=SAMPLES).map(|i| i as f64 * step).map(|s| (s, gap(s))).fold(
        (0.0, f64::INFINITY),
        |best, next| {
            if next.1 < best.1 { next } else { best }
        },
    );
    // Golden-section search between the neighbours of the best sample.
    let (mut low, mut high) = ((best.0 - step).max(0.0), (best.0 + step).min(1.0));
    for _ in 0..60 {
        let width = high - low;
        let (left, right) = (high - INVERSE_GOLDEN * width, low + INVERSE_GOLDEN * width);
        if gap(left) <= gap(right) {
            high = right;
        } else {
            low = left;
        }
    }
    let refined = f64::midpoint(low, high);
    let refined = (refined, gap(refined));
    if refined.1 < best.1 { refined } else { best }
}

fn sweep_straight(a: &Glide<'_>, b: &Glide<'_>) -> Option<Overlap> {
    let (pose_a, pose_b) = (a.from * a.offset, b.from * b.offset);
    let pair = Pair::new(a.shape, &pose_a, b.shape, &pose_b);
    let travel = (b.to.position - b.from.position) - (a.to.position - a.from.position);
    let line = Line { pair, start: pose_b.position - pose_a.position, travel };
    let start = line.first_contact(0.0, 1.0)?;
    let end = line.first_contact(1.0, -1.0).unwrap_or(start);
    Some(Overlap { start, end: end.max(start) })
}

/// Two shapes of which the second moves along a line relative to the first.
struct Line<'a> {
    pair: Pair<'a>,
    start: DVec3,
    travel: DVec3,
}

impl Line<'_> {
    /// The first fraction at which the shapes touch, going from the end `s` in `direction` (1 or -1).
    fn first_contact(&self, mut s: f64, direction: f64) -> Option<f64> {
        const MAX_STEPS: usize = 100;
        let travel = self.travel * direction;
        let radius = self.pair.radius();
        for step in 0..MAX_STEPS {
            let cores = self.pair.core_distance(self.start + self.travel * s);
            let gap = cores.gap - radius;
            // Seeking the root itself, not the edge of the tolerance, makes the answer the same
            // wherever the movement was cut into ticks.
            let reached = if step == 0 { gap <= TOUCH } else { gap <= f64::EPSILON * radius };
            if reached {
                return Some(s);
            }
            let slope = cores.normal.dot(travel);
            let next = s - gap / slope * direction;
            if slope >= 0.0 || next == s {
                return (gap <= TOUCH).then_some(s);
            }
            if !(0.0..=1.0).contains(&next) {
                return (gap <= TOUCH).then_some(s);
            }
            s = next;
        }
        None
    }
}
