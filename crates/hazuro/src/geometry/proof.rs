//! What proves that two shapes are apart, or that they touch: a plane between them, or a point that both hold.
//!
//! Where it is tried again later it costs far less than the distance. Between two moments at which it holds,
//! what it shows is known well: points that go round bend off a straight way by no more than the square of
//! the angle tells, so it can have sunk only so far below the straight line between what it shows at the one
//! and at the other.

use glam::DVec3;

use super::distance::Pair;
use super::glide::Glide;
use super::{Convex, Pose, TOUCH, distance, gap};

/// What shows that two shapes are apart, or that they touch.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Proof {
    /// All of the first lies on this side of a plane across this direction, all of the second beyond.
    Plane(DVec3),
    /// Both hold this point, given in the frame of the first shape.
    PointOfFirst(DVec3),
    /// Both hold this point, given in the frame of the second shape.
    PointOfSecond(DVec3),
}

impl Proof {
    /// Whether it shows that they touch.
    pub fn is_contact(self) -> bool {
        !matches!(self, Self::Plane(_))
    }

    /// What shows so much of this as a margin: above nothing if they are apart, below if they touch.
    pub(super) fn margin(self, shown: f64) -> f64 {
        if self.is_contact() { -shown } else { shown }
    }

    /// How far what it shows bends off a straight line while two shapes glide, as a second derivative by the
    /// share of the whole movement, in metres; at `s` of it, for points, and not much before or after.
    pub(super) fn bend(self, a: &Glide<'_>, b: &Glide<'_>, s: f64) -> f64 {
        let (point, of, other) = match self {
            Self::Plane(_) => return a.bend(b) + b.bend(a),
            Self::PointOfFirst(point) => (point, a, b),
            Self::PointOfSecond(point) => (point, b, a),
        };
        let arm = of.offset.point(point).length();
        let (angle, turned) = (of.from.angle_to(&of.to), other.from.angle_to(&other.to));
        let own = angle * angle * arm;
        if turned == 0.0 {
            return own;
        }
        // Seen from what turns, what is far from its centre bends more, and more the faster it goes.
        let slide = |one: &Glide<'_>| one.to.position - one.from.position;
        let speed = (slide(of) - slide(other)).length() + angle * arm;
        let away = of.at(s).point(point).distance(other.from.towards(&other.to, s).position);
        own + turned * (turned * (away + speed) + 2.0 * speed)
    }

    /// The best proof where two shapes begin to glide, if there is any.
    pub fn find(a: &Glide<'_>, b: &Glide<'_>) -> Option<Self> {
        let both = Both::at(a, b, 0.0);
        let found = both.look(f64::INFINITY);
        let found =
            if found.may_be_deeper { both.deepest().proof.or(found.proof) } else { found.proof };
        found.map(|(proof, _)| proof)
    }

    /// What it shows where two shapes begin to glide, in metres, and the least that it shows on the way.
    pub fn on_the_way(self, a: &Glide<'_>, b: &Glide<'_>) -> (f64, f64) {
        let [first, last] = [0.0, 1.0].map(|s| Both::at(a, b, s).measure(self));
        (first, least_between(first, last, self.bend(a, b, 0.0)))
    }
}

/// The least that something can be between two moments at which it is as much as given, if from the
/// straight line between these it bends at no more than `bend`, a second derivative by the share of the
/// time between.
pub(super) fn least_between(first: f64, last: f64, bend: f64) -> f64 {
    let slope = last - first;
    // The lowest curve through both is a parabola; its foot may lie beside the time between.
    let foot = if bend > 0.0 { (0.5 - slope / bend).clamp(0.0, 1.0) } else { 0.0 };
    let sunk = bend * foot * (1.0 - foot) / 2.0;
    (first + slope * foot - sunk).min(first).min(last)
}

