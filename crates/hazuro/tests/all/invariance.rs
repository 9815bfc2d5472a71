//! What must make no difference: the order of description, a rigid motion of everything, hostile
//! numbers.

use crate::support;

use std::collections::BTreeSet;

use hazuro::geometry::{Pose, Shape};
use hazuro::glam::DVec3;
use hazuro::scene::{Body, Entity, EventKind, Zone};
use hazuro::{Event, Filter, Input, Play, Scene, Time};
use proptest::prelude::*;
use support::{any_place, any_pose, any_shape, events};

type Placed = (Shape, Pose);

/// Plays bodies that are driven along, with everything moved by `frame`, in this order or the
/// other way round. The events by name.
fn told(
    zones: &[Placed],
    bodies: &[(Placed, DVec3)],
    frame: Pose,
    backwards: bool,
) -> Vec<(String, f64)> {
    let zone = |(index, (shape, pose)): (usize, &Placed)| {
        Entity::new(format!("zone{index}")).at(frame * *pose).zone(Zone::new(shape.clone()))
    };
    let body = |(index, ((shape, pose), _)): (usize, &(Placed, DVec3))| {
        Entity::new(format!("body{index}")).at(frame * *pose).body(Body::new(shape.clone()))
    };
    let mut entities: Vec<Entity> = zones.iter().enumerate().map(zone).collect();
    entities.extend(bodies.iter().enumerate().map(body));
    if backwards {
        entities.reverse();
    }
    let scene =
        entities.into_iter().fold(Scene::builder("Any"), hazuro::scene::SceneBuilder::entity);
    let mut play = Play::new(scene.build().unwrap());
    for (index, (_, to)) in bodies.iter().enumerate() {
        let who = play.scene().find(&format!("body{index}")).unwrap();
        let until = Time::from_secs(2.0);
        play.schedule(Time::ZERO, Input::Drive { who, to: frame.point(*to).into(), until })
            .unwrap();
    }
    let entries = play.advance(Time::from_secs(3.0)).to_vec();
    let name = |event: &Event| {
        let [on, who] = [event.on, event.who].map(|id| play.scene().name(id.unwrap()).to_owned());
        (format!("{} {on} {who}", event.kind), event.time.secs())
    };
    events(&entries).iter().filter(|event| event.kind != EventKind::Start).map(name).collect()
}

fn world() -> impl Strategy<Value = (Vec<Placed>, Vec<(Placed, DVec3)>)> {
    let placed = || (any_shape(), any_pose(5.0));
    let zones = prop::collection::vec(placed(), 1..5);
    (zones, prop::collection::vec((placed(), any_place(6.0)), 1..4))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(80))]

    #[test]
    fn the_order_of_description_changes_only_ties((zones, bodies) in world()) {
        let sorted = |mut told: Vec<(String, f64)>| {
            told.sort_by(|one, other| one.0.cmp(&other.0).then(one.1.total_cmp(&other.1)));
            told
        };
        let forwards = sorted(told(&zones, &bodies, Pose::IDENTITY, false));
        let backwards = sorted(told(&zones, &bodies, Pose::IDENTITY, true));
        prop_assert_eq!(forwards, backwards);
    }

    #[test]
    fn a_rigid_motion_of_the_scene_changes_nothing((zones, bodies) in world(), frame in any_pose(200.0)) {
        let here = told(&zones, &bodies, Pose::IDENTITY, false);
        let there = told(&zones, &bodies, frame, false);
        // Who only just touches may be seen differently; such visits are short.
        let visits = |told: &[(String, f64)]| -> BTreeSet<String> {
            told.iter().map(|(words, _)| words.clone()).collect()
        };
        if visits(&here) == visits(&there) && here.len() == there.len() {
            for ((words, time), (others, at)) in here.iter().zip(&there) {
                prop_assert!(words != others || (time - at).abs() < 1e-4, "{words}: {time} and {at}");
            }
        } else {
            let (longer, shorter) = if here.len() > there.len() { (&here, &there) } else { (&there, &here) };
            let extra: Vec<f64> = longer
                .iter()
                .filter(|(words, _)| !shorter.iter().any(|(others, _)| others == words))
                .map(|(_, time)| *time)
                .collect();
            prop_assert!(extra.len().is_multiple_of(2) && extra.chunks(2).all(|pair| pair[1] - pair[0] < 1e-2));
        }
    }

}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn hostile_numbers_neither_hang_nor_panic(
        sizes in prop::collection::vec(prop::sample::select(vec![1e-6, 1e-3, 1.0, 1e3, 1e6]), 6),
        places in prop::collection::vec(prop::sample::select(vec![0.0, -1e6, 1e6, 1e-9, 0.5]), 12),
        turn in any_pose(1.0),
    ) {
        let at = |index: usize| DVec3::new(places[index], places[index + 1], places[index + 2]);
        let pose = |index: usize| Pose { position: at(index), ..turn };
        let needle = Shape::Box { size: [sizes[0], sizes[1], sizes[2]] };
        let pancake = Shape::Cylinder { radius: sizes[3], height: sizes[4] };
        let scene = Scene::builder("Hostile")
            .entity(Entity::new("one").at(pose(0)).zone(Zone::new(needle.clone())))
            .entity(Entity::new("two").at(pose(3)).zone(Zone::new(pancake.clone())))
            .entity(Entity::new("three").at(pose(0)).body(Body::new(pancake)))
            .entity(Entity::new("four").at(pose(6)).body(Body::new(Shape::Sphere { radius: sizes[5] })))
            .build()
            .unwrap();
        let mut play = Play::new(scene);
        for (who, to) in [("three", 6), ("four", 9), ("four", 9)] {
            play.drive(who, at(to)).unwrap();
            let entries = play.step().to_vec();
            for event in events(&entries) {
                prop_assert!(event.at.is_none_or(DVec3::is_finite));
            }
        }
        play.drive("three", pose(3).turned(2.0)).unwrap();
        play.drive("one", pose(6).turned(-1.0)).unwrap();
        play.step();
        let found = play.space().nearest(at(3), 1e7, 9, &Filter::zones().and_bodies());
        prop_assert_eq!(found.len(), 4);
        prop_assert!(found.iter().all(|found| found.distance.is_finite()));
        prop_assert!(play.space().sweep(&needle, pose(9), at(0), &Filter::zones()).is_ok());
    }
}

#[test]
fn coincident_zones_and_bodies_all_enter_once() {
    let mut scene = Scene::builder("Heap");
    for index in 0..40 {
        let ball = Body::new(Shape::Sphere { radius: 0.5 });
        scene = scene
            .entity(
                Entity::new(format!("pad{index}")).zone(Zone::new(Shape::Sphere { radius: 0.5 })),
            )
            .entity(Entity::new(format!("ball{index}")).body(ball));
    }
    let mut play = Play::new(scene.build().unwrap());
    let seen = events(play.step());
    assert_eq!(seen.len(), 1 + 40 * 40);
    let pairs: Vec<_> = seen[1..].iter().map(|event| (event.on, event.who)).collect();
    assert!(pairs.is_sorted(), "in the order of detectors, then of subjects");
    assert_eq!(play.occupants("pad7").unwrap().len(), 40);
    play.drive("pad7", [9.0, 0.0, 0.0]).unwrap();
    play.step();
    let left = events(play.step());
    assert!(left.iter().all(|event| event.kind == EventKind::Exit) || left.is_empty());
    assert_eq!(play.occupants("pad7").unwrap().len(), 0, "all forty have been left behind");
}
