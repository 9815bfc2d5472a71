//! Pages: one file that holds all it needs.

use std::fmt::Write as _;

use crate::picture::{HATCHES, escape, page_style};
use crate::theme::{DARK, LIGHT, Mark, Palette};

/// The look that all pages share.
const STYLE: &str = include_str!("../assets/page.css");

/// What one page has of its own.
pub(crate) struct Page<'a> {
    pub title: &'a str,
    pub style: &'a str,
    pub body: &'a str,
    /// What the script needs, as JSON in which nothing ends the element it stands in.
    pub data: &'a str,
    pub script: &'a str,
}

impl Page<'_> {
    pub fn html(&self) -> String {
        let Self { style, body, data, script, .. } = self;
        let (title, colours, drawings) = (escape(self.title), colours(), page_style());
        format!(
            "<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n\
             <meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n\
             <title>{title}</title>\n<style>\n{colours}{STYLE}{style}{drawings}</style>\n</head>\n\
             <body>\n<svg class=\"defs\" width=\"0\" height=\"0\" aria-hidden=\"true\"><defs>\
             {HATCHES}</defs></svg>\n{body}\n<script type=\"application/json\" id=\"data\">{data}\
             </script>\n<script>\n{script}</script>\n</body>\n</html>\n"
        )
    }
}

/// The colours of light and dark, as variables.
fn colours() -> String {
    let all = |palette: &Palette| {
        let mut css = format!(
            "--paper:{};--ink:{};--faint:{};",
            palette.paper.hex(),
            palette.ink.hex(),
            palette.faint.hex()
        );
        for mark in Mark::ALL {
            let _ = write!(css, "--{}:{};", mark.code(), palette.of(mark).hex());
        }
        css
    };
    let (light, dark) = (all(&LIGHT), all(&DARK));
    format!(
        ":root{{color-scheme:light dark;{light}}}\n@media (prefers-color-scheme:dark){{\
         :root:not([data-ground=light]){{{dark}}}}}\n:root[data-ground=dark]{{color-scheme:dark;\
         {dark}}}\n:root[data-ground=light]{{color-scheme:light}}\n@media print{{\
         :root,:root:not([data-ground=light]),:root[data-ground=dark]{{{light}}}}}\n"
    )
}
