//! What the page's script needs, as JSON.

use std::collections::{BTreeMap, BTreeSet};

use hazuro::scene::{Detector, Scene};
use hazuro::why::{Chain, Gate, Notebook, Record, Verdict, Witness};
use hazuro::{EntityId, Entry, Play, Time};
use serde::Serialize;

use crate::recording::{Recording, Switches};
use crate::timeline::Timeline;

/// What was heard of the gates of each detector.
#[derive(Debug)]
pub(crate) struct Heard(Notebook);

/// Listens to detectors: how near players come, and who set them off, to the end; of all others only
/// the first attempt, which tells whether they are admitted.
struct Listener {
    notebook: Notebook,
    /// Who is worth listening to: pairs that fired, and players.
    wanted: BTreeSet<(EntityId, EntityId)>,
    players: BTreeSet<EntityId>,
    settled: BTreeSet<Chain>,
}

impl Witness for Listener {
    fn wants(&self, chain: &Chain) -> bool {
        !matches!(chain, Chain::Reaction { .. }) && !self.settled.contains(chain)
    }

    fn wants_within(&self, chain: &Chain) -> f64 {
        self.notebook.wants_within(chain)
    }

    fn hears_again(&self) -> bool {
        false
    }

    fn hear(&mut self, verdict: Verdict) {
        let (on, who) = verdict.chain.pair();
        let is_wanted = who.is_some_and(|who| self.players.contains(&who))
            || on.zip(who).is_some_and(|pair| self.wanted.contains(&pair));
        let stopped = !verdict.passed;
        // What has passed all gates once is known well enough, and who is not admitted.
        let through = verdict.ends && verdict.passed;
        let refused = verdict.gate == Gate::Admitted && stopped;
        if through || refused || (stopped && !is_wanted) {
            self.settled.insert(verdict.chain);
        }
        self.notebook.hear(verdict);
    }
}

impl Heard {
    pub fn of(play: &mut Play, recording: &Recording) -> Self {
        let scene = play.scene();
        let events = recording.entries.iter().filter_map(Entry::event);
        let mut listener = Listener {
            notebook: Notebook::all(),
            wanted: events.filter_map(|event| event.on.zip(event.who)).collect(),
            players: scene.ids().filter(|id| scene.is_player(*id)).collect(),
            settled: BTreeSet::new(),
        };
        play.advance_witnessed(recording.until, &mut listener);
        Self(listener.notebook)
    }
}

#[derive(Serialize)]
struct Data<'a> {
    seconds: f64,
    pixels: f64,
    origin: [f64; 2],
    names: BTreeMap<usize, &'a str>,
    /// By entity: time, x, z and turn in degrees.
    tracks: BTreeMap<usize, Vec<[f64; 4]>>,
    /// By entity: from when to when it detected somebody.
    busy: BTreeMap<usize, Vec<[f64; 2]>>,
    /// By entity: from when to when it was highlighted for anybody.
    lit: BTreeMap<usize, Vec<[f64; 2]>>,
    /// By entity: when, and whether it is there, on at all, solid, and detects.
    switches: BTreeMap<usize, Vec<(f64, [u8; 4])>>,
    events: Vec<EventData<'a>>,
    /// By entity: who came how far through its gates.
    gates: BTreeMap<usize, Vec<Candidate>>,
}

#[derive(Serialize)]
struct EventData<'a> {
    t: f64,
    /// Its row.
    i: usize,
    k: &'a str,
    #[serde(skip_serializing_if = "Option::is_none")]
    on: Option<usize>,
    #[serde(skip_serializing_if = "Option::is_none")]
    who: Option<usize>,
    #[serde(skip_serializing_if = "Option::is_none")]
    at: Option<[f64; 2]>,
}

