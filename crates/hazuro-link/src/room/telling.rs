//! What each client is told.

use hazuro::EntityId;

use super::Room;
use crate::line::LineId;
use crate::message::{Bytes, Ticks, ToClient};
use crate::onlooker::Scenery;
use crate::told::pack;
use crate::view::View;

impl Room {
    /// Tells everybody what has become different.
    pub(super) fn tell(&mut self) {
        let tick = self.tick();
        let proof = tick.is_multiple_of(self.ticks(self.rules.proof).max(1));
        let fingerprint = proof.then(|| self.told.fingerprint());
        let lines: Vec<LineId> = self.lines.keys().copied().collect();
        let mut scenery = None;
        for id in lines {
            let Some(line) = self.lines.get(&id) else { continue };
            let Some(player) = line.seat else { continue };
            if line.onlooker.is_some() {
                self.tell_view((id, player), &mut scenery);
            } else if !line.busy {
                self.tell_ticks((id, player), fingerprint);
            }
        }
    }

    /// Sends news to the clients that mirror the play.
    fn tell_ticks(&mut self, (id, player): (LineId, EntityId), fingerprint: Option<u64>) {
        let tick = self.tick();
        let Some(line) = self.lines.get_mut(&id) else { return };
        let known = if line.whole { None } else { self.memory.since(line.told, player) };
        let Some(each) = known else {
            (line.whole, line.told) = (false, tick);
            let state = self.whole();
            return self.send(id, &ToClient::Whole { tick, state });
        };
        let first = line.told + 1;
        let lead = line.lead.take();
        let refused = line.refusals();
        if line.reliable {
            line.knows(tick);
        }
        let done = self.seats.get(&player).map_or(0, |seat| seat.done);
        self.send(id, &ToClient::Ticks(Ticks { first, each, done, lead, refused, fingerprint }));
    }

    /// Sends a view to the clients that hold no scene, every few ticks.
    fn tell_view(&mut self, (id, player): (LineId, EntityId), scenery: &mut Option<Scenery>) {
        let tick = self.tick();
        let every = f64::from(self.play.rate()) / self.rules.views.max(f64::MIN_POSITIVE);
        let Some(line) = self.lines.get_mut(&id) else { return };
        let refused = line.refusals();
        let Some(onlooker) = &mut line.onlooker else { return };
        onlooker.note(&self.play, player, self.play.entries());
        if line.busy || !tick.is_multiple_of((every as u64).max(1)) {
            return;
        }
        if std::mem::take(&mut line.whole) || !line.reliable {
            // What was told may be lost.
            onlooker.forget();
        }
        let scenery = scenery.get_or_insert_with(|| Scenery::of(&self.play));
        let done = self.seats.get(&player).map_or(0, |seat| seat.done);
        let Some(view) = onlooker.view(&self.play, (player, tick), scenery, !refused.is_empty())
        else {
            return;
        };
        line.knows(tick);
        self.send(id, &ToClient::View(View { done, refused, ..view }));
    }

    /// The state as it was last told, from the beginning.
    pub(super) fn whole(&self) -> Bytes {
        Bytes(pack(&self.told.delta(&self.start)))
    }
}
