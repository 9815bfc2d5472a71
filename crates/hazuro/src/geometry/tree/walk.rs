//! Walks through a tree that look at what is near first: along a ray, and around a point.
//!
//! Everything is in single precision, rounded so that nothing is passed over.

use glam::{DVec3, Vec4};

use super::bounds::{sides, up};
use super::{ITEM, NONE, Node, Tree, WIDTH};

/// Components smaller than this count as this small, so that no slab test divides zero by zero.
const TINY: f64 = 1e-30;
/// More than the rounding of one slab test or one squared distance, as a factor.
const SLACK: f32 = 1.0 + 1e-6;

/// What is still to be looked at, with how far away it begins.
struct Waiting {
    few: [(f32, u32); 40],
    count: usize,
    /// What there is no room for among the few; only in trees of uncommon depth.
    more: Vec<(f32, u32)>,
}

impl Waiting {
    fn new() -> Self {
        Self { few: [(0.0, NONE); 40], count: 0, more: Vec::new() }
    }

    fn push(&mut self, next: (f32, u32)) {
        match self.few.get_mut(self.count) {
            Some(place) => {
                *place = next;
                self.count += 1;
            }
            None => self.more.push(next),
        }
    }

    /// The last one that begins within `limit`.
    fn pop(&mut self, limit: f32) -> Option<u32> {
        while let Some((start, here)) = self.more.pop() {
            if start <= limit {
                return Some(here);
            }
        }
        while self.count > 0 {
            self.count -= 1;
            let (start, here) = self.few[self.count];
            if start <= limit {
                return Some(here);
            }
        }
        None
    }

    /// Adds all of a node's children in `mask` but the nearest, which comes next.
    fn descend(&mut self, node: &Node, starts: Vec4, mut mask: u32) -> Option<u32> {
        let starts = starts.to_array();
        let mut nearest: Option<(f32, u32)> = None;
        while mask != 0 {
            let slot = mask.trailing_zeros() as usize % WIDTH;
            mask &= mask - 1;
            let mut next = (starts[slot], node.child[slot]);
            if let Some(before) = nearest {
                if before.0 <= next.0 {
                    next = before;
                    self.push((starts[slot], node.child[slot]));
                } else {
                    self.push(before);
                }
            }
            nearest = Some(next);
        }
        nearest.map(|(_, child)| child)
    }
}

/// A ray made ready for testing many boxes.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Beam {
    /// Subtracted from the low and high sides of boxes. They hold the origin, and half the size of
    /// what travels along the ray, by which boxes are grown.
    low: [Vec4; 3],
    high: [Vec4; 3],
    inverse: [Vec4; 3],
    backwards: [bool; 3],
}

impl Beam {
    /// Along a unit vector.
    pub fn new(origin: DVec3, direction: DVec3, half: DVec3) -> Self {
        let inverse = direction.to_array().map(|d| 1.0 / if d.abs() < TINY { TINY } else { d });
        let [low, high] = splat(origin - half, origin + half);
        Self {
            low,
            high,
            inverse: inverse.map(|inverse| Vec4::splat(inverse as f32)),
            backwards: inverse.map(|inverse| inverse < 0.0),
        }
    }

    /// Where along the ray it comes into each of a node's children, and which of them it meets
    /// before `limit`. Source: A. Williams, S. Barrus, R. K. Morley, P. Shirley, "An efficient and
    /// robust ray-box intersection algorithm", Journal of Graphics Tools 10(1), 2005; for the
    /// slack, T. Ize, "Robust BVH ray traversal", Journal of Computer Graphics Techniques 2(2),
    /// 2013.
    fn meeting(&self, node: &Node, limit: f32) -> (Vec4, u32) {
        let (mut near, mut far) = (Vec4::ZERO, Vec4::splat(limit));
        for axis in 0..3 {
            let low = (node.min[axis] - self.low[axis]) * self.inverse[axis];
            let high = (node.max[axis] - self.high[axis]) * self.inverse[axis];
            let (first, last) = if self.backwards[axis] { (high, low) } else { (low, high) };
            near = near.max(first);
            far = far.min(last);
        }
        (near, near.cmple(far * SLACK).bitmask())
    }
}

/// What is subtracted from the low and from the high sides of boxes to compare them with what
/// reaches from `low` to `high`: its own sides, crosswise.
fn splat(low: DVec3, high: DVec3) -> [[Vec4; 3]; 2] {
    let sides: [_; 3] = std::array::from_fn(|axis| sides(low[axis], high[axis]));
    [sides.map(|(_, high)| Vec4::splat(high)), sides.map(|(low, _)| Vec4::splat(low))]
}

impl Tree {
    /// Calls `visit` with the items whose bounds the ray meets before `limit`, nearer bounds
    /// first, roughly. What it gives is the new limit.
    pub fn along(&self, beam: &Beam, layers: u64, limit: f64, visit: impl FnMut(u32, f64) -> f64) {
        let far = |limit| up(limit) * SLACK;
        self.walk(layers, limit, far, |node, limit| beam.meeting(node, limit), visit);
    }

    /// Calls `visit` with the items whose bounds lie within `limit` of a point, nearer bounds
    /// first, roughly. What it gives is the new limit.
    pub fn around(
        &self,
        point: DVec3,
        layers: u64,
        limit: f64,
        visit: impl FnMut(u32, f64) -> f64,
    ) {
        let [low, high] = splat(point, point);
        let squared = |limit: f64| {
            let limit = up(limit);
            if limit < 0.0 { f32::NEG_INFINITY } else { limit * limit * SLACK }
        };
        let gaps = |node: &Node, limit: f32| {
            let mut gaps = Vec4::ZERO;
            for axis in 0..3 {
                let out = (node.min[axis] - low[axis]).max(high[axis] - node.max[axis]);
                let out = out.max(Vec4::ZERO);
                gaps += out * out;
            }
            // A missing child is infinitely far, which an endless limit does not keep out.
            let there = node.min[0].cmple(node.max[0]);
            (gaps, (gaps.cmple(Vec4::splat(limit)) & there).bitmask())
        };
        self.walk(layers, limit, squared, gaps, visit);
    }

    /// Walks through the tree, the nearest child of each node first. `start` gives where a node's
    /// children begin, and which of them do so within the limit, on the scale that `scaled` gives.
    fn walk(
        &self,
        layers: u64,
        limit: f64,
        scaled: impl Fn(f64) -> f32,
        start: impl Fn(&Node, f32) -> (Vec4, u32),
        mut visit: impl FnMut(u32, f64) -> f64,
    ) {
        if self.root == NONE {
            return;
        }
        let mut limit = (limit, scaled(limit));
        let mut waiting = Waiting::new();
        let mut next = Some(self.root);
        while let Some(here) = next.or_else(|| waiting.pop(limit.1)) {
            next = None;
            if here & ITEM != 0 {
                let new = visit(here & !ITEM, limit.0);
                limit = (new, scaled(new));
                continue;
            }
            let node = &self.nodes[here as usize];
            if node.layers & layers != 0 {
                let (starts, within) = start(node, limit.1);
                next = waiting.descend(node, starts, within);
            }
        }
    }
}
