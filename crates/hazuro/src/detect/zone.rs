//! Zones: who comes in, who leaves, exactly when.

use smallvec::SmallVec;

use crate::Time;
use crate::geometry::{Form, Glide, Pose, TOUCH, closest_approach, gap, sweep};
use crate::motion::{Path, Segment};
use crate::scene::{EntityId, PlacedPart, Scene, ZoneSpec};
use crate::why::{Chain, Check, Evidence, Gate, Witness, run};

/// The gates of a zone, in order.
const fn gates<'a>() -> [Check<Look<'a>>; 6] {
    [
        Check {
            gate: Gate::Enabled,
            passes: |look| look.zone_off.is_none(),
            evidence: |look| look.zone_off.map_or(Evidence::None, Evidence::OffBy),
        },
        Check {
            gate: Gate::Present,
            passes: |look| look.subject_off.is_none(),
            evidence: |look| look.subject_off.map_or(Evidence::None, Evidence::OffBy),
        },
        Check { gate: Gate::Apart, passes: |look| look.is_apart(), evidence: |_| Evidence::None },
        Check {
            gate: Gate::Admitted,
            passes: |look| look.spec().admission.refusal(look.scene, look.subject).is_none(),
            evidence: |look| {
                let refusal = look.spec().admission.refusal(look.scene, look.subject);
                refusal.map_or(Evidence::None, Evidence::Refused)
            },
        },
        Check {
            gate: Gate::InShape,
            passes: |look| {
                look.find_stays();
                !look.stays.is_empty()
            },
            evidence: |look| look.gap(),
        },
        Check {
            gate: Gate::Edge,
            passes: |look| {
                look.find_crossings();
                !look.crossings.is_empty()
            },
            evidence: |_| Evidence::None,
        },
    ]
}

/// One zone looking at one subject over a span of time.
pub(crate) struct Look<'a> {
    pub scene: &'a Scene,
    pub zone: EntityId,
    pub subject: EntityId,
    /// What keeps the zone from being effective.
    pub zone_off: Option<EntityId>,
    /// What keeps the subject from being effective.
    pub subject_off: Option<EntityId>,
    pub zone_path: &'a Path,
    pub subject_path: &'a Path,
    pub was_inside: bool,
    stays: SmallVec<[Stay; 2]>,
    crossings: SmallVec<[Crossing; 2]>,
}

/// A span during which at least one part is inside.
#[derive(Clone, Copy)]
struct Stay {
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
    /// The first part in or the last one out, if it was seen to move in or out.
    pub part: Option<usize>,
}

/// Runs the gates for one zone and subject, from the start of their paths to the end. What
/// happens at the very end belongs to the next span.
pub(crate) fn look<W: Witness>(mut look: Look<'_>, witness: &mut W) -> SmallVec<[Crossing; 2]> {
    let chain = Chain::Detector { on: look.zone, who: look.subject };
    let start = look.zone_path.start();
    if !run(&gates(), &mut look, chain, start, witness) && look.stays.is_empty() {
        // Stopped before it could be inside at any time.
        look.find_crossings();
    }
    look.crossings
}

