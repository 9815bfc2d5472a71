//! A steady tick takes no memory: nothing is allocated while bodies move and nobody crosses a
//! boundary. Alone in its file, so that no other test allocates meanwhile.

#[path = "all/support/mod.rs"]
mod support;

use std::alloc::System;

use hazuro::geometry::{Ray, Shape};
use hazuro::glam::DVec3;
use hazuro::scene::{Body, Entity, Zone};
use hazuro::{EntityId, Filter, Input, Play, Scene, Time};
use stats_alloc::{INSTRUMENTED_SYSTEM, Region, StatsAlloc};

#[global_allocator]
static ALLOCATOR: &StatsAlloc<System> = &INSTRUMENTED_SYSTEM;

/// A field of 400 zones of 2 m, 4 m apart, with a body between every two in a row.
fn field() -> (Play, Vec<EntityId>) {
    let mut scene = Scene::builder("Field");
    for n in 0..400 {
        let [x, z] = [n % 20, n / 20].map(|place| f64::from(place) * 4.0);
        let zone = Zone::new(Shape::Box { size: [2.0; 3] });
        let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 });
        scene = scene
            .entity(Entity::new(format!("zone{n}")).at([x, 0.0, z]).zone(zone))
            .entity(Entity::new(format!("body{n}")).at([x + 2.0, 0.0, z]).body(body));
    }
    let mut play = Play::new(scene.build().unwrap());
    play.step();
    let bodies = play.scene().ids().filter(|id| play.scene().has_body(*id)).collect();
    (play, bodies)
}

/// Lets `each` prepare every tick; what the last 60 of 600 ticks allocate, and their events.
fn steady(mut each: impl FnMut(&mut Play, &[EntityId], u32)) -> (usize, usize) {
    let (mut play, bodies) = field();
    let (mut events, mut region) = (0, Region::new(ALLOCATOR));
    for tick in 0..600 {
        if tick == 540 {
            (events, region) = (0, Region::new(ALLOCATOR));
        }
        each(&mut play, &bodies, tick);
        events += play.step().iter().filter_map(|entry| entry.event()).count();
    }
    let change = region.change();
    (change.allocations + change.reallocations, events)
}

#[test]
fn steady_ticks_allocate_nothing() {
    // A host moves everybody back and forth along the rows between the zones.
    let told = steady(|play, bodies, tick| {
        let way = if tick / 20 % 2 == 0 { 0.02 } else { -0.02 };
        for body in bodies {
            let here = play.pose(*body).unwrap().position;
            play.drive(*body, here + DVec3::Z * way).unwrap();
        }
    });
    assert_eq!(told, (0, 0));

    // Everybody is on a long way along the rows; questions are asked on the way.
    let walking = steady(|play, bodies, tick| {
        if tick == 0 {
            for body in bodies {
                let to = (play.pose(*body).unwrap().position + DVec3::Z * 50.0).into();
                let until = Time::from_secs(100.0);
                play.schedule(play.now(), Input::Drive { who: *body, to, until }).unwrap();
            }
        }
        let up = Ray::new(DVec3::NEG_X * 5.0, DVec3::Y, f64::INFINITY).unwrap();
        assert!(!play.space().ray_any(&up, &Filter::bodies().and_zones()));
    });
    assert_eq!(walking, (0, 0));

    // A host lends its handlers data of its own.
    let mut lent = vec![0_u8; 1000];
    let (mut play, _) = field();
    play.step_with(&mut lent);
    let region = Region::new(ALLOCATOR);
    for _ in 0..60 {
        play.step_with(&mut lent);
    }
    assert_eq!((region.change().allocations, lent.len()), (0, 1000));

    // A snapshot is taken each tick, in the memory of the one before.
    let mut taken = play.snapshot();
    let region = Region::new(ALLOCATOR);
    for _ in 0..60 {
        play.step();
        play.snapshot_into(&mut taken);
    }
    assert_eq!((region.change().allocations, taken.time()), (0, play.now()));

    // A test that counts nothing would pass, too.
    let counted = Region::new(ALLOCATOR);
    std::hint::black_box(vec![0_u8; 100]);
    assert_eq!(counted.change().allocations, 1);
}
