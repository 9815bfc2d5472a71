//! A play in the terminal: what is played, what is shown, and what can be done to it.

use std::path::{Path, PathBuf};

use hazuro::glam::DVec3;
use hazuro::scene::{Action, Detector, Throw};
use hazuro::{Button, EntityId, Entry, Input, Play, Scene, Spot, Time};
use hazuro_files::{Finding, Loaded, Watched, load, read_playtest, write_playtest};
use ratatui::layout::Rect;

use crate::film::Film;
use crate::reel::Reel;
use crate::still::Firings;
use crate::timeline::Timeline;
use crate::view::{View, Window};

use super::map::Eye;
use super::saved::Saved;
use super::why::{self, Why};

/// How far one goes at a key, in metres, and with shift.
const STRIDES: [f64; 2] = [1.0, 4.0];
/// The rates at which a play can go, as a share of real time.
const SPEEDS: [f64; 7] = [0.05, 0.1, 0.25, 0.5, 1.0, 2.0, 4.0];
/// From so many entities on a scene is large.
const MANY: usize = 1500;
/// How long a key is down at least.
const TAP: Time = Time::from_nanos(50_000_000);
/// How far one reaches for what can be carried, in metres.
const REACH: f64 = 2.5;
/// How fast things are thrown ahead and up, in metres a second.
const THROW: [f64; 3] = [0.0, 3.0, -6.0];

/// What keys mean at the moment.
#[derive(Clone, Debug, Default, PartialEq)]
pub(super) enum Focus {
    /// The play.
    #[default]
    Play,
    /// A list to choose from.
    Menu { title: String, items: Vec<(String, Choice)>, at: usize },
    /// The events, to choose one to go back to.
    Events { at: usize },
    /// A text being typed: what events are to have in them.
    Filter,
    /// A time being typed, to go to.
    Jump(String),
    /// The keys and the legend.
    Help,
    /// The timeline.
    Timeline,
}

/// What a list offers.
#[derive(Clone, Debug, PartialEq)]
pub(super) enum Choice {
    Cue(String),
    Poke(EntityId, hazuro::scene::EventKind),
}

/// A play in the terminal, apart from the terminal itself: it is given keys, mouse and time, and
/// draws itself into a buffer.
///
/// ```no_run
/// use hazuro_view::{Console, ratatui::{buffer::Buffer, layout::Rect}};
/// let loaded = hazuro_files::load("demo/tidemill/tidemill.scene.toml".as_ref()).unwrap();
/// let mut console = Console::new("demo/tidemill/tidemill.scene.toml".as_ref(), loaded, &[]).unwrap();
/// console.pass(1.0);
/// let mut buffer = Buffer::empty(Rect::new(0, 0, 80, 24));
/// console.draw(&mut buffer);
/// ```
#[derive(Debug)]
pub struct Console {
    pub(super) path: PathBuf,
    pub(super) loaded: Loaded,
    pub(super) reel: Reel,
    pub(super) watched: Vec<Watched>,
    watch: Vec<String>,
    players: Vec<EntityId>,
    player: usize,
    pub(super) running: bool,
    speed: usize,
    /// Real time that has not been played, since it was less than a tick.
    rest: f64,
    pub(super) eye: Option<Eye>,
    pub(super) follows: bool,
    pub(super) chosen: Option<EntityId>,
    pub(super) focus: Focus,
    pub(super) filter: String,
    /// Something to tell, and when it was told.
    pub(super) notice: Option<(String, Time)>,
    /// What is wrong with what was saved.
    pub(super) broken: Option<String>,
    saved: Saved,
    pub(super) why: Option<Why>,
    film: Option<(Time, Timeline)>,
    /// Where the map was drawn.
    pub(super) area: Rect,
    is_over: bool,
}

