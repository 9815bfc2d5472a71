//! Pictures of scenes and plays, play in the terminal, report pages.
//!
//! Everything here reads a [`Play`](hazuro::Play) through the core's public API; the core knows
//! nothing of it. One palette, one set of [marks](Mark) and one legend serve picture, page and
//! terminal.

mod figures;
mod hosted;
mod outline;
mod page;
mod picture;
mod recording;
mod report;
mod rewind;
mod terminal;
mod theme;
mod timeline;
mod view;

pub use figures::{AFTERGLOW, Drawn, Figure, Firings, figures};
pub use hosted::hosted_page;
pub use outline::{Outline, outlines};
pub use picture::{Picture, PngError, SIZES, chart, png};
pub use ratatui;
pub use recording::{Recording, Switches, Waypoint};
pub use report::Report;
pub use rewind::Rewind;
pub use terminal::{Closed, Console, show};
pub use theme::{Colour, DARK, LIGHT, Mark, Palette};
pub use timeline::{Row, Span, Tick, Timeline};
pub use view::{Flat, View, Window};

/// The example of the page on seeing, so that it stays true.
#[doc = include_str!("../../../docs/see.md")]
#[cfg(doctest)]
struct See;
