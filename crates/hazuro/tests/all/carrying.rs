//! Taking things in hand, throwing them, and what becomes of them.

use crate::support;

use std::collections::BTreeMap;

use hazuro::geometry::{Convex, Pose, Shape, distance};
use hazuro::glam::DVec3;
use hazuro::scene::{
    Action, Body, Carry, Entity, EventKind, Grant, Kind, Legs, Pickup, SceneBuilder, Stat, Touch,
    Trigger, Zone,
};
use hazuro::{Happening, Play, Refusal, Scene, Time};
use proptest::prelude::*;
use support::{at, events, play_until, words};

const SACK: Shape = Shape::Box { size: [0.5, 0.7, 0.4] };

fn person(name: &str, at: [f64; 3]) -> Entity {
    let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
    Entity::new(name).at(at).body(body.legs(Legs { jump: 1.0, ..Legs::default() }))
}

fn sack(name: &str, at: [f64; 3]) -> Entity {
    Entity::new(name).kind("sack").at(at)
}

fn yard() -> SceneBuilder {
    let kind = Kind::new("sack").body(Body::new(SACK)).carry(Carry::default());
    Scene::builder("Yard")
        .kind(kind)
        .entity(person("miller", [0.0, 0.0, 0.0]))
        .entity(sack("rye", [0.0, 0.35, -1.0]))
}

/// Why the last action was refused.
fn refused(play: &mut Play, action: impl Into<Action>) -> Option<Refusal> {
    play.act(action).unwrap();
    let entries = play.step();
    entries.iter().find_map(|entry| match &entry.what {
        Happening::Refused { why, .. } => Some(why.clone()),
        _ => None,
    })
}

#[test]
fn a_sack_is_held_in_front_and_goes_along_through_a_teleport_too() {
    let scene = yard().entity(Entity::new("cellar").at([20.0, 0.0, 5.0])).build().unwrap();
    let mut play = Play::new(scene);
    assert_eq!(refused(&mut play, Action::grab("rye", "miller")), None);
    let held = at(&play, "rye");
    assert!((held - DVec3::new(0.0, 0.9, -0.55)).length() < 1e-9, "{held}");
    assert_eq!(refused(&mut play, Action::teleport("miller", "cellar")), None);
    assert!((at(&play, "rye") - DVec3::new(20.0, 0.9, 4.45)).length() < 1e-9);
    play.act(Action::drop("miller")).unwrap();
    let entries = play_until(&mut play, 3.0);
    assert_eq!(words(&play, &entries), ["drop rye miller", "settle rye miller"]);
    let lies = at(&play, "rye");
    assert!((lies.y - 0.35).abs() < 1e-3, "{lies}");
    // It falls as long as it takes.
    let fall = events(&entries)[1].time.secs() - events(&entries)[0].time.secs();
    assert!(fall > (2.0 * 0.55 / 9.81_f64).sqrt() - 1e-3, "{fall}");
}

#[test]
fn hands_are_taken_strength_is_lacking_and_what_is_held_is_not_for_others() {
    let scene = yard()
        .entity(person("apprentice", [3.0, 0.0, 0.0]))
        .entity(
            person("child", [-3.0, 0.0, 0.0])
                .stat("strength", Stat { start: 0.5, ..Stat::default() }),
        )
        .entity(sack("oats", [1.5, 0.35, -1.0]))
        .entity(sack("hat", [1.5, 0.35, 4.0]).carry(Carry { snatch: true, ..Carry::default() }))
        .entity(Entity::new("post").at([9.0, 1.0, 0.0]).solid(Shape::Box { size: [0.2; 3] }))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    assert_eq!(refused(&mut play, Action::drop("miller")), Some(Refusal::NotHeld));
    assert!(matches!(refused(&mut play, Action::grab("post", "miller")), Some(Refusal::Lacks(_))));
    let heavy = Refusal::TooHeavy { mass: 1.0, strength: 0.5 };
    assert_eq!(refused(&mut play, Action::grab("rye", "child")), Some(heavy));
    assert_eq!(refused(&mut play, Action::grab("rye", "miller")), None);
    assert_eq!(refused(&mut play, Action::grab("rye", "miller")), Some(Refusal::HasAlready));
    let [rye, miller] = ["rye", "miller"].map(|name| play.scene().find(name).unwrap());
    let full = Some(Refusal::HandsFull(rye));
    assert_eq!(refused(&mut play, Action::grab("oats", "miller")), full);
    let other = refused(&mut play, Action::grab("rye", "apprentice"));
    assert_eq!(other, Some(Refusal::InOtherHands(miller)));
    assert_eq!(refused(&mut play, Action::grab("hat", "apprentice")), None);
    play.act(Action::drop("miller")).unwrap();
    play.act(Action::grab("hat", "miller")).unwrap();
    let entries = play.step().to_vec();
    let told = words(&play, &entries);
    assert_eq!(told, ["drop rye miller", "drop hat apprentice", "grab hat miller"]);
}

