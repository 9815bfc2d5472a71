//! What the tests share: a yard with three players, sacks, a lift and a lever.

use std::collections::BTreeMap;

use hazuro::geometry::Shape;
use hazuro::scene::{
    Action, Body, Carry, Entity, Footing, Ownership, Prompt, Reaction, Route, SceneBuilder, Then,
    Trigger, Zone,
};
use hazuro::{Play, Scene};
use hazuro_link::{Client, Conditions, Deed, Guest, Rehearsal, Room, Rules};
use proptest::prelude::*;

pub const PLAYERS: [&str; 3] = ["ada", "bob", "cay"];

/// What the yard has in it, to which a test may add.
pub fn plan() -> SceneBuilder {
    let person = |name: &str, x: f64| {
        let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0).blocks(true);
        Entity::new(name).at([x, 0.0, 0.0]).body(body).player(true).footing(Footing::default())
    };
    let sack = |name: &str, x: f64| {
        Entity::new(name)
            .at([x, 0.35, 2.0])
            .body(Body::new(Shape::Box { size: [0.5, 0.7, 0.4] }))
            .carry(Carry { reach: 4.0, ..Carry::default() })
            .ownership(Ownership::default())
    };
    let route = Route { then: Then::Back, starts: true, ..Route::through(["home", "loft"]) };
    Scene::builder("Yard")
        .seed(5)
        .entity(
            Entity::new("floor").at([0.0, -0.5, 0.0]).solid(Shape::Box { size: [40.0, 1.0, 40.0] }),
        )
        .entity(person("ada", 0.0))
        .entity(person("bob", 3.0))
        .entity(person("cay", 6.0))
        .entity(sack("rye", 1.0))
        .entity(sack("oats", 2.0))
        .entity(Entity::new("loft").at([0.0, 3.0, -8.0]))
        .entity(
            Entity::new("lift")
                .at([0.0, -0.05, -8.0])
                .solid(Shape::Box { size: [3.0, 0.2, 3.0] })
                .route(route),
        )
        .entity(
            Entity::new("lever")
                .at([4.0, 1.0, 2.0])
                .prompt(Prompt { reach: 9.0, ..Prompt::default() }),
        )
        .entity(
            Entity::new("pad").at([-4.0, 1.0, 0.0]).zone(Zone::new(Shape::Box { size: [3.0; 3] })),
        )
        .reaction(
            Reaction::on(Trigger::accept("lever"))
                .then(Action::add("pulls", 1))
                .then(Action::say_to("who", "pulled")),
        )
        .reaction(Reaction::on(Trigger::enter("pad")).then(Action::flag("lit", true)))
        .text("pulled", "{who} has pulled it.")
}

pub fn yard() -> Scene {
    plan().build().unwrap()
}

pub fn rehearsal(rules: Rules) -> Rehearsal {
    Rehearsal::new(Room::new(Play::new(yard()), rules).recording())
}

pub fn client(name: &str) -> Client {
    Client::new(yard()).named(name)
}

/// All three at their desks.
pub fn desk(conditions: Conditions, seed: u64) -> Rehearsal {
    let mut desk = rehearsal(Rules::default());
    for (number, name) in (0..).zip(PLAYERS) {
        desk.join(client(name), conditions, seed + number);
    }
    desk
}

/// Fingerprints of the host's states, by the nanosecond.
#[derive(Default)]
pub struct Truth(BTreeMap<i64, u64>);

impl Truth {
    /// Plays a tick, and holds what each client knows against what was so.
    pub fn step(&mut self, desk: &mut Rehearsal, clients: usize) {
        desk.step();
        let state = desk.room.play().state();
        self.0.insert(state.now().nanos(), state.fingerprint());
        for number in 0..clients {
            let client = desk.client(number);
            let known = client.play().state();
            // Before it has joined it knows nothing.
            if client.player().is_some() && known.now().nanos() > 0 {
                let was = self.0.get(&known.now().nanos());
                assert_eq!(was, Some(&known.fingerprint()), "client {number} at {}", known.now());
            }
        }
    }
}

pub fn any_conditions() -> impl Strategy<Value = Conditions> {
    let cut = prop::option::of((0.5..3.0_f64, 0.0..1.0_f64));
    (0.0..0.25_f64, 0.0..0.1_f64, 0.0..0.4_f64, cut, -0.02..0.02_f64).prop_map(
        |(delay, jitter, loss, cut, drift)| Conditions { delay, jitter, loss, cut, drift },
    )
}

pub fn any_deed() -> impl Strategy<Value = Deed> {
    let place = || [-6.0..6.0_f64, 0.0..0.1_f64, -9.0..6.0_f64].prop_map(hazuro_link::To::from);
    let sack = || prop::sample::select(vec!["rye".to_owned(), "oats".to_owned()]);
    let along = prop::array::uniform3(-6.0..6.0_f64);
    prop_oneof![
        4 => place().prop_map(|to| Deed::Walk { to }),
        1 => place().prop_map(|to| Deed::WalkStraight { to }),
        1 => place().prop_map(|to| Deed::Face { to }),
        1 => Just(Deed::Halt),
        1 => Just(Deed::Jump),
        1 => Just(Deed::Interact { with: "lever".into() }),
        2 => sack().prop_map(|what| Deed::Grab { what }),
        1 => Just(Deed::Drop),
        2 => along.prop_map(|velocity| Deed::Throw { velocity }),
    ]
}
