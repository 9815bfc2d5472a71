//! Scenes with ground in them: what rays, sweeps and overlaps find of hills, meshes and depths.

use crate::support;

use hazuro::geometry::{Pose, Posed, Ray, Shape};
use hazuro::glam::{DQuat, DVec3};
use hazuro::scene::{Action, Entity, SceneBuilder, Zone};
use hazuro::{Filter, Play, Scene};
use proptest::prelude::*;
use support::{ball, play_until, words};

/// A ramp that rises from 0 to 4 m along x, over 8 m by 8 m, around x = 0.
fn ramp() -> Entity {
    let rows = vec![vec![0.0, 1.0, 2.0, 3.0, 4.0]; 5];
    Entity::new("ramp").layers(["ground"]).solid(Shape::Heights { spacing: 2.0, rows })
}

/// A roof of two triangles, its ridge along z at 3 m, over 2 m by 4 m.
fn roof() -> Entity {
    let points = vec![
        [-1.0, 2.0, -2.0],
        [0.0, 3.0, -2.0],
        [1.0, 2.0, -2.0],
        [-1.0, 2.0, 2.0],
        [0.0, 3.0, 2.0],
        [1.0, 2.0, 2.0],
    ];
    let triangles = vec![[0, 1, 3], [1, 4, 3], [1, 2, 4], [2, 5, 4]];
    Entity::new("roof").solid(Shape::Mesh { points, triangles })
}

fn play(entities: impl IntoIterator<Item = Entity>) -> Play {
    let scene = entities.into_iter().fold(Scene::builder("Hill"), SceneBuilder::entity);
    Play::new(scene.build().unwrap())
}

#[test]
fn a_ball_swept_down_comes_to_rest_on_the_slope() {
    let play = play([ramp()]);
    let sphere = Shape::Sphere { radius: 0.5 };
    let from = Pose::from([1.0, 10.0, 0.3]);
    let to = DVec3::new(1.0, -10.0, 0.3);
    let hit = play.space().sweep(&sphere, from, to, &Filter::solids()).unwrap().unwrap();
    // The slope is 1 in 2: at x = 1 the ground is 2.5 m high, and the ball's centre is its radius
    // over the cosine of the slope above that.
    let cosine = 2.0 / 5.0_f64.sqrt();
    let normal = DVec3::new(-1.0, 2.0, 0.0).normalize();
    assert!((hit.distance - (10.0 - 2.5 - 0.5 / cosine)).abs() < 1e-6, "{}", hit.distance);
    assert!(hit.normal.distance(normal) < 1e-6, "{}", hit.normal);
    assert!(!hit.inside);
    // From inside the ground it says so.
    let buried = Pose::from([1.0, 1.0, 0.3]);
    let hit = play.space().sweep(&sphere, buried, to, &Filter::solids()).unwrap().unwrap();
    assert!(hit.inside && hit.distance == 0.0);
    // Over the edge there is nothing.
    let beside = Pose::from([5.0, 10.0, 0.0]);
    let past = DVec3::new(5.0, -10.0, 0.0);
    assert_eq!(play.space().sweep(&sphere, beside, past, &Filter::solids()).unwrap(), None);
}

