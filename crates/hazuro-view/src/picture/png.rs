//! From SVG to PNG.

use std::fmt;

use resvg::tiny_skia::{Pixmap, Transform};
use resvg::usvg::{Options, Tree};

/// Why an SVG could not be made a PNG.
#[derive(Debug)]
pub struct PngError(String);

impl fmt::Display for PngError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "the picture cannot be drawn: {}", self.0)
    }
}

impl std::error::Error for PngError {}

/// Renders an SVG of this crate. Texts are outlines in it, so no fonts are asked for.
///
/// See [`Picture`](crate::Picture) for an example.
///
/// # Errors
/// If it is no SVG, or larger than memory.
pub fn png(svg: &str) -> Result<Vec<u8>, PngError> {
    let tree =
        Tree::from_str(svg, &Options::default()).map_err(|error| PngError(error.to_string()))?;
    let size = tree.size().to_int_size();
    let mut pixels = Pixmap::new(size.width(), size.height())
        .ok_or_else(|| PngError(format!("{} by {} pixels", size.width(), size.height())))?;
    resvg::render(&tree, Transform::identity(), &mut pixels.as_mut());
    pixels.encode_png().map_err(|error| PngError(error.to_string()))
}