impl<'a> Look<'a> {
    pub fn new(
        scene: &'a Scene,
        (zone, zone_path, zone_off): (EntityId, &'a Path, Option<EntityId>),
        (subject, subject_path, subject_off): (EntityId, &'a Path, Option<EntityId>),
        was_inside: bool,
    ) -> Self {
        Self {
            scene,
            zone,
            subject,
            zone_off,
            subject_off,
            zone_path,
            subject_path,
            was_inside,
            stays: SmallVec::new(),
            crossings: SmallVec::new(),
        }
    }

    fn spec(&self) -> &'a ZoneSpec {
        self.scene.thing(self.zone).zone.as_deref().expect("only zones look")
    }

    /// A zone does not detect the body that carries it, nor a body it carries.
    fn is_apart(&self) -> bool {
        !self.scene.lineage(self.zone).any(|entity| entity == self.subject)
            && !self.scene.lineage(self.subject).any(|entity| entity == self.zone)
    }

    /// Calls `visit` with each part of the subject and each stretch during which both it and the
    /// zone move evenly.
    fn glides(&self, mut visit: impl FnMut(usize, &Segment, &Glide<'_>, &Glide<'_>)) {
        let zone = &self.spec().form;
        let Some(body) = &self.scene.thing(self.subject).body else { return };
        self.zone_path.together(self.subject_path, |zone_segment, segment| {
            let glide = |(offset, shape), segment: &Segment| Glide {
                shape,
                offset,
                from: segment.from,
                to: segment.to,
            };
            for zone in zone.pieces() {
                let zone = glide(zone, zone_segment);
                for (index, part) in body.parts.iter().enumerate() {
                    for piece in part.pieces() {
                        visit(index, segment, &zone, &glide(piece, segment));
                    }
                }
            }
        });
    }

    fn find_stays(&mut self) {
        let mut found: SmallVec<[Stay; 4]> = SmallVec::new();
        self.glides(|part, segment, zone, glide| {
            for overlap in sweep(zone, glide) {
                let start = segment.start.towards(segment.end, overlap.start);
                let end = segment.start.towards(segment.end, overlap.end);
                found.push(Stay { start, end, first_part: part, last_part: part });
            }
        });
        found.sort_by_key(|stay| (stay.start, stay.first_part));
        for next in found {
            match self.stays.last_mut() {
                Some(last) if next.start <= last.end => {
                    if next.end > last.end {
                        (last.end, last.last_part) = (next.end, next.last_part);
                    }
                }
                _ => self.stays.push(next),
            }
        }
    }

    fn find_crossings(&mut self) {
        let (from, until) = (self.zone_path.start(), self.zone_path.end());
        let mut inside = self.was_inside;
        let mut cross = |time, enters, part| self.crossings.push(Crossing { time, enters, part });
        if inside && self.stays.first().is_none_or(|stay| stay.start > from) {
            cross(from, false, None);
            inside = false;
        }
        for stay in &self.stays {
            if stay.start >= until && until > from {
                break;
            }
            if !inside {
                cross(stay.start, true, Some(stay.first_part));
            }
            inside = true;
            if stay.end < until {
                cross(stay.end, false, Some(stay.last_part));
                inside = false;
            }
        }
    }

    /// How near the subject came.
    fn gap(&self) -> Evidence {
        let mut nearest = (f64::INFINITY, self.zone_path.start());
        self.glides(|_, segment, zone, glide| {
            let (fraction, gap) = closest_approach(zone, glide);
            if gap < nearest.0 {
                nearest = (gap, segment.start.towards(segment.end, fraction));
            }
        });
        Evidence::Gap { metres: nearest.0, time: nearest.1 }
    }
}

/// Whether a subject is inside a zone of this form, and how far it must at least move before it can
/// cross the boundary, neither of them turning. Infinite if the zone never detects it.
pub(crate) fn boundary_distance(
    scene: &Scene,
    (zone, form, zone_pose): (EntityId, &Form, &Pose),
    (subject, subject_pose): (EntityId, &Pose),
) -> (bool, f64) {
    let things = (&scene.thing(zone).zone, &scene.thing(subject).body);
    let (Some(spec), Some(body)) = things else { return (false, f64::INFINITY) };
    if spec.admission.refusal(scene, subject).is_some() {
        return (false, f64::INFINITY);
    }
    let mut outside = f64::INFINITY;
    let mut inside: f64 = 0.0;
    for (zone_offset, zone) in form.pieces() {
        let zone_pose = *zone_pose * zone_offset;
        for (offset, piece) in body.parts.iter().flat_map(PlacedPart::pieces) {
            let pose = *subject_pose * offset;
            let gap = gap(zone, &zone_pose, piece, &pose);
            outside = outside.min(gap);
            // The part cannot leave before its inmost ball has.
            let depth = zone.depth(&zone_pose, pose.position);
            let inmost = if depth > 0.0 { depth + piece.inner_radius() } else { 0.0 };
            inside = inside.max(inmost).max(-gap);
        }
    }
    if outside > TOUCH { (false, outside - TOUCH) } else { (true, inside) }
}
