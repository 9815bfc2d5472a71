//! What of a kind's stock is in the play, and what is out of it.

use crate::describe::{EntityId, KindId};
use crate::model::Scene;

use super::State;

impl State {
    /// The first of a kind's stock that is out of the play, and that nobody has asked for.
    pub(crate) fn first_in_stock(&self, scene: &Scene, kind: KindId) -> Option<EntityId> {
        let stock = &scene.stocks[kind.0 as usize][self.in_stock[kind.0 as usize]..];
        stock.iter().copied().find(|what| self.live(*what).removed && !self.awaited.contains(what))
    }

    /// Lets something be in the play.
    pub(crate) fn bring_into_play(&mut self, scene: &Scene, what: EntityId) {
        self.live_mut(what).removed = false;
        self.awaited.remove(&what);
        let Some((kind, place)) = place_in_stock(scene, what) else { return };
        if self.in_stock[kind] == place {
            self.in_stock[kind] = self.first_out(&scene.stocks[kind], place + 1);
        }
    }

    /// Takes something out of the play, back into its stock if it is of one.
    pub(crate) fn take_out(&mut self, scene: &Scene, what: EntityId) {
        self.live_mut(what).removed = true;
        if let Some((kind, place)) = place_in_stock(scene, what) {
            self.in_stock[kind] = self.in_stock[kind].min(place);
        }
    }

    /// The place of the first of a stock that is out of the play, from a place on; if none is, that
    /// after the last.
    pub(crate) fn first_out(&self, stock: &[EntityId], from: usize) -> usize {
        let found = stock[from..].iter().position(|what| self.live(*what).removed);
        found.map_or(stock.len(), |found| from + found)
    }
}

/// The kind of whose stock something is, and its place there.
fn place_in_stock(scene: &Scene, what: EntityId) -> Option<(usize, usize)> {
    let kind = scene.thing(what).kind.filter(|_| scene.thing(what).stocked)?.0 as usize;
    Some((kind, scene.stocks[kind].binary_search(&what).ok()?))
}