#[test]
fn whoever_becomes_a_child_of_what_is_off_lets_go_and_nobody_becomes_one_of_what_is_gone() {
    let scene = yard().entity(Entity::new("cart").at([3.0, 0.0, 0.0])).build().unwrap();
    let mut play = Play::new(scene);
    assert_eq!(refused(&mut play, Action::grab("rye", "miller")), None);
    play.act(Action::Remove("cart".into())).unwrap();
    assert_eq!(refused(&mut play, Action::attach("miller", "cart")), Some(Refusal::Gone));
    assert_eq!(play.in_hands("miller").unwrap(), [play.scene().find("rye").unwrap()]);
    play.act(Action::Reset("cart".into())).unwrap();
    play.act(Action::disable("cart")).unwrap();
    assert_eq!(refused(&mut play, Action::attach("miller", "cart")), None);
    assert_eq!(play.in_hands("miller").unwrap(), []);
    play.state().assert_consistent(play.scene());
}

#[test]
fn whoever_is_in_the_way_of_others_is_not_in_the_way_of_what_they_take() {
    let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0).blocks(true);
    let scene = yard().entity(Entity::new("porter").at([0.0, 0.0, -3.0]).body(body));
    let mut play = Play::new(scene.build().unwrap());
    assert_eq!(refused(&mut play, Action::grab("rye", "porter")), None);
    assert!((at(&play, "rye") - DVec3::new(0.0, 0.9, -3.55)).length() < 1e-9);
    assert_eq!(refused(&mut play, Action::throw("porter", [0.0, 2.0, -2.0])), None);
    let entries = play_until(&mut play, 3.0);
    assert_eq!(words(&play, &entries), ["settle rye porter"]);
    assert!(at(&play, "rye").z < -4.0);
}

#[test]
fn what_is_held_touches_nothing_of_its_holder() {
    let scene = yard()
        .entity(
            Entity::new("apron")
                .parent("miller")
                .at([0.0, 0.9, -0.4])
                .zone(Zone::new(Shape::Sphere { radius: 0.5 })),
        )
        .entity(
            Entity::new("pad").at([0.0, 1.0, -6.0]).zone(Zone::new(Shape::Box { size: [2.0; 3] })),
        )
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.act(Action::grab("rye", "miller")).unwrap();
    let miller = play.scene().find("miller").unwrap();
    let walk = hazuro::Input::Walk { who: miller, to: [0.0, 0.0, -6.0].into() };
    play.schedule(Time::from_secs(0.1), walk).unwrap();
    let told = {
        let entries = play_until(&mut play, 4.0);
        words(&play, &entries)
    };
    assert_eq!(told[0], "grab rye miller");
    assert!(!told.iter().any(|line| line.contains("apron")), "{told:?}");
    assert_eq!(told[1..], ["enter pad rye move", "enter pad miller move"]);
}

