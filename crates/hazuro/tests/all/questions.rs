//! Ray, sweep, overlap and nearest against plain loops over everything there is.

use crate::support;

use hazuro::geometry::{Convex, Glide, Pose, Posed, Ray, Shape, cast, distance, overlaps, sweep};
use hazuro::glam::DVec3;
use hazuro::scene::{Action, Body, Entity, Part, SceneBuilder, Zone};
use hazuro::{EntityId, Filter, Play, Scene, Time};
use proptest::prelude::*;
use support::{any_place, any_pose, any_shape};

/// One thing of a scene: what it is, its shape and where it is.
type Thing = (u8, Shape, Pose);

fn things() -> impl Strategy<Value = Vec<Thing>> {
    prop::collection::vec((0..3_u8, any_shape(), any_pose(12.0)), 1..40)
}

fn scene_of(things: &[Thing], backwards: bool) -> Scene {
    let mut entities: Vec<Entity> = things
        .iter()
        .enumerate()
        .map(|(index, (what, shape, pose))| {
            let entity = Entity::new(format!("thing{index}")).at(*pose);
            match what {
                0 => entity.solid(shape.clone()),
                1 => entity.zone(Zone::new(shape.clone())),
                _ => entity.body(Body::new(shape.clone())),
            }
        })
        .collect();
    if backwards {
        entities.reverse();
    }
    entities.into_iter().fold(Scene::builder("Random"), SceneBuilder::entity).build().unwrap()
}

fn everything() -> Filter<'static> {
    Filter::solids().and_zones().and_bodies()
}

fn convex(shape: &Shape) -> Convex {
    Convex::new(shape).unwrap()
}

/// A play in which some have set out and are on their way.
fn on_the_way(things: &[Thing], ways: &[DVec3]) -> Play {
    let mut play = Play::new(scene_of(things, false));
    play.step();
    for (index, way) in ways.iter().enumerate().take(things.len()) {
        let who = play.scene().find(&format!("thing{index}")).unwrap();
        let to = (things[index].2.position + *way).into();
        play.schedule(play.now(), hazuro::Input::Drive { who, to, until: Time::from_secs(1.0) })
            .unwrap();
    }
    play.advance(Time::from_secs(0.6));
    play
}

