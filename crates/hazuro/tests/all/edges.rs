//! What lies exactly at an edge, or away from the origin: places at which a slip of a sign or of a
//! comparison would not show elsewhere.

use crate::support;

use hazuro::geometry::{Convex, Pose, Ray, Shape, cast, distance_to_point};
use hazuro::glam::DVec3;
use hazuro::scene::{
    Action, Alter, Body, Camera, Effect, Entity, EventKind, Facts, Footing, Part, Pointer, Probe,
    Sight, Stat, Touch,
};
use hazuro::{Button, Happening, Input, Play, Scene, Spot, Time};
use support::{ball, block, events, person, play_until, words};

#[test]
fn a_ray_that_only_touches_an_edge_meets_it() {
    let chest = Convex::new(&Shape::Box { size: [2.0, 2.0, 2.0] }).unwrap();
    let along = |height: f64| {
        let from = DVec3::new(-3.0, -1.0 + height, 0.0);
        Ray::new(from, DVec3::new(1.0, 1.0, 0.0), 10.0).unwrap()
    };
    let met = cast(&along(0.0), &chest, &Pose::IDENTITY).unwrap();
    assert!((met.distance - 8.0_f64.sqrt()).abs() < 1e-12, "{}", met.distance);
    assert!(cast(&along(1e-6), &chest, &Pose::IDENTITY).is_none());
    assert!(cast(&along(-1e-6), &chest, &Pose::IDENTITY).is_some());
}

#[test]
fn a_flat_hull_is_refused_wherever_it_lies() {
    let at = |origin: [f64; 3], last: [f64; 3]| {
        let points = [[0.0; 3], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [1.0, 1.0, 0.0], last];
        let points = points.map(|point| std::array::from_fn(|axis| point[axis] + origin[axis]));
        Convex::new(&Shape::Hull { points: points.to_vec() })
    };
    for origin in [[0.0; 3], [500.0, -20.0, 7.0], [-3.0, 900.0, 40.0]] {
        assert!(at(origin, [0.5, 0.5, 0.0]).is_err(), "flat at {origin:?}");
        let solid = at(origin, [0.5, 0.5, 1.0]).unwrap();
        let top = DVec3::from(origin) + DVec3::new(0.5, 0.5, 3.0);
        let far = distance_to_point(&solid, &Pose::IDENTITY, top);
        assert!((far - 2.0).abs() < 1e-9, "{far} at {origin:?}");
        let line = [[0.0; 3], [1.0, 1.0, 1.0], [2.0, 2.0, 2.0], [5.0, 5.0, 5.0]];
        let line = line.map(|point| std::array::from_fn(|axis| point[axis] + origin[axis]));
        assert!(Convex::new(&Shape::Hull { points: line.to_vec() }).is_err());
    }
}

#[test]
fn a_stat_that_changes_steadily_comes_to_its_end_in_time_and_to_no_end_never() {
    let leak = Effect::new("leak").alter("water", Alter::rate(-4.0));
    let mill = |least: f64| {
        let water = Stat { start: 10.0, least, most: 20.0 };
        Scene::builder("Mill")
            .entity(Entity::new("race").stat("water", water))
            .effect(leak.clone())
            .build()
            .unwrap()
    };
    let mut play = Play::new(mill(2.0));
    play.act(Action::effect("leak", "race")).unwrap();
    let entries = play_until(&mut play, 5.0);
    let empty: Vec<f64> = events(&entries)
        .iter()
        .filter(|event| event.kind == EventKind::Empty)
        .map(|event| event.time.secs())
        .collect();
    assert_eq!(empty, [2.0]);
    let race = play.scene().find("race").unwrap();
    assert_eq!(play.facts().stat(race, "water"), Some(2.0));
    let mut play = Play::new(mill(f64::NEG_INFINITY));
    play.act(Action::effect("leak", "race")).unwrap();
    let entries = play_until(&mut play, 50.0);
    assert!(events(&entries).iter().all(|event| event.kind != EventKind::Empty));
    assert_eq!(play.facts().stat(race, "water"), Some(-190.0));
    // An effect that multiplies can keep it from ever getting there.
    let halved = Effect::new("halved").alter("water", Alter { times: 0.0, ..Alter::rate(-4.0) });
    let water = Stat { start: 10.0, least: 0.0, most: 20.0 };
    let scene = Scene::builder("Mill")
        .entity(Entity::new("race").stat("water", water))
        .effect(halved)
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.act(Action::effect("halved", "race")).unwrap();
    play_until(&mut play, 5.0);
    play.state().assert_consistent(play.scene());
}

