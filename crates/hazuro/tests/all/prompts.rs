//! Prompts: what is offered to whom, in pairs and without flicker, and what using it takes.

use crate::support;

use std::collections::BTreeSet;

use hazuro::geometry::Shape;
use hazuro::scene::{
    Action, Admit, Body, Condition, Entity, EventKind, Facts, Limits, Needs, Prompt, Reaction,
    Trigger,
};
use hazuro::{EntityId, Input, Play, Scene, Time};
use proptest::prelude::*;
use support::{events, play_until, story, words};

fn person(name: &str, x: f64) -> Entity {
    let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
    Entity::new(name).player(true).at([x, 0.0, 0.0]).body(body)
}

fn lever(prompt: Prompt) -> Entity {
    Entity::new("lever").at([0.0, 1.0, 0.0]).prompt(prompt)
}

fn yard(prompt: Prompt) -> hazuro::scene::SceneBuilder {
    Scene::builder("Yard").entity(person("miller", 9.0)).entity(lever(prompt))
}

fn start(scene: hazuro::scene::SceneBuilder) -> Play {
    Play::new(scene.build().unwrap())
}

fn told(play: &mut Play, seconds: f64) -> Vec<String> {
    let until = play.now().secs() + seconds;
    let entries = play_until(play, until);
    words(play, &entries)
}

fn place(play: &mut Play, x: f64) {
    play.place("miller", [x, 0.0, 0.0]).unwrap();
}

fn key(play: &mut Play, press: bool) {
    let (who, key) = (play.scene().find("miller").unwrap(), "KeyE".to_owned());
    let input = if press { Input::Press { who, key } } else { Input::Release { who, key } };
    play.schedule(play.now(), input).unwrap();
}

#[test]
fn an_offer_is_made_within_reach_and_withdrawn_farther_out() {
    let mut play = start(yard(Prompt { reach: 1.0, margin: 0.5, ..Prompt::default() }));
    // The body's surface is 0.3 m nearer.
    let mut seen = Vec::new();
    for (x, offers) in [(1.35, 0), (1.25, 1), (1.35, 1), (1.75, 1), (1.85, 0), (1.35, 0)] {
        place(&mut play, x);
        seen.extend(told(&mut play, 0.1));
        assert_eq!(play.offers("miller").unwrap().len(), offers, "at {x}");
    }
    assert_eq!(seen, ["offer lever miller teleport", "withdraw lever miller teleport"]);
    // Whoever is no player is offered nothing, however near.
    let dog = Entity::new("dog").body(support::ball(0.3));
    let mut play = start(yard(Prompt::default()).entity(dog));
    assert_eq!(told(&mut play, 0.5), [""; 0]);
}

#[test]
fn a_key_is_pressed_or_held_or_let_go_of_too_early() {
    let mut play = start(yard(Prompt { hold: 0.5, ..Prompt::default() }));
    key(&mut play, true);
    assert_eq!(told(&mut play, 0.5), [""; 0], "nothing is offered yet");
    place(&mut play, 1.0);
    told(&mut play, 0.5);
    key(&mut play, true);
    assert_eq!(told(&mut play, 0.2), ["hold lever miller"]);
    let offer = play.offers("miller").unwrap()[0];
    assert!((offer.progress - 0.4).abs() < 1e-9);
    key(&mut play, false);
    assert_eq!(told(&mut play, 1.0), ["cancel lever miller"]);
    key(&mut play, true);
    let entries = play_until(&mut play, 4.0);
    let story = story(&play, &entries);
    assert_eq!(story[0].0, "hold lever miller");
    assert_eq!(story[1], ("accept lever miller".into(), story[0].1 + 0.5));
    // Gone before the time is over.
    key(&mut play, true);
    told(&mut play, 0.2);
    place(&mut play, 9.0);
    assert_eq!(told(&mut play, 1.0), ["cancel lever miller", "withdraw lever miller teleport"]);
}

