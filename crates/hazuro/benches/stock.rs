//! What it costs to bring things out of a stock and to take them back: with nearly nothing out, and
//! with four fifths of the stock out; and how long a play with a large stock takes to begin.
//!
//! `cargo bench -p hazuro --bench stock`. The yardsticks are the same with little out, and the same
//! scene without a stock.

mod common;

use std::collections::VecDeque;
use std::sync::Arc;
use std::time::Instant;

use common::crowd::Grid;
use common::{Block, Chance, seconds_of, shown};
use hazuro::geometry::Shape;
use hazuro::glam::DVec3;
use hazuro::scene::{Action, Body, Entity, Kind, Zone};
use hazuro::{EntityId, Play, Scene};

/// So many are brought out and taken back each tick.
const EACH: usize = 500;

fn scene(zones: usize, stock: u32) -> Arc<Scene> {
    let leaf = Kind::new("leaf").body(Body::new(Shape::Sphere { radius: 0.1 })).stock(stock);
    let mut scene = Scene::builder("Bench").kind(leaf);
    for place in 0..100 {
        let at = [f64::from(place) * 3.0, 0.0, 20.0];
        scene = scene.entity(Entity::new(format!("place{place}")).at(at));
    }
    for zone in 0..zones {
        let at = [(zone % 50) as f64 * 4.0, 0.0, -((zone / 50) as f64) * 4.0 - 4.0];
        let zone = Entity::new(format!("zone{zone}")).at(at);
        scene = scene.entity(zone.zone(Zone::new(Shape::Box { size: [2.0; 3] })));
    }
    Arc::new(scene.build().expect("a good scene"))
}

/// Seconds for one brought out and one taken back, with so many out all the time.
fn spawning(stock: u32, out: usize) -> f64 {
    let mut play = Play::new(scene(0, stock));
    let places: Vec<EntityId> = (0..100)
        .map(|place| play.scene().find(&format!("place{place}")).expect("a place"))
        .collect();
    let first = play.scene().described().count();
    let leaves: Vec<EntityId> = play.scene().ids().skip(first).collect();
    let bring = |play: &mut Play, number: usize| {
        let at = play.scene().name(places[number % 100]).to_owned();
        play.act(Action::spawn("leaf", at)).expect("a kind");
    };
    for number in 0..out {
        bring(&mut play, number);
    }
    play.step();
    let (mut spent, mut ticks) = (0.0, 0);
    for tick in 0..20 {
        // Those that go are all over the stock.
        let gone: Vec<EntityId> =
            (0..EACH).map(|index| leaves[(index * 97 + tick * 31) % out]).collect();
        let start = Instant::now();
        for leaf in &gone {
            play.remove(*leaf).expect("it is there");
        }
        for number in 0..EACH {
            bring(&mut play, number);
        }
        play.step();
        spent += start.elapsed().as_secs_f64();
        ticks += 1;
    }
    spent / f64::from(ticks) / EACH as f64
}

/// Seconds of the mean tick of a plain grid over the same zones, which finds all pairs that overlap among as
/// many bodies, sorts them, and compares them with those of the last tick.
fn plain_grid() -> f64 {
    let zone = |zone: usize| {
        let center = DVec3::new((zone % 50) as f64 * 4.0, 0.0, -((zone / 50) as f64) * 4.0 - 4.0);
        Block { center, half: DVec3::splat(1.0) }
    };
    let zones: Vec<Block> = (0..1000).map(zone).collect();
    let (grid, mut chance) = (Grid::new(&zones), Chance::new(7));
    let (mut bodies, mut number) = (VecDeque::new(), 0_u32);
    let (mut last, mut ticks) = (Vec::<(u32, u32)>::new(), Vec::new());
    let mut events = 0;
    for tick in 0..120 {
        let start = Instant::now();
        if tick >= 20 {
            bodies.drain(..1000);
        }
        for _ in 0..1000 {
            let at = DVec3::new(chance.between(-2.0, 200.0), 0.0, chance.between(-84.0, 0.0));
            bodies.push_back((number, at));
            number += 1;
        }
        let mut pairs = Vec::with_capacity(last.len());
        for (who, at) in &bodies {
            let radius = DVec3::splat(0.1);
            for cell in grid.cells_of(*at - radius, *at + radius) {
                let near = grid.cells[cell].iter();
                let inside = near.filter(|zone| zones[**zone as usize].touches_ball(*at, 0.1));
                pairs.extend(inside.map(|zone| (*zone, *who)));
            }
        }
        pairs.sort_unstable();
        pairs.dedup();
        events += pairs.iter().filter(|pair| last.binary_search(pair).is_err()).count();
        events += last.iter().filter(|pair| pairs.binary_search(pair).is_err()).count();
        last = pairs;
        if tick >= 20 {
            ticks.push(start.elapsed().as_secs_f64());
        }
    }
    std::hint::black_box(events);
    ticks.iter().sum::<f64>() / ticks.len() as f64
}

