//! A play from its beginning to some time, kept to be drawn: who was where when, what happened.

use std::collections::BTreeMap;

use hazuro::glam::DVec3;
use hazuro::scene::{Facts, Switch};
use hazuro::{EntityId, Entry, Play, Time};

/// How often it is looked where things are, a second.
const LOOKS: u32 = 20;
/// Way that is left out of a track if a straight line between its neighbours comes so near, in
/// metres.
const STRAIGHT: f64 = 0.01;
/// The same for turns, in radians.
const UNTURNED: f64 = 0.02;
/// What gets farther than this between two looks, in metres, has been put there at once.
const JUMP: f64 = 2.0;

/// Where something was at a time.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Waypoint {
    /// When.
    pub time: Time,
    /// Where, in metres.
    pub place: DVec3,
    /// How far it was turned about Y, in radians.
    pub turn: f64,
}

/// How something is switched, by itself or by an ancestor.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[expect(clippy::struct_excessive_bools, reason = "each is a switch of its own")]
pub struct Switches {
    /// Whether it is in the play.
    pub there: bool,
    /// Whether it is on at all.
    pub enabled: bool,
    /// Whether it blocks, if it is solid.
    pub solid: bool,
    /// Whether its detectors detect.
    pub detects: bool,
    /// Whether it is shown.
    pub visible: bool,
}

impl Switches {
    const ALL_ON: Self =
        Self { there: true, enabled: true, solid: true, detects: true, visible: true };

    /// As it is now.
    pub fn of(facts: &impl Facts, entity: EntityId) -> Self {
        Self {
            there: facts.is_there(entity),
            enabled: facts.is_on(entity, Switch::Enabled),
            solid: facts.is_on(entity, Switch::Solid),
            detects: facts.is_on(entity, Switch::Detect),
            visible: facts.is_on(entity, Switch::Visible),
        }
    }
}

/// A play that has been played, kept to be drawn.
///
/// ```
/// use hazuro::{Play, Scene, Time, geometry::Shape, scene::{Body, Entity}};
/// use hazuro_view::Recording;
/// let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
/// let scene = Scene::builder("Yard").entity(Entity::new("miller").body(body)).build()?;
/// let miller = scene.find("miller").unwrap();
/// let mut play = Play::new(scene);
/// play.schedule(Time::ZERO, hazuro::Input::Walk { who: miller, to: [6.0, 0.0, 0.0].into() })?;
/// let recording = Recording::of(&mut play, Time::from_secs(3.0));
/// // It turns, goes straight and evenly, and stands: a few places tell it all.
/// assert!(recording.tracks[&miller].len() < 6);
/// assert!((recording.at(miller, Time::from_secs(1.0)).unwrap().place.x - 3.0).abs() < 0.01);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug)]
pub struct Recording {
    /// How long.
    pub until: Time,
    /// Everything that happened, in order.
    pub entries: Vec<Entry>,
    /// Of what moved: where it was, in order of time, beginning with its start. Between two times it
    /// went straight and evenly, to a centimetre.
    pub tracks: BTreeMap<EntityId, Vec<Waypoint>>,
    /// Of each effect that something was under: from when to when.
    pub effects: Vec<(EntityId, String, Time, Time)>,
    /// Of what was switched off, or hidden, or taken away, or came into the play: when that changed, and
    /// how it was from then on.
    pub switches: BTreeMap<EntityId, Vec<(Time, Switches)>>,
}

impl Recording {
    /// From when to when each thing was highlighted for anybody.
    pub(crate) fn highlights(&self) -> BTreeMap<EntityId, Vec<(Time, Time)>> {
        let mut spans: BTreeMap<EntityId, Vec<(Time, Time)>> = BTreeMap::new();
        let mut lit: BTreeMap<EntityId, (usize, Time)> = BTreeMap::new();
        for event in self.entries.iter().filter_map(Entry::event) {
            let Some(what) = event.highlight else { continue };
            let (players, since) = lit.entry(what).or_insert((0, event.time));
            if event.kind.is_opening() {
                if *players == 0 {
                    *since = event.time;
                }
                *players += 1;
            } else {
                *players = players.saturating_sub(1);
                if *players == 0 {
                    spans.entry(what).or_default().push((*since, event.time));
                }
            }
        }
        for (what, (players, since)) in lit {
            if players > 0 {
                spans.entry(what).or_default().push((since, self.until));
            }
        }
        spans
    }

    /// Plays on to `until` and keeps what there is to see.
    pub fn of(play: &mut Play, until: Time) -> Self {
        let mut recorder = Recorder::new(play);
        recorder.go(play, until);
        recorder.finish()
    }

    /// The ways that something went from one time to another: a new one begins wherever it was put
    /// elsewhere at once.
    pub fn ways(&self, who: EntityId, (from, until): (Time, Time)) -> Vec<Vec<DVec3>> {
        let Some(track) = self.tracks.get(&who) else { return Vec::new() };
        let within = track.iter().filter(|waypoint| waypoint.time > from && waypoint.time < until);
        let begins = track[0].time.max(from).min(until);
        let ends = [begins, until].map(|time| self.at(who, time));
        let [first, last] = ends;
        let all = first.into_iter().chain(within.copied()).chain(last);
        let mut ways: Vec<Vec<DVec3>> = vec![Vec::new()];
        let mut before: Option<Waypoint> = None;
        for waypoint in all {
            let jumps = before.is_some_and(|before| {
                (waypoint.time - before.time).nanos() <= 1
                    && waypoint.place.distance(before.place) > JUMP
            });
            if jumps {
                ways.push(Vec::new());
            }
            ways.last_mut().into_iter().for_each(|way| way.push(waypoint.place));
            before = Some(waypoint);
        }
        ways.retain(|way| way.len() > 1);
        ways
    }

