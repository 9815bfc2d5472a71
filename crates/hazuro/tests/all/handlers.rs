//! Rust handlers and routines: coming and going, failing, and acting on what is being handled.

use crate::support;

use std::sync::mpsc;

use hazuro::scene::{Action, Entity, Kind, Reaction, Selector, Trigger};
use hazuro::{Act, Entry, Event, HandlerId, Happening, Play, Problem, Scene, Time};
use support::{ball, cube, play_until, problems, words, yard};

/// Puts the ball into the pad and out again, so often.
fn bounce(play: &mut Play, times: u32) -> Vec<Entry> {
    let mut entries = Vec::new();
    for _ in 0..times {
        for x in [0.0, 9.0] {
            play.place("ball", [x, 0.0, 0.0]).unwrap();
            let until = play.now() + Time::from_secs(0.1);
            entries.extend_from_slice(play.advance(until));
        }
    }
    entries
}

#[test]
fn handlers_come_and_go_while_they_run() {
    let mut play = Play::new(yard().build().unwrap());
    let (tell, told) = mpsc::channel();
    let again = tell.clone();
    let mut visits = 0;
    let first = play
        .on(Trigger::enter("pad"), move |_, act| {
            visits += 1;
            again.send(format!("first {visits}"))?;
            if visits == 2 {
                let later = again.clone();
                // It does not hear of this event any more.
                let id: HandlerId =
                    act.on(Trigger::enter("pad"), move |_, _| later.send("newcomer".into()))?;
                let other = first_of(act);
                act.set("newcomer", i64::from(id != other));
            }
            Ok::<(), Box<dyn std::error::Error>>(())
        })
        .unwrap();
    let once = tell.clone();
    let mut own: Option<HandlerId> = None;
    let (give, get) = mpsc::channel::<HandlerId>();
    let second = play
        .on(Trigger::enter("pad"), move |_, act| {
            once.send("only once".to_owned()).unwrap();
            own = own.or_else(|| get.try_recv().ok());
            assert!(act.off(own.unwrap()), "a handler may take itself away");
        })
        .unwrap();
    give.send(second).unwrap();
    bounce(&mut play, 3);
    let told: Vec<String> = told.try_iter().collect();
    assert_eq!(told, ["first 1", "only once", "first 2", "first 3", "newcomer"]);
    assert!(play.off(first) && !play.off(first));
    assert!(play.on(Trigger::enter("pud"), |_, _| {}).is_err());
}

/// Some other handler's number, to tell that numbers are not given twice.
fn first_of(act: &mut Act<'_>) -> HandlerId {
    act.on(Trigger::Start, |_, _| {}).unwrap()
}

#[test]
fn a_handler_that_panics_is_reported_and_the_play_goes_on() {
    let mut play = Play::new(yard().build().unwrap());
    play.on(Trigger::enter("pad"), |_, act| {
        act.add("before", 1);
        assert!(act.count("before") != 1, "the first time is too much");
        act.add("after", 1);
    })
    .unwrap();
    let entries = bounce(&mut play, 2);
    assert_eq!(problems(&entries), [Problem::Panic("the first time is too much".into())]);
    assert_eq!((play.count("before"), play.count("after")), (2, 1), "what was done stays done");
    assert_eq!(words(&play, &entries).len(), 4);
}

#[test]
fn routines_are_called_by_name_with_what_they_have_captured() {
    let scene = yard()
        .reaction(
            Reaction::on(Trigger::enter("pad"))
                .then(Action::call("tally"))
                .then(Action::call("nothing")),
        )
        .reaction(Reaction::on(Trigger::exit("pad")).then(Action::call("round")));
    let mut play = Play::new(scene.build().unwrap());
    let mut tally = 0;
    play.routine("tally", move |event, act| {
        tally += 2;
        act.set("tally", tally);
        assert!(event.who.is_some());
    });
    play.routine("round", |_, act| act.run(Action::call("round")));
    let entries = bounce(&mut play, 2);
    assert_eq!(play.count("tally"), 4);
    let expected = [Problem::NoRoutine("nothing".into()), Problem::TooDeep("round".into())];
    assert_eq!(problems(&entries)[..2], expected);
}

