//! Who comes, comes back and leaves.

use hazuro::{EntityId, Input};

use super::{Heard, News, Room};
use crate::line::LineId;
use crate::message::{Bytes, Denial, Hello, ToClient, VERSION, Welcome};
use crate::seat::Seat;

impl Room {
    /// Somebody wants to join.
    pub(super) fn hello(&mut self, line: LineId, hello: &Hello, seated: Option<EntityId>) {
        if seated.is_some() {
            // On a bad line the answer may have been lost; but not again and again.
            self.fault(line, "joined already");
            if self.lines.get(&line).is_none_or(|open| open.reliable) {
                return;
            }
        }
        match seated.map_or_else(|| self.seat_for(line, hello), Ok) {
            Ok(player) => {
                if let Some(open) = self.lines.get_mut(&line) {
                    open.onlooker = hello.view.then(Box::default);
                }
                self.welcome(line, player);
            }
            Err(why) => {
                self.send(line, &ToClient::Denied { why: why.clone() });
                self.news.push(News::Denied { line, why });
                self.lines.remove(&line);
            }
        }
    }

    /// The player for a client that wants to join.
    fn seat_for(&mut self, line: LineId, hello: &Hello) -> Result<EntityId, Denial> {
        if hello.version != VERSION {
            return Err(Denial::Version { host: VERSION });
        }
        if self.rules.token.is_some() && hello.token != self.rules.token {
            return Err(Denial::Token);
        }
        if !hello.view {
            if hello.scene != Some(self.scene) {
                return Err(Denial::Scene);
            }
            if self.scene().has_secrets() && !self.trusts {
                return Err(Denial::Secrets);
            }
        }
        if let Some(key) = &hello.key {
            let seat = self.seats.values_mut().find(|seat| seat.key == *key);
            let seat = seat.ok_or(Denial::GivenUp)?;
            let (player, before) = (seat.player, seat.line.replace(line));
            if let Some(before) = before {
                self.send(before, &ToClient::Closed { why: "you play by another line".into() });
                self.lines.remove(&before);
            }
            self.news.push(News::Back { player });
            return Ok(player);
        }
        let player = self.wanted(hello.name.as_ref())?;
        let seat = Seat::new(player, line, f64::from(self.rules.deeds));
        self.seats.insert(player, seat);
        // Somebody whom the host has let in itself is there already.
        let (at, input) = (self.play.now(), Input::Add { what: player, at: None });
        let _ = self.tell_play(Heard { at, input, deed: None });
        self.news.push(News::Joined { player });
        Ok(player)
    }

    /// The player of a name, or the first, if nobody plays them.
    fn wanted(&self, name: Option<&String>) -> Result<EntityId, Denial> {
        let scene = self.scene();
        let is_free = |player: &EntityId| !self.seats.contains_key(player);
        let Some(name) = name else {
            return self.players.iter().copied().find(is_free).ok_or(Denial::Full);
        };
        let found = scene.find(name).filter(|found| self.players.contains(found));
        let player = found.ok_or_else(|| Denial::NoPlayer { name: name.clone() })?;
        if is_free(&player) { Ok(player) } else { Err(Denial::Taken { name: name.clone() }) }
    }

    fn welcome(&mut self, line: LineId, player: EntityId) {
        let tick = self.tick();
        let is_onlooker = self.lines.get(&line).is_some_and(|open| open.onlooker.is_some());
        let state = if is_onlooker { Bytes::default() } else { self.whole() };
        let Some(seat) = self.seats.get(&player) else { return };
        let (key, done) = (seat.key.clone(), seat.done);
        let (rate, name) = (self.play.rate(), self.scene().name(player).to_owned());
        // Welcomed again, since the first was late or lost: it may play already and pass over this, so that no more
        // is known there than it says.
        if let Some(open) = self.lines.get_mut(&line).filter(|open| open.seat.is_none()) {
            (open.seat, open.told) = (Some(player), tick);
        }
        self.send(line, &ToClient::Welcome(Welcome { player: name, key, rate, done, tick, state }));
    }

    /// Gives up seats that are kept for too long, and lines that are silent.
    pub(super) fn see_to_seats(&mut self) {
        let (tick, more) = (self.tick(), f64::from(self.rules.deeds) / f64::from(self.play.rate()));
        let silence = self.ticks(self.rules.silence);
        let silent = self.lines.iter().filter(|(_, line)| tick - line.heard_at > silence);
        let silent: Vec<LineId> = silent.map(|(line, _)| *line).collect();
        for line in silent {
            self.close_for(line, "nothing was heard for too long");
        }
        let hold = self.ticks(self.rules.hold);
        let most = f64::from(self.rules.deeds);
        let mut given_up = Vec::new();
        for seat in self.seats.values_mut() {
            seat.budget = (seat.budget + more).min(most);
            if seat.line.is_none() && tick - seat.gone_at > hold {
                given_up.push(seat.player);
            }
        }
        for player in given_up {
            self.give_up(player);
        }
    }

    /// Nobody plays a player any more, who leaves the play.
    pub(super) fn give_up(&mut self, player: EntityId) {
        if self.seats.remove(&player).is_some() {
            // Somebody whom the host has taken out itself is out already.
            let (at, input) = (self.play.now(), Input::Remove(player));
            let _ = self.tell_play(Heard { at, input, deed: None });
            self.news.push(News::Left { player });
        }
    }
}
