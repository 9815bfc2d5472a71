//! Walks through a tree that look at what is near first: along a ray, and around a point.
//!
//! Everything is in single precision, rounded so that nothing is passed over.

use glam::{DVec3, Vec4};
use smallvec::SmallVec;

use super::bounds::{down, up};
use super::{ITEM, NONE, Node, Tree, WIDTH};

/// Components smaller than this count as this small, so that no slab test divides zero by zero.
const TINY: f64 = 1e-30;
/// More than the rounding of one slab test or one squared distance, as a factor.
const SLACK: f32 = 1.0 + 1e-6;

/// Children still to be looked at, with how far away they begin.
type Waiting = SmallVec<[(f32, u32); 48]>;

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
        Self {
            low: (origin + half).to_array().map(|low| Vec4::splat(up(low))),
            high: (origin - half).to_array().map(|high| Vec4::splat(down(high))),
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

impl Tree {
    /// Calls `visit` with the items whose bounds the ray meets before `limit`, nearer bounds
    /// first, roughly. What it gives is the new limit.
    pub fn along(
        &self,
        beam: &Beam,
        layers: u64,
        limit: f64,
        mut visit: impl FnMut(u32, f64) -> f64,
    ) {
        let mut limit = (limit, up(limit) * SLACK);
        let mut waiting = self.everything();
        while let Some((start, here)) = waiting.pop() {
            if start > limit.1 {
                continue;
            }
            if here & ITEM != 0 {
                let new = visit(here & !ITEM, limit.0);
                limit = (new, up(new) * SLACK);
                continue;
            }
            let node = &self.nodes[here as usize];
            if node.layers & layers != 0 {
                let (near, mask) = beam.meeting(node, limit.1);
                push(&mut waiting, node, near, mask);
            }
        }
    }

    /// Calls `visit` with the items whose bounds lie within `limit` of a point, nearer bounds
    /// first, roughly. What it gives is the new limit.
    pub fn around(
        &self,
        point: DVec3,
        layers: u64,
        limit: f64,
        mut visit: impl FnMut(u32, f64) -> f64,
    ) {
        let squared = |limit: f64| {
            let limit = up(limit);
            if limit < 0.0 { f32::NEG_INFINITY } else { limit * limit * SLACK }
        };
        let mut limit = (limit, squared(limit));
        let low = point.to_array().map(|low| Vec4::splat(up(low)));
        let high = point.to_array().map(|high| Vec4::splat(down(high)));
        let mut waiting = self.everything();
        while let Some((gap, here)) = waiting.pop() {
            if gap > limit.1 {
                continue;
            }
            if here & ITEM != 0 {
                let new = visit(here & !ITEM, limit.0);
                limit = (new, squared(new));
                continue;
            }
            let node = &self.nodes[here as usize];
            if node.layers & layers == 0 {
                continue;
            }
            let mut gaps = Vec4::ZERO;
            for axis in 0..3 {
                let out = (node.min[axis] - low[axis]).max(high[axis] - node.max[axis]);
                let out = out.max(Vec4::ZERO);
                gaps += out * out;
            }
            push(&mut waiting, node, gaps, gaps.cmple(Vec4::splat(limit.1)).bitmask());
        }
    }

    fn everything(&self) -> Waiting {
        let mut waiting = Waiting::new();
        if self.root != NONE {
            waiting.push((0.0, self.root));
        }
        waiting
    }
}

/// Adds some of a node's children, the nearest on top.
fn push(waiting: &mut Waiting, node: &Node, starts: Vec4, mut mask: u32) {
    let bottom = waiting.len();
    while mask != 0 {
        let slot = mask.trailing_zeros() as usize % WIDTH;
        mask &= mask - 1;
        // A missing child is infinitely far, which an endless limit does not keep out.
        if node.child[slot] == NONE {
            continue;
        }
        let next = (starts[slot], node.child[slot]);
        let mut at = waiting.len();
        waiting.push(next);
        while at > bottom && waiting[at - 1].0 < next.0 {
            waiting[at] = waiting[at - 1];
            at -= 1;
        }
        waiting[at] = next;
    }
}
