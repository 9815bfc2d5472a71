//! A tree of bounding boxes, four to a node.
//!
//! Each node keeps the bounds of its four children side by side, so that one pass tests all four.
//! A tree is built at once by the surface area heuristic (J. Goldsmith, J. Salmon, "Automatic
//! creation of object hierarchies for ray tracing", IEEE Computer Graphics and Applications 7(5),
//! 1987), with bins (I. Wald, "On fast construction of SAH-based bounding volume hierarchies",
//! IEEE Symposium on Interactive Ray Tracing, 2007), and changed item by item after that: what did
//! not change is never rebuilt.

use smallvec::SmallVec;

use super::Bounds;
use super::build;

/// Children of a node.
pub(super) const WIDTH: usize = 4;
/// No child, no parent, not in the tree.
pub(super) const NONE: u32 = u32::MAX;
/// Marks a child that is an item.
pub(super) const ITEM: u32 = 1 << 31;

/// A node: the bounds of its children, axis by axis, and the children themselves.
#[derive(Clone, Debug)]
pub(super) struct Node {
    pub min: [[f32; WIDTH]; 3],
    pub max: [[f32; WIDTH]; 3],
    pub child: [u32; WIDTH],
    /// The node above and the place in it, or [`NONE`].
    parent: u32,
}

/// Items by number, found by their bounds.
#[derive(Clone, Debug)]
pub(crate) struct Tree {
    pub(super) nodes: Vec<Node>,
    /// Nodes that are not in use.
    spare: Vec<u32>,
    pub(super) root: u32,
    /// Where each item is: its node and its place there, or [`NONE`].
    places: Vec<u32>,
}

/// A set of up to four children of a node.
type Mask = u32;

fn place(node: u32, slot: usize) -> u32 {
    node * WIDTH as u32 + slot as u32
}

fn split(place: u32) -> (u32, usize) {
    (place / WIDTH as u32, (place % WIDTH as u32) as usize)
}

impl Node {
    fn new(parent: u32) -> Self {
        Self {
            min: [[f32::INFINITY; WIDTH]; 3],
            max: [[f32::NEG_INFINITY; WIDTH]; 3],
            child: [NONE; WIDTH],
            parent,
        }
    }

    pub fn bounds(&self, slot: usize) -> Bounds {
        Bounds {
            min: std::array::from_fn(|axis| self.min[axis][slot]),
            max: std::array::from_fn(|axis| self.max[axis][slot]),
        }
    }

    fn set(&mut self, slot: usize, child: u32, bounds: &Bounds) {
        self.child[slot] = child;
        for axis in 0..3 {
            self.min[axis][slot] = bounds.min[axis];
            self.max[axis][slot] = bounds.max[axis];
        }
    }

    /// The bounds of all children.
    fn whole(&self) -> Bounds {
        (0..WIDTH).fold(Bounds::EMPTY, |whole, slot| whole.join(&self.bounds(slot)))
    }

    /// The children whose bounds meet `bounds`. Missing children meet nothing.
    fn meeting(&self, bounds: &Bounds) -> Mask {
        let mut apart = [0_u32; WIDTH];
        for axis in 0..3 {
            let (low, high) = (bounds.min[axis], bounds.max[axis]);
            for (slot, apart) in apart.iter_mut().enumerate() {
                *apart |= u32::from(self.min[axis][slot] > high);
                *apart |= u32::from(self.max[axis][slot] < low);
            }
        }
        (0..WIDTH).fold(0, |mask, slot| mask | (1 - apart[slot]) << slot)
    }
}

impl Default for Tree {
    fn default() -> Self {
        Self { nodes: Vec::new(), spare: Vec::new(), root: NONE, places: Vec::new() }
    }
}

impl Tree {
    /// A tree of these items, each with its own number.
    pub fn build(items: &[(u32, Bounds)]) -> Self {
        let mut tree = Self::default();
        if items.is_empty() {
            return tree;
        }
        let most = items.iter().map(|item| item.0).max().unwrap_or(0) as usize;
        tree.places.resize(most + 1, NONE);
        let mut order: Vec<u32> = (0..items.len() as u32).collect();
        tree.root = tree.subtree(items, &mut order, NONE);
        tree
    }

    /// Makes the node that holds some of `items`, which are reordered on the way.
    fn subtree(&mut self, items: &[(u32, Bounds)], order: &mut [u32], parent: u32) -> u32 {
        let node = self.new_node(parent);
        for (slot, range) in build::quarters(items, order).into_iter().enumerate() {
            let (bounds, part) = (range.bounds, &mut order[range.start..range.end]);
            let child = match part {
                [single] => {
                    let item = items[*single as usize].0;
                    self.places[item as usize] = place(node, slot);
                    item | ITEM
                }
                several => self.subtree(items, several, place(node, slot)),
            };
            self.nodes[node as usize].set(slot, child, &bounds);
        }
        node
    }

    fn new_node(&mut self, parent: u32) -> u32 {
        if let Some(node) = self.spare.pop() {
            self.nodes[node as usize] = Node::new(parent);
            node
        } else {
            self.nodes.push(Node::new(parent));
            self.nodes.len() as u32 - 1
        }
    }

