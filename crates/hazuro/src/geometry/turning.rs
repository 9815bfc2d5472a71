//! When two moving shapes overlap of which at least one turns.
//!
//! The gap between them changes no faster than the fastest point moves, so the search steps by gap
//! over speed and never steps over a root that lies deeper than [`TURNING_TOLERANCE`]; each root
//! found is then narrowed down. This is conservative advancement: B. Mirtich,
//! *Impulse-based Dynamic Simulation of Rigid Body Systems*, `PhD` thesis, University of
//! California, 1996.
//!
//! Shapes that nearly touch take many such steps, and nearly all of them would find what the step
//! before them found. So each step first tries what told the shapes apart, or together, last time:
//! a plane that separates them, or a point that both hold. Either is proof enough, and costs far
//! less than the distance.
//!
//! What a [`Proof`] shows is known better than by a speed. If between two moments it cannot have sunk to
//! nothing, it has held all the time, and one step goes from the one moment to the other.

use smallvec::SmallVec;

use super::glide::{Glide, Overlap};
use super::proof::{Both, Proof, least_between};
use super::{TOUCH, TURNING_TOLERANCE};

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

/// How often a longer step is tried than the careful one.
const TRIES: u32 = 3;

/// How near to where a plane would give out, going on evenly, a longer step is tried, as a share of the
/// way there.
const NEARLY: f64 = 0.95;

/// A plane between shapes that are nearer to one another than this, in metres, is not known well.
const NEAR: f64 = 1e-7;

/// How exactly the gap itself is known, in metres: where contact begins or ends is not known better than
/// by what moves as far.
const EXACT: f64 = 1e-14;

/// Nor to less than this share of the movement.
const FINEST: f64 = 1e-15;

/// Far more rounds than that takes; a bound, not a setting.
const MOST_ROUNDS: u32 = 64;

/// A proof, and how much it shows: metres apart, or together.
#[derive(Clone, Copy, Debug)]
struct Shown {
    proof: Proof,
    /// At the moment that the search has come to.
    now: f64,
    /// When it was fresh.
    fresh: f64,
}

