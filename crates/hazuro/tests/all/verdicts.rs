//! What gates say agrees with what is detected, and the misses they state are true.

use crate::support;

use std::collections::BTreeMap;

use hazuro::geometry::Shape;
use hazuro::glam::{self, DVec3};
use hazuro::scene::{
    Action, Admit, Body, Condition, Detector, Entity, Limits, Probe, Prompt, Seeker, Sight, Touch,
    Zone,
};
use hazuro::why::{Chain, Evidence, Gate, Missing, Notebook, Record, Verdict};
use hazuro::{EntityId, Entry, Input, Play, Scene, Time};
use proptest::prelude::*;
use support::{any_shape, ball};

/// The detectors whose opening events have their subject as `who`.
const TOLD: [Detector; 6] = [
    Detector::Zone,
    Detector::Touch,
    Detector::Probe,
    Detector::Sight,
    Detector::Seeker,
    Detector::Prompt,
];

fn place() -> impl Strategy<Value = [f64; 3]> {
    prop::array::uniform3(-4.0..4.0_f64)
}

fn rule() -> impl Strategy<Value = Option<Admit>> {
    let low = || Condition::new("who is low", |facts| facts.position(facts.who().unwrap()).y < 0.5);
    prop_oneof![
        3 => Just(None),
        1 => Just(Some(Admit::tags(["red"]))),
        1 => Just(Some(Admit::default().players())),
        1 => Just(Some(Admit::default().not(Admit::tags(["red"])))),
        1 => Just(Some(Admit::default().when(low()))),
    ]
}

fn limits() -> impl Strategy<Value = Limits> {
    (
        prop_oneof![2 => Just(0.0), 1 => 0.1..1.5_f64],
        prop_oneof![3 => Just(None), 1 => (1..3_u64).prop_map(Some)],
        any::<bool>(),
    )
        .prop_map(|(cooldown, limit, shared)| Limits { cooldown, shared, limit })
}

/// A detector of each sort by number.
fn detector(entity: Entity, sort: usize, shape: Shape) -> Entity {
    match sort {
        0 | 1 => entity.zone(Zone::new(shape)),
        2 => entity.touch(Touch { shape: Some(shape), at_least: 0.5, ..Touch::default() }),
        3 => entity.sight(Sight { range: 5.0, notice: 0.3, every: 0.1, ..Sight::default() }),
        4 => entity.seeker(Seeker { range: 3.0, every: 0.15, ..Seeker::default() }),
        5 => entity.prompt(Prompt { reach: 1.5, angle: 3.0, ..Prompt::default() }),
        _ => entity.probe(Probe { to: [0.0, 0.0, -5.0], ..Probe::default() }),
    }
}

#[derive(Clone, Debug)]
enum Deed {
    Drive(usize, [f64; 3], f64),
    Put(usize, [f64; 3]),
    Switch(bool),
}

fn deed() -> impl Strategy<Value = Deed> {
    prop_oneof![
        4 => (0..3_usize, place(), 0.2..2.0_f64).prop_map(|(who, to, over)| Deed::Drive(who, to, over)),
        1 => (0..3_usize, place()).prop_map(|(who, to)| Deed::Put(who, to)),
        1 => any::<bool>().prop_map(Deed::Switch),
    ]
}

/// For each detector and subject: when it fired, by its events, and when all its gates passed.
type Times = BTreeMap<(EntityId, Detector, EntityId), Vec<Time>>;

fn fired(entries: &[Entry]) -> Times {
    let mut times = Times::new();
    for event in entries.iter().filter_map(Entry::event) {
        let Some(detector) = event.kind.detector().filter(|sort| TOLD.contains(sort)) else {
            continue;
        };
        if let (true, Some(on), Some(who)) = (event.kind.is_opening(), event.on, event.who) {
            times.entry((on, detector, who)).or_default().push(event.time);
        }
    }
    times
}