#[test]
fn what_is_needed_is_named_when_it_is_lacking() {
    let needs = Needs {
        counts: [("tokens".into(), 2)].into(),
        tags: vec!["strong".into()],
        ..Needs::default()
    };
    let scene = |tags: &[&str]| {
        let miller = person("miller", 1.0).tags(tags.iter().copied());
        let other = Entity::new("millstone").tags(["strong"]);
        let lever = lever(Prompt { needs: needs.clone(), ..Prompt::default() });
        Scene::builder("Yard").entity(miller).entity(lever).entity(other)
    };
    let need = |play: &mut Play| {
        told(play, 0.1);
        key(play, true);
        let until = play.now().secs() + 0.1;
        let event = events(&play_until(play, until)).pop().unwrap();
        (event.kind, event.need)
    };
    assert_eq!(need(&mut start(scene(&[]))), (EventKind::Refused, Some("strong".into())));
    let mut play = start(scene(&["strong"]));
    assert_eq!(need(&mut play), (EventKind::Refused, Some("tokens".into())));
    play.act(Action::set("tokens", 2)).unwrap();
    assert_eq!(need(&mut play), (EventKind::Accept, None));
}

#[test]
fn angle_and_sight_decide_too() {
    let ahead = Prompt { angle: 90_f64.to_radians(), ..Prompt::default() };
    let mut play = start(yard(ahead));
    place(&mut play, 1.5);
    assert_eq!(told(&mut play, 0.1), [""; 0], "the lever is to the left");
    let (who, to) = (play.scene().find("miller").unwrap(), [0.0; 3].into());
    play.schedule(play.now(), Input::Face { who, to }).unwrap();
    assert_eq!(told(&mut play, 0.1), ["offer lever miller move"]);

    let wall =
        |y: f64| Entity::new("wall").at([0.7, y, 0.0]).solid(Shape::Box { size: [0.01, 2.0, 4.0] });
    for (y, offered) in [(1.0, 0), (4.0, 1)] {
        let mut play = start(yard(Prompt { sight: true, ..Prompt::default() }).entity(wall(y)));
        place(&mut play, 1.5);
        assert_eq!(told(&mut play, 0.1).len(), offered);
    }
}

#[test]
fn rivals_compete_by_priority_and_distance_and_do_not_flicker() {
    let prompt = |priority, several| Prompt { priority, several, ..Prompt::default() };
    let at = |name: &str, x: f64, prompt| Entity::new(name).at([x, 1.0, 0.0]).prompt(prompt);
    let scene = |left, right| {
        let scene = Scene::builder("Yard").entity(person("miller", 0.0));
        scene.entity(at("left", -1.0, left)).entity(at("right", 1.0, right))
    };
    // As good as each other: the first in the scene, and it stays so.
    let mut play = start(scene(prompt(0, false), prompt(0, false)));
    assert_eq!(told(&mut play, 0.1), ["offer left miller appear"]);
    place(&mut play, 0.1);
    assert_eq!(told(&mut play, 0.1), [""; 0]);
    place(&mut play, 0.4);
    let change = ["withdraw left miller teleport", "offer right miller teleport"];
    assert_eq!(told(&mut play, 0.1), change);
    let mut play = start(scene(prompt(0, false), prompt(1, false)));
    assert_eq!(told(&mut play, 0.1), ["offer right miller appear"]);
    let mut play = start(scene(prompt(0, true), prompt(1, false)));
    assert_eq!(told(&mut play, 0.1).len(), 2, "one of them does not mind");
    key(&mut play, true);
    assert_eq!(told(&mut play, 0.1), ["accept right miller"], "the one of higher priority");
}

#[test]
fn what_makes_no_offers_is_used_all_the_same() {
    let quiet = Prompt { quiet: true, ..Prompt::default() };
    let mut play = start(yard(quiet));
    key(&mut play, true);
    assert_eq!(told(&mut play, 0.1), [""; 0], "too far");
    place(&mut play, 1.0);
    key(&mut play, true);
    assert_eq!(told(&mut play, 0.1), ["interact lever miller"]);
    assert!(play.offers("miller").unwrap().is_empty());
    let (who, with) = (play.scene().find("miller").unwrap(), play.scene().find("lever").unwrap());
    play.schedule(play.now(), Input::Interact { who, with }).unwrap();
    assert_eq!(told(&mut play, 0.1), ["interact lever miller"]);
}