fn poses(play: &Play) -> Vec<(EntityId, Pose)> {
    play.scene().ids().map(|id| (id, play.pose(id).unwrap())).collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(150))]

    #[test]
    fn rays_hit_what_samples_along_them_find(
        things in things(),
        ways in prop::collection::vec(any_place(5.0), 0..6),
        (from, to) in (any_place(15.0), any_place(15.0)),
    ) {
        prop_assume!(from.distance(to) > 0.1);
        let play = on_the_way(&things, &ways);
        let ray = Ray::between(from, to).unwrap();
        let hits = play.space().ray_all(&ray, &everything());
        prop_assert!(hits.is_sorted_by_key(|hit| hit.distance));
        prop_assert_eq!(play.space().ray(&ray, &everything()), hits.first().copied());
        prop_assert_eq!(play.space().ray_any(&ray, &everything()), !hits.is_empty());
        let dot = convex(&Shape::Sphere { radius: 1e-6 });
        for (id, pose) in poses(&play) {
            let shape = convex(&things[id.index()].1);
            let gap = |at: f64| distance(&shape, &pose, &dot, &Pose::at(ray.at(at))).gap + 1e-6;
            let hit = hits.iter().find(|hit| hit.entity == id);
            if let Some(hit) = hit {
                prop_assert!((hit.fraction - hit.distance / ray.length()).abs() < 1e-12);
                prop_assert!(hit.point.distance(ray.at(hit.distance)) < 1e-9);
                prop_assert!((hit.normal.length() - 1.0).abs() < 1e-9);
                if hit.inside {
                    prop_assert!(hit.distance == 0.0 && gap(0.0) < 1e-6);
                } else {
                    prop_assert!(gap(hit.distance).abs() < 1e-6, "{} off", gap(hit.distance));
                    // The normal leads straight away from the surface.
                    let out = Pose::at(hit.point + hit.normal * 1e-3);
                    let away = distance(&shape, &pose, &dot, &out).gap + 1e-6;
                    prop_assert!((away - 1e-3).abs() < 1e-5, "{away}");
                }
            }
            for step in 0..=300 {
                let at = ray.length() * f64::from(step) / 300.0;
                if gap(at) < -1e-6 {
                    prop_assert!(hit.is_some_and(|hit| hit.distance <= at), "missed at {at}");
                    break;
                }
            }
        }
    }

    #[test]
    fn nearest_is_the_head_of_the_sorted_list(
        things in things(),
        ways in prop::collection::vec(any_place(5.0), 0..6),
        point in any_place(15.0),
        (range, count) in (0.0..20.0_f64, 1..6_usize),
    ) {
        let play = on_the_way(&things, &ways);
        let dot = convex(&Shape::Sphere { radius: 1e-6 });
        let mut all: Vec<(f64, EntityId)> = poses(&play)
            .into_iter()
            .map(|(id, pose)| {
                let shape = convex(&things[id.index()].1);
                let gap = distance(&shape, &pose, &dot, &Pose::at(point)).gap + 1e-6;
                (gap.max(0.0), id)
            })
            .collect();
        all.sort_by(|one, other| one.0.total_cmp(&other.0));
        let found = play.space().nearest(point, range, count, &everything());
        let within = all.iter().filter(|(gap, _)| *gap <= range).count();
        // One that lies at the very edge of the range may be counted or not.
        let edge = all.iter().any(|(gap, _)| (gap - range).abs() < 1e-6);
        prop_assert!(found.len() == within.min(count) || edge);
        for (found, (gap, _)) in found.iter().zip(&all) {
            prop_assert!((found.distance - gap).abs() < 1e-6, "{} for {gap}", found.distance);
        }
    }

    /// Asked again and again while bodies set out, arrive, are put elsewhere and switched: what
    /// moves is then kept in another way than when it is asked for once.
    #[test]
    fn what_is_asked_each_tick_is_found_as_by_a_loop(
        things in prop::collection::vec((any_shape(), any_pose(8.0)), 1..30),
        acts in prop::collection::vec((0..5_u8, 0..30_usize, any_place(6.0)), 1..60),
        point in any_place(8.0),
    ) {
        let scene = things.iter().enumerate().fold(Scene::builder("Pond"), |scene, (n, (shape, at))| {
            let layer = ["water", "reeds", "default"][n % 3];
            let body = Body::new(shape.clone());
            scene.entity(Entity::new(format!("thing{n}")).at(*at).layers([layer]).body(body))
        });
        let mut play = Play::new(scene.build().unwrap());
        let dot = convex(&Shape::Sphere { radius: 1e-6 });
        let mut off = vec![false; things.len()];
        let wet = (things.len() > 1).then(|| play.scene().layers(["water", "reeds"]).unwrap());
        for (act, index, way) in acts {
            let index = index % things.len();
            let who = play.scene().find(&format!("thing{index}")).unwrap();
            let now = play.now();
            match act {
                0 => play.place(who, way).unwrap(),
                1 => play.drive(who, play.pose(who).unwrap().position + way * 0.05).unwrap(),
                2 => {
                    off[index] = !off[index];
                    let name = format!("thing{index}");
                    play.act(Action::toggle(name)).unwrap();
                }
                _ => {
                    let until = now + Time::from_secs(0.3);
                    play.schedule(now, hazuro::Input::Drive { who, to: way.into(), until }).unwrap();
                }
            }
            play.step();
            for layers in [None, wet] {
                let filter = Filter::bodies();
                let filter = layers.map_or(filter, |layers| filter.layers(layers));
                let expected = poses(&play)
                    .into_iter()
                    .filter(|(id, _)| !off[id.index()] && (layers.is_none() || id.index() % 3 < 2))
                    .map(|(id, pose)| {
                        let shape = convex(&things[id.index()].0);
                        distance(&shape, &pose, &dot, &Pose::at(point)).gap.max(0.0)
                    })
                    .min_by(f64::total_cmp);
                let down = Ray::new(point, DVec3::new(0.1, -1.0, 0.2), f64::INFINITY).unwrap();
                let hit = play.space().ray(&down, &filter).map(|hit| hit.distance);
                let hits = poses(&play).into_iter().filter_map(|(id, pose)| {
                    let asked = !off[id.index()] && (layers.is_none() || id.index() % 3 < 2);
                    let contact = cast(&down, &convex(&things[id.index()].0), &pose);
                    contact.filter(|_| asked).map(|contact| contact.distance)
                });
                prop_assert_eq!(hit, hits.min_by(f64::total_cmp));
                let found = play.space().nearest(point, f64::INFINITY, 1, &filter);
                let found = found.first().map(|found| found.distance);
                prop_assert_eq!(found.is_some(), expected.is_some());
                if let (Some(found), Some(expected)) = (found, expected) {
                    prop_assert!((found - expected).abs() < 1e-5, "{found} for {expected}");
                }
            }
        }
    }

    #[test]
    fn overlap_and_sweep_find_what_a_loop_over_everything_finds(
        things in things(),
        ways in prop::collection::vec(any_place(5.0), 0..6),
        (shape, from, to) in (any_shape(), any_pose(12.0), any_place(15.0)),
    ) {
        let play = on_the_way(&things, &ways);
        let found = play.space().overlap(&shape, from, &everything()).unwrap();
        let own = convex(&shape);
        let moving = Glide { shape: &own, offset: Pose::IDENTITY, from, to: Pose { position: to, ..from } };
        let mut first: Option<(f64, EntityId)> = None;
        for (id, pose) in poses(&play) {
            let other = convex(&things[id.index()].1);
            let expected = overlaps(&own, &from, &other, &pose);
            prop_assert_eq!(found.iter().any(|found| found.entity == id), expected);
            let still = Glide { shape: &other, offset: Pose::IDENTITY, from: pose, to: pose };
            if let Some(span) = sweep(&still, &moving).first()
                && first.is_none_or(|first| span.start < first.0)
            {
                first = Some((span.start, id));
            }
        }
        let hit = play.space().sweep(&shape, from, to, &everything()).unwrap();
        prop_assert_eq!(hit.map(|hit| hit.entity), first.map(|first| first.1));
        if let (Some(hit), Some((start, _))) = (hit, first) {
            prop_assert_eq!(hit.fraction, start);
        }
    }

    #[test]
    fn the_order_of_insertion_changes_nothing(things in things(), (from, to) in (any_place(15.0), any_place(15.0))) {
        prop_assume!(from.distance(to) > 0.1);
        let ray = Ray::between(from, to).unwrap();
        let told = [false, true].map(|backwards| {
            let play = Play::new(scene_of(&things, backwards));
            let hits = play.space().ray_all(&ray, &everything());
            let mut named: Vec<(String, u64)> = hits
                .iter()
                .map(|hit| (play.scene().name(hit.entity).to_owned(), hit.distance.to_bits()))
                .collect();
            named.sort();
            named
        });
        prop_assert_eq!(&told[0], &told[1]);
    }

    #[test]
    fn a_rigid_motion_of_everything_changes_nothing(
        (shape, pose) in (any_shape(), any_pose(5.0)),
        (from, to) in (any_place(8.0), any_place(8.0)),
        moved in any_pose(1000.0),
    ) {
        prop_assume!(from.distance(to) > 0.1);
        let shape = convex(&shape);
        let here = cast(&Ray::between(from, to).unwrap(), &shape, &pose);
        let ray = Ray::between(moved.point(from), moved.point(to)).unwrap();
        let there = cast(&ray, &shape, &(moved * pose));
        if let (Some(here), Some(there)) = (here, there) {
            prop_assert!((here.distance - there.distance).abs() < 1e-6);
        } else {
            // Only a ray that grazes may be seen differently.
            let grazing = here.or(there).is_none_or(|contact| contact.normal.dot(ray.direction()).abs() < 1e-2 || (contact.distance - ray.length()).abs() < 1e-6);
            prop_assert!(grazing);
        }
    }
}

