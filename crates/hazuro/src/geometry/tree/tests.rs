//! The tree against plain lists.

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

fn item(number: u32, bounds: Bounds) -> Item {
    Item { number, bounds, layers: layers(number) }
}

/// Every third item is in the second layer, too.
fn layers(number: u32) -> u64 {
    if number.is_multiple_of(3) { 3 } else { 1 }
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
        let items: Vec<Item> = numbered.iter().map(|(n, bounds)| item(*n, *bounds)).collect();
        let mut tree = Tree::build(&items);
        let mut list: BTreeMap<u32, Bounds> = numbered.into_iter().collect();
        tree.assert_sound(&list);
        for (number, change) in changes {
            #[expect(clippy::single_match_else, reason = "two cases of equal weight")]
            match change {
                Some(bounds) => {
                    tree.set(item(number, bounds));
                    list.insert(number, bounds);
                }
                None => {
                    tree.remove(number);
                    list.remove(&number);
                }
            }
            prop_assert_eq!(tree.bounds(number), list.get(&number).copied());
        }
        tree.assert_sound(&list);
        for asked in asked {
            let mut found = Vec::new();
            tree.meeting(&asked, 1, |item| found.push(item));
            found.sort_unstable();
            let expected: Vec<u32> =
                list.iter().filter(|(_, b)| meet(b, &asked)).map(|(item, _)| *item).collect();
            prop_assert_eq!(found, expected);
            let mut found = Vec::new();
            tree.meeting(&asked, 2, |item| found.push(item));
            for (number, bounds) in &list {
                let wanted = layers(*number) & 2 != 0 && meet(bounds, &asked);
                prop_assert!(!wanted || found.contains(number));
            }
        }
    }

    #[test]
    fn a_packed_tree_finds_what_a_plain_list_finds(
        first in prop::collection::vec(bounds(), 0..90),
        second in prop::collection::vec(bounds(), 0..90),
        asked in bounds(),
    ) {
        let mut tree = Tree::default();
        // Packed again, nothing is left of what was in it before.
        for list in [&first, &second] {
            tree.repack((0..).zip(list).map(|(number, bounds)| item(number, *bounds)));
            prop_assert_eq!(tree.len(), list.len());
            for layers_asked in [1, 2] {
                let mut found = Vec::new();
                tree.meeting(&asked, layers_asked, |item| found.push(item));
                found.retain(|number| layers(*number) & layers_asked != 0);
                found.sort_unstable();
                let expected = (0..).zip(list).filter(|(number, bounds)| {
                    layers(*number) & layers_asked != 0 && meet(bounds, &asked)
                });
                let expected: Vec<u32> = expected.map(|(number, _)| number).collect();
                prop_assert_eq!(found, expected);
            }
        }
    }

    #[test]
    fn walks_come_to_what_a_plain_list_holds(
        items in prop::collection::vec(bounds(), 1..150),
        from in [-60.0..60.0_f64, -9.0..9.0, -60.0..60.0],
        way in [-1.0..1.0_f64, -1.0..1.0, -1.0..1.0],
        limit in 0.0..90.0_f64,
    ) {
        let numbered: Vec<(u32, Bounds)> = (0..).zip(items).collect();
        let items: Vec<Item> = numbered.iter().map(|(n, bounds)| item(*n, *bounds)).collect();
        let mut tree = Tree::build(&items);
        let from = DVec3::from_array(from);
        let gap = |bounds: &Bounds| {
            let exact = |corner: [f32; 3]| DVec3::from_array(corner.map(f64::from));
            let nearest = from.clamp(exact(bounds.min), exact(bounds.max));
            nearest.distance(from)
        };
        let mut seen = Vec::new();
        tree.around(from, 1, limit, |item, limit| {
            seen.push(item);
            limit
        });
        for (number, bounds) in &numbered {
            prop_assert!(gap(bounds) > limit || seen.contains(number));
        }
        // With a limit that shrinks to the nearest so far, the nearest is come to.
        let mut nearest = f64::INFINITY;
        tree.around(from, 1, f64::INFINITY, |item, _| {
            nearest = nearest.min(gap(&numbered[item as usize].1));
            nearest
        });
        let expected = numbered.iter().map(|(_, bounds)| gap(bounds)).fold(f64::INFINITY, f64::min);
        prop_assert_eq!(nearest, expected);

        let Some(way) = DVec3::from_array(way).try_normalize() else { return Ok(()) };
        let beam = Beam::new(from, way, DVec3::ZERO);
        let mut seen = Vec::new();
        tree.along(&beam, 1, limit, |item, limit| {
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

        // Numbered anew, it is the same tree.
        let old = tree.renumber();
        let list = old.iter().map(|number| numbered[*number as usize].1);
        tree.assert_sound(&(0..).zip(list).collect());
    }
}
