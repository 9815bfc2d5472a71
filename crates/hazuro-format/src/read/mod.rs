//! From the keys of a file to a description.

mod action;
mod detector;
mod motion;
mod number;
mod reaction;
mod reader;
mod scene;
mod shape;
mod values;

pub use scene::{read_scene, read_scene_with};
pub use values::{read_action, read_shape, read_triggers};
