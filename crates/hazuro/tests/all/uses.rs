//! What players try to use is heard gate by gate; moments one by one; other beginnings.

use crate::support;

use hazuro::geometry::Shape;
use hazuro::scene::{
    Action, Camera, Detector, Entity, EventKind, Fault, Limits, Needs, Pointer, Prompt, Reaction,
    Stat, Trigger,
};
use hazuro::why::{Chain, Coverage, Gate, Missing, Notebook, Tried, Unwitnessed};
use hazuro::{Button, Cause, Chance, Entry, Input, Play, Scene, Spot, Time};
use support::{ball, cube, play_until, story};

/// A miller before a lever to hold, a chest that wants strength, and a bell to click.
fn mill() -> Play {
    let needs = Needs { stats: [("strength".to_owned(), 3.0)].into(), ..Needs::default() };
    let lever = Prompt { hold: 1.0, ..Prompt::default() };
    let chest = Prompt { key: "KeyF".into(), needs, several: true, ..Prompt::default() };
    let spare = Prompt { key: "KeyF".into(), several: true, ..Prompt::default() };
    let limits = Limits { cooldown: 2.0, ..Limits::default() };
    let scene = Scene::builder("Mill")
        .entity(
            Entity::new("miller")
                .player(true)
                .body(ball(0.3))
                .stat("strength", Stat { start: 1.0, ..Stat::default() }),
        )
        .entity(Entity::new("eye").parent("miller").camera(Camera::default()))
        .entity(Entity::new("lever").at([1.0, 0.0, 0.0]).prompt(lever))
        .entity(Entity::new("chest").at([0.0, 0.0, 1.0]).prompt(chest))
        .entity(Entity::new("spare").at([0.0, 0.0, 1.5]).prompt(spare))
        .entity(Entity::new("far").at([30.0, 0.0, 0.0]).prompt(Prompt::default()))
        .entity(
            Entity::new("bell")
                .at([0.0, 0.0, -5.0])
                .solid(Shape::Sphere { radius: 0.5 })
                .pointer(Pointer::default())
                .limits(limits),
        );
    Play::new(scene.build().unwrap())
}

/// Plays with these inputs by the miller, and gives what stopped his use of something.
fn stopped(name: &str, inputs: &[(f64, Input)]) -> Option<(Gate, Option<Missing>, String)> {
    let mut play = mill();
    for (time, input) in inputs {
        play.schedule(Time::from_secs(*time), input.clone()).unwrap();
    }
    let mut notebook = Notebook::all();
    play.advance_witnessed(Time::from_secs(5.0), &mut notebook);
    let on = play.scene().find(name).unwrap();
    let uses = |record: &&hazuro::why::Record| matches!(record.chain(), Chain::Use { on: its, .. } if its == on);
    let verdict = notebook.records().find(uses)?.stopped()?;
    Some((verdict.gate, verdict.missing(), verdict.cure(play.scene()).unwrap_or_default()))
}

#[test]
fn each_gate_of_a_use_says_what_stopped_it() {
    let who = mill().scene().find("miller").unwrap();
    let find = |name: &str| mill().scene().find(name).unwrap();
    let press = |key: &str| Input::Press { who, key: key.into() };
    let release = |key: &str| Input::Release { who, key: key.into() };
    let click =
        |name: &str| Input::Point { who, at: Spot::Entity(find(name)), button: Button::Click };
    let (gate, missing, cure) = stopped("chest", &[(1.0, press("KeyF"))]).unwrap();
    assert_eq!((gate, missing), (Gate::Needs, Some(Missing::Amount(2.0))));
    assert_eq!(cure, "give `miller` strength before, or ask for less in `needs`");
    let (gate, _, cure) = stopped("spare", &[(1.0, press("KeyF"))]).unwrap();
    assert_eq!(gate, Gate::Best, "the chest is nearer");
    assert!(cure.contains("`chest`"), "{cure}");
    let short = [(1.0, press("KeyE")), (1.4, release("KeyE"))];
    let (gate, missing, _) = stopped("lever", &short).unwrap();
    let Some(Missing::Seconds(missing)) = missing else { panic!("{missing:?}") };
    assert_eq!((gate, (missing * 1e6).round()), (Gate::Held, 600_000.0));
    let long = [(1.0, press("KeyE")), (2.4, release("KeyE"))];
    assert_eq!(stopped("lever", &long), None, "it was used");
    let (gate, missing, _) = stopped("far", &[(1.0, press("KeyE"))]).unwrap();
    let Some(Missing::Metres(missing)) = missing else { panic!("{missing:?}") };
    assert_eq!((gate, (missing * 1e6).round()), (Gate::InRange, 27_700_000.0));
    // Nobody tries what he has no key for.
    assert_eq!(stopped("far", &[(1.0, press("KeyX"))]), None);
    assert_eq!(stopped("bell", &[(1.0, click("bell"))]), None, "it rings");
    let behind = [(0.5, Input::Face { who, to: [0.0, 0.0, 9.0].into() }), (1.0, click("bell"))];
    assert_eq!(stopped("bell", &behind).unwrap().0, Gate::OnScreen);
}