impl Console {
    /// A play of what was loaded from a path. `watch` are the values to show, as `--watch` takes
    /// them.
    ///
    /// # Errors
    /// What is wrong with a value to watch.
    pub fn new(path: &Path, loaded: Loaded, watch: &[String]) -> Result<Self, Finding> {
        let watched: Result<_, Finding> =
            watch.iter().map(|text| Watched::new(text, &loaded.scene)).collect();
        let scene = loaded.scene.clone();
        let reel = begin(&loaded);
        let saved = Saved::of(path, &loaded);
        let mut console = Self {
            path: path.into(),
            players: players(&scene),
            reel,
            watched: watched?,
            watch: watch.to_vec(),
            player: 0,
            running: true,
            speed: 4,
            rest: 0.0,
            eye: None,
            follows: false,
            chosen: detectors(&scene).next(),
            focus: Focus::Play,
            filter: String::new(),
            notice: None,
            broken: None,
            saved,
            why: None,
            film: None,
            area: Rect::ZERO,
            is_over: false,
            loaded,
        };
        console.reel.go(Time::from_nanos(1));
        Ok(console)
    }

    /// The play at the present moment.
    pub fn play(&self) -> &Play {
        self.reel.play()
    }

    /// Everything that has happened until now, in order.
    pub fn entries(&self) -> &[Entry] {
        self.reel.entries()
    }

    /// What has been done until now, in order of time.
    pub fn tape(&self) -> &[(Time, Input)] {
        self.reel.tape()
    }

    /// Whether it is to be closed.
    pub fn is_over(&self) -> bool {
        self.is_over
    }

    /// The player who is moved by keys, if there is one.
    pub fn player(&self) -> Option<EntityId> {
        self.players.get(self.player).copied()
    }

    pub(super) fn scene(&self) -> &Scene {
        &self.loaded.scene
    }

    /// How fast it goes, as a share of real time.
    pub(super) fn speed(&self) -> f64 {
        SPEEDS[self.speed]
    }

    /// What fired within the last moments.
    pub(super) fn firings(&self) -> Firings {
        let since = self.reel.now() - crate::still::AFTERGLOW;
        let entries = self.reel.entries();
        let first = entries.partition_point(|entry| entry.time() < since);
        let mut firings = Firings::default();
        firings.note(&entries[first..]);
        firings
    }

    /// Lets real time pass, in seconds: plays on if it is not paused.
    pub fn pass(&mut self, seconds: f64) {
        if !self.running || matches!(self.focus, Focus::Help | Focus::Menu { .. }) {
            return;
        }
        self.rest += seconds.clamp(0.0, 0.5) * self.speed();
        let rate = self.reel.play().rate();
        let ticks = (self.rest * f64::from(rate)).floor();
        self.rest -= ticks / f64::from(rate);
        if ticks > 0.0 {
            let tick = self.reel.now().tick(rate) + ticks as u64;
            self.reel.go(Time::of_tick(tick, rate));
        }
    }

    /// Goes back or on to a time, and pauses.
    pub fn go(&mut self, time: Time) {
        self.running = false;
        self.reel.go(time.max(Time::from_nanos(1)));
    }

    pub(super) fn tell(&mut self, words: impl Into<String>) {
        self.notice = Some((words.into(), self.reel.now()));
    }

    /// Does something in the play now, as a key would.
    pub fn give(&mut self, input: Input) {
        self.reel.input(input);
    }

    /// Walks so many strides to the right and up in the view.
    pub(super) fn walk(&mut self, [right, up]: [f64; 2], far: bool) {
        let Some(who) = self.player_or_tell() else { return };
        let Ok(pose) = self.play().pose(who) else { return };
        let view = self.eye.map_or(View::Top, |eye| eye.view);
        let away = match view {
            View::Top => view.direction([0.0, 1.0]),
            // Up is into the picture.
            View::Front => DVec3::NEG_Z,
            View::Side => DVec3::NEG_X,
        };
        let way = view.direction([1.0, 0.0]) * right + away * up;
        let to = pose.position + way * STRIDES[usize::from(far)];
        self.walk_to(who, to);
    }

    fn walk_to(&mut self, who: EntityId, to: DVec3) {
        // What stands in a file is read by people.
        let to = (to * 1e3).round() / 1e3;
        if self.scene().walking_speed(who).is_some() {
            self.give(Input::Walk { who, to: to.to_array().into() });
        } else {
            let far = self.play().pose(who).map_or(0.0, |pose| pose.position.distance(to));
            let until = self.reel.now() + Time::from_secs(far / 3.0);
            self.give(Input::Drive { who, to: to.to_array().into(), until });
        }
        self.wake();
    }

