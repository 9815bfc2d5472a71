//! A tree of bounding boxes, four to a node.
//!
//! Each node keeps the bounds of its four children side by side, so that one pass tests all four.
//! A tree is built at once by the surface area heuristic (J. Goldsmith, J. Salmon, "Automatic
//! creation of object hierarchies for ray tracing", IEEE Computer Graphics and Applications 7(5),
//! 1987), with bins (I. Wald, "On fast construction of SAH-based bounding volume hierarchies",
//! IEEE Symposium on Interactive Ray Tracing, 2007), and changed item by item after that: what did
//! not change is never rebuilt.

mod bounds;
mod build;
mod packed;
mod walk;

pub(crate) use bounds::Bounds;
use glam::Vec4;
use smallvec::SmallVec;
pub(crate) use walk::Beam;

/// Children of a node.
const WIDTH: usize = 4;
/// No child, no parent, not in the tree.
const NONE: u32 = u32::MAX;
/// Marks a child that is an item.
const ITEM: u32 = 1 << 31;

/// A node: the bounds of its children, axis by axis, and the children themselves. Two cache lines.
#[derive(Clone, Debug)]
struct Node {
    min: [Vec4; 3],
    max: [Vec4; 3],
    child: [u32; WIDTH],
    /// The layers of everything below; perhaps more, once something has been taken out.
    layers: u64,
    /// The node above and the place in it, or [`NONE`].
    parent: u32,
}

/// Something to be found in a tree.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Item {
    /// Its number, which no other item has.
    pub number: u32,
    pub bounds: Bounds,
    /// The layers it is in, a bit each.
    pub layers: u64,
}

/// Items by number, found by their bounds.
#[derive(Clone, Debug)]
pub(crate) struct Tree {
    nodes: Vec<Node>,
    /// Nodes that are not in use.
    spare: Vec<u32>,
    root: u32,
    /// Where each item is: its node and its place there, or [`NONE`].
    places: Vec<u32>,
    count: usize,
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
            min: [Vec4::INFINITY; 3],
            max: [Vec4::NEG_INFINITY; 3],
            child: [NONE; WIDTH],
            layers: 0,
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
        Bounds { min: self.min.map(Vec4::min_element), max: self.max.map(Vec4::max_element) }
    }

    /// The children whose bounds meet `bounds`. Missing children meet nothing.
    fn meeting(&self, bounds: &Bounds) -> Mask {
        let mut apart = Mask::default();
        for axis in 0..3 {
            apart |= self.min[axis].cmpgt(Vec4::splat(bounds.max[axis])).bitmask();
            apart |= self.max[axis].cmplt(Vec4::splat(bounds.min[axis])).bitmask();
        }
        !apart & 0xf
    }
}

impl Default for Tree {
    fn default() -> Self {
        Self { nodes: Vec::new(), spare: Vec::new(), root: NONE, places: Vec::new(), count: 0 }
    }
}

impl Tree {
    /// A tree of these items.
    pub fn build(items: &[Item]) -> Self {
        let mut tree = Self::default();
        if items.is_empty() {
            return tree;
        }
        let most = items.iter().map(|item| item.number).max().unwrap_or(0) as usize;
        tree.places.resize(most + 1, NONE);
        let mut order: Vec<u32> = (0..items.len() as u32).collect();
        tree.root = tree.subtree(items, &mut order, NONE);
        tree.count = items.len();
        tree.nodes.shrink_to_fit();
        tree
    }

    /// Makes the node that holds some of `items`, which are reordered on the way.
    fn subtree(&mut self, items: &[Item], order: &mut [u32], parent: u32) -> u32 {
        let node = self.new_node(parent);
        let mut layers = 0;
        for (slot, range) in build::quarters(items, order).into_iter().enumerate() {
            let (bounds, part) = (range.bounds, &mut order[range.start..range.end]);
            let child = match part {
                [single] => {
                    let item = &items[*single as usize];
                    self.places[item.number as usize] = place(node, slot);
                    layers |= item.layers;
                    item.number | ITEM
                }
                several => {
                    let child = self.subtree(items, several, place(node, slot));
                    layers |= self.nodes[child as usize].layers;
                    child
                }
            };
            self.nodes[node as usize].set(slot, child, &bounds);
        }
        self.nodes[node as usize].layers = layers;
        node
    }

    /// Numbers the items anew, from 0, those near one another alike. Gives the old number of each.
    pub fn renumber(&mut self) -> Vec<u32> {
        let mut old = Vec::new();
        let mut waiting = if self.is_empty() { vec![] } else { vec![self.root] };
        let mut places = vec![NONE; self.places.len()];
        while let Some(here) = waiting.pop() {
            for (slot, child) in self.nodes[here as usize].child.iter_mut().enumerate() {
                if *child != NONE && *child & ITEM == 0 {
                    waiting.push(*child);
                } else if *child != NONE {
                    places[old.len()] = place(here, slot);
                    old.push(*child & !ITEM);
                    *child = (old.len() - 1) as u32 | ITEM;
                }
            }
        }
        places.truncate(old.len());
        self.places = places;
        old
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

    /// How many items there are.
    pub fn len(&self) -> usize {
        self.count
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
    pub fn set(&mut self, Item { number: item, ref bounds, layers }: Item) {
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
        self.insert(item, bounds, layers);
    }

    fn insert(&mut self, item: u32, bounds: &Bounds, layers: u64) {
        self.count += 1;
        if self.root == NONE {
            self.root = self.new_node(NONE);
        }
        let mut here = self.root;
        loop {
            let node = &mut self.nodes[here as usize];
            node.layers |= layers;
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
            self.nodes[below as usize].layers = self.nodes[here as usize].layers;
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
        self.count -= 1;
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

    /// Calls `visit` with each item whose bounds meet `bounds`, in no particular order. Where
    /// nothing is in any of `layers` is passed over; single items are not tested.
    pub fn meeting(&self, bounds: &Bounds, layers: u64, mut visit: impl FnMut(u32)) {
        self.meeting_bounds(bounds, layers, |item, _| visit(item));
    }

    /// As [`meeting`](Self::meeting), with the bounds of each item.
    pub fn meeting_bounds(&self, bounds: &Bounds, layers: u64, mut visit: impl FnMut(u32, Bounds)) {
        if self.root == NONE {
            return;
        }
        let mut waiting: SmallVec<[u32; 64]> = SmallVec::new();
        waiting.push(self.root);
        while let Some(here) = waiting.pop() {
            let node = &self.nodes[here as usize];
            if node.layers & layers == 0 {
                continue;
            }
            let mut mask = node.meeting(bounds);
            while mask != 0 {
                let slot = mask.trailing_zeros() as usize;
                let child = node.child[slot];
                mask &= mask - 1;
                if child & ITEM == 0 {
                    waiting.push(child);
                } else {
                    visit(child & !ITEM, node.bounds(slot));
                }
            }
        }
    }
}

#[cfg(test)]
mod tests;
