//! A host and three clients over real sockets, each in a thread of its own: one comes late, one is cut off and
//! comes back.

use std::collections::BTreeMap;
use std::net::SocketAddr;
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::thread::{self, sleep};
use std::time::Duration;

use hazuro::{Entry, Event, Play, Time};
use hazuro_link::socket::{Connection, Server};
use hazuro_link::{Client, Deed, Guest, Room, Rules, Standing};

use crate::desk::yard;

/// A good deal faster than it is played.
const TICK: Duration = Duration::from_millis(3);

/// What a client does at which of its ticks.
enum Turn {
    Does(Deed),
    /// Its line is cut, and it comes back by another half a second later.
    IsCut,
}

fn walk(x: f64, z: f64) -> Turn {
    Turn::Does(Deed::Walk { to: [x, 0.0, z].into() })
}

/// Plays until the host is over. What was known last, and all that was told.
fn play(
    name: &str,
    host: SocketAddr,
    turns: &[(u32, Turn)],
    is_over: &AtomicBool,
) -> (Time, u64, Vec<Event>) {
    let mut client = Client::new(yard()).named(name);
    let mut connection = Connection::open(host).ok();
    let (mut events, mut tick, mut back_in) = (Vec::new(), 0, 0_u32);
    while !is_over.load(Ordering::Relaxed) {
        if connection.is_none() && back_in == 0 {
            client.come_back();
            connection = Connection::open(host).ok();
        }
        back_in = back_in.saturating_sub(1);
        client.step();
        if connection.as_mut().is_some_and(|line| line.exchange(&mut client).is_err()) {
            connection = None;
        }
        events.extend(client.events());
        if client.standing() == &Standing::Playing {
            for (_, turn) in turns.iter().filter(|(at, _)| *at == tick) {
                match turn {
                    Turn::Does(deed) => drop(client.act(deed.clone()).unwrap()),
                    Turn::IsCut => (connection, back_in) = (None, 30),
                }
            }
            tick += 1;
        }
        sleep(TICK);
    }
    // What was told is known once it has been taken in.
    client.step();
    let known = client.play().state();
    (known.now(), known.fingerprint(), events)
}

/// Whether all of the one stand in the other, in order.
fn is_part_of(part: &[Event], whole: &[Event]) -> bool {
    let mut rest = whole.iter();
    part.iter().all(|event| rest.any(|other| other == event))
}

#[test]
fn three_clients_know_the_host_to_the_last_bit_whenever_they_come() {
    let mut room = Room::new(Play::new(yard()), Rules::default());
    let mut server = Server::listen("127.0.0.1:0").unwrap();
    let host = server.address().unwrap();
    let is_over = Arc::new(AtomicBool::new(false));
    let sack = |what: &str| Turn::Does(Deed::Grab { what: what.into() });
    let throw = || Turn::Does(Deed::Throw { velocity: [0.0, 4.0, -2.0] });
    let join = |name: &'static str, turns: Vec<(u32, Turn)>| {
        let is_over = Arc::clone(&is_over);
        thread::spawn(move || play(name, host, &turns, &is_over))
    };
    let ada = join("ada", vec![(30, sack("rye")), (60, walk(-4.0, 0.0)), (180, throw())]);
    let cay = join(
        "cay",
        vec![(20, walk(3.0, 4.0)), (90, Turn::IsCut), (120, walk(-4.0, 2.0)), (240, sack("rye"))],
    );
    let (mut bob, mut truth, mut told) = (None, BTreeMap::new(), Vec::new());
    for tick in 0..600 {
        if tick == 150 {
            let lever = || Turn::Does(Deed::Interact { with: "lever".into() });
            bob = Some(join("bob", vec![(10, sack("oats")), (40, lever()), (60, walk(0.0, 5.0))]));
        }
        server.take(&mut room);
        told.extend(room.step().iter().filter_map(Entry::event).cloned());
        server.send(&mut room);
        truth.insert(room.play().now(), room.play().state().fingerprint());
        sleep(TICK);
    }
    is_over.store(true, Ordering::Relaxed);
    let end = room.play().now();
    for client in [ada, cay, bob.unwrap()] {
        let (known, fingerprint, events) = client.join().unwrap();
        assert_eq!(truth.get(&known), Some(&fingerprint), "at {known}");
        assert!((end - known).secs() < 5.0, "it knows of {known} at {end}");
        assert!(events.len() > 5 && is_part_of(&events, &told), "{events:?}");
    }
    let play = room.play();
    assert_eq!(play.owner("oats").unwrap(), play.scene().find("bob"));
    assert_eq!(play.count("pulls"), 1);
}