    /// What is done while paused is seen at once.
    fn wake(&mut self) {
        if !self.running {
            self.tell("done; P or . plays on");
        }
    }

    fn player_or_tell(&mut self) -> Option<EntityId> {
        let player = self.player();
        if player.is_none() {
            self.tell("nobody here is a player: give somebody player = true, or a body");
        }
        player
    }

    pub(super) fn jump(&mut self) {
        if let Some(who) = self.player_or_tell() {
            if self.scene().jump_height(who).is_none_or(|height| height <= 0.0) {
                let name = self.scene().name(who).to_owned();
                return self.tell(format!("{name} cannot jump: give its body a jump = height"));
            }
            self.give(Input::Act(Action::Jump(who)));
            self.wake();
        }
    }

    /// Presses a key as long as what it is for takes.
    pub(super) fn press(&mut self, key: &str) {
        let Some(who) = self.player_or_tell() else { return };
        if !self.scene().is_player(who) {
            let name = self.scene().name(who).to_owned();
            return self.tell(format!("{name} is no player, so it presses nothing"));
        }
        let offers = self.play().offers(who).unwrap_or_default();
        let offer = offers.iter().find(|offer| offer.key == key);
        let hold = offer.map_or(0.0, |offer| offer.hold);
        let words = match offer {
            Some(offer) if hold > 0.0 => {
                format!("{}: {key} is held {hold} s", offer.caption)
            }
            Some(offer) => format!("{}: {key}", offer.caption),
            None => format!("{key}: nothing is offered for it here"),
        };
        let until = self.reel.now() + Time::from_secs(hold) + TAP;
        self.give(Input::Press { who, key: key.into() });
        self.reel.later(until, Input::Release { who, key: key.into() });
        self.tell(words);
    }

    /// Uses the first of what is offered.
    pub(super) fn press_first(&mut self) {
        let Some(who) = self.player_or_tell() else { return };
        let offers = self.play().offers(who).unwrap_or_default();
        match offers.first().map(|offer| offer.key.to_owned()) {
            Some(key) => self.press(&key),
            None => self.tell("nothing is offered here"),
        }
    }

    /// Takes the nearest thing that can be carried, or lets go of what is held.
    pub(super) fn grab(&mut self) {
        let Some(who) = self.player_or_tell() else { return };
        if self.play().in_hands(who).is_ok_and(|held| !held.is_empty()) {
            return self.give(Input::Act(Action::Drop(who)));
        }
        let place = |id: EntityId| self.play().pose(id).map(|pose| pose.position).ok();
        let Some(here) = place(who) else { return };
        let things = self.scene().ids().filter(|id| self.scene().has(*id, Detector::Carry));
        let near = things.filter_map(|id| Some((id, place(id)?.distance(here))));
        let nearest = near.min_by(|one, other| one.1.total_cmp(&other.1));
        match nearest {
            Some((what, far)) if far <= REACH => {
                self.give(Input::Act(Action::Grab { what, to: who }));
                self.wake();
            }
            Some((what, far)) => {
                let name = self.scene().name(what).to_owned();
                self.tell(format!("the nearest thing to carry, {name}, is {far:.1} m away"));
            }
            None => self.tell("nothing here can be carried"),
        }
    }

    pub(super) fn throw(&mut self) {
        let Some(who) = self.player_or_tell() else { return };
        if self.play().in_hands(who).is_ok_and(|held| held.is_empty()) {
            return self.tell("nothing is held; G takes what is near");
        }
        self.give(Input::Act(Action::Throw(Throw { what: who, velocity: THROW, spin: 0.0 })));
        self.wake();
    }

    /// The thing at a point of the view, the smallest first: those that `counts`.
    fn at_point(
        &self,
        point: crate::view::Flat,
        slack: f64,
        counts: &dyn Fn(EntityId) -> bool,
    ) -> Option<EntityId> {
        let view = self.eye.map_or(View::Top, |eye| eye.view);
        let firings = Firings::default();
        let figures = crate::still::figures(self.play(), &firings);
        let holds = |window: &Window| window.grown(slack).holds(point);
        let found = figures
            .iter()
            .filter(|figure| counts(figure.entity))
            .map(|figure| (figure.entity, figure.window(view)))
            .filter(|(_, window)| !window.is_empty() && holds(window));
        let size = |window: &Window| window.size()[0] * window.size()[1];
        found.min_by(|one, other| size(&one.1).total_cmp(&size(&other.1))).map(|it| it.0)
    }

