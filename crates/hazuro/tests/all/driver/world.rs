//! A world with one of everything, put together a little otherwise from each seed.

use std::sync::Arc;

use hazuro::geometry::{Pose, Shape};
use hazuro::glam::{DQuat, DVec3};
use hazuro::scene::{
    Action, Admit, Again, Alter, Blocked, Body, Camera, Carry, Change, Condition, Drag, Effect,
    Entity, EventKind, Footing, Grant, Kind, Legs, Limits, Owners, Ownership, Pace, Part, Pickup,
    Pointer, Probe, Prompt, Reaction, Route, Seeker, Sight, SlotSort, SlotValue, Spawner, Stacking,
    Stat, Then, Touch, Trigger, Zone,
};
use hazuro::{Chance, Scene};

/// The names of all entities that are described.
pub const NAMES: [&str; 24] = [
    "ada",
    "bo",
    "cart",
    "crane",
    "sack",
    "jar",
    "lift",
    "gate",
    "pad",
    "gong",
    "broth",
    "lever",
    "bell",
    "eye",
    "feeler",
    "owl",
    "cock",
    "step",
    "creek",
    "up",
    "down",
    "lamp",
    "gate/leaf",
    "sack/root",
];
pub const KINDS: [&str; 1] = ["reed"];
pub const TAGS: [&str; 3] = ["player", "red", "wet"];
pub const STATS: [&str; 3] = ["health", "walk", "strength"];
pub const EFFECTS: [&str; 3] = ["fast", "slow", "bleed"];
pub const REACTIONS: [&str; 3] = ["slow one", "queue", "again"];
pub const CUES: [&str; 4] = ["go", "more", "echo", "stop"];

/// A number from one to another.
pub fn within(chance: &mut Chance, from: f64, to: f64) -> f64 {
    from + (to - from) * chance.next()
}

/// One of several.
pub fn one<T: Clone>(chance: &mut Chance, of: &[T]) -> T {
    of[((chance.next() * of.len() as f64) as usize).min(of.len() - 1)].clone()
}

/// Whether something with this probability is so.
pub fn may(chance: &mut Chance, share: f64) -> bool {
    chance.next() < share
}

pub fn place(chance: &mut Chance) -> [f64; 3] {
    [within(chance, -4.0, 4.0), within(chance, 0.0, 2.0), within(chance, -4.0, 4.0)]
}

pub fn rotation(chance: &mut Chance) -> DQuat {
    let number = |chance: &mut Chance| within(chance, -1.0, 1.0);
    let numbers = [number(chance), number(chance), number(chance), 1.0];
    DQuat::from_array(numbers).normalize()
}

fn shape(chance: &mut Chance) -> Shape {
    let length = |chance: &mut Chance| within(chance, 0.2, 1.5);
    match (chance.next() * 5.0) as u32 {
        0 => Shape::Box { size: [length(chance), length(chance), length(chance)] },
        1 => Shape::Sphere { radius: length(chance) },
        2 => Shape::Capsule { radius: 0.3, height: 0.7 + length(chance) },
        3 => Shape::Cylinder { radius: length(chance), height: length(chance) },
        _ => Shape::Cone { radius: length(chance), height: length(chance) },
    }
}

fn condition(text: &str, at: i64) -> Condition {
    let name = text.to_owned();
    Condition::fallible(format!("count.{text} >= {at}"), move |facts| {
        // Now and then it cannot be told.
        let count = facts.count(&name);
        if count % 7 == 6 { Err("six is too much".to_owned()) } else { Ok(count >= at) }
    })
}

fn part(chance: &mut Chance, name: &str) -> Part {
    let at = place(chance).map(|along| along * 0.2);
    let pose = Pose { position: DVec3::from_array(at), rotation: rotation(chance) };
    Part::new(name, shape(chance)).at(pose)
}

fn route(c: &mut Chance) -> Route {
    Route {
        pace: if may(c, 0.5) { Pace::Over(within(c, 0.0, 1.0)) } else { Pace::Rate(2.0) },
        wait: if may(c, 0.5) { 0.0 } else { 0.3 },
        then: one(c, Then::ALL),
        blocked: one(c, Blocked::ALL),
        starts: may(c, 0.5),
        ..Route::through(["home", "up", "down"])
    }
}