fn passed(notebook: &Notebook) -> Times {
    let mut times = Times::new();
    for record in notebook.records() {
        if let Chain::Detector { on, detector, who } = record.chain()
            && TOLD.contains(&detector)
            && !record.passed().is_empty()
        {
            times.insert((on, detector, who), record.passed().to_vec());
        }
    }
    times
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn it_fires_exactly_when_all_gates_pass(
        detectors in prop::collection::vec((0..7_usize, place(), any_shape(), rule(), limits()), 1..4),
        deeds in prop::collection::vec((0.0..4.0_f64, deed()), 1..10),
        starts in prop::array::uniform3(place()),
        rate in prop_oneof![Just(7_u32), Just(60)],
    ) {
        let mut builder = Scene::builder("Yard");
        for (index, (sort, at, shape, rule, limits)) in detectors.iter().enumerate() {
            let entity = Entity::new(format!("detector {index}")).at(*at).limits(*limits);
            let entity = detector(entity, *sort, shape.clone());
            builder = builder.entity(match rule {
                Some(rule) => entity.admit(rule.clone()),
                None => entity,
            });
        }
        for (index, start) in starts.iter().enumerate() {
            let entity = Entity::new(format!("body {index}")).at(*start).body(ball(0.3));
            let entity = if index == 0 { entity.player(true) } else { entity };
            builder = builder.entity(if index < 2 { entity.tags(["red"]) } else { entity });
        }
        let scene = builder.build().unwrap();
        let mut play = Play::new(scene);
        play.set_rate(rate).unwrap();
        let body = |index: &usize| play.scene().find(&format!("body {index}")).unwrap();
        let mut inputs = Vec::new();
        for (at, deed) in &deeds {
            let time = Time::from_secs(*at);
            inputs.push((time, match deed {
                Deed::Drive(who, to, over) => Input::Drive {
                    who: body(who),
                    to: (*to).into(),
                    until: time + Time::from_secs(*over),
                },
                Deed::Put(who, at) => Input::Place { who: body(who), at: (*at).into() },
                Deed::Switch(on) => {
                    let what = play.scene().find("detector 0").unwrap();
                    let switch = hazuro::scene::Switch::Enabled;
                    Input::Act(Action::Switch { what, switch, to: Some(*on) })
                }
            }));
        }
        for (time, input) in inputs {
            play.schedule(time, input).unwrap();
        }
        let mut notebook = Notebook::all();
        let entries = play.advance_witnessed(Time::from_secs(6.0), &mut notebook).to_vec();
        prop_assert_eq!(fired(&entries), passed(&notebook));
        // Who never fired was stopped by a gate, and the gate can say what it saw.
        for record in notebook.records().filter(|record| record.passed().is_empty()) {
            if let Some(stopped) = record.stopped() {
                prop_assert!(!stopped.passed);
                prop_assert!(stopped.missing().is_none_or(|it| it.amount().0 > -1e-9), "{stopped:?}");
            }
        }
    }

    #[test]
    fn moved_by_the_stated_miss_it_fires(
        zone in any_shape(), body in any_shape(), from in place(), to in place(),
        touch in any::<bool>(), turn in 0.0..6.0_f64,
    ) {
        let play = |aside: DVec3| {
            let slot = Entity::new("slot").at(hazuro::geometry::Pose {
                rotation: glam::DQuat::from_rotation_y(turn),
                ..hazuro::geometry::Pose::IDENTITY
            });
            let slot = if touch {
                slot.touch(Touch { shape: Some(zone.clone()), ..Touch::default() })
            } else {
                slot.zone(Zone::new(zone.clone()))
            };
            let start = DVec3::from(from) * 2.0 + aside;
            let peg = Entity::new("peg").at(start.to_array()).body(Body::new(body.clone()));
            let mut play = Play::new(Scene::builder("Yard").entity(slot).entity(peg).build().unwrap());
            let who = play.scene().find("peg").unwrap();
            let end = DVec3::from(to) * 2.0 + aside;
            let until = Time::from_secs(1.0);
            play.schedule(Time::ZERO, Input::Drive { who, to: end.to_array().into(), until }).unwrap();
            let mut notebook = Notebook::all();
            let entries = play.advance_witnessed(Time::from_secs(1.5), &mut notebook).to_vec();
            let fired = !fired(&entries).is_empty();
            let record = notebook.records().next().cloned();
            (fired, record.as_ref().and_then(Record::stopped).cloned())
        };
        let (fired, stopped) = play(DVec3::ZERO);
        prop_assume!(!fired);
        let stopped = stopped.expect("it was stopped");
        let Evidence::Gap { metres, way, time } = stopped.evidence else {
            return Err(TestCaseError::fail(format!("{stopped:?}")));
        };
        prop_assert_eq!(stopped.missing(), Some(Missing::Metres(metres)));
        prop_assert!((way.length() - 1.0).abs() < 1e-9 && time <= Time::from_secs(1.5));
        // And a millimetre more, towards the middle: past a sharp corner straight on would miss it.
        let gone = time.secs().min(1.0);
        let there = DVec3::from(from) * 2.0 * (1.0 - gone) + DVec3::from(to) * 2.0 * gone;
        let moved = way * metres;
        let inwards = -(there + moved).normalize_or_zero() * 1e-3;
        prop_assert!(play(moved + inwards).0, "{metres} m along {way} at {time}");
        if metres > 2e-3 {
            prop_assert!(!play(way * (metres - 1e-3)).0, "less than {metres} m along {way}");
        }
    }

    #[test]
    fn nearer_by_the_stated_miss_is_near_enough(
        way in place(), far in 3.5..9.0_f64, sort in 0..3_usize,
    ) {
        let way = DVec3::new(way[0], 0.0, way[2]);
        prop_assume!(way.length() > 0.1);
        // Of the points by which somebody is seen the nearest lies on an axis.
        let way = if sort == 2 { DVec3::X * way.x.signum() } else { way.normalize() };
        let stopped = |far: f64| {
            let on = Entity::new("lever");
            let on = match sort {
                0 => on.seeker(Seeker { range: 3.0, ..Seeker::default() }),
                1 => on.prompt(Prompt { reach: 2.5, ..Prompt::default() }),
                _ => on.sight(Sight {
                    range: 3.0,
                    angle: std::f64::consts::TAU,
                    rise: std::f64::consts::PI,
                    ..Sight::default()
                }),
            };
            let who = Entity::new("miller").at((way * far).to_array()).player(true).body(ball(0.25));
            let mut play = Play::new(Scene::builder("Yard").entity(on).entity(who).build().unwrap());
            let [on, who] = ["lever", "miller"].map(|name| play.scene().find(name).unwrap());
            let mut notebook = Notebook::about(Some(on), Some(who));
            play.advance_witnessed(Time::from_secs(1.0), &mut notebook);
            notebook.stopped(on, who).cloned()
        };
        let verdict = stopped(far).expect("it is too far");
        prop_assert_eq!(verdict.gate, Gate::InRange);
        let Some(Missing::Metres(missing)) = verdict.missing() else {
            return Err(TestCaseError::fail(format!("{verdict:?}")));
        };
        prop_assert_eq!(stopped(far - missing - 1e-3), None);
        prop_assert!(stopped(far - missing + 1e-3).is_some());
    }

    #[test]
    fn turned_or_late_by_the_stated_miss_it_fires(turn in 1.0..3.1_f64, left in any::<bool>(), early in 0.2..1.9_f64) {
        // A lever that wants to be looked at.
        let turn = if left { turn } else { -turn };
        let stopped = |turn: f64| {
            let lever = Entity::new("lever").at([0.0, 0.0, -1.0]);
            let lever = lever.prompt(Prompt { angle: 1.0, ..Prompt::default() });
            let rotation = glam::DQuat::from_rotation_y(turn);
            let pose = hazuro::geometry::Pose { rotation, ..hazuro::geometry::Pose::IDENTITY };
            let who = Entity::new("miller").at(pose).player(true).body(ball(0.25));
            let mut play = Play::new(Scene::builder("Yard").entity(lever).entity(who).build().unwrap());
            let [on, who] = ["lever", "miller"].map(|name| play.scene().find(name).unwrap());
            let mut notebook = Notebook::about(Some(on), Some(who));
            play.advance_witnessed(Time::from_secs(0.5), &mut notebook);
            notebook.stopped(on, who).cloned()
        };
        let verdict: Verdict = stopped(turn).expect("it looks away");
        let Some(Missing::Radians(missing)) = verdict.missing() else {
            return Err(TestCaseError::fail(format!("{verdict:?}")));
        };
        let towards = |more: f64| turn - (missing + more) * turn.signum();
        prop_assert_eq!(stopped(towards(1e-4)), None);
        prop_assert!(stopped(towards(-1e-4)).is_some());
        // A pad with a cooldown of two seconds, entered at 0 and again too early.
        let again = |at: f64| {
            let limits = Limits { cooldown: 2.0, ..Limits::default() };
            let pad = Entity::new("pad").zone(Zone::new(Shape::Box { size: [1.0; 3] })).limits(limits);
            let scene = Scene::builder("Yard").entity(pad).entity(Entity::new("ball").body(ball(0.2)));
            let mut play = Play::new(scene.build().unwrap());
            let who = play.scene().find("ball").unwrap();
            play.schedule(Time::from_secs(0.1), Input::Place { who, at: [5.0, 0.0, 0.0].into() }).unwrap();
            play.schedule(Time::from_secs(at), Input::Place { who, at: [0.0, 0.0, 0.0].into() }).unwrap();
            let mut notebook = Notebook::all().within(Time::from_secs(0.05), Time::MAX);
            play.advance_witnessed(Time::from_secs(5.0), &mut notebook);
            notebook.records().next().and_then(Record::stopped).cloned()
        };
        let verdict = again(early).expect("it is too early");
        prop_assert_eq!(verdict.gate, Gate::Cooldown);
        let Some(Missing::Seconds(missing)) = verdict.missing() else {
            return Err(TestCaseError::fail(format!("{verdict:?}")));
        };
        prop_assert_eq!(again(early + missing + 1e-3), None);
    }
}
