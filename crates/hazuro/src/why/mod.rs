//! Why something fired or did not: the gates of a chain, and who listens to them.
//!
//! A detector and a reaction are each a list of gates, in order. To run one is to try its gates
//! until one does not pass. A [`Witness`] hears of each gate tried; without one the evidence is
//! never even gathered.

pub(crate) mod asked;
mod coverage;
mod evidence;
mod gate;
mod history;
mod notebook;
mod words;

use crate::describe::EntityId;

pub use coverage::{Coverage, Ran, Tried};
pub use evidence::{Evidence, Missing};
pub use gate::{Chain, Gate, Verdict};
pub(crate) use gate::{Check, go_on, run};
pub use history::History;
pub use notebook::{Notebook, Record};

/// Hears of every gate that is tried.
///
/// See [`Notebook`] for one that keeps what it hears.
pub trait Witness {
    /// Whether there is anybody at all: `false` leaves no trace of the witness in the machine code.
    const LISTENS: bool = true;

    /// Whether to be told about this pair. A pair that the index would have passed over is tried
    /// if the witness asks for it.
    fn wants(&self, chain: &Chain) -> bool;

    /// Whether to be told about any pair of this entity's detectors. It must not change in the course
    /// of a run; `false` saves asking for each of them.
    fn wants_of(&self, _on: EntityId) -> bool {
        true
    }

    /// From how near on to be told about a zone or touch detector and a subject, in metres, if
    /// [wanted](Self::wants) at all: infinite for always, 0 for only once they meet. It must not grow
    /// but to infinity. A small number saves looking closer.
    fn wants_within(&self, _chain: &Chain) -> f64 {
        f64::INFINITY
    }

    /// Whether to be told again, at each moment, of what is as it was: of a pair that was off, absent or
    /// not admitted and about which nothing has changed, and of a ray or a footing around which nothing
    /// stirs.
    fn hears_again(&self) -> bool {
        true
    }

    /// A gate was tried.
    fn hear(&mut self, verdict: Verdict);
}

/// Hears the gates of some detectors as those of their use.
pub(crate) struct AsUse<'a, W, F>(pub &'a mut W, pub F);

impl<W: Witness, F: Fn(EntityId) -> bool> Witness for AsUse<'_, W, F> {
    const LISTENS: bool = W::LISTENS;
    fn wants(&self, chain: &Chain) -> bool {
        chain.pair().0.is_some_and(&self.1) && self.0.wants(&chain.of_use())
    }
    fn hear(&mut self, verdict: Verdict) {
        self.0.hear(Verdict { chain: verdict.chain.of_use(), ..verdict });
    }
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