#[derive(Serialize)]
struct Candidate {
    d: &'static str,
    /// 1 if it is about using it, 0 if about its being detected.
    u: u8,
    who: String,
    /// Each gate and whether it let pass.
    g: Vec<(&'static str, bool)>,
    #[serde(skip_serializing_if = "Option::is_none")]
    saw: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    t: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    cure: Option<String>,
    /// How many others were stopped alike.
    #[serde(skip_serializing_if = "is_zero")]
    more: usize,
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks so")]
fn is_zero(number: &usize) -> bool {
    *number == 0
}

fn milli(number: f64) -> f64 {
    (number * 1e3).round() / 1e3 + 0.0
}

/// The data, safe to stand in a page.
pub(super) fn data(
    scene: &Scene,
    recording: &Recording,
    heard: &Heard,
    (pixels, origin): (f64, [f64; 2]),
) -> String {
    let seconds = |time: Time| milli(time.secs());
    let track = |track: &Vec<crate::recording::Waypoint>| {
        let step = |it: &crate::recording::Waypoint| {
            let turn = it.turn.to_degrees();
            [seconds(it.time), milli(it.place.x), milli(it.place.z), (turn * 10.0).round() / 10.0]
        };
        track.iter().map(step).collect()
    };
    let mut busy: BTreeMap<usize, Vec<[f64; 2]>> = BTreeMap::new();
    for row in &Timeline::of(scene, recording).rows {
        let spans = row.spans.iter().filter(|span| span.mark == crate::Mark::Occupied);
        if let Some(id) = scene.find(&row.name) {
            let until = |until: Option<Time>| seconds(until.unwrap_or(recording.until));
            let spans = spans.map(|span| [seconds(span.from), until(span.until)]);
            busy.entry(id.index()).or_default().extend(spans);
        }
    }
    let span = |&(from, until): &(Time, Time)| [seconds(from), seconds(until)];
    let lit = recording.highlights().into_iter();
    let lit = lit.map(|(id, spans)| (id.index(), spans.iter().map(span).collect())).collect();
    let switch = |all: &Vec<(Time, Switches)>| {
        let told = |(time, it): &(Time, Switches)| {
            (seconds(*time), [it.there, it.enabled, it.solid, it.detects].map(u8::from))
        };
        all.iter().map(told).collect()
    };
    let events = recording.entries.iter().enumerate().filter_map(|(index, entry)| {
        let event = entry.event()?;
        let place = event.meeting.map(|meeting| meeting.point).or(event.at);
        Some(EventData {
            t: (event.time.secs() * 1e6).round() / 1e6,
            i: index,
            k: event.kind.word(),
            on: event.on.map(EntityId::index),
            who: event.who.map(EntityId::index),
            at: place.map(|place| [milli(place.x), milli(place.z)]),
        })
    });
    let data = Data {
        seconds: recording.until.secs(),
        pixels,
        origin,
        names: scene.ids().map(|id| (id.index(), scene.name(id))).collect(),
        tracks: recording.tracks.iter().map(|(id, it)| (id.index(), track(it))).collect(),
        busy,
        lit,
        switches: recording.switches.iter().map(|(id, all)| (id.index(), switch(all))).collect(),
        events: events.collect(),
        gates: gates(scene, &heard.0, &recording.entries),
    };
    // Nothing in it may end the element it stands in.
    serde_json::to_string(&data).unwrap_or_default().replace('<', "\\u003c")
}

/// Who came how far; those who were stopped alike at a gate that has nothing to do with places, in
/// one.
fn gates(scene: &Scene, notebook: &Notebook, entries: &[Entry]) -> BTreeMap<usize, Vec<Candidate>> {
    let told: BTreeSet<(EntityId, Detector)> = entries
        .iter()
        .filter_map(Entry::event)
        .filter_map(|event| Some((event.on?, event.kind.detector()?)))
        .collect();
    let mut all: BTreeMap<usize, Vec<Candidate>> = BTreeMap::new();
    for record in notebook.records() {
        let (on, detector, who) = match record.chain() {
            Chain::Detector { on, detector, who } | Chain::Use { on, detector, who } => {
                (on, detector, who)
            }
            Chain::Reaction { .. } => continue,
        };
        // What stands on what goes on all the time, and is no riddle where nobody asked.
        if scene.scope_of(on, detector).is_some_and(|it| it.itself)
            && !told.contains(&(on, detector))
        {
            continue;
        }
        let candidates = all.entry(on.index()).or_default();
        let is_use = matches!(record.chain(), Chain::Use { .. });
        let fresh = candidate(scene, record, (detector.word(), is_use), scene.name(who));
        let alike = candidates.iter_mut().find(|known| {
            (known.d, known.u, &known.g, &known.saw) == (fresh.d, fresh.u, &fresh.g, &fresh.saw)
                && fresh.t.is_some()
        });
        match alike {
            Some(known) => known.more += 1,
            None => candidates.push(fresh),
        }
    }
    all
}

fn candidate(
    scene: &Scene,
    record: &Record,
    (detector, is_use): (&'static str, bool),
    who: &str,
) -> Candidate {
    let gate = |verdict: &Verdict| (verdict.gate.words(), verdict.passed);
    let miss = record.stopped().filter(|_| record.passed().is_empty());
    Candidate {
        d: detector,
        u: u8::from(is_use),
        who: who.to_owned(),
        g: record.gates().into_iter().map(gate).collect(),
        saw: miss.map(|verdict| verdict.reason(scene)),
        t: miss.map(|verdict| milli(verdict.nearest().secs())),
        cure: miss.and_then(|verdict| verdict.cure(scene)),
        more: 0,
    }
}
