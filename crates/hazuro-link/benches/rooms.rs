//! What several players cost: bytes a second and player beside every pose each tick, ticks of a host, and
//! what somebody is told who joins late. Ratios and plain figures; run it with `cargo bench -p hazuro-link`.

use std::time::Instant;

use hazuro::geometry::Shape;
use hazuro::scene::{Body, Carry, Entity, Ownership, Zone};
use hazuro::{Play, Scene};
use hazuro_link::{Client, Conditions, Deed, Guest, Rehearsal, Room, Rules};

/// A yard with so many players, and as many sacks and zones.
fn yard(players: usize) -> Scene {
    let body = || Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
    let floor = Shape::Box { size: [400.0, 1.0, 400.0] };
    let mut scene =
        Scene::builder("Yard").entity(Entity::new("floor").at([0.0, -0.5, 0.0]).solid(floor));
    for number in 0..players {
        let [x, z] = [(number % 8) as f64 * 4.0, (number / 8) as f64 * 4.0];
        scene = scene
            .entity(Entity::new(format!("p{number}")).at([x, 0.0, z]).body(body()).player(true))
            .entity(
                Entity::new(format!("sack{number}"))
                    .at([x + 1.0, 0.35, z])
                    .body(Body::new(Shape::Box { size: [0.5, 0.7, 0.4] }))
                    .carry(Carry::default())
                    .ownership(Ownership::default()),
            )
            .entity(
                Entity::new(format!("pad{number}"))
                    .at([x, 1.0, z + 2.0])
                    .zone(Zone::new(Shape::Box { size: [1.5, 2.0, 1.5] })),
            );
    }
    scene.build().unwrap()
}

/// All walk about for ten seconds. Bytes a second and player, and seconds of processor for the host.
fn walk(players: usize) -> (f64, f64) {
    let scene = yard(players);
    let mut desk = Rehearsal::new(Room::new(Play::new(scene.clone()), Rules::default()));
    let line = Conditions { delay: 0.05, ..Conditions::default() };
    for number in 0..players {
        desk.join(Client::new(scene.clone()).named(format!("p{number}")), line, number as u64);
    }
    desk.advance(1.0);
    let before: u64 = desk.room.seats().map(|seat| seat.sent).sum();
    let mut chance = hazuro::Chance::new(1);
    let seconds = 10;
    for second in 0..seconds {
        for number in (second % 2..players).step_by(2) {
            let to = [chance.next() * 32.0, 0.0, chance.next() * 32.0];
            let _ = desk.client(number).act(Deed::Walk { to: to.into() });
        }
        desk.advance(1.0);
    }
    let sent: u64 = desk.room.seats().map(|seat| seat.sent).sum();
    let each = (sent - before) as f64 / seconds as f64 / players as f64;
    (each, host_alone(players))
}

/// How many times faster than it is played a host alone plays ten seconds of it, telling everybody.
fn host_alone(players: usize) -> f64 {
    let scene = yard(players);
    let mut room = Room::new(Play::new(scene.clone()), Rules { silence: 1e3, ..Rules::default() });
    let lines: Vec<_> = (0..players).map(|_| room.open(true)).collect();
    for (number, line) in lines.iter().enumerate() {
        let mut client = Client::new(scene.clone()).named(format!("p{number}"));
        client.step();
        client.outgoing().for_each(|bytes| room.receive(*line, &bytes));
    }
    room.step();
    let mut chance = hazuro::Chance::new(1);
    let start = Instant::now();
    for tick in 0..600 {
        if tick % 60 == 0 {
            for number in 0..players {
                let who = room.play().scene().find(&format!("p{number}")).unwrap();
                let to = [chance.next() * 32.0, 0.0, chance.next() * 32.0];
                let now = room.play().now();
                let walk = hazuro::Input::Walk { who, to: to.into() };
                room.play_mut().schedule(now, walk).unwrap();
            }
        }
        room.step();
        room.outgoing().for_each(drop);
    }
    10.0 / start.elapsed().as_secs_f64()
}

fn main() {
    println!(
        "{:>8} {:>16} {:>22} {:>14}",
        "players", "bytes a second", "of all poses a tick", "times as fast"
    );
    for players in [4, 16, 64] {
        let (each, fast) = walk(players);
        // A place and a rotation of each player and sack, in single precision.
        let poses = players as f64 * 2.0 * 28.0 * 60.0;
        println!("{players:>8} {each:>16.0} {:>21.2}x {fast:>13.0}x", poses / each);
    }
    let scene = yard(3333);
    let mut room = Room::new(Play::new(scene.clone()), Rules::default());
    for _ in 0..60 {
        room.step();
    }
    let line = room.open(true);
    let mut client = Client::new(scene);
    client.step();
    let start = Instant::now();
    client.outgoing().for_each(|bytes| room.receive(line, &bytes));
    let told: Vec<_> = room.outgoing().collect();
    let bytes: usize = told.iter().map(|(_, bytes)| bytes.len()).sum();
    for (_, bytes) in &told {
        client.receive(bytes);
    }
    let took = start.elapsed().as_secs_f64() * 1e3;
    println!("a late joiner of 10,000 entities is told {bytes} bytes in {took:.1} ms");
}
