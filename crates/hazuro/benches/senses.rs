//! Watchers, probes and prompts: what a tick costs, as ratios to yardsticks measured in the same
//! run.
//!
//! Run it with `cargo bench -p hazuro --bench senses`.

mod common;

use std::hint::black_box;
use std::time::Instant;

use bvh::aabb::{Aabb, Bounded, IntersectsAabb};
use bvh::bounding_hierarchy::BHShape;
use bvh::bvh::Bvh;
use common::{Block, Chance, seconds_of, shown};
use hazuro::geometry::{Pose, Shape};
use hazuro::glam::DVec3;
use hazuro::scene::{Body, Entity, Probe, Prompt, SceneBuilder, Sight};
use hazuro::{Input, Play, Scene, Time};
use nalgebra::{Point3, Vector3};

const RATE: u32 = 60;

/// A block that the yardstick keeps.
#[derive(Clone)]
struct Kept {
    block: Block,
    number: usize,
    node: usize,
}

impl Bounded<f32, 3> for Kept {
    fn aabb(&self) -> Aabb<f32, 3> {
        let point = |corner: DVec3| Point3::new(corner.x as f32, corner.y as f32, corner.z as f32);
        let Block { center, half } = self.block;
        Aabb::with_bounds(point(center - half), point(center + half))
    }
}

impl BHShape<f32, 3> for Kept {
    fn set_bh_node_index(&mut self, index: usize) {
        self.node = index;
    }
    fn bh_node_index(&self) -> usize {
        self.node
    }
}

/// Where something in reach of a point may be.
struct Around(DVec3);

impl IntersectsAabb<f32, 3> for Around {
    fn intersects_aabb(&self, aabb: &Aabb<f32, 3>) -> bool {
        (0..3).all(|axis| {
            let at = self.0[axis] as f32;
            aabb.min[axis] <= at && at <= aabb.max[axis]
        })
    }
}

/// How far along a segment, from 0 to 1, a block is met.
fn met(block: &Block, from: DVec3, way: DVec3) -> Option<f64> {
    let inverse = way.recip();
    let low = (block.center - block.half - from) * inverse;
    let high = (block.center + block.half - from) * inverse;
    let near = low.min(high).max_element().max(0.0);
    let far = low.max(high).min_element().min(1.0);
    (near <= far).then_some(near)
}

fn line(from: DVec3, way: DVec3) -> bvh::ray::Ray<f32, 3> {
    let origin = Point3::new(from.x as f32, from.y as f32, from.z as f32);
    bvh::ray::Ray::new(origin, Vector3::new(way.x as f32, way.y as f32, way.z as f32))
}

/// Boxes of 1 to 3 m on the ground, one to so many square metres.
fn blocks(count: usize, room: f64) -> (Vec<Kept>, f64) {
    let mut chance = Chance::new(5);
    let side = (count as f64 * room).sqrt();
    let made = (0..count).map(|number| {
        let half = DVec3::from_array([0; 3].map(|_| chance.between(0.5, 1.5)));
        let center = DVec3::new(chance.unit() * side, half.y, chance.unit() * side);
        Kept { block: Block { center, half }, number, node: 0 }
    });
    (made.collect(), side)
}

fn with_solids(mut scene: SceneBuilder, blocks: &[Kept]) -> SceneBuilder {
    for (index, kept) in blocks.iter().enumerate() {
        let size = (kept.block.half * 2.0).to_array();
        let solid = Entity::new(format!("solid{index}")).at(Pose::at(kept.block.center));
        scene = scene.entity(solid.solid(Shape::Box { size }));
    }
    scene
}

/// Things that wander all the time: where they are, and a way to send them on.
struct Crowd {
    chance: Chance,
    side: f64,
    names: Vec<String>,
}

impl Crowd {
    /// Sends each to another place, to be there in ten seconds.
    fn wander(&mut self, play: &mut Play) {
        for name in &self.names {
            let who = play.scene().find(name).expect("it is there");
            let here = play.pose(who).expect("it is there").position;
            let step = [0; 2].map(|_| self.chance.between(-10.0, 10.0));
            let to = DVec3::new(here.x + step[0], here.y, here.z + step[1]);
            let to = to.clamp(DVec3::ZERO, DVec3::splat(self.side));
            let until = play.now() + Time::from_secs(10.0);
            play.schedule(play.now(), Input::Drive { who, to: to.into(), until }).unwrap();
        }
    }
}

