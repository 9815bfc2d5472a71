//! A play in the terminal: what is played, what is shown, and what can be done to it.

use std::path::{Path, PathBuf};

use hazuro::{EntityId, Entry, Input, Play, Scene, Time};
use hazuro_format::{FileAccess, Finding, path_from};
use hazuro_verify::{Link, Loaded, Watched, chain_of, load_with, read_playtest, write_playtest};
use ratatui::layout::Rect;

use super::map::Viewport;
use super::saved::Saved;
use super::why::{self, Why, detectors_of};
use crate::figures::Firings;
use crate::recording::Recorder;
use crate::rewind::Rewind;
use crate::timeline::Timeline;

/// How somebody leaves the play.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Leave {
    /// For a while: the program is to be suspended.
    Suspend,
    /// For good.
    Quit,
}

/// The rates at which a play can go, as a share of real time.
const SPEEDS: [f64; 7] = [0.05, 0.1, 0.25, 0.5, 1.0, 2.0, 4.0];

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
/// let loaded = hazuro_verify::load("demo/tidemill/tidemill.scene.toml".as_ref()).unwrap();
/// let mut console = Console::new("demo/tidemill/tidemill.scene.toml".as_ref(), loaded, &[]).unwrap();
/// console.pass(1.0);
/// let mut buffer = Buffer::empty(Rect::new(0, 0, 80, 24));
/// console.draw(&mut buffer);
/// ```
#[derive(Debug)]
pub struct Console {
    pub(super) path: PathBuf,
    access: FileAccess,
    pub(super) loaded: Loaded,
    pub(super) rewind: Rewind,
    pub(super) watched: Vec<Watched>,
    watch: Vec<String>,
    players: Vec<EntityId>,
    player: usize,
    pub(super) running: bool,
    speed: usize,
    /// Real time that has not been played, since it was less than a tick.
    rest: f64,
    pub(super) viewport: Option<Viewport>,
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
    recording: Option<Filming>,
    /// Ticks a second, if not the scene's.
    rate: Option<u32>,
    /// Where the map was drawn.
    pub(super) area: Rect,
    /// What somebody asks of the program, beyond the play.
    pub(super) leave: Option<Leave>,
}

/// The same play once more, filmed for the timeline.
#[derive(Debug)]
struct Filming {
    play: Play,
    recorder: Recorder,
    /// How much of the tape it has been given.
    given: usize,
}

impl Console {
    /// A play of what was loaded from a path, at the scene's rate. `watch` are the values to show, as
    /// `--watch` takes them.
    ///
    /// # Errors
    /// What is wrong with a value to watch.
    pub fn new(path: &Path, loaded: Loaded, watch: &[String]) -> Result<Self, Finding> {
        let watched: Result<_, Finding> =
            watch.iter().map(|text| Watched::new(text, &loaded.scene)).collect();
        let scene = loaded.scene.clone();
        let rewind = begin(&loaded, None);
        let saved = Saved::of(path, &loaded);
        let mut console = Self {
            path: path.into(),
            access: FileAccess::default(),
            players: players(&scene),
            rewind,
            watched: watched?,
            watch: watch.to_vec(),
            player: 0,
            running: true,
            speed: 4,
            rest: 0.0,
            viewport: None,
            follows: false,
            chosen: detectors(&scene).next(),
            focus: Focus::Play,
            filter: String::new(),
            notice: None,
            broken: None,
            saved,
            why: None,
            recording: None,
            rate: None,
            area: Rect::ZERO,
            leave: None,
            loaded,
        };
        console.rewind.go(Time::from_nanos(1));
        Ok(console)
    }

    /// With files that may lie elsewhere, when they are read again.
    #[must_use]
    pub fn with_access(self, access: FileAccess) -> Self {
        Self { access, ..self }
    }

    /// From the start, at another rate than the scene's, from 1 to 10,000 ticks per second; others
    /// leave it at the scene's.
    #[must_use]
    pub fn at_rate(mut self, rate: u32) -> Self {
        self.rate = Some(rate);
        self.rewind = begin(&self.loaded, self.rate);
        self.rewind.go(Time::from_nanos(1));
        self
    }

    /// The play at the present moment.
    pub fn play(&self) -> &Play {
        self.rewind.play()
    }

