//! Shapes that others meet: what zones and touch detectors have in common.

use glam::DVec3;
use smallvec::{SmallVec, smallvec};

use crate::Time;
use crate::describe::{Detector, EntityId};
use crate::geometry::{Convex, Form, Glide, Pose, TOUCH, closest_approach, distance, gap, sweep};
use crate::model::{PlacedPart, Region, Scene};
use crate::motion::{Path, Segment};
use crate::state::{Meeting, State, WHOLE};
use crate::why::{Check, Evidence, Witness, run};

use super::pair::{Looks, Pair};

/// A span too short to tell on which side of a boundary something is.
const NOTHING: Time = Time::from_nanos(2);

pub(super) type Gates<'a> = [Check<Look<'a>>; 6];

/// One detector looking at one subject over a span of time.
pub(crate) struct Look<'a> {
    pair: Pair<'a>,
    region: Region<'a>,
    path: Path,
    members: Members,
    /// Whether it was detected before, or, if each part is, which parts were.
    before: SmallVec<[u32; 1]>,
    stays: SmallVec<[Stay; 2]>,
    crossings: SmallVec<[Crossing; 2]>,
}

/// Whatever belongs to a subject and moves for itself, how it moves, and the number of its first
/// part.
type Members = SmallVec<[(EntityId, Path, usize); 1]>;

/// A span during which at least one part is inside.
#[derive(Clone, Copy)]
struct Stay {
    by_part: u32,
    start: Time,
    end: Time,
    first_part: usize,
    last_part: usize,
}

/// A subject comes in or leaves.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Crossing {
    pub time: Time,
    pub enters: bool,
    /// Which part, if each is detected for itself; else [`WHOLE`].
    pub by_part: u32,
    /// The first part in or the last one out, if it was seen to move in or out.
    pub part: Option<usize>,
    /// Where and how, for a touch.
    pub meeting: Option<Meeting>,
}

/// What a subject of a detector is made of, as far as it moves for itself: a body, and for a touch
/// the solids that belong to it; or a solid that belongs to none.
pub(crate) fn members(scene: &Scene, detector: Detector, who: EntityId) -> SmallVec<[EntityId; 1]> {
    let mut members = smallvec![who];
    if detector == Detector::Touch {
        members.extend(scene.attached_solids(who).iter().copied().filter(|limb| *limb != who));
    }
    members
}

/// Runs the gates of a detector for a subject from now until `until`. What happens at the very end
/// belongs to the next span.
pub(super) fn look<'a, W: Witness>(
    gates: &Gates<'a>,
    (scene, state): (&'a Scene, &'a State),
    (on, detector, who): (EntityId, Detector, EntityId),
    until: Time,
    witness: &mut W,
) -> SmallVec<[Crossing; 2]> {
    let Some(region) = scene.thing(on).region(detector) else { return SmallVec::new() };
    let pair = Pair { scene, state, on, detector, who };
    let mut parts = scene.thing(who).body.as_ref().map_or(0, |body| body.parts.len());
    let moves = |entity| state.path(scene, entity, state.now, until);
    let mut all: Members = SmallVec::new();
    for member in members(scene, detector, who) {
        let first = if member == who { 0 } else { parts };
        parts += usize::from(member != who);
        all.push((member, moves(member), first));
    }
    let mut look = Look {
        pair,
        region,
        path: moves(on),
        members: all,
        before: state.parts_within(on, detector, who).collect(),
        stays: SmallVec::new(),
        crossings: SmallVec::new(),
    };
    if !run(gates, &mut look, pair.chain(), state.now, witness) && look.stays.is_empty() {
        // Stopped before it could be inside at any time.
        look.crosses();
    }
    look.crossings
}

impl Looks for Look<'_> {
    fn pair(&self) -> Pair<'_> {
        self.pair
    }

    /// Its condition is a gate of what comes of it, see [`rule_on`](super::rule_on).
    fn failed(&mut self, _: String) {}
}

