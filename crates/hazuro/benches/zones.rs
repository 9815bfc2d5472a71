//! The detection tick of zones, events included, as a ratio to yardsticks measured in the same run.
//!
//! Run it with `cargo bench -p hazuro --bench zones`; add `-- --full` for a million zones,
//! `-- --turning` for bodies that turn only, `-- --guarded` for bodies beside a guard and a prompt,
//! `-- --told` for bodies of which it is told each tick where they are, `-- --journeys` for those of which
//! it is told where they are going.
//!
//! The yardsticks do what is usually written by hand: find the pairs that overlap now, sort them,
//! and compare them with those of the last tick. All set out at times of their own; the means are those of
//! 400 ticks, and beside them stands the slowest.

mod common;

use std::time::Instant;

use common::crowd::{Brute, Figure, Grid, RATE, World, Yardstick, rstar_of};
use common::{Chance, shown};
use hazuro::geometry::Pose;
use hazuro::scene::EventKind;
use hazuro::{EntityId, Input, Play, Time};

/// How many ticks are played. The first are not counted: there it is found who is where.
const TICKS: u32 = 401;

/// What was measured: seconds of a tick, of the slowest, and how many came in or left.
struct Measured {
    mean: f64,
    slowest: f64,
    events: usize,
}

/// How a play comes to know where everybody is.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Told {
    /// Once, where everybody is going.
    Journeys,
    /// Each tick, where everybody is.
    Places,
    /// Each tick, and everybody turns all the time.
    Turning,
}

/// Adds up what ticks take.
struct Clock {
    spent: f64,
    slowest: f64,
    ticks: u32,
    events: usize,
}

impl Clock {
    const STOPPED: Self = Self { spent: 0.0, slowest: 0.0, ticks: 0, events: 0 };

    fn count(&mut self, start: Instant, events: usize) {
        let spent = start.elapsed().as_secs_f64();
        self.spent += spent;
        self.slowest = self.slowest.max(spent);
        self.ticks += 1;
        self.events += events;
    }

    fn measured(&self) -> Measured {
        let mean = self.spent / f64::from(self.ticks);
        Measured { mean, slowest: self.slowest, events: self.events }
    }
}

