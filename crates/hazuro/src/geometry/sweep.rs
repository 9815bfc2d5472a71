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
    if a.swing(b) + b.swing(a) > 0.0 { closest_turning(a, b) } else { closest_straight(a, b) }
}

/// Where the gap is least of shapes that do not turn. It is convex in time, so it lies above each
/// of its tangents: where those at either side of the least meet, it is tried next.
///
/// Source: J. E. Kelley, "The cutting-plane method for solving convex programs", 1960.
fn closest_straight(a: &Glide<'_>, b: &Glide<'_>) -> (f64, f64) {
    const MAX_STEPS: usize = 64;
    /// Nearer than this to the least, in metres, nothing is gained.
    const CLOSE: f64 = 1e-10;
    let line = Line::of(a, b);
    let [mut low, mut high] = [0.0, 1.0].map(|s| line.tangent(s));
    // At either end: it is inside there, or goes away from there on.
    if low.gap <= 0.0 || low.slope >= 0.0 {
        return (low.at, low.gap);
    }
    if high.gap <= 0.0 || high.slope <= 0.0 {
        return (high.at, high.gap);
    }
    let mut best = if high.gap < low.gap { high } else { low };
    for _ in 0..MAX_STEPS {
        let at = (high.gap - low.gap + low.slope * low.at - high.slope * high.at)
            / (low.slope - high.slope);
        let bound = low.gap + low.slope * (at - low.at);
        if best.gap - bound <= CLOSE || !(low.at < at && at < high.at) {
            break;
        }
        let next = line.tangent(at);
        if next.gap < best.gap {
            best = next;
        }
        if next.gap <= 0.0 || next.slope == 0.0 {
            break;
        }
        *(if next.slope < 0.0 { &mut low } else { &mut high }) = next;
    }
    (best.at, best.gap)
}

/// The best of a fine sampling, and what is nearest beside it.
fn closest_turning(a: &Glide<'_>, b: &Glide<'_>) -> (f64, f64) {
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
    let line = Line::of(a, b);
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

/// The gap at a fraction of the movement, and how it changes there.
#[derive(Clone, Copy)]
struct Tangent {
    at: f64,
    gap: f64,
    slope: f64,
}

impl<'a> Line<'a> {
    fn of(a: &Glide<'a>, b: &Glide<'a>) -> Self {
        let (pose_a, pose_b) = (a.from * a.offset, b.from * b.offset);
        let pair = Pair::new(a.shape, &pose_a, b.shape, &pose_b);
        let travel = (b.to.position - b.from.position) - (a.to.position - a.from.position);
        Self { pair, start: pose_b.position - pose_a.position, travel }
    }

    fn tangent(&self, at: f64) -> Tangent {
        let cores = self.pair.core_distance(self.start + self.travel * at);
        Tangent { at, gap: cores.gap - self.pair.radius(), slope: cores.normal.dot(self.travel) }
    }

    /// The first fraction at which the shapes touch, going from the end `s` in `direction` (1 or -1).
    fn first_contact(&self, mut s: f64, direction: f64) -> Option<f64> {
        const MAX_STEPS: usize = 100;
        let travel = self.travel * direction;
        let radius = self.pair.radius();
        let mut gap = f64::INFINITY;
        for step in 0..MAX_STEPS {
            let offset = self.start + self.travel * s;
            let cores = self.pair.core_distance(offset);
            gap = cores.gap - radius;
            // Seeking the root itself, not the edge of the tolerance, makes the answer the same
            // wherever the movement was cut into ticks. What is left for rounding: cores that just touch
            // may seem apart by as much, in whatever direction.
            let rounding = 4.0 * f64::EPSILON * (radius + offset.length());
            let reached = if step == 0 { gap <= TOUCH } else { gap <= rounding };
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
        (gap <= TOUCH).then_some(s)
    }
}