impl Look<'_> {
    /// Calls `visit` with each part of the subject and each stretch during which both it and the
    /// detector move evenly.
    fn glides(&self, mut visit: impl FnMut(usize, &Segment, &Glide<'_>, &Glide<'_>)) {
        for (member, path, first) in &self.members {
            let thing = self.pair.scene.thing(*member);
            self.path.together(path, |own, segment| {
                let glide = |(offset, shape), segment: &Segment| Glide {
                    shape,
                    offset,
                    from: segment.from,
                    to: segment.to,
                };
                for piece in self.region.form.pieces() {
                    let own = glide(piece, own);
                    each_piece(thing, *member == self.pair.who, *first, |part, piece| {
                        visit(part, segment, &own, &glide(piece, segment));
                    });
                }
            });
        }
    }

    /// Whether they meet at any time.
    pub(super) fn meets(&mut self) -> bool {
        let mut found: SmallVec<[Stay; 4]> = SmallVec::new();
        let by_part = |part: usize| if self.region.parts { part as u32 } else { WHOLE };
        self.glides(|part, segment, own, glide| {
            for overlap in sweep(own, glide) {
                let start = segment.start.towards(segment.end, overlap.start);
                let end = segment.start.towards(segment.end, overlap.end);
                let by_part = by_part(part);
                found.push(Stay { by_part, start, end, first_part: part, last_part: part });
            }
        });
        found.sort_by_key(|stay| (stay.by_part, stay.start, stay.first_part));
        for next in found {
            match self.stays.last_mut() {
                Some(last) if next.by_part == last.by_part && next.start <= last.end => {
                    if next.end > last.end {
                        (last.end, last.last_part) = (next.end, next.last_part);
                    }
                }
                _ => self.stays.push(next),
            }
        }
        !self.stays.is_empty()
    }

    /// Whether somebody comes in or leaves.
    pub(super) fn crosses(&mut self) -> bool {
        let (from, until) = (self.path.start(), self.path.end());
        let mut crossings: SmallVec<[Crossing; 2]> = SmallVec::new();
        let mut cross = |time, enters, by_part, part| {
            crossings.push(Crossing { time, enters, by_part, part, meeting: None });
        };
        for by_part in &self.before {
            let first = self.stays.iter().find(|stay| stay.by_part == *by_part);
            if first.is_none_or(|stay| stay.start > from) {
                let part = (*by_part != WHOLE).then_some(*by_part as usize);
                cross(from, false, *by_part, part);
            }
        }
        for stay in &self.stays {
            if stay.start >= until && until > from {
                continue;
            }
            // Who has only just left, by less than a time can tell, has not come in again.
            let just_left = stay.end < until && stay.end - from <= NOTHING;
            if just_left && !self.before.contains(&stay.by_part) {
                continue;
            }
            if stay.start > from || !self.before.contains(&stay.by_part) {
                cross(stay.start, true, stay.by_part, Some(stay.first_part));
            }
            if stay.end < until {
                cross(stay.end, false, stay.by_part, Some(stay.last_part));
            }
        }
        if self.region.parts {
            crossings.sort_by_key(|crossing| (crossing.time, crossing.by_part));
        }
        if self.region.tells_contact {
            for crossing in crossings.iter_mut().filter(|crossing| crossing.enters) {
                crossing.meeting = self.meeting(crossing.time, crossing.part);
            }
        }
        self.crossings = crossings;
        !self.crossings.is_empty()
    }

    /// Where a part touches at `time`, and how fast the two come together.
    fn meeting(&self, time: Time, part: Option<usize>) -> Option<Meeting> {
        let own = self.path.pose(time);
        let mut nearest: Option<(f64, Meeting)> = None;
        for (member, path, first) in &self.members {
            let pose = path.pose(time);
            let thing = self.pair.scene.thing(*member);
            each_piece(thing, *member == self.pair.who, *first, |index, (offset, piece)| {
                if part.is_some_and(|part| part != index) {
                    return;
                }
                for (at, shape) in self.region.form.pieces() {
                    let between = distance(shape, &(own * at), piece, &(pose * offset));
                    if nearest.as_ref().is_some_and(|(gap, _)| between.gap >= *gap) {
                        continue;
                    }
                    let normal = between.normal;
                    let point = between.on_b;
                    let approach = velocity(&self.path, time, point) - velocity(path, time, point);
                    let speed = approach.dot(normal).max(0.0);
                    nearest = Some((between.gap, Meeting { point, normal, speed }));
                }
            });
        }
        nearest.map(|(_, meeting)| meeting)
    }

    /// How near the subject came.
    pub(super) fn gap(&self) -> Evidence {
        let mut nearest = (f64::INFINITY, self.path.start(), DVec3::ZERO);
        self.glides(|_, segment, own, glide| {
            let (fraction, gap) = closest_approach(own, glide);
            if gap < nearest.0 {
                let time = segment.start.towards(segment.end, fraction);
                nearest = (gap, time, way_between(own, glide, fraction));
            }
        });
        Evidence::Gap { metres: nearest.0, time: nearest.1, way: nearest.2 }
    }
}

