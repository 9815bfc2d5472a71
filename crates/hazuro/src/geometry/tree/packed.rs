//! Trees of things that all move: packed close in a given order, again and again.

use super::{ITEM, Item, NONE, Node, Tree, WIDTH};

impl Tree {
    /// Makes it a tree of items that lie near one another where they are so in the list, as full as
    /// can be. Only for looking things up: it cannot be changed item by item. Gives the surface of
    /// the lowest nodes, which tells how well they are ordered.
    pub fn repack(&mut self, items: impl Iterator<Item = Item>) -> f32 {
        self.nodes.clear();
        self.count = 0;
        let mut surface = 0.0;
        // From the items upwards. No node is without a child.
        let mut filled = WIDTH;
        for item in items {
            if filled == WIDTH {
                self.nodes.push(Node::new(NONE));
                filled = 0;
            }
            if let Some(node) = self.nodes.last_mut() {
                node.set(filled, item.number | ITEM, &item.bounds);
                node.layers |= item.layers;
            }
            filled += 1;
            self.count += 1;
        }
        let mut level = 0..self.nodes.len();
        let lowest = level.end;
        while level.len() > 1 {
            let start = self.nodes.len();
            for first in level.clone().step_by(WIDTH) {
                let mut node = Node::new(NONE);
                for child in first..(first + WIDTH).min(level.end) {
                    let whole = self.nodes[child].whole();
                    surface += if start == lowest { whole.cost() } else { 0.0 };
                    node.set(child - first, child as u32, &whole);
                    node.layers |= self.nodes[child].layers;
                }
                self.nodes.push(node);
            }
            level = start..self.nodes.len();
        }
        self.root = if self.nodes.is_empty() { NONE } else { self.nodes.len() as u32 - 1 };
        surface
    }
}
