//! Walkers: what is in their way, what they stand on, and how they jump.

use crate::support;

use hazuro::geometry::{Convex, Pose, Shape, distance};
use hazuro::glam::DQuat;
use hazuro::scene::{Action, Body, Entity, EventKind, Footing, Legs, Move, SceneBuilder};
use hazuro::{Entry, Happening, Input, Play, Scene, Time};
use proptest::prelude::*;
use support::block;

fn person() -> Body {
    let legs = Legs { jump: 1.1, ..Legs::default() };
    Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0).legs(legs)
}

fn mill() -> SceneBuilder {
    Scene::builder("Mill").entity(Entity::new("miller").body(person()).footing(Footing::default()))
}

fn send(play: &mut Play, to: [f64; 3]) {
    let who = play.scene().find("miller").unwrap();
    play.schedule(play.now(), Input::Walk { who, to: to.into() }).unwrap();
}

fn at(play: &Play) -> [f64; 3] {
    play.pose("miller").unwrap().position.to_array()
}

/// How deep the miller is in any solid, in metres.
fn depth(play: &Play, solids: &[(String, Shape)]) -> f64 {
    let floor = play.scene().floor_height().unwrap();
    let capsule = Convex::new(&Shape::Capsule { radius: 0.3, height: 1.8 }).unwrap();
    let miller = play.pose("miller").unwrap() * Pose::from([0.0, 0.9, 0.0]);
    let deep = |(name, shape): &(String, Shape)| {
        let pose = play.pose(name.as_str()).unwrap();
        -distance(&Convex::new(shape).unwrap(), &pose, &capsule, &miller).gap
    };
    solids.iter().map(deep).fold(floor - miller.position.y + 0.9, f64::max)
}

/// What a random walk is made of.
#[derive(Clone, Debug)]
enum Deed {
    Walk([f64; 3]),
    Jump,
    Push(usize, [f64; 3], f64),
}

fn any_deed(boxes: usize) -> impl Strategy<Value = Deed> {
    let place = [-4.0..4.0_f64, 0.0..0.1, -4.0..4.0];
    prop_oneof![
        4 => place.prop_map(Deed::Walk),
        1 => Just(Deed::Jump),
        2 => (0..boxes, [-2.0..2.0_f64, -0.5..1.0, -2.0..2.0], 0.2..2.0_f64)
            .prop_map(|(which, way, over)| Deed::Push(which, way, over)),
    ]
}

fn any_room() -> impl Strategy<Value = Vec<([f64; 3], [f64; 3], f64)>> {
    let place = [-4.0..4.0_f64, 0.0..2.0, -4.0..4.0];
    let size = [0.2..3.0_f64, 0.1..2.0, 0.2..3.0];
    prop::collection::vec((place, size, prop_oneof![Just(0.0), -3.0..3.0_f64]), 1..8)
}