/// How what comes is named.
#[derive(Clone, Copy, PartialEq)]
enum Coming {
    /// By `spawn`, from a stock that grows as it is needed.
    Spawned,
    /// By `add_all`, under names that come again.
    Named,
    /// By `add_all`, each under a name of its own.
    New,
}

/// Seconds of the mean and of the slowest of 200 ticks in which 1,000 bodies come and the oldest 1,000 of
/// 20,000 go, among 1,000 zones.
fn coming_and_going(how: Coming) -> (f64, f64) {
    const EACH: usize = 1000;
    let mut play = Play::new(scene(1000, 0));
    let mut chance = Chance::new(7);
    let (mut there, mut number) = (VecDeque::<EntityId>::new(), 0);
    let mut ticks = Vec::new();
    for tick in 0..220 {
        let places: Vec<[f64; 3]> = (0..EACH)
            .map(|_| [chance.between(-2.0, 200.0), 0.0, chance.between(-84.0, 0.0)])
            .collect();
        let start = Instant::now();
        if tick >= 20 {
            for gone in there.drain(..EACH) {
                play.remove(gone).expect("it is there");
            }
        }
        if how == Coming::Spawned {
            there.extend(places.iter().map(|at| play.spawn("leaf", *at).expect("a kind")));
        } else {
            let names = if how == Coming::Named { 25_000 } else { usize::MAX };
            let leaf = |at: &[f64; 3]| {
                number += 1;
                Entity::new(format!("leaf {}", number % names)).kind("leaf").at(*at)
            };
            // What comes again must be described as it was.
            let leaves: Vec<Entity> = if how == Coming::Named && tick >= 25 {
                (0..EACH)
                    .map(|_| {
                        number += 1;
                        let known = play.scene().find(&format!("leaf {}", number % names));
                        play.scene().entity(known.expect("it was there")).clone()
                    })
                    .collect()
            } else {
                places.iter().map(leaf).collect()
            };
            there.extend(play.add_all(leaves).expect("they may come"));
        }
        play.step();
        if tick >= 20 {
            ticks.push(start.elapsed().as_secs_f64());
        }
    }
    let mean = ticks.iter().sum::<f64>() / ticks.len() as f64;
    (mean, ticks.into_iter().fold(0.0, f64::max))
}

fn main() {
    let plain = plain_grid();
    println!("| 1,000 come and 1,000 go each tick, of 20,000 | a tick | slowest | of grid |");
    println!("|---|---|---|---|");
    for (how, name) in [
        (Coming::Spawned, "spawned"),
        (Coming::Named, "added, names that come again"),
        (Coming::New, "added, new names"),
    ] {
        let (mean, slowest) = coming_and_going(how);
        println!("| {name} | {} | {} | {:.2}× |", shown(mean), shown(slowest), plain / mean);
    }
    let (few, many) = (spawning(50_000, 1_000), spawning(50_000, 40_000));
    println!("| out of 50,000 | one out and one back | times |");
    println!("|---|---|---|");
    println!("| 1,000 | {} | |", shown(few));
    println!("| 40,000 | {} | {:.2}× |", shown(many), many / few);
    println!("| a play of 500 zones | begins in | goes back in |");
    println!("|---|---|---|");
    for stock in [0, 16_000] {
        let scene = scene(500, stock);
        let begins = seconds_of(|| drop(Play::new(scene.clone())));
        let mut play = Play::new(scene);
        let state = play.state().clone();
        let back = seconds_of(|| play.restore(state.clone()).expect("its own state"));
        println!("| and a stock of {stock} | {} | {} |", shown(begins), shown(back));
    }
}
