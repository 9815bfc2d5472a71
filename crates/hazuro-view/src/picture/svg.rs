//! Writing SVG: the few elements that pictures are made of.

use std::collections::BTreeSet;
use std::fmt::Write;

use crate::theme::{Mark, Palette};
use crate::view::Flat;

use super::letters;

/// Where a text begins, relative to its place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Anchor {
    Start,
    Middle,
    End,
}

/// A drawing being made. Lengths are pixels, y points down.
pub(crate) struct Svg {
    /// What its ids begin with, so that several can stand in one page.
    id: &'static str,
    size: [f64; 2],
    body: String,
    glyphs: BTreeSet<letters::Glyph>,
    clips: usize,
}

/// A number in as few digits as show no difference.
pub(crate) fn short(number: f64) -> String {
    let text = format!("{:.1}", number + 0.0);
    let text = text.strip_suffix(".0").unwrap_or(&text);
    if text == "-0" { "0".into() } else { text.into() }
}

/// A text with what means something in XML escaped; what XML cannot hold at all is left out.
pub(crate) fn escape(text: &str) -> String {
    let mut escaped = String::with_capacity(text.len());
    for letter in text.chars() {
        match letter {
            '&' => escaped.push_str("&amp;"),
            '<' => escaped.push_str("&lt;"),
            '>' => escaped.push_str("&gt;"),
            '"' => escaped.push_str("&quot;"),
            '\'' => escaped.push_str("&#39;"),
            '\t' | '\n' | '\r' => escaped.push(' '),
            letter if letter < ' ' => {}
            letter => escaped.push(letter),
        }
    }
    escaped
}

/// The `d` of a path along points.
pub(crate) fn along(points: &[Flat], closed: bool) -> String {
    let mut d = String::new();
    for (index, [x, y]) in points.iter().enumerate() {
        let _ = write!(d, "{}{} {}", if index == 0 { "M" } else { "L" }, short(*x), short(*y));
    }
    if closed {
        d.push('Z');
    }
    d
}

impl Svg {
    pub fn new(id: &'static str, size: [f64; 2]) -> Self {
        Self { id, size, body: String::new(), glyphs: BTreeSet::new(), clips: 0 }
    }

    pub fn size(&self) -> [f64; 2] {
        self.size
    }

    /// Adds all that another of the same id holds.
    pub fn append(&mut self, other: Self) {
        self.body.push_str(&other.body);
        self.glyphs.extend(other.glyphs);
    }

    /// Begins a group of a class; what is said of it is for programs that read the page aloud.
    pub fn begin(&mut self, class: &str, data: &[(&str, &str)]) {
        let _ = write!(self.body, "<g class=\"{}\"", escape(class));
        for (name, value) in data {
            let _ = write!(self.body, " {name}=\"{}\"", escape(value));
        }
        self.body.push('>');
    }

    pub fn end(&mut self) {
        self.body.push_str("</g>\n");
    }

    /// What is drawn from here on to the end of the group shows only in this rectangle.
    pub fn begin_clip(&mut self, [x, y]: Flat, [width, height]: [f64; 2]) {
        self.clips += 1;
        let (x, y, width, height) = (short(x), short(y), short(width), short(height));
        let _ = write!(
            self.body,
            "<clipPath id=\"{1}clip{0}\"><rect x=\"{x}\" y=\"{y}\" width=\"{width}\" \
             height=\"{height}\"/></clipPath><g clip-path=\"url(#{1}clip{0})\">",
            self.clips, self.id
        );
    }

    pub fn path(&mut self, class: &str, d: &str) {
        let _ = write!(self.body, "<path class=\"{class}\" d=\"{d}\"/>");
    }

    pub fn path_with(&mut self, class: &str, d: &str, more: &str) {
        let _ = write!(self.body, "<path class=\"{class}\" d=\"{d}\" {more}/>");
    }

    pub fn line(&mut self, class: &str, from: Flat, to: Flat) {
        self.path(class, &along(&[from, to], false));
    }

    pub fn rect(&mut self, class: &str, [x, y]: Flat, [width, height]: [f64; 2]) {
        let (x, y, width, height) = (short(x), short(y), short(width), short(height));
        let _ = write!(
            self.body,
            "<rect class=\"{class}\" x=\"{x}\" y=\"{y}\" width=\"{width}\" height=\"{height}\"/>"
        );
    }

    pub fn circle(&mut self, class: &str, [x, y]: Flat, radius: f64) {
        let (x, y, radius) = (short(x), short(y), short(radius));
        let _ =
            write!(self.body, "<circle class=\"{class}\" cx=\"{x}\" cy=\"{y}\" r=\"{radius}\"/>");
    }

    /// What is told when the pointer rests on the group just begun.
    pub fn hint(&mut self, text: &str) {
        let _ = write!(self.body, "<title>{}</title>", escape(text));
    }

    /// A text in one line, its baseline at `y`.
    pub fn text(&mut self, class: &str, [x, y]: Flat, size: f64, anchor: Anchor, text: &str) {
        let x = match anchor {
            Anchor::Start => x,
            Anchor::Middle => x - letters::width(text, size) / 2.0,
            Anchor::End => x - letters::width(text, size),
        };
        let scale = size / letters::units();
        let _ = write!(
            self.body,
            "<g class=\"text {class}\" transform=\"translate({} {}) scale({scale:.5})\" \
             role=\"img\" aria-label=\"{}\">",
            short(x),
            short(y),
            escape(text)
        );
        for ((glyph, at), letter) in letters::set(text).zip(text.chars()) {
            if letter.is_whitespace() {
                continue;
            }
            self.glyphs.insert(glyph);
            let _ = write!(self.body, "<use href=\"#{}l{glyph}\" x=\"{}\"/>", self.id, short(at));
        }
        self.body.push_str("</g>");
    }

