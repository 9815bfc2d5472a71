//! Where a body may be without anything beginning or ceasing to detect it.
//!
//! A body that a host moves by small steps knows the zones around it, and from their bounds and its own
//! how far it may go along each axis: a box, its leeway. A step that ends in there is not looked at, and
//! costs next to nothing. A turn is allowed for as far as the body needs no other bounds for it, or by
//! how far it may carry a point of it.

use std::f64::consts::FRAC_1_SQRT_2;
use std::f64::consts::PI;

use glam::{DQuat, DVec3};
use smallvec::SmallVec;

use crate::describe::{Detector, EntityId};
use crate::geometry::tree::Bounds;
use crate::geometry::{Aabb, Pose, Proof, TOUCH};
use crate::model::BodySpec;

/// How far from the middle of its surroundings a body may go, along each axis, in metres.
pub(super) const RANGE: f64 = 3.0;
/// How far ahead of a body that middle is.
const AHEAD: f64 = 2.0;
/// What is left at each boundary for rounding, in metres.
pub(super) const HAIR: f64 = 4.0 * TOUCH;
/// How much of a leeway that is a part of a ball lies aside of the way, as a share of what lies along it.
const ASIDE: f64 = 0.15;
/// No angle is more than this times the distance between the rotations as quaternions.
const ARC: f64 = PI * FRAC_1_SQRT_2;

/// One step.
#[derive(Clone, Debug)]
pub(super) struct Step {
    pub from: Pose,
    pub to: Pose,
    /// How far it carries any point of the body at most, in metres.
    pub length: f64,
}

/// What turns there are; each holds the ones before it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Turns {
    None,
    /// About Y, of what is upright.
    Upright,
    Any,
}

impl Turns {
    fn between(from: DQuat, to: DQuat) -> Self {
        let is_upright = |turned: DQuat| turned.x == 0.0 && turned.z == 0.0;
        if from == to {
            Self::None
        } else if is_upright(from) && is_upright(to) {
            Self::Upright
        } else {
            Self::Any
        }
    }
}

/// Where a body may be told to be without being looked at.
#[derive(Clone, Copy, Debug)]
struct Leeway {
    low: [f32; 3],
    high: [f32; 3],
    /// How it may turn.
    turns: Turns,
    /// How far turns may still carry a point of it, in metres.
    turn: f32,
    /// How far a turn carries a point of it at most, in metres for each radian.
    carry: f32,
}

impl Leeway {
    const NONE: Self = Self {
        low: [f32::INFINITY; 3],
        high: [f32::NEG_INFINITY; 3],
        turns: Turns::None,
        turn: 0.0,
        carry: 0.0,
    };

    fn holds(&self, place: DVec3) -> bool {
        let at = place.to_array();
        (0..3).all(|axis| {
            f64::from(self.low[axis]) < at[axis] && at[axis] < f64::from(self.high[axis])
        })
    }

    /// Takes a turn, if it is allowed.
    fn turn(&mut self, from: DQuat, to: DQuat) -> bool {
        if Turns::between(from, to) > self.turns {
            return false;
        }
        if self.turn == f32::INFINITY || from == to {
            return true;
        }
        let apart = (from - to).length() * ARC;
        self.turn -= up((apart * f64::from(self.carry)) as f32);
        self.turn > 0.0
    }
}

/// The next single above one that is not negative, or nearly so.
fn up(value: f32) -> f32 {
    value * (1.0 + 2.0 * f32::EPSILON) + f32::MIN_POSITIVE
}

/// A zone or touch detector near a body.
#[derive(Clone, Copy, Debug)]
pub(super) struct Near {
    pub on: EntityId,
    pub detector: Detector,
    /// Whether it stands still.
    pub still: bool,
    /// Whether it fills its bounds.
    pub fills: bool,
    /// Whether the body, or any part of it, is detected.
    pub inside: bool,
    /// Outside of these it detects nothing.
    pub bounds: Bounds,
    /// What showed last on which side of its boundary the body is. It is tried before anything else, and
    /// proves nothing by being kept.
    pub proof: Option<Proof>,
}