/// Calls `visit` with the convex pieces of a subject, or of something that belongs to it.
fn each_piece<'a>(
    thing: &'a crate::model::Thing,
    is_subject: bool,
    first: usize,
    mut visit: impl FnMut(usize, (Pose, &'a Convex)),
) {
    match (&thing.body, &thing.solid) {
        (Some(body), _) if is_subject => {
            for (index, part) in body.parts.iter().enumerate() {
                part.pieces().for_each(|piece| visit(index, piece));
            }
        }
        (_, Some(solid)) => solid.form.pieces().for_each(|piece| visit(first, piece)),
        _ => {}
    }
}

/// In which direction a gliding shape would have to go to meet another, a fraction of the movement
/// from its start; zero if they meet.
pub(super) fn way_between(own: &Glide<'_>, glide: &Glide<'_>, fraction: f64) -> DVec3 {
    let at = |glide: &Glide<'_>| glide.from.towards(&glide.to, fraction) * glide.offset;
    let between = distance(own.shape, &at(own), glide.shape, &at(glide));
    if between.gap > TOUCH { -between.normal } else { DVec3::ZERO }
}

/// How fast a point of something that moves along a path moves at `time`, on the stretch that ends
/// then; where there is none, as after a jump, it is at rest.
fn velocity(path: &Path, time: Time, point: DVec3) -> DVec3 {
    let segments = path.segments();
    let segment = segments.iter().find(|segment| segment.start < time && time <= segment.end);
    let Some(segment) = segment.or_else(|| segments.iter().find(|segment| segment.start == time))
    else {
        return DVec3::ZERO;
    };
    segment.velocity(time, point)
}

/// Whether a subject is inside a zone or touches, the form being that of the detector, and how far
/// it must at least move before that can change, neither of them turning. Infinite if it is never
/// detected.
pub(crate) fn boundary_distance(
    scene: &Scene,
    state: &State,
    (on, detector, form, on_pose): (EntityId, Detector, &Form, &Pose),
    (who, pose): (EntityId, &Pose),
) -> (bool, f64) {
    let (Some(region), Some(body)) = (scene.thing(on).region(detector), &scene.thing(who).body)
    else {
        return (false, f64::INFINITY);
    };
    if (Pair { scene, state, on, detector, who }).refusal().is_some() {
        return (false, f64::INFINITY);
    }
    if region.parts {
        // Each has a boundary of its own.
        return (false, 0.0);
    }
    let mut outside = f64::INFINITY;
    let mut inside: f64 = 0.0;
    for (offset, shape) in form.pieces() {
        let on_pose = *on_pose * offset;
        for (offset, piece) in body.parts.iter().flat_map(PlacedPart::pieces) {
            let pose = *pose * offset;
            let gap = gap(shape, &on_pose, piece, &pose);
            outside = outside.min(gap);
            // The part cannot leave before its inmost ball has.
            let depth = shape.depth(&on_pose, pose.position);
            let inmost = if depth > 0.0 { depth + piece.inner_radius() } else { 0.0 };
            inside = inside.max(inmost).max(-gap);
        }
    }
    if outside > TOUCH { (false, outside - TOUCH) } else { (true, inside) }
}
