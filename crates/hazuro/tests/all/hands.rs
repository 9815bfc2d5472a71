//! What is held is stopped by what is solid, and so stops or turns whoever holds it.

use crate::support;

use std::f64::consts::FRAC_PI_2;

use hazuro::geometry::{Convex, Shape, distance};
use hazuro::scene::{Action, Body, Carry, Entity, Facts, Floor, SceneBuilder, Teleport};
use hazuro::{Happening, Input, Play, Refusal, Scene, Target};
use proptest::prelude::*;
use support::{at, block, person, play_until, words};

/// Somebody with a pole before them that is held upright.
fn pole(size: [f64; 3], hold: [f64; 3]) -> SceneBuilder {
    let carry = Carry { hold: Some(hold), ..Carry::default() };
    let pole = Entity::new("pole").at([0.0, size[1] / 2.0 + 0.01, -hold[2].abs()]);
    Scene::builder("Loft")
        .floor(Floor::At(0.0))
        .entity(Entity::new("ada").body(person()))
        .entity(pole.body(Body::new(Shape::Box { size })).carry(carry))
}

const UPRIGHT: [f64; 3] = [0.1, 2.4, 0.1];

fn walk(play: &mut Play, to: [f64; 3], seconds: f64) -> Vec<hazuro::Entry> {
    let who = play.scene().find("ada").unwrap();
    play.schedule(play.now(), Input::Walk { who, to: Target::Place(to.into()) }).unwrap();
    let until = play.now().secs() + seconds;
    play_until(play, until)
}

#[test]
fn a_pole_that_is_too_tall_stops_its_holder_before_the_roof() {
    let roof = block("roof", [0.0, 2.1, -5.0], [6.0, 0.2, 4.0]);
    let scene = || pole(UPRIGHT, [0.0, 1.25, -0.6]).entity(roof.clone()).build().unwrap();
    let mut play = Play::new(scene());
    walk(&mut play, [0.0, 0.0, -5.0], 4.0);
    assert!((at(&play, "ada").z + 5.0).abs() < 1e-6, "with empty hands: {}", at(&play, "ada"));
    let mut play = Play::new(scene());
    play.act(Action::grab("pole", "ada")).unwrap();
    let entries = walk(&mut play, [0.0, 0.0, -5.0], 4.0);
    let halted = entries.iter().find_map(|entry| match entry.what {
        Happening::Halted { by, .. } => by,
        _ => None,
    });
    assert_eq!(halted, play.scene().find("roof"));
    // Its edge is at z = -3, up to which the pole gets, with its holder beside it at the nearest.
    let (ada, pole) = (at(&play, "ada"), at(&play, "pole"));
    assert!((-2.951..-2.3).contains(&ada.z) && (pole.z + 2.95).abs() < 2e-3, "{ada} {pole}");
    // Once it is put down, the way is free.
    play.act(Action::drop("ada")).unwrap();
    walk(&mut play, [1.0, 0.0, -5.0], 4.0);
    assert!((at(&play, "ada").z + 5.0).abs() < 1e-6, "{}", at(&play, "ada"));
}

#[test]
fn a_long_pole_goes_through_a_door_lengthwise_only() {
    let side = |name: &str, x: f64| block(name, [x, 1.5, -6.0], [60.0, 3.0, 0.4]);
    let scene = pole([0.1, 0.1, 2.4], [0.0, 1.0, -1.6])
        .entity(side("left", -30.6))
        .entity(side("right", 30.6));
    let scene = scene.build().unwrap();
    for (turn, passes) in [(0.0, true), (FRAC_PI_2, false)] {
        let mut play = Play::new(scene.clone());
        play.act(Action::grab("pole", "ada")).unwrap();
        play.act(Action::turn("pole", turn)).unwrap();
        walk(&mut play, [0.0, 0.0, -12.0], 8.0);
        let z = at(&play, "ada").z;
        assert_eq!((z + 12.0).abs() < 1e-6, passes, "turned by {turn}: {}", at(&play, "ada"));
        assert!(passes || z > -5.0, "{z}");
    }
}

