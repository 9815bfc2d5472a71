//! Whether a scene does what is meant: playtests are read, run and judged; scenes are checked before
//! they are played and scouted while they are; and each event that came, or did not, has its reason.
//!
//! ```
//! use std::sync::Arc;
//! use hazuro_format::Source;
//! use hazuro_verify::{read_playtest, run_playtest};
//! let scene = Source::new("yard.toml", r#"
//! [[entity]]
//! name = "ball"
//! at = [0, 0, 5]
//! body = { sphere = { radius = 0.5 } }
//!
//! [[entity]]
//! name = "pad"
//! zone = { box = [2, 2, 2] }
//! "#);
//! let scene = Arc::new(hazuro_script::read_scene(&scene).unwrap());
//! let playtest = Source::new("yard.playtest.toml", r#"
//! scene = "yard.toml"
//! seconds = 2
//! tape = [{ at = 0, who = "ball", drive_to = [0, 0, 0], over = 1 }]
//! expect = [{ event = "enter", on = "pad", by = 1 }]
//! "#);
//! let playtest = read_playtest(&playtest, scene).unwrap();
//! assert!(run_playtest(&playtest, None).outcomes.iter().all(|outcome| outcome.met));
//! ```

#[macro_use]
mod choice;

mod check;
mod coverage;
mod expect;
mod load;
mod meaning;
mod players;
mod playtest;
mod scout;
mod tape;
mod testing;
mod why;
mod words;

pub use check::{check_playtest, check_scene, check_scene_with, findings_json, findings_sarif};
pub use coverage::{CoverageTable, DetectorRow, ReactionRow, Share, Total};
pub use load::{Loaded, load, load_scene, load_with};
pub use playtest::{
    Playtest, explain, is_playtest, playtest_schema, read_playtest, write_playtest,
};
pub use scout::{MatrixRow, Scouted, Scouting, Suspicion, Untried, scout};
pub use testing::{
    Changed, Difference, Fragile, Jittered, Outcome, Report, Run, Watched, differences,
    differences_of_logs, jitter, junit, play_watching, run_playtest, run_playtest_as,
};
pub use why::{Answer, Candidate, Firing, GateSeen, Link, Miss, Question, Reacted, chain_of};
pub use words::{came_of, describe, done, of_reaction, round};