#[test]
fn cooldown_limit_switch_and_condition_end_an_offer_and_give_it_back() {
    let limits = Limits { cooldown: 1.0, limit: Some(2), ..Limits::default() };
    let lever = || lever(Prompt::default()).limits(limits);
    let scene = || Scene::builder("Yard").entity(person("miller", 1.0));
    let mut play = start(scene().entity(lever()));
    told(&mut play, 0.25);
    key(&mut play, true);
    let entries = play_until(&mut play, 3.0);
    let used = story(&play, &entries);
    assert_eq!(used[0], ("accept lever miller".into(), 0.25));
    assert_eq!(used[1], ("withdraw lever miller admit".into(), 0.25));
    assert_eq!(used[2], ("offer lever miller move".into(), 1.25));
    key(&mut play, true);
    let used_up = ["accept lever miller", "withdraw lever miller admit"];
    assert_eq!(told(&mut play, 5.0), used_up);

    let open = Condition::new("open", |facts| facts.count("open") > 0);
    let only = Admit::default().when(open);
    let mut play = start(scene().entity(lever().admit(only)));
    assert_eq!(told(&mut play, 0.1), [""; 0]);
    play.act(Action::set("open", 1)).unwrap();
    assert_eq!(told(&mut play, 0.1), ["offer lever miller admit"]);
    play.act(Action::disable("lever")).unwrap();
    assert_eq!(told(&mut play, 0.1), ["withdraw lever miller disable"]);
    play.act(Action::enable("lever")).unwrap();
    assert_eq!(told(&mut play, 0.1), ["offer lever miller enable"]);
    play.remove("lever").unwrap();
    assert_eq!(told(&mut play, 0.1), ["withdraw lever miller remove"]);
}

#[test]
fn the_nearest_marked_ancestor_is_highlighted() {
    let scene = Scene::builder("Yard")
        .entity(person("miller", 1.0))
        .entity(Entity::new("mill").highlight(true))
        .entity(Entity::new("frame").parent("mill").highlight(true))
        .entity(Entity::new("hinge").parent("frame"))
        .entity(Entity::new("lever").parent("hinge").at([0.0, 1.0, 0.0]).prompt(Prompt {
            caption: "Pull".into(),
            detail: "It is heavy.".into(),
            ..Prompt::default()
        }))
        .reaction(Reaction::on(Trigger::accept("lever")).then(Action::hide("frame")));
    let mut play = start(scene);
    told(&mut play, 0.1);
    let offer = play.offers("miller").unwrap()[0];
    assert_eq!(play.scene().name(offer.highlight), "frame");
    assert_eq!((offer.caption, offer.detail), ("Pull", "It is heavy."));
}

