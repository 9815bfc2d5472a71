//! The ranges of all numbers that come in, each said once: in a file, through the builder, from a
//! script, a handler, a tape or the host.

use super::most::{MAX_AMOUNT, MAX_COORDINATE};
use super::{Fault, Limits, SceneBuilder};

/// The numbers that will do for something.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Range {
    least: f64,
    most: f64,
    /// Whether `least` itself will not do.
    above: bool,
    /// Whether 0 will do, too.
    zero: bool,
    /// What is needed, in words, with the unit.
    need: &'static str,
}

const fn range(least: f64, most: f64, need: &'static str) -> Range {
    Range { least, most, above: false, zero: false, need }
}

const fn above(least: f64, most: f64, need: &'static str) -> Range {
    Range { least, most, above: true, zero: false, need }
}

impl Range {
    const fn or_zero(self) -> Self {
        Self { zero: true, ..self }
    }

    /// Whether a number will do. None that is not finite does.
    pub fn holds(&self, value: f64) -> bool {
        let within = (self.least..=self.most).contains(&value);
        (within && !(self.above && value == self.least)) || (self.zero && value == 0.0)
    }

    /// The error, if a number will not do.
    pub fn check(&self, value: f64) -> Result<(), Fault> {
        if self.holds(value) { Ok(()) } else { Err(self.fault(value)) }
    }

    /// As [`check`](Self::check) of an angle in radians, which the message gives in degrees.
    pub fn check_radians(&self, radians: f64) -> Result<(), Fault> {
        // As it stands in a file: 180 degrees come back as 180.
        self.check((radians.to_degrees() * 1e9).round() / 1e9)
    }

    /// The number that will do that is nearest to a number; the least if that is none.
    pub fn clamp(&self, value: f64) -> f64 {
        if value.is_nan() { self.least } else { value.clamp(self.least, self.most) }
    }

    fn fault(&self, value: f64) -> Fault {
        Fault::Number { value, need: self.need }
    }
}

/// What is wrong with how often detectors may act, and under which key that stands.
pub(crate) fn limits(limits: &Limits) -> Result<(), (&'static str, Fault)> {
    SECONDS.check(limits.cooldown).map_err(|fault| ("cooldown", fault))?;
    let times = limits.limit.map_or(Ok(()), |limit| TIMES.check(limit as f64));
    times.map_err(|fault| ("limit", fault))
}

pub(crate) const COORDINATE: Range =
    range(-MAX_COORDINATE, MAX_COORDINATE, "a coordinate from -1000000 to 1000000 metres");
pub(crate) const HEIGHT: Range =
    range(-MAX_COORDINATE, MAX_COORDINATE, "a height from -1000000 to 1000000 metres");
pub(crate) const SECONDS: Range = range(0.0, 3e6, "a number of seconds from 0 to 3000000");
/// What comes again and again: shorter, and nothing else would come between.
pub(crate) const INTERVAL: Range = range(1e-3, 3e6, "a number of seconds from 0.001 to 3000000");
/// For how long something is put off: not at all, or long enough for it not to come again and again
/// at what is almost the same time.
pub(crate) const PAUSE: Range =
    range(1e-3, 3e6, "0, or a number of seconds from 0.001 to 3000000").or_zero();
pub(crate) const SPAWN_INTERVAL: Range =
    range(0.01, 3e6, "a number of seconds from 0.01 to 3000000");
pub(crate) const TICKS: Range = range(1.0, 10_000.0, "a rate from 1 to 10000 ticks a second");
pub(crate) const GRAVITY: Range = range(0.0, 1000.0, "from 0 to 1000 metres a second squared");
pub(crate) const SCALE: Range = range(0.001, 1000.0, "a factor from 0.001 to 1000");
pub(crate) const STOCK: Range =
    range(0.0, SceneBuilder::MOST_STOCK as f64, "a stock of at most 1000000 in all");

pub(crate) const WALK_SPEED: Range = above(0.0, 1000.0, "a speed above 0, to 1000 metres a second");
pub(crate) const LEG_HEIGHT: Range = range(0.0, 100.0, "a height from 0 to 100 metres");
pub(crate) const SLOPE: Range = range(0.0, 89.0, "an angle from 0 to 89 degrees");
pub(crate) const MASS: Range = range(0.0, 1e9, "a mass from 0 to 1000000000");
pub(crate) const SHARE: Range = range(0.0, 1.0, "a share from 0 to 1");
pub(crate) const SOME_SHARE: Range = above(0.0, 1.0, "a share above 0, to 1");
pub(crate) const FRICTION: Range = range(0.0, 10.0, "a share from 0 to 10");
pub(crate) const TRAVEL_RATE: Range =
    range(1e-3, 1e4, "a speed from 0.001 to 10000 metres a second");
pub(crate) const THROW_SPEED: Range =
    range(-1000.0, 1000.0, "a speed up to 1000 metres a second along each axis");
pub(crate) const SPIN: Range = range(-1e4, 1e4, "a spin from -10000 to 10000 degrees a second");
pub(crate) const TURN: Range = range(-180.0, 180.0, "an angle from -180 to 180 degrees");
pub(crate) const PITCH: Range = range(-90.0, 90.0, "an angle from -90 to 90 degrees above level");
pub(crate) const TURN_RATE: Range =
    range(1e-3, 1e5, "a rate from 0.001 to 100000 degrees a second");

pub(crate) const LENGTH: Range = range(1e-3, 1e5, "a length from 0.001 to 100000 metres");
pub(crate) const LENGTH_OR_NONE: Range = range(0.0, 1e5, "a length from 0 to 100000 metres");
pub(crate) const ANGLE: Range = above(0.0, 360.0, "an angle above 0, to 360 degrees");
pub(crate) const LENS_ANGLE: Range = range(1.0, 170.0, "an angle of view from 1 to 170 degrees");
pub(crate) const PIXELS: Range = range(1.0, 1e5, "a number of pixels from 1 to 100000");
pub(crate) const SCREEN: Range =
    range(-1e6, 1e6, "a point of the screen from -1000000 to 1000000 pixels");
pub(crate) const TOUCH_MARGIN: Range = range(1e-4, 1.0, "a margin from 0.0001 to 1 metre");
pub(crate) const TOUCH_SPEED: Range = range(0.0, 1e5, "a speed from 0 to 100000 metres a second");
pub(crate) const FOOTING_MARGIN: Range = range(0.0, 10.0, "a margin from 0 to 10 metres");
pub(crate) const MARGIN: Range = range(0.0, 1e5, "a margin from 0 to 100000");
const TIMES: Range =
    range(1.0, f64::MAX, "at least 1: a detector that never acts is better switched off");
pub(crate) const POINTS: Range = range(1.0, 64.0, "a number of points from 1 to 64");

pub(crate) const AMOUNT: Range = range(-MAX_AMOUNT, MAX_AMOUNT, "a number from -1e15 to 1e15");
pub(crate) const FACTOR: Range = range(0.0, 1e6, "a factor from 0 to 1000000");
