//! The files of Hazuro: scenes are read and written, logs are written.
//!
//! Nothing here panics on bad input. What is wrong is a [`Finding`]: what, where (file, line,
//! column) and the cure. With the feature `draw` a finding is drawn with the lines it is about.
//!
//! Conditions and scripts are texts in some [`Language`]. This crate has none, so that a program whose
//! scenes have neither needs none; `hazuro-script` has one.
//!
//! ```
//! use hazuro_format::{Source, read_scene};
//! let source = Source::new("yard.toml", r#"
//! [[entity]]
//! name = "ball"
//! body = { sphere = { radius = 0.5 } }
//! "#);
//! let scene = read_scene(&source).unwrap();
//! assert_eq!(scene.len(), 1);
//! ```

mod access;
mod action;
mod admit;
mod body;
mod camera;
mod code;
mod cure;
mod detector;
#[cfg(feature = "draw")]
mod draw;
mod edit;
mod editor;
mod entity;
mod finding;
mod keys;
mod language;
mod log;
mod motion;
mod nesting;
mod number;
mod parse;
mod read;
mod source;
mod spans;
#[macro_use]
mod table;
mod value;
mod wanted;
mod write;

pub use access::{FileAccess, folder_of, path_from};
pub use code::{Code, Stage};
pub use cure::{Cure, cure_of};
pub use edit::{Edit, with_edits};
pub use editor::Editor;
pub use finding::{Finding, Severity};
pub use keys::literal::Literal;
pub use keys::scene::scene_schema;
pub use language::{BadExpression, Known, Language, NoLanguage, Provided};
pub use log::{Level, write_cut_short, write_log};
pub use parse::parse;
pub use read::{read_action, read_scene, read_scene_with, read_shape, read_triggers};
pub use source::{Format, Source};
pub use spans::Spans;
pub use write::{Origin, origins, write_scene};
