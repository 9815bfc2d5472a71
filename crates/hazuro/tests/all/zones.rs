//! Zones: nothing missed, one body one event, always in pairs.

use crate::support;

use std::collections::{BTreeMap, BTreeSet};

use hazuro::geometry::{Convex, Pose, Posed, Shape, distance};
use hazuro::glam::DVec3;
use hazuro::scene::{Action, Admit, Body, Entity, EventKind, Part, Reaction, Trigger, Zone};
use hazuro::{Input, Play, Scene, Time};
use proptest::prelude::*;
use support::{any_pose, any_shape, ball, cube, events, play_until, story, words, yard};

#[test]
fn a_bullet_through_a_thin_zone_is_seen_to_the_microsecond() {
    let scene = Scene::builder("Range")
        .rate(10)
        .entity(Entity::new("ball").at([-20.0, 0.0, 0.0]).body(ball(0.05)))
        .entity(Entity::new("sheet").zone(Zone::new(Shape::Box { size: [0.01, 2.0, 2.0] })))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.drive("ball", [70.0, 0.0, 0.0]).unwrap();
    let entries = play_until(&mut play, 0.2);
    let told = story(&play, &entries);
    assert_eq!(told.len(), 2, "{told:?}");
    for ((words, time), (expected, place)) in
        told.iter().zip([("enter sheet ball move", -0.055), ("exit sheet ball move", 0.055)])
    {
        assert_eq!(words, expected);
        let analytic = (place + 20.0) / 900.0;
        assert!((time - analytic).abs() < 1e-6, "{words} at {time}, not {analytic}");
    }
}

#[test]
fn the_cause_says_why() {
    let mut play = Play::new(yard().build().unwrap());
    play.place("ball", [0.0, 0.0, 0.0]).unwrap();
    let mut told = words(&play, play.entries());
    for act in [
        None,
        Some(Action::disable("pad")),
        Some(Action::enable("pad")),
        Some(Action::disable("ball")),
        Some(Action::toggle("ball")),
    ] {
        if let Some(action) = act {
            play.act(action).unwrap();
        }
        let entries = play.step().to_vec();
        told.extend(words(&play, &entries));
    }
    play.drive("ball", [5.0, 0.0, 0.0]).unwrap();
    let entries = play.step().to_vec();
    told.extend(words(&play, &entries));
    play.place("ball", [0.0, 0.0, 0.0]).unwrap();
    let entries = play.step().to_vec();
    told.extend(words(&play, &entries));
    play.remove("ball").unwrap();
    let entries = play.step().to_vec();
    told.extend(words(&play, &entries));
    let expected = [
        "enter pad ball teleport",
        "exit pad ball disable",
        "enter pad ball enable",
        "exit pad ball disable",
        "enter pad ball enable",
        "exit pad ball move",
        "enter pad ball teleport",
        "exit pad ball remove",
    ];
    assert_eq!(told, expected);
}

#[test]
fn who_starts_inside_enters_at_time_zero() {
    let scene = yard().entity(Entity::new("boat").body(ball(0.2))).build().unwrap();
    let mut play = Play::new(scene);
    let entries = play.step().to_vec();
    assert_eq!(story(&play, &entries), [("enter pad boat appear".to_owned(), 0.0)]);
    assert_eq!(events(&entries)[0].kind, EventKind::Start);
}

#[test]
fn a_body_of_fifteen_parts_enters_once() {
    let parts = (0..15).map(|i| {
        let at = [f64::from(i) * 0.3 - 2.1, 0.0, 0.0];
        Part::new(format!("part{i}"), Shape::Sphere { radius: 0.1 }).at(at)
    });
    let scene = Scene::builder("Yard")
        .entity(Entity::new("eel").at([-9.0, 0.0, 0.0]).body(Body::of_parts(parts)))
        .entity(Entity::new("pad").zone(cube(0.9)))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let eel = play.scene().find("eel").unwrap();
    let there = Time::from_secs(18.0);
    play.schedule(Time::ZERO, Input::Drive { who: eel, to: [9.0, 0.0, 0.0].into(), until: there })
        .unwrap();
    let mut entries = play_until(&mut play, 9.0);
    assert_eq!(play.parts_inside("pad", "eel").unwrap(), ["part6", "part7", "part8"]);
    entries.extend(play_until(&mut play, 20.0));
    let seen = events(&entries);
    assert_eq!(words(&play, &entries), ["enter pad eel move", "exit pad eel move"]);
    // The foremost part comes in first, the last one leaves last.
    assert_eq!((seen[1].part, seen[2].part), (Some(14), Some(0)));
}

