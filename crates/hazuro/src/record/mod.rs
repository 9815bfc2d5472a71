//! What is recorded of a play: entries, what each came of, who did what, and what went wrong.

mod entry;
mod failure;
mod life;
mod refusal;
mod step;

pub use entry::{By, Entry, Happening, Problem};
pub use failure::{Failure, Place};
pub use life::{Expiry, Life, Stopped, TakenBack};
pub use refusal::Refusal;
pub use step::Step;
