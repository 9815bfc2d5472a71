//! The moment at which others are shown: evenly on, so far behind what was heard last that something
//! later has mostly been heard.

use hazuro::Time;

/// How much of what it is off is made up for with each tick.
const PULL: f64 = 0.1;
/// By how much faster or slower than time it goes at most.
const MOST_PULL: f64 = 0.5;
/// What is farther off than this, in ticks, is made up for at once.
const LEAP: f64 = 60.0;
/// How fast it is forgotten how long nothing was heard.
const FORGETS: f64 = 0.998;

/// The moment at which others are shown.
#[derive(Debug, Default)]
pub(crate) struct Pace {
    moment: Time,
    /// For how many ticks nothing has been heard.
    silent: u32,
    /// For how many ticks nothing was heard of late, at most.
    longest: f64,
}

impl Pace {
    /// The moment that is shown now.
    pub fn moment(&self) -> Time {
        self.moment
    }

    /// Something has been heard.
    pub fn hear(&mut self) {
        self.longest = self.longest.max(f64::from(self.silent));
        self.silent = 0;
    }

    /// Goes on by a tick. `last` is the last moment that was heard of.
    pub fn go_on(&mut self, last: Time, rate: u32) {
        self.silent += 1;
        self.longest = (self.longest * FORGETS).max(1.0);
        let tick = 1.0 / f64::from(rate);
        // Where it would be if all came evenly.
        let goal = last.secs() + (f64::from(self.silent) - self.longest - 1.0) * tick;
        let off = (goal - self.moment.secs()) / tick - 1.0;
        let ticks = if off.abs() > LEAP {
            off + 1.0
        } else {
            1.0 + (off * PULL).clamp(-MOST_PULL, MOST_PULL)
        };
        self.moment = (self.moment + Time::from_secs(ticks * tick)).clamp(Time::ZERO, last);
    }
}
