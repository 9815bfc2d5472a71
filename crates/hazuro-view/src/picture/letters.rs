//! Text as outlines, so that it looks the same on any machine, and is as wide as it was reckoned.
//!
//! The letters are those of an open font that is shipped with the crate (`assets/letters.LICENSE`).

use std::fmt::Write;
use std::sync::LazyLock;

use ttf_parser::{Face, GlyphId, OutlineBuilder};

static FACE: LazyLock<Face<'static>> = LazyLock::new(|| {
    Face::parse(include_bytes!("../../assets/letters.ttf"), 0)
        .expect("the shipped font can be read")
});

/// The number of a letter's outline.
pub(crate) type Glyph = u16;

/// How many units of the font an em has.
pub(crate) fn units() -> f64 {
    f64::from(FACE.units_per_em())
}

/// The outline that stands for a letter the font does not have.
fn glyph(letter: char) -> GlyphId {
    FACE.glyph_index(letter).or_else(|| FACE.glyph_index('\u{fffd}')).unwrap_or_default()
}

/// The letters of a text, each with where it begins, in units of the font.
pub(crate) fn set(text: &str) -> impl Iterator<Item = (Glyph, f64)> {
    let mut at = 0.0;
    text.chars().map(move |letter| {
        let (id, begins) = (glyph(letter), at);
        at += f64::from(FACE.glyph_hor_advance(id).unwrap_or_default());
        (id.0, begins)
    })
}

/// How wide a text of this size is, in pixels.
pub(crate) fn width(text: &str, size: f64) -> f64 {
    let advance = |letter| f64::from(FACE.glyph_hor_advance(glyph(letter)).unwrap_or_default());
    text.chars().map(advance).sum::<f64>() / units() * size
}

/// A text cut to a width, with an ellipsis if something had to go.
pub(crate) fn fit(text: &str, size: f64, most: f64) -> String {
    if width(text, size) <= most {
        return text.to_owned();
    }
    let mut kept: String = text.to_owned();
    while !kept.is_empty() && width(&kept, size) + width("…", size) > most {
        kept.pop();
    }
    format!("{}…", kept.trim_end())
}

/// The outline of a letter, as the `d` of an SVG path; y points down.
pub(crate) fn outline(id: Glyph) -> String {
    let mut path = Path::default();
    FACE.outline_glyph(GlyphId(id), &mut path);
    path.0
}

#[derive(Default)]
struct Path(String);

impl OutlineBuilder for Path {
    fn move_to(&mut self, x: f32, y: f32) {
        let _ = write!(self.0, "M{x} {}", -y);
    }
    fn line_to(&mut self, x: f32, y: f32) {
        let _ = write!(self.0, "L{x} {}", -y);
    }
    fn quad_to(&mut self, x1: f32, y1: f32, x: f32, y: f32) {
        let _ = write!(self.0, "Q{x1} {} {x} {}", -y1, -y);
    }
    fn curve_to(&mut self, x1: f32, y1: f32, x2: f32, y2: f32, x: f32, y: f32) {
        let _ = write!(self.0, "C{x1} {} {x2} {} {x} {}", -y1, -y2, -y);
    }
    fn close(&mut self) {
        self.0.push('Z');
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn texts_are_as_wide_as_their_letters() {
        let apart: f64 = "mill".chars().map(|letter| width(&letter.to_string(), 12.0)).sum();
        assert!((width("mill", 12.0) - apart).abs() < 1e-9);
        assert!((width("mill", 24.0) - 2.0 * width("mill", 12.0)).abs() < 1e-9);
        assert!(width("W", 12.0) > 2.0 * width("i", 12.0));
        let begins: Vec<f64> = set("ii").map(|(_, at)| at).collect();
        assert_eq!(begins[0], 0.0);
        assert!((begins[1] / units() * 12.0 - width("i", 12.0)).abs() < 1e-9);
    }

    #[test]
    fn what_is_too_wide_is_cut_and_what_is_unknown_is_shown() {
        assert_eq!(fit("sluice_pad", 11.0, 500.0), "sluice_pad");
        let cut = fit("sluice_pad", 11.0, 40.0);
        assert!(cut.ends_with('…') && width(&cut, 11.0) <= 40.0, "{cut}");
        assert_eq!(fit("sluice_pad", 11.0, 1.0), "…");
        for letter in ["a", "é", "Ж", "ω", "→"] {
            assert!(outline(set(letter).next().unwrap().0).starts_with('M'), "{letter}");
        }
        let unknown = set("水").next().unwrap().0;
        assert_eq!(unknown, set("\u{fffd}").next().unwrap().0);
    }
}