    /// Whether there is no item.
    pub fn is_empty(&self) -> bool {
        self.root == NONE
    }

    /// Whether an item's bounds are known to hold all of `bounds`.
    pub fn covers(&self, item: u32, bounds: &Bounds) -> bool {
        let known = self.places.get(item as usize).copied().filter(|place| *place != NONE);
        known.is_some_and(|known| {
            let (node, slot) = split(known);
            self.nodes[node as usize].bounds(slot).holds(bounds)
        })
    }

    /// Adds an item or changes its bounds.
    pub fn set(&mut self, item: u32, bounds: &Bounds) {
        if self.places.len() <= item as usize {
            self.places.resize(item as usize + 1, NONE);
        }
        let known = self.places[item as usize];
        if known != NONE {
            let (node, slot) = split(known);
            let parent = self.nodes[node as usize].parent;
            let stays = parent == NONE || {
                let (above, slot) = split(parent);
                self.nodes[above as usize].bounds(slot).holds(bounds)
            };
            if stays {
                self.nodes[node as usize].set(slot, item | ITEM, bounds);
                return;
            }
            self.remove(item);
        }
        self.insert(item, bounds);
    }

    fn insert(&mut self, item: u32, bounds: &Bounds) {
        if self.root == NONE {
            self.root = self.new_node(NONE);
        }
        let mut here = self.root;
        loop {
            let node = &mut self.nodes[here as usize];
            if let Some(free) = node.child.iter().position(|child| *child == NONE) {
                node.set(free, item | ITEM, bounds);
                self.places[item as usize] = place(here, free);
                return;
            }
            // Where it adds least to the surface, and of those where the surface is least.
            let growth = |slot: usize| {
                let old = node.bounds(slot);
                (old.join(bounds).cost() - old.cost(), old.cost())
            };
            let better = |one: &usize, other: &usize| {
                let (one, other) = (growth(*one), growth(*other));
                one.0.total_cmp(&other.0).then(one.1.total_cmp(&other.1))
            };
            let slot = (0..WIDTH).min_by(better).unwrap_or(0);
            let (child, old) = (node.child[slot], node.bounds(slot));
            let grown = old.join(bounds);
            if child & ITEM == 0 {
                node.set(slot, child, &grown);
                here = child;
                continue;
            }
            let below = self.new_node(place(here, slot));
            self.nodes[here as usize].set(slot, below, &grown);
            self.nodes[below as usize].set(0, child, &old);
            self.nodes[below as usize].set(1, item | ITEM, bounds);
            self.places[(child & !ITEM) as usize] = place(below, 0);
            self.places[item as usize] = place(below, 1);
            return;
        }
    }

    /// Takes an item out, if it is in.
    pub fn remove(&mut self, item: u32) {
        let Some(known) = self.places.get_mut(item as usize) else { return };
        let known = std::mem::replace(known, NONE);
        if known == NONE {
            return;
        }
        let (mut here, slot) = split(known);
        self.nodes[here as usize].set(slot, NONE, &Bounds::EMPTY);
        // Upwards, nodes that have become empty go and bounds shrink, as far as anything changes.
        loop {
            let node = &self.nodes[here as usize];
            let (whole, parent) = (node.whole(), node.parent);
            let empty = node.child.iter().all(|child| *child == NONE);
            if parent == NONE {
                if empty {
                    self.spare.push(here);
                    self.root = NONE;
                }
                return;
            }
            let (above, slot) = split(parent);
            if empty {
                self.spare.push(here);
                self.nodes[above as usize].set(slot, NONE, &Bounds::EMPTY);
            } else if self.nodes[above as usize].bounds(slot) == whole {
                return;
            } else {
                self.nodes[above as usize].set(slot, here, &whole);
            }
            here = above;
        }
    }

