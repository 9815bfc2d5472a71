//! Numbers, names and ids that somebody might come up with, good ones and bad ones.

use hazuro::geometry::{Pose, Shape};
use hazuro::glam::{DQuat, DVec3};
use hazuro::scene::{
    Action, Body, Carry, Change, Destination, Entity, EventKind, Filling, Formula, Grant, Limits,
    Move, Pace, Pointer, Probe, Prompt, Quantity, Route, RouteOrder, Seeker, Sight, Spawner,
    Switch, Throw, Touch, Turn, Zone,
};
use hazuro::{Button, Chance, EntityId, Input, Scene, Spot, Target, Time};

use super::world::{
    CUES, EFFECTS, KINDS, NAMES, REACTIONS, STATS, TAGS, may, one, place, rotation, within,
};

/// Numbers at which something may go wrong.
const NUMBERS: [f64; 20] = [
    f64::NAN,
    f64::INFINITY,
    f64::NEG_INFINITY,
    f64::MAX,
    f64::MIN,
    1e308,
    -1e154,
    1e15,
    1.000_001e6,
    1e6,
    -1e6,
    f64::MIN_POSITIVE,
    5e-324,
    1e-9,
    0.0,
    -0.0,
    1.0,
    0.5,
    -2.0,
    180.0,
];

pub fn number(chance: &mut Chance) -> f64 {
    if may(chance, 0.4) { one(chance, &NUMBERS) } else { within(chance, -4.0, 4.0) }
}

pub fn three(chance: &mut Chance) -> [f64; 3] {
    if may(chance, 0.7) {
        return place(chance);
    }
    [number(chance), number(chance), number(chance)]
}

pub fn seconds(chance: &mut Chance) -> f64 {
    if may(chance, 0.3) { number(chance) } else { within(chance, 0.0, 1.0) }
}

fn bad_name(chance: &mut Chance) -> String {
    match (chance.next() * 7.0) as u32 {
        0 => String::new(),
        1 => "x".repeat(100_000),
        2 => "\u{1b}[31mred".into(),
        3 => "kind:".into(),
        4 => "tag:nobody".into(),
        5 => "\u{202e}ada".into(),
        _ => "adda".into(),
    }
}

fn named(chance: &mut Chance, known: &[&str]) -> String {
    if may(chance, 0.1) { bad_name(chance) } else { one(chance, known).to_owned() }
}

pub fn entity_name(chance: &mut Chance) -> String {
    match (chance.next() * 20.0) as u32 {
        0 => "kind:reed".into(),
        1 => "tag:red".into(),
        2 => "who".into(),
        3 => "on".into(),
        4 => {
            one(chance, &["who.slot.next", "on.slot.next", "lever.slot.next", "ada.slot.n"]).into()
        }
        _ => named(chance, &NAMES),
    }
}

pub fn kind(chance: &mut Chance) -> String {
    named(chance, &KINDS)
}

/// An entity that may be added, or not.
pub fn entity(chance: &mut Chance) -> Entity {
    let name = match (chance.next() * 12.0) as u32 {
        0 => entity_name(chance),
        number => format!("new {number}"),
    };
    let at = if may(chance, 0.8) { place(chance) } else { three(chance) };
    let mut entity = Entity::new(name).at(at);
    if may(chance, 0.2) {
        entity = entity.kind(kind(chance));
    }
    if may(chance, 0.2) {
        entity = entity.parent(entity_name(chance));
    }
    if may(chance, 0.3) {
        entity = entity.tags([named(chance, &TAGS)]).layers([named(chance, &["air", "ground"])]);
    }
    let size = || Shape::Box { size: [1.0; 3] };
    match (chance.next() * 12.0) as u32 {
        0 => entity.body(Body::new(shape(chance))),
        1 => entity.body(Body::new(Shape::Sphere { radius: 0.3 })).carry(Carry::default()),
        2 => entity.player(true).body(Body::new(size()).walk(2.0)),
        3 => entity.zone(Zone::new(shape(chance))).limits(limits(chance)),
        4 => entity.solid(size()).touch(Touch::default()),
        5 => entity.solid(size()).pointer(Pointer::default()),
        6 => entity.prompt(Prompt { reach: 8.0, ..Prompt::default() }),
        7 => entity.sight(Sight::default()),
        8 => entity.seeker(Seeker::default()),
        9 => entity.probe(Probe { to: three(chance), ..Probe::default() }),
        10 => entity.zone(Zone::new(size())).spawner(Spawner::of("reed", 1)),
        _ => entity.solid(size()).route(Route { starts: true, ..Route::through(["home", "up"]) }),
    }
}

