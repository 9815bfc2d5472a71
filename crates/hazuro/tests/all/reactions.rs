//! Reactions and handlers: when they happen, how often, and in which order.

use crate::support;

use hazuro::scene::{Action, Condition, Entity, Fault, Kind, Named, Reaction, Trigger};
use hazuro::{By, Happening, Input, Play, Problem, Time};
use support::{ball, cube, play_until, story, words, yard};

/// Drives the ball of the yard through these places, a second each.
fn drive(play: &mut Play, places: &[f64]) {
    let who = play.scene().find("ball").unwrap();
    for (second, x) in places.iter().enumerate() {
        let (at, until) = (second as f64, second as f64 + 1.0);
        let to = [*x, 0.0, 0.0].into();
        play.schedule(Time::from_secs(at), Input::Drive { who, to, until: Time::from_secs(until) })
            .unwrap();
    }
}

#[test]
fn once_and_cooldown_limit_how_often() {
    let count = |name: &str| Reaction::on(Trigger::enter("pad")).then(Action::add(name, 1));
    let scene = yard()
        .reaction(count("always"))
        .reaction(count("once").once())
        .reaction(count("seldom").cooldown(2.5))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    // In at about 0.7, 1.7, 2.7, 3.7 and 4.7 s.
    drive(&mut play, &[5.0, -5.0, 5.0, -5.0, 5.0]);
    play_until(&mut play, 6.0);
    assert_eq!(["always", "once", "seldom"].map(|name| play.count(name)), [5, 1, 2]);
}

#[test]
fn after_ends_at_its_exact_time_at_any_rate() {
    let times = [10, 60, 240].map(|rate| {
        let scene = yard()
            .rate(rate)
            .reaction(Reaction::on(Trigger::enter("pad")).after(0.123).then(Action::cue("late")))
            .build()
            .unwrap();
        let mut play = Play::new(scene);
        drive(&mut play, &[0.0]);
        let entries = play_until(&mut play, 2.0);
        story(&play, &entries)[1].clone()
    });
    for (words, time) in times {
        assert_eq!(words, "cue late ball");
        assert!((time - 0.823).abs() < 1e-9, "{time}");
    }
}

#[test]
fn last_out_must_stay_so_while_the_reaction_waits() {
    let scene = yard()
        .entity(Entity::new("dog").at([0.0, 0.0, 9.0]).body(ball(0.3)))
        .reaction(Reaction::on(Trigger::last_exit("pad")).after(1.8).then(Action::cue("shut")))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    // Out at 1.15 s, in again at 2.85 s, out for good at 3.15 s: shut once, at 4.95 s.
    drive(&mut play, &[0.0, 10.0, 0.0, 10.0]);
    let entries = play_until(&mut play, 8.0);
    let cues: Vec<_> =
        story(&play, &entries).into_iter().filter(|(words, _)| words.starts_with("cue")).collect();
    assert_eq!(cues.len(), 1, "{cues:?}");
    assert!((cues[0].1 - 4.95).abs() < 1e-9, "{cues:?}");
}

#[test]
fn conditions_see_what_earlier_actions_did() {
    let four = || Condition::new("count.tokens >= 2", |facts| facts.count("tokens") >= 2);
    let scene = yard()
        .reaction(Reaction::on(Trigger::enter("pad")).when(four()).then(Action::add("early", 1)))
        .reaction(Reaction::on(Trigger::enter("pad")).then(Action::add("tokens", 1)))
        .reaction(Reaction::on(Trigger::enter("pad")).when(four()).then(Action::add("late", 1)))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    drive(&mut play, &[5.0, -5.0, 5.0]);
    play_until(&mut play, 4.0);
    assert_eq!(["tokens", "early", "late"].map(|name| play.count(name)), [3, 1, 2]);
}

#[test]
fn a_teleport_undoes_what_would_have_come_later_on_the_way() {
    let scene = yard()
        .entity(Entity::new("next").at([4.0, 0.0, 0.0]).zone(cube(1.0)))
        .entity(Entity::new("away").at([0.0, 0.0, 30.0]))
        .reaction(Reaction::on(Trigger::enter("pad")).then(Action::teleport("who", "away")))
        .rate(1)
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    // One tick leads through both zones, but the first sends the ball away.
    drive(&mut play, &[10.0]);
    let entries = play_until(&mut play, 3.0);
    assert_eq!(
        words(&play, &entries),
        [
            "enter pad ball move",
            "depart pad ball teleport",
            "arrive away ball teleport",
            "exit pad ball teleport"
        ]
    );
    assert_eq!(play.pose("ball").unwrap().position.z, 30.0);
}