    /// The whole file, in a palette.
    pub fn finish(self, title: &str, palette: &Palette) -> String {
        let style = style(palette);
        self.assemble(title, &format!("<style>{style}</style>"), true)
    }

    /// To stand in a page, whose own style colours it.
    pub fn finish_inline(self, title: &str) -> String {
        self.assemble(title, "", false)
    }

    fn assemble(self, title: &str, style: &str, alone: bool) -> String {
        let [width, height] = self.size.map(short);
        let title = escape(title);
        let (space, hatches, paper) = if alone {
            let space = format!(
                "xmlns=\"http://www.w3.org/2000/svg\" width=\"{width}\" height=\"{height}\" "
            );
            let paper = format!("<rect class=\"paper\" width=\"{width}\" height=\"{height}\"/>");
            (space, HATCHES, paper)
        } else {
            (String::new(), "", String::new())
        };
        let mut defs = String::new();
        for glyph in &self.glyphs {
            let _ = write!(
                defs,
                "<path id=\"{}l{glyph}\" d=\"{}\"/>",
                self.id,
                letters::outline(*glyph)
            );
        }
        format!(
            "<svg {space}viewBox=\"0 0 {width} {height}\" role=\"img\" aria-label=\"{title}\">\
             <title>{title}</title>{style}<defs>{hatches}{defs}</defs>\n{paper}{}</svg>\n",
            self.body
        )
    }
}

/// The hatches by which what detects somebody, and what has just fired, differ from the rest
/// without any colour.
pub(crate) const HATCHES: &str = "<pattern id=\"hatch-occupied\" width=\"7\" height=\"7\" \
    patternUnits=\"userSpaceOnUse\" patternTransform=\"rotate(45)\"><path class=\"h-occupied\" \
    d=\"M0 0V7\"/></pattern><pattern id=\"hatch-fired\" width=\"7\" height=\"7\" \
    patternUnits=\"userSpaceOnUse\" patternTransform=\"rotate(45)\"><path class=\"h-fired\" \
    d=\"M0 0V7M0 0H7\"/></pattern>";

/// The style of a drawing in a palette.
pub(crate) fn style(palette: &Palette) -> String {
    rules(&|mark| palette.of(mark).hex(), &|name| {
        let colour = match name {
            "paper" => palette.paper,
            "ink" => palette.ink,
            _ => palette.faint,
        };
        colour.hex()
    })
}

/// The style of drawings in a page, whose colours are variables there.
pub(crate) fn page_style() -> String {
    rules(&|mark| format!("var(--{})", mark.code()), &|name| format!("var(--{name})"))
}

fn rules(of: &dyn Fn(Mark) -> String, named: &dyn Fn(&str) -> String) -> String {
    let (paper, ink, faint) = (named("paper"), named("ink"), named("faint"));
    let mut css = format!(
        ".paper{{fill:{paper}}}.frame{{fill:none;stroke:{faint}}}.grid{{stroke:{faint};\
         stroke-width:.5;stroke-opacity:.35;fill:none}}.ink{{fill:{ink}}}.faint{{fill:{faint}}}\
         .rule{{stroke:{ink};stroke-width:1.4;fill:none}}.leader{{stroke:{faint};stroke-width:.7}}\
         .halo{{fill:{paper};fill-opacity:.82}}.onmark{{fill:{paper}}}"
    );
    for mark in Mark::ALL {
        let (code, colour) = (mark.code(), of(mark));
        let fill = match mark {
            Mark::Occupied => "fill:url(#hatch-occupied)".to_owned(),
            Mark::Fired => "fill:url(#hatch-fired)".to_owned(),
            Mark::Ground => format!("fill:{colour};fill-opacity:.14;stroke:none"),
            Mark::Solid => format!("fill:{colour};fill-opacity:.42"),
            Mark::Player => format!("fill:{colour};fill-opacity:.85"),
            Mark::Body => format!("fill:{colour};fill-opacity:.3"),
            Mark::Sight => format!("fill:{colour};fill-opacity:.07"),
            Mark::Effect => format!("fill:{colour};fill-opacity:.5"),
            Mark::Event | Mark::Refused | Mark::Said => format!("fill:{colour}"),
            _ => "fill:none".to_owned(),
        };
        let stroke = if mark == Mark::Ground { String::new() } else { format!("stroke:{colour};") };
        let dashes =
            mark.dashes().map_or(String::new(), |dashes| format!("stroke-dasharray:{dashes};"));
        let width = mark.width();
        let _ = write!(css, ".m-{code}{{{stroke}stroke-width:{width};{dashes}{fill}}}");
        let _ = write!(css, ".t-{code}{{fill:{colour}}}");
    }
    css += ".sign{stroke-dasharray:none}";
    for (name, mark) in [("h-occupied", Mark::Occupied), ("h-fired", Mark::Fired)] {
        let _ = write!(css, ".{name}{{stroke:{};stroke-width:1;fill:none}}", of(mark));
    }
    css
}
