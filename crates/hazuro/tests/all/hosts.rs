//! Bodies whose host says each tick where they are: what is known of their surroundings must never
//! make a difference to what is detected.

use crate::support;

use std::time::Duration;

use hazuro::geometry::{Form, Pose, Posed, Shape, overlaps};
use hazuro::glam::{DQuat, DVec3, Quat, Vec3};
use hazuro::scene::{
    Action, Admit, Among, Body, Condition, Entity, Fault, Part, Probe, Reaction, SceneBuilder,
    Seeker, Sight, Trigger, Zone,
};
use hazuro::{Filter, Input, Play, Scene, Target, Time};
use proptest::prelude::*;
use support::{any_place, any_pose, any_shape, ball, cube, events, play_until, story, words};

/// A zone of one to three shapes.
fn any_zone() -> impl Strategy<Value = Shape> {
    prop::collection::vec((any_shape(), any_pose(2.0)), 1..4).prop_map(|pieces| Shape::Any {
        shapes: pieces.into_iter().map(|(shape, pose)| Posed::new(shape).at(pose)).collect(),
    })
}

/// The parts of a body and where they are on it.
fn any_parts() -> impl Strategy<Value = Vec<(Shape, Pose)>> {
    prop::collection::vec((any_shape(), any_pose(1.0)), 1..4)
}

fn body(parts: &[(Shape, Pose)]) -> Body {
    let named = parts
        .iter()
        .enumerate()
        .map(|(n, (shape, pose))| Part::new(format!("part{n}"), shape.clone()).at(*pose));
    Body::of_parts(named)
}