proptest! {
    #[test]
    fn nobody_walks_into_a_solid(
        room in any_room(),
        deeds in prop::collection::vec((any_deed(8), 0.05..1.5_f64), 1..12),
    ) {
        let mut scene = mill();
        let mut solids = Vec::new();
        for (index, (at, size, turn)) in room.iter().enumerate() {
            let at = [at[0], at[1], at[2]];
            let pose = Pose::from(at).turned(*turn);
            let shape = Shape::Box { size: *size };
            let gap = {
                let capsule = Convex::new(&Shape::Capsule { radius: 0.3, height: 1.8 }).unwrap();
                let miller = Pose::from([0.0, 0.9, 0.0]);
                distance(&Convex::new(&shape).unwrap(), &pose, &capsule, &miller).gap
            };
            if gap < 0.01 {
                continue;
            }
            let name = format!("box{index}");
            solids.push((name.clone(), shape.clone()));
            scene = scene.entity(Entity::new(name).at(pose).solid(shape));
        }
        let mut play = Play::new(scene.build().unwrap());
        for (deed, seconds) in deeds {
            match deed {
                Deed::Walk(to) => send(&mut play, to),
                Deed::Jump => drop(play.act(Action::jump("miller"))),
                Deed::Push(_, _, _) if solids.is_empty() => {}
                Deed::Push(which, way, over) => {
                    let which = solids[which % solids.len()].0.clone();
                    let push: Move = Action::move_by(which, way).over(over);
                    play.act(push).unwrap();
                }
            }
            let end = play.now() + Time::from_secs(seconds);
            while play.now() < end {
                play.advance((play.now() + Time::from_secs(0.01)).min(end));
                let deep = depth(&play, &solids);
                prop_assert!(deep <= 1e-3, "{deep} m deep at {:?}", play.now());
            }
        }
    }
}
#[test]
fn a_jump_is_as_high_as_told_and_lands_at_the_same_time_at_any_rate() {
    let mut landings = Vec::new();
    for rate in [10, 60, 240] {
        let mut play = Play::new(mill().build().unwrap());
        play.set_rate(rate).unwrap();
        play.advance(Time::from_secs(0.2));
        play.act(Action::jump("miller")).unwrap();
        let (mut top, mut landed) = (0.0_f64, None);
        while play.now() < Time::from_secs(2.0) {
            let entries = play.advance(play.now() + Time::from_nanos(700_000)).to_vec();
            top = top.max(at(&play)[1]);
            let lands = entries.iter().filter_map(Entry::event);
            landed = landed
                .or(lands.filter(|it| it.kind == EventKind::Land).map(|it| it.time).next_back());
        }
        assert!((top - 1.1).abs() < 1e-3, "{top}");
        landings.push(landed.unwrap());
    }
    // Up and down again takes twice the time of the fall. Who lands is noticed within the footing's
    // margin of 5 cm, at the first tick of the scene.
    assert!(landings.iter().all(|landing| *landing == landings[0]), "{landings:?}");
    let whole = 0.2 + 2.0 * (2.0 * 1.1 / 9.81_f64).sqrt();
    let seconds = landings[0].secs();
    assert!(seconds <= whole + 1e-5 && seconds > whole - 0.03, "{seconds} {whole}");
}

#[test]
fn who_falls_lands_to_the_microsecond() {
    let margin = Footing { margin: 0.001, ..Footing::default() };
    for rate in [10, 60, 240] {
        let scene = Scene::builder("Mill")
            .entity(
                Entity::new("miller").at([0.0, 4.0, 0.0]).body(person()).footing(margin.clone()),
            )
            .entity(block("yard", [0.0, -0.5, 0.0], [9.0, 1.0, 9.0]));
        let mut play = Play::new(scene.build().unwrap());
        play.set_rate(rate).unwrap();
        let entries = play.advance(Time::from_secs(2.0)).to_vec();
        let landing = entries.iter().filter_map(Entry::event).find(|it| it.kind == EventKind::Land);
        let fall = (2.0 * 4.0 / 9.81_f64).sqrt();
        assert!((landing.unwrap().time.secs() - fall).abs() < 1e-5, "{landing:?} {fall}");
        assert!(at(&play)[1].abs() < 2e-5, "{:?}", at(&play));
    }
}

/// Walks to a place in so many seconds at most.
fn walks(scene: SceneBuilder, to: [f64; 3], seconds: f64) -> [f64; 3] {
    let mut play = Play::new(scene.build().unwrap());
    send(&mut play, to);
    let entries = play.advance(Time::from_secs(seconds)).to_vec();
    assert!(
        !entries.iter().any(|entry| matches!(&entry.what, Happening::Halted { .. })),
        "{entries:?}"
    );
    at(&play)
}

#[test]
fn a_wall_is_walked_around_the_short_way() {
    let wall = || block("wall", [1.0, 1.5, -4.0], [6.0, 3.0, 0.2]);
    assert_eq!(walks(mill().entity(wall()), [0.0, 0.0, -8.0], 3.4), [0.0, 0.0, -8.0]);
    let maze = mill()
        .entity(block("one", [2.0, 1.0, -2.0], [8.0, 2.0, 0.2]))
        .entity(block("two", [-2.0, 1.0, -4.0], [8.0, 2.0, 0.2]))
        .entity(block("three", [2.0, 1.0, -6.0], [8.0, 2.0, 0.2]));
    assert_eq!(walks(maze, [0.0, 0.0, -8.0], 8.0), [0.0, 0.0, -8.0]);
}