#[test]
fn what_is_highlighted_begins_and_ends_once_whatever_is_offered() {
    let lever = |name: &str, x: f64| {
        let prompt = Prompt { several: true, reach: 1.0, ..Prompt::default() };
        Entity::new(name).parent("frame").at([x, 1.0, 0.0]).prompt(prompt)
    };
    let scene = Scene::builder("Yard")
        .entity(person("miller", -4.0))
        .entity(Entity::new("frame").highlight(true))
        .entity(Entity::new("other").at([2.0, 0.0, 0.0]).highlight(true))
        .entity(lever("one", 0.0))
        .entity(lever("two", 0.5));
    let mut play = start(scene);
    let mut lit: BTreeSet<EntityId> = BTreeSet::new();
    let mut begun = Vec::new();
    for x in [0.3, 1.7, -4.0, 0.2] {
        let until = play.now() + Time::from_secs(1.0);
        let who = play.scene().find("miller").unwrap();
        let input = Input::Drive { who, to: [x, 0.0, 0.0].into(), until };
        play.schedule(play.now(), input).unwrap();
        for event in events(play.advance(until)) {
            let Some(highlight) = event.highlight else { continue };
            match event.kind {
                EventKind::Offer => {
                    assert!(lit.insert(highlight));
                    begun.push(play.scene().name(highlight).to_owned());
                }
                _ => assert!(lit.remove(&highlight)),
            }
        }
        let said: Vec<EntityId> = play.facts().highlighted(who);
        assert_eq!(said, lit.iter().copied().collect::<Vec<_>>());
        // What is offered keeps what it highlights, whatever becomes of its parents.
        play.act(Action::attach("two", "other")).unwrap();
    }
    play.act(Action::disable("frame")).unwrap();
    play.act(Action::disable("other")).unwrap();
    for event in events(play.advance(play.now() + Time::from_secs(0.1))) {
        lit.remove(&event.highlight.unwrap());
    }
    assert_eq!(
        (lit.len(), play.facts().highlighted(play.scene().find("miller").unwrap())),
        (0, vec![])
    );
    assert_eq!(begun, ["frame", "frame", "other"]);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(100))]

    /// However two players walk among five prompts in one place, offers come in pairs, at most one
    /// of the rivals is offered to each, and the list of offers says the same as the events.
    #[test]
    fn offers_come_in_pairs_on_any_walk(
        walks in prop::collection::vec((0..2_usize, -3.0..3.0_f64, -3.0..3.0_f64, 0.05..0.8_f64), 1..200),
    ) {
        let mut scene = Scene::builder("Yard").entity(person("one", 3.0)).entity(person("two", -3.0));
        for index in 0..5 {
            let prompt = Prompt {
                priority: index % 2,
                several: index == 4,
                hold: f64::from(index) * 0.1,
                angle: if index == 2 { 2.0 } else { 7.0_f64.min(std::f64::consts::TAU) },
                ..Prompt::default()
            };
            scene = scene.entity(Entity::new(format!("lever{index}")).at([0.0, 1.0, 0.1 * f64::from(index)]).prompt(prompt));
        }
        let mut play = Play::new(scene.build().unwrap());
        let mut offered: BTreeSet<(EntityId, EntityId)> = BTreeSet::new();
        let mut holding: BTreeSet<EntityId> = BTreeSet::new();
        for (number, (who, x, z, over)) in walks.into_iter().enumerate() {
            let name = ["one", "two"][who];
            let who = play.scene().find(name).unwrap();
            let until = play.now() + Time::from_secs(over);
            play.schedule(play.now(), Input::Drive { who, to: [x, 0.0, z].into(), until }).unwrap();
            if number % 3 == 0 {
                play.schedule(play.now(), Input::Press { who, key: "KeyE".into() }).unwrap();
            }
            for event in events(play.advance(until)) {
                let (Some(on), Some(who)) = (event.on, event.who) else { continue };
                match event.kind {
                    EventKind::Offer => prop_assert!(offered.insert((who, on))),
                    EventKind::Withdraw => prop_assert!(offered.remove(&(who, on))),
                    EventKind::Hold => {
                        prop_assert!(offered.contains(&(who, on)));
                        holding.insert(who);
                    }
                    EventKind::Cancel => prop_assert!(holding.remove(&who)),
                    EventKind::Accept => {
                        prop_assert!(offered.contains(&(who, on)));
                        holding.remove(&who);
                    }
                    _ => {}
                }
            }
            for name in ["one", "two"] {
                let who = play.scene().find(name).unwrap();
                let listed: Vec<_> = play.offers(name).unwrap().iter().map(|offer| offer.prompt).collect();
                let known: Vec<_> = offered.iter().filter(|(of, _)| *of == who).map(|(_, on)| *on).collect();
                prop_assert_eq!(&listed, &known);
                let rivals = known.iter().filter(|on| play.scene().name(**on) != "lever4").count();
                prop_assert!(rivals <= 1);
            }
        }
    }
}