#[test]
fn boxes_stay_stacked_and_fall_when_the_lowest_is_taken_away() {
    let mut scene = yard();
    for (level, name) in ["low", "middle", "high"].into_iter().enumerate() {
        scene = scene.entity(sack(name, [3.0, 0.35 + 0.7 * level as f64, 0.0]));
    }
    let mut play = Play::new(scene.build().unwrap());
    play.advance(Time::from_secs(5.0));
    for (name, height) in [("low", 0.35), ("middle", 1.05), ("high", 1.75)] {
        assert!((at(&play, name) - DVec3::new(3.0, height, 0.0)).length() < 1e-3, "{name}");
    }
    play.act(Action::Remove("low".into())).unwrap();
    let entries = play_until(&mut play, 8.0);
    // The upper one never leaves what it lies on.
    assert_eq!(words(&play, &entries), ["settle middle -"]);
    assert!((at(&play, "high").y - 1.05).abs() < 1e-3, "{}", at(&play, "high"));
}

#[test]
fn a_bounce_keeps_its_share_of_the_height_and_friction_stops_what_slides() {
    let scene = yard()
        .entity(
            Entity::new("ball")
                .at([5.0, 2.1, 0.0])
                .body(Body::new(Shape::Sphere { radius: 0.1 }))
                .carry(Carry { bounce: 0.5, friction: 0.0, ..Carry::default() }),
        )
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let (mut top, mut fallen) = (0.0_f64, false);
    for _ in 0..1200 {
        play.advance(play.now() + Time::from_nanos(1_000_000));
        fallen |= at(&play, "ball").y < 0.102;
        if fallen {
            top = top.max(at(&play, "ball").y - 0.1);
        }
    }
    assert!((top - 0.5).abs() < 2e-3, "a quarter of 2 m: {top}");
    play.act(Action::grab("rye", "miller")).unwrap();
    play.act(Action::throw("miller", [3.0, 0.0, 0.0]).spin(2.0)).unwrap();
    play.advance(Time::from_secs(6.0));
    let rest = at(&play, "rye");
    play.advance(Time::from_secs(9.0));
    assert_eq!(rest, at(&play, "rye"), "it has come to rest");
    assert!(rest.x > 0.8 && (rest.y - 0.35).abs() < 1e-3, "{rest}");
}

#[test]
fn what_falls_long_spins_or_slides_far_keeps_its_speed() {
    let sphere = || Body::new(Shape::Sphere { radius: 0.1 });
    let slow = Carry { friction: 0.1, bounce: 0.0, ..Carry::default() };
    let scene = yard()
        .gravity(10.0)
        .entity(Entity::new("stone").at([5.0, 1000.0, 0.0]).body(sphere()).carry(slow))
        .entity(person("diver", [9.0, 1000.0, 0.0]))
        .entity(Entity::new("puck").at([0.0, 0.1, -2.0]).body(sphere()).carry(slow))
        .entity(person("apprentice", [0.0, 0.0, -3.0]));
    let mut play = Play::new(scene.build().unwrap());
    play.advance(Time::from_secs(12.0));
    for name in ["stone", "diver"] {
        assert!((at(&play, name).y - 280.0).abs() < 1e-2, "{name} at {}", at(&play, name));
    }
    play.act(Action::grab("puck", "apprentice")).unwrap();
    play.step();
    let hand = at(&play, "puck");
    play.act(Action::throw("puck", [4.0, 0.0, 0.0]).spin(9.0)).unwrap();
    play.advance(play.now() + Time::from_secs(20.0));
    // 4 m/s along all through the fall, of which the landing takes a tenth of its own speed.
    let fall = (2.0 * (hand.y - 0.1) / 10.0).sqrt();
    let left = 4.0 - 0.1 * 10.0 * fall;
    let expected = hand.x + 4.0 * fall + left * left / (2.0 * 0.1 * 10.0);
    assert!((at(&play, "puck").x - expected).abs() < 2e-2, "{} {expected}", at(&play, "puck"));
}

#[test]
fn a_hundred_become_carriable_by_one_line_and_go_home_by_another() {
    let mut scene = yard().entity(Entity::new("tide").at([0.0, 5.0, 0.0]));
    for number in 0..100 {
        scene = scene.entity(sack(
            &format!("sack{number}"),
            [f64::from(number % 10) * 2.0 + 5.0, 0.35, f64::from(number / 10) * 2.0 + 5.0],
        ));
    }
    let mut play = Play::new(scene.build().unwrap());
    play.advance(Time::from_secs(0.5));
    play.act(Action::grab("sack7", "miller")).unwrap();
    play.step();
    play.act(Action::move_by("kind:sack", [0.0, 3.0, 0.0])).unwrap();
    play.advance(Time::from_secs(3.0));
    play.act(Action::Reset("kind:sack".into())).unwrap();
    play.advance(Time::from_secs(4.0));
    for number in 0..100 {
        let name = format!("sack{number}");
        let home = play.scene().pose(play.scene().find(&name).unwrap());
        assert!(play.pose(name.as_str()).unwrap().position.distance(home.position) < 1e-3);
    }
}

