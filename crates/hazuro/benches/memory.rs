//! What a zone that stands still takes of memory, by counting what is allocated.
//!
//! Run it with `cargo bench -p hazuro --bench memory`.

mod common;

use std::alloc::System;

use common::Chance;
use hazuro::geometry::Shape;
use hazuro::scene::{Entity, Zone};
use hazuro::{Play, Scene};
use stats_alloc::{INSTRUMENTED_SYSTEM, Region, StatsAlloc};

#[global_allocator]
static ALLOCATOR: &StatsAlloc<System> = &INSTRUMENTED_SYSTEM;

/// Bytes held since the region began, per zone.
fn held(region: &Region<'_, System>, zones: usize) -> f64 {
    let change = region.change();
    (change.bytes_allocated as f64 - change.bytes_deallocated as f64) / zones as f64
}

fn main() {
    println!("| zones | description and lookups | play | index alone |");
    println!("|---|---|---|---|");
    for zones in [10_000, 100_000, 1_000_000] {
        let mut chance = Chance::new(7);
        let side = (zones as f64 * 32.0).sqrt();
        let whole = Region::new(ALLOCATOR);
        let mut scene = Scene::builder("Bench");
        for index in 0..zones {
            let size = [0; 3].map(|_| chance.between(2.0, 6.0));
            let at = [chance.unit() * side, size[1] / 2.0, chance.unit() * side];
            let zone = Zone::new(Shape::Box { size });
            scene = scene.entity(Entity::new(format!("z{index}")).at(at).zone(zone));
        }
        let scene = scene.build().expect("a good scene");
        let description = held(&whole, zones);
        let playing = Region::new(ALLOCATOR);
        let play = Play::new(scene);
        let all = held(&playing, zones);
        let state = Region::new(ALLOCATOR);
        let copy = play.state().clone();
        let index = all - held(&state, zones);
        drop(copy);
        println!("| {zones} | {description:.0} B | {all:.0} B | {index:.0} B |");
    }
}