pub fn reaction(chance: &mut Chance) -> String {
    named(chance, &REACTIONS)
}

/// An entity of this scene or, now and then, of another.
pub fn id(chance: &mut Chance, scene: &Scene, foreign: &Scene) -> EntityId {
    let of = if may(chance, 0.1) { foreign } else { scene };
    let ids: Vec<EntityId> = of.ids().collect();
    one(chance, &ids)
}

fn a_rotation(chance: &mut Chance) -> DQuat {
    if may(chance, 0.8) {
        return rotation(chance);
    }
    DQuat::from_xyzw(number(chance), number(chance), number(chance), number(chance))
}

pub fn pose(chance: &mut Chance) -> Pose {
    Pose { position: DVec3::from_array(three(chance)), rotation: a_rotation(chance) }
}

pub fn target(chance: &mut Chance, scene: &Scene, foreign: &Scene) -> Target {
    match (chance.next() * 3.0) as u32 {
        0 => Target::Entity(id(chance, scene, foreign)),
        1 => Target::from(three(chance)),
        _ => Target::Pose(pose(chance)),
    }
}

pub fn limits(chance: &mut Chance) -> Limits {
    let limit = may(chance, 0.5).then(|| one(chance, &[0, 1, 3, u64::MAX]));
    Limits { cooldown: seconds(chance), shared: may(chance, 0.5), limit }
}

/// A number, or a formula that gives one or none.
fn quantity(chance: &mut Chance) -> Quantity {
    let number = number(chance);
    match (chance.next() * 6.0) as u32 {
        0 => Formula::new("some number", move |_| number).into(),
        1 => Formula::fallible("no number", |_| Err("there is none".into())).into(),
        2 => Formula::fallible("a slot", |facts| {
            let slot = |who| facts.slot(who, "n").map(|value| value.sort().word());
            let sorts = [facts.who(), facts.on()].map(|who| who.and_then(slot));
            Err(format!("these are {sorts:?}"))
        })
        .into(),
        _ => number.into(),
    }
}

fn three_quantities(chance: &mut Chance) -> [Quantity; 3] {
    [quantity(chance), quantity(chance), quantity(chance)]
}

fn change(chance: &mut Chance) -> Change<Quantity> {
    let amount = quantity(chance);
    if may(chance, 0.5) { Change::Add(amount) } else { Change::Set(amount) }
}

fn grant(chance: &mut Chance) -> Grant {
    let mut grant = Grant::default();
    if may(chance, 0.5) {
        grant = grant.stat(named(chance, &STATS), number(chance));
    }
    if may(chance, 0.5) {
        grant = grant.effect(named(chance, &EFFECTS)).tag(named(chance, &TAGS));
    }
    if may(chance, 0.3) {
        grant = grant.count("n", one(chance, &[1, -1, i64::MAX, i64::MIN]));
    }
    if may(chance, 0.3) {
        grant = grant.hands(entity_name(chance));
    }
    grant
}

fn pace(chance: &mut Chance) -> Pace<Quantity> {
    if may(chance, 0.5) { Pace::Over(seconds(chance).into()) } else { Pace::Rate(quantity(chance)) }
}

