//! A host loop that owns the positions itself: it moves a raft down the creek by its own rule,
//! tells Hazuro where the raft is, and hears what that set off.
//!
//! Run it with `cargo run --release --example host_loop`.

use std::error::Error;

use hazuro::geometry::Shape;
use hazuro::glam::DVec3;
use hazuro::scene::{Action, Admit, Body, Entity, Reaction, Trigger, Zone};
use hazuro::{Entry, Play, Scene};

/// The host's own idea of a raft: a place and a speed, and a current that drags on it.
struct Raft {
    position: DVec3,
    velocity: DVec3,
}

impl Raft {
    fn drift(&mut self, seconds: f64) {
        let current = DVec3::new(2.0, 0.0, (self.position.x * 0.4).sin());
        self.velocity += (current - self.velocity) * seconds;
        self.position += self.velocity * seconds;
    }
}

fn creek() -> Result<Scene, Box<dyn Error>> {
    let gauge = |name: &str, x: f64| {
        Entity::new(name)
            .at([x, 0.0, 0.0])
            .zone(Zone::new(Shape::Box { size: [0.5, 2.0, 6.0] }))
            .admit(Admit::tags(["floats"]))
    };
    let scene = Scene::builder("Creek")
        .rate(30)
        .entity(
            Entity::new("raft")
                .tags(["floats"])
                .body(Body::new(Shape::Box { size: [2.0, 0.3, 1.2] })),
        )
        .entity(gauge("upper_gauge", 4.0))
        .entity(gauge("lower_gauge", 12.0))
        .entity(Entity::new("boom").at([13.0, 0.0, 3.0]))
        .entity(Entity::new("boom_shut").at([13.0, 0.0, 0.0]))
        .text("boom.shuts", "The boom shuts behind the {who}.")
        .reaction(
            Reaction::on(Trigger::exit("lower_gauge"))
                .after(0.5)
                .then(Action::say("boom.shuts"))
                .then(Action::move_to("boom", "boom_shut").over(2.0)),
        )
        .build()?;
    Ok(scene)
}

fn main() -> Result<(), Box<dyn Error>> {
    let mut play = Play::new(creek()?);
    play.on(Trigger::enter("lower_gauge"), |event, act| {
        act.add("rafts", 1);
        println!("{} s  handler: raft number {}", event.time, act.count("rafts"));
    })?;

    let mut raft = Raft { position: DVec3::ZERO, velocity: DVec3::ZERO };
    let tick = 1.0 / f64::from(play.rate());
    for _ in 0..300 {
        // The host moves things however it likes ...
        raft.drift(tick);
        // ... says where they are by the end of this tick ...
        play.drive("raft", raft.position)?;
        // ... and hears what happened on the way there, at its exact time.
        play.step();
        for entry in play.entries() {
            match entry {
                Entry::Event(event) => {
                    let scene = play.scene();
                    let [on, who] =
                        [event.on, event.who].map(|id| id.map_or("", |id| scene.name(id)));
                    println!("{} s  {} {on} {who}", event.time, event.kind);
                }
                Entry::Said { time, text, .. } => println!("{time} s  {text}"),
                _ => {}
            }
        }
    }
    println!("the boom is at {}", play.pose("boom")?.position);
    Ok(())
}
