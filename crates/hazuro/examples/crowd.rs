//! A market: a crowd whose places the host owns, guards who look out for thieves only, apples that grow
//! again where they were picked, and a stall that is put up while the market is open and taken away
//! before it closes.
//!
//! Run it with `cargo run --release --example crowd`.

use std::error::Error;
use std::f64::consts::TAU;

use hazuro::geometry::Shape;
use hazuro::scene::{
    Admit, Body, Entity, EventKind, Grant, Kind, Pickup, Reaction, Selector, Sight, Trigger, Zone,
};
use hazuro::{EntityId, Play, Scene, scene::Action};

const VISITORS: usize = 300;
const SECONDS: u32 = 40;

/// What the host counts.
#[derive(Debug, Default)]
struct Takings {
    apples: u32,
    seen: Vec<String>,
    visits: u32,
}

fn market() -> Result<Scene, Box<dyn Error>> {
    let person = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 });
    let sight = Sight { range: 12.0, notice: 0.3, ..Sight::default() };
    let pick = Pickup { grant: Grant::default().count("picked", 1), ..Pickup::default() };
    let stall = Zone::new(Shape::Box { size: [4.0, 3.0, 4.0] });
    Ok(Scene::builder("Market")
        .kind(Kind::new("visitor").tags(["visitor"]).body(person.clone()))
        .kind(Kind::new("thief").tags(["visitor", "thief"]).body(person))
        .kind(Kind::new("guard").sight(sight).admit(Admit::tags(["thief"])))
        .kind(Kind::new("apple").zone(Zone::new(Shape::Sphere { radius: 0.4 })).pickup(pick))
        .kind(Kind::new("stall").zone(stall).admit(Admit::tags(["visitor"])))
        .entity(Entity::new("east guard").kind("guard").at([0.0, 1.6, 4.0]))
        .entity(Entity::new("west guard").kind("guard").at([-20.0, 1.6, 0.0]))
        .reaction(Reaction::on(Trigger::enter("kind:stall")).then(Action::cue("customer")))
        .build()?)
}

/// Where somebody is after so many seconds: on a circle of their own, at a walk.
fn place(number: usize, seconds: f64) -> [f64; 3] {
    let radius = 6.0 + (number % 25) as f64;
    let turn = number as f64 * 2.4 + seconds * 1.4 / radius;
    [radius * turn.cos(), 0.9, radius * turn.sin()]
}

fn main() -> Result<(), Box<dyn Error>> {
    let mut play = Play::new(market()?);
    let visitor = |number: usize| {
        let kind = if number.is_multiple_of(100) { "thief" } else { "visitor" };
        Entity::new(format!("{kind} {number}")).kind(kind).at(place(number, 0.0))
    };
    let crowd: Vec<EntityId> = play.add_all((1..=VISITORS).map(visitor))?;
    for tree in 0..8 {
        let turn = f64::from(tree) / 8.0 * TAU;
        play.spawn("apple", [14.0 * turn.cos(), 1.0, 14.0 * turn.sin()])?;
    }

    play.on_with(Trigger::of(EventKind::Collect, "kind:apple"), |_, _, takings: &mut Takings| {
        takings.apples += 1;
    })?;
    play.on_with(Trigger::cue("customer"), |_, _, takings: &mut Takings| takings.visits += 1)?;
    let spots = Trigger::of(EventKind::Spot, Selector::Any);
    play.on_with(spots, |event, act, takings: &mut Takings| {
        let name = |id: Option<EntityId>| id.map_or("", |id| act.scene().name(id));
        let line =
            format!("{} sees {} at {:.1} s", name(event.on), name(event.who), event.time.secs());
        takings.seen.push(line);
    })?;

    let mut takings = Takings::default();
    let mut stall = None;
    for tick in 0..SECONDS * 60 {
        let seconds = f64::from(tick) / 60.0;
        for (number, who) in crowd.iter().enumerate() {
            play.drive(*who, place(number + 1, seconds))?;
        }
        match tick / 60 {
            10 if stall.is_none() => {
                stall =
                    Some(play.add(Entity::new("cheese stall").kind("stall").at([15.0, 1.5, 0.0]))?);
            }
            30 => stall.take().map_or(Ok(()), |stall| play.remove(stall))?,
            _ => {}
        }
        let eaten = takings.apples;
        play.step_with(&mut takings);
        for apple in eaten..takings.apples {
            let turn = f64::from(apple) * 0.7;
            play.spawn("apple", [18.0 * turn.cos(), 1.0, 18.0 * turn.sin()])?;
        }
    }
    println!("{VISITORS} visitors in {SECONDS} s: {} apples picked,", takings.apples);
    println!("{} came by the cheese stall, which was there for 20 s.", takings.visits);
    for line in takings.seen.iter().take(5) {
        println!("{line}");
    }
    Ok(())
}
