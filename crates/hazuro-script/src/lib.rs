//! Conditions, scores and scripts of Hazuro scenes.
//!
//! Scenes are read as in `hazuro-format`, and whatever in them is written in the language of this crate
//! with them. Conditions and scripts have access to nothing but the play, and are bounded in every way.
//!
//! ```
//! use hazuro_format::Source;
//! use hazuro_script::read_scene;
//! let source = Source::new("yard.toml", r#"
//! [[reaction]]
//! on = { cue = "bell" }
//! if = "count.rings < 3"
//! do = [{ count = "rings", add = 1 }]
//! "#);
//! let scene = read_scene(&source).unwrap();
//! assert_eq!(scene.reactions().len(), 1);
//! ```

mod asked;
mod calls;
mod engine;
mod expression;
mod lending;
mod names;
mod problem;
mod properties;
mod questions;
mod read;
mod script;
mod tree;
mod value;

pub use expression::Expression;
pub use problem::locate_problem;
pub use read::{read_scene, read_scene_with};
pub use script::Scripts;
pub use value::Value;
