//! How things move: journeys, parents, walkers, and what inputs do.

use crate::support;

use hazuro::geometry::{Convex, Pose, Shape};
use hazuro::glam::DVec3;
use hazuro::motion::{Easing, Path, Segment, StepPosition, Travel};
use hazuro::scene::{Action, Body, Entity, Floor, Reaction, Trigger, Zone};
use hazuro::{Input, Play, Scene, Target, Time};
use proptest::prelude::*;
use support::{any_place, any_pose, any_rotation, any_shape, ball, cube, play_until, story, words};

fn any_easing() -> impl Strategy<Value = Easing> {
    prop_oneof![
        Just(Easing::Linear),
        Just(Easing::EASE_IN_OUT),
        ([0.0..1.0_f64, 0.0..1.0], [-1.0..2.0_f64, -1.0..2.0])
            .prop_map(|([x1, x2], [y1, y2])| Easing::CubicBezier { x1, y1, x2, y2 }),
    ]
}

fn seconds(seconds: f64) -> Time {
    Time::from_secs(seconds)
}

proptest! {
    #[test]
    fn a_journey_starts_ends_and_never_jumps(
        (from, to) in (any_pose(9.0), any_pose(9.0)),
        ease in any_easing(),
        length in 0.1..5.0_f64,
    ) {
        let travel = Travel::new(seconds(1.0), seconds(1.0 + length), from, to, ease);
        prop_assert_eq!(travel.pose(Time::ZERO), from);
        prop_assert_eq!(travel.pose(seconds(1.0)).position, from.position);
        prop_assert_eq!(travel.pose(seconds(1.0 + length)), to);
        prop_assert_eq!(travel.pose(Time::MAX), to);
        // The steepest these curves get, with room to spare.
        let fastest = from.position.distance(to.position) * 60.0 + 1e-6;
        let mut last = from.position;
        for step in 1..=1000 {
            let here = travel.pose(seconds(1.0 + length * f64::from(step) / 1000.0)).position;
            prop_assert!(here.is_finite());
            if ease == Easing::Linear || ease == Easing::EASE_IN_OUT {
                prop_assert!(here.distance(last) <= fastest / 1000.0);
            }
            last = here;
        }
    }

    #[test]
    fn an_eased_journey_keeps_to_its_curve(way in any_place(5.0), length in 0.2..3.0_f64) {
        let to = Pose::at(way);
        let travel = Travel::new(Time::ZERO, seconds(length), Pose::IDENTITY, to, Easing::EASE);
        for step in 0..=500 {
            let share = f64::from(step) / 500.0;
            let exact = way * Easing::EASE.progress(share);
            let off = travel.pose(seconds(length * share)).position.distance(exact);
            prop_assert!(off < 2e-4, "{off} m off at {share}");
        }
    }

    #[test]
    fn ticks_and_times_are_each_others_inverse(tick in 0..10_000_000_u64, rate in 1..10_000_u32) {
        let start = Time::of_tick(tick, rate);
        prop_assert_eq!(start.tick(rate), tick);
        prop_assert_eq!((start - Time::from_nanos(1)).tick(rate), tick.saturating_sub(1));
        prop_assert!((start.secs() - tick as f64 / f64::from(rate)).abs() < 2e-9);
    }

    #[test]
    fn bounds_hold_every_support_point(shape in any_shape(), pose in any_pose(5.0), way in any_place(1.0)) {
        prop_assume!(way.length() > 1e-3);
        let shape = Convex::new(&shape).unwrap();
        let point = shape.support(&pose, way);
        let bounds = shape.bounds(&pose);
        prop_assert!(bounds.grown(1e-9).min.cmple(point).all());
        prop_assert!(bounds.grown(1e-9).max.cmpge(point).all());
        prop_assert!(point.distance(pose.position) <= shape.reach() + 1e-9);
        // No other support point lies farther along.
        for other in [DVec3::X, DVec3::NEG_Y, DVec3::new(1.0, 2.0, -3.0), -way] {
            prop_assert!(shape.support(&pose, other).dot(way) <= point.dot(way) + 1e-9);
        }
    }

    #[test]
    fn depth_never_says_more_than_there_is(shape in any_shape(), pose in any_pose(2.0), point in any_place(3.0)) {
        let shape = Convex::new(&shape).unwrap();
        let depth = shape.depth(&pose, point);
        let dot = Convex::new(&Shape::Sphere { radius: 1e-6 }).unwrap();
        let touches = |at: DVec3| hazuro::geometry::overlaps(&shape, &pose, &dot, &Pose::at(at));
        if depth > 1e-3 {
            // A ball of that depth around the point lies inside.
            for way in [DVec3::X, DVec3::Y, DVec3::Z, DVec3::ONE.normalize()] {
                prop_assert!(touches(point + way * depth * 0.999));
                prop_assert!(touches(point - way * depth * 0.999));
            }
        }
    }

    #[test]
    fn poses_compose_and_invert(a in any_pose(9.0), b in any_pose(9.0), point in any_place(9.0)) {
        let there = (a * b).point(point);
        prop_assert!(there.distance(a.point(b.point(point))) < 1e-9);
        prop_assert!(a.inverse().point(a.point(point)).distance(point) < 1e-9);
        prop_assert_eq!(a.towards(&b, 0.0).position, a.position);
        prop_assert!(a.towards(&b, 1.0).angle_to(&b) < 1e-6);
    }

    #[test]
    fn a_child_is_carried_along(parent in any_pose(5.0), child in any_pose(2.0), to in any_pose(5.0)) {
        let scene = Scene::builder("Cart")
            .entity(Entity::new("cart").at(parent))
            .entity(Entity::new("lamp").parent("cart").at(child).zone(cube(0.1)))
            .build()
            .unwrap();
        let mut play = Play::new(scene);
        let cart = play.scene().find("cart").unwrap();
        play.schedule(Time::ZERO, Input::Drive { who: cart, to: to.into(), until: seconds(1.0) }).unwrap();
        play.advance(seconds(0.37));
        let expected = play.pose("cart").unwrap() * child;
        prop_assert!(play.pose("lamp").unwrap().position.distance(expected.position) < 1e-9);
        play.advance(seconds(2.0));
        prop_assert!(play.pose("lamp").unwrap().position.distance((to * child).position) < 1e-9);
    }

    #[test]
    fn moving_to_a_marker_ends_at_it_whatever_the_parents(
        (frame, place, marker) in (any_pose(5.0), any_pose(5.0), any_pose(5.0)),
        rotation in any_rotation(),
    ) {
        let marker = Pose { rotation, ..marker };
        let scene = Scene::builder("Gate")
            .entity(Entity::new("post").at(frame))
            .entity(Entity::new("leaf").parent("post").at(place))
            .entity(Entity::new("open").at(marker))
            .reaction(Reaction::on(Trigger::Start).then(Action::move_to("leaf", "open").over(0.5)))
            .reaction(Reaction::on(Trigger::cue("shut")).then(Action::move_home("leaf").over(0.5)))
            .build()
            .unwrap();
        let mut play = Play::new(scene);
        play.advance(seconds(1.0));
        let there = play.pose("leaf").unwrap();
        prop_assert!(there.position.distance(marker.position) < 1e-9);
        prop_assert!(there.angle_to(&marker) < 1e-6);
        play.act(Action::cue("shut")).unwrap();
        play.advance(seconds(2.0));
        prop_assert!(play.pose("leaf").unwrap().position.distance((frame * place).position) < 1e-9);
    }
}

