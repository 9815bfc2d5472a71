//! Dividing the items of a tree among the children of a node.

use super::{Bounds, Item, WIDTH};

/// How many bins the items are sorted into along an axis.
const BINS: usize = 16;

/// Some of the items, by their places in the order, and the bounds of all of them.
#[derive(Clone, Copy, Debug)]
pub(super) struct Range {
    pub start: usize,
    pub end: usize,
    pub bounds: Bounds,
}

impl Range {
    fn new(items: &[Item], order: &[u32], start: usize, end: usize) -> Self {
        let all = order[start..end].iter();
        let bounds = all.fold(Bounds::EMPTY, |all, item| all.join(&items[*item as usize].bounds));
        Self { start, end, bounds }
    }

    fn len(&self) -> usize {
        self.end - self.start
    }

    /// What it costs to leave it whole.
    fn cost(&self) -> f32 {
        if self.len() == 1 { f32::NEG_INFINITY } else { self.bounds.cost() * self.len() as f32 }
    }
}

/// Divides the items, reordering them, into up to four ranges that are cheap to tell apart.
pub(super) fn quarters(items: &[Item], order: &mut [u32]) -> Vec<Range> {
    let mut ranges = vec![Range::new(items, order, 0, order.len())];
    while ranges.len() < WIDTH {
        let costliest = (0..ranges.len())
            .max_by(|one, other| ranges[*one].cost().total_cmp(&ranges[*other].cost()));
        let Some(index) = costliest.filter(|index| ranges[*index].len() > 1) else { break };
        let whole = ranges[index];
        let middle = whole.start + halve(items, &mut order[whole.start..whole.end]);
        ranges[index] = Range::new(items, order, whole.start, middle);
        ranges.insert(index + 1, Range::new(items, order, middle, whole.end));
    }
    ranges
}

/// Splits the items in two and gives where: both sides have at least one.
fn halve(items: &[Item], order: &mut [u32]) -> usize {
    let middle = |item: u32, axis: usize| items[item as usize].bounds.middle(axis);
    let mut best: Option<(f32, usize, f32, f32)> = None;
    for axis in 0..3 {
        let ends = order.iter().map(|item| middle(*item, axis));
        let low = ends.clone().fold(f32::INFINITY, f32::min);
        let high = ends.fold(f32::NEG_INFINITY, f32::max);
        if low >= high {
            continue;
        }
        let scale = BINS as f32 / (high - low);
        let mut bins = [(0_usize, Bounds::EMPTY); BINS];
        for item in order.iter() {
            let bin = &mut bins[bin_of(middle(*item, axis), low, scale)];
            *bin = (bin.0 + 1, bin.1.join(&items[*item as usize].bounds));
        }
        // The cost of splitting after each bin: from the left, then from the right.
        let mut costs = [0.0; BINS];
        let mut left = (0, Bounds::EMPTY);
        for (cost, bin) in costs.iter_mut().zip(&bins) {
            left = (left.0 + bin.0, left.1.join(&bin.1));
            *cost = left.0 as f32 * left.1.cost();
        }
        let mut right = (0, Bounds::EMPTY);
        for bin in (1..BINS).rev() {
            right = (right.0 + bins[bin].0, right.1.join(&bins[bin].1));
            let cost = costs[bin - 1] + right.0 as f32 * right.1.cost();
            if right.0 > 0 && right.0 < order.len() && best.is_none_or(|best| cost < best.0) {
                best = Some((cost, axis, low, bin as f32 / scale));
            }
        }
    }
    let half = order.len() / 2;
    let Some((_, axis, low, offset)) = best else { return half };
    let goes_first = |item: u32| middle(item, axis) - low < offset;
    let count = partition(order, goes_first);
    // Rounding may put everything on one side.
    if count == 0 || count == order.len() { half } else { count }
}

fn bin_of(middle: f32, low: f32, scale: f32) -> usize {
    (((middle - low) * scale) as usize).min(BINS - 1)
}

/// Moves the items that `first` holds for to the front, and counts them.
fn partition(order: &mut [u32], first: impl Fn(u32) -> bool) -> usize {
    let mut count = 0;
    for index in 0..order.len() {
        if first(order[index]) {
            order.swap(index, count);
            count += 1;
        }
    }
    count
}