/// What is around a body.
#[derive(Clone, Debug, Default)]
pub(super) struct Surroundings {
    known: bool,
    middle: DVec3,
    /// How far the body reaches.
    reach: f64,
    pub near: SmallVec<[Near; 4]>,
    /// Whether anything asked in rounds may notice it there, and after how many moves of their reaches that was
    /// found.
    noticed: Option<(u64, bool)>,
}

impl Surroundings {
    /// Whether a step stays in there.
    pub fn hold(&self, step: &Step) -> bool {
        let holds = |pose: &Pose| (pose.position - self.middle).abs().max_element() < RANGE;
        self.known && holds(&step.from) && holds(&step.to)
    }

    /// Begins anew for a body that reaches so far and makes a step; the zones are left to the caller.
    pub fn begin(&mut self, step: &Step, reach: f64) {
        let way = step.to.position - step.from.position;
        (self.known, self.noticed, self.reach) = (true, None, reach);
        self.middle = step.from.position + way.normalize_or_zero() * AHEAD;
        self.near.clear();
    }

    /// The bounds of the body wherever it is in there.
    pub fn bounds(&self) -> Aabb {
        Aabb::around(self.middle, DVec3::splat(RANGE + self.reach + HAIR))
    }

    /// Whether it may be noticed by what is asked in rounds, whose reaches have moved so often;
    /// `ask` finds out.
    pub fn is_noticed(&mut self, moves: u64, ask: impl FnOnce(&Aabb) -> bool) -> bool {
        match self.noticed {
            Some((known, noticed)) if known == moves => noticed,
            _ => {
                let noticed = ask(&self.bounds());
                self.noticed = Some((moves, noticed));
                noticed
            }
        }
    }
}

/// Of all bodies in the lane, by their places in it, what is around them and what leeway they have. None
/// of it is part of a state, and what happens does not depend on it.
#[derive(Clone, Debug, Default)]
pub(super) struct Clearances {
    leeways: Vec<Leeway>,
    surroundings: Vec<Surroundings>,
}

impl Clearances {
    /// Whether the body at a place may be there, turned like this, without being looked at; if so it is
    /// taken to be there. `turned` says how it is turned before.
    pub fn step(
        &mut self,
        place: usize,
        to: DVec3,
        rotation: Option<DQuat>,
        turned: impl FnOnce() -> DQuat,
    ) -> bool {
        let Some(leeway) = self.leeways.get_mut(place).filter(|leeway| leeway.holds(to)) else {
            return false;
        };
        rotation.is_none_or(|rotation| leeway.turn(turned(), rotation))
    }

    /// Whether the body at a place has any leeway.
    pub fn has_leeway(&self, place: usize) -> bool {
        self.leeways.get(place).is_some_and(|leeway| leeway.low[0] < leeway.high[0])
    }

    /// What is around the body at a place.
    pub fn around(&mut self, place: usize) -> &mut Surroundings {
        if self.surroundings.len() <= place {
            self.leeways.resize(place + 1, Leeway::NONE);
            self.surroundings.resize_with(place + 1, Surroundings::default);
        }
        &mut self.surroundings[place]
    }

    /// Whether it is known what is around the body at a place.
    pub fn knows(&self, place: usize) -> bool {
        self.surroundings.get(place).is_some_and(|around| around.known)
    }

    /// Forgets the leeway of the body at a place.
    pub fn bind(&mut self, place: usize) {
        if let Some(leeway) = self.leeways.get_mut(place) {
            *leeway = Leeway::NONE;
        }
    }

    /// Writes down whether a detector detects the body at a place.
    pub fn note(&mut self, place: usize, on: (EntityId, Detector), inside: bool) {
        self.bind(place);
        if let Some(around) = self.surroundings.get_mut(place) {
            let mut near = around.near.iter_mut();
            near.find(|near| (near.on, near.detector) == on)
                .into_iter()
                .for_each(|it| it.inside = inside);
        }
    }

    /// Forgets all of the body at a place.
    pub fn lose(&mut self, place: usize) {
        self.bind(place);
        if let Some(around) = self.surroundings.get_mut(place) {
            around.known = false;
        }
    }

    /// Forgets all there is.
    pub fn clear(&mut self) {
        (0..self.leeways.len()).for_each(|place| self.lose(place));
    }

