//! Bad lines, by a seed.

use std::collections::BTreeMap;

use hazuro::Chance;

/// How good a simulated line is, each way.
///
/// ```
/// use hazuro_link::Conditions;
/// let far = Conditions { delay: 0.15, jitter: 0.03, loss: 0.05, ..Conditions::default() };
/// assert_eq!(Conditions::default().loss, 0.0);
/// # let _ = far;
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Conditions {
    /// How many seconds a message takes at least. The default is 0.
    pub delay: f64,
    /// How many seconds longer it may take, by chance: one that sets out later may arrive before it. The
    /// default is 0.
    pub jitter: f64,
    /// The share of messages that never arrive, from 0 to 1. The default is 0.
    pub loss: f64,
    /// The line is cut at this many seconds, for as many. The default is never.
    pub cut: Option<(f64, f64)>,
    /// How much faster the client's clock goes than the host's: 0.01 is a hundredth. The default is 0.
    pub drift: f64,
}

impl Default for Conditions {
    /// Nothing is lost, and all arrives at once.
    fn default() -> Self {
        Self { delay: 0.0, jitter: 0.0, loss: 0.0, cut: None, drift: 0.0 }
    }
}

/// One way of a line: what is under way.
#[derive(Debug)]
pub(crate) struct Way {
    conditions: Conditions,
    chance: Chance,
    /// By when it arrives, in nanoseconds, and by its number.
    travelling: BTreeMap<(i64, u64), Vec<u8>>,
    so_far: u64,
}

impl Way {
    pub fn new(conditions: Conditions, seed: u64) -> Self {
        Self { conditions, chance: Chance::new(seed), travelling: BTreeMap::new(), so_far: 0 }
    }

    /// Sends something off at a time in seconds.
    pub fn send(&mut self, now: f64, bytes: Vec<u8>) {
        let Conditions { delay, jitter, loss, cut, .. } = self.conditions;
        // Always both, so that what one message meets with does not depend on another's luck.
        let (lost, later) = (self.chance.next() < loss, self.chance.next() * jitter);
        let is_cut =
            cut.is_some_and(|(from, for_so_long)| (from..from + for_so_long).contains(&now));
        if lost || is_cut {
            return;
        }
        self.so_far += 1;
        let arrives = ((now + delay + later) * 1e9) as i64;
        self.travelling.insert((arrives, self.so_far), bytes);
    }

    /// What has arrived by a time in seconds.
    pub fn arrived(&mut self, now: f64) -> Vec<Vec<u8>> {
        let later = self.travelling.split_off(&((now * 1e9) as i64 + 1, 0));
        std::mem::replace(&mut self.travelling, later).into_values().collect()
    }
}
