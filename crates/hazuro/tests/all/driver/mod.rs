//! Drives the public API at random: good calls and hostile ones, handlers that do the same, states put
//! back, things taken away. Whatever is done ends with an effect or an error, never with a panic; the
//! state stays consistent; events stay in pairs; and what was refused has left no trace.
//!
//! `HAZURO_SEQUENCES=10000 cargo test -p hazuro --test all driver` runs more than a usual test does.

mod hostile;
pub mod world;

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use hazuro::Origin;
use hazuro::geometry::Ray;
use hazuro::glam::DVec3;
use hazuro::scene::{Detector, EventKind, Trigger};
use hazuro::why::Notebook;
use hazuro::{
    Chance, Delta, EntityId, Entry, Filter, HandlerId, Happening, Play, Problem, Scene, State, Time,
};
use proptest::prelude::*;

use world::{CUES, may, one, world};

/// A play, driven.
struct Driver {
    play: Play,
    scene: Arc<Scene>,
    foreign: Arc<Scene>,
    handlers: Vec<HandlerId>,
    /// States it had, with how many entities there were.
    past: Vec<(State, usize)>,
    /// Who is detected by what, as events have told, each part for itself.
    open: BTreeSet<(EntityId, Detector, EntityId, Option<usize>)>,
    /// Whose each thing is, as events have told.
    owned: BTreeMap<EntityId, EntityId>,
    /// A state that has followed the play by what was told to be different in it.
    mirror: State,
    /// How many entities there were when it was last told.
    mirrored: usize,
    went_back: bool,
    /// The number of the latest entry, if it is known.
    latest: Option<u64>,
    log: Vec<Entry>,
}

impl Driver {
    fn new(seed: u64) -> Self {
        let scene = world(seed);
        // The other has more entities, so that some of its ids are not in this one.
        let mut larger = Scene::builder("Other");
        for number in 0..scene.len() + 10 {
            larger = larger.entity(hazuro::scene::Entity::new(format!("{number}")));
        }
        let play = Play::new(scene.clone());
        let foreign = Arc::new(larger.build().unwrap());
        let mirror = play.state().clone();
        let (handlers, past) = (Vec::new(), vec![(play.state().clone(), scene.len())]);
        Self {
            play,
            scene,
            foreign,
            handlers,
            past,
            open: BTreeSet::new(),
            owned: BTreeMap::new(),
            mirror,
            mirrored: 0,
            went_back: false,
            latest: Some(0),
            log: Vec::new(),
        }
    }

    /// Does something at random. Whether it was refused.
    fn act(&mut self, chance: &mut Chance) -> bool {
        let c = chance;
        let (scene, foreign) = (self.scene.clone(), self.foreign.clone());
        let id = |c: &mut Chance| hostile::id(c, &scene, &foreign);
        match (c.next() * 26.0) as u32 {
            0 | 1 => {
                let who = id(c);
                self.play.drive(who, hostile::target(c, &scene, &foreign)).is_err()
            }
            2 => {
                let who = hostile::entity_name(c);
                self.play.place(who, hostile::target(c, &scene, &foreign)).is_err()
            }
            3 => {
                let who = id(c);
                self.play.begin_at(who, hostile::target(c, &scene, &foreign)).is_err()
            }
            4..=8 => self.play.act(hostile::action(c)).is_err(),
            9..=12 => {
                let input = hostile::input(c, &scene, &foreign);
                let delay = Time::from_secs(one(c, &[0.0, 0.0, 0.01, 0.3, 2.0]));
                let time = if may(c, 0.1) { Time::ZERO } else { self.play.now() + delay };
                self.play.schedule(time, input).is_err()
            }
            13 => self.play.limit(id(c), hostile::limits(c)).is_err(),
            14 => self.play.renew(id(c)).is_err(),
            15 => may(c, 0.2) && self.play.remove(id(c)).is_err(),
            16 => self.play.stop(&hostile::reaction(c)).is_err(),
            17 => self.play.set_rate(one(c, &[0, 1, 7, 60, 240, 10_001])).is_err(),
            18 => self.listen(c),
            19 => {
                self.ask(c);
                false
            }
            20 => self.go_back(c),
            21 => self.add(c),
            _ => {
                self.go_on(c);
                false
            }
        }
    }

