//! Where things are, for finding what is near without looking at everything.

mod bounds;
mod build;
mod index;
mod tree;
mod walk;

pub(crate) use bounds::Bounds;
pub(crate) use index::Index;
pub(crate) use tree::Tree;
pub(crate) use walk::Beam;