/// Any action, by names.
pub fn action(chance: &mut Chance) -> Action {
    let what = entity_name(chance);
    let to = entity_name(chance);
    let on = may(chance, 0.5);
    match (chance.next() * 32.0) as u32 {
        0 => {
            let to = match (chance.next() * 4.0) as u32 {
                0 => Destination::Home,
                1 => Destination::Point,
                2 => Destination::By(three_quantities(chance)),
                _ => Destination::Entity(to),
            };
            let over = seconds(chance).into();
            {
                let axis = if chance.next() < 0.3 { Some(three_quantities(chance)) } else { None };
                Move { what, to, axis, over, ease: hazuro::motion::Easing::EASE }.into()
            }
        }
        1 => Action::teleport(what, to).into(),
        2 => Action::Route { what, order: if on { RouteOrder::Run } else { RouteOrder::Reverse } },
        3 => {
            let places = one(chance, &[vec![], vec![to.clone()], vec![to, "up".into()]]);
            let mut lead = Action::lead(what, places);
            lead.pace = pace(chance);
            lead.into()
        }
        4 | 5 => Action::Grab { what: one(chance, &["sack", "jar", "cart", &what]).into(), to },
        6 => Action::Drop(what),
        7 => Throw { what, velocity: three_quantities(chance), spin: quantity(chance) }.into(),
        8 => {
            let towards = on.then_some(to);
            let (by, pace) = (quantity(chance), pace(chance));
            Turn { what, towards, by, pace, ease: hazuro::motion::Easing::Linear }.into()
        }
        9 if on => {
            let aim = Action::aim(what, to).rate(number(chance));
            aim.pitch(number(chance), number(chance)).into()
        }
        9 => Action::Walk { what, to },
        10 => Action::halt(what),
        11 => Action::jump(what),
        12 | 13 => {
            let to = one(chance, &[Some(true), Some(false), None]);
            Action::Switch { what, switch: one(chance, &Switch::ALL), to }
        }
        14 => Action::tag(what, named(chance, &TAGS)),
        15 => Action::untag(what, named(chance, &TAGS)),
        16 if on => Action::convert(what, named(chance, &["stout", "reed", "calm"])),
        16 if may(chance, 0.3) => Action::revert(what),
        16 => Action::add_to(what, named(chance, &["n", "m"]), one(chance, &[1, i64::MAX])),
        17 if on => Action::flag(named(chance, &["up", "lit"]), on),
        17 => Action::fill(what, named(chance, &["n", "next"]), Filling::entity(to)),
        18 => Action::stat(what, named(chance, &STATS), change(chance)),
        19 => Action::effect(named(chance, &EFFECTS), what),
        20 => Action::end_effect(named(chance, &EFFECTS), what),
        21 => Action::grant(grant(chance), what),
        22 if on => Action::own(what, to),
        22 => Action::collect("broth", to),
        23 if on => Action::disown(what),
        23 => Action::say(named(chance, &["hello", "nothing"])),
        24 => Action::cue(named(chance, &CUES)),
        25 => Action::send(one(chance, EventKind::ALL), what, to),
        26 => Action::spawn(named(chance, &KINDS), to),
        27 => Action::remove(what),
        28 => Action::reset(what),
        29 => Action::attach(what, to),
        30 => Action::detach(what),
        _ => match (chance.next() * 4.0) as u32 {
            0 => Action::stop(reaction(chance)),
            1 => Action::wait(seconds(chance)),
            2 => Action::call(named(chance, &["routine"])),
            _ => Action::wait_for(what),
        },
    }
}

/// Any input, by ids.
pub fn input(chance: &mut Chance, scene: &Scene, foreign: &Scene) -> Input {
    let who = id(chance, scene, foreign);
    let other = id(chance, scene, foreign);
    let key = named(chance, &["KeyE", "KeyF"]);
    match (chance.next() * 14.0) as u32 {
        0 => Input::Walk { who, to: target(chance, scene, foreign) },
        1 => {
            let count = (chance.next() * 3.0) as usize;
            let through = (0..count).map(|_| target(chance, scene, foreign)).collect();
            Input::WalkAlong { who, through }
        }
        2 => Input::Follow { who, whom: other, near: number(chance) },
        3 | 4 => {
            let then = Time::from_secs(seconds(chance));
            let until = one(chance, &[Time::ZERO, Time::MAX, then]);
            Input::Drive { who, to: target(chance, scene, foreign), until }
        }
        5 => Input::Place { who, at: target(chance, scene, foreign) },
        6 => Input::Face { who, to: target(chance, scene, foreign) },
        7 => Input::Press { who, key },
        8 => Input::Release { who, key },
        9 if may(chance, 0.5) => Input::Grab { who, what: other },
        9 => Input::Interact { who, with: other },
        10 => {
            let at = if may(chance, 0.5) {
                Spot::Entity(other)
            } else {
                Spot::Pixel(number(chance) * 100.0, number(chance) * 100.0)
            };
            let buttons = [Button::Stays, Button::Down, Button::Up, Button::Click];
            Input::Point { who, at, button: one(chance, &buttons) }
        }
        11 => Input::Limit { what: who, limits: limits(chance) },
        12 => Input::Renew(who),
        _ => {
            let action = action(chance);
            let found = |name: &String| scene.find(name).unwrap_or(other);
            let found = action.try_map(|name, _, _| Ok::<_, ()>(found(name)));
            found.ok().and_then(|it| it.fixed()).map_or(Input::Remove(who), Input::Act)
        }
    }
}

pub fn shape(chance: &mut Chance) -> Shape {
    match (chance.next() * 3.0) as u32 {
        0 => Shape::Box { size: three(chance) },
        1 => Shape::Sphere { radius: number(chance) },
        _ => Shape::Capsule { radius: number(chance), height: number(chance) },
    }
}