#[test]
fn a_stepped_movement_jumps_and_sweeps_nothing_between() {
    let scene = Scene::builder("Clock")
        .entity(Entity::new("hand").body(ball(0.1)))
        .entity(Entity::new("noon").at([4.0, 0.0, 0.0]))
        .entity(Entity::new("between").at([1.0, 0.0, 0.0]).zone(cube(0.5)))
        .entity(Entity::new("half").at([2.0, 0.0, 0.0]).zone(cube(0.5)))
        .reaction(
            Reaction::on(Trigger::Start).then(
                Action::move_to("hand", "noon")
                    .over(2.0)
                    .ease(Easing::Steps { count: 2, position: StepPosition::JumpEnd }),
            ),
        )
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let entries = play_until(&mut play, 3.0);
    let told = story(&play, &entries);
    assert_eq!(told.len(), 2, "{told:?}");
    assert_eq!(told[0], ("enter half hand move".to_owned(), 1.0));
    assert_eq!(told[1], ("exit half hand move".to_owned(), 2.0));
}

#[test]
fn a_path_is_the_way_its_segments_say() {
    let cut = seconds(1.0);
    let first =
        Segment { start: Time::ZERO, end: cut, from: Pose::IDENTITY, to: Pose::at(DVec3::X) };
    let jump = Pose::at(DVec3::Z * 5.0);
    let second = Segment { start: cut, end: seconds(2.0), from: jump, to: jump };
    let path = Path::new(&[first, second]);
    assert_eq!((path.start(), path.end()), (Time::ZERO, seconds(2.0)));
    assert_eq!(path.pose(seconds(0.5)).position, DVec3::X * 0.5);
    assert_eq!(path.pose(cut), jump, "where it jumps, after the jump");
    assert_eq!(first.between(seconds(0.5), cut).from.position, DVec3::X * 0.5);
}