/// Mean seconds of a tick while the crowd is on its way, the better of two tries.
fn tick(play: &mut Play, crowd: &mut Crowd) -> f64 {
    const TICKS: u32 = 240;
    let tries = [0; 2].map(|_| {
        crowd.wander(play);
        play.step();
        let start = Instant::now();
        for _ in 0..TICKS {
            black_box(play.step());
        }
        start.elapsed().as_secs_f64() / f64::from(TICKS)
    });
    tries[0].min(tries[1])
}

/// A tick in which nothing moves.
fn idle(play: &mut Play) -> f64 {
    play.advance(play.now() + Time::from_secs(30.0));
    seconds_of(|| {
        black_box(play.step());
    })
}

fn row(what: &str, ours: f64, yardsticks: &[(&str, f64)]) {
    print!("{what:<44} {:>10}", shown(ours));
    for (name, theirs) in yardsticks {
        print!("   {name} {:>10} ({:.1}x)", shown(*theirs), theirs / ours);
    }
    println!();
}

fn watchers() {
    const EVERY: f64 = 0.1;
    let (blocks, side) = blocks(10_000, 25.0);
    let mut chance = Chance::new(3);
    let mut place = |y| DVec3::new(chance.unit() * side, y, chance.unit() * side);
    let names: Vec<String> = (0..1000).map(|index| format!("target{index}")).collect();
    let eyes: Vec<DVec3> = (0..1000).map(|_| place(1.6)).collect();
    let targets: Vec<DVec3> = (0..1000).map(|_| place(1.0)).collect();
    let build = |watched: bool| {
        let mut scene = with_solids(Scene::builder("Yard").rate(RATE), &blocks);
        for (name, at) in names.iter().zip(&targets) {
            let body = Body::new(Shape::Sphere { radius: 0.4 });
            scene = scene.entity(Entity::new(name).at(Pose::at(*at)).body(body));
        }
        for (index, eye) in eyes.iter().enumerate().filter(|_| watched) {
            let sight =
                Sight { range: 30.0, angle: 2.0, rise: 2.0, every: EVERY, ..Sight::default() };
            scene =
                scene.entity(Entity::new(format!("eye{index}")).at(Pose::at(*eye)).sight(sight));
        }
        Play::new(scene.build().expect("a good scene"))
    };
    let mut crowd = Crowd { chance: Chance::new(8), side, names: names.clone() };
    let without = tick(&mut build(false), &mut crowd);
    let mut play = build(true);
    let with = tick(&mut play, &mut crowd);
    let still = idle(&mut play);

    // The same looks: range, angle, then five points each, each hidden or not.
    let looks = (1000.0 / EVERY / f64::from(RATE)) as usize;
    let points = |at: DVec3| {
        [DVec3::ZERO, DVec3::Y, DVec3::NEG_Y, DVec3::X, DVec3::NEG_X].map(|way| at + way * 0.36)
    };
    let look = |hidden: &dyn Fn(DVec3, DVec3) -> bool| {
        seconds_of(|| {
            let mut seen = 0;
            for eye in eyes.iter().take(looks) {
                for target in &targets {
                    let way = *target - *eye;
                    let near = way.length_squared() <= 900.0;
                    if near && way.x.atan2(-way.z).abs() <= 1.0 {
                        seen += usize::from(
                            points(*target).iter().any(|point| !hidden(*eye, *point - *eye)),
                        );
                    }
                }
            }
            black_box(seen);
        })
    };
    let brute = look(&|from, way| blocks.iter().any(|kept| met(&kept.block, from, way).is_some()));
    let mut kept = blocks.clone();
    let tree = Bvh::build(&mut kept);
    let by_tree = look(&|from, way| {
        tree.traverse_iterator(&line(from, way), &kept)
            .any(|kept| met(&kept.block, from, way).is_some())
    });
    row(
        "1000 watchers, 1000 targets, 10k occluders",
        with - without,
        &[("brute", brute), ("bvh", by_tree)],
    );
    row("  the same, nothing moving", still, &[]);
}