#[test]
fn a_door_just_wide_enough_is_found() {
    let scene = mill().entity(block("left", [-5.03, 1.0, -3.0], [9.36, 2.0, 0.3])).entity(block(
        "right",
        [5.03, 1.0, -3.0],
        [9.36, 2.0, 0.3],
    ));
    assert_eq!(walks(scene, [3.0, 0.0, -6.0], 5.0), [3.0, 0.0, -6.0]);
}

#[test]
fn steps_are_climbed_and_descended_and_slopes_walked() {
    let mut scene = mill();
    for step in 0..8 {
        let height = 0.2 * f64::from(4 - (step - 4_i32).abs()).max(0.5);
        let z = -2.0 - 0.4 * f64::from(step);
        let at = [0.0, height / 2.0, z];
        scene = scene.entity(block(&format!("step{step}"), at, [20.0, height, 0.4]));
    }
    let far = walks(scene, [0.0, 0.0, -9.0], 5.0);
    assert!(far[2] == -9.0 && far[1] < 1e-4, "{far:?}");
    let ramp = Pose { rotation: DQuat::from_rotation_x(0.4), ..Pose::from([0.0, 0.0, -4.0]) };
    let plank = Entity::new("ramp").at(ramp).solid(Shape::Box { size: [4.0, 0.1, 6.0] });
    let up = walks(mill().entity(plank), [0.0, 0.8, -6.0], 3.0);
    // As high as the plank is there, and where a round foot touches a slope.
    let plank = 2.0 * 0.4_f64.tan() + 0.05 / 0.4_f64.cos() + 0.3 * (1.0 / 0.4_f64.cos() - 1.0);
    assert!((up[2] + 6.0).abs() < 1e-6 && (up[1] - plank).abs() < 1e-3, "{up:?} {plank}");
}

#[test]
fn who_gets_no_further_says_what_is_in_the_way_and_goes_on_when_it_is_gone() {
    let mut scene = mill();
    for (name, x, z, width, depth) in [
        ("north", 0.0, -3.0, 6.4, 0.2),
        ("south", 0.0, 3.0, 6.4, 0.2),
        ("west", -3.0, 0.0, 0.2, 6.0),
        ("east", 3.0, 0.0, 0.2, 6.0),
    ] {
        scene = scene.entity(block(name, [x, 1.0, z], [width, 2.0, depth]));
    }
    let mut play = Play::new(scene.build().unwrap());
    send(&mut play, [0.0, 0.0, -8.0]);
    let entries = play.advance(Time::from_secs(4.0)).to_vec();
    let north = play.scene().find("north");
    let halts = entries.iter().filter_map(|entry| match &entry.what {
        Happening::Halted { by, .. } => Some(*by),
        _ => None,
    });
    assert_eq!(halts.collect::<Vec<_>>(), [north], "once");
    play.act(Action::move_by("north", [0.0, 3.0, 0.0]).over(1.0)).unwrap();
    play.advance(Time::from_secs(8.0));
    assert_eq!(at(&play), [0.0, 0.0, -8.0]);
}