    /// Where something was at a time, if it moved at all.
    pub fn at(&self, who: EntityId, time: Time) -> Option<Waypoint> {
        let track = self.tracks.get(&who)?;
        let next = track.partition_point(|waypoint| waypoint.time <= time);
        let before = track[next.saturating_sub(1)];
        let Some(after) = track.get(next) else { return Some(before) };
        let part = (time - before.time).secs() / (after.time - before.time).secs();
        Some(between(&before, after, part, time))
    }
}

fn between(before: &Waypoint, after: &Waypoint, part: f64, time: Time) -> Waypoint {
    let turn = before.turn + short_way(after.turn - before.turn) * part;
    Waypoint { time, place: before.place.lerp(after.place, part), turn }
}

/// The same turn the short way round.
fn short_way(turn: f64) -> f64 {
    let whole = std::f64::consts::TAU;
    (turn + whole / 2.0).rem_euclid(whole) - whole / 2.0
}

/// A recording being made.
#[derive(Debug)]
pub(crate) struct Recorder {
    recording: Recording,
    /// Effects under way: since when.
    under: BTreeMap<(EntityId, String), Time>,
    /// Of each track, where it has been since its last kept place, which may yet lie on one line.
    pending: BTreeMap<EntityId, Vec<Waypoint>>,
}

impl Recorder {
    /// Begins with how the play is now.
    pub fn new(play: &Play) -> Self {
        let recording = Recording {
            until: play.now(),
            entries: Vec::new(),
            tracks: BTreeMap::new(),
            effects: Vec::new(),
            switches: BTreeMap::new(),
        };
        let mut recorder = Self { recording, under: BTreeMap::new(), pending: BTreeMap::new() };
        recorder.look(play);
        recorder
    }

    /// Plays on to `until`.
    pub fn go(&mut self, play: &mut Play, until: Time) {
        while play.now() < until {
            let time = (play.now() + Time::of_tick(1, LOOKS)).min(until);
            self.recording.entries.extend_from_slice(play.advance(time));
            self.recording.until = time;
            self.look(play);
        }
    }

    /// The effects until now, in the order of whom they are on; those under way last until now.
    pub fn effects(&self) -> Vec<(EntityId, String, Time, Time)> {
        let until = self.recording.until;
        let under = self.under.iter().filter(|(_, since)| **since < until);
        let under = under.map(|((of, effect), since)| (*of, effect.clone(), *since, until));
        let mut all: Vec<_> = self.recording.effects.iter().cloned().chain(under).collect();
        all.sort_by_key(|effect| (effect.0, effect.2));
        all
    }

    /// The recording until now.
    pub fn finish(mut self) -> Recording {
        self.recording.effects = self.effects();
        for (id, waypoints) in self.pending {
            self.recording.tracks.entry(id).or_default().extend(waypoints.last());
        }
        self.recording.tracks.retain(|_, track| track.len() > 1);
        self.recording
    }

    /// Notes where everything is now.
    fn look(&mut self, play: &Play) {
        let (facts, now) = (play.facts(), play.now());
        for id in play.scene().ids() {
            let switches = Switches::of(&facts, id);
            let known = self.recording.switches.get(&id).and_then(|known| known.last());
            if known.map_or(Switches::ALL_ON, |(_, known)| *known) != switches {
                self.recording.switches.entry(id).or_default().push((now, switches));
            }
            // What has been taken out of the play, or is not yet in it, is nowhere.
            if switches.there
                && let Ok(pose) = play.pose(id)
            {
                let way = pose.rotation * DVec3::NEG_Z;
                let turn = (-way.x).atan2(-way.z);
                self.pass(id, Waypoint { time: now, place: pose.position, turn });
            }
            self.note_effects(id, &facts, now);
        }
    }

    /// Notes a place, and drops those before it that lie on the way.
    fn pass(&mut self, id: EntityId, waypoint: Waypoint) {
        let track = self.recording.tracks.entry(id).or_default();
        let Some(last) = track.last().copied() else {
            track.push(waypoint);
            return;
        };
        let pending = self.pending.entry(id).or_default();
        let before = pending.last().copied().unwrap_or(last);
        if before.place.distance(waypoint.place) > JUMP {
            track.extend(pending.pop());
            pending.clear();
            track.push(Waypoint { time: waypoint.time - Time::from_nanos(1), ..before });
            track.push(waypoint);
            return;
        }
        let length = (waypoint.time - last.time).secs();
        let strays = pending.iter().any(|passed| {
            let on_line =
                between(&last, &waypoint, (passed.time - last.time).secs() / length, passed.time);
            on_line.place.distance(passed.place) > STRAIGHT
                || short_way(on_line.turn - passed.turn).abs() > UNTURNED
        });
        if strays || pending.len() >= 100 {
            track.extend(pending.pop());
            pending.clear();
        }
        let stands = |from: &Waypoint| from.place == waypoint.place && from.turn == waypoint.turn;
        if pending.len() == 1 && stands(&last) && stands(&pending[0]) {
            pending.clear();
        }
        pending.push(waypoint);
    }

    fn note_effects(&mut self, id: EntityId, facts: &impl Facts, now: Time) {
        let under = facts.effects(id);
        for effect in &under {
            self.under.entry((id, (*effect).to_owned())).or_insert(now);
        }
        let of_it = self.under.range((id, String::new())..).take_while(|((of, _), _)| *of == id);
        let over = of_it.filter(|((_, effect), _)| !under.contains(&effect.as_str()));
        let over: Vec<(EntityId, String)> = over.map(|(key, _)| key.clone()).collect();
        for key in over {
            if let Some(since) = self.under.remove(&key) {
                self.recording.effects.push((key.0, key.1, since, now));
            }
        }
    }
}
