//! Why an event happened, or why not.
//!
//! The playtest is played once more with a witness on the detector and subject asked about. What
//! it heard becomes an [`Answer`]: plain data, for a program to read and for a person to be shown.

mod advice;
mod aim;
mod answer;
mod because;
mod explain;
mod facts;
mod heard;
mod inquiry;
mod listen;
mod missing;
mod places;
mod question;
mod senders;
mod switches;
mod unwanted;
mod values;

pub use answer::{Answer, Candidate, Firing, GateSeen, Link, Miss, Reacted};
pub use because::chain_of;
pub(crate) use explain::explain;
pub(crate) use heard::selects;
pub(crate) use inquiry::Inquiry;
pub use question::Question;
