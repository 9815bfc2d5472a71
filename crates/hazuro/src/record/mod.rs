//! What is recorded of a play: entries, who did what, and what went wrong.

mod entry;
mod failure;
mod refusal;

pub use entry::{By, Entry, Problem};
pub use failure::{Failure, Place};
pub use refusal::Refusal;
