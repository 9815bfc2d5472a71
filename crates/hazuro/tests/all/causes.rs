//! What each entry came of, for each sort of cause; and that going back and forth agrees.

use hazuro::geometry::Shape;
use hazuro::scene::{
    Action, Alter, Body, Carry, Effect, Entity, Grant, Kind, Pickup, Prompt, Reaction, Spawner,
    Stat, Trigger,
};
use hazuro::why::History;
use hazuro::{
    Entry, Expiry, Happening, Input, Life, Origin, Play, Scene, Step, Stopped, TakenBack, Time,
};

use crate::support::{ball, cube};

fn person(name: &str, at: [f64; 3]) -> Entity {
    let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
    Entity::new(name).player(true).at(at).body(body)
}

fn pad(name: &str, at: [f64; 3]) -> Entity {
    Entity::new(name).at(at).zone(cube(2.0))
}

fn walk(play: &mut Play, at: f64, who: &str, to: [f64; 3]) {
    let who = play.scene().find(who).unwrap();
    play.schedule(Time::from_secs(at), Input::Walk { who, to: to.into() }).unwrap();
}

/// An entry in a word or two.
fn word(play: &Play, entry: &Entry) -> String {
    let name = |id: Option<hazuro::EntityId>| id.map_or("", |id| play.scene().name(id));
    match &entry.what {
        Happening::Event(event) => {
            let on = event.cue.as_deref().unwrap_or_else(|| name(event.on));
            format!("{} {on}", event.kind).trim_end().to_owned()
        }
        Happening::Did { action, .. } => format!("do {}", action.word()),
        Happening::Refused { action, .. } => format!("refuse {}", action.word()),
        Happening::Run { life, .. } => match life {
            Life::Begins => "run begins".into(),
            Life::Waits { .. } => "run waits".into(),
            Life::Stopped(_) => "run stops".into(),
            _ => "run".into(),
        },
        Happening::Expired { effect, .. } => format!("{effect} expires"),
        Happening::TakenBack { what, .. } => format!("{} taken back", name(Some(*what))),
        _ => "other".into(),
    }
}

/// What an entry came of, the nearest first, to where it began.
fn chain(play: &Play, entries: &[Entry], of: impl Fn(&Entry) -> bool) -> Vec<String> {
    let history = History::new(entries);
    let entry = entries.iter().find(|entry| of(entry)).expect("it happened");
    let mut words: Vec<String> = history.back(entry.number).map(|it| word(play, it)).collect();
    words.push(format!("{:?}", history.root(entry.number)));
    words
}

fn chain_of(play: &Play, entries: &[Entry], what: &str) -> Vec<String> {
    chain(play, entries, |entry| word(play, entry) == what)
}

fn until(play: &mut Play, seconds: f64) -> Vec<Entry> {
    play.advance(Time::from_secs(seconds)).to_vec()
}

#[test]
fn a_reaction_that_waits_is_followed_back_to_who_walked_in() {
    let scene = Scene::builder("Yard")
        .entity(person("ada", [0.0, 0.0, 6.0]))
        .entity(person("ben", [20.0, 0.0, 6.0]))
        .entity(pad("sill", [0.0, 1.0, 0.0]))
        .reaction(
            Reaction::on(Trigger::enter("sill")).then(Action::wait(1.0)).then(Action::cue("rung")),
        )
        .reaction(Reaction::on(Trigger::cue("rung")).then(Action::add("rings", 1)))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    walk(&mut play, 0.5, "ben", [20.0, 0.0, 0.0]);
    walk(&mut play, 0.0, "ada", [0.0, 0.0, 0.0]);
    let entries = until(&mut play, 6.0);
    let told = chain_of(&play, &entries, "do count");
    // Ada's walk was the second input that was given.
    let expected = ["do count", "cue rung", "do cue", "run begins", "enter sill", "Input(1)"];
    assert_eq!(told, expected);
    let cue = entries.iter().find(|entry| word(&play, entry) == "do cue").unwrap();
    assert_eq!(cue.step, Some(Step::Action(1)), "the wait comes first");
    let lives: Vec<Life> = entries
        .iter()
        .filter_map(|entry| match entry.what {
            Happening::Run { life, .. } => Some(life),
            _ => None,
        })
        .collect();
    assert!(matches!(lives[..], [Life::Begins, Life::Waits { arrival: None, .. }, Life::Done]));
}

