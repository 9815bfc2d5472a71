//! Where things are, for finding what is near without looking at everything.

mod flock;
mod index;

pub(crate) use flock::Course;
pub(crate) use index::{Face, Index};
