//! Placing names beside what they name, so that no two overlap.

use hazuro::EntityId;

use crate::view::Flat;

use super::letters;

/// A name to be placed.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Label {
    /// What it belongs to, in pixels.
    pub at: Flat,
    /// How far from there it must at least begin.
    pub gap: f64,
    pub text: String,
    /// Whose it is.
    pub of: EntityId,
    /// Of which class it is.
    pub class: String,
    /// Those of more weight are placed first.
    pub weight: u8,
}

/// A name in its place.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Placed {
    pub label: Label,
    /// Where its baseline begins.
    pub begins: Flat,
    /// Whether it stands so far off that a line must lead to it.
    pub led: bool,
}

/// A rectangle of pixels: its least and its greatest corner.
pub(crate) type Rect = (Flat, Flat);

/// How large names are, in pixels.
pub(crate) const SIZE: f64 = 11.0;
/// More names than this no picture holds.
const MOST: usize = 500;
/// How far off a name is tried, ring by ring, in pixels.
const RINGS: [f64; 5] = [0.0, 9.0, 20.0, 34.0, 52.0];

/// Places names in an area, clear of what is taken already. Those for which there is no room come
/// back by themselves.
pub(crate) fn place(
    mut labels: Vec<Label>,
    area: Rect,
    mut taken: Vec<Rect>,
) -> (Vec<Placed>, Vec<String>) {
    labels.sort_by_key(|label| std::cmp::Reverse(label.weight));
    let (mut placed, mut left_out) = (Vec::new(), Vec::new());
    for (index, label) in labels.into_iter().enumerate() {
        let spot = if index < MOST { find(&label, area, &taken) } else { None };
        match spot {
            Some((rect, ring)) => {
                taken.push(rect);
                let begins = [rect.0[0] + 2.0, rect.1[1] - 3.0];
                placed.push(Placed { label, begins, led: ring > 1 });
            }
            None => left_out.push(label.text),
        }
    }
    (placed, left_out)
}

/// To the right, to the left, above, below, and between.
const WAYS: [Flat; 8] = [
    [1.0, 0.0],
    [-1.0, 0.0],
    [0.0, -1.0],
    [0.0, 1.0],
    [0.8, -0.8],
    [0.8, 0.8],
    [-0.8, -0.8],
    [-0.8, 0.8],
];

/// The rectangle of the nearest free spot, and in which ring it is.
fn find(label: &Label, (least, most): Rect, taken: &[Rect]) -> Option<(Rect, usize)> {
    let (width, height) = (letters::width(&label.text, SIZE) + 4.0, SIZE + 3.0);
    for (ring, more) in RINGS.into_iter().enumerate() {
        for [right, down] in WAYS {
            let middle = [
                label.at[0] + right * (label.gap + more + width / 2.0),
                label.at[1] + down * (label.gap + more + height / 2.0),
            ];
            let rect = (
                [middle[0] - width / 2.0, middle[1] - height / 2.0],
                [middle[0] + width / 2.0, middle[1] + height / 2.0],
            );
            let fits = rect.0[0] >= least[0]
                && rect.0[1] >= least[1]
                && rect.1[0] <= most[0]
                && rect.1[1] <= most[1];
            if fits && !taken.iter().any(|other| overlap(&rect, other)) {
                return Some((rect, ring));
            }
        }
    }
    None
}

pub(crate) fn overlap(one: &Rect, other: &Rect) -> bool {
    one.0[0] < other.1[0] && other.0[0] < one.1[0] && one.0[1] < other.1[1] && other.0[1] < one.1[1]
}