#[test]
fn what_is_switched_tagged_or_put_elsewhere_comes_of_that() {
    let scene = Scene::builder("Yard")
        .entity(Entity::new("ball").at([0.0, 0.0, 0.0]).body(ball(0.3)))
        .entity(pad("here", [0.0, 0.0, 0.0]).enabled(false))
        .entity(pad("there", [9.0, 0.0, 0.0]))
        .reaction(Reaction::on(Trigger::cue("dawn")).then(Action::enable("here")))
        .reaction(Reaction::on(Trigger::enter("here")).then(Action::teleport("who", "there")))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.act(Action::cue("dawn")).unwrap();
    let entries = until(&mut play, 1.0);
    assert_eq!(
        chain_of(&play, &entries, "enter there"),
        ["enter there", "do teleport", "enter here", "do enable", "cue dawn", "do cue", "Input(0)"]
    );
    assert_eq!(chain_of(&play, &entries, "exit here")[..2], ["exit here", "do teleport"]);
}

#[test]
fn what_comes_of_itself_later_comes_of_what_set_it_going() {
    let slow = Effect::new("slow").alter("walk", Alter::times(0.5)).seconds(1.0);
    let tired = Stat { start: 1.0, ..Stat::default() };
    let drain = Effect::new("drain").alter("breath", Alter { rate: -1.0, ..Alter::times(1.0) });
    let pickup =
        Pickup { grant: Grant::default().count("broth", 1), back_after: Some(1.0), limit: None };
    let scene = Scene::builder("Yard")
        .effect(slow)
        .effect(drain)
        .entity(person("ada", [0.0, 0.0, 6.0]).stat("breath", tired))
        .entity(pad("sill", [0.0, 1.0, 0.0]))
        .entity(pad("mug", [0.0, 1.0, 3.0]).pickup(pickup))
        .reaction(
            Reaction::on(Trigger::enter("sill"))
                .then(Action::effect("slow", "who"))
                .then(Action::effect("drain", "who")),
        )
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    walk(&mut play, 0.0, "ada", [0.0, 0.0, 0.0]);
    let entries = until(&mut play, 9.0);
    let back = ["slow expires", "do effect", "enter sill", "Input(0)"];
    assert_eq!(chain_of(&play, &entries, "slow expires"), back);
    let over = entries.iter().find(|it| word(&play, it) == "slow expires").unwrap();
    assert!(matches!(over.what, Happening::Expired { why: Expiry::Time, .. }));
    let empty = chain_of(&play, &entries, "empty ada");
    assert_eq!(empty, ["empty ada", "do effect", "enter sill", "Input(0)"]);
    let back = ["respawn mug", "do collect", "enter mug", "Input(0)"];
    assert_eq!(chain_of(&play, &entries, "respawn mug"), back);
}

#[test]
fn a_hold_that_is_lost_comes_of_the_walk_away() {
    let prompt = Prompt { reach: 1.0, hold: 2.0, ..Prompt::default() };
    let scene = Scene::builder("Yard")
        .entity(person("ada", [0.0, 0.0, 1.0]))
        .entity(Entity::new("wheel").at([0.0, 1.0, 0.0]).prompt(prompt))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let who = play.scene().find("ada").unwrap();
    let press = Input::Press { who, key: "KeyE".into() };
    play.schedule(Time::from_secs(1.0), press).unwrap();
    walk(&mut play, 1.2, "ada", [0.0, 0.0, 9.0]);
    let entries = until(&mut play, 4.0);
    assert_eq!(chain_of(&play, &entries, "hold wheel"), ["hold wheel", "Input(0)"]);
    assert_eq!(chain_of(&play, &entries, "cancel wheel"), ["cancel wheel", "Input(1)"]);
}