#[test]
fn who_is_followed_is_followed_around_corners_and_bodies_may_block() {
    let scene = mill()
        .entity(block("wall", [2.0, 1.0, -3.0], [8.0, 2.0, 0.2]))
        .entity(Entity::new("dog").at([2.0, 0.0, 2.0]).body(person().walk(4.0)))
        .entity(Entity::new("cow").at([0.0, 0.0, -5.5]).body(person().blocks(true)));
    let mut play = Play::new(scene.build().unwrap());
    let [dog, miller] = ["dog", "miller"].map(|name| play.scene().find(name).unwrap());
    play.schedule(Time::ZERO, Input::Follow { who: dog, whom: miller, near: 1.5 }).unwrap();
    let through = vec![[-3.0, 0.0, 0.0].into(), [0.0, 0.0, -8.0].into()];
    play.schedule(Time::ZERO, Input::WalkAlong { who: miller, through }).unwrap();
    for _ in 0..60 {
        play.advance(play.now() + Time::from_secs(0.1));
        let [dog, cow] = ["dog", "cow"].map(|it| play.pose(it).unwrap().position);
        assert!(dog.distance(cow) > 0.599, "a cow is in the way: {dog}");
    }
    assert_eq!(at(&play), [0.0, 0.0, -8.0]);
    let apart = play.pose("dog").unwrap().position.distance(at(&play).into());
    assert!(apart < 1.8, "{apart}");
    play.act(Action::halt("dog")).unwrap();
    play.act(Action::walk("miller", "cow")).unwrap();
    let entries = play.advance(play.now() + Time::from_secs(3.0)).to_vec();
    let apart = play.pose("cow").unwrap().position.distance(at(&play).into());
    assert!((apart - 0.6).abs() < 1e-3, "up to it, and no complaint: {apart}");
    assert!(!entries.iter().any(|entry| matches!(&entry.what, Happening::Halted { .. })));
}

#[test]
fn what_is_too_steep_is_slid_down_and_a_ceiling_ends_a_jump() {
    let steep = Pose { rotation: DQuat::from_rotation_x(1.1), ..Pose::from([0.0, 0.0, -2.0]) };
    let scene = Scene::builder("Mill")
        .entity(Entity::new("miller").at([0.0, 3.0, -2.6]).body(person()))
        .entity(Entity::new("roof").at(steep).solid(Shape::Box { size: [9.0, 0.1, 9.0] }));
    let mut play = Play::new(scene.build().unwrap());
    play.advance(Time::from_secs(3.0));
    assert!(at(&play)[1] < 0.1 && at(&play)[2] > -2.0, "{:?}", at(&play));
    let low = mill().entity(block("beam", [0.0, 2.4, 0.0], [2.0, 0.4, 2.0]));
    let mut play = Play::new(low.build().unwrap());
    play.step();
    play.act(Action::jump("miller")).unwrap();
    let mut top = 0.0_f64;
    for _ in 0..100 {
        play.advance(play.now() + Time::from_secs(0.01));
        top = top.max(at(&play)[1]);
    }
    assert!((top - 0.4).abs() < 1e-3, "{top}");
}

#[test]
fn the_same_walk_is_the_same_at_any_rate_and_after_going_back() {
    let play = |rate: u32| {
        let scene = mill()
            .entity(block("wall", [1.0, 1.5, -4.0], [6.0, 3.0, 0.2]))
            .entity(block("gate", [-4.0, 1.0, -3.0], [0.4, 2.0, 0.4]))
            .entity(block("hoist", [0.0, 0.05, -8.0], [2.0, 0.1, 2.0]));
        let mut play = Play::new(scene.build().unwrap());
        play.set_rate(rate).unwrap();
        send(&mut play, [0.0, 0.0, -8.0]);
        let push: Move = Action::move_by("gate", [3.0, 0.0, -2.0]).over(2.5);
        play.act(push).unwrap();
        play
    };
    let finish = |mut play: Play| {
        play.advance(Time::from_secs(6.0));
        play.state().fingerprint()
    };
    let expected = finish(play(60));
    for rate in [7, 240, 1000] {
        let mut other = play(rate);
        while other.now() < Time::from_secs(5.0) {
            other.step();
        }
        assert_eq!(finish(other), expected, "at {rate}");
    }
    for back in [0.37, 1.1, 2.2, 3.3] {
        let mut first = play(60);
        first.advance(Time::from_secs(back));
        let state = first.state().clone();
        first.advance(Time::from_secs(5.0));
        first.restore(state).unwrap();
        assert_eq!(finish(first), expected, "from {back}");
    }
}