#[test]
fn what_is_taken_before_a_wall_is_held_nearer_and_what_has_no_room_is_not_taken() {
    let wall = block("wall", [0.0, 1.5, -0.75], [6.0, 3.0, 0.3]);
    let scene = pole([0.2, 0.2, 0.2], [0.0, 1.0, -0.6]).entity(wall).build().unwrap();
    let mut play = Play::new(scene);
    play.act(Action::grab("pole", "ada")).unwrap();
    let entries = play_until(&mut play, 0.1);
    assert_eq!(words(&play, &entries), ["grab pole ada"]);
    // The wall begins at z = -0.6.
    let z = at(&play, "pole").z;
    assert!((-0.5..-0.49).contains(&z), "{z}");
    // Turned away from it and made to face it again, it is not in the wall either.
    walk(&mut play, [0.0, 0.0, 3.0], 2.0);
    assert!(
        (at(&play, "pole").z - 2.4).abs() > 0.1,
        "it is held before her, whichever way she looks"
    );
    let low = block("lid", [0.0, 1.3, 0.0], [6.0, 0.2, 1.0]);
    let scene = pole([0.2, 2.4, 0.2], [0.0, 1.25, -0.6]).entity(low).build().unwrap();
    let mut play = Play::new(scene);
    play.act(Action::grab("pole", "ada")).unwrap();
    let refused = play
        .step()
        .iter()
        .any(|entry| matches!(&entry.what, Happening::Refused { why: Refusal::NoRoom, .. }));
    assert!(refused, "{:?}", at(&play, "pole"));
}

#[test]
fn who_takes_something_by_themselves_must_be_within_its_reach() {
    let scene = pole([0.2, 0.2, 0.2], [0.0, 1.0, -0.6]).build().unwrap();
    let [ada, pole] = ["ada", "pole"].map(|name| scene.find(name).unwrap());
    let mut play = Play::new(scene);
    for (place, takes) in [(-4.0, false), (-1.95, false), (-1.85, true)] {
        play.act(Action::drop("ada")).unwrap();
        play.place("pole", [0.0, 0.11, place]).unwrap();
        play.schedule(play.now(), Input::Grab { who: ada, what: pole }).unwrap();
        let entries = play.step();
        let refused = entries.iter().find_map(|entry| match &entry.what {
            Happening::Refused { why: Refusal::OutOfReach { distance, reach }, .. } => {
                Some((*distance, *reach))
            }
            _ => None,
        });
        // From her side, 0.3 m before her, to the pole's, 0.1 m nearer than its middle.
        let apart = -place - 0.4;
        assert_eq!(refused.is_none(), takes, "{place}: {refused:?}");
        assert!(
            refused.is_none_or(|(far, reach)| far >= apart && far < apart + 0.1 && reach == 1.5)
        );
        assert_eq!(play.facts().holder(pole), takes.then_some(ada));
    }
    // An action takes it from anywhere.
    play.act(Action::drop("ada")).unwrap();
    play.place("pole", [0.0, 0.11, -30.0]).unwrap();
    play.act(Action::grab("pole", "ada")).unwrap();
    play.step();
    assert_eq!(play.facts().holder(pole), Some(ada));
}

#[test]
fn a_teleport_to_where_there_is_room_looks_for_room_for_both() {
    let shelf = block("shelf", [20.0, 2.1, 0.0], [2.0, 0.2, 2.0]);
    let scene = pole(UPRIGHT, [0.0, 1.25, -0.6])
        .entity(shelf)
        .entity(Entity::new("nook").at([20.0, 0.0, 0.0]));
    let scene = scene.build().unwrap();
    let there = || Teleport { free: true, ..Action::teleport("ada", "nook") };
    let mut play = Play::new(scene.clone());
    play.act(there()).unwrap();
    play.step();
    assert_eq!(at(&play, "ada").x, 20.0);
    let mut play = Play::new(scene);
    play.act(Action::grab("pole", "ada")).unwrap();
    play.act(there()).unwrap();
    play.step();
    let (ada, pole) = (at(&play, "ada"), at(&play, "pole"));
    let under = (pole.x - 20.0).abs() < 1.05 && pole.z.abs() < 1.05;
    assert!(!under && ada.x > 10.0, "{ada} {pole}");
}