#[test]
fn a_run_says_what_ended_it_and_a_spawner_what_it_took_back() {
    let moth = Kind::new("moth").body(ball(0.1)).stock(1);
    let spawner = Spawner { oldest: Some(1.0), ..Spawner::of("moth", 1) };
    let scene = Scene::builder("Yard")
        .kind(moth)
        .entity(pad("lamp", [0.0, 0.0, 0.0]).spawner(spawner))
        .entity(Entity::new("ball").at([20.0, 0.0, 0.0]).body(ball(0.3)))
        .entity(pad("sill", [20.0, 0.0, 0.0]))
        .reaction(
            Reaction::on(Trigger::enter("sill"))
                .until(Trigger::exit("sill"))
                .after(5.0)
                .then(Action::cue("late")),
        )
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let ball = play.scene().find("ball").unwrap();
    let away = Input::Place { who: ball, at: [40.0, 0.0, 0.0].into() };
    play.schedule(Time::from_secs(2.0), away).unwrap();
    let entries = until(&mut play, 4.0);
    assert_eq!(chain_of(&play, &entries, "run stops"), ["run stops", "exit sill", "Input(0)"]);
    let stopped = entries.iter().any(|entry| {
        matches!(entry.what, Happening::Run { life: Life::Stopped(Stopped::Until), .. })
    });
    assert!(stopped);
    assert_eq!(chain_of(&play, &entries, "moth#1 taken back"), ["moth#1 taken back", "Start"]);
    let old =
        |entry: &Entry| matches!(entry.what, Happening::TakenBack { why: TakenBack::Old, .. });
    assert!(entries.iter().any(old));
}

#[test]
fn what_is_carried_in_comes_of_what_carries_it() {
    let scene = Scene::builder("Yard")
        .entity(person("ada", [0.0, 0.0, 6.0]))
        .entity(
            Entity::new("lens")
                .at([0.0, 0.2, 5.3])
                .body(Body::new(Shape::Box { size: [0.2; 3] }))
                .carry(Carry::default()),
        )
        .entity(pad("sill", [0.0, 1.0, 0.0]))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.act(Action::grab("lens", "ada")).unwrap();
    walk(&mut play, 0.5, "ada", [0.0, 0.0, 0.0]);
    let entries = until(&mut play, 4.0);
    let lens = play.scene().find("lens");
    let enters = |entry: &Entry| {
        let event = entry.event();
        event.is_some_and(|it| it.who == lens && it.kind == hazuro::scene::EventKind::Enter)
    };
    assert_eq!(chain(&play, &entries, enters), ["enter sill", "Input(1)"]);
}

#[test]
fn forwards_and_backwards_tell_the_same() {
    let scene = Scene::builder("Yard")
        .entity(person("ada", [0.0, 0.0, 6.0]))
        .entity(pad("sill", [0.0, 1.0, 0.0]))
        .reaction(
            Reaction::on(Trigger::enter("sill"))
                .then(Action::cue("a"))
                .then(Action::wait(0.5))
                .then(Action::cue("b"))
                .every(1.0)
                .times(3),
        )
        .reaction(Reaction::on(Trigger::cue("a")).then(Action::add("n", 1)))
        .reaction(Reaction::on(Trigger::cue("b")).then(Action::add("n", 1)).then(Action::cue("c")))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    walk(&mut play, 0.0, "ada", [0.0, 0.0, 0.0]);
    let entries = until(&mut play, 8.0);
    let history = History::new(&entries);
    assert!(entries.len() > 20);
    for entry in &entries {
        for (depth, later) in history.all_of(entry.number) {
            let back: Vec<u64> = history.back(later.number).map(|it| it.number).collect();
            let place = back.iter().position(|number| *number == entry.number);
            assert_eq!(place, Some(depth + 1), "{entry:?} led to {later:?}");
        }
        for earlier in history.back(entry.number).skip(1) {
            let all = history.all_of(earlier.number);
            assert!(all.iter().any(|(_, it)| it.number == entry.number));
        }
        match history.root(entry.number) {
            Origin::Entry(_) => panic!("{entry:?} does not end"),
            Origin::Input(_) | Origin::Start => {}
        }
    }
}
