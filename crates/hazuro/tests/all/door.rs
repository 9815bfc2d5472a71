//! What comes in: the same ranges and names for files, builder, host and handlers. What is refused is
//! named at the call, and changes nothing.

use crate::support;

use hazuro::geometry::{Pose, Shape};
use hazuro::glam::{DQuat, DVec3};
use hazuro::scene::{
    Action, Change, Entity, EventKind, Fault, Grant, Limits, Named, Pace, Reaction, Stat, Trigger,
};
use hazuro::{Button, EntityId, Happening, Input, Play, Problem, Scene, Spot, State, Target, Time};
use support::{ball, cube, person, yard};

const ODD: [f64; 5] = [f64::NAN, f64::INFINITY, f64::NEG_INFINITY, 1e308, -1.1e6];

/// An id of a scene of forty entities.
fn foreign(number: usize) -> EntityId {
    let mut scene = Scene::builder("Other");
    for number in 0..40 {
        scene = scene.entity(Entity::new(format!("{number}")));
    }
    scene.build().unwrap().ids().nth(number).unwrap()
}

fn mill() -> hazuro::scene::SceneBuilder {
    yard().entity(Entity::new("miller").at([0.0, 0.0, 3.0]).player(true).body(person())).entity(
        Entity::new("sack")
            .at([1.0, 0.0, 3.0])
            .body(ball(0.2))
            .carry(hazuro::scene::Carry::default())
            .stat("health", Stat { start: 5.0, least: 0.0, most: 10.0 }),
    )
}

#[test]
fn a_place_that_is_none_is_refused_at_the_call() {
    let mut play = Play::new(mill().build().unwrap());
    play.advance(Time::from_secs(0.5));
    let before = play.state().clone();
    for odd in ODD {
        for place in [[odd, 0.0, 0.0], [0.0, odd, 0.0], [0.0, 0.0, odd]] {
            for refused in
                [play.drive("ball", place), play.place("ball", place), play.begin_at("ball", place)]
            {
                let Err(Fault::Number { need, .. }) = refused else { panic!("{refused:?}") };
                assert_eq!(need, "a coordinate from -1000000 to 1000000 metres");
            }
        }
    }
    let skewed = Pose { rotation: DQuat::from_xyzw(0.0, 1.0, 0.0, 1.0), ..Pose::IDENTITY };
    let none = Pose { rotation: DQuat::from_xyzw(f64::NAN, 0.0, 0.0, 1.0), ..Pose::IDENTITY };
    for pose in [skewed, none] {
        assert_eq!(play.drive("ball", pose), Err(Fault::Rotation));
    }
    assert_eq!(play.state(), &before, "what is refused changes nothing");
}

#[test]
fn ids_of_another_scene_are_refused_everywhere() {
    // One that is too large for this scene, and one that is not.
    [39, 1].into_iter().for_each(refused_everywhere);
}

fn refused_everywhere(number: usize) {
    let mut play = Play::new(mill().build().unwrap());
    let (other, ball) = (foreign(number), play.scene().find("ball").unwrap());
    let to = Target::Place(DVec3::ZERO);
    let inputs = [
        Input::Walk { who: other, to },
        Input::Walk { who: ball, to: Target::Entity(other) },
        Input::WalkAlong { who: ball, through: vec![to, Target::Entity(other)] },
        Input::Follow { who: ball, whom: other, near: 1.0 },
        Input::Drive { who: other, to, until: Time::MAX },
        Input::Place { who: other, at: to },
        Input::Face { who: ball, to: Target::Entity(other) },
        Input::Press { who: other, key: "KeyE".into() },
        Input::Interact { who: ball, with: other },
        Input::Point { who: ball, at: Spot::Entity(other), button: Button::Click },
        Input::Limit { what: other, limits: Limits::default() },
        Input::Renew(other),
        Input::Remove(other),
        Input::Act(Action::Drop(other)),
        Input::Act(Action::Walk { what: ball, to: other }),
    ];
    for input in inputs {
        let refused = play.schedule(Time::ZERO, input.clone());
        assert_eq!(refused, Err(Fault::ForeignId { what: Named::Entity, number }), "{input:?}");
    }
    assert!(play.pose(other).is_err() && play.facts_about(Some(other)).is_err());
    let words = play.drive(other, [0.0; 3]).unwrap_err();
    let id = format!("this is the id of entity {number} of another scene");
    assert_eq!(words.to_string(), id);
    // A reaction of another scene, too.
    let reaction = Reaction::on(Trigger::Start).then(Action::cue("a")).named("first");
    let scene = mill().reaction(reaction).build().unwrap();
    let first = scene.reaction_named("first").unwrap();
    let refused = play.schedule(Time::ZERO, Input::Stop(first)).unwrap_err();
    assert_eq!(refused.to_string(), "this is the id of reaction 0 of another scene");
}