    /// Everything that has happened until now, in order.
    pub fn entries(&self) -> &[Entry] {
        self.rewind.entries()
    }

    /// What has been done until now, in order of time.
    pub fn tape(&self) -> &[(Time, Input)] {
        self.rewind.tape()
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
        let since = self.rewind.now() - crate::figures::AFTERGLOW;
        let entries = self.rewind.entries();
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
        let rate = self.rewind.play().rate();
        let ticks = (self.rest * f64::from(rate)).floor();
        self.rest -= ticks / f64::from(rate);
        if ticks > 0.0 {
            let tick = self.rewind.now().tick(rate) + ticks as u64;
            self.rewind.go(Time::of_tick(tick, rate));
        }
    }

    /// Goes back or on to a time, and pauses.
    pub fn go(&mut self, time: Time) {
        self.running = false;
        self.rewind.go(time.max(Time::from_nanos(1)));
    }

    pub(super) fn tell(&mut self, words: impl Into<String>) {
        self.notice = Some((words.into(), self.rewind.now()));
    }

    /// Does something in the play now, as a key would.
    pub fn give(&mut self, input: Input) {
        if self.rewind.now() < self.rewind.end() {
            // What was filmed after this moment will not have been.
            self.recording = None;
        }
        // Keys mean what the scene has.
        let _ = self.rewind.input(input);
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
        let (rate, now) = (self.play().rate(), self.rewind.now());
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
            let limit = self.rewind.now() + Time::from_secs(60.0);
            self.rewind.go_moment(limit);
            return;
        }
        let now = self.rewind.now();
        let events = self.rewind.entries().iter().filter_map(Entry::event);
        // The moment just after it, when it has happened.
        let just = |time: Time| time + Time::from_nanos(1);
        let before = events.map(|event| just(event.time)).rfind(|time| *time < now);
        match before {
            Some(time) => self.rewind.go(time),
            None => self.go(Time::from_nanos(1)),
        }
    }

    /// What the filter lets through, by its places among the entries.
    pub(super) fn filtered(&self) -> Vec<usize> {
        let entries = self.rewind.entries();
        let all = (0..entries.len()).filter(|index| !entries[*index].goes_without_saying());
        if self.filter.is_empty() {
            return all.collect();
        }
        let wanted = self.filter.to_lowercase();
        all.filter(|index| self.line(*index).to_lowercase().contains(&wanted)).collect()
    }

    /// What an entry came of, the nearest first, a line each.
    pub(super) fn came_of(&self, index: usize) -> Vec<String> {
        const TOLD: usize = 5;
        let entries = self.rewind.entries();
        let scene = (self.scene(), Some(&self.loaded.source));
        let links = chain_of(scene, self.rewind.tape(), entries, entries[index].number);
        let line = |link: &Link| format!("   ← {:8.3} {}", link.t, link.what);
        links.iter().take(TOLD).map(line).collect()
    }

    /// An entry in a line.
    pub(super) fn line(&self, index: usize) -> String {
        super::words::entry(self.scene(), &self.rewind.entries()[index])
    }

    /// Goes back to just after an entry.
    pub(super) fn go_to_entry(&mut self, index: usize) {
        if let Some(entry) = self.rewind.entries().get(index) {
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
        let now = self.rewind.now();
        let known = self.why.as_ref();
        if known.is_none_or(|why| (why.on, why.who, why.at) != (on, who, now)) {
            self.why = Some(why::now(&self.loaded.scene, self.rewind.play(), on, who));
        }
    }

    /// The timeline until now.
    pub(super) fn timeline(&mut self) -> Timeline {
        let (now, tape) = (self.rewind.now(), self.rewind.tape());
        // Effects are seen by playing along; what was filmed goes on unless somebody went back.
        let recording = self.recording.take().filter(|recording| recording.play.now() <= now);
        let mut recording = recording.unwrap_or_else(|| {
            let play = self.loaded.play();
            Filming { recorder: Recorder::new(&play), play, given: 0 }
        });
        for (time, input) in &tape[recording.given..] {
            let taken = recording.play.schedule(*time, input.clone());
            debug_assert_eq!(taken, Ok(()), "the play it comes from has taken it in");
        }
        recording.given = tape.len();
        recording.recorder.go(&mut recording.play, now);
        let effects = recording.recorder.effects();
        self.recording = Some(recording);
        Timeline::laid_out(&self.loaded.scene, self.rewind.entries(), &effects, now)
    }

    /// Reads the files again if they have been saved since. The new scene is played to the same
    /// moment, with all that has been done; if it is wrong, the old one goes on.
    pub fn read_again(&mut self) {
        if !self.saved.has_changed() {
            return;
        }
        let loaded = match load_with(&self.path, &self.access) {
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
        let now = self.rewind.now();
        let name = |id: EntityId| self.scene().name(id).to_owned();
        let (player, chosen) = (self.player().map(name), self.chosen.map(name));
        let (mut rewind, words) = match self.done_again(&loaded) {
            Ok(rewind) => (rewind, "read again, and played to the same moment".to_owned()),
            Err(why) => {
                let words = "read again, from the start: what was played no longer fits";
                (begin(&loaded, self.rate), format!("{words} ({why})"))
            }
        };
        rewind.go(if words.ends_with("moment") { now } else { Time::from_nanos(1) });
        self.players = players(&loaded.scene);
        let find = |name: Option<String>| name.and_then(|name| loaded.scene.find(&name));
        let player = find(player).and_then(|id| self.players.iter().position(|it| *it == id));
        self.player = player.unwrap_or(0);
        self.chosen = find(chosen).or_else(|| detectors(&loaded.scene).next());
        (self.why, self.recording) = (None, None);
        self.saved = Saved::of(&self.path, &loaded);
        (self.rewind, self.loaded, self.watched) = (rewind, loaded, watched);
        self.tell(words);
    }

    /// All that was done, and is going to be, in another scene, at its start; or why that cannot be. If
    /// it is only what the playtest says, what that says now.
    fn done_again(&self, loaded: &Loaded) -> Result<Rewind, String> {
        let all = [self.rewind.tape(), self.rewind.ahead()].concat();
        let told = self.loaded.playtest.as_ref().map_or(&[][..], |playtest| playtest.tape());
        if all == told {
            return Ok(begin(loaded, self.rate));
        }
        let text = write_playtest("-", self.rewind.play(), &all, &[]);
        let source = hazuro_format::Source::new("played", text);
        match read_playtest(&source, loaded.scene.clone()) {
            Ok(playtest) => Ok(on_tape(loaded, self.rate, playtest.tape().to_vec())),
            Err(findings) => Err(findings.first().map_or("", Finding::message).to_owned()),
        }
    }

    /// Whether anything has been played or done.
    pub fn has_played(&self) -> bool {
        self.rewind.end() > Time::from_nanos(1) || !self.rewind.tape().is_empty()
    }

    /// All that was played, as a playtest with what happened as its expectations, also when somebody
    /// is looking back. `file` is where it will stand.
    pub fn record(&mut self, file: &Path) -> String {
        self.rewind.go(self.rewind.end());
        let scene = path_from(file, Path::new(self.loaded.source.name()));
        write_playtest(&scene, self.rewind.play(), self.rewind.tape(), self.rewind.entries())
    }
}

/// A play at its beginning, with its tape if it has one.
fn begin(loaded: &Loaded, rate: Option<u32>) -> Rewind {
    let tape = loaded.playtest.as_ref().map_or(&[][..], |playtest| playtest.tape());
    on_tape(loaded, rate, tape.to_vec())
}

/// A play at its beginning, to which this is going to be done.
fn on_tape(loaded: &Loaded, rate: Option<u32>, tape: Vec<(Time, Input)>) -> Rewind {
    let mut play = loaded.play();
    if let Some(rate) = rate {
        // The command has checked it.
        let _ = play.set_rate(rate);
    }
    let begun = Rewind::new(play);
    tape.into_iter().fold(begun, |mut rewind, (time, input)| {
        // Each was checked when its playtest was read.
        let _ = rewind.later(time, input);
        rewind
    })
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

/// The entities with such a detector, in the scene's order.
fn detectors(scene: &Scene) -> impl Iterator<Item = EntityId> {
    scene.described().filter(|id| detectors_of(scene, *id).next().is_some())
}