#[test]
fn rays_and_overlaps_know_a_roof_from_what_is_below() {
    let play = play([ramp(), roof()]);
    let solids = Filter::solids();
    let ground = solids.layers(play.scene().layers(["ground"]).unwrap());
    let down = Ray::new(DVec3::new(0.5, 9.0, 0.7), DVec3::NEG_Y, f64::INFINITY).unwrap();
    let names: Vec<_> = play
        .space()
        .ray_all(&down, &solids)
        .iter()
        .map(|hit| (play.scene().name(hit.entity).to_owned(), (hit.point.y * 1e6).round() / 1e6))
        .collect();
    assert_eq!(names, [("roof".to_owned(), 2.5), ("ramp".to_owned(), 2.25)]);
    assert_eq!(play.space().ray(&down, &ground).unwrap().point.y, 2.25);
    // From below, the roof is hit on its other side.
    let up = Ray::new(DVec3::new(-0.5, 2.0, 0.0), DVec3::Y, 5.0).unwrap();
    let hit = play.space().ray(&up, &solids).unwrap();
    assert!(!hit.inside && hit.normal.y < 0.0 && (hit.distance - 0.5).abs() < 1e-9);
    let small = Shape::Sphere { radius: 0.1 };
    let found = |x: f64, y: f64| {
        let found = play.space().overlap(&small, Pose::from([x, y, 0.0]), &solids).unwrap();
        found.iter().map(|found| play.scene().name(found.entity).to_owned()).collect::<Vec<_>>()
    };
    assert_eq!(found(0.0, 3.05), ["roof"]);
    assert_eq!(found(0.0, 2.3), Vec::<String>::new(), "between the roof and the slope");
    assert_eq!(found(0.0, 1.0), ["ramp"]);
    let nearest = play.space().nearest(DVec3::new(0.0, 4.0, 0.0), 5.0, 2, &solids);
    let named = nearest.iter().map(|found| play.scene().name(found.entity)).collect::<Vec<_>>();
    assert_eq!(named, ["roof", "ramp"]);
    assert!((nearest[0].distance - 1.0).abs() < 1e-9);
}

#[test]
fn ground_can_be_carried_turned_switched_and_scaled() {
    let cart = Entity::new("cart").at(Pose::from([20.0, 0.0, 0.0]).turned(0.7));
    let mut play = play([cart, roof().parent("cart").scale(2.0)]);
    let height = |play: &Play, x: f64| {
        let down = Ray::new(DVec3::new(x, 9.0, 0.0), DVec3::NEG_Y, 20.0).unwrap();
        play.space().ray(&down, &Filter::solids()).map(|hit| (hit.point.y * 1e6).round() / 1e6)
    };
    assert_eq!((height(&play, 20.0), height(&play, 0.0)), (Some(6.0), None));
    play.place("cart", [0.0, 1.0, 0.0]).unwrap();
    play.step();
    assert_eq!((height(&play, 20.0), height(&play, 0.0)), (None, Some(7.0)));
    play.act(Action::disable("cart")).unwrap();
    play.step();
    assert_eq!(height(&play, 0.0), None);
}

#[test]
fn a_depth_catches_whatever_falls_at_any_speed_and_lets_go_again() {
    let depth = Entity::new("depth").at([0.0, -10.0, 0.0]).zone(Zone::new(Shape::HalfSpace));
    let mut play = play([depth, Entity::new("stone").at([3.0, 50.0, 3.0]).body(ball(0.5))]);
    play.step();
    play.drive("stone", [3.0, -500.0, 3.0]).unwrap();
    let mut entries = play.step().to_vec();
    play.drive("stone", [3.0, 50.0, 3.0]).unwrap();
    entries.extend(play.step().to_vec());
    // And turned on its side, as a wall without end, while it is moved.
    play.place("depth", Pose { rotation: side(), ..Pose::from([-5.0, 0.0, 0.0]) }).unwrap();
    play.step();
    play.drive("stone", [-9.0, 50.0, 3.0]).unwrap();
    entries.extend(play_until(&mut play, 1.0));
    assert_eq!(
        words(&play, &entries),
        ["enter depth stone move", "exit depth stone move", "enter depth stone move"]
    );
}

/// Turned so that what was below is where x is less.
fn side() -> DQuat {
    DQuat::from_rotation_z(-std::f64::consts::FRAC_PI_2)
}

