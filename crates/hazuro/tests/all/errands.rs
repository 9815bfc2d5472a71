//! Errands of several legs: mazes against a plain search, bounces against their closed form, hosts
//! that take somebody by the hand, and reactions to all of that.

use crate::support;

use std::collections::{BTreeSet, VecDeque};

use hazuro::geometry::{Pose, Shape};
use hazuro::glam::DVec3;
use hazuro::scene::{
    Action, Body, Carry, Entity, EventKind, Floor, Pace, Reaction, Route, SceneBuilder, Stat, Then,
    Trigger,
};
use hazuro::{Happening, Input, Play, Scene, Time};
use proptest::prelude::*;
use support::{at, block, cube, events, person, play_until, words};

/// How wide a cell of a maze is, in metres.
const CELL: f64 = 1.5;

/// How many cells a maze has along each side.
const SIDE: i32 = 6;

fn middle(cell: (i32, i32)) -> [f64; 3] {
    [f64::from(cell.0) * CELL, 0.0, f64::from(cell.1) * CELL]
}

/// A maze of full cells with a fence around it.
fn maze(full: &BTreeSet<(i32, i32)>) -> SceneBuilder {
    let mut scene = Scene::builder("Maze").entity(Entity::new("miller").body(person()));
    for cell in full {
        let [x, _, z] = middle(*cell);
        let name = format!("hedge_{}_{}", cell.0, cell.1);
        scene = scene.entity(block(&name, [x, 1.0, z], [CELL, 2.0, CELL]));
    }
    let (low, high) = (-CELL / 2.0 - 0.1, (f64::from(SIDE) - 0.5) * CELL + 0.1);
    let (half, long) = (f64::midpoint(low, high), high - low + 0.2);
    for (name, x, z, wide, deep) in [
        ("fence_west", low, half, 0.2, long),
        ("fence_east", high, half, 0.2, long),
        ("fence_north", half, low, long, 0.2),
        ("fence_south", half, high, long, 0.2),
    ] {
        scene = scene.entity(block(name, [x, 1.0, z], [wide, 2.0, deep]));
    }
    scene
}

/// How many cells away each cell is from the first, by a plain search in breadth.
fn reached(full: &BTreeSet<(i32, i32)>, goal: (i32, i32)) -> Option<usize> {
    let mut seen = BTreeSet::from([(0, 0)]);
    let mut waiting = VecDeque::from([((0, 0), 0)]);
    while let Some((cell, steps)) = waiting.pop_front() {
        if cell == goal {
            return Some(steps);
        }
        for (x, z) in [(1, 0), (-1, 0), (0, 1), (0, -1)] {
            let next = (cell.0 + x, cell.1 + z);
            let inside = (0..SIDE).contains(&next.0) && (0..SIDE).contains(&next.1);
            if inside && !full.contains(&next) && seen.insert(next) {
                waiting.push_back((next, steps + 1));
            }
        }
    }
    None
}

