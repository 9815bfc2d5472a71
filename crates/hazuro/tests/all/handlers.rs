//! Rust handlers and routines: coming and going, failing, and acting on what is being handled.

use crate::support;

use std::sync::mpsc;

use hazuro::scene::{Action, Entity, Kind, Reaction, Trigger};
use hazuro::{Entry, HandlerId, Happening, Play, Problem, Time};
use support::{ball, cube, play_until, words, yard};

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

fn problems(entries: &[Entry]) -> Vec<Problem> {
    let problem = |entry: &Entry| match &entry.what {
        Happening::Problem { problem, .. } => Some(problem.clone()),
        _ => None,
    };
    entries.iter().filter_map(problem).collect()
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
fn first_of(act: &mut hazuro::Act<'_>) -> HandlerId {
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