#[test]
fn reactions_that_set_each_other_off_are_stopped_and_named() {
    let scene = yard()
        .reaction(Reaction::on(Trigger::cue("ping")).then(Action::cue("pong")))
        .reaction(Reaction::on(Trigger::cue("pong")).then(Action::cue("ping")))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.act(Action::cue("ping")).unwrap();
    let entries = play_until(&mut play, 0.5);
    let problems: Vec<_> = entries
        .iter()
        .filter_map(|entry| match &entry.what {
            Happening::Problem { problem: Problem::Circle(circle), .. } => Some(circle.len()),
            _ => None,
        })
        .collect();
    assert_eq!(problems, [3], "ping, pong and ping again");
    drive(&mut play, &[0.0]);
    let entries = play_until(&mut play, 2.0);
    assert_eq!(words(&play, &entries), ["enter pad ball move"], "the play goes on");
}

#[test]
fn switching_in_a_circle_is_stopped_too() {
    let scene = yard()
        .reaction(Reaction::on(Trigger::enter("pad")).then(Action::disable("pad")))
        .reaction(Reaction::on(Trigger::exit("pad")).then(Action::enable("pad")))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    drive(&mut play, &[0.0]);
    let entries = play_until(&mut play, 1.0);
    let circles = entries.iter().filter(|entry| {
        matches!(&entry.what, Happening::Problem { problem: Problem::Circle(_), .. })
    });
    assert_eq!(circles.count(), 1);
}

#[test]
fn handlers_hear_events_after_reactions_and_act_like_them() {
    let scene = yard()
        .text("hello", "{who} steps on {on}.")
        .reaction(Reaction::on(Trigger::enter("pad")).then(Action::set("order", 1)))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let mut visits = 0;
    play.on(Trigger::enter("tag:toy"), |_, _| {}).unwrap_err();
    play.on(Trigger::enter("pad"), move |event, act| {
        visits += 1;
        assert_eq!(act.count("order"), 1);
        act.set("visits", visits);
        act.run(Action::say("hello"))?;
        assert!(event.who.is_some());
        act.disable("on")
    })
    .unwrap();
    play.on(Trigger::first_enter("pad"), |_, act| act.run(Action::disable("nobody_at_all")))
        .unwrap();
    drive(&mut play, &[0.0]);
    let entries = play_until(&mut play, 2.0);
    assert_eq!(play.count("visits"), 1);
    let said = entries.iter().find_map(|entry| match &entry.what {
        Happening::Said { text, .. } => Some(text.as_str()),
        _ => None,
    });
    assert_eq!(said, Some("ball steps on pad."));
    let failed: Vec<_> = entries
        .iter()
        .filter_map(|entry| match &entry.what {
            Happening::Problem { by, problem: Problem::Handler(why), .. } => {
                Some((*by, why.message.as_str()))
            }
            _ => None,
        })
        .collect();
    let expected = [
        (By::Handler(0), "there is no entity named `on`"),
        (By::Handler(1), "there is no entity named `nobody_at_all`"),
    ];
    assert_eq!(failed, expected);
}

#[test]
fn unknown_names_come_with_the_nearest() {
    let mut play = Play::new(yard().build().unwrap());
    let fault = play.drive("bal", [0.0; 3]).unwrap_err();
    let Fault::Unknown { what: Named::Entity, name, nearest } = fault else { panic!("{fault}") };
    assert_eq!((name.as_str(), nearest.as_deref()), ("bal", Some("ball")));
    assert!(play.on(Trigger::enter("ball"), |_, _| {}).is_err(), "a ball has no zone");
}

#[test]
fn a_reaction_waits_for_any_detector_or_for_those_in_a_layer() {
    let wet = Reaction::on(Trigger::enter("layer:wet")).then(Action::add("wet", 1));
    let any = Reaction::on(Trigger::exit("*")).then(Action::add("any", 1));
    let pond = Entity::new("pond").at([4.0, 0.0, 0.0]).zone(cube(2.0)).layers(["wet", "default"]);
    let scene = yard().entity(pond).reaction(wet).reaction(any);
    let mut play = Play::new(scene.build().unwrap());
    drive(&mut play, &[9.0]);
    play_until(&mut play, 2.0);
    assert_eq!((play.count("wet"), play.count("any")), (1, 2));
    let unknown = yard().reaction(Reaction::on(Trigger::enter("layer:wte"))).build().unwrap_err();
    assert!(unknown.to_string().contains("`wte`"), "{unknown}");
}