proptest! {
    #[test]
    fn somebody_gets_through_a_maze_exactly_when_there_is_a_way(
        hedges in prop::collection::btree_set((0..SIDE, 0..SIDE), 0..16),
        goal in (0..SIDE, 0..SIDE),
    ) {
        let full: BTreeSet<_> =
            hedges.into_iter().filter(|cell| *cell != (0, 0) && *cell != goal).collect();
        let mut play = Play::new(maze(&full).build().unwrap());
        let miller = play.scene().find("miller").unwrap();
        play.schedule(Time::ZERO, Input::Walk { who: miller, to: middle(goal).into() }).unwrap();
        let way = reached(&full, goal);
        // Never more than along the middles of the cells, and some for the grid of the search.
        let longest = way.map_or(6.0, |steps| steps as f64 * CELL / 3.0 * 1.3 + 1.0);
        let entries = play_until(&mut play, longest);
        let halts = entries.iter().filter(|it| matches!(&it.what, Happening::Halted { .. })).count();
        let there = at(&play, "miller").distance(middle(goal).into()) < 1e-6;
        prop_assert_eq!(there, way.is_some(), "{:?} at {}", way, at(&play, "miller"));
        prop_assert_eq!(halts, usize::from(way.is_none()));
    }

    #[test]
    fn each_bounce_comes_when_and_where_it_should(
        height in 1.0..5.0_f64,
        bounce in 0.3..0.9_f64,
    ) {
        let carry = Carry { bounce, friction: 0.0, ..Carry::default() };
        let scene = Scene::builder("Yard")
            .entity(
                Entity::new("ball")
                    .at([0.0, height + 0.1, 0.0])
                    .body(Body::new(Shape::Sphere { radius: 0.1 }))
                    .carry(carry),
            );
        let mut play = Play::new(scene.gravity(10.0).build().unwrap());
        // It falls for the first time, and bounces ever lower.
        let fall = (2.0 * height / 10.0).sqrt();
        let mut time = fall;
        let mut up = 10.0 * fall * bounce;
        for _ in 0..3 {
            if up < 0.6 {
                break;
            }
            let top = Time::from_secs(time + up / 10.0);
            play.advance(top);
            let ball = at(&play, "ball");
            let expected = up * up / 20.0 + 0.1;
            prop_assert!((ball.y - expected).abs() < 2e-3, "{} instead of {expected}", ball.y);
            time += 2.0 * up / 10.0;
            up *= bounce;
        }
        prop_assert_eq!(at(&play, "ball").x, 0.0);
    }
}

#[test]
fn a_host_takes_somebody_by_the_hand_and_lets_go() {
    let scene = Scene::builder("Yard").entity(Entity::new("miller").body(person())).entity(block(
        "wall",
        [2.0, 1.0, 0.0],
        [0.2, 2.0, 4.0],
    ));
    let mut play = Play::new(scene.build().unwrap());
    // Nothing is in the way of who is driven, and nothing lets him fall until he is let go.
    for tick in 1..=60 {
        play.drive("miller", [f64::from(tick) * 0.1, 3.0, 0.0]).unwrap();
        play.step();
        assert!((at(&play, "miller").x - f64::from(tick) * 0.1).abs() < 1e-9);
    }
    assert_eq!(at(&play, "miller").y, 3.0);
    play.advance(play.now() + Time::from_secs(2.0));
    assert!(at(&play, "miller").distance(DVec3::new(6.0, 0.0, 0.0)) < 1e-4);
    // Then his legs are his own again.
    play.act(Action::jump("miller")).unwrap();
    play.advance(play.now() + Time::from_secs(0.4));
    assert!(at(&play, "miller").y > 0.9);
}

#[test]
fn a_round_is_walked_again_and_again_by_reactions_alone() {
    let pad = |name: &str, x: f64, z: f64| Entity::new(name).at([x, 0.5, z]).zone(cube(1.0));
    let go =
        |from: &str, to: &str| Reaction::on(Trigger::enter(from)).then(Action::walk("who", to));
    let scene = Scene::builder("Yard")
        .entity(Entity::new("heron").body(person()))
        .entity(pad("north", 0.0, -4.0))
        .entity(pad("east", 4.0, 0.0))
        .reaction(Reaction::on(Trigger::Start).then(Action::walk("heron", "north")))
        .reaction(go("north", "east"))
        .reaction(go("east", "north"));
    let mut play = Play::new(scene.build().unwrap());
    let entries = play_until(&mut play, 20.0);
    let enters = words(&play, &entries);
    let enters: Vec<_> = enters.iter().filter(|line| line.starts_with("enter")).collect();
    assert!(enters.len() >= 10, "{enters:?}");
    assert!(enters.windows(2).all(|pair| pair[0] != pair[1]), "{enters:?}");
}