fn limits(c: &mut Chance) -> Limits {
    Limits {
        cooldown: if may(c, 0.5) { 0.4 } else { 0.0 },
        limit: may(c, 0.3).then_some(5),
        shared: may(c, 0.5),
    }
}

fn admit(c: &mut Chance) -> Admit {
    match (c.next() * 4.0) as u32 {
        0 => Admit::tags(["player"]),
        1 => Admit::tags(["red"]),
        2 => Admit::default().when(condition("n", 1)),
        _ => Admit::default(),
    }
}

/// The world of a seed.
pub fn world(seed: u64) -> Arc<Scene> {
    let mut chance = Chance::new(seed);
    let c = &mut chance;
    let stat = |start| Stat { start, least: 0.0, most: 100.0 };
    let mut scene = Scene::builder("World")
        .seed(seed)
        .kind(
            Kind::new("growth")
                .for_all("sa*")
                .child(Entity::new("root").at([0.0, -0.2, 0.0]).zone(Zone::new(shape(c)))),
        )
        .kind(
            Kind::new("reed")
                .kind("growth")
                .slot("n", 0.5)
                .needs_slot("next", SlotSort::Entity)
                .stock(4)
                .body(Body::new(Shape::Sphere { radius: 0.2 }))
                .carry(Carry::default()),
        )
        .kind(Kind::new("stout").body(Body::new(Shape::Sphere { radius: 0.5 })).layers(["dim"]))
        .kind(Kind::new("calm").admit(Admit::tags(["red"])).scale(1.2))
        .effect(Effect::new("fast").alter("walk", Alter::times(2.0)).seconds(1.0))
        .effect(
            Effect::new("slow").alter("walk", Alter::times(0.5)).seconds(0.7).again(Stacking::Add),
        )
        .effect(Effect::new("bleed").alter("health", Alter::rate(-20.0)).while_detected())
        .text("hello", "{who} at {on}: {count.n}");
    for entity in moving(c).into_iter().chain(fixed(c)) {
        let entity = entity.at(place(c)).stat("health", stat(50.0)).stat("strength", stat(1.0));
        scene = scene.entity(entity);
    }
    for reaction in reactions(c) {
        scene = scene.reaction(reaction);
    }
    scene.build().unwrap_or_else(|errors| panic!("{errors}")).into()
}

/// Whatever moves, is carried or is ridden.
fn moving(c: &mut Chance) -> Vec<Entity> {
    let legs = Legs { jump: 1.0, ..Legs::default() };
    let person = || Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0).legs(legs);
    let beast = Body::of_parts([part(c, "head"), part(c, "trunk"), part(c, "tail")]);
    let carry = Carry { snatch: may(c, 0.5), ..Carry::default() };
    vec![
        Entity::new("ada").player(true).body(person()).tags(["player"]).footing(Footing::default()),
        Entity::new("bo").slot("n", "bo").body(person()).tags(["red"]).footing(Footing::default()),
        Entity::new("cart").slot("next", SlotValue::entity("lever")).body(beast).tags(["red"]),
        Entity::new("crane").parent("lift").body(Body::new(shape(c))),
        Entity::new("sack")
            .body(Body::new(Shape::Box { size: [0.4, 0.6, 0.4] }))
            .carry(carry)
            .ownership(Ownership { keep: Some(0.7), ..Ownership::default() }),
        Entity::new("jar")
            .body(Body::new(shape(c)))
            .carry(Carry::default())
            .route(route(c))
            .ownership(Ownership {
                by: Owners::team(["red", "player"]),
                keep: None,
                ..Ownership::default()
            }),
        Entity::new("lift").solid(Shape::Box { size: [2.0, 0.2, 2.0] }).route(route(c)),
    ]
}