#[test]
fn a_pickup_puts_a_thing_in_the_hands_of_who_collects_it_if_they_are_free() {
    let rack = Entity::new("rack")
        .at([0.0, 0.5, 5.0])
        .zone(Zone::new(Shape::Sphere { radius: 1.0 }))
        .pickup(Pickup { grant: Grant::default().hands("sickle"), ..Pickup::default() });
    let sickle = Entity::new("sickle")
        .at([0.0, 0.1, 7.0])
        .body(Body::new(Shape::Box { size: [0.2; 3] }))
        .carry(Carry::default());
    let mut play = Play::new(yard().entity(rack).entity(sickle).build().unwrap());
    play.act(Action::grab("rye", "miller")).unwrap();
    play.act(Action::teleport("miller", "rack")).unwrap();
    let entries = play_until(&mut play, 1.0);
    let told = words(&play, &entries);
    assert!(!told.iter().any(|line| line.starts_with("collect")), "left lying: {told:?}");
    play.act(Action::drop("miller")).unwrap();
    let entries = play_until(&mut play, 1.1);
    let told = words(&play, &entries);
    assert_eq!(told[..3], ["drop rye miller", "grab sickle miller", "collect rack miller"]);
    let full = Refusal::HandsFull(play.scene().find("sickle").unwrap());
    assert_eq!(refused(&mut play, Action::grab("rye", "miller")), Some(full));
}

#[test]
fn a_sack_in_the_chute_is_counted_with_its_thrower() {
    let scene = yard()
        .entity(
            Entity::new("chute")
                .at([0.0, 0.5, -5.0])
                .solid(Shape::Box { size: [2.0, 0.2, 2.0] })
                .touch(Touch::default()),
        )
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.on(Trigger::settle("kind:sack"), |event, act| {
        assert_eq!(act.scene().name(event.who.unwrap()), "miller");
        act.add("settled", 1);
    })
    .unwrap();
    play.act(Action::grab("rye", "miller")).unwrap();
    play.act(Action::throw("rye", [0.0, 3.0, -5.0])).unwrap();
    let entries = play_until(&mut play, 5.0);
    assert!(words(&play, &entries).contains(&"touch chute rye move".to_owned()));
    assert_eq!(play.count("settled"), 1);
    assert_eq!(events(&entries).iter().filter(|it| it.kind == EventKind::Settle).count(), 1);
}

/// The walls, floor and ceiling of a room of 6 x 4 x 6 m, 20 cm thick.
fn room(mut scene: SceneBuilder) -> SceneBuilder {
    let walls = [
        ("floor", [0.0, -0.1, 0.0], [6.0, 0.2, 6.0]),
        ("ceiling", [0.0, 4.1, 0.0], [6.0, 0.2, 6.0]),
        ("west", [-3.1, 2.0, 0.0], [0.2, 4.4, 6.4]),
        ("east", [3.1, 2.0, 0.0], [0.2, 4.4, 6.4]),
        ("north", [0.0, 2.0, -3.1], [6.4, 4.4, 0.2]),
        ("south", [0.0, 2.0, 3.1], [6.4, 4.4, 0.2]),
    ];
    for (name, at, size) in walls {
        scene = scene.entity(Entity::new(name).at(at).solid(Shape::Box { size }));
    }
    scene
}

