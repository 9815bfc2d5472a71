//! The detection tick of zones, events included, as a ratio to yardsticks measured in the same run.
//!
//! Run it with `cargo bench -p hazuro --bench zones`; add `-- --full` for a million zones.
//!
//! The yardsticks do what is usually written by hand: find the pairs that overlap now, sort them,
//! and compare them with those of the last tick.

mod common;

use std::time::Instant;

use common::{Block, Chance, shown};
use hazuro::geometry::Shape;
use hazuro::glam::DVec3;
use hazuro::scene::{Body, Entity, EventKind, Zone};
use hazuro::{EntityId, Input, Play, Scene, Time};
use rstar::{AABB, RTree, primitives::GeomWithData, primitives::Rectangle};

const RADIUS: f64 = 0.4;
const SPEED: f64 = 3.0;
const RATE: u32 = 60;

/// Zones, and balls that walk from one random place to the next.
struct World {
    zones: Vec<Block>,
    walkers: Vec<Walker>,
}

struct Walker {
    from: DVec3,
    to: DVec3,
    start: f64,
    end: f64,
}

impl Walker {
    fn at(&self, time: f64) -> DVec3 {
        self.from.lerp(self.to, ((time - self.start) / (self.end - self.start)).clamp(0.0, 1.0))
    }
}

impl World {
    /// Boxes of 2 to 6 m, half a box per point of ground; walkers all over.
    fn even(zones: usize, walkers: usize) -> Self {
        let mut chance = Chance::new(7);
        let side = (zones as f64 * 32.0).sqrt();
        let zones = (0..zones).map(|_| {
            let half = DVec3::from_array([0; 3].map(|_| chance.between(1.0, 3.0)));
            let [x, z] = [0; 2].map(|_| chance.unit() * side);
            Block { center: DVec3::new(x, half.y, z), half }
        });
        let zones = zones.collect();
        let places = (0..walkers).map(|_| {
            let [x, z] = [0; 2].map(|_| chance.unit() * side);
            DVec3::new(x, RADIUS, z)
        });
        let places: Vec<DVec3> = places.collect();
        Self {
            zones,
            walkers: places
                .into_iter()
                .map(|place| Walker { from: place, to: place, start: 0.0, end: 0.0 })
                .collect(),
        }
    }

    /// Zones of 0.2 to 200 m on thirty storeys, nine walkers in ten in one hall.
    fn uneven(zones: usize, walkers: usize) -> Self {
        let mut chance = Chance::new(11);
        let side = (zones as f64).sqrt() * 3.0;
        let storey = |chance: &mut Chance| (chance.unit() * 30.0).floor() * 4.0;
        let zones = (0..zones).map(|_| {
            // As many of each size from 0.2 to 200 m, on a scale of ratios; most small.
            let size = 0.2 * 1000_f64.powf(chance.unit().powi(3));
            let [x, z] = [0; 2].map(|_| chance.unit() * side);
            let half = DVec3::new(size / 2.0, (size / 2.0).min(1.9), size / 2.0);
            Block { center: DVec3::new(x, storey(&mut chance) + half.y, z), half }
        });
        let zones = zones.collect();
        let walkers = (0..walkers).map(|index| {
            let (low, high, floor) = if index % 10 == 0 {
                (0.0, side, storey(&mut chance))
            } else {
                (side * 0.5, side * 0.5 + 40.0, 0.0)
            };
            let [x, z] = [0; 2].map(|_| chance.between(low, high));
            let place = DVec3::new(x, floor + RADIUS, z);
            Walker { from: place, to: place, start: 0.0, end: 0.0 }
        });
        let walkers = walkers.collect();
        Self { zones, walkers }
    }

    /// Sends those who have arrived on to another place some 20 m away; calls `sent` for each.
    fn send_on(&mut self, time: f64, chance: &mut Chance, mut sent: impl FnMut(usize, &Walker)) {
        for (index, walker) in self.walkers.iter_mut().enumerate() {
            if walker.end <= time {
                let from = walker.to;
                let angle = chance.unit() * std::f64::consts::TAU;
                let length = chance.between(10.0, 30.0);
                let to = from + DVec3::new(angle.cos(), 0.0, angle.sin()) * length;
                *walker = Walker { from, to, start: time, end: time + length / SPEED };
                sent(index, walker);
            }
        }
    }