#[test]
fn a_turn_of_no_duration_is_made_at_once_and_moves_nothing() {
    for turn in [Action::turn("post", 1.0).over(0.0), Action::turn("post", 1.0).over(1e-10)] {
        let scene = Scene::builder("Mill").entity(Entity::new("post").at([3.0, 0.0, 0.0])).build();
        let mut play = Play::new(scene.unwrap());
        play.act(turn).unwrap();
        play.step();
        let pose = play.pose("post").unwrap();
        assert!((pose.angle_to(&Pose::IDENTITY) - 1.0).abs() < 1e-9);
        assert_eq!(pose.position.to_array(), [3.0, 0.0, 0.0]);
        let before = play.state().fingerprint();
        let after = play.state().clone();
        play.step();
        assert_eq!(before, after.fingerprint());
        assert_eq!(play.pose("post").unwrap(), pose, "it does not turn on");
    }
}

#[test]
fn a_pointer_reaches_exactly_as_far_as_it_says() {
    // From the camera at z = 6 to the face of the bell at z = 0.5.
    for (reach, hovers) in [(5.5, true), (5.499, false)] {
        let bell = Entity::new("bell")
            .solid(Shape::Box { size: [1.0; 3] })
            .pointer(Pointer { reach, ..Pointer::default() });
        let scene = Scene::builder("Mill")
            .entity(Entity::new("miller").at([9.0, 0.0, 0.0]).player(true).body(ball(0.3)))
            .entity(Entity::new("camera").at([0.0, 0.0, 6.0]).camera(Camera::default()))
            .entity(bell)
            .build()
            .unwrap();
        let mut play = Play::new(scene);
        let id = |name| play.scene().find(name).unwrap();
        let (who, at) = (id("miller"), Spot::Entity(id("bell")));
        play.schedule(Time::ZERO, Input::Point { who, at, button: Button::Stays }).unwrap();
        let entries = play_until(&mut play, 0.5);
        assert_eq!(
            words(&play, &entries).contains(&"hover bell miller move".into()),
            hovers,
            "{reach}"
        );
    }
}

#[test]
fn looks_at_nothing_new_leave_no_trace() {
    let scene = Scene::builder("Mill")
        .entity(Entity::new("owl").sight(Sight::default()))
        .entity(Entity::new("feeler").probe(Probe { to: [0.0, 0.0, -3.0], ..Probe::default() }))
        .entity(Entity::new("mouse").at([0.0, 0.0, -30.0]).body(ball(0.2)))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    // Away from the owl and the ray, it comes and goes.
    for x in [30.0, 31.0, 30.0, 31.0] {
        play.place("mouse", [x, 0.0, -30.0]).unwrap();
        let until = play.now() + Time::from_secs(1.0);
        assert_eq!(play.advance(until).len(), usize::from(until == Time::from_secs(1.0)));
        assert!(play.sightings("owl").unwrap().is_empty(), "it has never seen anything");
    }
}