fn probes() {
    let (blocks, side) = blocks(100_000, 25.0);
    let mut chance = Chance::new(4);
    let names: Vec<String> = (0..1000).map(|index| format!("probe{index}")).collect();
    let places: Vec<DVec3> =
        (0..1000).map(|_| DVec3::new(chance.unit() * side, 4.0, chance.unit() * side)).collect();
    let way = DVec3::new(6.0, -6.0, -12.0);
    let build = |probing: bool| {
        let mut scene = with_solids(Scene::builder("Yard").rate(RATE), &blocks);
        for (name, at) in names.iter().zip(&places) {
            let probe = Probe { to: way.to_array(), ..Probe::default() };
            let body = Body::new(Shape::Sphere { radius: 0.1 });
            let entity = Entity::new(name).at(Pose::at(*at)).body(body);
            scene = scene.entity(if probing { entity.probe(probe) } else { entity });
        }
        Play::new(scene.build().expect("a good scene"))
    };
    let mut crowd = Crowd { chance: Chance::new(8), side, names: names.clone() };
    let without = tick(&mut build(false), &mut crowd);
    let mut play = build(true);
    let with = tick(&mut play, &mut crowd);
    let still = idle(&mut play);
    let ask = |first: &dyn Fn(DVec3) -> Option<(f64, usize)>| {
        seconds_of(|| {
            for from in &places {
                black_box(first(*from));
            }
        })
    };
    let nearest = |best: Option<(f64, usize)>, kept: &Kept, from| match met(&kept.block, from, way)
    {
        Some(at) if best.is_none_or(|(before, _)| at < before) => Some((at, kept.number)),
        _ => best,
    };
    let brute = ask(&|from| blocks.iter().fold(None, |best, kept| nearest(best, kept, from)));
    let mut kept = blocks.clone();
    let tree = Bvh::build(&mut kept);
    let by_tree = ask(&|from| {
        tree.traverse_iterator(&line(from, way), &kept)
            .fold(None, |best, kept| nearest(best, kept, from))
    });
    row("1000 probes, 100k solids", with - without, &[("brute", brute), ("bvh", by_tree)]);
    row("  the same, nothing moving", still, &[]);
}

fn prompts() {
    let (blocks, side) = blocks(1000, 25.0);
    let mut chance = Chance::new(4);
    let names: Vec<String> = (0..64).map(|index| format!("player{index}")).collect();
    let places: Vec<DVec3> =
        (0..64).map(|_| DVec3::new(chance.unit() * side, 0.0, chance.unit() * side)).collect();
    let build = |prompting: bool| {
        let mut scene = Scene::builder("Yard").rate(RATE);
        for (name, at) in names.iter().zip(&places) {
            let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 });
            let entity = Entity::new(name).player(true).at(Pose::at(*at)).body(body);
            scene = scene.entity(entity);
        }
        for (index, kept) in blocks.iter().enumerate() {
            let entity = Entity::new(format!("lever{index}")).at(Pose::at(kept.block.center));
            let prompt = Prompt { reach: 2.0, ..Prompt::default() };
            scene = scene.entity(if prompting { entity.prompt(prompt) } else { entity });
        }
        Play::new(scene.build().expect("a good scene"))
    };
    let mut crowd = Crowd { chance: Chance::new(8), side, names: names.clone() };
    let without = tick(&mut build(false), &mut crowd);
    let mut play = build(true);
    let with = tick(&mut play, &mut crowd);
    let still = idle(&mut play);
    // Each player's nearest prompt in reach.
    let ask = |nearest: &dyn Fn(DVec3) -> Option<(f64, usize)>| {
        seconds_of(|| {
            for at in &places {
                black_box(nearest(*at));
            }
        })
    };
    let better = |best: Option<(f64, usize)>, kept: &Kept, at: DVec3| {
        let distance = kept.block.center.distance(at);
        let better = distance <= 2.3 && best.is_none_or(|(before, _)| distance < before);
        if better { Some((distance, kept.number)) } else { best }
    };
    let brute = ask(&|at| blocks.iter().fold(None, |best, kept| better(best, kept, at)));
    let mut kept: Vec<Kept> = blocks
        .iter()
        .map(|kept| Kept { block: Block { half: DVec3::splat(2.3), ..kept.block }, ..*kept })
        .collect();
    let tree = Bvh::build(&mut kept);
    let by_tree = ask(&|at| {
        tree.traverse_iterator(&Around(at), &kept).fold(None, |best, kept| better(best, kept, at))
    });
    row("1000 prompts, 64 players", with - without, &[("brute", brute), ("bvh", by_tree)]);
    row("  the same, nothing moving", still, &[]);
}

fn main() {
    println!("What detectors add to a tick at {RATE} Hz, and what yardsticks take for as much:");
    watchers();
    probes();
    prompts();
}