#[test]
fn ids_last_as_long_as_the_names_of_a_scene() {
    let (one, other) = (mill().build().unwrap(), mill().rate(240).seed(7).build().unwrap());
    let sack = one.find("sack").unwrap();
    assert_eq!(other.find("sack"), Some(sack));
    assert!(Play::new(other).drive(sack, [0.0; 3]).is_ok());
}

#[test]
fn what_is_not_in_the_play_is_not_moved() {
    let mut play = Play::new(mill().build().unwrap());
    play.remove("ball").unwrap();
    play.step();
    let gone = Fault::NotInPlay { name: "ball".into() };
    assert_eq!(play.drive("ball", [1.0, 0.0, 0.0]), Err(gone.clone()));
    assert_eq!(play.place("ball", [1.0, 0.0, 0.0]), Err(gone));
    // What was planned before is told when its time comes.
    let ball = play.scene().find("ball").unwrap();
    play.schedule(play.now(), Input::Place { who: ball, at: [2.0, 0.0, 0.0].into() }).unwrap();
    let told = play.step().iter().any(
        |entry| matches!(&entry.what, Happening::Problem { problem: Problem::NotInPlay(who), .. } if *who == ball),
    );
    assert!(told && play.pose("ball").unwrap().position.x < 0.0);
}

#[test]
fn a_state_of_another_scene_is_refused() {
    let mut play = Play::new(mill().build().unwrap());
    for other in
        [yard().build().unwrap(), mill().reaction(Reaction::on(Trigger::Start)).build().unwrap()]
    {
        assert_eq!(play.restore(Play::new(other).state().clone()), Err(Fault::OtherScene));
    }
    assert_eq!(play.restore(State::default()), Err(Fault::OtherScene));
    let again = Play::new(mill().build().unwrap());
    play.restore(again.state().clone()).unwrap();
}

/// Each action with a number or a name that will not do, and what is said of it.
fn bad_actions() -> Vec<(Action, &'static str)> {
    let grant = |grant: Grant| Action::grant(grant, "sack");
    let mut lead = Action::lead("ball", ["pad"]);
    lead.pace = Pace::Rate(0.0.into());
    vec![
        (Action::move_by("ball", [1e308, 0.0, 0.0]).into(), "1e308 is not a coordinate"),
        (Action::move_by("ball", [0.0, f64::NAN, 0.0]).into(), "NaN is not a coordinate"),
        (Action::move_to("ball", "pad").over(-1.0).into(), "-1 is not a number of seconds"),
        (Action::turn("ball", f64::INFINITY).into(), "inf is not an angle"),
        (Action::turn("ball", 4.0).into(), "229.183118052 is not an angle"),
        (Action::turn("ball", 1.0).rate(0.0).into(), "0 is not a rate from 0.001"),
        (Action::throw("ball", [0.0, 1e9, 0.0]).into(), "1000000000 is not a speed up to 1000"),
        (Action::throw("ball", [f64::NAN; 3]).into(), "NaN is not a speed"),
        (Action::throw("ball", [0.0; 3]).spin(1e6).into(), "is not a spin"),
        (Action::lead("ball", [] as [&str; 0]).into(), "there are too few places"),
        (lead.into(), "0 is not a speed from 0.001"),
        (Action::stat("sack", "health", Change::Add(1e16)), "10000000000000000 is not a number"),
        (Action::stat("sack", "helth", Change::Add(1.0)), "there is no stat named `helth`"),
        (grant(Grant::default()), "there is nothing in it"),
        (grant(Grant::default().stat("health", f64::NAN)), "NaN is not a number"),
        (grant(Grant::default().hands("sck")), "there is no entity named `sck`"),
        (grant(Grant::default().effect("broth")), "there is no effect named `broth`"),
        (Action::cue(""), "`` cannot be a name: it is empty"),
        (Action::cue("\u{202e}go"), "`\\u{202e}go` cannot be a name"),
        (Action::add("a:b", 1), "`a:b` cannot be a name"),
        (Action::tag("ball", "x".repeat(201)), "cannot be a name: it has more than 200"),
        (Action::untag("ball", "wet"), "there is no tag named `wet`"),
        (Action::spawn("reed", "pad"), "there is no kind named `reed`"),
        (Action::stop("first"), "there is no reaction named `first`"),
        (Action::disable("bal"), "there is no entity named `bal`"),
        (Action::walk("miller", "kind:reed"), "`kind:reed` means several"),
    ]
}

