//! Where things are, for finding what is near without looking at everything.

mod index;

pub(crate) use index::{Face, Index};