#[test]
fn a_ferry_goes_around_from_the_start_and_tells_each_stop() {
    let route = Route {
        then: Then::Around,
        pace: Pace::Over(1.0),
        starts: true,
        ..Route::through(["home", "mill", "weir"])
    };
    let scene = Scene::builder("Creek")
        .entity(block("ferry", [0.0, 0.0, 0.0], [2.0, 0.2, 4.0]).route(route))
        .entity(Entity::new("mill").at([9.0, 0.0, 0.0]))
        .entity(Entity::new("weir").at([9.0, 0.0, 9.0]))
        .reaction(Reaction::on(Trigger::reach("ferry")).then(Action::add("stops", 1)));
    let mut play = Play::new(scene.build().unwrap());
    let entries = play_until(&mut play, 6.5);
    let stops =
        ["mill", "weir", "-", "mill", "weir", "-"].map(|stop| format!("reach ferry {stop}"));
    assert_eq!(words(&play, &entries), stops);
    assert_eq!(play.count("stops"), 6);
    let times: Vec<f64> = events(&entries)
        .iter()
        .filter(|event| event.kind == EventKind::Reach)
        .map(|event| event.time.secs())
        .collect();
    assert_eq!(times, [1.0, 2.0, 3.0, 4.0, 5.0, 6.0]);
}

#[test]
fn who_is_slowed_down_or_stopped_by_a_stat_walks_on_when_that_is_over() {
    let slow = hazuro::scene::Effect::new("mud")
        .alter("walk", hazuro::scene::Alter::times(0.0))
        .seconds(2.0);
    let scene = Scene::builder("Yard")
        .entity(Entity::new("miller").body(person()).stat("pride", Stat::default()))
        .effect(slow);
    let mut play = Play::new(scene.build().unwrap());
    let miller = play.scene().find("miller").unwrap();
    play.schedule(Time::ZERO, Input::Walk { who: miller, to: [9.0, 0.0, 0.0].into() }).unwrap();
    play.advance(Time::from_secs(1.0));
    play.act(Action::effect("mud", "miller")).unwrap();
    play.advance(Time::from_secs(2.9));
    assert!((at(&play, "miller").x - 3.0).abs() < 1e-6, "{}", at(&play, "miller"));
    play.advance(Time::from_secs(5.1));
    assert_eq!(at(&play, "miller").x, 9.0);
}

#[test]
fn who_walks_straight_goes_along_a_wall_but_never_around_it() {
    let walked = |turn: f64, to: [f64; 3], straight: bool, rate: u32| {
        let wall = Entity::new("wall")
            .at(Pose::from([0.3, 1.0, -3.0]).turned(turn))
            .solid(Shape::Box { size: [4.0, 2.0, 0.5] });
        let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
        let scene = Scene::builder("Yard").floor(Floor::At(0.0)).entity(wall);
        let scene = scene.entity(Entity::new("miller").body(body)).build().unwrap();
        let who = scene.find("miller").unwrap();
        let mut play = Play::new(scene);
        play.set_rate(rate).unwrap();
        let to = to.into();
        let input =
            if straight { Input::WalkStraight { who, to } } else { Input::Walk { who, to } };
        play.schedule(Time::ZERO, input).unwrap();
        let entries = play.advance(Time::from_secs(6.0)).to_vec();
        let halted = entries.iter().any(|it| matches!(it.what, Happening::Halted { .. }));
        (play.pose("miller").unwrap().position, halted)
    };
    for rate in [10, 60, 240] {
        let (behind, beside) = ([0.0, 0.0, -6.0], [2.0, 0.0, -7.0]);
        // Square before it: there it stops, and says so.
        let (place, halted) = walked(0.0, behind, true, rate);
        assert!((place.z + 2.45).abs() < 0.01 && place.x.abs() < 0.01 && halted, "{place}");
        // Aslant: along it, as far as that leads on.
        let (place, halted) = walked(0.6, behind, true, rate);
        assert!((1.2..1.4).contains(&place.x) && halted, "{place}");
        // Or past its end, and on.
        let (place, halted) = walked(0.6, beside, true, rate);
        assert!(place.distance(beside.into()) < 0.01 && !halted, "{place}");
        // Who looks for a way goes around.
        let (place, halted) = walked(0.0, behind, false, rate);
        assert!(place.distance(behind.into()) < 0.01 && !halted, "{place}");
    }
}
