//! When two moving shapes overlap of which at least one turns.
//!
//! The gap between them changes no faster than the fastest point moves, so the search steps by gap
//! over speed and never steps over a root that lies deeper than [`TURNING_TOLERANCE`]; each root
//! found is then narrowed down by bisection. This is conservative advancement: B. Mirtich,
//! *Impulse-based Dynamic Simulation of Rigid Body Systems*, `PhD` thesis, University of
//! California, 1996.
//!
//! Shapes that nearly touch take many such steps, and nearly all of them would find what the step
//! before them found. So each step first tries what told the shapes apart, or together, last time:
//! a plane that separates them, or a point that both hold. Either is proof enough, and costs far
//! less than the distance.

use glam::DVec3;
use smallvec::SmallVec;

use super::distance::Pair;
use super::glide::{Glide, Overlap};
use super::{Pose, TOUCH, TURNING_TOLERANCE, distance, gap};

/// No sweep of turning shapes takes more steps: of shapes so large, or turning so far, that it
/// would, contacts of up to this share of the farthest point's way may go unseen.
const MOST_STEPS: f64 = 1024.0;

/// A proof that goes on counts until what it shows has shrunk to this share of what it showed
/// at first: then the shapes are looked at anew, for one that allows longer steps.
const FRESH: f64 = 0.5;

/// How deep the shapes lie in one another is worked out only if what is known for less allows no
/// step of this many of the shortest.
const WORTH_DEPTH: f64 = 8.0;

/// The most looks that go without it after it was not worth it.
const MOST_PATIENCE: u32 = 63;

/// What showed last that two shapes are apart, or together.
#[derive(Clone, Copy, Debug)]
enum Proof {
    /// All of the first lies on this side of a plane across this direction, all of the second beyond.
    Plane(DVec3),
    /// Both hold this point, given in the frame of the first shape.
    PointOfFirst(DVec3),
    /// Both hold this point, given in the frame of the second shape.
    PointOfSecond(DVec3),
}

/// Two gliding shapes, and how fast the gap between them may change.
struct Search<'a> {
    a: &'a Glide<'a>,
    b: &'a Glide<'a>,
    /// In metres for the whole movement.
    speed: f64,
    /// The shortest step, as a fraction of the movement.
    least: f64,
    /// The last proof, and what it showed when it was fresh, in metres.
    proof: Option<(Proof, f64)>,
    /// How many more looks go without working out how deep the shapes lie in one another, and how many
    /// will after the next time that it is not worth it.
    pause: u32,
    patience: u32,
}

/// All spans of overlap; `swing` is how far the farthest point of either moves by turning.
pub(super) fn sweep_turning<'a>(
    a: &'a Glide<'a>,
    b: &'a Glide<'a>,
    swing: f64,
) -> SmallVec<[Overlap; 2]> {
    let slide = (b.to.position - b.from.position) - (a.to.position - a.from.position);
    let speed = slide.length() + swing;
    let least = TURNING_TOLERANCE.max(speed / MOST_STEPS) / speed;
    let mut search = Search { a, b, speed, least, proof: None, pause: 0, patience: 0 };
    let mut spans = SmallVec::new();
    let (mut s, mut here) = (0.0, search.margin(0.0));
    let mut entered = (here <= TOUCH).then_some(0.0);
    while s < 1.0 {
        let next = (s + (here.abs() / speed).max(least)).min(1.0);
        let there = search.margin(next);
        match entered {
            None if there <= TOUCH => entered = Some(search.crossing(next, s)),
            Some(start) if there > TOUCH => {
                spans.push(Overlap { start, end: search.crossing(s, next) });
                entered = None;
            }
            _ => {}
        }
        (s, here) = (next, there);
    }
    if let Some(start) = entered {
        spans.push(Overlap { start, end: 1.0 });
    }
    spans
}