proptest! {
    #[test]
    fn a_thrown_sack_stays_in_a_closed_room(
        stands in [-2.6..2.6_f64, -2.6..2.6],
        turn in -3.0..3.0_f64,
        velocity in [-12.0..12.0_f64, -5.0..12.0, -15.0..5.0],
        (bounce, friction, spin) in (0.0..1.0_f64, 0.0..1.0_f64, -8.0..8.0_f64),
        post in [-2.0..2.0_f64, 0.2..2.0, -2.0..2.0],
    ) {
        let carry = Carry { bounce, friction, ..Carry::default() };
        let mut scene = room(Scene::builder("Store"))
            .entity(
                person("miller", [0.0; 3]).at(Pose::from([stands[0], 0.0, stands[1]]).turned(turn)),
            )
            .entity(Entity::new("rye").at([0.0, 0.4, 0.0]).body(Body::new(SACK)).carry(carry));
        let near = (post[0] - stands[0]).hypot(post[2] - stands[1]) < 0.8;
        if !near && post[0].hypot(post[2]) > 0.8 {
            let block = Shape::Box { size: [0.4, 1.0, 0.4] };
            scene = scene.entity(Entity::new("post").at(post).solid(block));
        }
        let mut play = Play::new(scene.build().unwrap());
        play.act(Action::grab("rye", "miller")).unwrap();
        play.step();
        play.act(Action::throw("rye", velocity).spin(spin)).unwrap();
        let sack = Convex::new(&SACK).unwrap();
        for _ in 0..300 {
            play.advance(play.now() + Time::from_secs(0.02));
            let pose = play.pose("rye").unwrap();
            for wall in ["floor", "ceiling", "west", "east", "north", "south"] {
                let solid = play.scene().find(wall).unwrap();
                let shape = Convex::new(play.scene().entity(solid).own_solid().unwrap()).unwrap();
                let gap = distance(&shape, &play.scene().pose(solid), &sack, &pose).gap;
                let held = play.pose("miller").unwrap().position.distance(pose.position) < 1.2;
                prop_assert!(gap > -1.1e-3 || held, "{gap} in {wall} at {:?}", play.now());
            }
            prop_assert!(pose.position.abs().cmple(DVec3::new(3.0, 4.0, 3.0)).all(), "{pose:?}");
        }
    }

    #[test]
    fn nobody_holds_what_is_not_there(
        deeds in prop::collection::vec((0..7_u32, 0..3_usize, 0..3_usize), 1..30),
    ) {
        let people = ["miller", "apprentice", "child"];
        let sacks = ["rye", "oats", "bran"];
        let scene = yard()
            .entity(person("apprentice", [3.0, 0.0, 0.0]))
            .entity(person("child", [-3.0, 0.0, 0.0]))
            .entity(sack("oats", [3.0, 0.35, -1.0]))
            .entity(sack("bran", [-3.0, 0.35, -1.0]).carry(Carry { snatch: true, ..Carry::default() }))
            .entity(Entity::new("cellar").at([9.0, 0.0, 9.0]))
            .build()
            .unwrap();
        let mut play = Play::new(scene);
        let mut held = BTreeMap::new();
        for (deed, who, what) in deeds {
            let (who, what) = (people[who], sacks[what]);
            let action: Action = match deed {
                0 | 1 => Action::grab(what, who),
                2 => Action::drop(who),
                3 => Action::throw(what, [1.0, 3.0, -4.0]).into(),
                4 => Action::teleport(what, "cellar").into(),
                5 => Action::Remove(if who == "child" { who.into() } else { what.into() }),
                _ => Action::teleport(who, "cellar").into(),
            };
            play.act(action).unwrap();
            play.advance(play.now() + Time::from_secs(0.13));
            // What the log tells of hands is how things stand, always in pairs.
            for event in events(play.entries()) {
                let name = |id: Option<hazuro::EntityId>| play.scene().name(id.unwrap()).to_owned();
                match event.kind {
                    EventKind::Grab => {
                        let before = held.insert(name(event.on), name(event.who));
                        prop_assert_eq!(before, None);
                    }
                    EventKind::Drop => {
                        prop_assert_eq!(held.remove(&name(event.on)), Some(name(event.who)));
                    }
                    _ => {}
                }
            }
            for (what, who) in &held {
                let apart = at(&play, what).distance(at(&play, who));
                prop_assert!(apart < 1.5, "{what} is {apart} m from {who}");
            }
        }
    }
}