#[test]
fn what_is_being_handled_may_go_away() {
    let sack = Kind::new("sack").body(ball(0.2)).stock(3);
    let scene = yard().kind(sack).entity(Entity::new("bin").at([0.0, 0.0, 40.0]).zone(cube(1.0)));
    let mut play = Play::new(scene.build().unwrap());
    // Whoever comes in is removed, and a sack comes out elsewhere.
    play.on(Trigger::enter("pad"), |event, act| {
        act.remove(event.who.unwrap())?;
        let sack = act.spawn("sack", "bin")?;
        act.set("sack", sack.map_or(-1, |sack| sack.index() as i64));
        Ok::<(), hazuro::scene::Fault>(())
    })
    .unwrap();
    play.place("ball", [0.0; 3]).unwrap();
    let entries = play_until(&mut play, 1.0);
    let expected = ["enter pad ball teleport", "exit pad ball remove", "enter bin sack#1 appear"];
    assert_eq!(words(&play, &entries), expected);
    assert_eq!(play.count("sack"), 3, "after the ball, the pad and the bin");
}

#[test]
fn a_teleport_in_an_exit_back_into_the_zone_goes_on_until_it_is_stopped() {
    let scene = yard()
        .entity(Entity::new("middle"))
        .reaction(Reaction::on(Trigger::exit("pad")).then(Action::teleport("who", "middle")));
    let mut play = Play::new(scene.build().unwrap());
    let entries = bounce(&mut play, 1);
    let expected = [
        "enter pad ball teleport",
        "exit pad ball teleport",
        "depart pad ball teleport",
        "arrive middle ball teleport",
        "enter pad ball teleport",
    ];
    assert_eq!(words(&play, &entries), expected);
    assert_eq!(problems(&entries), []);
    assert_eq!(play.pose("ball").unwrap().position.x, 0.0);
}

#[test]
fn what_is_lent_is_all_there_is() {
    let mut play = Play::new(yard().build().unwrap());
    play.on(Trigger::enter("pad"), |event, act| {
        act.add("n", 1);
        let who = event.who.unwrap();
        let there = act.lend(|mut lent| {
            lent.act().add("n", 1);
            lent.act().run(Action::teleport("who", "ball")).unwrap();
            let there = lent.act().space().overlap(
                &hazuro::geometry::Shape::Sphere { radius: 1.0 },
                hazuro::geometry::Pose::IDENTITY,
                &hazuro::Filter::bodies(),
            );
            (lent, there.unwrap().len())
        });
        act.add("n", there as i64);
        assert_eq!(act.scene().name(who), "ball");
    })
    .unwrap();
    play.place("ball", [0.0; 3]).unwrap();
    let entries = play_until(&mut play, 1.0);
    assert_eq!((play.count("n"), problems(&entries)), (3, vec![]));
}

/// What a program keeps beside the play.
#[derive(Debug, Default, PartialEq)]
struct Game {
    score: u32,
    names: Vec<String>,
}