/// Two shapes at one moment.
pub(super) struct Both<'a> {
    a: (&'a Convex, Pose),
    b: (&'a Convex, Pose),
}

/// What is known of two shapes: above [`TOUCH`] they are apart by at least the margin, otherwise they touch,
/// and below 0 they lie at least so deep in one another.
pub(super) struct Found {
    pub margin: f64,
    /// What proves it, and how much.
    pub proof: Option<(Proof, f64)>,
    /// Whether they touch and may lie deeper in one another than it says.
    pub may_be_deeper: bool,
}

impl<'a> Both<'a> {
    /// Two shapes on their way.
    pub fn at(a: &Glide<'a>, b: &Glide<'a>, s: f64) -> Self {
        Self { a: (a.shape, a.at(s)), b: (b.shape, b.at(s)) }
    }

    /// The gap between them, see [`gap`].
    pub fn gap(&self) -> f64 {
        gap(self.a.0, &self.a.1, self.b.0, &self.b.1)
    }

    /// The gap between two that are apart, and the plane across it.
    pub fn plane(&self) -> (f64, Proof) {
        let pair = Pair::new(self.a.0, &self.a.1, self.b.0, &self.b.1);
        let cores = pair.core_distance(self.b.1.position - self.a.1.position);
        (cores.gap - pair.radius(), Proof::Plane(cores.normal))
    }

    /// How much a proof shows, in metres; nothing or less if it shows nothing.
    pub fn measure(&self, proof: Proof) -> f64 {
        let ((a, at_a), (b, at_b)) = (&self.a, &self.b);
        match proof {
            Proof::Plane(normal) => {
                (b.support(at_b, -normal) - a.support(at_a, normal)).dot(normal)
            }
            Proof::PointOfFirst(point) => b.depth(at_b, at_a.point(point)),
            Proof::PointOfSecond(point) => a.depth(at_a, at_b.point(point)),
        }
    }

    /// The margin; if one of their centres lies deeper than `enough` in the other, that is all that is asked.
    pub fn look(&self, enough: f64) -> Found {
        let ((a, at_a), (b, at_b)) = (&self.a, &self.b);
        let centre =
            self.best([Proof::PointOfFirst(DVec3::ZERO), Proof::PointOfSecond(DVec3::ZERO)]);
        if let Some((_, deep)) = centre
            && deep > enough
        {
            return Found { margin: -deep, proof: centre, may_be_deeper: false };
        }
        let pair = Pair::new(a, at_a, b, at_b);
        let cores = pair.core_distance(at_b.position - at_a.position);
        let gap = cores.gap - pair.radius();
        if gap > TOUCH {
            let proof = Some((Proof::Plane(cores.normal), gap));
            return Found { margin: gap, proof, may_be_deeper: false };
        }
        // Where cores overlap, the points nearest to one another are one, somewhere in both.
        let aside = cores.normal * (a.radius() - b.radius()) / 2.0;
        let proof = self.common(at_a.position + cores.on_a.midpoint(cores.on_b) + aside);
        let margin = proof.map_or(gap, |(_, deep)| gap.min(-deep));
        Found { margin, proof, may_be_deeper: cores.gap <= TOUCH }
    }

    /// How deep they lie in one another.
    pub fn deepest(&self) -> Found {
        let ((a, at_a), (b, at_b)) = (&self.a, &self.b);
        let deep = distance(a, at_a, b, at_b);
        // The deepest point of either lies in both, and so does what is between; but where the round
        // edges of cylinders and cones decide, they are only nearly found.
        let proof = self.common(deep.on_a.midpoint(deep.on_b));
        Found { margin: deep.gap, proof, may_be_deeper: false }
    }

    /// That both hold this point, if it proves anything.
    fn common(&self, point: DVec3) -> Option<(Proof, f64)> {
        let (in_a, in_b) = (self.a.1.inverse().point(point), self.b.1.inverse().point(point));
        let held = |held: bool, proof: Proof| held.then_some(proof);
        let proofs = [
            held(self.a.0.holds(in_a), Proof::PointOfFirst(in_a)),
            held(self.b.0.holds(in_b), Proof::PointOfSecond(in_b)),
        ];
        self.best(proofs.into_iter().flatten())
    }

    /// The proof of contact that shows most, if any shows anything.
    fn best(&self, proofs: impl IntoIterator<Item = Proof>) -> Option<(Proof, f64)> {
        let shown = proofs.into_iter().map(|proof| (proof, self.measure(proof)));
        shown.filter(|(_, deep)| *deep > 0.0).max_by(|one, other| one.1.total_cmp(&other.1))
    }
}