    fn play(&self) -> Play {
        let mut scene = Scene::builder("Bench").rate(RATE);
        for (index, zone) in self.zones.iter().enumerate() {
            let size = (zone.half * 2.0).to_array();
            let zone_shape = Zone::new(Shape::Box { size });
            let entity =
                Entity::new(format!("z{index}")).at(zone.center.to_array()).zone(zone_shape);
            scene = scene.entity(entity);
        }
        for (index, walker) in self.walkers.iter().enumerate() {
            let body = Body::new(Shape::Sphere { radius: RADIUS });
            scene = scene
                .entity(Entity::new(format!("w{index}")).at(walker.from.to_array()).body(body));
        }
        Play::new(scene.build().expect("a good scene"))
    }
}

/// What finds the zones that a ball touches.
trait Yardstick {
    fn pairs(&self, zones: &[Block], walker: u32, at: DVec3, found: &mut Vec<(u32, u32)>);
}

/// Every zone.
struct Brute;

impl Yardstick for Brute {
    fn pairs(&self, zones: &[Block], walker: u32, at: DVec3, found: &mut Vec<(u32, u32)>) {
        for (index, zone) in zones.iter().enumerate() {
            if zone.touches_ball(at, RADIUS) {
                found.push((index as u32, walker));
            }
        }
    }
}

/// A uniform grid of cells of 8 m, along the ground.
struct Grid {
    width: i64,
    low: i64,
    cells: Vec<Vec<u32>>,
}

const CELL: f64 = 8.0;

impl Grid {
    fn new(zones: &[Block]) -> Self {
        let low = zones.iter().map(|z| (z.center - z.half).min_element()).fold(0.0, f64::min);
        let high = zones.iter().map(|z| (z.center + z.half).max_element()).fold(0.0, f64::max);
        let low = (low / CELL).floor() as i64;
        let width = (high / CELL).floor() as i64 - low + 1;
        let mut grid = Self { width, low, cells: vec![Vec::new(); (width * width) as usize] };
        for (index, zone) in zones.iter().enumerate() {
            for cell in grid.cells_of(zone.center - zone.half, zone.center + zone.half) {
                grid.cells[cell].push(index as u32);
            }
        }
        grid
    }

    fn cells_of(&self, low: DVec3, high: DVec3) -> impl Iterator<Item = usize> + use<> {
        let cell = |value: f64| ((value / CELL).floor() as i64 - self.low).clamp(0, self.width - 1);
        let (x0, x1, z0, z1) = (cell(low.x), cell(high.x), cell(low.z), cell(high.z));
        let width = self.width;
        (z0..=z1).flat_map(move |z| (x0..=x1).map(move |x| (z * width + x) as usize))
    }
}

impl Yardstick for Grid {
    fn pairs(&self, zones: &[Block], walker: u32, at: DVec3, found: &mut Vec<(u32, u32)>) {
        for cell in self.cells_of(at - RADIUS, at + RADIUS) {
            for zone in &self.cells[cell] {
                if zones[*zone as usize].touches_ball(at, RADIUS) {
                    found.push((*zone, walker));
                }
            }
        }
    }
}

type Boxed = GeomWithData<Rectangle<[f64; 3]>, u32>;

impl Yardstick for RTree<Boxed> {
    fn pairs(&self, zones: &[Block], walker: u32, at: DVec3, found: &mut Vec<(u32, u32)>) {
        let envelope = AABB::from_corners((at - RADIUS).to_array(), (at + RADIUS).to_array());
        for zone in self.locate_in_envelope_intersecting(envelope) {
            if zones[zone.data as usize].touches_ball(at, RADIUS) {
                found.push((zone.data, walker));
            }
        }
    }
}

fn rstar_of(zones: &[Block]) -> RTree<Boxed> {
    let boxes = zones.iter().enumerate().map(|(index, zone)| {
        let (low, high) = (zone.center - zone.half, zone.center + zone.half);
        let rectangle = Rectangle::from_corners(low.to_array(), high.to_array());
        GeomWithData::new(rectangle, index as u32)
    });
    RTree::bulk_load(boxes.collect())
}

/// The mean time of a tick, and how many came in or left, of a yardstick.
fn measure(world: &mut World, yardstick: &impl Yardstick, ticks: u32) -> (f64, usize) {
    let mut chance = Chance::new(3);
    let (mut last, mut now) = (Vec::new(), Vec::new());
    let (mut spent, mut events) = (0.0, 0);
    for tick in 0..ticks {
        let time = f64::from(tick) / f64::from(RATE);
        world.send_on(time, &mut chance, |_, _| {});
        let start = Instant::now();
        now.clear();
        for (index, walker) in world.walkers.iter().enumerate() {
            yardstick.pairs(&world.zones, index as u32, walker.at(time), &mut now);
        }
        now.sort_unstable();
        now.dedup();
        let changes = differences(&last, &now);
        std::mem::swap(&mut last, &mut now);
        // The first tick finds who is inside to begin with.
        if tick > 0 {
            spent += start.elapsed().as_secs_f64();
            events += changes;
        }
    }
    (spent / f64::from(ticks - 1), events)
}

