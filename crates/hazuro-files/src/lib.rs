//! The files of Hazuro: scenes and playtests are read, written, checked and run; logs are written.
//!
//! Nothing here panics on bad input. What is wrong is a [`Finding`]: what, where (file, line,
//! column, with the lines themselves) and the cure.
//!
//! ```
//! use hazuro_files::{Source, read_scene};
//! let source = Source::new("yard.toml", r#"
//! [[entity]]
//! name = "ball"
//! body = { sphere = { radius = 0.5 } }
//! "#);
//! let scene = read_scene(&source).unwrap();
//! assert_eq!(scene.len(), 1);
//! ```

mod access;
mod action_read;
mod check;
mod condition;
mod coverage;
mod detector_file;
mod detector_read;
mod detector_write;
mod expression;
mod finding;
mod load;
mod log;
mod motion_file;
mod motion_read;
mod nesting;
mod number_file;
mod number_read;
mod one_or_many;
mod parse;
mod playtest;
mod problem;
mod properties;
mod reaction_file;
mod reaction_read;
mod reaction_write;
mod scene_file;
mod scene_read;
mod scene_write;
mod scout;
mod script;
mod script_engine;
mod shape_keys;
mod source;
mod spans;
mod testing;
mod why;
mod words;

pub use access::{FileAccess, path_from};
pub use check::{check_playtest, check_scene, check_scene_with, findings_json, findings_sarif};
pub use coverage::{CoverageTable, DetectorRow, ReactionRow, Share, Total};
pub use finding::{Finding, Severity};
pub use load::{Loaded, load, load_scene, load_with};
pub use log::{Level, write_cut_short, write_log};
pub use playtest::{Playtest, is_playtest, playtest_schema, read_playtest, write_playtest};
pub use problem::locate_problem;
pub use scene_file::scene_schema;
pub use scene_read::{read_scene, read_scene_with};
pub use scene_write::write_scene;
pub use scout::{MatrixRow, Scouted, Scouting, Suspicion, scout};
pub use script::Scripts;
pub use source::{Format, Source};
pub use testing::{
    Changed, Difference, Fragile, Jittered, Outcome, Report, Run, Watched, differences,
    differences_of_logs, jitter, junit, play_watching, run_playtest, run_playtest_as,
};
pub use why::{Answer, Candidate, Firing, GateSeen, Miss, Question, Reacted, explain};
pub use words::{came_of, describe, done, of_reaction, round};