fn wall(x: f64) -> Entity {
    Entity::new(format!("wall{x}")).at([x, 0.0, 0.0]).solid(Shape::Box { size: [1.0, 4.0, 4.0] })
}

#[test]
fn filters_leave_out_what_they_should() {
    let arm = Part::new("arm", Shape::Sphere { radius: 0.5 });
    let scene = Scene::builder("Yard")
        .entity(Entity::new("owl").body(Body::of_parts([arm])))
        .entity(
            Entity::new("perch")
                .parent("owl")
                .at([2.0, 0.0, 0.0])
                .solid(Shape::Sphere { radius: 0.5 }),
        )
        .entity(wall(5.0).tags(["stone"]))
        .entity(wall(8.0))
        .entity(
            Entity::new("mist").at([6.0, 0.0, 0.0]).zone(Zone::new(Shape::Sphere { radius: 0.2 })),
        )
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let ray = Ray::new(DVec3::ZERO, DVec3::X, 100.0).unwrap();
    let names = |play: &Play, filter: &Filter<'_>| -> Vec<String> {
        play.space()
            .ray_all(&ray, filter)
            .iter()
            .map(|hit| play.scene().name(hit.entity).to_owned())
            .collect()
    };
    let owl = play.scene().find("owl").unwrap();
    let all = everything();
    assert_eq!(names(&play, &all), ["owl", "perch", "wall5", "mist", "wall8"]);
    assert!(play.space().ray(&ray, &all).unwrap().inside, "the ray starts in the owl, and says so");
    assert_eq!(names(&play, &all.without(owl)), ["wall5", "mist", "wall8"]);
    assert_eq!(names(&play, &Filter::solids().tag("stone")), ["wall5"]);
    assert_eq!(names(&play, &Filter::zones().and_bodies()), ["owl", "mist"]);
    let far = |id: EntityId| id.index() > 2;
    assert_eq!(
        names(&play, &all.only(&far)),
        ["wall8", "mist"].map(String::from).into_iter().rev().collect::<Vec<_>>()
    );
    play.act(Action::disable("owl")).unwrap();
    play.step();
    assert_eq!(names(&play, &all), ["wall5", "mist", "wall8"], "what is off is not there");
}

