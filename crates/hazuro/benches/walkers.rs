//! Walkers, bodies that a host drives, and sacks at rest: what a tick costs, as ratios to a
//! yardstick measured in the same run.
//!
//! Run it with `cargo bench -p hazuro --bench walkers`.
//!
//! The yardstick is the plain loop of a host: each tick every walker is moved on, and pushed out of
//! the boxes that an `rstar` tree finds around it.

mod common;

use std::hint::black_box;
use std::time::Instant;

use common::{Block, Chance, seconds_of, shown};
use hazuro::geometry::Shape;
use hazuro::glam::DVec3;
use hazuro::scene::{Body, Carry, Entity, Kind, SceneBuilder};
use hazuro::{EntityId, Input, Play, Scene, Time};
use rstar::primitives::{GeomWithData, Rectangle};
use rstar::{AABB, RTree};

const RATE: u32 = 60;
const SIDE: f64 = 300.0;
const SPEED: f64 = 3.0;

/// A walker of the yardstick.
struct Walker {
    at: DVec3,
    to: DVec3,
}

fn blocks(count: usize, chance: &mut Chance) -> Vec<Block> {
    let mut block = || {
        let half = DVec3::from_array([(); 3].map(|()| chance.between(0.3, 1.0)));
        let mut center = place(chance);
        center.y = half.y;
        Block { center, half }
    };
    (0..count).map(|_| block()).collect()
}

fn place(chance: &mut Chance) -> DVec3 {
    DVec3::new(chance.between(-SIDE, SIDE), 0.0, chance.between(-SIDE, SIDE))
}

fn world(blocks: &[Block]) -> SceneBuilder {
    let mut scene = Scene::builder("Yard").rate(RATE);
    for (number, block) in blocks.iter().enumerate() {
        let size = (block.half * 2.0).to_array();
        let entity = Entity::new(format!("block{number}")).at(block.center);
        scene = scene.entity(entity.solid(Shape::Box { size }));
    }
    scene
}

/// A place where nobody stands in a block.
fn free(blocks: &[Block], chance: &mut Chance) -> DVec3 {
    loop {
        let at = place(chance);
        if !blocks.iter().any(|block| block.touches_ball(at + DVec3::Y * 0.3, 0.5)) {
            return at;
        }
    }
}

fn walkers() {
    let mut chance = Chance::new(3);
    let blocks = blocks(10_000, &mut chance);
    let capsule = Shape::Capsule { radius: 0.3, height: 1.8 };
    let mut scene = world(&blocks).kind(Kind::new("person").body(Body::new(capsule).walk(SPEED)));
    let mut yardstick = Vec::new();
    for number in 0..1000 {
        let at = free(&blocks, &mut chance);
        scene = scene.entity(Entity::new(format!("walker{number}")).kind("person").at(at));
        yardstick.push(Walker { at, to: at });
    }
    let mut play = Play::new(scene.build().expect("it is right"));
    play.step();
    let people: Vec<EntityId> = (0..1000)
        .map(|number| play.scene().find(&format!("walker{number}")).expect("it is there"))
        .collect();
    let tree = RTree::bulk_load(
        blocks
            .iter()
            .map(|block| {
                let (low, high) = (block.center - block.half, block.center + block.half);
                let bounds = Rectangle::from_corners([low.x, low.z], [high.x, high.z]);
                GeomWithData::new(bounds, *block)
            })
            .collect(),
    );
    let (mut ours, mut theirs, mut orders, mut ticks) = (0.0, 0.0, 0.0, 0);
    let started = Instant::now();
    while ticks < 600 || started.elapsed().as_secs_f64() < 4.0 {
        if ticks % 300 == 0 {
            // A new place some 10 m away for each.
            for (who, walker) in people.iter().zip(&mut yardstick) {
                let here = play.pose(*who).expect("it is there").position;
                let way = DVec3::new(chance.between(-10.0, 10.0), 0.0, chance.between(-10.0, 10.0));
                play.schedule(play.now(), Input::Walk { who: *who, to: (here + way).into() })
                    .unwrap();
                walker.to = walker.at + way;
            }
            let start = Instant::now();
            play.step();
            orders += start.elapsed().as_secs_f64() / 1000.0;
        }
        let start = Instant::now();
        black_box(play.step().len());
        ours += start.elapsed().as_secs_f64();
        let start = Instant::now();
        for walker in &mut yardstick {
            plain_step(walker, &tree);
        }
        theirs += start.elapsed().as_secs_f64();
        ticks += 1;
    }
    let rounds = f64::from(u32::div_ceil(ticks, 300));
    let ticks = f64::from(ticks);
    let (ours, theirs) = (ours / ticks, theirs / ticks);
    println!("1,000 walkers among 10,000 solids:");
    println!(
        "  a tick                 {:>9}  {:.1}x of the plain loop",
        shown(ours),
        theirs / ours
    );
    println!("  finding one way        {:>9}", shown(orders / rounds));
}

