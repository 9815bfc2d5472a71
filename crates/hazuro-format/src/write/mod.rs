//! From a description to the keys of its file.

mod origins;
mod reaction;
mod scene;

pub use origins::{Origin, origins};
pub use scene::write_scene;