/// How many are in one sorted list only.
fn differences(one: &[(u32, u32)], other: &[(u32, u32)]) -> usize {
    let (mut i, mut j, mut count) = (0, 0, 0);
    while i < one.len() && j < other.len() {
        match one[i].cmp(&other[j]) {
            std::cmp::Ordering::Less => (i, count) = (i + 1, count + 1),
            std::cmp::Ordering::Greater => (j, count) = (j + 1, count + 1),
            std::cmp::Ordering::Equal => (i, j) = (i + 1, j + 1),
        }
    }
    count + (one.len() - i) + (other.len() - j)
}

/// The same with Hazuro: `told` each tick where everybody is, or once where everybody is going.
fn measure_play(world: &mut World, told: bool, ticks: u32) -> (f64, usize) {
    let mut chance = Chance::new(3);
    let mut play = world.play();
    let first = world.zones.len();
    let ids: Vec<EntityId> = play.scene().ids().skip(first).collect();
    play.step();
    let (mut spent, mut events) = (0.0, 0);
    for tick in 1..ticks {
        let time = f64::from(tick) / f64::from(RATE);
        let mut inputs = Vec::new();
        world.send_on(time, &mut chance, |index, walker| {
            let until = play.now() + Time::from_secs(walker.end - walker.start);
            inputs.push(Input::Drive { who: ids[index], to: walker.to.into(), until });
        });
        let next = f64::from(tick + 1) / f64::from(RATE);
        let places: Vec<DVec3> = world.walkers.iter().map(|walker| walker.at(next)).collect();
        let start = Instant::now();
        if told {
            for (who, place) in ids.iter().zip(&places) {
                play.drive(*who, *place).expect("it exists");
            }
        } else {
            for input in inputs {
                play.schedule(play.now(), input).unwrap();
            }
        }
        let counted = |kind| matches!(kind, EventKind::Enter | EventKind::Exit);
        let found = play.step().iter().filter_map(|entry| entry.event());
        let found = found.filter(|event| counted(event.kind)).count();
        // On the first ticks everybody sets out.
        if tick > 2 {
            spent += start.elapsed().as_secs_f64();
            events += found;
        }
    }
    (spent / f64::from(ticks - 3), events)
}

fn idle(world: &World) -> f64 {
    let mut play = world.play();
    play.step();
    let start = Instant::now();
    for _ in 0..10_000 {
        play.step();
    }
    start.elapsed().as_secs_f64() / 10_000.0
}

fn row(title: &str, make: impl Fn() -> World) {
    let ticks = 61;
    let zones = make().zones;
    let (rstar, grid) = (rstar_of(&zones), Grid::new(&zones));
    let (walking, walking_events) = measure_play(&mut make(), false, ticks);
    let (told, told_events) = measure_play(&mut make(), true, ticks);
    let (by_grid, grid_events) = measure(&mut make(), &grid, ticks);
    let (by_rstar, _) = measure(&mut make(), &rstar, ticks);
    let brute = (zones.len() * make().walkers.len() <= 100_000_000)
        .then(|| measure(&mut make(), &Brute, 4).0);
    let ratio = |yardstick: f64, ours: f64| format!("{:.1}×", yardstick / ours);
    println!(
        "| {title} | {} | {} | {} | {} | {} | {} | {} | {} | {walking_events} / {told_events} / {grid_events} |",
        shown(walking),
        ratio(by_grid, walking),
        ratio(by_rstar, walking),
        brute.map_or("-".into(), |brute| ratio(brute, walking)),
        shown(told),
        ratio(by_grid, told),
        ratio(by_rstar, told),
        shown(idle(&make())),
    );
}

fn main() {
    let full = std::env::args().any(|argument| argument == "--full");
    println!(
        "| zones × bodies | a tick, journeys | of grid | of rstar | of brute force | a tick, told each place | of grid | of rstar | idle tick | events |"
    );
    println!("|---|---|---|---|---|---|---|---|---|---|");
    let sizes: &[usize] =
        if full { &[1_000, 10_000, 100_000, 1_000_000] } else { &[1_000, 10_000, 100_000] };
    for zones in sizes {
        for walkers in [1_000, 10_000] {
            row(&format!("even, {zones} × {walkers}"), || World::even(*zones, walkers));
        }
    }
    row("uneven, 100000 × 10000", || World::uneven(100_000, 10_000));
}