#[test]
fn file_builder_host_and_handler_have_one_set_of_limits() {
    for (action, expected) in bad_actions() {
        // Built into a scene.
        let reaction = Reaction::on(Trigger::enter("pad")).then(action.clone());
        let built = mill().reaction(reaction).build().unwrap_err().to_string();
        // A tag that something gives exists: only its name can be wrong.
        assert!(built.contains(expected), "built: {built} for {expected}");
        // Done by the host.
        let mut play = Play::new(mill().build().unwrap());
        let refused = play.act(action.clone()).unwrap_err().to_string();
        assert!(refused.contains(expected), "host: {refused} for {expected}");
        // Done by a handler.
        let told = std::sync::Arc::new(std::sync::Mutex::new(String::new()));
        let heard = told.clone();
        play.on(Trigger::Start, move |_, act| {
            *heard.lock().unwrap() = act.run(action.clone()).unwrap_err().to_string();
        })
        .unwrap();
        play.step();
        let told = told.lock().unwrap();
        assert!(told.contains(expected), "handler: {told} for {expected}");
    }
}

#[test]
fn what_a_handler_adds_to_must_have_a_name() {
    let mut play = Play::new(mill().build().unwrap());
    play.on(Trigger::Start, |_, act| {
        act.add("a:b", 1);
        act.cue("\u{1b}[31m");
    })
    .unwrap();
    let problems: Vec<String> = play
        .step()
        .iter()
        .filter_map(|entry| match &entry.what {
            Happening::Problem { problem: Problem::BadAction(fault), .. } => {
                Some(fault.to_string())
            }
            _ => None,
        })
        .collect();
    assert_eq!(problems.len(), 2);
    assert!(problems[1].contains("`\\u{1b}[31m` cannot be a name"), "{problems:?}");
    assert_eq!(play.count("a:b"), 0);
}

#[test]
fn other_numbers_of_a_host_are_held_against_the_same_ranges() {
    let mut play = Play::new(mill().build().unwrap());
    let miller = play.scene().find("miller").unwrap();
    for odd in [f64::NAN, -1.0, 4e6] {
        assert!(play.limit("pad", Limits { cooldown: odd, ..Limits::default() }).is_err());
    }
    assert!(play.limit("pad", Limits { limit: Some(0), ..Limits::default() }).is_err());
    for near in [f64::NAN, -1.0] {
        let input = Input::Follow { who: miller, whom: miller, near };
        assert!(play.schedule(Time::ZERO, input).is_err());
    }
    let at = Spot::Pixel(f64::NAN, 0.0);
    assert!(
        play.schedule(Time::ZERO, Input::Point { who: miller, at, button: Button::Up }).is_err()
    );
    assert!(play.schedule(Time::ZERO, Input::Press { who: miller, key: String::new() }).is_err());
    assert!(
        play.schedule(
            Time::ZERO,
            Input::Act(hazuro::scene::ResolvedAction::Wait(hazuro::scene::Wait::Seconds(1.0)))
        )
        .is_err()
    );
    assert!(play.set_rate(0).is_err() && play.set_rate(10_001).is_err());
    assert!(play.screen_ray("miller", [f64::INFINITY, 0.0]).is_err());
    let space = play.space();
    let sphere = Shape::Sphere { radius: 1.0 };
    let far = Pose::at(DVec3::splat(1e7));
    assert!(space.overlap(&sphere, far, &hazuro::Filter::solids()).is_err());
}

#[test]
fn nothing_is_moved_out_of_the_world_bit_by_bit() {
    let mut play = Play::new(mill().build().unwrap());
    play.on(Trigger::cue("far"), |_, act| {
        for _ in 0..3 {
            let _ = act.run(Action::move_by("ball", [9e5, 0.0, 0.0]));
        }
    })
    .unwrap();
    play.act(Action::cue("far")).unwrap();
    let entries = play.step().to_vec();
    let refused =
        entries.iter().filter(|entry| matches!(&entry.what, Happening::Refused { .. })).count();
    assert_eq!(refused, 2, "only once is there room");
    assert!(play.pose("ball").unwrap().position.x < 1e6);
}

#[test]
fn a_hostile_handler_does_not_end_the_play() {
    let scene = mill().entity(Entity::new("ring").zone(cube(0.5))).build().unwrap();
    let mut play = Play::new(scene);
    play.on(Trigger::of(EventKind::Enter, "pad"), |_, act| {
        for odd in ODD {
            assert!(act.run(Action::move_by("ball", [odd, odd, odd])).is_err());
            assert!(act.add_stat("sack", "health", odd * 1e10).is_err());
        }
    })
    .unwrap();
    play.place("ball", [0.0; 3]).unwrap();
    let entries = play.step().to_vec();
    assert!(
        entries.iter().all(|entry| !matches!(&entry.what, Happening::Problem { .. })),
        "{entries:?}"
    );
    play.state().assert_consistent(play.scene());
}