/// Two gliding shapes, and how fast the gap between them may change.
struct Search<'a> {
    a: &'a Glide<'a>,
    b: &'a Glide<'a>,
    /// In metres for the whole movement.
    speed: f64,
    /// The shortest step, as a fraction of the movement.
    least: f64,
    /// The last proof.
    proof: Option<Shown>,
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
    let mut last: Option<Last> = None;
    while s < 1.0 {
        if let Some(start) = entered {
            let last = *last.get_or_insert_with(|| search.last(s, here));
            if s >= last.start {
                spans.push(Overlap { start, end: last.end });
                return spans;
            }
        }
        let (next, there) = search.step(s, here, 1.0);
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

/// A span during which the shapes touch, and after which they never do.
#[derive(Clone, Copy, Debug)]
struct Last {
    /// Whenever it may have begun, from here on they touch.
    start: f64,
    end: f64,
}

impl Search<'_> {
    /// The next moment on the way from `s`, where the margin is `here`, towards `end`, and the margin then:
    /// they touch all the time between, or never, but for contacts of less than the tolerance.
    fn step(&mut self, s: f64, here: f64, end: f64) -> (f64, f64) {
        let careful = (here.abs() / self.speed).max(self.least);
        if careful >= (end - s).abs() {
            return (end, self.margin(end));
        }
        let next = s + careful.copysign(end - s);
        self.longer(s, careful, end).unwrap_or_else(|| (next, self.margin(next)))
    }

    /// A step longer than the careful one, if the last proof holds all the time.
    fn longer(&mut self, s: f64, careful: f64, end: f64) -> Option<(f64, f64)> {
        let stale = self.proof.is_some_and(|it| it.now < it.fresh * FRESH);
        if stale {
            self.renew(s);
        }
        let Shown { proof, now, fresh } = self.proof?;
        let mut next = end;
        for _ in 0..TRIES {
            let then = self.at(next).measure(proof);
            let bend = proof.bend(self.a, self.b, s) * (next - s).powi(2);
            if least_between(now, then, bend) > TOUCH {
                self.proof = Some(Shown { proof, now: then, fresh: fresh.max(then) });
                return Some((next, proof.margin(then)));
            }
            // Of a point outside it is not known how far it is.
            let holds = if then < 0.0 { now / (now - then) * NEARLY } else { 0.5 };
            next = s + (next - s) * holds;
            if (next - s).abs() <= careful {
                break;
            }
        }
        None
    }

    /// The last span, if the shapes touch at `s`, where the margin is `here`. Shapes that part are found
    /// sooner from the end of the movement: while they are apart, a plane shows it for long.
    fn last(&mut self, s: f64, here: f64) -> Last {
        let known = self.proof;
        if let (next @ 1.0, _) = self.step(s, here, 1.0)
            && self.proof.is_some_and(|shown| !matches!(shown.proof, Proof::Plane(_)))
        {
            self.proof = known;
            return Last { start: s, end: next };
        }
        self.proof = None;
        let (mut end, mut margin) = (1.0, self.margin(1.0));
        let mut inside = end;
        while margin > TOUCH {
            let (next, there) = self.step(end, margin, s);
            if there <= TOUCH || next == s {
                end = self.crossing(next, end);
                inside = (end - self.least).max(s);
                self.pause = 0;
                margin = self.renew(inside);
                break;
            }
            (end, margin) = (next, there);
        }
        let touches = margin <= TOUCH && inside > s;
        let start = if touches { self.longer(inside, self.least, s) } else { None };
        self.proof = known;
        Last { start: start.map_or(inside, |(start, _)| start), end }
    }

    fn at(&self, s: f64) -> Both<'_> {
        Both::at(self.a, self.b, s)
    }

    /// Above [`TOUCH`]: the shapes are apart by at least as much. Otherwise they touch, and below 0
    /// they lie at least so deep in one another.
    fn margin(&mut self, s: f64) -> f64 {
        if let Some(Shown { proof, fresh, .. }) = self.proof {
            let now = self.at(s).measure(proof);
            if now > TOUCH && now >= fresh * FRESH {
                self.proof = Some(Shown { proof, now, fresh: fresh.max(now) });
                return proof.margin(now);
            }
        }
        self.renew(s)
    }

    /// The margin from the shapes themselves, which is what is known from then on.
    fn renew(&mut self, s: f64) -> f64 {
        let (margin, proof) = self.look(s);
        self.proof = proof.map(|(proof, now)| Shown { proof, now, fresh: now });
        margin
    }

    /// The margin from the shapes themselves, and what proves how much of it.
    fn look(&mut self, s: f64) -> (f64, Option<(Proof, f64)>) {
        let both = Both::at(self.a, self.b, s);
        let enough = self.least * self.speed * WORTH_DEPTH;
        let found = both.look(enough);
        if found.margin < -enough || !found.may_be_deeper || self.pause > 0 {
            self.pause = self.pause.saturating_sub(u32::from(found.may_be_deeper));
            return (found.margin, found.proof);
        }
        let deep = both.deepest();
        self.patience =
            if deep.margin < -enough { 0 } else { (2 * self.patience + 1).min(MOST_PATIENCE) };
        self.pause = self.patience;
        (deep.margin.min(found.margin), deep.proof.or(found.proof))
    }

    /// The fraction between `inside` (touching) and `outside` (not) at which contact begins or ends.
    ///
    /// The plane that parts the shapes at `outside` gives out no later than they touch, and soon before
    /// that: around this moment both sides are tried, at a distance by which it errs. Near to contact the
    /// plane is not known well enough, but the gap is even.
    fn crossing(&self, mut inside: f64, mut outside: f64) -> f64 {
        let near = NEAR / self.speed;
        for _ in 0..MOST_ROUNDS {
            let width = (inside - outside).abs();
            if width <= near {
                break;
            }
            let estimate = self.estimate(outside, inside);
            let aside = (width * width / 4.0).max(near / 4.0).copysign(inside - outside);
            self.narrow(&mut inside, &mut outside, estimate + aside);
            self.narrow(&mut inside, &mut outside, estimate - aside);
            if (inside - outside).abs() > width / 2.0 {
                let halfway = f64::midpoint(inside, outside);
                self.narrow(&mut inside, &mut outside, halfway);
            }
        }
        self.contact(inside, outside)
    }

    /// The same where the two are near to one another, by the method of false position as amended at the
    /// University of Illinois: M. Dowell, P. Jarratt, "A modified regula falsi method for computing the
    /// root of an equation", BIT 11, 1971.
    fn contact(&self, mut inside: f64, mut outside: f64) -> f64 {
        let exact = (EXACT / self.speed).max(FINEST);
        let (mut under, mut over) = (self.excess(inside), self.excess(outside));
        let mut was_inside = None;
        for _ in 0..MOST_ROUNDS {
            let width = outside - inside;
            if width.abs() <= exact || under >= 0.0 {
                break;
            }
            let moment = inside + width * (under / (under - over));
            if moment == inside || moment == outside {
                break;
            }
            let excess = self.excess(moment);
            let is_inside = excess <= 0.0;
            let again = was_inside.replace(is_inside) == Some(is_inside);
            if is_inside {
                (inside, under) = (moment, excess);
                over *= if again { 0.5 } else { 1.0 };
            } else {
                (outside, over) = (moment, excess);
                under *= if again { 0.5 } else { 1.0 };
            }
        }
        inside
    }

    /// By how much the gap is more than that of shapes that touch.
    fn excess(&self, moment: f64) -> f64 {
        self.at(moment).gap() - TOUCH
    }

    /// Finds out on which side of the contact a moment between two is.
    fn narrow(&self, inside: &mut f64, outside: &mut f64, moment: f64) {
        if moment <= inside.min(*outside) || moment >= inside.max(*outside) {
            return;
        }
        *(if self.excess(moment) <= 0.0 { inside } else { outside }) = moment;
    }

    /// When the plane that parts the shapes at `outside` gives out, going on evenly.
    fn estimate(&self, outside: f64, inside: f64) -> f64 {
        let (gap, plane) = self.at(outside).plane();
        let (left, then) = (gap - TOUCH, self.at(inside).measure(plane) - TOUCH);
        let share = if then < left { (left / (left - then)).clamp(0.0, 1.0) } else { 0.5 };
        outside + (inside - outside) * share
    }
}