/// The smallest gap between any piece of the zone and any part of the body is below zero by so
/// much, or above; none if they are so near to touching, within `by`, that either will do.
fn meet(zone: &Shape, at: Pose, parts: &[(Shape, Pose)], body: Pose, by: f64) -> Option<bool> {
    let zone = Form::new(zone).unwrap();
    let mut gap = f64::INFINITY;
    for (offset, piece) in zone.pieces() {
        for (shape, part) in parts {
            let part_form = Form::new(shape).unwrap();
            for (_, own) in part_form.pieces() {
                let found = hazuro::geometry::distance(piece, &(at * offset), own, &(body * *part));
                assert_eq!(
                    found.gap <= 1e-8,
                    overlaps(piece, &(at * offset), own, &(body * *part))
                );
                gap = gap.min(found.gap);
            }
        }
    }
    (gap.abs() > by).then_some(gap < 0.0)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn bodies_of_parts_among_combined_zones_are_where_they_overlap(
        zones in prop::collection::vec((any_zone(), any_pose(5.0)), 1..4),
        parts in any_parts(),
        start in any_pose(5.0),
        steps in prop::collection::vec((0..30_u8, 0..4_usize, any_place(1.0)), 10..80),
        turns in any::<bool>(),
    ) {
        // Of what turns a contact as deep as the tolerance may go unseen.
        let tolerance = if turns { 2e-3 } else { 1e-5 };
        let mut scene = Scene::builder("Weir")
            .entity(Entity::new("duck").layers(["birds"]).at(start).body(body(&parts)))
            .entity(Entity::new("raft").layers(["wood"]).at(start).body(body(&parts)));
        for (n, (shape, pose)) in zones.iter().enumerate() {
            let zone = Entity::new(format!("zone{n}")).at(*pose).zone(Zone::new(shape.clone()));
            scene = scene.entity(zone.admit(Admit::layers(["birds"])));
        }
        let mut play = Play::new(scene.build().unwrap());
        let duck = play.scene().find("duck").unwrap();
        for (act, index, way) in steps {
            let zone = format!("zone{}", index % zones.len());
            match act {
                0 => play.place(zone, way * 5.0).unwrap(),
                1 => play.act(Action::move_to(zone, "raft").over(0.05)).unwrap(),
                2 => play.place("duck", way * 5.0).unwrap(),
                _ => for who in ["duck", "raft"] {
                    let here = play.pose(who).unwrap();
                    let turn = DQuat::from_scaled_axis(DVec3::new(way.z, way.x, way.y) * 0.1);
                    let rotation = if turns { (here.rotation * turn).normalize() } else { here.rotation };
                    play.drive(who, Pose { position: here.position + way * 0.2, rotation }).unwrap();
                },
            }
            play.step();
            for (n, (shape, _)) in zones.iter().enumerate() {
                let name = format!("zone{n}");
                let inside = play.occupants(&name).unwrap();
                let [zone_at, duck_at] = [name.as_str(), "duck"].map(|who| play.pose(who).unwrap());
                if let Some(meets) = meet(shape, zone_at, &parts, duck_at, tolerance) {
                    prop_assert_eq!(!inside.is_empty(), meets, "{} at {}", name, play.now());
                }
                prop_assert!(inside.iter().all(|who| *who == duck), "the raft is not admitted");
            }
        }
    }

    /// What is known of its surroundings makes no difference to the log of a body that turns as it goes:
    /// neither in whole turns about Y, as one that looks about, nor tumbling.
    #[test]
    fn a_body_that_turns_as_it_is_told_comes_and_goes_as_if_nothing_were_known(
        zones in prop::collection::vec((any_zone(), any_pose(3.0)), 1..4),
        parts in any_parts(),
        start in any_pose(4.0),
        steps in prop::collection::vec((any_place(1.0), -1.0..1.0_f64), 10..60),
        (upright, round) in any::<(bool, bool)>(),
    ) {
        let told = [true, false].map(|knows| {
            let capsule = Shape::Capsule { radius: 0.3, height: 1.4 };
            let body = if round { Body::new(capsule) } else { body(&parts) };
            let start = if upright { Pose::at(start.position) } else { start };
            let mut scene = Scene::builder("Weir").entity(Entity::new("duck").at(start).body(body));
            for (n, (shape, pose)) in zones.iter().enumerate() {
                let zone = Zone::new(shape.clone());
                scene = scene.entity(Entity::new(format!("zone{n}")).at(*pose).zone(zone));
            }
            let mut play = Play::new(scene.build().unwrap());
            let mut entries = Vec::new();
            for (way, turn) in &steps {
                if !knows {
                    // Going back forgets all that is no state.
                    let state = play.state().clone();
                    play.restore(state).unwrap();
                }
                let here = play.pose("duck").unwrap();
                let axis = if upright { DVec3::Y } else { way.normalize_or(DVec3::Y) };
                let turn = DQuat::from_axis_angle(axis, *turn * 0.4);
                let rotation = (here.rotation * turn).normalize();
                let to = Pose { position: here.position + *way * 0.15, rotation };
                // Now and then it stays where it is, and is told so.
                play.drive("duck", if turn.w > 0.999 { here } else { to }).unwrap();
                entries.extend(play.step().to_vec());
            }
            (story(&play, &entries), play.state().fingerprint())
        });
        prop_assert_eq!(&told[0], &told[1]);
    }

    /// Nor does what is known of who may notice it: whom a guard, a seeker or a ray detects is the same,
    /// wherever they go and however tags come and go.
    #[test]
    fn a_crowd_is_noticed_as_if_nothing_were_known(
        starts in prop::collection::vec(any_place(12.0), 3..6),
        steps in prop::collection::vec((0..8_u8, any_place(1.0), any_place(1.0)), 20..70),
        wanders in any::<bool>(),
    ) {
        let told = [true, false].map(|knows| {
            let sight = Sight { range: 6.0, angle: 2.0, notice: 0.1, ..Sight::default() };
            let seeker = Seeker { range: 4.0, ..Seeker::default() };
            let among = Among { bodies: true, ..Among::default() };
            let ray = Probe { from: [0.0; 3], to: [0.0, 0.0, -8.0], among, ..Probe::default() };
            let hero = || Admit::tags(["hero"]);
            let mut scene = Scene::builder("Quay").rate(30)
                .entity(Entity::new("guard").body(ball(0.3)).sight(sight).admit(hero()))
                .entity(Entity::new("cock").at([3.0, 0.0, 0.0]).seeker(seeker).admit(hero()))
                .entity(Entity::new("beam").at([0.0, 0.0, 4.0]).probe(ray).admit(hero()));
            for (n, start) in starts.iter().enumerate() {
                let tags = if n == 0 { vec!["hero"] } else { vec![] };
                let start = start.with_y(0.0);
                let one = Entity::new(format!("one{n}")).at(start.to_array()).body(ball(0.4));
                scene = scene.entity(one.tags(tags));
            }
            let mut play = Play::new(scene.build().unwrap());
            let mut entries = Vec::new();
            for (act, way, other) in &steps {
                if !knows {
                    let state = play.state().clone();
                    play.restore(state).unwrap();
                }
                for n in 0..starts.len() {
                    let one = format!("one{n}");
                    let here = play.pose(one.as_str()).unwrap().position;
                    let way = if n % 2 == 0 { way } else { other };
                    play.drive(one.as_str(), here + way.with_y(0.0) * 0.3).unwrap();
                }
                if wanders {
                    play.drive("guard", *other * 0.5).unwrap();
                }
                match act {
                    0 => play.act(Action::tag("one1", "hero")).unwrap(),
                    1 => play.act(Action::untag("one1", "hero")).unwrap(),
                    2 => play.act(Action::toggle("guard")).unwrap(),
                    3 => play.place("one2", [way.x * 3.0, 0.0, way.z * 3.0]).unwrap(),
                    _ => {}
                }
                entries.extend(play.step().to_vec());
            }
            (story(&play, &entries), play.state().fingerprint())
        });
        prop_assert_eq!(&told[0], &told[1]);
    }

    /// Told where it is at each tick or where it is going at the start, a body comes and goes at
    /// the same times.
    #[test]
    fn told_tick_by_tick_or_at_one_go_the_events_are_the_same(
        zones in prop::collection::vec((any_zone(), any_pose(6.0)), 1..6),
        parts in any_parts(),
        (start, way) in (any_pose(6.0), any_place(12.0)),
    ) {
        prop_assume!(way.length() > 0.5);
        let told = [true, false].map(|each_tick| {
            let duck = Entity::new("duck").at(start).body(body(&parts));
            let mut scene = Scene::builder("Weir").rate(40).entity(duck);
            for (n, (shape, pose)) in zones.iter().enumerate() {
                let zone = Zone::new(shape.clone());
                scene = scene.entity(Entity::new(format!("zone{n}")).at(*pose).zone(zone));
            }
            let mut play = Play::new(scene.build().unwrap());
            let duck = play.scene().find("duck").unwrap();
            let mut entries = Vec::new();
            if !each_tick {
                let to = (start.position + way).into();
                let until = Time::from_secs(2.0);
                play.schedule(Time::ZERO, Input::Drive { who: duck, to, until }).unwrap();
            }
            for tick in 1..=81_u32 {
                if each_tick && tick <= 80 {
                    let to = start.position + way * (f64::from(tick) / 80.0);
                    play.drive(duck, to).unwrap();
                }
                entries.extend(play.step().to_vec());
            }
            story(&play, &entries)
        });
        let [each, once] = &told;
        prop_assert_eq!(each.len(), once.len(), "{:?} {:?}", each, once);
        for ((one, at), (other, then)) in each.iter().zip(once) {
            prop_assert!((at - then).abs() < 1e-5, "{one} at {at}, {other} at {then}");
        }
    }
}

