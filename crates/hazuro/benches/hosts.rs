//! What a host pays beside detection: a snapshot for its render thread, and telling all places in one
//! call.
//!
//! `cargo bench -p hazuro --bench hosts`. The yardstick is copying that many poses.

mod common;

use common::{Chance, seconds_of, shown};
use hazuro::geometry::{Pose, Shape};
use hazuro::scene::{Body, Entity, Zone};
use hazuro::{EntityId, Play, Scene, Snapshot};

/// Bodies that are told each place, and zones.
const BODIES: u32 = 10_000;
const ZONES: u32 = 2_000;

fn scene(chance: &mut Chance) -> Scene {
    let mut scene = Scene::builder("Bench");
    for number in 0..BODIES {
        let at = [chance.between(0.0, 400.0), 0.0, chance.between(0.0, 400.0)];
        let ball = Body::new(Shape::Sphere { radius: 0.4 });
        scene = scene.entity(Entity::new(format!("ball {number}")).at(at).body(ball));
    }
    for number in 0..ZONES {
        let at = [chance.between(0.0, 400.0), 0.0, chance.between(0.0, 400.0)];
        let zone = Zone::new(Shape::Box { size: [4.0; 3] });
        scene = scene.entity(Entity::new(format!("zone {number}")).at(at).zone(zone));
    }
    scene.build().expect("a good scene")
}

fn main() {
    let mut chance = Chance::new(3);
    let mut play = Play::new(scene(&mut chance));
    let bodies: Vec<EntityId> = play.scene().ids().take(BODIES as usize).collect();
    let mut places: Vec<[f32; 3]> = bodies
        .iter()
        .map(|who| play.scene().pose(*who).position.to_array().map(|it| it as f32))
        .collect();
    let mut tick = |play: &mut Play, at_once: bool| {
        for place in &mut places {
            place[0] += 0.02;
        }
        let told = std::time::Instant::now();
        if at_once {
            play.drive_all(&bodies, &places).expect("they are there");
        } else {
            for (who, place) in bodies.iter().zip(&places) {
                play.drive(*who, *place).expect("it is there");
            }
        }
        let told = told.elapsed().as_secs_f64();
        play.step();
        told
    };
    for _ in 0..20 {
        tick(&mut play, true);
    }
    let mean = |play: &mut Play, at_once: bool, tick: &mut dyn FnMut(&mut Play, bool) -> f64| {
        (0..100).map(|_| tick(play, at_once)).sum::<f64>() / 100.0
    };
    let one_by_one = mean(&mut play, false, &mut tick);
    let at_once = mean(&mut play, true, &mut tick);

    let poses: Vec<Pose> = vec![Pose::IDENTITY; (BODIES + ZONES) as usize];
    let mut copied = poses.clone();
    let copying = seconds_of(|| copied.copy_from_slice(std::hint::black_box(&poses)));
    let mut snapshot = Snapshot::default();
    let taken = seconds_of(|| play.snapshot_into(&mut snapshot));
    std::hint::black_box((&copied, &snapshot));
    println!("| 12,000 entities, 10,000 of them moving | | |");
    println!("|---|---|---|");
    println!("| telling 10,000 places one by one | {} | |", shown(one_by_one));
    println!("| in one call | {} | {:.2}x as fast |", shown(at_once), one_by_one / at_once);
    println!(
        "| a snapshot, taken again | {} | {:.1}x of copying the poses |",
        shown(taken),
        taken / copying
    );
}
