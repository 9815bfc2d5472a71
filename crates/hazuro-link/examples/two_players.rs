//! One host and two players over real sockets, in three threads: who gets the sack? Run it with
//! `cargo run -p hazuro-link --example two_players`.

use std::error::Error;
use std::net::SocketAddr;
use std::thread::{self, sleep};
use std::time::Duration;

use hazuro::geometry::Shape;
use hazuro::scene::{Body, Carry, Entity, EventKind, Ownership};
use hazuro::{Play, Scene};
use hazuro_link::socket::{Connection, Server};
use hazuro_link::{Client, Deed, Guest, Room, Rules, Standing};

const TICK: Duration = Duration::from_millis(16);

fn yard() -> Scene {
    let person = || Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
    let floor = Shape::Box { size: [40.0, 1.0, 40.0] };
    Scene::builder("Yard")
        .entity(Entity::new("floor").at([0.0, -0.5, 0.0]).solid(floor))
        .entity(Entity::new("ada").player(true).body(person()))
        .entity(Entity::new("bob").at([2.0, 0.0, 0.0]).player(true).body(person()))
        .entity(
            Entity::new("sack")
                .at([1.0, 0.35, -1.0])
                .body(Body::new(Shape::Box { size: [0.5, 0.7, 0.4] }))
                .carry(Carry::default())
                .ownership(Ownership::default()),
        )
        .build()
        .expect("the yard is right")
}

/// Joins, grabs the sack, throws it if it is theirs, and tells of what was seen.
fn play(name: &str, host: SocketAddr) -> Result<Vec<String>, Box<dyn Error + Send + Sync>> {
    let mut client = Client::new(yard()).named(name);
    let mut connection = Connection::open(host)?;
    let mut seen = Vec::new();
    for tick in 0..240 {
        client.step();
        connection.exchange(&mut client)?;
        let deed = match tick {
            60 => Some(Deed::Grab { what: "sack".into() }),
            120 => Some(Deed::Throw { velocity: [0.0, 3.0, -3.0] }),
            _ => None,
        };
        if let Some(deed) = deed.filter(|_| client.standing() == &Standing::Playing) {
            client.act(deed)?;
        }
        let events: Vec<_> = client.events().collect();
        for event in events.iter().filter(|it| it.kind == EventKind::Own) {
            let who = event.who.map_or("nobody", |who| client.play().scene().name(who));
            seen.push(format!("{name} sees at {} s: it is {who}'s", event.time));
        }
        sleep(TICK);
    }
    client.leave();
    connection.exchange(&mut client)?;
    Ok(seen)
}

fn main() -> Result<(), Box<dyn Error + Send + Sync>> {
    let mut room = Room::new(Play::new(yard()), Rules::default());
    let mut server = Server::listen("127.0.0.1:0")?;
    let host = server.address()?;
    let players = ["ada", "bob"].map(|name| thread::spawn(move || play(name, host)));
    while players.iter().any(|player| !player.is_finished()) {
        server.take(&mut room);
        room.step();
        server.send(&mut room);
        sleep(TICK);
    }
    for player in players {
        for line in player.join().expect("no player panics")? {
            println!("{line}");
        }
    }
    Ok(())
}