fn plain_step(walker: &mut Walker, tree: &RTree<GeomWithData<Rectangle<[f64; 2]>, Block>>) {
    let way = (walker.to - walker.at).clamp_length_max(SPEED / f64::from(RATE));
    walker.at += way;
    let (x, z) = (walker.at.x, walker.at.z);
    let around = AABB::from_corners([x - 0.3, z - 0.3], [x + 0.3, z + 0.3]);
    for found in tree.locate_in_envelope_intersecting(around) {
        let Block { center, half } = found.data;
        let nearest = (walker.at - center).clamp(-half, half) + center;
        let mut away = walker.at - nearest;
        away.y = 0.0;
        let gap = away.length();
        if gap < 0.3 && gap > 0.0 {
            walker.at += away * ((0.3 - gap) / gap);
        }
    }
}

fn driven() {
    let mut chance = Chance::new(5);
    let blocks = blocks(10_000, &mut chance);
    let mut scene = world(&blocks);
    let mut at = Vec::new();
    for number in 0..10_000 {
        let here = place(&mut chance);
        let body = Body::new(Shape::Sphere { radius: 0.3 });
        scene = scene.entity(Entity::new(format!("body{number}")).at(here).body(body));
        at.push(here);
    }
    let mut play = Play::new(scene.build().expect("it is right"));
    play.step();
    let bodies: Vec<EntityId> = (0..10_000)
        .map(|number| play.scene().find(&format!("body{number}")).expect("it is there"))
        .collect();
    let mut plain = vec![DVec3::ZERO; bodies.len()];
    let ours = seconds_of(|| {
        for (who, at) in bodies.iter().zip(&mut at) {
            at.x += 0.05;
            play.drive(*who, *at).expect("it is there");
        }
        black_box(play.step().len());
    });
    let theirs = seconds_of(|| {
        for (place, at) in plain.iter_mut().zip(&at) {
            *place = *at;
        }
        black_box(&plain);
    });
    println!("10,000 bodies that a host drives:");
    println!(
        "  a tick                 {:>9}  {} each; a copy of their places takes {}",
        shown(ours),
        shown(ours / 1e4),
        shown(theirs)
    );
}

fn sacks() {
    let mut idle = Vec::new();
    for count in [10, 10_000] {
        let sack = Kind::new("sack")
            .body(Body::new(Shape::Box { size: [0.5, 0.7, 0.4] }))
            .carry(Carry::default());
        let mut scene = Scene::builder("Store").rate(RATE).kind(sack);
        for number in 0..count {
            let (row, column) = (number / 100, number % 100);
            let at = [f64::from(column) * 1.5, 0.36, f64::from(row) * 1.5];
            scene = scene.entity(Entity::new(format!("sack{number}")).kind("sack").at(at));
        }
        let mut play = Play::new(scene.build().expect("it is right"));
        play.advance(Time::from_secs(2.0));
        idle.push(seconds_of(|| {
            black_box(play.step().len());
        }));
    }
    println!("sacks at rest:");
    println!(
        "  a tick of 10,000       {:>9}  {:.1}x of a tick of 10",
        shown(idle[1]),
        idle[1] / idle[0]
    );
}

fn main() {
    walkers();
    driven();
    sacks();
}