#[test]
fn a_host_may_stop_and_go_on_and_be_overtaken_by_a_zone() {
    let scene = Scene::builder("Weir")
        .entity(Entity::new("duck").body(ball(0.2)))
        .entity(Entity::new("net").at([10.0, 0.0, 0.0]).zone(cube(1.0)))
        .entity(Entity::new("far").at([-10.0, 0.0, 0.0]));
    let mut play = Play::new(scene.build().unwrap());
    for tick in 0..20 {
        play.drive("duck", [f64::from(tick) * 0.01, 0.0, 0.0]).unwrap();
        play.step();
    }
    // While the duck rests, and while it goes on, the net sweeps over it and away.
    play.act(Action::move_to("net", "far").over(2.0)).unwrap();
    let mut entries = play_until(&mut play, 1.2);
    let mut step = 0;
    while play.now() < Time::from_secs(3.0) {
        step += 1;
        play.drive("duck", [0.2 + f64::from(step) * 0.01, 0.0, 0.0]).unwrap();
        entries.extend(play.step().to_vec());
    }
    assert_eq!(words(&play, &entries), ["enter net duck move", "exit net duck move"]);
}

#[test]
fn what_a_handler_has_done_is_true_when_it_asks() {
    let wall = Shape::Box { size: [0.2, 4.0, 4.0] };
    let scene = Scene::builder("Mill")
        .entity(Entity::new("owl").body(ball(0.2)))
        .entity(Entity::new("pad").zone(cube(1.0)))
        .entity(Entity::new("wall").at([3.0, 0.0, 0.0]).solid(wall))
        .entity(Entity::new("shed").at([9.0, 0.0, 0.0]));
    let mut play = Play::new(scene.build().unwrap());
    play.on(Trigger::enter("pad"), |_, act| {
        let ray = hazuro::geometry::Ray::new(DVec3::ZERO, DVec3::X, 20.0).unwrap();
        let metres = |act: &mut hazuro::Act<'_>| {
            let hit = act.space().ray(&ray, &Filter::solids());
            hit.map_or(-1, |hit| hit.distance.round() as i64)
        };
        let first = metres(act);
        act.set("first", first);
        act.teleport("wall", "shed").unwrap();
        let moved = metres(act);
        act.set("moved", moved);
        act.disable("wall").unwrap();
        let off = metres(act);
        act.set("off", off);
    })
    .unwrap();
    play.step();
    assert_eq!(["first", "moved", "off"].map(|count| play.count(count)), [3, 9, -1]);
}

