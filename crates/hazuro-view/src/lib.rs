//! Pictures of scenes and plays, play in the terminal, report pages.
//!
//! Everything here reads a [`Play`](hazuro::Play) through the core's public API; the core knows
//! nothing of it. One palette, one set of [marks](Mark) and one legend serve picture, page and
//! terminal.

mod film;
mod hosted;
mod marks;
mod outline;
mod page;
mod picture;
mod reel;
mod report;
mod still;
mod terminal;
mod timeline;
mod view;

pub use film::{Film, Switches, Waypoint};
pub use hosted::hosted_page;
pub use marks::{Colour, DARK, LIGHT, Mark, Palette};
pub use outline::{Outline, outlines};
pub use picture::{Picture, PngError, SIZES, chart, png};
pub use ratatui;
pub use reel::Reel;
pub use report::Report;
pub use still::{AFTERGLOW, Drawn, Figure, Firings, figures};
pub use terminal::{Closed, Console, show};
pub use timeline::{Row, Span, Tick, Timeline};
pub use view::{Flat, View, Window};

/// The example of the page on seeing, so that it stays true.
#[doc = include_str!("../../../docs/see.md")]
#[cfg(doctest)]
struct See;
