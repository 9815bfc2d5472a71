//! One movement from a pose to another, as a function of time.
//!
//! An eased movement is travelled along chords of its curve, never more than [`CHORD_ERROR`] off
//! it. The chords are cut at fixed fractions of the movement, so they are the same at any tick
//! rate; between two cuts everything moves evenly, which is what sweeps need to be exact.

use std::hash::{Hash, Hasher};

use glam::DVec3;

use crate::Time;
use crate::geometry::{Pose, bits};

use super::Easing;

/// How far a chord may lie off the curve, in metres.
const CHORD_ERROR: f64 = 5e-5;
/// The bend of an easing curve: the largest second derivative for which the chords are laid out.
const BEND: f64 = 8.0;
/// The largest turn, in radians, that a carried child makes along one chord.
const CHORD_TURN: f64 = 0.01;
/// How far a straight movement is followed at one go, in metres.
const STRETCH: f64 = 3.0;
/// The least share of a movement that is followed at one go, so that however far it leads it is
/// looked at only so often.
const LEAST_SHARE: f64 = 1.0 / 64.0;
/// How many chords of a curved movement are followed at one go.
const CHORDS_AHEAD: u32 = 8;
/// No movement is cut into more chords than this.
const MAX_CHORDS: f64 = 10_000.0;

/// A movement from one pose to another, in the frame of the mover's parent.
///
/// ```
/// use hazuro::{Time, geometry::Pose, motion::{Easing, Travel}};
/// let lift = Travel::new(Time::ZERO, Time::from_secs(2.0), Pose::IDENTITY,
///     Pose::from([0.0, 3.0, 0.0]), Easing::Linear);
/// assert_eq!(lift.pose(Time::from_secs(1.0)).position.y, 1.5);
/// assert_eq!(lift.pose(Time::from_secs(9.0)).position.y, 3.0);
/// ```
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Travel {
    start: Time,
    end: Time,
    from: Pose,
    to: Pose,
    ease: Easing,
    /// The constant acceleration under way, in metres per second squared; 0 on all that is eased.
    acceleration: DVec3,
    chords: u32,
}

impl Travel {
    /// A movement that lasts from `start` to `end`; if that is no time at all, it is a jump.
    pub fn new(start: Time, end: Time, from: Pose, to: Pose, ease: Easing) -> Self {
        let angle = from.angle_to(&to);
        let turning = angle / CHORD_TURN;
        let chords = match ease {
            Easing::Linear => turning,
            Easing::Steps { count, .. } => f64::from(count),
            Easing::CubicBezier { .. } => {
                let length = from.position.distance(to.position) + angle;
                turning.max((length * BEND / (8.0 * CHORD_ERROR)).sqrt())
            }
        };
        let chords = chords.ceil().clamp(1.0, MAX_CHORDS) as u32;
        Self { start, end, from, to, ease, acceleration: DVec3::ZERO, chords }
    }

    /// A movement under constant acceleration, as of something thrown, which lasts from `start` to
    /// `end` and begins at `from` with `velocity`, in metres per second. Turns evenly towards
    /// `rotation`.
    ///
    /// ```
    /// use hazuro::{Time, geometry::Pose, motion::Travel};
    /// use glam::{DQuat, DVec3};
    /// let (start, end) = (Time::ZERO, Time::from_secs(1.0));
    /// let (up, gravity) = (DVec3::Y * 5.0, DVec3::Y * -10.0);
    /// let throw = Travel::arc(start, end, Pose::IDENTITY, DQuat::IDENTITY, up, gravity);
    /// assert!((throw.pose(Time::from_secs(0.5)).position.y - 1.25).abs() < 5e-5);
    /// assert_eq!(throw.pose(end).position.y, 0.0);
    /// ```
    pub fn arc(
        start: Time,
        end: Time,
        from: Pose,
        rotation: glam::DQuat,
        velocity: DVec3,
        acceleration: DVec3,
    ) -> Self {
        let seconds = (end - start).secs();
        let way = (velocity + acceleration * (seconds / 2.0)) * seconds;
        let to = Pose { position: from.position + way, rotation };
        let turning = from.angle_to(&to) / CHORD_TURN;
        // A chord lies off a parabola by an eighth of the acceleration times its time squared.
        let bent = seconds * (acceleration.length() / (8.0 * CHORD_ERROR)).sqrt();
        let chords = turning.max(bent).ceil().clamp(1.0, MAX_CHORDS) as u32;
        Self { start, end, from, to, ease: Easing::Linear, acceleration, chords }
    }

    /// How fast the mover is at `time`, in metres per second, unless it is eased; at the very end as
    /// fast as it gets there, later 0.
    pub fn velocity(&self, time: Time) -> DVec3 {
        let seconds = (self.end - self.start).secs();
        if time > self.end || seconds <= 0.0 {
            return DVec3::ZERO;
        }
        let since = (time.max(self.start) - self.start).secs();
        (self.to.position - self.from.position) / seconds
            + self.acceleration * (since - seconds / 2.0)
    }

