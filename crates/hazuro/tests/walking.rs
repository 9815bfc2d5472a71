//! Walkers: what is in their way, what they stand on, and how they jump.

use hazuro::geometry::{Convex, Pose, Shape, distance};
use hazuro::scene::{Action, Body, Entity, Footing, Legs, Move};
use hazuro::{Entry, Input, Play, Scene, Time};
use proptest::prelude::*;

fn person() -> Body {
    let legs = Legs { jump: 1.1, ..Legs::default() };
    Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0).legs(legs)
}

fn block(name: &str, at: [f64; 3], size: [f64; 3]) -> Entity {
    Entity::new(name).at(at).solid(Shape::Box { size })
}

fn mill() -> hazuro::scene::SceneBuilder {
    Scene::builder("Mill").entity(Entity::new("miller").body(person()).footing(Footing::default()))
}

fn send(play: &mut Play, to: [f64; 3]) {
    let who = play.scene().find("miller").unwrap();
    play.schedule(play.now(), Input::Walk { who, to: to.into() });
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
    for rate in [10, 60, 240] {
        let mut play = Play::new(mill().build().unwrap());
        play.set_rate(rate);
        play.step();
        play.act(Action::jump("miller")).unwrap();
        let (mut top, mut landed) = (0.0_f64, None);
        let start = play.now();
        while play.now() < Time::from_secs(2.0) {
            play.advance(play.now() + Time::from_nanos(1_000_000));
            let height = at(&play)[1];
            top = top.max(height);
            if height < 1e-4 && play.now() > start + Time::from_secs(0.5) && landed.is_none() {
                landed = Some(play.now() - start);
            }
        }
        println!("{rate}: {top} {landed:?}");
        assert!((top - 1.1).abs() < 1e-3, "{top}");
    }
}

#[test]
fn a_wall_is_walked_around() {
    let wall = block("wall", [0.0, 1.5, -4.0], [6.0, 3.0, 0.2]);
    let mut play = Play::new(mill().entity(wall).build().unwrap());
    send(&mut play, [0.0, 0.0, -8.0]);
    for _ in 0..40 {
        play.advance(play.now() + Time::from_secs(0.2));
        println!("{:?} {:?}", play.now(), at(&play));
    }
    assert_eq!(at(&play), [0.0, 0.0, -8.0]);
}

#[test]
fn steps_are_climbed_and_descended() {
    let mut scene = mill();
    for step in 0..4 {
        let height = 0.2 * f64::from(step + 1);
        let z = -2.0 - 0.3 * f64::from(step);
        scene =
            scene.entity(block(&format!("s{step}"), [0.0, height / 2.0, z], [2.0, height, 0.3]));
    }
    let mut play = Play::new(scene.build().unwrap());
    send(&mut play, [0.0, 0.0, -6.0]);
    for _ in 0..40 {
        for entry in play.advance(play.now() + Time::from_secs(0.1)) {
            if matches!(entry, Entry::Halted { .. }) {
                println!("{entry:?}");
            }
        }
        println!("{:?} {:?}", play.now(), at(&play));
    }
    assert!((at(&play)[2] + 6.0).abs() < 1e-3);
}

#[test]
fn riding_a_hoist() {
    let scene = mill()
        .entity(block("hoist", [0.0, -0.1, 0.0], [2.0, 0.2, 2.0]))
        .entity(Entity::new("top").at([0.0, 5.9, 0.0]));
    let mut play = Play::new(scene.build().unwrap());
    play.step();
    play.act(Action::move_to("hoist", "top").over(1.0)).unwrap();
    for _ in 0..12 {
        play.advance(play.now() + Time::from_secs(0.1));
        println!("{:?} {:?}", at(&play), play.pose("hoist").unwrap().position.y);
    }
    assert!((at(&play)[1] - 6.0).abs() < 1e-3);
    play.act(Action::move_home("hoist").over(1.0)).unwrap();
    for _ in 0..12 {
        play.advance(play.now() + Time::from_secs(0.1));
        println!("{:?} {:?}", at(&play), play.pose("hoist").unwrap().position.y);
    }
    assert!((at(&play)[1]).abs() < 1e-3);
}

#[test]
fn a_gate_pushes() {
    let scene = mill().entity(block("gate", [3.0, 1.0, 0.0], [0.2, 2.0, 2.0]));
    let mut play = Play::new(scene.build().unwrap());
    play.step();
    play.act(Action::move_by("gate", [-5.0, 0.0, 0.0]).over(1.0)).unwrap();
    for _ in 0..12 {
        play.advance(play.now() + Time::from_secs(0.1));
        println!("{:?} {:?}", at(&play), play.pose("gate").unwrap().position.x);
    }
    assert!((at(&play)[0] + 2.4).abs() < 1e-3);
    let _ = Pose::IDENTITY;
}