#[test]
fn layers_and_parts_of_shapes_are_told_apart() {
    let gate =
        [-1.0, 1.0].map(|z| Posed::new(Shape::Box { size: [0.2, 4.0, 0.5] }).at([0.0, 0.0, z]));
    let scene = Scene::builder("Yard")
        .entity(Entity::new("gate").at([3.0, 0.0, 0.0]).solid(Shape::Any { shapes: gate.into() }))
        .entity(wall(5.0).layers(["stone"]))
        .entity(wall(8.0).layers(["wood", "stone"]).scale(0.5))
        .entity(Entity::new("mud").layers(["soft"]).at([0.0, -2.0, 0.0]).solid(Shape::HalfSpace))
        .build()
        .unwrap();
    let play = Play::new(scene);
    let hit = |z: f64, filter: &Filter<'_>| {
        let ray = Ray::new(DVec3::new(0.0, 0.0, z), DVec3::X, 100.0).unwrap();
        let hit = play.space().ray(&ray, filter)?;
        Some((play.scene().name(hit.entity).to_owned(), hit.distance))
    };
    let layers = |names: &[&str]| {
        Filter::solids().layers(play.scene().layers(names.iter().copied()).unwrap())
    };
    assert_eq!(hit(0.0, &Filter::solids()), Some(("wall5".into(), 4.5)), "through the gate");
    assert_eq!(hit(1.0, &Filter::solids()), Some(("gate".into(), 2.9)));
    assert_eq!(hit(1.0, &layers(&["stone"])), Some(("wall5".into(), 4.5)));
    assert_eq!(hit(0.5, &layers(&["wood"])), Some(("wall8".into(), 7.75)), "half as large");
    assert_eq!(hit(0.0, &layers(&["soft", "default"])), None);
    let below =
        play.space().overlap(&Shape::Sphere { radius: 2.5 }, Pose::IDENTITY, &layers(&["soft"]));
    assert_eq!(below.unwrap().len(), 1);
    let error = play.scene().layers(["stne"]).unwrap_err();
    assert_eq!(error.to_string(), "there is no layer named `stne`");
    assert_eq!(error.cure().unwrap(), "did you mean `stone`?");
    let asked = play.space().overlap(&Shape::HalfSpace, Pose::IDENTITY, &Filter::solids());
    assert_eq!(asked.unwrap_err().to_string(), "a `half_space` has no end, so it cannot be here");
}

#[test]
fn rays_without_end_and_rays_that_cannot_be() {
    let play = Play::new(Scene::builder("Yard").entity(wall(1e5)).build().unwrap());
    let ray = Ray::new(DVec3::ZERO, DVec3::X, f64::INFINITY).unwrap();
    let hit = play.space().ray(&ray, &Filter::solids()).unwrap();
    assert_eq!((hit.distance, hit.fraction, hit.normal), (1e5 - 0.5, 0.0, DVec3::NEG_X));
    assert!(Ray::new(DVec3::ZERO, DVec3::ZERO, 1.0).is_err());
    assert!(Ray::new(DVec3::ZERO, DVec3::NAN, 1.0).is_err());
    assert!(Ray::new(DVec3::INFINITY, DVec3::X, 1.0).is_err());
    assert!(Ray::new(DVec3::ZERO, DVec3::X, f64::NAN).is_err());
    assert!(Ray::new(DVec3::ZERO, DVec3::X, -1.0).is_err());
    assert!(Ray::between(DVec3::ONE, DVec3::ONE).is_err());
    assert!(play.space().nearest(DVec3::NAN, 1.0, 1, &Filter::solids()).is_empty());
}

#[test]
fn what_is_asked_from_beyond_single_precision_is_answered() {
    let play = Play::new(Scene::builder("Yard").entity(wall(2.0)).build().unwrap());
    let (space, solids) = (play.space(), Filter::solids());
    for far in [1e7, 1e20, 1e39, 1e300, f64::MAX] {
        for way in [DVec3::X, DVec3::NEG_X, DVec3::Y, DVec3::NEG_Z, DVec3::ONE] {
            let found = space.nearest(way * far, f64::INFINITY, 2, &solids);
            assert_eq!(found.len(), 1, "from {}", way * far);
            assert!(space.nearest(way * far, far / 2.0, 2, &solids).is_empty());
            // Along a line that no side of the wall bounds, and one past it.
            let ray = Ray::new(way * far, -way, f64::INFINITY).unwrap();
            assert!(space.ray_all(&ray, &solids).len() <= 1);
            let past = Ray::new(way * far, way, f64::INFINITY).unwrap();
            assert!(!space.ray_any(&past, &solids));
        }
    }
}
