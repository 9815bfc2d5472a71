//! Finding a way on foot around what is in the way.
//!
//! First straight; else by a search over a grid of places where the body can stand, each reached
//! from the one before by a step up, over and down. Source: P. E. Hart, N. J. Nilsson, B. Raphael,
//! "A Formal Basis for the Heuristic Determination of Minimum Cost Paths", 1968. Corners that are
//! not needed are left out afterwards.

use std::cmp::Reverse;
use std::collections::{BTreeMap, BinaryHeap};

use glam::{DVec2, DVec3};

use crate::geometry::{Pose, ROUNDING};

use super::contact::Around;

/// No more places than this are looked at.
const MOST_PLACES: usize = 4000;

/// Nor than this, if one cannot stand where the way is to lead.
const MOST_IN_VAIN: usize = 600;

/// How deep somebody jumps down where there is no other way, in metres, and how many metres of way
/// one metre of that is worth.
const MOST_FALL: f64 = 30.0;
const FALL_COST: f64 = 4.0;

/// The widest and the narrowest spacing of the grid, as shares of the body's width.
const SPACINGS: [f64; 2] = [0.5, 0.2];

/// A way: its points, the next one last, and whether it leads all the way there.
pub(super) struct Way {
    pub points: Vec<DVec3>,
    pub whole: bool,
}

/// The way from a pose to a place, or at least nearer to it.
pub(super) fn find(around: &Around<'_>, from: Pose, to: DVec3) -> Way {
    let walk = Walk { around, pose: from };
    let walk =
        walk.turned(from.position, DVec2::new(to.x - from.position.x, to.z - from.position.z));
    let ground = walk.ground_at(to);
    let free = ground.is_some_and(|y| around.depths(&walk.at(DVec3 { y, ..to })).is_empty());
    let start = from.position;
    let spacing = (around.mover.width * SPACINGS[0]).clamp(0.05, 1.0);
    if walk.straight(start, to, spacing).is_some_and(|end| walk.is_at(end, ground)) {
        return Way { points: vec![to], whole: true };
    }
    let mut nearest: Option<Vec<DVec3>> = None;
    for share in &SPACINGS[..if free { 2 } else { 1 }] {
        let spacing = (around.mover.width * share).clamp(0.05, 1.0);
        let most = if free { MOST_PLACES } else { MOST_IN_VAIN };
        let (way, whole) = walk.search(start, to, ground, (spacing, most));
        let way = walk.shortened(&way, spacing);
        if whole {
            return Way { points: way, whole };
        }
        let far = |way: &Vec<DVec3>| way.first().copied().unwrap_or(start).distance(to);
        if nearest.as_ref().is_none_or(|known| far(&way) < far(known) - ROUNDING) {
            nearest = Some(way);
        }
    }
    // And from there straight on, up to what is in the way.
    let mut points = nearest.unwrap_or_default();
    points.insert(0, to);
    Way { points, whole: false }
}

/// A place of the grid: along x and z, and its level.
type Cell = (i32, i32, i32);

/// How one got to a place.
struct Reached {
    at: DVec3,
    from: Option<Cell>,
    cost: f64,
}

/// Somebody thinking of walking, turned as now.
struct Walk<'a> {
    around: &'a Around<'a>,
    pose: Pose,
}

