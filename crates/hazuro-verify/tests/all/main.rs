//! Scene files, playtests and what is said of them, through the public API. All in one program, so that
//! what plays is compiled once.

mod bad_input;
mod broken;
mod checks;
mod contacts;
mod detector_keys;
mod detectors;
mod edits;
mod expectations;
mod facts;
mod filling;
mod findings;
mod kinds;
mod mistakes;
mod motion_keys;
mod ownership;
mod players;
mod playtests;
mod reaction_keys;
mod recorded;
mod scenes;
mod schemas;
mod scout;
mod slots;
mod support;
mod tapes;
mod told;
mod worlds;
mod would_have;
