//! No input makes an instant endless, or memory grow without end.

use hazuro::geometry::Shape;
use hazuro::scene::{
    Action, Again, Body, Carry, Entity, Fault, Pace, Reaction, Route, SceneBuilder, Then, Trigger,
};
use hazuro::{Entry, Happening, Play, Problem, Refusal, Scene, Time};

fn problems(entries: &[Entry]) -> Vec<&Problem> {
    let told = entries.iter().filter_map(|entry| match &entry.what {
        Happening::Problem { problem, .. } => Some(problem),
        _ => None,
    });
    told.collect()
}

fn hoist(route: Route, stop: [f64; 3]) -> Play {
    let scene = Scene::builder("Mill")
        .entity(Entity::new("hoist").at([0.0, 1.0, 0.0]).route(route))
        .entity(Entity::new("stop").at(stop))
        .build()
        .unwrap();
    Play::new(scene)
}

fn there_and_back() -> Route {
    Route { then: Then::Back, starts: true, ..Route::through(["home", "stop"]) }
}

#[test]
fn a_route_that_takes_no_time_is_halted_and_named() {
    let mut play = hoist(there_and_back(), [0.0, 1.0, 0.0]);
    let entries = play.advance(Time::from_secs(60.0)).to_vec();
    let hoist = play.scene().find("hoist").unwrap();
    assert_eq!(problems(&entries), [&Problem::EndlessWay(hoist)]);
    assert!(entries.len() < 100, "{}", entries.len());
    // A stop that is moved away lets it go on.
    play.place("stop", [4.0, 1.0, 0.0]).unwrap();
    play.act(Action::run("hoist")).unwrap();
    play.advance(Time::from_secs(60.5));
    assert!(play.pose("hoist").unwrap().position.x > 0.5);
}

#[test]
fn a_route_of_tiny_stretches_is_halted_too() {
    let pace = Pace::Over(1e-9);
    let mut play = hoist(Route { pace, ..there_and_back() }, [0.5, 1.0, 0.0]);
    let entries = play.advance(Time::from_secs(10.0)).to_vec();
    assert_eq!(problems(&entries).len(), 1);
    assert!(entries.len() < 1100, "{}", entries.len());
    // A quick one that is meant so goes on.
    let quick = Route { pace: Pace::Over(0.002), ..there_and_back() };
    let mut play = hoist(quick, [0.5, 1.0, 0.0]);
    let entries = play.advance(Time::from_secs(2.0)).to_vec();
    assert!(problems(&entries).is_empty() && entries.len() > 900);
}

#[test]
fn what_is_put_off_is_put_off_by_a_millisecond_at_least() {
    for seconds in [1e-9, 9e-4, f64::NAN] {
        let again = Reaction::on(Trigger::cue("again")).after(seconds).then(Action::cue("again"));
        let wait =
            Reaction::on(Trigger::cue("a")).then(Action::wait(seconds)).then(Action::cue("a"));
        for reaction in [again, wait] {
            let refused = Scene::builder("Mill").reaction(reaction).build().unwrap_err();
            assert!(refused.to_string().contains("0, or a number of seconds from 0.001"));
        }
    }
}

/// Cues that double: far more than anybody could play.
fn avalanche() -> SceneBuilder {
    let twice = |after: f64| {
        Reaction::on(Trigger::cue("go"))
            .after(after)
            .again(Again::Beside)
            .then(Action::cue("go"))
            .then(Action::cue("go"))
    };
    Scene::builder("Mill").reaction(twice(0.001)).reaction(twice(0.001_1)).reaction(twice(0.001_07))
}

#[test]
fn an_avalanche_of_reactions_is_stopped_and_named() {
    let mut play = Play::new(avalanche().build().unwrap());
    play.act(Action::cue("go")).unwrap();
    let (mut most, mut stopped) = (0, false);
    for tick in 1..=12 {
        let entries = play.advance(Time::from_secs(f64::from(tick) * 0.001)).to_vec();
        stopped |= problems(&entries)
            .iter()
            .any(|problem| matches!(problem, Problem::TooManyRuns | Problem::Circle(_)));
        most = most.max(play.running().len());
    }
    assert!(stopped && most <= 100_000, "{most}");
}

