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

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn label(at: Flat, text: &str, weight: u8) -> Label {
        let scene = hazuro::Scene::builder("Yard").entity(hazuro::scene::Entity::new("a"));
        let of = scene.build().unwrap().find("a").unwrap();
        Label { at, gap: 5.0, text: text.into(), of, class: "ink".into(), weight }
    }

    fn rect(name: &Placed) -> Rect {
        let [x, y] = name.begins;
        let width = letters::width(&name.label.text, SIZE);
        ([x - 2.0, y - SIZE], [x + width + 2.0, y + 3.0])
    }

    proptest! {
        /// No two names overlap, none lies on what is taken or outside, none is lost.
        #[test]
        fn names_never_overlap(
            places in prop::collection::vec(([0.0..400.0, 0.0..300.0_f64], "[a-z_]{1,14}", 0_u8..9), 1..80),
            taken in prop::collection::vec(([0.0..380.0, 0.0..280.0_f64], [4.0..60.0, 4.0..40.0_f64]), 0..6),
        ) {
            let area = ([0.0, 0.0], [400.0, 300.0]);
            let taken: Vec<Rect> =
                taken.iter().map(|([x, y], [w, h])| ([*x, *y], [x + w, y + h])).collect();
            let labels: Vec<Label> =
                places.iter().map(|(at, text, weight)| label(*at, text, *weight)).collect();
            let (placed, left_out) = place(labels.clone(), area, taken.clone());
            prop_assert_eq!(placed.len() + left_out.len(), labels.len());
            for (index, one) in placed.iter().enumerate() {
                let own = rect(one);
                prop_assert!(own.0[0] > -0.1 && own.0[1] > -0.1);
                prop_assert!(own.1[0] < 400.1 && own.1[1] < 300.1);
                for other in placed[index + 1..].iter().map(rect).chain(taken.iter().copied()) {
                    let shrunk = ([own.0[0] + 0.05, own.0[1] + 0.05], [own.1[0] - 0.05, own.1[1] - 0.05]);
                    prop_assert!(!overlap(&shrunk, &other), "{:?}", one.label.text);
                }
            }
            prop_assert_eq!(place(labels, area, taken), (placed, left_out), "the same each time");
        }
    }

    #[test]
    fn who_weighs_more_is_named_first_and_a_line_leads_to_who_is_named_from_afar() {
        let area = ([0.0, 0.0], [90.0, 20.0]);
        let (placed, left_out) = place(
            vec![label([45.0, 10.0], "meal", 1), label([45.0, 10.0], "miller", 9)],
            area,
            vec![],
        );
        assert_eq!(placed[0].label.text, "miller");
        assert!(placed.len() == 2 || left_out == ["meal"]);
        let wide = ([0.0, 0.0], [300.0, 300.0]);
        let here = ([120.0, 120.0], [180.0, 180.0]);
        let (placed, _) = place(vec![label([150.0, 150.0], "mill", 1)], wide, vec![here]);
        assert!(placed[0].led, "it is beyond what is taken");
        let (placed, _) = place(vec![label([150.0, 150.0], "mill", 1)], wide, vec![]);
        assert!(!placed[0].led);
    }
}
