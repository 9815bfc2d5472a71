//! A host loop with its own physics: it moves a raft down the creek by its own rule and at its own
//! rate, in its own number types, tells Hazuro where the raft is, and hears what that set off. When
//! the raft is washed away, the host puts it back at the spring: that is a jump, and nothing between
//! is detected.
//!
//! Run it with `cargo run --release --example host_loop`.

use std::error::Error;

use hazuro::geometry::Shape;
use hazuro::scene::{Action, Admit, Body, Entity, Reaction, Trigger, Zone};
use hazuro::{Happening, Input, Play, Scene, Time};

/// The host's own idea of a raft, in single precision: a place and a speed, a current that drags on
/// it, and a bank from which it rebounds.
struct Raft {
    position: [f32; 3],
    velocity: [f32; 3],
}

impl Raft {
    const SPRING: Self = Self { position: [0.0, 0.0, 0.0], velocity: [0.0, 0.0, 1.5] };

    fn drift(&mut self, seconds: f32) {
        let current = [2.0, 0.0, (self.position[0] * 0.4).sin()];
        let along = self.velocity.iter_mut().zip(&mut self.position);
        for ((velocity, position), current) in along.zip(current) {
            *velocity += (current - *velocity) * seconds;
            *position += *velocity * seconds;
        }
        if self.position[2].abs() > 0.5 {
            self.velocity[2] = -self.velocity[2];
            self.position[2] = self.position[2].clamp(-0.5, 0.5);
        }
    }

    /// How other libraries take it.
    fn place(&self) -> mint::Point3<f32> {
        self.position.into()
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

    let raft_id = play.scene().entity_id("raft")?;
    let mut raft = Raft::SPRING;
    // The host's frames are no ticks of the scene, and not even equally long.
    for frame in 0..500 {
        let seconds = if frame % 3 == 0 { 0.05 } else { 0.025 };
        let until = play.now() + Time::from_secs(f64::from(seconds));
        raft.drift(seconds);
        if raft.position[0] > 14.0 {
            // Washed away: it is put back, which is a jump ...
            raft = Raft::SPRING;
            play.place(raft_id, raft.place())?;
        } else {
            // ... or the host says where it is by the end of this frame ...
            let to = raft.place().into();
            play.schedule(play.now(), Input::Drive { who: raft_id, to, until }).unwrap();
        }
        // ... and hears what happened on the way there, at its exact time.
        play.advance(until);
        for entry in play.entries() {
            match &entry.what {
                Happening::Event(event) => {
                    let scene = play.scene();
                    let [on, who] =
                        [event.on, event.who].map(|id| id.map_or("", |id| scene.name(id)));
                    println!("{} s  {} {on} {who}", event.time, event.kind);
                }
                Happening::Said { time, text, .. } => println!("{time} s  {text}"),
                _ => {}
            }
        }
    }
    println!("the boom is at {}", play.pose("boom")?.position);
    Ok(())
}