    /// Gives the body at a place the leeway found.
    pub fn give(&mut self, place: usize, room: &Room<'_>) {
        self.leeways[place] = room.leeway();
    }
}

/// The leeway of a body, while it is looked for.
#[derive(Debug)]
pub(super) struct Room<'a> {
    body: &'a BodySpec,
    step: &'a Step,
    turns: Turns,
    /// The bounds of the body from its place, however it turns.
    own: Aabb,
    /// Where it may be.
    free: Aabb,
    /// How far it may turn, see [`Leeway::turn`].
    turn: f64,
}

impl<'a> Room<'a> {
    /// Anywhere in its surroundings.
    pub fn new(body: &'a BodySpec, step: &'a Step, around: &Surroundings) -> Self {
        let turns = if body.is_ball() {
            Turns::Any
        } else {
            Turns::between(step.from.rotation, step.to.rotation)
        };
        let own = match turns {
            Turns::None => body.bounds_at(&Pose { position: DVec3::ZERO, ..step.from }),
            Turns::Upright => body.bounds_upright(),
            Turns::Any => Aabb::around(DVec3::ZERO, DVec3::splat(body.reach())),
        };
        let free = Aabb::around(around.middle, DVec3::splat(RANGE));
        Self { body, step, turns, own: own.grown(HAIR), free, turn: f64::INFINITY }
    }

    /// Keeps away from the boundary of something near, by its bounds and those of the body. `false` if it
    /// cannot be told from these that the step does.
    pub fn passes(&mut self, near: &Near) -> bool {
        let bounds = &near.bounds;
        if near.inside && !near.fills {
            return false;
        }
        let keeps = if near.inside { self.keep_in(bounds) } else { self.keep_out(bounds) };
        if keeps {
            return true;
        }
        let distance = if near.inside { self.inside(bounds) } else { self.outside(bounds) };
        let passes = distance > self.step.length;
        if passes {
            self.keep_near(distance);
        }
        passes
    }

    /// Keeps outside of some bounds. `false` if the step does not.
    fn keep_out(&mut self, bounds: &Bounds) -> bool {
        let (from, to) = (self.step.from.position, self.step.to.position);
        let [min, max] = [bounds.min, bounds.max].map(|it| DVec3::from_array(it.map(f64::from)));
        let (min, max) = (min - self.own.max, max - self.own.min);
        // The side that is reached last, going on like this; of those never reached the farthest.
        let mut best: Option<(f64, f64, usize, bool)> = None;
        for axis in 0..3 {
            let way = to[axis] - from[axis];
            for (above, left) in [
                (false, min[axis] - from[axis].max(to[axis])),
                (true, from[axis].min(to[axis]) - max[axis]),
            ] {
                if left <= 0.0 {
                    continue;
                }
                let nearer = if above { -way } else { way };
                let steps = if nearer > 0.0 { left / nearer } else { f64::INFINITY };
                if best.is_none_or(|(most, far, ..)| (steps, left) > (most, far)) {
                    best = Some((steps, left, axis, above));
                }
            }
        }
        let Some((_, _, axis, above)) = best else { return false };
        if above {
            self.free.min[axis] = self.free.min[axis].max(max[axis]);
        } else {
            self.free.max[axis] = self.free.max[axis].min(min[axis]);
        }
        true
    }

    /// Keeps a part of the body inside of what fills some bounds. `false` if the step does not.
    fn keep_in(&mut self, bounds: &Bounds) -> bool {
        let filled = shrunk(bounds);
        let (from, to) = (self.step.from, self.step.to);
        let mut best: Option<(f64, Aabb)> = None;
        for (offset, radius) in self.body.inner_balls() {
            // Turned or not, the ball around this point stays in the body.
            let (offset, radius) = match self.turns {
                Turns::None => (from.rotation * offset, radius),
                _ => (DVec3::ZERO, radius - offset.length()),
            };
            if radius < 0.0 {
                continue;
            }
            for axis in 0..3 {
                let wide = DVec3::AXES[axis] * (radius - HAIR).max(0.0);
                let room =
                    Aabb { min: filled.min - offset - wide, max: filled.max - offset + wide };
                let left = [from, to]
                    .map(|it| (it.position - room.min).min(room.max - it.position).min_element());
                let left = left[0].min(left[1]);
                if left > 0.0 && best.as_ref().is_none_or(|(most, _)| left > *most) {
                    best = Some((left, room));
                }
            }
        }
        let Some((_, room)) = best else { return false };
        self.free.min = self.free.min.max(room.min);
        self.free.max = self.free.max.min(room.max);
        true
    }

