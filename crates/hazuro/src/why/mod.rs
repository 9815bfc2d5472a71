//! Why something fired or did not: the gates of a chain, and who listens to them.
//!
//! A detector and a reaction are each a list of gates, in order. To run one is to try its gates
//! until one does not pass. A [`Witness`] hears of each gate tried; without one the evidence is
//! never even gathered.

mod gate;
mod notebook;

pub use gate::{Chain, Evidence, Gate, Verdict};
pub(crate) use gate::{Check, run};
pub use notebook::Notebook;

/// Hears of every gate that is tried.
///
/// See [`Notebook`] for one that keeps what it hears.
pub trait Witness {
    /// Whether there is anybody at all: `false` leaves no trace of the witness in the machine code.
    const LISTENS: bool = true;

    /// Whether to be told about this pair. A pair that the index would have passed over is tried
    /// if the witness asks for it.
    fn wants(&self, chain: &Chain) -> bool;

    /// A gate was tried.
    fn hear(&mut self, verdict: Verdict);
}

/// Nobody listens.
#[derive(Clone, Copy, Debug, Default)]
pub struct Unwitnessed;

impl Witness for Unwitnessed {
    const LISTENS: bool = false;
    fn wants(&self, _: &Chain) -> bool {
        false
    }
    fn hear(&mut self, _: Verdict) {}
}