#[test]
fn each_part_that_touches_ends_with_its_name_where_it_was() {
    let part =
        |name: &str, x: f64| Part::new(name, Shape::Sphere { radius: 0.2 }).at([x, 0.0, 0.0]);
    let mill = || {
        Scene::builder("Mill")
            .entity(
                block("post", [0.0, 1.0, 0.0], [4.0, 2.0, 0.2])
                    .touch(Touch { parts: true, ..Touch::default() }),
            )
            .entity(
                Entity::new("cart")
                    .at([0.0, 1.0, 3.0])
                    .body(Body::of_parts([part("left", -0.5), part("right", 0.5)])),
            )
            .build()
            .unwrap()
    };
    for (ends, cause) in [
        (Action::disable("post"), "disable"),
        (Action::disable("cart"), "disable"),
        (Action::remove("cart"), "remove"),
        (Action::teleport("cart", "far").into(), "teleport"),
        (Action::move_by("cart", [0.0, 0.0, 5.0]).into(), "teleport"),
    ] {
        let scene = mill();
        let mut play = if ends.word() == "teleport" {
            let scene = Scene::builder("Mill")
                .entity(scene.entity(scene.find("post").unwrap()).clone())
                .entity(scene.entity(scene.find("cart").unwrap()).clone())
                .entity(Entity::new("far").at([0.0, 1.0, 9.0]));
            Play::new(scene.build().unwrap())
        } else {
            Play::new(scene)
        };
        play.drive("cart", [0.0, 1.0, 0.25]).unwrap();
        play.advance(Time::from_secs(1.0));
        let word = ends.word();
        play.act(ends).unwrap();
        let entries = play.step().to_vec();
        let (scene, told) = (play.scene(), events(&entries));
        let ended: Vec<_> = told
            .iter()
            .filter(|event| event.kind == EventKind::Untouch)
            .map(|event| {
                let name = scene.part_name(event.who.unwrap(), event.part.unwrap());
                (name.unwrap(), event.cause.unwrap().word(), event.at.unwrap().to_array())
            })
            .collect();
        let place = |x: f64| [x, 1.0, 0.25];
        assert_eq!(ended, [("left", cause, place(-0.5)), ("right", cause, place(0.5))], "{word}");
    }
}

#[test]
fn what_leaves_by_a_jump_left_from_where_it_was() {
    let mut play = Play::new(support::yard().build().unwrap());
    play.place("ball", [0.3, 0.0, 0.0]).unwrap();
    play.step();
    play.place("ball", [7.0, 0.0, 0.0]).unwrap();
    let entries = play.step().to_vec();
    let exit = events(&entries).into_iter().find(|event| event.kind == EventKind::Exit).unwrap();
    assert_eq!(exit.at.unwrap().to_array(), [0.3, 0.0, 0.0]);
}

#[test]
fn what_lifts_off_names_what_it_landed_on() {
    let scene = Scene::builder("Mill")
        .floor(hazuro::scene::Floor::Missing)
        .entity(block("one", [0.0, -0.5, 0.0], [4.0, 1.0, 4.0]))
        .entity(block("two", [4.0, -0.5, 0.0], [4.0, 1.0, 4.0]))
        .entity(Entity::new("miller").body(person()).footing(Footing::default()))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let miller = play.scene().find("miller").unwrap();
    play.schedule(Time::ZERO, Input::Walk { who: miller, to: [4.0, 0.0, 0.0].into() }).unwrap();
    play.schedule(Time::from_secs(2.0), Input::Act(Action::Jump(miller))).unwrap();
    let entries = play_until(&mut play, 4.0);
    let told: Vec<String> = words(&play, &entries);
    assert_eq!(
        told,
        ["land miller one appear", "lift_off miller one move", "land miller two move"],
        "the one it walked on to is its ground, the event is the end of the first landing"
    );
}

#[test]
fn a_jump_between_two_bumps_is_a_jump() {
    // Ground as uneven as can be walked: at any moment of the way a jump is a jump.
    let rows = vec![[0.0, 0.08, 0.0, 0.1, 0.0, 0.06, 0.0, 0.12, 0.0, 0.05, 0.0].to_vec(); 3];
    for step in 0..40 {
        let scene = Scene::builder("Track")
            .entity(Entity::new("track").solid(Shape::Heights { spacing: 0.5, rows: rows.clone() }))
            .entity(Entity::new("runner").at([-2.0, 0.3, 0.0]).body(person()))
            .build()
            .unwrap();
        let mut play = Play::new(scene);
        let who = play.scene().find("runner").unwrap();
        let at = Time::from_secs(0.8 + f64::from(step) * 0.013);
        play.schedule(Time::from_secs(0.4), Input::Walk { who, to: [2.0, 0.0, 0.0].into() })
            .unwrap();
        play.schedule(at, Input::Act(Action::Jump(who))).unwrap();
        let entries = play.advance(at + Time::from_secs(0.3)).to_vec();
        let refused = entries.iter().any(|entry| matches!(&entry.what, Happening::Refused { .. }));
        let height = play.pose("runner").unwrap().position.y;
        assert!(height > 0.6 || refused, "step {step}: {height} m high, and nobody says why");
    }
}

