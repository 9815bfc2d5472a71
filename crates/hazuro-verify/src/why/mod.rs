//! Why an event happened, or why not.
//!
//! The playtest is played once more with a witness on the detector and subject asked about. What
//! it heard becomes an [`Answer`]: plain data, for a program to read and for a person to be shown.

mod advice;
mod answer;
mod explain;
mod heard;
mod question;
mod senders;

pub use answer::{Answer, Candidate, Firing, GateSeen, Miss, Reacted};
pub use explain::explain;
pub(crate) use heard::selects;
pub use question::Question;