    /// Adds a handler that does something at random, or takes one away.
    fn listen(&mut self, c: &mut Chance) -> bool {
        if may(c, 0.3) {
            return self.handlers.pop().is_some_and(|handler| !self.play.off(handler));
        }
        let kind = one(c, EventKind::ALL);
        let trigger = match (c.next() * 3.0) as u32 {
            0 => Trigger::cue(one(c, &CUES)),
            _ => Trigger::of(kind, hostile::entity_name(c).as_str()),
        };
        // Its own chance, so that it does the same in each play.
        let mut own = Chance::new((c.next() * 1e9) as u64);
        let added = self.play.on(trigger, move |_, act| {
            let _ = act.run(hostile::action(&mut own));
            act.add("n", 1);
        });
        let refused = added.is_err();
        self.handlers.extend(added.ok());
        refused
    }

    /// Lets something come in that was not there.
    fn add(&mut self, c: &mut Chance) -> bool {
        let refused = if may(c, 0.3) {
            self.play.spawn(&hostile::kind(c), hostile::pose(c)).is_err()
        } else {
            let count = one(c, &[1, 1, 1, 3]);
            let entities: Vec<_> = (0..count).map(|_| hostile::entity(c)).collect();
            self.play.add_all(entities).is_err()
        };
        if self.play.scene().len() != self.scene.len() {
            self.scene = Arc::new(self.play.scene().clone());
        }
        refused
    }

    /// Asks whatever can be asked.
    fn ask(&mut self, c: &mut Chance) {
        let (scene, foreign) = (self.scene.clone(), self.foreign.clone());
        let (one_id, other) = (hostile::id(c, &scene, &foreign), hostile::id(c, &scene, &foreign));
        let play = &self.play;
        let _ = play.pose(one_id);
        let _ = play.occupants(one_id);
        let _ = play.detected(one_id, one(c, &Detector::ALL));
        let _ = play.in_hands(one_id);
        let _ = play.parts_inside(one_id, other);
        let _ = play.ground(one_id);
        let _ = play.offers(one_id);
        let _ = play.screen_ray(one_id, [hostile::number(c), hostile::number(c)]);
        let _ = play.target(one_id);
        let _ = play.sightings(one_id);
        let _ = play.eye(one_id);
        let _ = play.probe_ray(one_id);
        let _ = play.running();
        let _ = play.facts_about(Some(one_id));
        let _ = play.try_gates(one_id, other, &mut Notebook::all());
        let filter = Filter::solids().and_bodies().and_zones().without(one_id);
        let (from, to) = (hostile::three(c), hostile::three(c));
        if let Ok(ray) = Ray::between(from.into(), to.into()) {
            let hit = play.space().ray(&ray, &filter);
            assert!(hit.is_none_or(|hit| hit.distance.is_finite()));
            assert_eq!(play.space().ray_any(&ray, &filter), hit.is_some());
        }
        let _ = play.space().sweep(&hostile::shape(c), hostile::pose(c), to.into(), &filter);
        let _ = play.space().overlap(&hostile::shape(c), hostile::pose(c), &filter);
        let near = play.space().nearest(DVec3::from(from), hostile::number(c), 3, &filter);
        assert!(near.is_sorted_by(|one, other| one.distance <= other.distance));
    }

    /// Puts back a state of this play, or tries one of another.
    fn go_back(&mut self, c: &mut Chance) -> bool {
        if may(c, 0.3) {
            let other = Play::new(self.foreign.clone());
            assert!(self.play.restore(other.state().clone()).is_err());
            return true;
        }
        let (state, entities) = one(c, &self.past);
        assert!(self.play.restore(state.clone()).is_ok());
        if entities == self.scene.len() {
            assert_eq!(self.play.state(), &state);
        }
        self.open = self.detected();
        self.owned = self.owners();
        self.went_back = true;
        self.latest = None;
        false
    }

