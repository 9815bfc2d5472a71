//! Moments and spans, in whole nanoseconds.
//!
//! Times are integers so that two events that happen together compare as equal, whatever the tick
//! rate at which each was found, and so that a play's state can be compared and hashed.

use std::fmt;
use std::ops::{Add, Sub};
use std::time::Duration;

const NANOS: f64 = 1e9;
const NANOS_A_SECOND: u64 = 1_000_000_000;

/// A moment of a play, counted from its start, or a span between two moments.
///
/// ```
/// use hazuro::Time;
/// let noon = Time::from_secs(1.5);
/// assert_eq!(noon + Time::from_secs(0.25), Time::from_secs(1.75));
/// assert_eq!(noon.to_string(), "1.500000");
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Time(i64);

impl From<Duration> for Time {
    /// To the nanosecond below; what does not fit is clamped.
    fn from(span: Duration) -> Self {
        Self(i64::try_from(span.as_nanos()).unwrap_or(i64::MAX))
    }
}

impl From<Time> for Duration {
    /// No time at all for what is before the start.
    fn from(time: Time) -> Self {
        Self::from_nanos(time.0.max(0) as u64)
    }
}

impl Time {
    /// The start of a play.
    pub const ZERO: Self = Self(0);
    /// Later than anything that happens (about 292 years).
    pub const MAX: Self = Self(i64::MAX);

    /// The nearest nanosecond to `seconds`. NaN gives zero; what does not fit is clamped.
    pub fn from_secs(seconds: f64) -> Self {
        Self((seconds * NANOS).round() as i64)
    }

    /// This many nanoseconds.
    pub const fn from_nanos(nanos: i64) -> Self {
        Self(nanos)
    }

    /// In seconds.
    pub fn secs(self) -> f64 {
        self.0 as f64 / NANOS
    }

    /// In nanoseconds.
    pub const fn nanos(self) -> i64 {
        self.0
    }

    /// When tick number `tick` begins, at `rate` ticks per second.
    ///
    /// Rounded up to a whole nanosecond, so that [`tick`](Self::tick) is its exact inverse.
    ///
    /// # Panics
    /// If `rate` is zero.
    pub fn of_tick(tick: u64, rate: u32) -> Self {
        let (seconds, rest) = (tick / u64::from(rate), tick % u64::from(rate));
        let nanos = (rest * NANOS_A_SECOND).div_ceil(u64::from(rate));
        let nanos = seconds.saturating_mul(NANOS_A_SECOND).saturating_add(nanos);
        Self(i64::try_from(nanos).unwrap_or(i64::MAX))
    }

    /// The tick this moment lies in, at `rate` ticks per second. A tick holds its start, not its end.
    pub fn tick(self, rate: u32) -> u64 {
        let nanos = self.0.max(0) as u64;
        let (seconds, rest) = (nanos / NANOS_A_SECOND, nanos % NANOS_A_SECOND);
        seconds * u64::from(rate) + rest * u64::from(rate) / NANOS_A_SECOND
    }

    /// The moment `fraction` of the way from `self` to `end`.
    pub(crate) fn towards(self, end: Self, fraction: f64) -> Self {
        let way = ((end.0 - self.0) as f64 * fraction).round() as i64;
        Self(self.0.saturating_add(way)).min(end)
    }

    /// How far this moment is on the way from `start` to `end`, from 0 to 1; 1 if they coincide.
    pub(crate) fn fraction(self, start: Self, end: Self) -> f64 {
        if end <= start {
            return 1.0;
        }
        ((self.0 - start.0) as f64 / (end.0 - start.0) as f64).clamp(0.0, 1.0)
    }
}

impl Add for Time {
    type Output = Self;
    fn add(self, span: Self) -> Self {
        Self(self.0.saturating_add(span.0))
    }
}

impl Sub for Time {
    type Output = Self;
    fn sub(self, earlier: Self) -> Self {
        Self(self.0.saturating_sub(earlier.0))
    }
}

/// Seconds with six decimals; with `{:#}` without what is not needed of them.
impl fmt::Display for Time {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let micros = (i128::from(self.0) + 500).div_euclid(1000);
        let all = format!("{}.{:06}", micros.div_euclid(1_000_000), micros.rem_euclid(1_000_000));
        let short = all.trim_end_matches('0').trim_end_matches('.');
        f.pad(if f.alternate() { short } else { &all })
    }
}