/// What a yardstick takes.
fn measure(world: &mut World, yardstick: &impl Yardstick, ticks: u32, turns: bool) -> Measured {
    let mut chance = Chance::new(3);
    let (mut last, mut now) = (Vec::new(), Vec::new());
    let mut clock = Clock::STOPPED;
    for tick in 0..ticks {
        let time = f64::from(tick) / f64::from(RATE);
        world.send_on(time, &mut chance, |_, _| {});
        let yaw = |index| if turns { World::yaw(index, time) } else { 0.0 };
        let start = Instant::now();
        now.clear();
        for (index, walker) in world.walkers.iter().enumerate() {
            let pose = (walker.at(time), yaw(index));
            yardstick.pairs(world, index as u32, pose, &mut now);
        }
        now.sort_unstable();
        now.dedup();
        let changes = differences(&last, &now);
        std::mem::swap(&mut last, &mut now);
        // The first ticks find who is inside to begin with.
        if tick > 2 {
            clock.count(start, changes);
        }
    }
    clock.measured()
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

/// The same with Hazuro.
fn measure_play(world: &mut World, told: Told) -> Measured {
    let play = world.play();
    measure_this(world, play, told)
}

fn measure_this(world: &mut World, mut play: Play, told: Told) -> Measured {
    let mut chance = Chance::new(3);
    let first = world.zones.len();
    let ids = play.scene().ids().skip(first).take(world.walkers.len());
    let ids: Vec<EntityId> = ids.collect();
    play.step();
    let mut clock = Clock::STOPPED;
    for tick in 1..TICKS {
        let time = f64::from(tick) / f64::from(RATE);
        let mut inputs = Vec::new();
        world.send_on(time, &mut chance, |index, walker| {
            let until = play.now() + Time::from_secs(walker.end - walker.start);
            inputs.push(Input::Drive { who: ids[index], to: walker.to.into(), until });
        });
        let next = f64::from(tick + 1) / f64::from(RATE);
        let pose = |index| world.pose(index, next, told == Told::Turning);
        let poses: Vec<Pose> = (0..ids.len()).map(pose).collect();
        let start = Instant::now();
        if told == Told::Journeys {
            for input in inputs {
                play.schedule(play.now(), input).unwrap();
            }
        } else {
            for (who, pose) in ids.iter().zip(&poses) {
                play.drive(*who, *pose).expect("it exists");
            }
        }
        let counted = |kind| matches!(kind, EventKind::Enter | EventKind::Exit);
        let found = play.step().iter().filter_map(|entry| entry.event());
        let found = found.filter(|event| counted(event.kind)).count();
        if tick > 2 {
            clock.count(start, found);
        }
    }
    clock.measured()
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

fn ratio(yardstick: f64, ours: f64) -> String {
    format!("{:.2}×", yardstick / ours)
}

fn row(title: &str, make: impl Fn() -> World) {
    let zones = make().zones;
    let (rstar, grid) = (rstar_of(&zones), Grid::new(&zones));
    let walking = measure_play(&mut make(), Told::Journeys);
    let told = measure_play(&mut make(), Told::Places);
    let by_grid = measure(&mut make(), &grid, TICKS, false);
    let by_rstar = measure(&mut make(), &rstar, TICKS / 4, false);
    let brute = (zones.len() * make().walkers.len() <= 100_000_000)
        .then(|| measure(&mut make(), &Brute, 6, false).mean);
    println!(
        "| {title} | {} | {} | {} | {} | {} | {} | {} | {} | {} | {} | {} / {} / {} |",
        shown(walking.mean),
        shown(walking.slowest),
        ratio(by_grid.mean, walking.mean),
        ratio(by_rstar.mean, walking.mean),
        brute.map_or("-".into(), |brute| ratio(brute, walking.mean)),
        shown(told.mean),
        shown(told.slowest),
        ratio(by_grid.mean, told.mean),
        ratio(by_rstar.mean, told.mean),
        shown(idle(&make())),
        walking.events,
        told.events,
        by_grid.events,
    );
}

/// Only one way to know where everybody is, beside the grid.
fn alone(title: &str, told: Told, make: impl Fn() -> World) {
    let told = measure_play(&mut make(), told);
    let by_grid = measure(&mut make(), &Grid::new(&make().zones), TICKS, false);
    println!(
        "| {title} | {} | {} | {} | {} / {} |",
        shown(told.mean),
        shown(told.slowest),
        ratio(by_grid.mean, told.mean),
        told.events,
        by_grid.events,
    );
}

/// Everybody turns all the time; beside it the same without turning.
fn turning(title: &str, figure: Figure, make: impl Fn() -> World) {
    let make = || make().of(figure);
    let grid = Grid::new(&make().zones);
    let straight = measure_play(&mut make(), Told::Places);
    let turning = measure_play(&mut make(), Told::Turning);
    let by_grid = measure(&mut make(), &grid, TICKS, true);
    println!(
        "| {title}, {figure:?} | {} | {} | {} | {} | {} / {} |",
        shown(turning.mean),
        shown(turning.slowest),
        ratio(by_grid.mean, turning.mean),
        ratio(straight.mean, turning.mean),
        turning.events,
        by_grid.events,
    );
}

/// What one guard and one prompt that admit one hero cost the crowd.
fn guarded(title: &str, told: Told, make: impl Fn() -> World) {
    let plain = measure_play(&mut make(), told);
    let play = make().guarded();
    let guarded = measure_this(&mut make(), play, told);
    println!(
        "| {title}, {told:?} | {} | {} | {} |",
        shown(plain.mean),
        shown(guarded.mean),
        ratio(guarded.mean, plain.mean),
    );
}

fn main() {
    let has = |flag: &str| std::env::args().any(|argument| argument == flag);
    let only = [("--told", Told::Places), ("--journeys", Told::Journeys)];
    if let Some((_, told)) = only.into_iter().find(|(flag, _)| has(flag)) {
        println!("| {told:?} | a tick | slowest | of grid | events |");
        println!("|---|---|---|---|---|");
        for (zones, walkers) in [(10_000, 10_000), (100_000, 10_000), (100_000, 100_000)] {
            alone(&format!("even, {zones} × {walkers}"), told, || World::even(zones, walkers));
        }
        return alone("uneven, 100000 × 10000", told, || World::uneven(100_000, 10_000));
    }
    if !has("--turning") && !has("--guarded") {
        println!(
            "| zones × bodies | a tick, journeys | slowest | of grid | of rstar | of brute force | a tick, told each place | slowest | of grid | of rstar | idle tick | events |"
        );
        println!("|---|---|---|---|---|---|---|---|---|---|---|---|");
        let sizes: &[usize] = if has("--full") {
            &[1_000, 10_000, 100_000, 1_000_000]
        } else {
            &[1_000, 10_000, 100_000]
        };
        for zones in sizes {
            for walkers in [1_000, 10_000] {
                row(&format!("even, {zones} × {walkers}"), || World::even(*zones, walkers));
            }
        }
        row("uneven, 100000 × 10000", || World::uneven(100_000, 10_000));
    }
    if !has("--guarded") {
        println!("| turning | a tick | slowest | of grid | of not turning | events |");
        println!("|---|---|---|---|---|---|");
        for figure in [Figure::Ball, Figure::Capsule, Figure::Box] {
            turning("even, 3000 × 2200", figure, || World::even(3_000, 2_200));
            turning("even, 100000 × 10000", figure, || World::even(100_000, 10_000));
            turning("uneven, 100000 × 10000", figure, || World::uneven(100_000, 10_000));
        }
    }
    println!("| guarded | a tick without | with a guard and a prompt | times |");
    println!("|---|---|---|---|");
    for told in [Told::Places, Told::Turning, Told::Journeys] {
        guarded("even, 3000 × 2200", told, || World::even(3_000, 2_200));
    }
}
