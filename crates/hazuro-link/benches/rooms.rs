//! What several players cost: bytes a second and player beside every pose each tick, ticks of a host, many
//! rooms in one process, and what somebody is told who joins late. Ratios and plain figures; run it with
//! `cargo bench -p hazuro-link`.

use std::time::Instant;

use hazuro::geometry::Shape;
use hazuro::scene::{Body, Carry, Entity, Ownership, Zone};
use hazuro::{Chance, Input, Play, Scene};
use hazuro_link::{Client, Conditions, Deed, Guest, LineId, Rehearsal, Room, Rules, To, Viewer};

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

/// For how many seconds they walk about. Each of many clients plays ahead by itself, which takes long in one
/// process.
fn seconds(players: usize) -> usize {
    if players > 16 { 2 } else { 10 }
}

/// Sends half of all somewhere else, the other half a second later: straight on, as who holds down a key.
fn send_about(
    second: usize,
    players: usize,
    chance: &mut Chance,
    mut act: impl FnMut(usize, Deed),
) {
    for number in (second % 2..players).step_by(2) {
        let to = [chance.next() * 32.0, 0.0, chance.next() * 32.0];
        act(number, Deed::WalkStraight { to: to.into() });
    }
}

fn sent(room: &Room) -> f64 {
    room.seats().map(|seat| seat.sent as f64).sum()
}

/// Bytes a second and player over lines on which messages may be lost, with a delay of 50 ms.
fn over_bad_lines(players: usize) -> f64 {
    let scene = yard(players);
    let mut desk = Rehearsal::new(Room::new(Play::new(scene.clone()), Rules::default()));
    let line = Conditions { delay: 0.05, ..Conditions::default() };
    for number in 0..players {
        desk.join(Client::new(scene.clone()).named(format!("p{number}")), line, number as u64);
    }
    desk.advance(1.0);
    let before = sent(&desk.room);
    let mut chance = Chance::new(1);
    for second in 0..seconds(players) {
        send_about(second, players, &mut chance, |number, deed| {
            let _ = desk.client(number).act(deed);
        });
        desk.advance(1.0);
    }
    (sent(&desk.room) - before) / (seconds(players) * players) as f64
}

/// Bytes a second and player over lines as those of a `WebSocket`, on which all arrives in order.
fn over_reliable_lines<G: Guest>(players: usize, guest: impl Fn(&Scene) -> G) -> f64 {
    let scene = yard(players);
    let mut room = Room::new(Play::new(scene.clone()), Rules::default());
    let mut guests: Vec<(LineId, G)> = (0..players)
        .map(|number| (room.open(true), guest(&scene).named(format!("p{number}"))))
        .collect();
    let second = |room: &mut Room, guests: &mut Vec<(LineId, G)>| {
        for _ in 0..60 {
            for (line, guest) in guests.iter_mut() {
                guest.step();
                guest.outgoing().for_each(|bytes| room.receive(*line, &bytes));
            }
            room.step();
            for (line, bytes) in room.outgoing() {
                if let Some((_, guest)) = guests.iter_mut().find(|(it, _)| *it == line) {
                    guest.receive(&bytes);
                }
            }
        }
    };
    second(&mut room, &mut guests);
    let before = sent(&room);
    let mut chance = Chance::new(1);
    for number in 0..seconds(players) {
        send_about(number, players, &mut chance, |number, deed| {
            let _ = guests[number].1.act(deed);
        });
        second(&mut room, &mut guests);
    }
    (sent(&room) - before) / (seconds(players) * players) as f64
}

/// A room in which all have joined by lines that nobody reads.
fn full_room(players: usize) -> Room {
    let scene = yard(players);
    let mut room = Room::new(Play::new(scene.clone()), Rules { silence: 1e3, ..Rules::default() });
    let lines: Vec<_> = (0..players).map(|_| room.open(true)).collect();
    for (number, line) in lines.iter().enumerate() {
        let mut client = Client::new(scene.clone()).named(format!("p{number}"));
        client.step();
        client.outgoing().for_each(|bytes| room.receive(*line, &bytes));
    }
    room.step();
    room
}

/// Plays rooms side by side, everybody walking about and being told.
fn play(rooms: &mut [Room], players: usize) {
    let mut chance = Chance::new(1);
    for tick in 0..seconds(players) * 60 {
        for room in rooms.iter_mut() {
            if tick % 60 == 0 {
                send_about(tick / 60, players, &mut chance, |number, deed| {
                    let Deed::WalkStraight { to: To::Place(to) } = deed else { return };
                    let who = room.play().scene().find(&format!("p{number}")).unwrap();
                    let (now, walk) =
                        (room.play().now(), Input::WalkStraight { who, to: to.into() });
                    room.play_mut().schedule(now, walk).unwrap();
                });
            }
            room.step();
            room.outgoing().for_each(drop);
        }
    }
}

/// How many times faster than it is played a host alone plays one room.
fn host_alone(players: usize) -> f64 {
    let mut room = full_room(players);
    let start = Instant::now();
    play(std::slice::from_mut(&mut room), players);
    seconds(players) as f64 / start.elapsed().as_secs_f64()
}

/// How many times faster than they are played two threads play so many rooms with four players each.
fn many_rooms(rooms: usize) -> f64 {
    let mut rooms: Vec<Room> = (0..rooms).map(|_| full_room(4)).collect();
    let half = rooms.len() / 2;
    let start = Instant::now();
    let (first, second) = rooms.split_at_mut(half);
    std::thread::scope(|scope| {
        scope.spawn(|| play(first, 4));
        play(second, 4);
    });
    seconds(4) as f64 / start.elapsed().as_secs_f64()
}

fn main() {
    println!("bytes a second and player; beside them, of all poses each tick");
    println!(
        "{:>8} {:>18} {:>18} {:>18} {:>10}",
        "players", "bad line", "reliable line", "view", "host"
    );
    for players in [4, 16, 64] {
        let each = [
            over_bad_lines(players),
            over_reliable_lines(players, |scene| Client::new(scene.clone())),
            over_reliable_lines(players, |_| Viewer::new()),
        ];
        // A place and a rotation of each player and sack, in single precision.
        let poses = players as f64 * 2.0 * 28.0 * 60.0;
        let told = each.map(|bytes| format!("{bytes:>9.0} {:>7.3}x", bytes / poses));
        println!("{players:>8} {} {:>9.0}x", told.join(" "), host_alone(players));
    }
    println!("200 rooms of 4 on two threads: {:.1}x as fast as they are played", many_rooms(200));
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
