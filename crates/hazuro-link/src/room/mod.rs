//! The host: a play, and those who play it from elsewhere.

mod doing;
mod heard;
mod joining;
mod news;
mod telling;

use std::collections::{BTreeMap, BTreeSet};

use hazuro::{EntityId, Entry, Play, Scene, State};

use crate::line::{Line, LineId};
use crate::message::{Notation, ToClient, ToHost, read_to_host};
use crate::rules::Rules;
use crate::seat::Seat;
use crate::told::{Memory, fingerprint, pack};

pub use heard::Heard;
use news::MOST_NEWS;
pub use news::News;

/// A play that several players play, each from elsewhere. It decides; they mirror it.
///
/// A player whom nobody plays is out of the play. Whatever carries messages tells the room of lines that
/// open and close and of what comes by them, and takes from it what is to be sent. A room reads no clock:
/// it goes on by a tick with each [`step`](Self::step).
///
/// ```
/// use hazuro::{Play, Scene, geometry::Shape, scene::{Body, Entity}};
/// use hazuro_link::{Client, Guest, Room, Rules, Standing};
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
    /// Whether clients may mirror what is a secret.
    trusts: bool,
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
    /// Those who can be played from elsewhere.
    players: BTreeSet<EntityId>,
    /// What was done from elsewhere, if that is kept.
    heard: Option<Vec<Heard>>,
    out: Vec<(LineId, Vec<u8>)>,
    news: Vec<News>,
}

impl Room {
    /// Lets a play be played from elsewhere. Its players leave it until somebody plays them.
    pub fn new(play: Play, rules: Rules) -> Self {
        let scene = play.scene();
        let players: Vec<EntityId> = scene.ids().filter(|it| scene.is_player(*it)).collect();
        Self::for_players(play, rules, players)
    }

    /// As [`new`](Self::new), for these of its players alone; the others stay where they are, and nobody
    /// can join as one of them.
    pub fn for_players(
        mut play: Play,
        rules: Rules,
        players: impl IntoIterator<Item = EntityId>,
    ) -> Self {
        let start = Play::new(play.scene().clone()).state().clone();
        let is_player = |it: &EntityId| play.scene().is_player(*it);
        let players: BTreeSet<EntityId> = players.into_iter().filter(is_player).collect();
        for player in &players {
            // It is one of the scene's; if it is out of the play already, so much the better.
            let _ = play.remove(*player);
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
            players,
            heard: None,
            out: Vec::new(),
            news: Vec::new(),
            play,
            rules,
            trusts: false,
            start,
            scene,
        }
    }

    /// Lets clients mirror a scene with secrets, too: all of them are in the hands of the host, as in a
    /// rehearsal. Their states hold every secret.
    #[must_use]
    pub fn trusting(self) -> Self {
        Self { trusts: true, ..self }
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

    /// A line has been closed at the other end. The client that played by it keeps the seat for a while.
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
        if open.seat.is_none() {
            open.notation = Notation::of(bytes);
        }
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
            let why = "the scene has grown, which a client that holds it cannot follow";
            let mirrors = self.lines.iter().filter(|(_, line)| line.onlooker.is_none());
            let mirrors: Vec<LineId> = mirrors.map(|(line, _)| *line).collect();
            for line in mirrors {
                self.close_for(line, why);
            }
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

    /// The number of ticks in `seconds`.
    fn ticks(&self, seconds: f64) -> u64 {
        (seconds * f64::from(self.play.rate())) as u64
    }

    fn send(&mut self, line: LineId, message: &ToClient) {
        let open = self.lines.get_mut(&line);
        let notation = open.as_ref().map(|open| open.notation).unwrap_or_default();
        let bytes = notation.write(message);
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
}