    /// How far at least the body is outside of some bounds where the step begins, in metres.
    fn outside(&self, bounds: &Bounds) -> f64 {
        let [min, max] = [bounds.min, bounds.max].map(|it| DVec3::from_array(it.map(f64::from)));
        let bounds = Aabb { min, max };
        let apart = |(core, radius): (Aabb, f64)| core.distance(&bounds) - radius;
        self.body.rounded_bounds(&self.step.from).map(apart).fold(f64::INFINITY, f64::min) - HAIR
    }

    /// How far at least some part of the body is inside of what fills some bounds, where the step begins,
    /// in metres; less than nothing if none is.
    fn inside(&self, bounds: &Bounds) -> f64 {
        let filled = shrunk(bounds);
        let depth = |(offset, radius): (DVec3, f64)| {
            let place = self.step.from.point(offset);
            let aside = (filled.min - place).max(place - filled.max);
            radius - aside.max(DVec3::ZERO).length() - aside.max_element().min(0.0)
        };
        self.body.inner_balls().map(depth).fold(f64::NEG_INFINITY, f64::max) - HAIR
    }

    /// Keeps so near to where the step began that no point is carried as far as `distance`.
    pub fn keep_near(&mut self, distance: f64) {
        if distance == f64::INFINITY {
            return;
        }
        let turns_nothing = match self.turns {
            Turns::None => true,
            Turns::Upright => self.body.is_round(),
            Turns::Any => self.body.is_ball(),
        };
        let from = self.step.from.position;
        let way = self.step.to.position - from;
        let mut distance = distance - HAIR;
        if !turns_nothing {
            // Of the distance as much for turns as of the step.
            let turn = distance * (1.0 - way.length() / self.step.length.max(f64::MIN_POSITIVE));
            self.turn = self.turn.min(turn);
            distance -= turn;
        }
        // The corners of a box around the start, long along the way, are as far away as that.
        let along = way.normalize_or_zero().abs() + ASIDE;
        let near = Aabb::around(from, along.normalize() * distance * (1.0 - f64::EPSILON * 8.0));
        self.free.min = self.free.min.max(near.min);
        self.free.max = self.free.max.min(near.max);
    }

    /// What has been found; nothing unless it holds the step.
    fn leeway(&self) -> Leeway {
        let (low, high) = (self.free.min.to_array(), self.free.max.to_array());
        // Half of a hair more than single precision may be off.
        let off = |value: f64| value.abs() * f64::from(f32::EPSILON) + HAIR;
        let found = Leeway {
            low: low.map(|it| (it + off(it)) as f32),
            high: high.map(|it| (it - off(it)) as f32),
            turns: self.turns,
            turn: if self.turn == f64::INFINITY { f32::INFINITY } else { self.turn as f32 },
            // Its own bounds are those of all it may turn through, so as wide to all sides.
            carry: up(self.own.max.x as f32),
        };
        let mut after = found;
        let holds = found.holds(self.step.from.position)
            && found.holds(self.step.to.position)
            && after.turn(self.step.from.rotation, self.step.to.rotation);
        if holds { after } else { Leeway::NONE }
    }
}

/// What surely is filled of the exact bounds of which these were made.
fn shrunk(bounds: &Bounds) -> Aabb {
    let off = |value: f32| f64::from(value).abs() * 4.0 * f64::from(f32::EPSILON) + HAIR;
    let inwards = |value: f32, sign: f64| f64::from(value) + sign * off(value);
    Aabb {
        min: DVec3::from_array(bounds.min.map(|it| inwards(it, 1.0))),
        max: DVec3::from_array(bounds.max.map(|it| inwards(it, -1.0))),
    }
}