#[test]
fn bodies_that_carry_something_are_followed_all_the_same() {
    // A lantern is a zone on the miller, a yoke a solid, and both make small steps with him.
    let scene = Scene::builder("Mill")
        .entity(Entity::new("miller").body(ball(0.3)))
        .entity(Entity::new("lantern").parent("miller").at([0.0, 1.0, 0.0]).zone(cube(2.0)))
        .entity(Entity::new("moth").at([3.0, 1.0, 0.0]).body(ball(0.1)))
        .entity(Entity::new("door").at([4.0, 0.0, 0.0]).zone(cube(1.0)));
    let mut play = Play::new(scene.build().unwrap());
    let mut entries = Vec::new();
    for tick in 1..=120 {
        play.drive("miller", [f64::from(tick) * 0.05, 0.0, 0.0]).unwrap();
        entries.extend(play.step().to_vec());
    }
    assert_eq!(
        words(&play, &entries),
        [
            "enter lantern moth move",
            "enter door miller move",
            "exit lantern moth move",
            "exit door miller move"
        ]
    );
    let times: Vec<f64> = events(&entries).iter().skip(1).map(|event| event.time.secs()).collect();
    for (found, metres) in times.iter().zip([1.9, 3.2, 4.1, 4.8]) {
        assert!((found - metres / 3.0).abs() < 1e-6, "{found} for {metres} m at 3 m/s");
    }
}