#[test]
fn one_walks_under_what_is_high_enough() {
    let scene = Scene::builder("Mill")
        .entity(
            Entity::new("roof").at([0.0, 2.1, -3.0]).solid(Shape::Box { size: [3.0, 0.2, 4.0] }),
        )
        .entity(Entity::new("miller").at([0.0, 0.0, 4.0]).body(person()))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let who = play.scene().find("miller").unwrap();
    play.schedule(Time::ZERO, Input::Walk { who, to: [0.0, 0.0, -3.0].into() }).unwrap();
    let entries = play.advance(Time::from_secs(2.4)).to_vec();
    assert!(!entries.iter().any(|entry| matches!(&entry.what, Happening::Halted { .. })));
    let there = play.pose("miller").unwrap().position;
    assert!(there.distance(DVec3::new(0.0, 0.0, -3.0)) < 0.01, "straight on, not around: {there}");
}

#[test]
fn what_is_held_turns_in_the_hand() {
    let scene = Scene::builder("Mill")
        .entity(Entity::new("miller").body(person()))
        .entity(
            Entity::new("jar")
                .at([0.0, 0.3, -0.8])
                .body(Body::new(Shape::Box { size: [0.2, 0.4, 0.2] }))
                .carry(hazuro::scene::Carry::default()),
        )
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.act(Action::Grab { what: "jar".into(), to: "miller".into() }).unwrap();
    play.act(Action::turn("jar", 1.0).over(0.5)).unwrap();
    let who = play.scene().find("miller").unwrap();
    play.schedule(Time::from_secs(1.0), Input::Walk { who, to: [3.0, 0.0, 0.0].into() }).unwrap();
    let entries = play_until(&mut play, 3.0);
    assert!(!words(&play, &entries).iter().any(|word| word.starts_with("drop")));
    let held = play.in_hands("miller").unwrap();
    assert_eq!(held, [play.scene().find("jar").unwrap()]);
    let [jar, miller] = ["jar", "miller"].map(|name| play.pose(name).unwrap());
    assert!((jar.angle_to(&miller) - 1.0).abs() < 1e-6, "turned in the hand");
    play.state().assert_consistent(play.scene());
}

#[test]
fn what_changes_how_one_walks_is_not_why_one_is_detected() {
    let fast = Effect::new("fast").alter("walk", Alter::times(2.0)).seconds(10.0);
    let broth = Entity::new("broth")
        .zone(hazuro::scene::Zone::new(Shape::Sphere { radius: 0.5 }))
        .pickup(hazuro::scene::Pickup {
            grant: hazuro::scene::Grant::default().effect("fast"),
            ..hazuro::scene::Pickup::default()
        });
    let scene = Scene::builder("Mill")
        .entity(Entity::new("miller").at([-3.0, 0.0, 0.0]).body(person()))
        .entity(broth.at([0.0, 0.5, 0.0]))
        .effect(fast)
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let who = play.scene().find("miller").unwrap();
    play.schedule(Time::ZERO, Input::Walk { who, to: [3.0, 0.0, 0.0].into() }).unwrap();
    let entries = play_until(&mut play, 3.0);
    let told = words(&play, &entries);
    assert!(told.contains(&"exit broth miller disable".into()), "{told:?}");
}

#[test]
fn so_many_points_as_are_wanted_must_be_near_enough() {
    // Of a ball of 1 m whose middle is 9.98 m away, some points are farther than 10 m and some are not.
    for (fraction, seen) in [(0.2, true), (1.0, false)] {
        let sight = Sight { fraction, range: 10.0, ..Sight::default() };
        let scene = Scene::builder("Mill")
            .entity(Entity::new("owl").sight(sight))
            .entity(Entity::new("moon").at([0.0, 0.0, -9.98]).body(ball(1.0)));
        let mut play = Play::new(scene.build().unwrap());
        let told = play_until(&mut play, 1.0);
        assert_eq!(!words(&play, &told).is_empty(), seen, "a share of {fraction}");
    }
}
