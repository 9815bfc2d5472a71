//! From the keys of a file to a description.

mod limits;
mod reaction;
pub(crate) mod reader;
mod scene;
mod shape;
mod slots;
mod values;
pub(crate) mod words;

pub(crate) use reader::Reader;
pub use scene::{read_scene, read_scene_with};
pub(crate) use slots::slot_keys;
pub use values::{read_action, read_shape, read_triggers};