impl Search<'_> {
    /// Above [`TOUCH`]: the shapes are apart by at least as much. Otherwise they touch, and below 0
    /// they lie at least so deep in one another.
    fn margin(&mut self, s: f64) -> f64 {
        let poses = (self.a.at(s), self.b.at(s));
        if let Some((proof, fresh)) = self.proof {
            let shown = self.shown(proof, &poses);
            if shown.abs() >= fresh * FRESH {
                self.proof = Some((proof, fresh.max(shown.abs())));
                return shown;
            }
        }
        let (shown, proof) = self.look(&poses);
        self.proof = proof.map(|(proof, shown)| (proof, shown.abs()));
        shown
    }

    /// What a proof shows by now, as [`margin`](Self::margin) has it; 0 for nothing.
    fn shown(&self, proof: Proof, (at_a, at_b): &(Pose, Pose)) -> f64 {
        match proof {
            Proof::Plane(normal) => {
                let (first, second) =
                    (self.a.shape.support(at_a, normal), self.b.shape.support(at_b, -normal));
                let apart = (second - first).dot(normal);
                if apart > TOUCH { apart } else { 0.0 }
            }
            Proof::PointOfFirst(point) => -self.b.shape.depth(at_b, at_a.point(point)),
            Proof::PointOfSecond(point) => -self.a.shape.depth(at_a, at_b.point(point)),
        }
    }

    /// The margin from the shapes themselves, and what proves how much of it.
    fn look(&mut self, poses: &(Pose, Pose)) -> (f64, Option<(Proof, f64)>) {
        let (at_a, at_b) = poses;
        let enough = -self.least * self.speed * WORTH_DEPTH;
        let centres = [Proof::PointOfFirst(DVec3::ZERO), Proof::PointOfSecond(DVec3::ZERO)];
        let centre = self.best(centres, poses);
        if let Some((_, shown)) = centre
            && shown < enough
        {
            return (shown, centre);
        }
        let pair = Pair::new(self.a.shape, at_a, self.b.shape, at_b);
        let cores = pair.core_distance(at_b.position - at_a.position);
        let gap = cores.gap - pair.radius();
        if gap > TOUCH {
            return (gap, Some((Proof::Plane(cores.normal), gap)));
        }
        // Where cores overlap, the points nearest to one another are one, somewhere in both.
        let aside = cores.normal * (self.a.shape.radius() - self.b.shape.radius()) / 2.0;
        let proof = self.common(at_a.position + cores.on_a.midpoint(cores.on_b) + aside, poses);
        let shown = proof.map_or(gap, |(_, shown)| shown.min(gap));
        if shown < enough || cores.gap > TOUCH || self.pause > 0 {
            self.pause = self.pause.saturating_sub(1);
            return (shown, proof);
        }
        let deep = distance(self.a.shape, at_a, self.b.shape, at_b);
        self.patience =
            if deep.gap < enough { 0 } else { (2 * self.patience + 1).min(MOST_PATIENCE) };
        self.pause = self.patience;
        // The deepest point of either lies in both, and so does what is between; but where the round
        // edges of cylinders and cones decide, they are only nearly found.
        let proof = self.common(deep.on_a.midpoint(deep.on_b), poses).or(proof);
        (deep.gap.min(shown), proof)
    }

    /// That both hold this point, if it proves anything.
    fn common(&self, point: DVec3, poses: &(Pose, Pose)) -> Option<(Proof, f64)> {
        let (in_a, in_b) = (poses.0.inverse().point(point), poses.1.inverse().point(point));
        let held = |held: bool, proof: Proof| held.then_some(proof);
        let proofs = [
            held(self.a.shape.holds(in_a), Proof::PointOfFirst(in_a)),
            held(self.b.shape.holds(in_b), Proof::PointOfSecond(in_b)),
        ];
        self.best(proofs.into_iter().flatten(), poses)
    }

    /// The proof of togetherness that shows most, if any shows anything.
    fn best(
        &self,
        proofs: impl IntoIterator<Item = Proof>,
        poses: &(Pose, Pose),
    ) -> Option<(Proof, f64)> {
        let shown = proofs.into_iter().map(|proof| (proof, self.shown(proof, poses)));
        shown.filter(|(_, shown)| *shown < 0.0).min_by(|one, other| one.1.total_cmp(&other.1))
    }

    /// The fraction between `inside` (touching) and `outside` (not) at which contact begins or ends.
    fn crossing(&self, mut inside: f64, mut outside: f64) -> f64 {
        for _ in 0..60 {
            let middle = f64::midpoint(inside, outside);
            if middle == inside || middle == outside {
                break;
            }
            if gap(self.a.shape, &self.a.at(middle), self.b.shape, &self.b.at(middle)) <= TOUCH {
                inside = middle;
            } else {
                outside = middle;
            }
        }
        inside
    }
}