    /// Whether a detector tells of each part for itself.
    fn is_by_part(&self, on: EntityId, detector: Detector) -> bool {
        let touch = self.scene.touch_of(on).filter(|_| detector == Detector::Touch);
        touch.is_some_and(|touch| touch.parts)
    }

    /// Who is detected, as the play says.
    fn detected(&self) -> BTreeSet<(EntityId, Detector, EntityId, Option<usize>)> {
        let mut open = BTreeSet::new();
        for on in self.scene.ids() {
            for detector in Detector::ALL.into_iter().filter(|it| pairs(*it)) {
                for who in self.play.detected(on, detector).unwrap() {
                    open.insert((on, detector, who, None));
                }
            }
        }
        open
    }

    /// Whose each thing is, as the play says.
    fn owners(&self) -> BTreeMap<EntityId, EntityId> {
        let owner = |thing| Some((thing, self.play.owner(thing).unwrap()?));
        self.scene.ids().filter_map(owner).collect()
    }

    /// Plays on, and holds what happened against what was so before.
    fn go_on(&mut self, c: &mut Chance) {
        let entries = match (c.next() * 4.0) as u32 {
            0 => {
                let until = self.play.now() + Time::from_secs(c.next() * 0.5);
                self.play.advance(until).to_vec()
            }
            1 => {
                let until = self.play.now() + Time::from_secs(0.1);
                self.play.advance_moment(until, &mut Notebook::all()).to_vec()
            }
            _ => {
                let until = self.play.now() + Time::from_secs(0.05);
                self.play.advance(until).to_vec()
            }
        };
        self.play.state().assert_consistent(&self.scene);
        let mut loaded = Play::new(self.scene.clone());
        assert_eq!(loaded.load(&self.play.save()), Ok(()));
        assert_eq!(loaded.state(), self.play.state(), "what is loaded is what was saved");
        self.pair(&entries);
        self.follow_owners(&entries);
        self.follow();
        self.number(&entries);
        for entry in &entries {
            if let Happening::Problem { problem: Problem::Panic(why), .. } = &entry.what {
                panic!("a handler panicked: {why}");
            }
        }
        self.log.extend(entries);
        if self.past.len() < 8 && may(c, 0.3) {
            self.past.push((self.play.state().clone(), self.scene.len()));
        }
    }

    /// Whether entries are numbered in their order, and each comes of an earlier one, of something
    /// that was given, or of the start: so following what they come of always ends.
    fn number(&mut self, entries: &[Entry]) {
        for entry in entries {
            let number = self.latest.map_or(entry.number, |latest| latest + 1);
            assert_eq!(entry.number, number, "{entry:?}");
            match entry.origin {
                Origin::Entry(earlier) => assert!((1..number).contains(&earlier), "{entry:?}"),
                Origin::Input(input) => assert!(input < self.play.inputs_given(), "{entry:?}"),
                Origin::Start => {}
            }
            self.latest = Some(number);
        }
    }

    /// Whether somebody who is told only what is different knows the very state.
    fn follow(&mut self) {
        let (scene, state) = (self.play.scene(), self.play.state());
        if scene.len() != self.mirrored {
            (self.mirror, self.mirrored) = (state.clone(), scene.len());
            return;
        }
        let sent = postcard::to_stdvec(&state.delta(&self.mirror)).unwrap();
        let delta: Delta = scene.within(|| postcard::from_bytes(&sent)).unwrap();
        self.mirror.take(delta, scene).unwrap();
        assert_eq!(&self.mirror, state);
        assert_eq!(self.mirror.fingerprint(), state.fingerprint(), "to the last bit");
        assert!(state.delta(&self.mirror).is_empty());
    }

    /// Whether a thing that becomes somebody's was nobody's, and is theirs until it is nobody's.
    fn follow_owners(&mut self, entries: &[Entry]) {
        for event in entries.iter().filter_map(Entry::event) {
            let (Some(on), Some(who)) = (event.on, event.who) else { continue };
            let by_hand = event.cause == Some(hazuro::Cause::Hand);
            match event.kind {
                EventKind::Own if !by_hand => assert_eq!(self.owned.insert(on, who), None),
                EventKind::Disown if !by_hand => assert_eq!(self.owned.remove(&on), Some(who)),
                _ => {}
            }
        }
        assert_eq!(self.owned, self.owners(), "things are whose they were told to be");
    }