#[test]
fn a_play_goes_on_moment_by_moment() {
    let build = || {
        Scene::builder("Yard")
            .entity(Entity::new("ball").at([-5.0, 0.0, 0.0]).body(ball(0.5)))
            .entity(Entity::new("pad").zone(cube(2.0)))
            .reaction(Reaction::on(Trigger::enter("pad")).then(Action::add("n", 1)))
            .reaction(Reaction::on(Trigger::enter("pad")).after(0.5).then(Action::cue("late")))
            .build()
            .unwrap()
    };
    let drive = |play: &mut Play| {
        let who = play.scene().find("ball").unwrap();
        let until = Time::from_secs(2.0);
        play.schedule(Time::ZERO, Input::Drive { who, to: [5.0, 0.0, 0.0].into(), until }).unwrap();
    };
    let mut whole = Play::new(build());
    drive(&mut whole);
    let at_once = play_until(&mut whole, 3.0);
    let mut play = Play::new(build());
    drive(&mut play);
    let (mut entries, mut moments) = (Vec::new(), Vec::new());
    while play.now() < Time::from_secs(3.0) {
        let some = play.advance_moment(Time::from_secs(3.0), &mut Unwitnessed).to_vec();
        // All of one moment, and that moment whole.
        assert!(some.iter().all(|entry| entry.time() == some[0].time()), "{some:?}");
        moments.extend(some.first().map(|entry| entry.time().secs()));
        entries.extend(some);
    }
    assert_eq!(entries, at_once);
    assert_eq!(moments, [0.0, 0.7, 1.2, 1.3]);
    assert_eq!(play.state().fingerprint(), whole.state().fingerprint());
}

#[test]
fn a_play_can_begin_otherwise_than_its_scene() {
    let mut play = Play::new(support::yard().build().unwrap());
    play.begin_at("ball", [0.5, 0.0, 0.0]).unwrap();
    let entries = play_until(&mut play, 1.0);
    assert_eq!(story(&play, &entries), [("enter pad ball appear".to_owned(), 0.0)]);
    // Once it has begun, to begin elsewhere is to be put there.
    play.begin_at("ball", [9.0, 0.0, 0.0]).unwrap();
    let entries = play_until(&mut play, 2.0);
    let exit = entries.iter().find_map(Entry::event).unwrap();
    assert_eq!((exit.kind, exit.cause), (EventKind::Exit, Some(Cause::Teleport)));
    assert!(play.begin_at("bal", [0.0; 3]).is_err());
}

#[test]
fn coverage_keeps_the_nearest_miss_until_something_fires() {
    let mut play = Play::new(support::yard().build().unwrap());
    let pad = play.scene().find("pad").unwrap();
    let mut coverage = Coverage::default();
    assert_eq!(coverage.tried(pad, Detector::Zone), Tried::Never);
    let mut go = |x: f64, seconds: f64| {
        play.place("ball", [x, 0.0, 0.0]).unwrap();
        let entries = play.advance_witnessed(Time::from_secs(seconds), &mut coverage).to_vec();
        coverage.note(play.scene(), &entries);
        coverage.tried(pad, Detector::Zone)
    };
    let metres = |tried: Tried| match tried {
        Tried::Nearly(verdict) => verdict.missing().map(Missing::amount),
        other => panic!("{other:?}"),
    };
    assert_eq!(metres(go(-4.0, 1.0)), Some((2.5, "m")));
    assert_eq!(metres(go(-3.0, 2.0)), Some((1.5, "m")));
    assert_eq!(metres(go(-8.0, 3.0)), Some((1.5, "m")), "the nearest counts");
    assert_eq!(go(0.0, 4.0), Tried::Fired(1));
    assert_eq!(coverage.times(pad, EventKind::Enter), 1);
    assert_eq!(coverage.kinds(pad, Detector::Zone).collect::<Vec<_>>(), [("ball", 1)]);
}

#[test]
fn chance_is_spread_evenly_and_repeats() {
    let draw = |seed: u64| {
        let mut chance = Chance::new(seed);
        (0..4000).map(|_| chance.around(2.0)).collect::<Vec<f64>>()
    };
    let numbers = draw(5);
    assert_eq!(numbers, draw(5));
    assert_ne!(numbers, draw(6));
    assert!(numbers.iter().all(|number| (-2.0..2.0).contains(number)));
    for quarter in 0..4 {
        let low = f64::from(quarter) - 2.0;
        let share = numbers.iter().filter(|it| (low..low + 1.0).contains(*it)).count();
        assert!((900..1100).contains(&share), "{share}");
    }
}

#[test]
fn whoever_is_no_player_uses_nothing_and_points_at_nothing() {
    let mut play = mill();
    let [eye, lever] = ["eye", "lever"].map(|name| play.scene().find(name).unwrap());
    let before = play.state().clone();
    let key = Prompt::default().key;
    for input in [
        Input::Press { who: eye, key: key.clone() },
        Input::Release { who: eye, key },
        Input::Interact { who: eye, with: lever },
        Input::Point { who: eye, at: Spot::Entity(lever), button: Button::Click },
    ] {
        let refused = play.schedule(Time::ZERO, input).unwrap_err();
        assert_eq!(refused, Fault::NoPlayer { name: "eye".into() });
    }
    assert_eq!(*play.state(), before);
}
