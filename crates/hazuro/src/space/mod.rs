//! Where things are, for finding what is near without looking at everything, and the four
//! questions asked of space directly.

mod filter;
mod flock;
mod index;
mod questions;

pub use filter::{Filter, Found, Hit};
pub(crate) use flock::Course;
pub(crate) use index::{Face, Index};
pub use questions::Space;

/// Everything that can be found in space, by what it is there for.
#[derive(Debug, Default)]
pub(crate) struct Indices {
    pub zones: Index,
    pub bodies: Index,
    pub solids: Index,
    /// The shapes of touch detectors, a little larger than what they belong to.
    pub touches: Index,
    /// Prompts and what may be used, as far as they reach.
    pub prompts: Index,
}
