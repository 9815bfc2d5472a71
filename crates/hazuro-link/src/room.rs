//! The host: a play, and those who play it from elsewhere.

use std::collections::BTreeMap;

use hazuro::{EntityId, Entry, Input, Play, Scene, State, Time};

use crate::deed::NotDone;
use crate::line::{Line, LineId};
use crate::message::{
    Bytes, Deeds, Denial, Hello, Ticks, Timed, ToClient, ToHost, VERSION, Welcome, read_to_host,
    write,
};
use crate::rules::Rules;
use crate::seat::Seat;
use crate::told::{Memory, fingerprint, pack};

/// A play that several players play, each from elsewhere. It decides; they mirror it.
///
/// A player whom nobody plays is out of the play. Whatever carries messages tells the room of lines that
/// open and close and of what comes by them, and takes from it what is to be sent. A room reads no clock:
/// it goes on by a tick with each [`step`](Self::step).
///
/// ```
/// use hazuro::{Play, Scene, geometry::Shape, scene::{Body, Entity}};
/// use hazuro_link::{Client, Room, Rules, Standing};
/// let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
/// let scene = Scene::builder("Yard").entity(Entity::new("ada").player(true).body(body)).build()?;
/// let mut room = Room::new(Play::new(scene.clone()), Rules::default());
/// let mut client = Client::new(scene);
///
/// let line = room.open(true);
/// for _ in 0..3 {
///     client.step();
///     client.outgoing().for_each(|bytes| room.receive(line, &bytes));
///     room.step();
///     room.outgoing().for_each(|(_, bytes)| client.receive(&bytes));
/// }
/// assert_eq!(client.standing(), &Standing::Playing);
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Debug)]
pub struct Room {
    play: Play,
    rules: Rules,
    /// The state at the beginning, from which clients know it.
    start: State,
    /// The state as it was last told.
    told: State,
    scene: u64,
    entities: usize,
    memory: Memory,
    lines: BTreeMap<LineId, Line>,
    lines_so_far: u64,
    seats: BTreeMap<EntityId, Seat>,
    out: Vec<(LineId, Vec<u8>)>,
    news: Vec<News>,
}

/// The most news that is kept until somebody asks for it; the oldest goes first.
const MOST_NEWS: usize = 4096;

/// Who came and went, and what was not done.
///
/// ```
/// use hazuro_link::News;
/// let is_trouble = |news: &News| matches!(news, News::Refused { .. } | News::Closed { .. });
/// # let _ = is_trouble;
/// ```
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum News {
    /// Somebody plays a player from now on.
    Joined {
        /// The player.
        player: EntityId,
    },
    /// Somebody who was cut off is back.
    Back {
        /// The player.
        player: EntityId,
    },
    /// Somebody was cut off; the seat is kept for a while.
    CutOff {
        /// The player.
        player: EntityId,
    },
    /// Nobody plays the player any more.
    Left {
        /// The player.
        player: EntityId,
    },
    /// Somebody may not join.
    Denied {
        /// By which line.
        line: LineId,
        /// Why not.
        why: Denial,
    },
    /// A deed was not done.
    Refused {
        /// Whose.
        player: EntityId,
        /// Its number.
        number: u64,
        /// Why not.
        why: NotDone,
    },
    /// A line was closed by the host.
    Closed {
        /// Which.
        line: LineId,
        /// Why.
        why: String,
    },
}

impl Room {
    /// Lets a play be played from elsewhere. Its players leave it until somebody plays them.
    pub fn new(mut play: Play, rules: Rules) -> Self {
        let start = Play::new(play.scene().clone()).state().clone();
        let players: Vec<EntityId> =
            play.scene().ids().filter(|it| play.scene().is_player(*it)).collect();
        for player in players {
            // It is one of the scene's; if it is out of the play already, so much the better.
            let _ = play.remove(player);
        }
        let scene = fingerprint(play.scene(), &start);
        let tick = play.now().tick(play.rate());
        let most = (rules.memory * f64::from(play.rate())) as usize;
        Self {
            told: start.clone(),
            entities: play.scene().len(),
            memory: Memory::new(most, tick + 1),
            lines: BTreeMap::new(),
            lines_so_far: 0,
            seats: BTreeMap::new(),
            out: Vec::new(),
            news: Vec::new(),
            play,
            rules,
            start,
            scene,
        }
    }

    /// The play.
    pub fn play(&self) -> &Play {
        &self.play
    }

    /// The play, for the host's own inputs and handlers. Time goes on in [`step`](Self::step) alone.
    pub fn play_mut(&mut self) -> &mut Play {
        &mut self.play
    }

    /// Who plays whom.
    pub fn seats(&self) -> impl Iterator<Item = &Seat> {
        self.seats.values()
    }

    /// What has come about since this was last asked.
    pub fn news(&mut self) -> impl Iterator<Item = News> {
        self.news.drain(..)
    }