#[test]
fn a_zone_ignores_who_carries_it() {
    let scene = Scene::builder("Yard")
        .entity(Entity::new("cart").body(ball(0.5)))
        .entity(Entity::new("lamp").parent("cart").zone(cube(4.0)))
        .entity(Entity::new("sack").parent("lamp").body(ball(0.2)))
        .entity(Entity::new("dog").at([9.0, 0.0, 0.0]).body(ball(0.2)))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.drive("cart", [20.0, 0.0, 0.0]).unwrap();
    let entries = play_until(&mut play, 1.0);
    assert_eq!(words(&play, &entries), ["enter lamp dog move", "exit lamp dog move"]);
}

#[test]
fn admit_lists_are_any_of_each_and_all_together() {
    let rule = Admit::tags(["toy", "tool"]).and_kinds(["round"]).not(Admit::names(["spare"]));
    let mut scene = Scene::builder("Yard")
        .kind(hazuro::scene::Kind::new("round").tags(["smooth"]))
        .entity(Entity::new("pad").zone(cube(2.0)).admit(rule));
    for (name, tag, kind) in [
        ("ball", "toy", Some("round")),
        ("spare", "toy", Some("round")),
        ("brick", "toy", None),
        ("pebble", "stone", Some("round")),
        ("wheel", "tool", Some("round")),
    ] {
        let entity = Entity::new(name).tags([tag]).body(ball(0.1));
        scene = scene.entity(match kind {
            Some(kind) => entity.kind(kind),
            None => entity,
        });
    }
    let mut play = Play::new(scene.build().unwrap());
    let entries = play.step().to_vec();
    assert_eq!(words(&play, &entries), ["enter pad ball appear", "enter pad wheel appear"]);
}

#[test]
fn zones_admit_by_layer_and_have_any_shape() {
    let arms = [[4.0, 1.0, 1.0], [1.0, 1.0, 4.0]].map(|size| Posed::new(Shape::Box { size }));
    let drop = Entity::new("drop").at([0.0, -3.0, 0.0]).zone(Zone::new(Shape::HalfSpace));
    let scene = Scene::builder("Yard")
        .entity(Entity::new("ball").layers(["toys"]).at([-5.0, 0.0, 0.0]).body(ball(0.25)))
        .entity(Entity::new("moth").at([-5.0, 0.0, 0.0]).body(ball(0.25)))
        .entity(
            Entity::new("cross")
                .zone(Zone::new(Shape::Any { shapes: arms.into() }))
                .admit(Admit::layers(["toys"])),
        )
        .entity(drop.admit(Admit::default().not(Admit::layers(["toys"]))));
    let mut play = Play::new(scene.build().unwrap());
    play.step();
    // Along one arm, round the corner into the other, and down: one stay in the cross.
    let mut entries = Vec::new();
    for (n, to) in [[0.0, 0.0, 0.0], [0.0, 0.0, 1.5], [0.0, -9.0, 1.5]].into_iter().enumerate() {
        for who in ["ball", "moth"] {
            let who = play.scene().find(who).unwrap();
            let until = Time::from_secs(f64::from(n as u32 + 1));
            play.schedule(play.now(), Input::Drive { who, to: to.into(), until }).unwrap();
        }
        entries.extend(play_until(&mut play, f64::from(n as u32 + 1)));
    }
    assert_eq!(
        words(&play, &entries),
        ["enter cross ball move", "exit cross ball move", "enter drop moth move"]
    );
}

