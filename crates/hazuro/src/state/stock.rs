//! What of a kind's stock is in the play, and what is out of it.

use std::collections::{BTreeMap, BTreeSet};

use crate::describe::{EntityId, KindId};
use crate::model::Scene;

use super::part::part;
use super::{Spawned, State};

/// Which places of a kind's stock are free: what is there is out of the play, and not to come in.
///
/// It costs as much as was ever out at once, not as much as there is.
#[derive(Clone, Debug, Default, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Stock {
    /// Above the last place that is not free.
    used: usize,
    /// Those below that are free.
    free: BTreeSet<usize>,
}

impl Stock {
    /// The first free place; behind the stock's last if none is free.
    fn first(&self) -> usize {
        self.free.first().copied().unwrap_or(self.used)
    }

    fn take(&mut self, place: usize) {
        self.free.extend(self.used..place);
        self.used = self.used.max(place + 1);
        self.free.remove(&place);
    }

    fn give_back(&mut self, place: usize) {
        if place < self.used {
            self.free.insert(place);
        }
        // So that equal stocks are equal, however they came to be so.
        while self.used > 0 && self.free.remove(&(self.used - 1)) {
            self.used -= 1;
        }
    }
}

impl State {
    /// The first of a kind's stock that is out of the play, and that nobody has asked for.
    pub(crate) fn first_in_stock(&self, scene: &Scene, kind: KindId) -> Option<EntityId> {
        let kind = kind.0 as usize;
        scene.stocks[kind].get(self.presence.stocks[kind].first()).copied()
    }

    /// Keeps in mind that something is to come into the play, if it is not there.
    pub(crate) fn await_entry(&mut self, scene: &Scene, what: EntityId) {
        if self.live(what).removed && self.presence.awaited.insert(what) {
            self.take_from_stock(scene, what);
        }
    }

    /// Lets something be in the play.
    pub(crate) fn bring_into_play(&mut self, scene: &Scene, what: EntityId) {
        self.live_mut(what).removed = false;
        self.presence.awaited.remove(&what);
        self.take_from_stock(scene, what);
    }

    fn take_from_stock(&mut self, scene: &Scene, what: EntityId) {
        if let Some((kind, place)) = place_in_stock(scene, what) {
            self.presence.stocks[kind].take(place);
        }
    }

    /// Takes something out of the play, back into its stock if it is of one.
    pub(crate) fn take_out(&mut self, scene: &Scene, what: EntityId) {
        self.live_mut(what).removed = true;
        if let Some((kind, place)) = place_in_stock(scene, what)
            && !self.presence.awaited.contains(&what)
        {
            self.presence.stocks[kind].give_back(place);
        }
    }

    /// The stocks of a scene, as they are.
    pub(crate) fn counted_stocks(&self, scene: &Scene) -> Vec<Stock> {
        let counted = |ids: &Vec<EntityId>| {
            let mut stock = Stock::default();
            for (place, what) in ids.iter().enumerate() {
                if !self.live(*what).removed || self.presence.awaited.contains(what) {
                    stock.take(place);
                }
            }
            stock
        };
        scene.stocks.iter().map(counted).collect()
    }
}

/// The kind of whose stock something is, and its place there.
fn place_in_stock(scene: &Scene, what: EntityId) -> Option<(usize, usize)> {
    let kind = scene.thing(what).kinds.first().filter(|_| scene.thing(what).stocked)?.0 as usize;
    Some((kind, scene.stocks[kind].binary_search(&what).ok()?))
}

part! {
    /// Who is in the play beside those who always are, whose children they are, and to what they
    /// have been converted.
    Presence as PresencePart {
        /// Of each kind.
        stocks: Vec<Stock>,
        /// Who is out of the play and is to come in, as a host has asked.
        awaited: BTreeSet<EntityId>,
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        spawned: BTreeMap<EntityId, Spawned>,
        /// Of those that have been attached or detached.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        links: BTreeMap<EntityId, Option<EntityId>>,
        /// To which kinds entities have been converted, by name.
        #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
        conversions: BTreeMap<EntityId, String>,
    }
}
