//! What players do.

use hazuro::{EntityId, Time};

use super::{Heard, News, Room};
use crate::deed::NotDone;
use crate::line::LineId;
use crate::message::{Deeds, Timed};

impl Room {
    /// A player has done something.
    pub(super) fn deeds(&mut self, line: LineId, player: EntityId, deeds: Deeds) {
        let (tick, now) = (self.tick(), self.play.now());
        let Some(open) = self.lines.get_mut(&line) else { return };
        if deeds.heard > tick {
            return self.fault(line, "it has heard of what is to come");
        }
        let lead = deeds.now.map(|own| (own as f64 - now.nanos() as f64) / 1e9);
        if let Some(lead) = lead {
            open.note_lead(lead);
        }
        if !open.reliable {
            open.knows(deeds.heard);
        }
        for timed in deeds.list {
            let Some(seat) = self.seats.get_mut(&player) else { return };
            seat.lead = lead.unwrap_or(seat.lead);
            match timed.number.checked_sub(seat.done) {
                Some(1) => seat.done += 1,
                // Some before it are still on their way; it will come again.
                Some(2..) => break,
                // It has been done. A client says it again until it knows.
                Some(0) | None => continue,
            }
            let number = timed.number;
            if let Err(why) = self.deed(player, &timed, now) {
                if let Some(open) = self.lines.get_mut(&line) {
                    open.refused.push((tick + 1, number, why.to_string()));
                }
                // A bad line is nobody's fault.
                let is_fault = !matches!(why, NotDone::Late { .. });
                self.news.push(News::Refused { player, number, why });
                if is_fault {
                    self.fault(line, "deeds that cannot be done");
                }
            }
        }
    }

    /// Lets a player do something at its time.
    fn deed(&mut self, player: EntityId, timed: &Timed, now: Time) -> Result<(), NotDone> {
        let most = self.rules.deeds;
        let seat = self.seats.get_mut(&player).filter(|seat| seat.budget >= 1.0);
        seat.ok_or(NotDone::TooMany { most })?.budget -= 1.0;
        let due = timed.at.map_or(now, Time::from_nanos);
        let early = (due.nanos() as f64 - now.nanos() as f64) / 1e9;
        if early > self.rules.early {
            return Err(NotDone::Early { seconds: early });
        }
        if -early > self.rules.late {
            return Err(NotDone::Late { seconds: -early });
        }
        let input = timed.deed.input(&self.play, player)?;
        let (at, deed) = (due.max(now), Some((player, timed.number)));
        Ok(self.tell_play(Heard { at, input, deed })?)
    }
}
