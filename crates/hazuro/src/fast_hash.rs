//! A fast hash for small keys that nobody else chooses.

use std::collections::{HashMap, HashSet};
use std::hash::{BuildHasherDefault, Hasher};

/// A map that is only ever asked for one key, so that its order does not matter.
pub(crate) type FastMap<K, V> = HashMap<K, V, BuildHasherDefault<Mix>>;

/// A set that is only ever asked for one key.
pub(crate) type FastSet<K> = HashSet<K, BuildHasherDefault<Mix>>;

/// Multiplies and folds. Source of the constant: D. Knuth, "The Art of Computer Programming",
/// volume 3, section 6.4 (the golden ratio in 64 bits).
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Mix(u64);

impl Hasher for Mix {
    fn write(&mut self, bytes: &[u8]) {
        for byte in bytes {
            self.write_u64(u64::from(*byte));
        }
    }

    fn write_u64(&mut self, number: u64) {
        let mixed = u128::from(self.0.rotate_left(23) ^ number) * 0x9e37_79b9_7f4a_7c15;
        self.0 = (mixed as u64) ^ ((mixed >> 64) as u64);
    }

    fn write_u32(&mut self, number: u32) {
        self.write_u64(u64::from(number));
    }

    fn write_usize(&mut self, number: usize) {
        self.write_u64(number as u64);
    }

    fn write_isize(&mut self, number: isize) {
        self.write_u64(number as u64);
    }

    fn finish(&self) -> u64 {
        self.0
    }
}

/// The FNV-1a hash, which is the same everywhere. Source: G. Fowler, L. C. Noll, K.-P. Vo,
/// D. Eastlake, "The FNV Non-Cryptographic Hash Algorithm", IETF draft, 2012.
pub(crate) struct Fnv(u64);

impl Default for Fnv {
    fn default() -> Self {
        Self(0xcbf2_9ce4_8422_2325)
    }
}

impl Hasher for Fnv {
    fn write(&mut self, bytes: &[u8]) {
        for byte in bytes {
            self.0 = (self.0 ^ u64::from(*byte)).wrapping_mul(0x0100_0000_01b3);
        }
    }

    // Little-endian and 64 bits wide whatever the machine.
    fn write_u32(&mut self, number: u32) {
        self.write(&number.to_le_bytes());
    }
    fn write_u64(&mut self, number: u64) {
        self.write(&number.to_le_bytes());
    }
    fn write_i64(&mut self, number: i64) {
        self.write(&number.to_le_bytes());
    }
    fn write_usize(&mut self, number: usize) {
        self.write_u64(number as u64);
    }
    fn write_isize(&mut self, number: isize) {
        self.write_i64(number as i64);
    }

    fn finish(&self) -> u64 {
        self.0
    }
}