#[test]
fn handlers_have_the_hosts_own_data_for_the_length_of_a_step() {
    let mut play = Play::new(yard().build().unwrap());
    let count = |event: &Event, act: &mut Act<'_>, game: &mut Game| {
        game.score += 1;
        game.names.push(act.scene().name(event.who.unwrap()).to_owned());
    };
    play.on_with(Trigger::enter("pad"), count).unwrap();
    // A routine, and a plain handler, ask for it.
    play.routine("bonus", |_, act| act.host::<Game>().map(|game| game.score += 10).ok_or("none"));
    play.on(Trigger::exit("pad"), |_, act| act.run(Action::call("bonus"))).unwrap();
    play.drive("ball", [9.0, 0.0, 0.0]).unwrap();
    let mut game = Game { score: 100, names: Vec::new() };
    let mut entries = Vec::new();
    for _ in 0..4 {
        entries.extend(play.step_with(&mut game).to_vec());
    }
    assert_eq!(game, Game { score: 111, names: vec!["ball".into()] });
    assert!(!entries.iter().any(|entry| matches!(entry.what, Happening::Problem { .. })));
    // Nothing of it stays with the play, and without it the handler says so.
    assert_eq!(play.host::<Game>(), Some(&Game::default()));
    assert_eq!(play.take_host::<Game>(), Some(Game::default()));
    play.place("ball", [0.0, 0.0, 0.0]).unwrap();
    let problems = problems(play.step());
    let [Problem::Handler(failure)] = problems.as_slice() else { panic!("{problems:?}") };
    assert!(failure.message.contains("Game` of the host"), "{failure:?}");
    assert!(failure.message.contains("step_with"), "{failure:?}");
}

#[test]
fn what_is_lent_comes_back_when_something_panics() {
    let mut play = Play::new(yard().build().unwrap());
    let fall = |_: &Event, _: &mut Act<'_>, game: &mut Game| {
        game.score += 1;
        assert!(game.score == 0, "over the weir");
    };
    play.on_with(Trigger::Start, fall).unwrap();
    play.on_with(Trigger::Start, |_, _, game: &mut Game| game.score += 1).unwrap();
    let mut game = Game { score: 5, names: Vec::new() };
    let problems = problems(play.step_with(&mut game));
    assert_eq!(problems.len(), 1, "{problems:?}");
    assert_eq!(game.score, 7, "the other handler had it, too");
    let fallen = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| {
        play.lend_host(&mut game, |_| panic!("over the weir once more"));
    }));
    assert!(fallen.is_err());
    assert_eq!(game.score, 7);
    // Of another type there is another.
    play.set_host(3_u8);
    play.step_with(&mut game);
    assert_eq!((play.host::<u8>(), play.host::<Game>()), (Some(&3), None));
}

#[test]
fn one_handler_waits_for_any_detector_for_a_layer_and_for_several_events() {
    let zone = |name: &str, layer: &str| Entity::new(name).zone(cube(2.0)).layers([layer]);
    let scene = Scene::builder("Yard")
        .entity(Entity::new("ball").body(ball(0.5)).layers(["wet", "dry"]).at([-9.0, 0.0, 0.0]))
        .entity(zone("pond", "wet"))
        .entity(zone("pad", "dry").at([5.0, 0.0, 0.0]));
    let mut play = Play::new(scene.build().unwrap());
    let heard = |name: &'static str| move |_: &Event, act: &mut Act<'_>| act.add(name, 1);
    play.on(Trigger::enter(Selector::Any), heard("any")).unwrap();
    play.on(Trigger::enter("layer:wet"), heard("wet")).unwrap();
    let all = [Trigger::enter("*"), Trigger::enter("pad"), Trigger::exit("*")];
    let each = play.on_each(all, heard("each")).unwrap();
    play.drive("ball", [9.0, 0.0, 0.0]).unwrap();
    play_until(&mut play, 0.1);
    let counts = |play: &Play| ["any", "wet", "each"].map(|name| play.count(name));
    assert_eq!(counts(&play), [2, 1, 4]);
    assert!(play.off(each));
    play.drive("ball", [-9.0, 0.0, 0.0]).unwrap();
    play_until(&mut play, 0.2);
    assert_eq!(counts(&play), [4, 2, 4]);
    // Nothing here is touched, and there is no such layer.
    assert!(play.on(Trigger::touch("*"), heard("none")).is_err());
    assert!(play.on(Trigger::enter("layer:wte"), heard("none")).is_err());
    let some = [Trigger::enter("pad"), Trigger::enter("paad")];
    assert!(play.on_each(some, heard("some")).is_err());
    play.drive("ball", [9.0, 0.0, 0.0]).unwrap();
    play_until(&mut play, 0.3);
    assert_eq!(play.count("some"), 0, "of several none waits if one cannot");
}