#[test]
fn a_scene_of_any_order_of_hosts_gives_the_same_story() {
    let told = [false, true].map(|backwards| {
        let mut ducks: Vec<Entity> = (0..6)
            .map(|n| {
                let z = f64::from(n);
                Entity::new(format!("duck{n}")).at([-2.0, 0.0, z]).body(ball(0.2))
            })
            .collect();
        if backwards {
            ducks.reverse();
        }
        let pond = Entity::new("pond")
            .at([0.0, 0.0, 2.5])
            .zone(Zone::new(Shape::Box { size: [2.0, 2.0, 4.0] }));
        let scene =
            ducks.into_iter().fold(Scene::builder("Weir").entity(pond), SceneBuilder::entity);
        let mut play = Play::new(scene.build().unwrap());
        let mut entries = Vec::new();
        for tick in 1..=100 {
            for n in 0..6 {
                // Each at its own speed, so that no two cross at one instant.
                let x = -2.0 + f64::from(tick) * (0.05 + f64::from(n) * 0.003);
                play.drive(&*format!("duck{n}"), [x, 0.0, f64::from(n)]).unwrap();
            }
            entries.extend(play.step().to_vec());
        }
        story(&play, &entries)
    });
    assert_eq!(told[0], told[1]);
    assert_eq!(told[0].len(), 8, "four ducks come and go: {:?}", told[0]);
}

#[test]
fn what_else_is_done_at_the_instant_of_a_small_step_is_told() {
    let told = |done: [Action; 2], first: bool| {
        let ball = Entity::new("ball").tags(["red"]).body(ball(0.5));
        let open = Condition::new("flag.shut", |facts| !facts.flag("shut"));
        let asks = matches!(done[0], Action::Flag { .. });
        let admit = if asks { Admit::default().when(open) } else { Admit::tags(["red"]) };
        let pad = Entity::new("pad").zone(cube(6.0)).admit(admit);
        let scene = Scene::builder("Yard").entity(ball).entity(pad).build().unwrap();
        let mut play = Play::new(scene);
        let mut entries = Vec::new();
        for tick in 1..40_u32 {
            let asked = [(20, &done[0]), (30, &done[1])].into_iter().find(|(at, _)| *at == tick);
            let act = |play: &mut Play| asked.map(|(_, action)| play.act(action.clone()));
            if first {
                act(&mut play);
            }
            // It stays where it is, or nearly so.
            play.drive("ball", [f64::from(tick) * 0.001, 0.0, 0.0]).unwrap();
            if !first {
                act(&mut play);
            }
            entries.extend(play.step().to_vec());
        }
        let mut told = words(&play, &entries);
        told.retain(|word| !word.starts_with("did"));
        told
    };
    for (done, why) in [
        ([Action::disable("pad"), Action::enable("pad")], ["disable", "enable"]),
        ([Action::disable("ball"), Action::enable("ball")], ["disable", "enable"]),
        ([Action::untag("ball", "red"), Action::tag("ball", "red")], ["admit", "admit"]),
        ([Action::flag("shut", true), Action::flag("shut", false)], ["admit", "admit"]),
        ([Action::detect("pad", false), Action::detect("pad", true)], ["disable", "enable"]),
    ] {
        let wanted = [
            "enter pad ball appear".to_owned(),
            format!("exit pad ball {}", why[0]),
            format!("enter pad ball {}", why[1]),
        ];
        assert_eq!(told(done.clone(), false), wanted, "after the step: {done:?}");
        assert_eq!(told(done.clone(), true), wanted, "before the step: {done:?}");
    }
}

