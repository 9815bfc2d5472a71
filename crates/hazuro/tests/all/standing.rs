//! What stands, lies and rides on what: grounds of all sorts, things that move and turn, things
//! that are pushed, and whoever is first.

use crate::support;

use hazuro::geometry::{Pose, Shape};
use hazuro::glam::{DQuat, DVec3};
use hazuro::scene::{
    Action, Admit, Body, Carry, Entity, EventKind, Fault, Floor, Footing, Grant, Pickup, Reaction,
    SceneBuilder, Trigger, Zone,
};
use hazuro::{Happening, Input, Play, Refusal, Scene, Target, Time};
use proptest::prelude::*;
use support::{at, block, cube, events, person, play_until, words};

fn sack(name: &str, at: [f64; 3]) -> Entity {
    let body = Body::new(Shape::Box { size: [0.5, 0.7, 0.4] });
    Entity::new(name).at(at).body(body).carry(Carry::default())
}

fn yard() -> SceneBuilder {
    Scene::builder("Yard").entity(Entity::new("miller").body(person()).footing(Footing::default()))
}

#[test]
fn the_floor_lies_as_low_as_anything_to_stand_on() {
    let floor = |scene: SceneBuilder| scene.build().unwrap().floor_height();
    assert_eq!(floor(yard()), Some(0.0));
    let half_buried = block("post", [0.0, 0.0, 5.0], [1.0, 2.0, 1.0]);
    assert_eq!(floor(yard().entity(half_buried)), Some(0.0));
    let cellar = block("cellar", [9.0, -3.5, 0.0], [4.0, 1.0, 4.0]);
    assert_eq!(floor(yard().entity(cellar.clone())), Some(-3.0));
    assert_eq!(floor(yard().entity(cellar).floor(Floor::At(-1.0))), Some(-1.0));
    assert_eq!(floor(yard().floor(Floor::Missing)), None);
    let rows = vec![vec![1.0, 2.0], vec![-4.0, 0.0]];
    let ground = Entity::new("ground").solid(Shape::Heights { spacing: 1.0, rows });
    assert!(floor(yard().entity(ground)).unwrap() <= -4.0);
    // Without a floor one falls without end, and the play goes on.
    let mut play = Play::new(yard().floor(Floor::Missing).build().unwrap());
    play.advance(Time::from_secs(60.0));
    assert!(at(&play, "miller").y < -1000.0);
    let mut play = Play::new(yard().build().unwrap());
    let entries = play_until(&mut play, 1.0);
    assert_eq!(words(&play, &entries), ["land miller - appear"], "the floor is no entity");
}

#[test]
fn who_stands_on_a_turntable_goes_round_and_turns_with_it() {
    let scene = yard()
        .entity(
            Entity::new("wheel")
                .at([1.0, -0.1, 0.0])
                .solid(Shape::Cylinder { radius: 3.0, height: 0.2 }),
        )
        .entity(sack("rye", [2.0, 0.35, 0.5]));
    let mut play = Play::new(scene.build().unwrap());
    play.step();
    let before = play.pose("wheel").unwrap().inverse();
    let [miller, rye] = ["miller", "rye"].map(|it| before * play.pose(it).unwrap());
    play.act(Action::turn("wheel", 2.0).over(1.5)).unwrap();
    let mut entries = Vec::new();
    for _ in 0..40 {
        entries.extend_from_slice(play.advance(play.now() + Time::from_secs(0.05)));
        let wheel = play.pose("wheel").unwrap();
        for (name, local) in [("miller", miller), ("rye", rye)] {
            let apart = (wheel * local).position.distance(at(&play, name));
            assert!(apart < 1e-3, "{name} slips by {apart}");
        }
    }
    let turned = play.pose("miller").unwrap().rotation * DVec3::NEG_Z;
    let expected = DQuat::from_rotation_y(2.0) * DVec3::NEG_Z;
    assert!(turned.distance(expected) < 1e-6, "{turned}");
    assert_eq!(words(&play, &entries), [""; 0]);
}

#[test]
fn who_walks_on_a_ship_gets_where_he_is_to_go_on_it() {
    let scene = yard()
        .entity(block("ship", [0.0, -0.1, 0.0], [4.0, 0.2, 20.0]))
        .entity(Entity::new("bow").parent("ship").at([0.0, 0.1, -8.0]));
    let mut play = Play::new(scene.build().unwrap());
    play.act(Action::move_by("ship", [20.0, 0.0, -5.0]).over(8.0)).unwrap();
    play.act(Action::walk("miller", "bow")).unwrap();
    play.advance(Time::from_secs(12.0));
    let (miller, ship) = (at(&play, "miller"), at(&play, "ship"));
    assert!((miller.y - ship.y - 0.1).abs() < 1e-3, "{miller}");
    assert!(miller.distance(at(&play, "bow")) < 0.3, "{miller} at {}", at(&play, "bow"));
}

