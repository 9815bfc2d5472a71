//! What a host has told in the last seconds, to be told again to who did not hear it.

use std::collections::VecDeque;

use hazuro::{EntityId, Entry, Happening, Scene};

use crate::message::{Bytes, Tick};

/// What became different in one tick, and what happened.
#[derive(Debug)]
struct Told {
    delta: Vec<u8>,
    events: Vec<u8>,
    /// Texts, and for whom; none for everybody.
    said: Vec<(Option<EntityId>, String)>,
}

/// The last ticks.
#[derive(Debug)]
pub(crate) struct Memory {
    ticks: VecDeque<Told>,
    /// The number of the tick after the last.
    next: u64,
    most: usize,
}

impl Memory {
    /// Keeps at most `most` ticks, of which the first is `next`.
    pub fn new(most: usize, next: u64) -> Self {
        Self { ticks: VecDeque::new(), next, most: most.max(1) }
    }

    /// Keeps another tick.
    pub fn push(&mut self, delta: Vec<u8>, entries: &[Entry]) {
        let events: Vec<_> = entries.iter().filter_map(Entry::event).collect();
        let said = entries.iter().filter_map(|entry| match &entry.what {
            Happening::Said { text, to, .. } => Some((*to, text.clone())),
            _ => None,
        });
        let events = if events.is_empty() { Vec::new() } else { pack(&events) };
        self.ticks.push_back(Told { delta, events, said: said.collect() });
        self.next += 1;
        if self.ticks.len() > self.most {
            self.ticks.pop_front();
        }
    }

    /// All ticks after this one, as they are told to a player; none if they are no longer known.
    pub fn since(&self, tick: u64, player: EntityId) -> Option<Vec<Tick>> {
        let first = self.next - self.ticks.len() as u64;
        let skip = (tick + 1).checked_sub(first)?;
        let told = |it: &Told| {
            let own = it.said.iter().filter(|(to, _)| to.is_none_or(|to| to == player));
            Tick {
                delta: Bytes(it.delta.clone()),
                events: Bytes(it.events.clone()),
                said: own.map(|(_, text)| text.clone()).collect(),
            }
        };
        Some(self.ticks.iter().skip(skip as usize).map(told).collect())
    }
}

/// What names things by number, as bytes.
///
/// # Panics
/// Never: nothing of a play cannot be written to memory.
pub(crate) fn pack<T: serde::Serialize + ?Sized>(what: &T) -> Vec<u8> {
    postcard::to_stdvec(what).expect("it can be written to memory")
}

/// The same, read in its scene; none if it is damaged.
pub(crate) fn unpack<T: serde::de::DeserializeOwned>(scene: &Scene, bytes: &[u8]) -> Option<T> {
    scene.within(|| postcard::from_bytes(bytes)).ok()
}

/// What tells whether two scenes are the same: the names and where everything is to begin with.
pub(crate) fn fingerprint(scene: &Scene, start: &hazuro::State) -> u64 {
    // Source: G. Fowler, L. C. Noll, K.-P. Vo, FNV-1a.
    let mut hash = 0xcbf2_9ce4_8422_2325_u64;
    let mut take = |bytes: &[u8]| {
        for byte in bytes {
            hash = (hash ^ u64::from(*byte)).wrapping_mul(0x0100_0000_01b3);
        }
    };
    for entity in scene.ids() {
        take(scene.name(entity).as_bytes());
        take(&[0]);
    }
    take(&start.fingerprint().to_le_bytes());
    hash
}