#[test]
fn questions_with_what_is_no_place_are_refused() {
    let play = play([ramp()]);
    let sphere = Shape::Sphere { radius: 0.5 };
    let nowhere = Pose::from([0.0, f64::NAN, 0.0]);
    let refused = play.space().overlap(&sphere, nowhere, &Filter::solids()).unwrap_err();
    assert!(refused.to_string().starts_with("a place is NaN"), "{refused}");
    let far = DVec3::new(0.0, f64::INFINITY, 0.0);
    let refused = play.space().sweep(&sphere, Pose::IDENTITY, far, &Filter::solids()).unwrap_err();
    assert!(refused.to_string().starts_with("a place is inf"), "{refused}");
    let hill = Shape::Heights { spacing: 1.0, rows: vec![vec![0.0; 2]; 2] };
    assert!(play.space().overlap(&hill, Pose::IDENTITY, &Filter::solids()).is_err());
    let pair = Shape::Any { shapes: vec![Posed::new(sphere), Posed::new(Shape::HalfSpace)] };
    assert!(play.space().overlap(&pair, Pose::IDENTITY, &Filter::solids()).is_err());
}

proptest! {
    #[test]
    fn what_is_swept_down_to_the_ground_then_touches_it(
        heights in prop::collection::vec(prop::collection::vec(-1.0..1.0_f64, 4), 4),
        (shape, at) in (support::any_shape(), support::any_pose(2.0)),
    ) {
        let hill = Entity::new("hill").solid(Shape::Heights { spacing: 2.0, rows: heights });
        let play = play([hill]);
        let from = Pose { position: DVec3 { y: 9.0, ..at.position }, ..at };
        let to = DVec3 { y: -9.0, ..at.position };
        let hit = play.space().sweep(&shape, from, to, &Filter::solids()).unwrap();
        // The middle of the field is always below.
        let hit = hit.expect("something to fall on");
        let there = |metres: f64| Pose { position: from.position + DVec3::NEG_Y * metres, ..from };
        let touches = |metres: f64| {
            !play.space().overlap(&shape, there(metres), &Filter::solids()).unwrap().is_empty()
        };
        prop_assert!(touches(hit.distance + 1e-5) && !touches(hit.distance - 1e-5));
        prop_assert!(hit.normal.y > -1e-6, "pushed down: {}", hit.normal);
    }
}

#[test]
fn no_ray_slips_through_where_triangles_of_a_mesh_meet() {
    let play = play([roof()]);
    let from_above = |x: f64, z: f64| {
        let down = Ray::new(DVec3::new(x, 9.0, z), DVec3::NEG_Y, 20.0).unwrap();
        play.space().ray(&down, &Filter::solids()).map(|hit| hit.point.y)
    };
    // Along the ridge, and along the diagonals of both sides, which run from -2 to 2 along z.
    for step in 0..=1000 {
        let share = f64::from(step) / 1000.0;
        let z = -2.0 + 4.0 * share;
        for x in [0.0, -share, 1.0 - share] {
            let height = from_above(x, z).map(|y| (y - (3.0 - x.abs())).abs());
            assert!(height.is_some_and(|off| off < 1e-6), "at {x} {z}: {height:?}");
        }
    }
    // A ray that begins on it, or ends there, meets it.
    let on_it = DVec3::new(0.25, 2.75, 1.0);
    let away = Ray::new(on_it, DVec3::NEG_Y, 1.0).unwrap();
    assert_eq!(play.space().ray(&away, &Filter::solids()).map(|hit| hit.distance), Some(0.0));
    let up_to = Ray::new(on_it + DVec3::Y, DVec3::NEG_Y, 1.0).unwrap();
    assert_eq!(play.space().ray(&up_to, &Filter::solids()).map(|hit| hit.distance), Some(1.0));
}

#[test]
fn a_ray_that_ends_on_the_ground_meets_it() {
    let play = play([ramp()]);
    for x in [-3.9, -2.0, -0.7, 0.0, 1.3, 2.0, 3.9] {
        let ground = 2.0 + x / 2.0;
        let down = Ray::new(DVec3::new(x, ground + 3.0, 0.3), DVec3::NEG_Y, 3.0).unwrap();
        let hit = play.space().ray(&down, &Filter::solids());
        assert!(hit.is_some_and(|hit| (hit.distance - 3.0).abs() < 1e-9), "at {x}: {hit:?}");
        let short = Ray::new(DVec3::new(x, ground + 3.0, 0.3), DVec3::NEG_Y, 2.99).unwrap();
        assert_eq!(play.space().ray(&short, &Filter::solids()), None);
    }
}
