//! Walks through a tree that look at what is near first: along a ray, and around a point.

use std::cmp::Reverse;
use std::collections::BinaryHeap;

use glam::DVec3;
use smallvec::SmallVec;

use super::Bounds;
use super::tree::{ITEM, NONE, Node, Tree, WIDTH};

/// Components smaller than this count as this small, so that no slab test divides zero by zero.
const TINY: f64 = 1e-300;

/// A ray made ready for testing many boxes.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Beam {
    origin: [f64; 3],
    inverse: [f64; 3],
    /// Half the size of what travels along the ray, by which boxes are grown.
    half: [f64; 3],
}

impl Beam {
    /// Along a unit vector.
    pub fn new(origin: DVec3, direction: DVec3, half: DVec3) -> Self {
        let inverse = direction.to_array().map(|d| 1.0 / if d.abs() < TINY { TINY } else { d });
        Self { origin: origin.to_array(), inverse, half: half.to_array() }
    }

    /// From where to where along the ray it is in each of a node's children; nowhere if the
    /// start is beyond the end. Source: A. Williams, S. Barrus, R. K. Morley, P. Shirley, "An
    /// efficient and robust ray-box intersection algorithm", Journal of Graphics Tools 10(1), 2005.
    fn meeting(&self, node: &Node) -> ([f64; WIDTH], [f64; WIDTH]) {
        let (mut near, mut far) = ([0.0_f64; WIDTH], [f64::INFINITY; WIDTH]);
        for axis in 0..3 {
            let (origin, inverse, half) = (self.origin[axis], self.inverse[axis], self.half[axis]);
            for slot in 0..WIDTH {
                let low = (f64::from(node.min[axis][slot]) - half - origin) * inverse;
                let high = (f64::from(node.max[axis][slot]) + half - origin) * inverse;
                near[slot] = near[slot].max(low.min(high));
                far[slot] = far[slot].min(low.max(high));
            }
        }
        (near, far)
    }
}

impl Tree {
    /// Calls `visit` with the items whose bounds the ray meets before `limit`, nearer bounds
    /// first, roughly. What it gives is the new limit.
    pub fn along(&self, beam: &Beam, mut limit: f64, mut visit: impl FnMut(u32, f64) -> f64) {
        let mut waiting: SmallVec<[(f64, u32); 64]> = SmallVec::new();
        if self.root != NONE {
            waiting.push((0.0, self.root));
        }
        while let Some((start, here)) = waiting.pop() {
            if start > limit {
                continue;
            }
            if here & ITEM != 0 {
                limit = visit(here & !ITEM, limit);
                continue;
            }
            let node = &self.nodes[here as usize];
            let (near, far) = beam.meeting(node);
            let first = waiting.len();
            for slot in 0..WIDTH {
                if node.child[slot] != NONE && near[slot] <= far[slot] && near[slot] <= limit {
                    waiting.push((near[slot], node.child[slot]));
                }
            }
            // The nearest on top; there are at most four.
            waiting[first..].sort_unstable_by(|one, other| other.0.total_cmp(&one.0));
        }
    }

    /// Calls `visit` with the items whose bounds lie within `limit` of a point, nearer bounds
    /// first. What it gives is the new limit.
    pub fn around(&self, point: DVec3, mut limit: f64, mut visit: impl FnMut(u32, f64) -> f64) {
        let mut waiting: BinaryHeap<Reverse<(Gap, u32)>> = BinaryHeap::new();
        if self.root != NONE {
            waiting.push(Reverse((Gap(0.0), self.root)));
        }
        while let Some(Reverse((Gap(gap), here))) = waiting.pop() {
            if gap > limit {
                return;
            }
            if here & ITEM != 0 {
                limit = visit(here & !ITEM, limit);
                continue;
            }
            let node = &self.nodes[here as usize];
            for slot in (0..WIDTH).filter(|slot| node.child[*slot] != NONE) {
                let gap = gap_to(&node.bounds(slot), point);
                if gap <= limit {
                    waiting.push(Reverse((Gap(gap), node.child[slot])));
                }
            }
        }
    }
}

/// The distance of a point from a box.
fn gap_to(bounds: &Bounds, point: DVec3) -> f64 {
    let out = |axis: usize| {
        let (low, high) = (f64::from(bounds.min[axis]), f64::from(bounds.max[axis]));
        (low - point[axis]).max(point[axis] - high).max(0.0)
    };
    DVec3::new(out(0), out(1), out(2)).length()
}

/// A distance that can be ordered.
#[derive(Clone, Copy, PartialEq)]
struct Gap(f64);

impl Eq for Gap {}

impl PartialOrd for Gap {
    fn partial_cmp(&self, other: &Self) -> Option<std::cmp::Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Gap {
    fn cmp(&self, other: &Self) -> std::cmp::Ordering {
        self.0.total_cmp(&other.0)
    }
}