/// A miller who walks, a sack that cannot, a post to look at.
fn yard() -> Play {
    let scene = Scene::builder("Yard")
        .floor(Floor::At(1.0))
        .entity(
            Entity::new("miller")
                .at([0.0, 1.0, 0.0])
                .body(Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(2.0)),
        )
        .entity(Entity::new("sack").body(ball(0.4)))
        .entity(Entity::new("post").at([4.0, 7.0, 0.0]))
        .build()
        .unwrap();
    Play::new(scene)
}

#[test]
fn walkers_walk_on_the_ground_and_face_where_they_go() {
    let mut play = yard();
    let [miller, sack, post] =
        ["miller", "sack", "post"].map(|name| play.scene().find(name).unwrap());
    play.schedule(Time::ZERO, Input::Walk { who: miller, to: post.into() }).unwrap();
    play.schedule(Time::ZERO, Input::Walk { who: sack, to: post.into() }).unwrap();
    play.advance(seconds(1.0));
    let there = play.pose("miller").unwrap();
    assert!(there.position.distance(DVec3::new(2.0, 1.0, 0.0)) < 1e-9);
    // Facing is -Z unturned, so towards +X it is turned a quarter clockwise from above.
    assert!((there.rotation * DVec3::NEG_Z).distance(DVec3::X) < 1e-9);
    assert_eq!(play.pose("sack").unwrap().position, DVec3::ZERO, "a sack cannot walk");
    play.schedule(play.now(), Input::Face { who: miller, to: [2.0, 1.0, 9.0].into() }).unwrap();
    play.advance(seconds(5.0));
    let there = play.pose("miller").unwrap();
    assert!(
        there.position.distance(DVec3::new(4.0, 1.0, 0.0)) < 1e-6,
        "facing does not stop a walk"
    );
    assert!((there.rotation * DVec3::NEG_Z).distance(DVec3::Z) < 1e-9);
}

#[test]
fn a_new_order_replaces_the_one_before() {
    let mut play = yard();
    let miller = play.scene().find("miller").unwrap();
    play.schedule(Time::ZERO, Input::Walk { who: miller, to: [8.0, 0.0, 0.0].into() }).unwrap();
    play.schedule(seconds(1.0), Input::Walk { who: miller, to: [2.0, 0.0, 5.0].into() }).unwrap();
    play.advance(seconds(9.0));
    assert!(play.pose("miller").unwrap().position.distance(DVec3::new(2.0, 1.0, 5.0)) < 1e-9);
    let turned = Pose::at(DVec3::ONE).turned(1.0);
    play.place("miller", turned).unwrap();
    play.step();
    assert_eq!(play.pose("miller").unwrap(), turned);
    play.place("miller", Target::Place(DVec3::ZERO)).unwrap();
    play.step();
    assert_eq!(
        play.pose("miller").unwrap().rotation,
        turned.rotation,
        "a place keeps the rotation"
    );
}

#[test]
fn a_lift_takes_its_zone_along_past_somebody_who_stands_still() {
    let floor = Zone::new(Shape::Cylinder { radius: 1.0, height: 0.2 });
    let scene = Scene::builder("Hoist")
        .entity(Entity::new("platform").solid(Shape::Box { size: [2.0, 0.2, 2.0] }))
        .entity(Entity::new("floor").parent("platform").zone(floor))
        .entity(Entity::new("loft").at([0.0, 6.0, 0.0]))
        .entity(Entity::new("sack").at([0.5, 3.0, 0.0]).body(ball(0.4)))
        .reaction(Reaction::on(Trigger::Start).then(Action::move_to("platform", "loft").over(3.0)))
        .reaction(Reaction::on(Trigger::exit("floor")).then(Action::teleport("sack", "loft")))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let entries = play_until(&mut play, 5.0);
    let told = story(&play, &entries);
    // Two metres per second; they meet half a metre before and part half a metre after.
    let times: Vec<f64> = told.iter().map(|(_, time)| *time).collect();
    assert_eq!(
        words(&play, &entries),
        [
            "enter floor sack move",
            "exit floor sack move",
            "depart floor sack teleport",
            "arrive loft sack teleport",
            "enter floor sack move"
        ]
    );
    assert!((times[0] - 1.25).abs() < 1e-6 && (times[1] - 1.75).abs() < 1e-6, "{times:?}");
    // Brought to the loft it waits until the floor comes up.
    assert!((times[4] - 2.75).abs() < 1e-6, "{times:?}");
}