    /// Clicks what can be clicked at a cell, or else chooses the detector there.
    pub(super) fn click(&mut self, column: u16, row: u16) {
        let Some(eye) = self.eye else { return };
        let (point, slack) = (eye.point(self.area, column, row), 3.0 / eye.dots);
        let scene = self.loaded.scene.clone();
        let clickable = |id| scene.has(id, Detector::Pointer);
        let detects = |id| detectors_of(&scene, id).next().is_some();
        let player = self.player().filter(|who| scene.camera_of(*who).is_some());
        match (self.at_point(point, slack, &clickable), player) {
            (Some(on), Some(who)) => {
                self.chosen = Some(on);
                self.give(Input::Point { who, at: Spot::Entity(on), button: Button::Click });
                self.wake();
            }
            (Some(on), None) => {
                self.chosen = Some(on);
                self.tell("the player has no camera to click through");
            }
            (None, _) => match self.at_point(point, slack, &detects) {
                Some(on) => self.chosen = Some(on),
                None => self.tell("nothing here to click or to choose"),
            },
        }
    }

    /// Chooses the detector under the mouse.
    pub(super) fn hover(&mut self, column: u16, row: u16) {
        let Some(eye) = self.eye else { return };
        let point = eye.point(self.area, column, row);
        let scene = self.loaded.scene.clone();
        let detects = |id| detectors_of(&scene, id).next().is_some();
        if let Some(on) = self.at_point(point, 1.0 / eye.dots, &detects) {
            self.chosen = Some(on);
        }
    }

    /// Walks to a cell, around what is in the way.
    pub(super) fn walk_to_cell(&mut self, column: u16, row: u16) {
        let (Some(eye), Some(who)) = (self.eye, self.player_or_tell()) else { return };
        let Ok(pose) = self.play().pose(who) else { return };
        let [right, up] = eye.point(self.area, column, row);
        let here = pose.position;
        let to = match eye.view {
            View::Top => DVec3::new(right, here.y, -up),
            View::Front => DVec3 { x: right, ..here },
            View::Side => DVec3 { z: -right, ..here },
        };
        self.walk_to(who, to);
    }

    pub(super) fn next_player(&mut self) {
        if self.players.is_empty() {
            return;
        }
        self.player = (self.player + 1) % self.players.len();
        if let Some(who) = self.player() {
            let name = self.scene().name(who).to_owned();
            self.tell(format!("you are {name}"));
        }
    }

    /// Chooses the next detector, or the one before.
    pub(super) fn next_detector(&mut self, on: bool) {
        let all: Vec<EntityId> = detectors(self.scene()).collect();
        let now = self.chosen.and_then(|chosen| all.iter().position(|it| *it == chosen));
        let next = match (now, on) {
            (None, _) => 0,
            (Some(now), true) => (now + 1) % all.len(),
            (Some(now), false) => (now + all.len() - 1) % all.len(),
        };
        self.chosen = all.get(next).copied();
    }

    pub(super) fn faster(&mut self, faster: bool) {
        self.speed = if faster {
            (self.speed + 1).min(SPEEDS.len() - 1)
        } else {
            self.speed.saturating_sub(1)
        };
        self.tell(format!("{} times as fast as real time", self.speed()));
    }

    pub(super) fn pause(&mut self) {
        self.running = !self.running;
    }

    /// One tick on or back, and pauses.
    pub(super) fn tick(&mut self, on: bool) {
        let (rate, now) = (self.play().rate(), self.reel.now());
        let tick = now.tick(rate);
        let at_start = Time::of_tick(tick, rate) == now;
        let next = match (on, at_start) {
            (true, _) => tick + 1,
            (false, true) => tick.saturating_sub(1),
            (false, false) => tick,
        };
        self.go(Time::of_tick(next, rate));
    }