#[test]
fn a_platform_put_elsewhere_takes_who_stands_on_it_along() {
    let scene = yard()
        .entity(block("raft", [0.0, -0.1, 0.0], [3.0, 0.2, 3.0]))
        .entity(sack("rye", [1.0, 0.35, 0.0]))
        .entity(Entity::new("island").at([40.0, 6.9, 0.0]));
    let mut play = Play::new(scene.build().unwrap());
    play.step();
    play.act(Action::teleport("raft", "island")).unwrap();
    play.advance(Time::from_secs(1.0));
    assert!(at(&play, "miller").distance(DVec3::new(40.0, 7.0, 0.0)) < 1e-3);
    assert!(at(&play, "rye").distance(DVec3::new(41.0, 7.35, 0.0)) < 1e-3);
    // Taken away, it carries nobody any more.
    play.act(Action::disable("raft")).unwrap();
    let entries = play_until(&mut play, 4.0);
    assert!(at(&play, "miller").y < 0.01 && at(&play, "rye").y < 0.36);
    let told = words(&play, &entries);
    assert!(told.contains(&"lift_off miller raft disable".to_owned()), "{told:?}");
    assert!(told.contains(&"land miller - move".to_owned()), "{told:?}");
    assert!(told.contains(&"settle rye -".to_owned()), "{told:?}");
}

#[test]
fn sacks_rest_on_slopes_by_their_friction_float_without_gravity_and_are_pushed() {
    let ramp = Pose { rotation: DQuat::from_rotation_z(0.35), ..Pose::from([10.0, 1.0, 0.0]) };
    let on_ramp = |name: &str, z: f64, friction: f64| {
        sack(name, [10.0, 2.2, z]).carry(Carry { friction, ..Carry::default() })
    };
    let scene = yard()
        .entity(Entity::new("ramp").at(ramp).solid(Shape::Box { size: [8.0, 0.2, 8.0] }))
        .entity(on_ramp("rough", -1.5, 0.6))
        .entity(on_ramp("smooth", 1.5, 0.1))
        .entity(
            sack("balloon", [3.0, 2.0, 0.0]).carry(Carry { gravity: false, ..Carry::default() }),
        )
        .entity(block("broom", [-8.0, 0.5, 0.0], [0.2, 1.0, 2.0]))
        .entity(sack("rye", [-6.0, 0.35, 0.0]))
        .entity(sack("oats", [-6.0, 1.05, 0.0]));
    let mut play = Play::new(scene.build().unwrap());
    play.advance(Time::from_secs(6.0));
    let (rough, smooth) = (at(&play, "rough"), at(&play, "smooth"));
    assert!((rough.x - 10.0).abs() < 0.4 && rough.y > 1.0, "{rough}");
    assert!(smooth.x < 7.0 && smooth.y < 0.4, "{smooth}");
    assert_eq!(at(&play, "balloon"), DVec3::new(3.0, 2.0, 0.0));
    play.act(Action::move_by("broom", [4.0, 0.0, 0.0]).over(2.0)).unwrap();
    play.advance(Time::from_secs(9.0));
    let (rye, oats) = (at(&play, "rye"), at(&play, "oats"));
    assert!((rye.x + 3.65).abs() < 2e-3, "{rye}");
    assert!((oats - rye - DVec3::Y * 0.7).length() < 2e-3, "{oats} lies on {rye}");
}

#[test]
fn of_two_at_the_same_instant_the_first_of_the_scene_collects() {
    let token = Entity::new("token")
        .zone(Zone::new(Shape::Sphere { radius: 0.5 }))
        .pickup(Pickup { grant: Grant::default().own_count("tokens", 1), ..Pickup::default() });
    let scene = Scene::builder("Yard")
        .entity(Entity::new("miller").at([-3.0, 0.0, 0.0]).body(person()))
        .entity(Entity::new("apprentice").at([3.0, 0.0, 0.0]).body(person()))
        .entity(token);
    let mut play = Play::new(scene.build().unwrap());
    for name in ["miller", "apprentice"] {
        let who = play.scene().find(name).unwrap();
        play.schedule(Time::ZERO, Input::Walk { who, to: [0.0; 3].into() }).unwrap();
    }
    let entries = play_until(&mut play, 2.0);
    let collects = events(&entries).into_iter().filter(|event| event.kind == EventKind::Collect);
    let who: Vec<_> =
        collects.map(|event| play.scene().name(event.who.unwrap()).to_owned()).collect();
    assert_eq!(who, ["miller"]);
    let refused = entries.iter().filter_map(|entry| match &entry.what {
        Happening::Refused { action: Action::Collect { to, .. }, why, .. } => {
            Some((play.scene().name(*to), why.clone()))
        }
        _ => None,
    });
    let refused: Vec<_> = refused.collect();
    let never_came = events(&entries).iter().filter(|it| it.kind == EventKind::Enter).count() == 1;
    assert!(never_came || refused == [("apprentice", Refusal::Gone)], "{refused:?}");
}

