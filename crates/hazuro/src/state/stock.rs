//! What of a kind's stock is in the play, and what is out of it.

use crate::describe::{EntityId, KindId};
use crate::model::Scene;

use super::State;

impl State {
    /// The first of a kind's stock that is out of the play.
    pub(crate) fn first_in_stock(&self, scene: &Scene, kind: KindId) -> Option<EntityId> {
        let kind = kind.0 as usize;
        let first = self.in_stock[kind];
        (first < scene.stocks[kind].end).then(|| scene.numbering.entity(first))
    }

    /// Lets something of a stock be in the play.
    pub(crate) fn bring_into_play(&mut self, scene: &Scene, what: EntityId) {
        self.live_mut(what).removed = false;
        let Some(kind) = stock_of(scene, what).filter(|it| self.in_stock[*it] == what.index())
        else {
            return;
        };
        let mut rest = what.index() + 1..scene.stocks[kind].end;
        let next = rest.find(|index| self.live[*index].removed);
        self.in_stock[kind] = next.unwrap_or(scene.stocks[kind].end);
    }

    /// Takes something out of the play, back into its stock if it is of one.
    pub(crate) fn take_out(&mut self, scene: &Scene, what: EntityId) {
        self.live_mut(what).removed = true;
        if let Some(kind) = stock_of(scene, what) {
            self.in_stock[kind] = self.in_stock[kind].min(what.index());
        }
    }
}

/// The kind of whose stock something is.
fn stock_of(scene: &Scene, what: EntityId) -> Option<usize> {
    let kind = scene.thing(what).kind.filter(|_| scene.thing(what).stocked)?;
    Some(kind.0 as usize)
}