/// Whatever stays where it is, and detects.
fn fixed(c: &mut Chance) -> Vec<Entity> {
    let parts = may(c, 0.5);
    vec![
        Entity::new("gate")
            .solid(shape(c))
            .touch(Touch { parts, ..Touch::default() })
            .child(Entity::new("leaf").at(place(c)).solid(shape(c)).prompt(Prompt::default())),
        Entity::new("pad")
            .zone(Zone::new(shape(c)).inside_every(0.25))
            .admit(admit(c))
            .limits(limits(c)),
        Entity::new("gong").touch(Touch { shape: Some(shape(c)), parts, ..Touch::default() }),
        Entity::new("broth").zone(Zone::new(Shape::Sphere { radius: 1.0 })).pickup(Pickup {
            grant: Grant::default().effect("fast"),
            back_after: Some(0.5),
            ..Pickup::default()
        }),
        Entity::new("lever")
            .slot("next", SlotValue::entity("lift"))
            .prompt(Prompt { hold: if may(c, 0.5) { 0.2 } else { 0.0 }, ..Prompt::default() })
            .admit(admit(c))
            .limits(limits(c)),
        Entity::new("bell")
            .solid(shape(c))
            .pointer(Pointer { drag: Some(Drag::Plane([0.0, 1.0, 0.0])), ..Pointer::default() })
            .limits(limits(c))
            .ownership(Ownership { by: Owners::Host, keep: Some(1.0), ..Ownership::default() }),
        Entity::new("eye").parent("ada").at([0.0, 1.6, 0.0]).camera(Camera::default()),
        Entity::new("feeler")
            .parent("ada")
            .probe(Probe { to: [0.0, 0.5, -3.0], ..Probe::default() })
            .admit(admit(c)),
        Entity::new("owl").sight(Sight { notice: 0.2, ..Sight::default() }).admit(admit(c)),
        Entity::new("cock").seeker(Seeker::default()).admit(admit(c)),
        Entity::new("step").solid(Shape::Box { size: [3.0, 0.3, 3.0] }),
        Entity::new("creek").zone(Zone::new(Shape::Box { size: [3.0; 3] })).spawner(Spawner {
            every: 0.5,
            oldest: Some(2.0),
            bounds: Some("creek".into()),
            ..Spawner::of("reed", 2)
        }),
        Entity::new("up"),
        Entity::new("down"),
        Entity::new("lamp").parent("cart").zone(Zone::new(shape(c))),
    ]
}

fn reactions(c: &mut Chance) -> [Reaction; 11] {
    [
        Reaction::on(Trigger::enter("pad"))
            .then(Action::add("n", 1))
            .then(Action::hurt("who", 3.0)),
        Reaction::on(Trigger::exit("pad")).after(0.2).then(Action::toggle("gate")),
        Reaction::on(Trigger::enter("lamp")).then(Action::effect("bleed", "who")),
        Reaction::on(Trigger::cue("go")).then(Action::cue("more")).then(Action::run("lift")),
        Reaction::on(Trigger::cue("more")).then(Action::cue("go")).then(Action::add("n", 1)),
        Reaction::on(Trigger::cue("echo"))
            .named("again")
            .after(0.05)
            .times(3)
            .every(0.05)
            .then(Action::cue("echo")),
        Reaction::on(Trigger::of(EventKind::Touch, "gate"))
            .named("slow one")
            .again(one(c, &Again::ALL))
            .then(Action::wait(0.3))
            .then(Action::grant(Grant::default().count("n", 1).tag("wet"), "who"))
            .until(Trigger::cue("stop")),
        Reaction::on(Trigger::of(EventKind::Touch, "gong"))
            .named("queue")
            .again(Again::Queue)
            .then(Action::wait_for("lift"))
            .then(Action::say("hello")),
        Reaction::on(Trigger::of(EventKind::Interact, "lever"))
            .then(Action::grab("sack", "who"))
            .then(Action::teleport("jar", "up")),
        Reaction::on(Trigger::of(EventKind::Empty, "ada")).then(Action::reset("ada")),
        Reaction::on(Trigger::enter("broth"))
            .when(condition("n", 2))
            .then(Action::stat("who", "health", Change::Add(5.0)))
            .otherwise(Action::add("n", 1)),
    ]
}