#[test]
fn inside_beats_count_from_the_start_of_the_stay() {
    let scene = Scene::builder("Yard")
        .entity(Entity::new("ball").at([-5.0, 0.0, 0.0]).body(ball(0.5)))
        .entity(Entity::new("pad").zone(cube(2.0).inside_every(0.4)))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let ball = play.scene().find("ball").unwrap();
    // In at x = -1.5 after 0.7 s, out at x = 1.5 after 1.3 s more.
    let until = Time::from_secs(2.0);
    play.schedule(Time::ZERO, Input::Drive { who: ball, to: [5.0, 0.0, 0.0].into(), until })
        .unwrap();
    let entries = play_until(&mut play, 3.0);
    let told = story(&play, &entries);
    let expected = [("enter", 0.7), ("inside", 1.1), ("exit", 1.3)];
    assert_eq!(told.len(), expected.len(), "{told:?}");
    for ((words, time), (word, expected)) in told.iter().zip(expected) {
        assert!(words.starts_with(word) && (time - expected).abs() < 1e-9, "{words} at {time}");
    }
}

#[test]
fn who_arrives_by_teleport_is_not_sent_on_before_leaving() {
    let send =
        |on: &str, to: &str| Reaction::on(Trigger::enter(on)).then(Action::teleport("who", to));
    let scene = yard()
        .entity(Entity::new("far").at([50.0, 0.0, 0.0]).zone(cube(2.0)))
        .reaction(send("pad", "far"))
        .reaction(send("far", "pad"))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let ball = play.scene().find("ball").unwrap();
    let walk = |play: &mut Play, at: f64, x: f64| {
        let until = Time::from_secs(at + 1.0);
        let to = [x, 0.0, 0.0].into();
        play.schedule(Time::from_secs(at), Input::Drive { who: ball, to, until }).unwrap();
    };
    walk(&mut play, 0.0, 0.0);
    walk(&mut play, 2.0, 60.0);
    walk(&mut play, 4.0, 50.0);
    let entries = play_until(&mut play, 6.0);
    let expected = [
        "enter pad ball move",
        "depart pad ball teleport",
        "arrive far ball teleport",
        "exit pad ball teleport",
        "enter far ball teleport",
        "exit far ball move",
        "enter far ball move",
        "depart far ball teleport",
        "arrive pad ball teleport",
        "enter pad ball teleport",
        "exit far ball teleport",
    ];
    assert_eq!(words(&play, &entries), expected);
}

/// A zone that is carried round by its turning parent meets a ball that stands still.
#[test]
fn turning_zones_are_swept() {
    let scene = Scene::builder("Mill")
        .rate(10)
        .entity(Entity::new("wheel"))
        .entity(
            Entity::new("paddle")
                .parent("wheel")
                .at([3.0, 0.0, 0.0])
                .zone(Zone::new(Shape::Box { size: [0.2, 1.0, 0.02] })),
        )
        .entity(Entity::new("duck").at([0.0, 0.0, -3.0]).body(ball(0.05)))
        .entity(Entity::new("half").at(Pose::IDENTITY.turned(3.0)))
        .reaction(Reaction::on(Trigger::Start).then(Action::move_to("wheel", "half").over(0.3)))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let entries = play_until(&mut play, 1.0);
    let told = story(&play, &entries);
    assert_eq!(told.len(), 2, "{told:?}");
    // Ten radians per second; the paddle's face leads its middle by 0.01 m, the ball by 0.05 m.
    let middle = std::f64::consts::FRAC_PI_2 / 10.0;
    let lead = (0.06_f64 / 3.0).asin() / 10.0;
    assert!((told[0].1 - (middle - lead)).abs() < 1e-5, "{told:?}");
    assert!((told[1].1 - (middle + lead)).abs() < 1e-5, "{told:?}");
}

/// A body and where it goes at which moments.
#[derive(Clone, Debug)]
struct Route {
    shape: Shape,
    start: Pose,
    legs: Vec<(f64, DVec3)>,
}

fn route() -> impl Strategy<Value = Route> {
    let legs = prop::collection::vec((0.1..0.9_f64, support::any_place(6.0)), 1..4);
    (any_shape(), any_pose(6.0), legs).prop_map(|(shape, start, legs)| Route { shape, start, legs })
}