#[test]
fn a_teleport_is_one_way_until_the_other_is_switched_on() {
    let pad = |name: &str, x: f64| Entity::new(name).at([x, 1.0, 0.0]).zone(cube(1.0));
    let scene = yard()
        .entity(pad("out", 5.0).admit(Admit::names(["miller"])))
        .entity(pad("back", 20.0).enabled(false))
        .entity(Entity::new("shore").at([20.0, 0.0, 0.0]))
        .reaction(Reaction::on(Trigger::enter("out")).then(Action::teleport("who", "shore")))
        .reaction(Reaction::on(Trigger::enter("back")).then(Action::teleport("who", "out")));
    let mut play = Play::new(scene.build().unwrap());
    play.act(Action::walk("miller", "out")).unwrap();
    play.advance(Time::from_secs(3.0));
    assert_eq!(at(&play, "miller").x, 20.0);
    play.act(Action::enable("back")).unwrap();
    play.advance(Time::from_secs(4.0));
    assert!((at(&play, "miller").x - 5.0).abs() < 1e-9, "{}", at(&play, "miller"));
}

#[test]
fn places_and_rotations_may_be_those_of_other_libraries() {
    let point = mint::Point3 { x: 1.5_f32, y: 0.0, z: -2.0 };
    assert_eq!(Target::from(point), Target::Place(DVec3::new(1.5, 0.0, -2.0)));
    let turned = mint::Quaternion { v: mint::Vector3 { x: 0.0, y: 2.0, z: 0.0 }, s: 0.0 };
    let pose = Pose::from((mint::Point3 { x: 1.0, y: 2.0, z: 3.0 }, turned));
    assert!(pose.is_valid() && (pose.rotation * DVec3::X).distance(DVec3::NEG_X) < 1e-12);
    let nothing = |s| mint::Quaternion { v: mint::Vector3 { x: 0.0, y: 0.0, z: 0.0 }, s };
    let there = mint::Point3 { x: 1.0, y: 2.0, z: 3.0 };
    assert_eq!(Pose::from((there, nothing(0.0))), Pose::at(DVec3::new(1.0, 2.0, 3.0)));
    // What is no number is refused at the door.
    let mut play = Play::new(yard().build().unwrap());
    assert_eq!(play.drive("miller", (there, nothing(f64::NAN))), Err(Fault::Rotation));
    let (place, turn): (mint::Point3<f64>, mint::Quaternion<f64>) = pose.into();
    assert_eq!(Pose::from((place, turn)), pose);
    let mut play =
        Play::new(yard().entity(Entity::new("duck").body(support::ball(0.1))).build().unwrap());
    play.place("duck", point).unwrap();
    play.step();
    assert_eq!(at(&play, "duck"), DVec3::new(1.5, 0.0, -2.0));
}

/// The height of a ground of two triangles to a cell, from its definition.
fn height(rows: &[Vec<f64>], x: f64, z: f64) -> f64 {
    let (fx, fz) = (x + 2.0, z + 2.0);
    let (i, j) = ((fx.floor() as usize).min(3), (fz.floor() as usize).min(3));
    let (u, v) = (fx - i as f64, fz - j as f64);
    let [a, b, c, d] = [rows[j][i], rows[j][i + 1], rows[j + 1][i], rows[j + 1][i + 1]];
    // Parted from the corner of least x and greatest z to the opposite one.
    if u + v <= 1.0 {
        a + (b - a) * u + (c - a) * v
    } else {
        d + (c - d) * (1.0 - u) + (b - d) * (1.0 - v)
    }
}

proptest! {
    #[test]
    fn feet_keep_to_any_gentle_ground(
        rows in prop::collection::vec(prop::collection::vec(0.0..0.4_f64, 5), 5),
        places in prop::collection::vec([-1.6..1.6_f64, -1.6..1.6], 1..4),
    ) {
        let ground = Entity::new("ground")
            .solid(Shape::Heights { spacing: 1.0, rows: rows.clone() });
        let scene = Scene::builder("Hills")
            .entity(Entity::new("miller").at([0.0, 1.0, 0.0]).body(person()))
            .entity(ground);
        let mut play = Play::new(scene.build().unwrap());
        play.advance(Time::from_secs(1.0));
        let miller = play.scene().find("miller").unwrap();
        for [x, z] in places {
            play.schedule(play.now(), Input::Walk { who: miller, to: [x, 0.2, z].into() }).unwrap();
            for _ in 0..40 {
                play.advance(play.now() + Time::from_secs(0.05));
                let feet = at(&play, "miller");
                let ground = height(&rows, feet.x, feet.z);
                // A round foot of 30 cm touches a slope beside the middle, and bridges hollows.
                prop_assert!(feet.y > ground - 1e-3, "{feet} in the ground at {ground}");
                prop_assert!(feet.y < ground + 0.12, "{feet} above the ground at {ground}");
            }
            let feet = at(&play, "miller");
            prop_assert!(feet.distance(DVec3::new(x, feet.y, z)) < 1e-6, "{feet}");
        }
    }
}