#[test]
fn a_gate_that_comes_down_on_what_is_held_stops() {
    let gate = block("gate", [0.0, 4.0, -0.6], [2.0, 1.0, 0.3]);
    let scene = pole(UPRIGHT, [0.0, 1.25, -0.6]).entity(gate).build().unwrap();
    let mut play = Play::new(scene);
    play.act(Action::grab("pole", "ada")).unwrap();
    play.step();
    play.act(Action::move_by("gate", [0.0, -3.0, 0.0]).over(1.0)).unwrap();
    play_until(&mut play, 2.0);
    // The pole reaches up to 2.45 m, and the gate is 1 m high.
    assert!((at(&play, "gate").y - 2.95).abs() < 2e-3, "{}", at(&play, "gate"));
}

/// How deep what is held lies in anything solid, in metres.
fn depth(play: &Play) -> f64 {
    let scene = play.scene();
    let shape = |name: &str| {
        let id = scene.find(name).unwrap();
        let shape = scene.solid_of(id).cloned().or_else(|| scene.body_of(id)?.shape().cloned());
        (Convex::new(&shape.unwrap()).unwrap(), play.pose(id).unwrap())
    };
    let (pole, at) = shape("pole");
    let solids = scene.ids().filter(|id| scene.is_solid(*id));
    let deep = solids.map(|id| {
        let (solid, place) = shape(scene.name(id));
        -distance(&solid, &place, &pole, &at).gap
    });
    deep.fold(0.0, f64::max)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, ..ProptestConfig::default() })]

    #[test]
    fn what_is_held_is_never_in_anything_solid(
        blocks in proptest::collection::vec(
            ([-6.0..6.0_f64, 0.0..3.0, -6.0..6.0], [0.3..4.0_f64, 0.2..2.5, 0.3..4.0]), 1..9),
        size in [0.1..1.2_f64, 0.1..2.4, 0.1..1.8],
        deeds in proptest::collection::vec((0..4_u32, [-6.0..6.0_f64, 0.0..1.0, -6.0..6.0]), 4..12),
    ) {
        let hold = [0.0, size[1] / 2.0 + 0.3, -0.4 - size[2] / 2.0];
        let mut scene = pole(size, hold).entity(Entity::new("mark").at([3.0, 0.0, 3.0]));
        for (number, (place, size)) in blocks.iter().enumerate() {
            // Nothing where they begin.
            let place = [place[0], place[1], place[2] - if place[2] < 0.0 { 5.0 } else { -4.0 }];
            scene = scene.entity(block(&format!("block {number}"), place, *size));
        }
        let mut play = Play::new(scene.build().unwrap());
        play.act(Action::grab("pole", "ada")).unwrap();
        let ada = play.scene().find("ada").unwrap();
        let pole = play.scene().find("pole").unwrap();
        for (deed, place) in deeds {
            match deed {
                0 => play.act(Action::face("ada", "mark")).unwrap(),
                1 => play.act(Teleport { free: true, stand: true, ..Action::teleport("ada", "mark") }).unwrap(),
                _ => {
                    let to = Target::Place([place[0], 0.0, place[2]].into());
                    play.schedule(play.now(), Input::Walk { who: ada, to }).unwrap();
                }
            }
            for _ in 0..40 {
                play.step();
                if play.facts().holder(pole).is_some() {
                    let deep = depth(&play);
                    prop_assert!(deep < 1e-3, "{deep} at {}", play.now());
                }
            }
        }
        play.state().assert_consistent(play.scene());
    }
}