fn scene_of(zones: &[(Shape, Pose)], routes: &[Route], rate: u32) -> Play {
    let mut scene = Scene::builder("Random").rate(rate);
    for (index, (shape, pose)) in zones.iter().enumerate() {
        let zone = Zone::new(shape.clone());
        scene = scene.entity(Entity::new(format!("zone{index}")).at(*pose).zone(zone));
    }
    for (index, route) in routes.iter().enumerate() {
        let body = Body::new(route.shape.clone());
        scene = scene.entity(Entity::new(format!("body{index}")).at(route.start).body(body));
    }
    let mut play = Play::new(scene.build().unwrap());
    for (index, route) in routes.iter().enumerate() {
        let who = play.scene().find(&format!("body{index}")).unwrap();
        let mut at = 0.0;
        for (seconds, place) in &route.legs {
            let until = Time::from_secs(at + seconds);
            let to = (*place).into();
            play.schedule(Time::from_secs(at), Input::Drive { who, to, until }).unwrap();
            at += seconds;
        }
    }
    play
}

impl Route {
    /// Where the body is, worked out anew.
    fn place(&self, time: f64) -> DVec3 {
        let (mut at, mut place) = (0.0, self.start.position);
        for (seconds, next) in &self.legs {
            if time < at + seconds {
                return place.lerp(*next, ((time - at) / seconds).clamp(0.0, 1.0));
            }
            (at, place) = (at + seconds, *next);
        }
        place
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn detection_agrees_with_dense_samples_and_alternates(
        zones in prop::collection::vec((any_shape(), any_pose(6.0)), 1..4),
        routes in prop::collection::vec(route(), 1..4),
    ) {
        let mut play = scene_of(&zones, &routes, 20);
        let entries = play_until(&mut play, 3.0);
        let mut inside = BTreeMap::new();
        for event in events(&entries).iter().filter(|event| event.kind != EventKind::Start) {
            let pair = (event.on.unwrap().index(), event.who.unwrap().index() - zones.len());
            let stays: &mut Vec<(f64, f64)> = inside.entry(pair).or_default();
            let open = stays.last().is_some_and(|stay| stay.1.is_infinite());
            prop_assert_eq!(open, event.kind == EventKind::Exit, "pairs alternate");
            if event.kind == EventKind::Enter {
                stays.push((event.time.secs(), f64::INFINITY));
            } else if let Some(stay) = stays.last_mut() {
                stay.1 = event.time.secs();
            }
        }
        for (z, (shape, pose)) in zones.iter().enumerate() {
            let zone = Convex::new(shape).unwrap();
            for (b, route) in routes.iter().enumerate() {
                let body = Convex::new(&route.shape).unwrap();
                let stays = inside.get(&(z, b)).cloned().unwrap_or_default();
                for i in 0..290 {
                    let time = f64::from(i) * 0.01 + 0.003;
                    let there = Pose { position: route.place(time), ..route.start };
                    let gap = distance(&zone, pose, &body, &there).gap;
                    let seen = stays.iter().any(|(from, to)| *from <= time && time <= *to);
                    prop_assert!(gap.abs() < 1e-6 || seen == (gap < 0.0), "{time} s: {gap}");
                }
            }
        }
    }

    #[test]
    fn the_same_movement_gives_the_same_events_at_any_rate(
        zones in prop::collection::vec((any_shape(), any_pose(6.0)), 1..5),
        routes in prop::collection::vec(route(), 1..4),
    ) {
        let told = [1, 7, 60, 1000].map(|rate| {
            let mut play = scene_of(&zones, &routes, rate);
            let entries = play_until(&mut play, 3.0);
            story(&play, &entries)
        });
        for other in &told[1..] {
            prop_assert_eq!(told[0].len(), other.len());
            for ((words, time), (others, at)) in told[0].iter().zip(other) {
                prop_assert_eq!(words, others);
                prop_assert!((time - at).abs() < 1e-6, "{} s and {} s", time, at);
            }
        }
    }

    #[test]
    fn pairs_alternate_whatever_is_done(
        acts in prop::collection::vec((0..7_u8, 0..4_usize, support::any_place(3.0)), 1..60),
    ) {
        let mut play = Play::new(
            Scene::builder("Yard")
                .entity(Entity::new("post").zone(cube(2.0)))
                .entity(Entity::new("cart").body(ball(0.4)))
                .entity(Entity::new("lamp").parent("cart").at([0.5, 0.0, 0.0]).zone(cube(1.5)))
                .entity(Entity::new("dog").at([2.0, 0.0, 0.0]).body(ball(0.3)))
                .build()
                .unwrap(),
        );
        let names = ["post", "cart", "lamp", "dog"];
        let mut inside = BTreeSet::new();
        for (act, name, place) in acts {
            let name = names[name];
            match act {
                0 => play.act(Action::toggle(name)).unwrap(),
                1 => play.act(Action::enable(name)).unwrap(),
                2 => play.place(name, place).unwrap(),
                3 => play.act(Action::teleport(name, "post")).unwrap(),
                4 => play.act(Action::move_to(name, "dog").over(0.05)).unwrap(),
                _ => play.drive(name, place).unwrap(),
            }
            for event in events(play.step()) {
                let pair = (event.on, event.who);
                match event.kind {
                    EventKind::Enter => prop_assert!(inside.insert(pair)),
                    EventKind::Exit => prop_assert!(inside.remove(&pair)),
                    _ => {}
                }
            }
        }
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// What a host does: many small steps, mostly far from any boundary, while zones are switched
    /// and moved. After each step the occupants are those whose shapes overlap.
    #[test]
    fn small_steps_of_a_host_agree_with_plain_overlap(
        zones in prop::collection::vec((any_shape(), any_pose(6.0)), 1..6),
        (shape, start) in (any_shape(), any_pose(6.0)),
        steps in prop::collection::vec((0..40_u8, 0..6_usize, support::any_place(1.0)), 20..150),
    ) {
        let mut scene = Scene::builder("Pond").entity(Entity::new("duck").at(start).body(Body::new(shape.clone())));
        for (index, (shape, pose)) in zones.iter().enumerate() {
            scene = scene.entity(Entity::new(format!("zone{index}")).at(*pose).zone(Zone::new(shape.clone())));
        }
        let mut play = Play::new(scene.build().unwrap());
        let duck = Convex::new(&shape).unwrap();
        let mut off = vec![false; zones.len()];
        for (act, index, way) in steps {
            let index = index % zones.len();
            let zone = format!("zone{index}");
            match act {
                0 => {
                    off[index] = !off[index];
                    play.act(Action::toggle(zone)).unwrap();
                }
                1 => play.place(zone, way * 5.0).unwrap(),
                2 => play.drive(zone, way * 5.0).unwrap(),
                3 => play.act(Action::move_to(zone, "duck").over(0.1)).unwrap(),
                4 => play.place("duck", way * 5.0).unwrap(),
                _ => {
                    let here = play.pose("duck").unwrap().position;
                    play.drive("duck", here + way * 0.15).unwrap();
                }
            }
            play.step();
            let here = play.pose("duck").unwrap();
            for (index, (shape, _)) in zones.iter().enumerate() {
                let name = format!("zone{index}");
                let zone = Convex::new(shape).unwrap();
                let gap = distance(&zone, &play.pose(&name).unwrap(), &duck, &here).gap;
                let inside = !play.occupants(&name).unwrap().is_empty();
                prop_assert!(
                    gap.abs() < 1e-6 || inside == (gap < 0.0 && !off[index]),
                    "{name}: gap {gap}, off {}, inside {inside} at {} s", off[index], play.now()
                );
            }
        }
    }
}

#[test]
fn a_turn_at_the_very_moment_of_leaving_is_no_new_visit() {
    for x in [5.0, 7.3, 11.7] {
        let scene = yard()
            .entity(Entity::new("far").at([x, 0.3, 9.0]))
            .reaction(Reaction::on(Trigger::exit("pad")).then(Action::face("who", "far")));
        let mut play = Play::new(scene.build().unwrap());
        let ball = play.scene().find("ball").unwrap();
        let (to, until) = ([x, 0.3, 0.1].into(), Time::from_secs(1.3));
        play.schedule(Time::ZERO, Input::Drive { who: ball, to, until }).unwrap();
        let entries = play_until(&mut play, 3.0);
        assert_eq!(words(&play, &entries), ["enter pad ball move", "exit pad ball move"]);
    }
}