    /// What is to be sent, and by which line.
    pub fn outgoing(&mut self) -> impl Iterator<Item = (LineId, Vec<u8>)> {
        self.out.drain(..)
    }

    /// A line has been opened. On a `reliable` one all that is sent arrives, in order.
    pub fn open(&mut self, reliable: bool) -> LineId {
        self.lines_so_far += 1;
        let line = LineId(self.lines_so_far);
        self.lines.insert(line, Line::new(reliable, self.tick()));
        if self.lines.len() > self.rules.most_lines {
            self.close_for(line, "there are too many lines");
        }
        line
    }

    /// Whether a line is open.
    pub fn is_open(&self, line: LineId) -> bool {
        self.lines.contains_key(&line)
    }

    /// A line has been closed at the other end. Whoever played by it keeps the seat for a while.
    pub fn close(&mut self, line: LineId) {
        let Some(closed) = self.lines.remove(&line) else { return };
        let tick = self.tick();
        let seat = closed.seat.and_then(|player| self.seats.get_mut(&player));
        if let Some(seat) = seat.filter(|seat| seat.line == Some(line)) {
            (seat.line, seat.gone_at) = (None, tick);
            self.news.push(News::CutOff { player: seat.player });
        }
    }

    /// Lets nothing be sent by a line for the time being, since it does not take as much.
    pub fn set_busy(&mut self, line: LineId, busy: bool) {
        if let Some(line) = self.lines.get_mut(&line) {
            line.busy = busy;
        }
    }

    /// A message has come by a line. Whatever it is, nothing worse comes of it than that the line is
    /// closed.
    pub fn receive(&mut self, line: LineId, bytes: &[u8]) {
        let tick = self.tick();
        let Some(open) = self.lines.get_mut(&line) else { return };
        let Some(message) = read_to_host(bytes) else { return self.fault(line, "no message") };
        open.heard_at = tick;
        match (message, open.seat) {
            (ToHost::Hello(hello), seat) => self.hello(line, &hello, seat),
            (_, None) => self.fault(line, "not joined"),
            (ToHost::Deeds(deeds), Some(player)) => self.deeds(line, player, deeds),
            (ToHost::Lost, Some(_)) => {
                open.whole = true;
                // The whole state is much to send; whoever wants it all the time wants something else.
                self.fault(line, "lost again and again");
            }
            (ToHost::Bye, Some(player)) => {
                self.lines.remove(&line);
                self.give_up(player);
            }
        }
    }

    /// Plays a tick, and makes ready what is to be told of it.
    pub fn step(&mut self) -> &[Entry] {
        self.play.step();
        if self.play.scene().len() == self.entities {
            let delta = self.play.state().delta(&self.told);
            self.memory.push(pack(&delta), self.play.entries());
            // It was taken from these very states.
            let _ = self.told.take(delta, self.play.scene());
        } else {
            let why = "the scene has grown, which clients cannot follow";
            self.lines.keys().copied().collect::<Vec<_>>().into_iter().for_each(|line| {
                self.close_for(line, why);
            });
        }
        self.see_to_seats();
        self.tell();
        self.news.drain(..self.news.len().saturating_sub(MOST_NEWS));
        self.play.entries()
    }

    fn tick(&self) -> u64 {
        self.play.now().tick(self.play.rate())
    }

    fn scene(&self) -> &Scene {
        self.play.scene()
    }

    /// How many ticks so many seconds are.
    fn ticks(&self, seconds: f64) -> u64 {
        (seconds * f64::from(self.play.rate())) as u64
    }

    fn send(&mut self, line: LineId, message: &ToClient) {
        let bytes = write(message);
        let open = self.lines.get_mut(&line);
        let seat = open.and_then(|open| open.seat).and_then(|player| self.seats.get_mut(&player));
        if let Some(seat) = seat {
            seat.sent += bytes.len() as u64;
        }
        self.out.push((line, bytes));
    }

    /// Counts a fault, and closes a line that has too many.
    fn fault(&mut self, line: LineId, what: &str) {
        let (tick, rate) = (self.tick(), self.play.rate());
        let open = self.lines.get_mut(&line);
        if open.is_some_and(|open| open.fault(tick, rate, &self.rules)) {
            self.close_for(line, &format!("too many faults: {what}"));
        }
    }

    fn close_for(&mut self, line: LineId, why: &str) {
        self.send(line, &ToClient::Closed { why: why.into() });
        self.news.push(News::Closed { line, why: why.into() });
        self.close(line);
    }

    /// Somebody wants to join.
    fn hello(&mut self, line: LineId, hello: &Hello, seated: Option<EntityId>) {
        if seated.is_some() {
            // On a bad line the answer may have been lost; but not again and again.
            self.fault(line, "joined already");
            if self.lines.get(&line).is_none_or(|open| open.reliable) {
                return;
            }
        }
        match seated.map_or_else(|| self.seat_for(line, hello), Ok) {
            Ok(player) => self.welcome(line, player),
            Err(why) => {
                self.send(line, &ToClient::Denied { why: why.clone() });
                self.news.push(News::Denied { line, why });
                self.lines.remove(&line);
            }
        }
    }

