//! Walkers: what is in their way, what they stand on, and how they jump.

mod support;

use hazuro::geometry::{Pose, Shape};
use hazuro::scene::{Action, Body, Entity, Legs};
use hazuro::{Entry, Input, Play, Scene, Time};

fn person() -> Body {
    let legs = Legs { jump: 1.1, ..Legs::default() };
    Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0).legs(legs)
}

fn block(name: &str, at: [f64; 3], size: [f64; 3]) -> Entity {
    Entity::new(name).at(at).solid(Shape::Box { size })
}

fn mill() -> hazuro::scene::SceneBuilder {
    Scene::builder("Mill").entity(Entity::new("miller").body(person()))
}

fn send(play: &mut Play, to: [f64; 3]) {
    let who = play.scene().find("miller").unwrap();
    play.schedule(play.now(), Input::Walk { who, to: to.into() });
}

fn at(play: &Play) -> [f64; 3] {
    play.pose("miller").unwrap().position.to_array()
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
        scene = scene.entity(block(&format!("s{step}"), [0.0, height / 2.0, z], [2.0, height, 0.3]));
    }
    let mut play = Play::new(scene.build().unwrap());
    send(&mut play, [0.0, 0.0, -6.0]);
    for _ in 0..40 {
        for entry in play.advance(play.now() + Time::from_secs(0.1)) {
            if matches!(entry, Entry::Halted { .. }) { println!("{entry:?}"); }
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
