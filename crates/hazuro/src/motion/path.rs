//! What a movement looks like within a tick: segments, one after another.

use glam::DVec3;
use smallvec::SmallVec;

use crate::Time;
use crate::geometry::{Aabb, Form, Pose, TOUCH};

/// Half of how much of a segment the velocity of what also turns is measured over: short beside the turn, long beside
/// rounding.
const AROUND: f64 = 5e-5;

/// One even stretch of a movement.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Segment {
    /// When it starts.
    pub start: Time,
    /// When it ends.
    pub end: Time,
    /// The pose at the start.
    pub from: Pose,
    /// The pose at the end.
    pub to: Pose,
}

impl Segment {
    /// The pose at `time`, which is clamped to the segment.
    pub fn pose(&self, time: Time) -> Pose {
        if time <= self.start {
            self.from
        } else if time >= self.end {
            self.to
        } else {
            self.from.towards(&self.to, time.fraction(self.start, self.end))
        }
    }

    /// How fast a point of what moves along it moves at `time`, in metres per second; at rest where
    /// it stands still or only jumps.
    pub fn velocity(&self, time: Time, point: DVec3) -> DVec3 {
        let span = (self.end - self.start).secs();
        if span <= 0.0 || span > 1e6 || self.from == self.to {
            return DVec3::ZERO;
        }
        if self.from.rotation == self.to.rotation {
            return (self.to.position - self.from.position) / span;
        }
        // Over a short stretch around that moment, since it also turns.
        let fraction = time.fraction(self.start, self.end);
        let (low, high) = ((fraction - AROUND).max(0.0), (fraction + AROUND).min(1.0));
        let at = |share: f64| self.from.towards(&self.to, share);
        let local = at(fraction).inverse().point(point);
        (at(high).point(local) - at(low).point(local)) / (span * (high - low))
    }

    /// The part of the segment from `start` to `end`.
    #[must_use]
    pub fn between(&self, start: Time, end: Time) -> Self {
        Self { start, end, from: self.pose(start), to: self.pose(end) }
    }
}

/// The movement of one entity in the world, over some span of time, as segments without gaps in
/// time. In space there is a gap where it jumps.
///
/// ```
/// use hazuro::{Time, geometry::Pose, motion::{Path, Segment}};
/// let (start, end) = (Time::ZERO, Time::from_secs(1.0));
/// let walk = Segment { start, end, from: Pose::IDENTITY, to: Pose::from([3.0, 0.0, 0.0]) };
/// let path = Path::new(&[walk]);
/// assert_eq!(path.pose(Time::from_secs(0.5)).position.x, 1.5);
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Path {
    segments: SmallVec<[Segment; 2]>,
}

impl Path {
    /// A path of these segments, each starting when the one before it ends.
    ///
    /// # Panics
    /// If there is no segment.
    pub fn new(segments: &[Segment]) -> Self {
        assert!(!segments.is_empty(), "a path has at least one segment");
        Self { segments: segments.into() }
    }

    /// Stays at `pose` from `start` to `end`.
    pub fn still(start: Time, end: Time, pose: Pose) -> Self {
        Self::new(&[Segment { start, end, from: pose, to: pose }])
    }

    /// Its segments, in order; never empty.
    pub fn segments(&self) -> &[Segment] {
        &self.segments
    }

    /// Where it starts in time.
    pub fn start(&self) -> Time {
        self.segments[0].start
    }

    /// Where it ends in time.
    pub fn end(&self) -> Time {
        self.segments[self.segments.len() - 1].end
    }

    /// The pose at `time`; where it jumps, after the jump.
    pub fn pose(&self, time: Time) -> Pose {
        let later =
            self.segments.iter().skip(1).take_while(|segment| segment.start <= time).count();
        self.segments[later].pose(time)
    }

    /// The bounds of all that some shapes sweep, or touch, when carried along the path.
    pub(crate) fn bounds<'a>(
        &self,
        shapes: &(impl Iterator<Item = (&'a Form, Pose)> + Clone),
    ) -> Aabb {
        let mut bounds = Aabb::EMPTY;
        for segment in &self.segments {
            for (form, offset) in shapes.clone() {
                if segment.from.rotation == segment.to.rotation {
                    let start = form.bounds(&(segment.from * offset));
                    let way = segment.to.position - segment.from.position;
                    bounds = bounds.join(&start).join(&start.moved(way));
                } else {
                    // Whatever way it turns, it stays this near the line its carrier travels.
                    let reach = DVec3::splat(offset.position.length() + form.reach());
                    for end in [segment.from.position, segment.to.position] {
                        bounds = bounds.join(&Aabb::around(end, reach));
                    }
                }
            }
        }
        bounds.grown(TOUCH)
    }

    /// Calls `visit` with the stretches during which both paths are even, in order.
    pub(crate) fn together(&self, other: &Self, mut visit: impl FnMut(&Segment, &Segment)) {
        let (mut i, mut j) = (0, 0);
        while let (Some(a), Some(b)) = (self.segments.get(i), other.segments.get(j)) {
            let (start, end) = (a.start.max(b.start), a.end.min(b.end));
            if start <= end {
                visit(&a.between(start, end), &b.between(start, end));
            }
            i += usize::from(a.end <= end);
            j += usize::from(b.end <= end);
        }
    }
}