    /// The player for whoever wants to join.
    fn seat_for(&mut self, line: LineId, hello: &Hello) -> Result<EntityId, Denial> {
        if hello.version != VERSION {
            return Err(Denial::Version { host: VERSION });
        }
        if self.rules.token.is_some() && hello.token != self.rules.token {
            return Err(Denial::Token);
        }
        if hello.scene != self.scene {
            return Err(Denial::Scene);
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
        let _ = self.play.schedule(self.play.now(), Input::Add { what: player, at: None });
        self.news.push(News::Joined { player });
        Ok(player)
    }

    /// The player of a name, or the first, if nobody plays them.
    fn wanted(&self, name: Option<&String>) -> Result<EntityId, Denial> {
        let scene = self.scene();
        let is_free = |player: &EntityId| !self.seats.contains_key(player);
        let Some(name) = name else {
            let mut players = scene.ids().filter(|it| scene.is_player(*it));
            return players.find(is_free).ok_or(Denial::Full);
        };
        let found = scene.find(name).filter(|found| scene.is_player(*found));
        let player = found.ok_or_else(|| Denial::NoPlayer { name: name.clone() })?;
        if is_free(&player) { Ok(player) } else { Err(Denial::Taken { name: name.clone() }) }
    }

    fn welcome(&mut self, line: LineId, player: EntityId) {
        let (tick, state) = (self.tick(), self.whole());
        let Some(seat) = self.seats.get(&player) else { return };
        let (key, done) = (seat.key.clone(), seat.done);
        let (rate, name) = (self.play.rate(), self.scene().name(player).to_owned());
        if let Some(open) = self.lines.get_mut(&line) {
            (open.seat, open.told) = (Some(player), tick);
        }
        self.send(line, &ToClient::Welcome(Welcome { player: name, key, rate, done, tick, state }));
    }

    /// The state as it was last told, from the beginning.
    fn whole(&self) -> Bytes {
        Bytes(pack(&self.told.delta(&self.start)))
    }

    /// A player has done something.
    fn deeds(&mut self, line: LineId, player: EntityId, deeds: Deeds) {
        let (tick, now) = (self.tick(), self.play.now());
        let Some(open) = self.lines.get_mut(&line) else { return };
        if deeds.heard > tick {
            return self.fault(line, "it has heard of what is to come");
        }
        let lead = (deeds.now as f64 - now.nanos() as f64) / 1e9;
        open.note_lead(lead);
        if !open.reliable {
            open.knows(deeds.heard);
        }
        for timed in deeds.list {
            let Some(seat) = self.seats.get_mut(&player) else { return };
            seat.lead = lead;
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
        let due = Time::from_nanos(timed.at);
        let early = (timed.at as f64 - now.nanos() as f64) / 1e9;
        if early > self.rules.early {
            return Err(NotDone::Early { seconds: early });
        }
        if -early > self.rules.late {
            return Err(NotDone::Late { seconds: -early });
        }
        let input = timed.deed.input(self.scene(), player)?;
        Ok(self.play.schedule(due.max(now), input)?)
    }

    /// Gives up seats that are kept for too long, and lines that are silent.
    fn see_to_seats(&mut self) {
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
    fn give_up(&mut self, player: EntityId) {
        if self.seats.remove(&player).is_some() {
            // Somebody whom the host has taken out itself is out already.
            let _ = self.play.remove(player);
            self.news.push(News::Left { player });
        }
    }

    /// Tells everybody what has become different.
    fn tell(&mut self) {
        let tick = self.tick();
        let proof = tick.is_multiple_of(self.ticks(self.rules.proof).max(1));
        let fingerprint = proof.then(|| self.told.fingerprint());
        let lines: Vec<LineId> = self.lines.keys().copied().collect();
        for id in lines {
            let Some(line) = self.lines.get_mut(&id).filter(|line| !line.busy) else { continue };
            let Some(player) = line.seat else { continue };
            let known = if line.whole { None } else { self.memory.since(line.told, player) };
            let Some(each) = known else {
                (line.whole, line.told) = (false, tick);
                let state = self.whole();
                self.send(id, &ToClient::Whole { tick, state });
                continue;
            };
            let first = line.told + 1;
            let lead = line.lead.take();
            let refused = line.refused.iter().map(|(_, number, why)| (*number, why.clone()));
            let refused: Vec<(u64, String)> = refused.collect();
            if line.reliable {
                line.knows(tick);
            }
            let done = self.seats.get(&player).map_or(0, |seat| seat.done);
            self.send(
                id,
                &ToClient::Ticks(Ticks { first, each, done, lead, refused, fingerprint }),
            );
        }
    }
}