    /// Whether opening and closing events alternate, each with the same subject.
    fn pair(&mut self, entries: &[Entry]) {
        for event in entries.iter().filter_map(Entry::event) {
            let (Some(on), Some(who), Some(detector)) =
                (event.on, event.who, event.kind.detector())
            else {
                continue;
            };
            // What is sent by hand changes nothing.
            if event.cause == Some(hazuro::Cause::Hand) || !pairs(detector) {
                continue;
            }
            let by_part = self.is_by_part(on, detector);
            if by_part && self.went_back {
                // Which parts it knew of cannot be asked.
                continue;
            }
            let key = (on, detector, who, event.part.filter(|_| by_part));
            let names = (event.kind, self.scene.name(on), self.scene.name(who), event.time);
            if event.kind.is_opening() {
                assert!(self.open.insert(key), "{names:?} once more");
            } else if event.kind.is_closing() {
                assert!(self.open.remove(&key), "{names:?} without a beginning");
            }
        }
        let mut told = self.open.clone();
        told.retain(|(on, detector, ..)| !self.is_by_part(*on, *detector));
        let mut known = self.detected();
        known.retain(|(on, detector, ..)| !self.is_by_part(*on, *detector));
        assert_eq!(told, known, "what is detected is what was told");
    }
}

/// Whether a detector has events in pairs, with the same subject.
fn pairs(detector: Detector) -> bool {
    !matches!(
        detector,
        Detector::Footing
            | Detector::Seeker
            | Detector::Pickup
            | Detector::Stats
            | Detector::Carry
            | Detector::Ownership
            | Detector::Route
            | Detector::Teleport
    )
}

/// How often each property is tried.
fn sequences(usual: u32) -> ProptestConfig {
    let asked = std::env::var("HAZURO_SEQUENCES").ok().and_then(|count| count.parse().ok());
    ProptestConfig {
        failure_persistence: None,
        ..ProptestConfig::with_cases(asked.unwrap_or(usual))
    }
}

proptest! {
    #![proptest_config(sequences(60))]

    #[test]
    fn whatever_is_called_the_play_goes_on_consistent(seed in any::<u64>(), calls in 1..100_usize) {
        goes_on(seed, calls);
    }

    #[test]
    fn what_is_refused_leaves_no_trace(seed in any::<u64>(), calls in 1..60_usize) {
        leaves_no_trace(seed, calls);
    }
}

/// Calls that many things at random.
fn goes_on(seed: u64, calls: usize) {
    let mut chance = Chance::new(seed);
    let mut driver = Driver::new(seed);
    for _ in 0..calls {
        driver.act(&mut chance);
    }
    driver.go_on(&mut chance);
}

/// Two that fell onto something that turns, and neither came to a decision.
#[test]
fn who_comes_to_no_decision_does_not_wake_another_for_ever() {
    goes_on(10_221_547_488_606_929_180, 51);
}

/// What of it once went wrong.
#[test]
fn what_once_left_a_trace_does_so_no_more() {
    leaves_no_trace(3_691_817_233_339_365_746, 20);
}

/// Plays once all that is called and once only what is not refused: both go on alike.
fn leaves_no_trace(seed: u64, calls: usize) {
    let (mut all, mut taken) = (Driver::new(seed), Driver::new(seed));
    let mut chance = Chance::new(seed);
    for _ in 0..calls {
        let before = chance;
        let refused = all.act(&mut chance);
        if !refused {
            let mut same = before;
            taken.act(&mut same);
        }
    }
    all.go_on(&mut Chance::new(1));
    taken.go_on(&mut Chance::new(1));
    assert_eq!(&all.log, &taken.log);
    assert_eq!(all.play.state(), taken.play.state());
}

/// Somebody who held something was no longer there.
#[test]
fn nobody_who_is_gone_holds_anything() {
    goes_on(11_931_235_967_956_090_513, 95);
}
