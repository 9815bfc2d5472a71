//! What the benchmarks share: worlds, chance, clocks and tables.
#![allow(dead_code, reason = "each benchmark uses its own share")]

pub mod crowd;

use std::time::Instant;

use hazuro::glam::DVec3;

/// A plain generator of numbers that are the same on every run.
/// Source: G. Marsaglia, "Xorshift RNGs", Journal of Statistical Software 8(14), 2003.
pub struct Chance(u64);

impl Chance {
    pub fn new(seed: u64) -> Self {
        Self(seed.wrapping_mul(0x9e37_79b9_7f4a_7c15) | 1)
    }

    /// From 0 to 1.
    pub fn unit(&mut self) -> f64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 >> 11) as f64 / (1_u64 << 53) as f64
    }

    pub fn between(&mut self, low: f64, high: f64) -> f64 {
        low + (high - low) * self.unit()
    }
}

/// A box along the axes.
#[derive(Clone, Copy, Debug)]
pub struct Block {
    pub center: DVec3,
    pub half: DVec3,
}

impl Block {
    pub fn touches_ball(&self, center: DVec3, radius: f64) -> bool {
        let nearest = (center - self.center).clamp(-self.half, self.half) + self.center;
        nearest.distance_squared(center) <= radius * radius
    }
}

/// Mean seconds of one call, over as many as fit half a second, at least three.
pub fn seconds_of(mut call: impl FnMut()) -> f64 {
    let start = Instant::now();
    let mut calls = 0;
    while calls < 3 || start.elapsed().as_secs_f64() < 0.5 {
        call();
        calls += 1;
    }
    start.elapsed().as_secs_f64() / f64::from(calls)
}

/// A time with a fitting unit.
pub fn shown(seconds: f64) -> String {
    match seconds {
        s if s < 1e-6 => format!("{:.0} ns", s * 1e9),
        s if s < 1e-3 => format!("{:.1} µs", s * 1e6),
        s => format!("{:.2} ms", s * 1e3),
    }
}