#[test]
fn a_script_that_does_too_much_is_stopped_and_named() {
    let scene = Scene::builder("Mill")
        .text("hello", "Good morning.")
        .reaction(Reaction::on(Trigger::Start).every(0.001).then(Action::call("chatter")))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.routine("chatter", |_, act| {
        for _ in 0..30_000 {
            act.say("hello");
        }
    });
    let entries = play.advance(Time::from_secs(0.05)).to_vec();
    assert!(entries.len() < 200_500, "{}", entries.len());
    assert_eq!(problems(&entries), [&Problem::TooManyActions]);
    // In the next second it may again.
    let entries = play.advance(Time::from_secs(1.01)).to_vec();
    assert!(entries.iter().any(|entry| matches!(&entry.what, Happening::Said { .. })));
}

#[test]
fn a_long_queue_is_gone_through_one_by_one() {
    // Each that waits ends at once when its turn comes: no call may stand on the one before.
    let scene = Scene::builder("Mill")
        .entity(Entity::new("gate"))
        .entity(Entity::new("open").at([1.0, 0.0, 0.0]))
        .reaction(
            Reaction::on(Trigger::cue("ring"))
                .again(Again::Queue)
                .then(Action::wait_for("gate"))
                .then(Action::add("rings", 1)),
        )
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.act(Action::move_to("gate", "open").over(30.0)).unwrap();
    for round in 0..50_000_u32 {
        // Each at an instant of its own.
        let time = Time::from_secs(0.1 + f64::from(round) * 1e-4);
        play.schedule(
            time,
            hazuro::Input::Act(Action::Cue { name: "ring".into(), on: None, who: None }),
        )
        .unwrap();
    }
    play.advance(Time::from_secs(31.0));
    assert_eq!(play.count("rings"), 50_000);
    play.state().assert_consistent(play.scene());
}

#[test]
fn parents_are_so_many_deep_and_no_deeper() {
    let chain = |length: usize| {
        let mut scene = Scene::builder("Mill").entity(Entity::new("0"));
        for number in 1..length {
            scene = scene.entity(Entity::new(number.to_string()).parent((number - 1).to_string()));
        }
        scene
    };
    assert!(chain(65).build().is_ok());
    let refused = chain(10_000).build().unwrap_err();
    let refused = refused.iter().next().unwrap();
    assert_eq!(refused.fault, Fault::TooDeep { name: "65".into() });
    // Nor by attaching.
    let scene = chain(65).entity(Entity::new("more")).entity(Entity::new("top")).build().unwrap();
    let mut play = Play::new(scene);
    play.act(Action::attach("more", "64")).unwrap();
    play.act(Action::attach("0", "top")).unwrap();
    let why: Vec<Refusal> = play
        .step()
        .iter()
        .filter_map(|entry| match &entry.what {
            Happening::Refused { why, .. } => Some(why.clone()),
            _ => None,
        })
        .collect();
    assert_eq!(why, [Refusal::TooDeep, Refusal::TooDeep]);
}

#[test]
fn nothing_carries_itself_by_a_detour() {
    let sack = |name: &str| {
        Entity::new(name)
            .body(Body::new(Shape::Box { size: [1.0, 0.5, 1.0] }))
            .carry(Carry::default())
    };
    let scene = Scene::builder("Mill")
        .entity(sack("low").at([0.0, 0.25, 0.0]))
        .entity(sack("high").at([0.0, 0.8, 0.0]))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.advance(Time::from_secs(1.0));
    // The one stands on the other by now, and must not become its parent.
    play.act(Action::attach("low", "high")).unwrap();
    let refused = play
        .step()
        .iter()
        .any(|entry| matches!(&entry.what, Happening::Refused { why: Refusal::OwnChild, .. }));
    assert!(refused);
    play.state().assert_consistent(play.scene());
}

#[test]
fn thousands_of_misspelt_long_names_are_told_in_no_time() {
    let mut scene = Scene::builder("Mill");
    for number in 0..3000 {
        let name = format!("{}{number}", "a_rather_long_name_of_a_sluice_gate_");
        scene = scene.entity(Entity::new(&name).parent(format!("{name}_x")));
    }
    let refused = scene.build().unwrap_err();
    assert_eq!(refused.iter().count(), 3000);
    // The nearest name is looked for fifty times.
    let helped = refused.iter().filter(|error| error.fault.cure().is_some()).count();
    assert_eq!(helped, 50);
    // And a name that is no name is not told in full.
    let endless = "x".repeat(200_000);
    let refused = Scene::builder("Mill").entity(Entity::new(endless)).build().unwrap_err();
    assert!(refused.to_string().len() < 300, "{}", refused.to_string().len());
}