    /// Calls `visit` with each item whose bounds meet `bounds`, in no particular order.
    pub fn meeting(&self, bounds: &Bounds, mut visit: impl FnMut(u32)) {
        if self.root == NONE {
            return;
        }
        let mut waiting: SmallVec<[u32; 64]> = SmallVec::new();
        waiting.push(self.root);
        while let Some(here) = waiting.pop() {
            let node = &self.nodes[here as usize];
            let mut mask = node.meeting(bounds);
            while mask != 0 {
                let child = node.child[mask.trailing_zeros() as usize];
                mask &= mask - 1;
                if child & ITEM == 0 {
                    waiting.push(child);
                } else {
                    visit(child & !ITEM);
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use std::collections::BTreeMap;

    use glam::DVec3;
    use proptest::prelude::*;

    use super::*;
    use crate::geometry::Aabb;

    fn bounds() -> impl Strategy<Value = Bounds> {
        let place = [-50.0..50.0_f64, -5.0..5.0, -50.0..50.0];
        (place, [0.0..9.0_f64, 0.0..9.0, 0.0..9.0]).prop_map(|(at, half)| {
            Bounds::from(&Aabb::around(DVec3::from_array(at), DVec3::from_array(half)))
        })
    }

    fn meet(one: &Bounds, other: &Bounds) -> bool {
        (0..3).all(|axis| one.min[axis] <= other.max[axis] && other.min[axis] <= one.max[axis])
    }

    impl Tree {
        /// The bounds of an item, if it is in the tree.
        fn bounds(&self, item: u32) -> Option<Bounds> {
            let place = self.places.get(item as usize).copied().filter(|place| *place != NONE)?;
            let (node, slot) = split(place);
            Some(self.nodes[node as usize].bounds(slot))
        }

        /// Every node is inside its parent's slot and knows its way up; every item is where it
        /// is said to be.
        fn assert_sound(&self, items: &BTreeMap<u32, Bounds>) {
            let mut seen = 0;
            let mut waiting = if self.root == NONE { vec![] } else { vec![(self.root, NONE)] };
            while let Some((here, parent)) = waiting.pop() {
                let node = &self.nodes[here as usize];
                assert_eq!(node.parent, parent);
                for slot in 0..WIDTH {
                    let (child, bounds) = (node.child[slot], node.bounds(slot));
                    if child == NONE {
                        assert_eq!(bounds, Bounds::EMPTY);
                    } else if child & ITEM == 0 {
                        assert!(bounds.holds(&self.nodes[child as usize].whole()));
                        waiting.push((child, place(here, slot)));
                    } else {
                        assert_eq!(items.get(&(child & !ITEM)), Some(&bounds));
                        assert_eq!(self.places[(child & !ITEM) as usize], place(here, slot));
                        seen += 1;
                    }
                }
            }
            assert_eq!(seen, items.len());
        }
    }

    proptest! {
        #[test]
        fn finds_what_a_plain_list_finds_after_any_changes(
            first in prop::collection::vec(bounds(), 0..120),
            changes in prop::collection::vec((0..150_u32, prop::option::of(bounds())), 0..120),
            asked in prop::collection::vec(bounds(), 1..8),
        ) {
            let numbered: Vec<(u32, Bounds)> = (0..).zip(first).collect();
            let mut tree = Tree::build(&numbered);
            let mut list: BTreeMap<u32, Bounds> = numbered.into_iter().collect();
            tree.assert_sound(&list);
            for (item, change) in changes {
                #[expect(clippy::single_match_else, reason = "two cases of equal weight")]
                match change {
                    Some(bounds) => {
                        tree.set(item, &bounds);
                        list.insert(item, bounds);
                    }
                    None => {
                        tree.remove(item);
                        list.remove(&item);
                    }
                }
                prop_assert_eq!(tree.bounds(item), list.get(&item).copied());
            }
            tree.assert_sound(&list);
            for asked in asked {
                let mut found = Vec::new();
                tree.meeting(&asked, |item| found.push(item));
                found.sort_unstable();
                let expected: Vec<u32> =
                    list.iter().filter(|(_, b)| meet(b, &asked)).map(|(item, _)| *item).collect();
                prop_assert_eq!(found, expected);
            }
        }

        #[test]
        fn walks_come_to_what_a_plain_list_holds_and_to_the_nearest_first(
            items in prop::collection::vec(bounds(), 1..150),
            from in [-60.0..60.0_f64, -9.0..9.0, -60.0..60.0],
            way in [-1.0..1.0_f64, -1.0..1.0, -1.0..1.0],
            limit in 0.0..90.0_f64,
        ) {
            let numbered: Vec<(u32, Bounds)> = (0..).zip(items).collect();
            let tree = Tree::build(&numbered);
            let from = DVec3::from_array(from);
            let gap = |bounds: &Bounds| {
                let exact = |corner: [f32; 3]| DVec3::from_array(corner.map(f64::from));
                let nearest = from.clamp(exact(bounds.min), exact(bounds.max));
                nearest.distance(from)
            };
            let mut seen = Vec::new();
            tree.around(from, limit, |item, limit| {
                seen.push(item);
                limit
            });
            let gaps: Vec<f64> = seen.iter().map(|item| gap(&numbered[*item as usize].1)).collect();
            prop_assert!(gaps.is_sorted_by(|one, other| *one <= *other + 1e-9));
            let expected = numbered.iter().filter(|(_, bounds)| gap(bounds) <= limit).count();
            prop_assert_eq!(seen.len(), expected);

            let Some(way) = DVec3::from_array(way).try_normalize() else { return Ok(()) };
            let beam = super::super::Beam::new(from, way, DVec3::ZERO);
            let mut seen = Vec::new();
            tree.along(&beam, limit, |item, limit| {
                seen.push(item);
                limit
            });
            // A box that holds a sample of the ray must have been visited.
            for (item, bounds) in &numbered {
                let holds = (0..=400).any(|step| {
                    let at = (from + way * limit * f64::from(step) / 400.0).to_array();
                    (0..3).all(|axis| {
                        let (low, high) = (f64::from(bounds.min[axis]), f64::from(bounds.max[axis]));
                        low <= at[axis] && at[axis] <= high
                    })
                });
                prop_assert!(!holds || seen.contains(item), "item {} was passed over", item);
            }
        }
    }
}