    /// To the next event or the one before, and pauses.
    pub(super) fn event(&mut self, on: bool) {
        self.running = false;
        if on {
            let limit = self.reel.now() + Time::from_secs(60.0);
            self.reel.go_moment(limit);
            return;
        }
        let now = self.reel.now();
        let events = self.reel.entries().iter().filter_map(Entry::event);
        // The moment just after it, when it has happened.
        let just = |time: Time| time + Time::from_nanos(1);
        let before = events.map(|event| just(event.time)).filter(|time| *time < now).next_back();
        match before {
            Some(time) => self.reel.go(time),
            None => self.go(Time::from_nanos(1)),
        }
    }

    /// What may be chosen of: the cues of the scene.
    pub(super) fn cues(&mut self) {
        let items: Vec<(String, Choice)> =
            cues(self.scene()).into_iter().map(|cue| (cue.clone(), Choice::Cue(cue))).collect();
        self.menu("Send a cue", items, "no reaction of this scene waits for a cue");
    }

    /// What may be chosen of: the events of the chosen detector.
    pub(super) fn pokes(&mut self) {
        let Some(on) = self.chosen else {
            return self.tell("no detector is chosen; N chooses one");
        };
        let mut items = Vec::new();
        for kind in hazuro::scene::EventKind::ALL {
            let has = kind.detector().is_some_and(|it| {
                self.scene().has(on, it) && !matches!(it, Detector::Route | Detector::Teleport)
            });
            if has {
                items.push((kind.word().to_owned(), Choice::Poke(on, *kind)));
            }
        }
        let title = format!("Poke {}", self.scene().name(on));
        self.menu(&title, items, "it has no detector");
    }

    fn menu(&mut self, title: &str, items: Vec<(String, Choice)>, empty: &str) {
        if items.is_empty() {
            return self.tell(empty);
        }
        self.focus = Focus::Menu { title: title.into(), items, at: 0 };
    }

    pub(super) fn choose(&mut self, choice: Choice) {
        self.focus = Focus::Play;
        match choice {
            Choice::Cue(cue) => self.give(Input::Act(Action::Cue(cue))),
            Choice::Poke(on, event) => {
                let who = self.player();
                self.give(Input::Act(Action::Send { event, on, who }));
            }
        }
        self.wake();
    }

    pub(super) fn close(&mut self) {
        self.is_over = true;
    }

    /// The events that the filter lets through, with their places among the entries.
    pub(super) fn filtered(&self) -> Vec<(usize, String)> {
        let scene = self.scene();
        let words = |entry: &Entry| super::words::entry(scene, entry);
        let wanted = self.filter.to_lowercase();
        let all = self.reel.entries().iter().enumerate();
        all.map(|(index, entry)| (index, words(entry)))
            .filter(|(_, line)| wanted.is_empty() || line.to_lowercase().contains(&wanted))
            .collect()
    }

    /// Goes back to just after an entry.
    pub(super) fn go_to_entry(&mut self, index: usize) {
        if let Some(entry) = self.reel.entries().get(index) {
            let time = entry.time() + Time::from_nanos(1);
            self.go(time);
        }
    }

    /// Brings what is known of the chosen detector up to date.
    pub(super) fn look_why(&mut self) {
        let (Some(on), Some(who)) = (self.chosen, self.player()) else {
            self.why = None;
            return;
        };
        let now = self.reel.now();
        let known =
            self.why.as_ref().is_some_and(|why| (why.on, why.who, why.at) == (on, who, now));
        if !known {
            self.why = Some(why::now(&self.loaded.scene, self.reel.play(), on, who));
        }
    }

    /// The timeline until now.
    pub(super) fn timeline(&mut self) -> &Timeline {
        let now = self.reel.now();
        let fresh = self.film.as_ref().is_some_and(|(time, _)| *time == now);
        if !fresh {
            let mut play = self.loaded.play();
            for (time, input) in self.reel.tape() {
                play.schedule(*time, input.clone());
            }
            let film = Film::shoot(&mut play, now);
            self.film = Some((now, Timeline::of(&self.loaded.scene, &film)));
        }
        &self.film.get_or_insert_with(Default::default).1
    }