#[test]
fn places_come_in_all_the_types_that_hosts_have() {
    let turn = DQuat::from_rotation_y(1.0);
    let ([x, y, z], [i, j, k, w]) = ([1.0, 2.0, 3.5], turn.to_array());
    let exact = Pose { position: DVec3::new(x, y, z), rotation: turn };
    let single = |number: f64| number as f32;
    let v = mint::Vector3 { x: single(i), y: single(j), z: single(k) };
    let point = mint::Point3 { x: 1.0_f32, y: 2.0, z: 3.5 };
    let turned: [Pose; 6] = [
        ([x, y, z], [i, j, k, w]).into(),
        (DVec3::new(x, y, z), turn).into(),
        ([x, y, z].map(single), [i, j, k, w].map(single)).into(),
        (Vec3::new(1.0, 2.0, 3.5), turn.as_quat()).into(),
        (point, mint::Quaternion { v, s: single(w) }).into(),
        <(Vec3, Quat)>::from(exact).into(),
    ];
    for pose in turned {
        assert!(pose.is_valid(), "{pose:?} is turned by a quaternion of length 1");
        assert!(pose.rotation.abs_diff_eq(turn, 1e-6) && pose.position == exact.position);
    }
    let unturned: [Target; 4] = [
        [1.0_f32, 2.0, 3.5].into(),
        Vec3::new(1.0, 2.0, 3.5).into(),
        point.into(),
        [x, y, z].into(),
    ];
    assert!(unturned.iter().all(|place| *place == Target::Place(exact.position)));
    let back: ([f32; 3], [f32; 4]) = exact.into();
    assert_eq!(back, ([1.0, 2.0, 3.5], turn.as_quat().to_array()));
    assert_eq!(Time::from(Duration::from_millis(1500)), Time::from_secs(1.5));
    assert_eq!(Duration::from(Time::from_secs(0.25)), Duration::from_millis(250));
    assert_eq!(Time::from(Duration::MAX), Time::MAX);
}

#[test]
fn many_are_driven_at_once_as_one_by_one_or_not_at_all() {
    let scene = || {
        let ball = |number: u32| {
            let at = [f64::from(number) * 3.0, 0.0, 0.0];
            Entity::new(format!("ball {number}")).at(at).body(ball(0.2))
        };
        let scene = Scene::builder("Yard").entity(Entity::new("pad").zone(cube(4.0)));
        (0..8).map(ball).fold(scene, SceneBuilder::entity).build().unwrap()
    };
    let (mut one_by_one, mut at_once) = (Play::new(scene()), Play::new(scene()));
    let balls: Vec<_> = at_once.scene().ids().skip(1).collect();
    for tick in 0..60_u32 {
        let place = |number: usize| [number as f64 * 3.0 - f64::from(tick) * 0.2, 0.1, 0.0];
        let places: Vec<[f64; 3]> = (0..8).map(place).collect();
        for (ball, place) in balls.iter().zip(&places) {
            one_by_one.drive(*ball, *place).unwrap();
        }
        at_once.drive_all(&balls, &places).unwrap();
        assert_eq!(one_by_one.step(), at_once.step());
    }
    assert_eq!(one_by_one.state(), at_once.state());
    let before = at_once.state().clone();
    let mut places = [[0.0; 3]; 8];
    places[7][1] = f64::NAN;
    assert!(matches!(at_once.drive_all(&balls, &places), Err(Fault::Number { .. })));
    let uneven = Fault::Uneven { bodies: 8, places: 7 };
    assert_eq!(at_once.drive_all(&balls, &places[..7]), Err(uneven));
    assert_eq!(at_once.state(), &before, "nobody is driven");
}

/// What looks about may have come to where it does long after a body was told its first place.
#[test]
fn what_comes_near_a_body_later_notices_it_and_loses_it_again() {
    let feeler = Probe { to: [0.0, 0.0, -4.0], ..Probe::default() };
    let scene = Scene::builder("Yard")
        .entity(Entity::new("ball").at([0.0, 0.0, 0.0]).body(ball(0.5)))
        .entity(Entity::new("feeler").at([0.0, 0.0, 30.0]).probe(feeler))
        .entity(Entity::new("there").at([0.0, 0.0, 2.0]))
        .reaction(
            Reaction::on(Trigger::Start)
                .after(1.0)
                .then(Action::move_to("feeler", "there").over(0.5)),
        )
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let mut entries = Vec::new();
    for tick in 0..180_u32 {
        // It hardly moves, until it goes out of the way by small steps.
        let x = f64::from(tick % 2) * 0.001 + f64::from(tick.saturating_sub(120)) * 0.02;
        play.drive("ball", [x, 0.0, 0.0]).unwrap();
        entries.extend(play.step().to_vec());
    }
    let mut told = words(&play, &entries);
    told.retain(|word| word.starts_with("hit") || word.starts_with("clear"));
    assert_eq!(told, ["hit feeler ball move", "clear feeler ball move"]);
}