#[test]
fn a_reaction_may_wait_for_certain_subjects_only() {
    let dog = || Entity::new("dog").at([0.0, 0.0, 9.0]).body(ball(0.3));
    let of = |count: &str, trigger: Trigger| Reaction::on(trigger).then(Action::add(count, 1));
    let enter = |who: &str| Trigger::enter("pad").of_subject(who);
    let scene = yard()
        .kind(Kind::new("pet").layers(["low"]))
        .entity(dog().kind("pet").tags(["wet"]))
        .reaction(of("name", enter("dog")))
        .reaction(of("kind", enter("kind:pet")))
        .reaction(of("layer", enter("layer:low")))
        .reaction(of("tag", enter("tag:wet")))
        .reaction(of("any", enter("*")))
        .reaction(of("ball", enter("ball")))
        .reaction(Reaction::on(enter("ball")).or(enter("dog")).then(Action::add("both", 1)))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let visit = |play: &mut Play, who: &str| {
        for x in [0.0, 9.0] {
            play.place(who, [x, 0.0, 0.0]).unwrap();
            play.step();
        }
    };
    let all = ["name", "kind", "layer", "tag", "any", "ball", "both"];
    let counts = |play: &Play| all.map(|name| play.count(name));
    visit(&mut play, "dog");
    assert_eq!(counts(&play), [1, 1, 1, 1, 1, 0, 1]);
    visit(&mut play, "ball");
    assert_eq!(counts(&play), [1, 1, 1, 1, 2, 1, 2]);
    // What gets the tag while playing is one of them, too; and it is for good.
    play.act(Action::tag("ball", "wet")).unwrap();
    play.act(Action::untag("dog", "wet")).unwrap();
    visit(&mut play, "ball");
    visit(&mut play, "dog");
    assert_eq!(counts(&play), [2, 2, 2, 2, 4, 2, 4]);
}

#[test]
fn a_reaction_may_replace_another_for_certain_subjects_only() {
    let of = |count: &str, trigger: Trigger| Reaction::on(trigger).then(Action::add(count, 1));
    let scene = yard()
        .entity(Entity::new("dog").at([0.0, 0.0, 9.0]).body(ball(0.3)))
        .reaction(of("usual", Trigger::enter("pad")).named("usual"))
        .reaction(of("dogs", Trigger::enter("pad").of_subject("dog")).instead_of("usual"))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    for (who, counts) in [("dog", [0, 1]), ("ball", [1, 1]), ("dog", [1, 2])] {
        play.place(who, [0.0; 3]).unwrap();
        play.step();
        play.place(who, [9.0, 0.0, 0.0]).unwrap();
        play.step();
        assert_eq!(["usual", "dogs"].map(|name| play.count(name)), counts, "{who}");
    }
}

#[test]
fn a_handler_and_an_end_may_be_of_certain_subjects_only() {
    let ends = Trigger::enter("pad").of_subject("dog");
    let scene = yard()
        .entity(Entity::new("dog").at([0.0, 0.0, 9.0]).body(ball(0.3)))
        .reaction(Reaction::on(Trigger::Start).every(1.0).until(ends).then(Action::add("ticks", 1)))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.on(Trigger::enter("pad").of_subject("dog"), |_, act| act.add("heard", 1)).unwrap();
    let unknown = play.on(Trigger::enter("pad").of_subject("dig"), |_, _| {}).unwrap_err();
    assert!(matches!(unknown, Fault::Unknown { what: Named::Entity, .. }), "{unknown}");
    play_until(&mut play, 1.5);
    play.place("ball", [0.0; 3]).unwrap();
    play_until(&mut play, 2.5);
    assert_eq!((play.count("heard"), play.count("ticks")), (0, 3));
    play.place("dog", [0.0; 3]).unwrap();
    play_until(&mut play, 5.0);
    assert_eq!((play.count("heard"), play.count("ticks")), (1, 3));
}
