//! A witness that keeps, for each chain, how far it ever got.

use std::collections::BTreeMap;

use crate::scene::EntityId;

use super::{Chain, Evidence, Gate, Verdict, Witness};

/// Keeps, for each detector and subject and each reaction, the best run of its chain: the one
/// that got farthest, and of those the nearest miss.
///
/// See [`Verdict`] for an example.
#[derive(Clone, Debug, Default)]
pub struct Notebook {
    wanted: Option<(Option<EntityId>, Option<EntityId>)>,
    best: BTreeMap<Chain, Verdict>,
}

impl Notebook {
    /// Listens to everything.
    pub fn all() -> Self {
        Self::default()
    }

    /// Listens to one detector, one subject, or one pair; `None` stands for any.
    pub fn about(on: Option<EntityId>, who: Option<EntityId>) -> Self {
        Self { wanted: Some((on, who)), ..Self::default() }
    }

    /// The gate that stopped `on` from detecting `who` in its best run; none if it fired, or was
    /// never tried.
    pub fn stopped(&self, on: EntityId, who: EntityId) -> Option<&Verdict> {
        let about = |verdict: &&Verdict| matches!(verdict.chain, Chain::Detector { on: its, who: of, .. } if its == on && of == who);
        self.best.values().filter(about).find(|verdict| !verdict.passed)
    }

    /// The last gate tried in the best run of each chain.
    pub fn verdicts(&self) -> impl Iterator<Item = &Verdict> {
        self.best.values()
    }
}

impl Witness for Notebook {
    fn wants(&self, chain: &Chain) -> bool {
        let Some((wanted_on, wanted_who)) = self.wanted else {
            return true;
        };
        let (on, who) = match *chain {
            Chain::Detector { on, who, .. } => (Some(on), Some(who)),
            Chain::Reaction { on, who, .. } => (on, who),
        };
        let fits = |wanted: Option<EntityId>, given| wanted.is_none() || wanted == given;
        fits(wanted_on, on) && fits(wanted_who, who)
    }

    fn hear(&mut self, verdict: Verdict) {
        let rank = |verdict: &Verdict| {
            let nearness = match verdict.evidence {
                Evidence::Gap { metres, .. } => -metres,
                Evidence::Range { got, .. } | Evidence::Angle { got, .. } => -got,
                Evidence::Speed { got, .. } | Evidence::Share { got, .. } => got,
                _ => 0.0,
            };
            (verdict.gate, verdict.passed, nearness)
        };
        match self.best.get_mut(&verdict.chain) {
            // It has fired.
            Some(best) if best.gate == Gate::Condition && best.passed => {}
            Some(best) if rank(best) >= rank(&verdict) => {}
            Some(best) => *best = verdict,
            None => {
                self.best.insert(verdict.chain, verdict);
            }
        }
    }
}