impl Walk<'_> {
    fn at(&self, position: DVec3) -> Pose {
        Pose { position, ..self.pose }
    }

    /// A walker about to go that way: one that holds something is turned there, if there is room to turn.
    fn turned(&self, from: DVec3, way: DVec2) -> Self {
        let here = self.at(from);
        let turned = here.facing(DVec3::new(way.x, 0.0, way.y));
        let turns = self.around.is_loaded()
            && self.around.depths(&turned).is_empty()
            && self.around.reaches(&turned);
        Self { around: self.around, pose: if turns { turned } else { self.pose } }
    }

    fn step(&self) -> f64 {
        self.around.step()
    }

    /// How high one stands at a place; none if one cannot stand there.
    fn ground_at(&self, place: DVec3) -> Option<f64> {
        let above = place + DVec3::Y * self.step();
        let (depth, ..) = self.around.drop(self.at(above), 100.0)?;
        Some(above.y - depth)
    }

    fn is_at(&self, end: DVec3, ground: Option<f64>) -> bool {
        ground.is_none_or(|ground| (end.y - ground).abs() <= self.step() + 0.01)
    }

    /// Where one gets by a step to beside a place: up, over and down. None if one cannot, or would
    /// fall deeper than `fall`, in metres.
    fn hop(&self, from: DVec3, way: DVec2, fall: f64) -> Option<DVec3> {
        if self.around.is_loaded() {
            return self.turned(from, way).hop_as_turned(from, way, fall);
        }
        self.hop_as_turned(from, way, fall)
    }

    fn hop_as_turned(&self, from: DVec3, way: DVec2, fall: f64) -> Option<DVec3> {
        let step = self.step().max(0.01);
        let above = self.around.in_way(self.at(from), from + DVec3::Y * step);
        let lift = above.map_or(step, |hit| hit.distance);
        // Where the feet cannot be lifted, under a low roof, they may do without.
        self.hop_over(from, way, (lift, step, fall)).or_else(|| {
            let low = self.hop_over(from, way, (0.0, step, fall));
            low.filter(|_| lift > 0.0)
        })
    }

    /// Where one gets by lifting the feet so high beside a place.
    fn hop_over(
        &self,
        from: DVec3,
        way: DVec2,
        (lift, step, fall): (f64, f64, f64),
    ) -> Option<DVec3> {
        let lifted = from + DVec3::Y * lift;
        let over = lifted + DVec3::new(way.x, 0.0, way.y);
        if self.around.in_way(self.at(lifted), over).is_some() {
            return None;
        }
        let slope = way.length() * self.around.mover.legs.slope.min(1.2).sin() * 2.0;
        let (depth, ..) = self.around.drop(self.at(over), lift + step.max(slope).max(fall))?;
        Some(over - DVec3::Y * depth)
    }

    /// Where one gets by walking straight to a place; none if that does not do.
    fn straight(&self, from: DVec3, to: DVec3, spacing: f64) -> Option<DVec3> {
        let way = DVec2::new(to.x - from.x, to.z - from.z);
        let hops = (way.length() / spacing).ceil().max(1.0);
        if hops > MOST_PLACES as f64 {
            return None;
        }
        let hop = way / hops;
        (0..hops as u32).try_fold(from, |at, _| self.hop(at, hop, 0.0))
    }

    /// Searches for a way: its points, the last first, and whether it leads all the way there.
    fn search(
        &self,
        start: DVec3,
        to: DVec3,
        ground: Option<f64>,
        (spacing, most): (f64, usize),
    ) -> (Vec<DVec3>, bool) {
        let level = self.step().max(0.05) * 2.0;
        let left = |at: DVec3| DVec2::new(to.x - at.x, to.z - at.z).length();
        let first: Cell = (0, 0, 0);
        let mut reached: BTreeMap<Cell, Reached> = BTreeMap::new();
        reached.insert(first, Reached { at: start, from: None, cost: 0.0 });
        let mut open: BinaryHeap<Reverse<(u64, u64, Cell)>> = BinaryHeap::new();
        let mut number = 0;
        // Numbers that are not negative are in the order of their bits.
        open.push(Reverse((left(start).to_bits(), number, first)));
        let mut nearest = (left(start), first);
        while let Some(Reverse((estimate, _, cell))) = open.pop() {
            let Reached { at, cost, .. } = reached[&cell];
            if (cost + left(at)).to_bits() < estimate {
                // A better way to it has been found since.
                continue;
            }
            if left(at) < nearest.0 - ROUNDING {
                nearest = (left(at), cell);
            }
            if left(at) <= spacing * 1.5 {
                let end = self.straight(at, to, spacing);
                if end.is_some_and(|end| self.is_at(end, ground)) {
                    let mut way = trace(&reached, cell);
                    way.insert(0, to);
                    return (way, true);
                }
            }
            if reached.len() >= most {
                break;
            }
            for (x, z) in [(1, 0), (-1, 0), (0, 1), (0, -1), (1, 1), (1, -1), (-1, 1), (-1, -1)] {
                let grid = DVec2::new(f64::from(cell.0 + x), f64::from(cell.1 + z)) * spacing;
                let way = DVec2::new(start.x + grid.x - at.x, start.z + grid.y - at.z);
                let beside = reached.get(&(cell.0 + x, cell.1 + z, cell.2));
                if beside.is_some_and(|known| self.is_no_better(known, at, cost + way.length())) {
                    continue;
                }
                let Some(there) = self.hop(at, way, MOST_FALL) else { continue };
                let height = ((there.y - start.y) / level).round() as i32;
                let next = (cell.0 + x, cell.1 + z, height);
                let fall = (at.y - there.y - self.step()).max(0.0);
                let cost = cost + way.length() + fall * FALL_COST;
                if reached.get(&next).is_none_or(|known| cost < known.cost - ROUNDING) {
                    reached.insert(next, Reached { at: there, from: Some(cell), cost });
                    number += 1;
                    open.push(Reverse(((cost + left(there)).to_bits(), number, next)));
                }
            }
        }
        (trace(&reached, nearest.1), false)
    }

    /// Whether a hop from a place to one that is known at the same height would lead there and be no
    /// shorter: nothing can be in between that one would stand on, since what stands there would be in it.
    /// With something in one's hands the one may be turned otherwise than the other.
    fn is_no_better(&self, known: &Reached, at: DVec3, cost: f64) -> bool {
        let level = (known.at.y - at.y).abs() <= ROUNDING;
        level && cost >= known.cost - ROUNDING && !self.around.is_loaded()
    }

    /// The same way without the points that one can leave out.
    fn shortened(&self, way: &[DVec3], spacing: f64) -> Vec<DVec3> {
        let mut points: Vec<DVec3> = way.iter().rev().copied().collect();
        points.insert(0, self.pose.position);
        let mut kept = Vec::new();
        let mut at = 0;
        while at + 1 < points.len() {
            // The farthest that is reached straight, looked for from the end by halves.
            let mut next = points.len() - 1;
            while next > at + 1 && self.straight(points[at], points[next], spacing).is_none() {
                next = at + (next - at) / 2;
            }
            kept.push(points[next]);
            at = next;
        }
        kept.reverse();
        kept
    }
}

/// The places on the way to one, that one first, without the start.
fn trace(reached: &BTreeMap<Cell, Reached>, last: Cell) -> Vec<DVec3> {
    let mut way = Vec::new();
    let mut next = Some(last);
    while let Some(cell) = next {
        let Reached { at, from, .. } = &reached[&cell];
        if from.is_some() {
            way.push(*at);
        }
        next = *from;
    }
    way
}
