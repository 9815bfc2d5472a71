//! A room and its clients on one desk, over simulated lines.

use crate::client::Client;
use crate::conditions::{Conditions, Way};
use crate::guest::Guest;
use crate::line::LineId;
use crate::room::Room;

/// A room and its clients in one process, over lines that may be bad. The same seeds give the same
/// rehearsal, to the last bit.
///
/// See the [crate] for an example.
#[derive(Debug)]
pub struct Rehearsal {
    /// The host.
    pub room: Room,
    desks: Vec<Desk>,
    ticks: u64,
}

#[derive(Debug)]
struct Desk {
    client: Client,
    line: LineId,
    to_host: Way,
    to_client: Way,
    drift: f64,
    /// How much of a client's tick is over.
    clock: f64,
}

impl Rehearsal {
    /// With a room and nobody else yet.
    pub fn new(room: Room) -> Self {
        Self { room, desks: Vec::new(), ticks: 0 }
    }

    /// Lets a client come by a line. Gives its number, from 0.
    pub fn join(&mut self, client: Client, conditions: Conditions, seed: u64) -> usize {
        let line = self.room.open(false);
        // Each way has its own luck.
        let way = |turn: u64| Way::new(conditions, seed.wrapping_mul(2).wrapping_add(turn));
        let (to_host, to_client) = (way(0), way(1));
        let drift = conditions.drift;
        self.desks.push(Desk { client, line, to_host, to_client, drift, clock: 0.0 });
        self.desks.len() - 1
    }

    /// A client, by its number.
    ///
    /// # Panics
    /// If there is none of this number.
    pub fn client(&mut self, number: usize) -> &mut Client {
        &mut self.desks[number].client
    }

    /// Sends something to the host by the line of a client, which that would not send.
    ///
    /// # Panics
    /// If there is no client of this number.
    pub fn send(&mut self, number: usize, bytes: Vec<u8>) {
        let now = self.now();
        self.desks[number].to_host.send(now, bytes);
    }

    /// Lets the line of a client be cut for good; a client that is to come back joins by another.
    ///
    /// # Panics
    /// If there is no client of this number.
    pub fn cut(&mut self, number: usize) {
        self.room.close(self.desks[number].line);
    }

    /// Whether the line of a client is open: neither cut for good, nor closed by the host.
    ///
    /// # Panics
    /// If there is no client of this number.
    pub fn is_open(&self, number: usize) -> bool {
        self.room.is_open(self.desks[number].line)
    }

    /// Lets a client come back by a new line, as somebody whose line was cut.
    ///
    /// # Panics
    /// If there is no client of this number.
    pub fn come_back(&mut self, number: usize) {
        let desk = &mut self.desks[number];
        desk.line = self.room.open(false);
        desk.client.come_back();
    }

    /// Seconds since the beginning.
    pub fn now(&self) -> f64 {
        self.ticks as f64 / f64::from(self.room.play().rate())
    }

    /// Plays a tick of the host, and as many of each client as its clock says.
    pub fn step(&mut self) {
        let now = self.now();
        for desk in &mut self.desks {
            for bytes in desk.to_client.arrived(now) {
                desk.client.receive(&bytes);
            }
            desk.clock += 1.0 + desk.drift;
            while desk.clock >= 1.0 {
                desk.clock -= 1.0;
                desk.client.step();
            }
            for bytes in desk.client.outgoing() {
                desk.to_host.send(now, bytes);
            }
            for bytes in desk.to_host.arrived(now) {
                self.room.receive(desk.line, &bytes);
            }
        }
        self.room.step();
        for (line, bytes) in self.room.outgoing() {
            if let Some(desk) = self.desks.iter_mut().find(|desk| desk.line == line) {
                desk.to_client.send(now, bytes);
            }
        }
        self.ticks += 1;
    }

    /// Plays on for `seconds`.
    pub fn advance(&mut self, seconds: f64) {
        let end = self.ticks + (seconds * f64::from(self.room.play().rate())).round() as u64;
        while self.ticks < end {
            self.step();
        }
    }
}