    /// Keeps the mover turned like this from now on.
    pub(crate) fn turn_to(&mut self, rotation: glam::DQuat) {
        (self.from.rotation, self.to.rotation) = (rotation, rotation);
    }

    /// When it began.
    pub fn start(&self) -> Time {
        self.start
    }

    /// When it is over.
    pub fn end(&self) -> Time {
        self.end
    }

    /// Where it sets out.
    pub fn from(&self) -> &Pose {
        &self.from
    }

    /// Where it leads.
    pub fn to(&self) -> &Pose {
        &self.to
    }

    /// Where the mover is at `time`.
    pub fn pose(&self, time: Time) -> Pose {
        if time >= self.end {
            return self.to;
        }
        self.pose_in_chord(self.chord_from(time), time)
    }

    /// Where the mover is when it gets to `time`: at a step of a stepped easing, before the step.
    pub(crate) fn pose_before(&self, time: Time) -> Pose {
        self.pose_in_chord(self.chord_until(time), time)
    }

    /// Whether it goes straight and evenly, without turning.
    pub(crate) fn is_straight(&self) -> bool {
        self.is_even() && self.from.rotation == self.to.rotation
    }

    /// Whether it goes and turns evenly, along a straight line.
    pub(crate) fn is_even(&self) -> bool {
        self.ease == Easing::Linear && self.acceleration == DVec3::ZERO
    }

    /// Until when to follow it at one go from `now` on; none if it is over.
    pub(crate) fn horizon(&self, now: Time) -> Option<Time> {
        if self.end <= now {
            return None;
        }
        if self.is_straight() {
            let length = self.from.position.distance(self.to.position);
            let share = (STRETCH / length.max(STRETCH)).max(LEAST_SHARE);
            let stretch = Time::ZERO.towards(self.end - self.start, share);
            return Some(self.end.min(now + stretch.max(Time::from_nanos(1))));
        }
        let ahead = self.chord_from(now).saturating_add(CHORDS_AHEAD).min(self.chords);
        Some(self.chord_end(ahead).max(now + Time::from_nanos(1)).min(self.end))
    }

    /// Calls `cut` with each moment strictly between `after` and `before` at which a chord ends.
    pub(crate) fn cuts(&self, after: Time, before: Time, mut cut: impl FnMut(Time)) {
        // From the first chord that ends after `after`.
        for chord in self.chord_from(after) + 1..=self.chords {
            let time = self.chord_end(chord);
            if time >= before {
                return;
            }
            if time > after {
                cut(time);
            }
        }
        if self.start > after && self.start < before {
            cut(self.start);
        }
    }

    /// When chord number `chord` ends; 0 gives the start.
    fn chord_end(&self, chord: u32) -> Time {
        self.start.towards(self.end, f64::from(chord) / f64::from(self.chords))
    }

    /// The chord that is being travelled from `time` on.
    fn chord_from(&self, time: Time) -> u32 {
        if self.chords == 1 {
            return u32::from(time >= self.end);
        }
        let mut chord = self.guess(time);
        while chord < self.chords && self.chord_end(chord + 1) <= time {
            chord += 1;
        }
        while chord > 0 && self.chord_end(chord) > time {
            chord -= 1;
        }
        chord
    }

    /// The chord that has been travelled up to `time`.
    fn chord_until(&self, time: Time) -> u32 {
        let chord = self.chord_from(time);
        if chord > 0 && self.chord_end(chord) == time { chord - 1 } else { chord }
    }

    fn guess(&self, time: Time) -> u32 {
        (time.fraction(self.start, self.end) * f64::from(self.chords)) as u32
    }

    fn pose_in_chord(&self, chord: u32, time: Time) -> Pose {
        if chord >= self.chords {
            return self.to;
        }
        if time < self.start {
            return self.from;
        }
        let share = |chord: u32| f64::from(chord) / f64::from(self.chords);
        if self.acceleration != DVec3::ZERO {
            let fraction = time.fraction(self.chord_end(chord), self.chord_end(chord + 1));
            let [low, high] = [share(chord), share(chord + 1)].map(|share| self.on_arc(share));
            return low.towards(&high, fraction);
        }
        let at = |chord: u32| self.ease.progress(share(chord));
        let progress = match self.ease {
            Easing::Linear => time.fraction(self.start, self.end),
            Easing::Steps { .. } => at(chord),
            Easing::CubicBezier { .. } => {
                let fraction = time.fraction(self.chord_end(chord), self.chord_end(chord + 1));
                let (low, high) = (at(chord), at(chord + 1));
                low + (high - low) * fraction
            }
        };
        self.from.towards(&self.to, progress)
    }

    /// The pose when this share of the time of a movement under acceleration is over.
    fn on_arc(&self, share: f64) -> Pose {
        let mut pose = self.from.towards(&self.to, share);
        let seconds = (self.end - self.start).secs();
        pose.position += self.acceleration * (seconds * seconds * share * (share - 1.0) / 2.0);
        pose
    }
}

impl Hash for Travel {
    fn hash<H: Hasher>(&self, state: &mut H) {
        (self.start, self.end, self.from, self.to, self.ease).hash(state);
        (bits(self.acceleration), self.chords).hash(state);
    }
}