    /// Reads the files again if they have been saved since. The new scene is played to the same
    /// moment, with all that has been done; if it is wrong, the old one goes on.
    pub fn read_again(&mut self) {
        if !self.saved.has_changed() {
            return;
        }
        let loaded = match load(&self.path) {
            Ok(loaded) => loaded,
            Err(findings) => {
                self.broken = findings.first().map(Finding::line);
                return;
            }
        };
        let watched: Result<Vec<Watched>, Finding> =
            self.watch.iter().map(|text| Watched::new(text, &loaded.scene)).collect();
        let watched = match watched {
            Ok(watched) => watched,
            Err(finding) => {
                self.broken = Some(finding.line());
                return;
            }
        };
        self.broken = None;
        let now = self.reel.now();
        let name = |id: EntityId| self.scene().name(id).to_owned();
        let (player, chosen) = (self.player().map(name), self.chosen.map(name));
        let tape = write_playtest("-", self.reel.play(), self.reel.tape(), &[]);
        let source = hazuro_files::Source::new("played", tape);
        let (reel, words) = match read_playtest(&source, loaded.scene.clone()) {
            Ok(playtest) => {
                let mut reel = Reel::with_tape(loaded.play(), playtest.tape().to_vec());
                reel.go(now);
                (reel, "read again, and played to the same moment".to_owned())
            }
            Err(findings) => {
                let why = findings.first().map_or("", |finding| finding.message()).to_owned();
                let mut reel = begin(&loaded);
                reel.go(Time::from_nanos(1));
                (
                    reel,
                    format!("read again, from the start: what was played no longer fits ({why})"),
                )
            }
        };
        self.players = players(&loaded.scene);
        let find = |name: Option<String>| name.and_then(|name| loaded.scene.find(&name));
        let player = find(player).and_then(|id| self.players.iter().position(|it| *it == id));
        self.player = player.unwrap_or(0);
        self.chosen = find(chosen).or_else(|| detectors(&loaded.scene).next());
        (self.why, self.film) = (None, None);
        self.saved = Saved::of(&self.path, &loaded);
        (self.reel, self.loaded, self.watched) = (reel, loaded, watched);
        self.tell(words);
    }

    /// What was played, as a playtest with what happened as its expectations. `file` is where it
    /// will stand.
    pub fn record(&self, file: &Path) -> String {
        let scene = super::saved::path_from(file, Path::new(self.loaded.source.name()));
        write_playtest(&scene, self.reel.play(), self.reel.tape(), self.reel.entries())
    }
}

/// A play at its beginning, with its tape if it has one.
fn begin(loaded: &Loaded) -> Reel {
    let tape = loaded.playtest.as_ref().map_or(Vec::new(), |playtest| playtest.tape().to_vec());
    Reel::with_tape(loaded.play(), tape)
}

/// Whom keys can move: players; if there are none, whatever walks; if nothing does, bodies.
fn players(scene: &Scene) -> Vec<EntityId> {
    let all = |counts: &dyn Fn(EntityId) -> bool| {
        scene.described().filter(|id| counts(*id)).collect::<Vec<_>>()
    };
    let players = all(&|id| scene.is_player(id) && scene.has_body(id));
    let walkers = || all(&|id| scene.walking_speed(id).is_some());
    let bodies = || all(&|id| scene.has_body(id));
    [players, walkers(), bodies()].into_iter().find(|all| !all.is_empty()).unwrap_or_default()
}

/// The detectors of an entity that can be asked about.
pub(super) fn detectors_of(scene: &Scene, id: EntityId) -> impl Iterator<Item = Detector> {
    let asked = |it: &Detector| it.opens().is_some() && *it != Detector::Footing;
    Detector::ALL.into_iter().filter(asked).filter(move |it| scene.has(id, *it))
}

/// The entities with such a detector, in the scene's order.
fn detectors(scene: &Scene) -> impl Iterator<Item = EntityId> {
    scene.described().filter(|id| detectors_of(scene, *id).next().is_some())
}

/// The cues that reactions wait for, in order and each once.
fn cues(scene: &Scene) -> Vec<String> {
    let mut cues: Vec<String> = Vec::new();
    for trigger in scene.reactions().iter().flat_map(|reaction| reaction.triggers()) {
        if let hazuro::scene::Trigger::Cue(cue) = trigger
            && !cues.contains(cue)
        {
            cues.push(cue.clone());
        }
    }
    cues
}
