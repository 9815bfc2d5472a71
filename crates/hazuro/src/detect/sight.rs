//! Sight: who is in view, not hidden, long enough to be noticed.

use glam::{DVec2, DVec3};
use smallvec::SmallVec;

use crate::Time;
use crate::describe::{Described, Detector, EntityId, Field, Layers, Scope, Sight, range};
use crate::geometry::{Aabb, Pose, ROUNDING, Ray};
use crate::model::{PlacedPart, Scene, Thing, eyes};
use crate::resolve::{Owner, Resolve, Resolver};
use crate::space::{Filter, Space};
use crate::state::{Awareness, State};
use crate::why::{Check, Evidence, Gate, Witness, run};

use super::pair::{admitted, apart, condition, enabled, present};
use super::target::{Target, looks_at_target, senses};
use super::{Answer, Asked, Change, Detect, Learnt, Question};

#[derive(Clone, Debug)]
pub(crate) struct SightSpec {
    /// From its owner's origin.
    pub eye: DVec3,
    pub every: Time,
    pub hides: Layers,
    pub config: Sight,
}

impl Described for Sight {
    type Spec = SightSpec;
}

impl Resolve for Sight {
    fn resolve(
        &self,
        resolver: &mut Resolver,
        owner: Owner<'_>,
        field: &Field,
    ) -> Option<SightSpec> {
        let Owner { features, scale, .. } = owner;
        let body = features.body.as_ref();
        let parts = body.map(|body| resolver.body(body, scale, &Field::ROOT));
        let eyes = parts.map(|parts| {
            let bounds = parts.iter().map(|part| part.form.bounds(&part.pose));
            eyes(&bounds.fold(Aabb::EMPTY, |all, part| all.join(&part)))
        });
        resolver.range(field.key("range"), self.range, &range::LENGTH);
        resolver.range(field.key("near"), self.near, &range::LENGTH_OR_NONE);
        resolver.angle(field.key("angle"), self.angle, &range::ANGLE);
        resolver.angle(field.key("rise"), self.rise, &range::ANGLE);
        if let Some(eye) = self.eye {
            resolver.coordinates(&field.key("eye"), eye);
        }
        resolver.range(field.key("points"), f64::from(self.points), &range::POINTS);
        resolver.range(field.key("fraction"), self.fraction, &range::SOME_SHARE);
        resolver.seconds(field.key("notice"), self.notice);
        resolver.seconds(field.key("forget"), self.forget);
        Some(SightSpec {
            eye: self.eye.map(DVec3::from_array).or(eyes).unwrap_or_default(),
            every: resolver.interval(field.key("every"), self.every),
            hides: resolver.layers_or_all(&self.hides, field, "hides"),
            config: self.clone(),
        })
    }
}

/// The gates of a sight, in order.
const fn gates<'a>() -> [Check<Look<'a>>; 9] {
    [
        enabled(),
        present(),
        apart(),
        admitted(),
        condition(),
        Check {
            gate: Gate::InRange,
            passes: |look| {
                look.find_points();
                look.is_felt() || look.far <= look.spec.config.range
            },
            evidence: |look| Evidence::Range { got: look.far, most: look.spec.config.range },
        },
        Check {
            gate: Gate::InAngle,
            passes: |look| look.is_felt() || look.least_off.0 <= 0.0,
            evidence: |look| {
                let (over, most) = look.least_off;
                Evidence::Angle { got: most + over, most }
            },
        },
        Check {
            gate: Gate::InView,
            passes: |look| {
                look.count_seen();
                look.is_felt() || look.share() + ROUNDING >= look.spec.config.fraction
            },
            evidence: |look| match look.hidden_by() {
                Some(solid) if look.seen == 0 => Evidence::HiddenBy(solid),
                _ => Evidence::Share { got: look.share(), need: look.spec.config.fraction },
            },
        },
        Check {
            gate: Gate::Noticed,
            passes: |look| look.notice() >= 1.0,
            evidence: |look| Evidence::Share { got: look.before.level, need: 1.0 },
        },
    ]
}

struct Look<'a> {
    target: Target<'a>,
    spec: &'a SightSpec,
    eye: Pose,
    points: SmallVec<[DVec3; 8]>,
    /// Those of the points that are in range and angle.
    facing: SmallVec<[DVec3; 8]>,
    /// How far the best point is outside the angles, in radians, and the half angle it exceeds.
    least_off: (f64, f64),
    /// How far off the nearest points are, as many of them as must be seen, in metres.
    far: f64,
    seen: usize,
    before: Awareness,
    in_view: bool,
}

looks_at_target!(Look<'_>);

impl Look<'_> {
    fn distance(&self) -> f64 {
        let Target { space, who, .. } = self.target;
        distance_to(space, who, self.eye.position)
    }

    /// Whether it is so near that it need not be seen.
    fn is_felt(&self) -> bool {
        self.spec.config.near > 0.0 && self.distance() <= self.spec.config.near
    }

    fn find_points(&mut self) {
        let Target { space, who, .. } = self.target;
        let config = &self.spec.config;
        self.points = points(space, who, config.points as usize);
        self.least_off = (f64::INFINITY, config.angle / 2.0);
        let eye = self.eye.position;
        let mut far: SmallVec<[f64; 8]> = self.points.iter().map(|it| it.distance(eye)).collect();
        far.sort_by(f64::total_cmp);
        let needed = (config.fraction * far.len() as f64 - ROUNDING).ceil().max(1.0) as usize;
        self.far = far.get(needed - 1).copied().unwrap_or(f64::INFINITY);
        let inverse = self.eye.inverse();
        for point in &self.points {
            let way = inverse.point(*point);
            let level = DVec2::new(way.x, way.z).length();
            let aside = DVec2::new(-way.z, way.x).to_angle().abs();
            let up = DVec2::new(level, way.y).to_angle().abs();
            let off = [(aside, config.angle / 2.0), (up, config.rise / 2.0)];
            let worst = off.map(|(got, most)| (got - most, most));
            let worst = if worst[0].0 >= worst[1].0 { worst[0] } else { worst[1] };
            if worst.0 < self.least_off.0 {
                self.least_off = worst;
            }
            if worst.0 <= 0.0 && way.length() <= config.range {
                self.facing.push(*point);
            }
        }
    }

    fn count_seen(&mut self) {
        let Target { space, .. } = self.target;
        let hides = self.target.may_hide();
        let filter = Filter::solids().layers(self.spec.hides).only(&hides);
        let enough = self.spec.config.fraction * self.points.len() as f64;
        for point in &self.facing {
            let Ok(ray) = Ray::between(self.eye.position, *point) else {
                self.seen += 1;
                continue;
            };
            if !space.ray_any(&ray, &filter) {
                self.seen += 1;
                if self.seen as f64 + ROUNDING >= enough {
                    break;
                }
            }
        }
    }

    /// What hides the first of its points.
    fn hidden_by(&self) -> Option<EntityId> {
        self.target.hidden_by(self.eye.position, *self.facing.first()?, self.spec.hides)
    }

    fn share(&self) -> f64 {
        self.seen as f64 / self.points.len().max(1) as f64
    }

    /// In view at last: how sure it is of it now.
    fn notice(&mut self) -> f64 {
        self.in_view = true;
        level(self.spec, &self.before, self.target.state().now, true)
    }
}

/// How sure a watcher is of somebody by now. What it saw last time holds for the time since.
fn level(spec: &SightSpec, before: &Awareness, now: Time, in_view: bool) -> f64 {
    let since = (now - before.looked).secs();
    let config = &spec.config;
    let level = if before.in_view && config.notice > 0.0 {
        before.level + since / config.notice
    } else if !before.in_view && config.forget > 0.0 {
        before.level - since / config.forget
    } else {
        before.level
    };
    // So that ten tenths are one.
    let level = if (level - 1.0).abs() < ROUNDING { 1.0 } else { level };
    match in_view {
        true if config.notice == 0.0 => 1.0,
        false if config.forget == 0.0 => 0.0,
        _ => level.clamp(0.0, 1.0),
    }
}

/// From where a watcher looks, and whither: along -Z.
pub(crate) fn eye(scene: &Scene, state: &State, on: EntityId) -> Option<Pose> {
    let spec = senses(scene, on)?.sight.as_ref()?;
    let pose = state.pose(scene, on, state.now);
    Some(Pose { position: pose.point(spec.eye), ..pose })
}

impl Detect for Sight {
    fn asked(spec: &SightSpec, _: &Thing) -> Asked {
        let reach = spec.eye.length() + spec.config.range.max(spec.config.near);
        Asked::Rounds { every: Some(spec.every), reach }
    }

    fn scope(&self) -> Scope {
        Scope::BODIES
    }

    fn ask<W: Witness>(question: Question<'_>, witness: &mut W) -> Option<Answer> {
        let Question { space, on, cause, failures } = question;
        let Space { scene, state, indices } = space;
        let spec = senses(scene, on)?.sight.as_ref()?;
        let eye = eye(scene, state, on)?;
        let detector = Detector::Sight;
        let mut candidates: SmallVec<[EntityId; 8]> = SmallVec::new();
        let range = (on, EntityId::LOWEST)..=(on, EntityId::HIGHEST);
        let known = state
            .senses
            .awareness
            .range(range)
            .filter(|(_, awareness)| awareness.level > 0.0 || awareness.in_view);
        candidates.extend(known.map(|((_, who), _)| *who));
        if (Target { space, on, detector, who: on, failures }).pair().off_by().is_none() {
            let reach = DVec3::splat(spec.config.range.max(spec.config.near));
            let layers = scene.admission(on).map_or(u64::MAX, |rule| rule.layers.0);
            let around = Aabb::around(eye.position, reach);
            indices.bodies.meeting(&around, layers, |face| candidates.push(face.entity));
        }
        if W::LISTENS {
            let wants = |who: &EntityId| {
                witness.wants(&Target { space, on, detector, who: *who, failures }.chain())
            };
            candidates.extend(scene.ids().filter(|who| scene.has_body(*who)).filter(wants));
        }
        candidates.sort_unstable();
        candidates.dedup();
        let (mut changes, mut learnt, mut unsettled) = (SmallVec::new(), SmallVec::new(), false);
        for who in candidates {
            let fresh = Awareness { looked: state.now, ..Awareness::default() };
            let before = state.senses.awareness.get(&(on, who)).copied().unwrap_or(fresh);
            let target = Target { space, on, detector, who, failures };
            let mut look = Look {
                target,
                spec,
                eye,
                points: SmallVec::new(),
                facing: SmallVec::new(),
                least_off: (f64::INFINITY, 0.0),
                far: f64::INFINITY,
                seen: 0,
                before,
                in_view: false,
            };
            let noticed = run(&gates(), &mut look, target.chain(), state.now, witness);
            let pair = target.pair();
            let off = pair.off_by().is_some() || pair.absent_by().is_some();
            let level = if off { 0.0 } else { level(spec, &before, state.now, look.in_view) };
            let was_spotted = state.stay(on, detector, who).is_some();
            if noticed && !was_spotted {
                changes.push(Change::of(on, detector, who, true, cause));
            } else if was_spotted && level <= 0.0 && !look.in_view {
                changes.push(Change::of(on, detector, who, false, cause));
            }
            if level > 0.0 || look.in_view || before.level > 0.0 || before.in_view {
                let place = state.pose(scene, who, state.now).position;
                let seen = if look.in_view { Some((state.now, place)) } else { before.seen };
                let awareness = Awareness { level, looked: state.now, in_view: look.in_view, seen };
                if !awareness.says_as_much_as(&before) {
                    learnt.push((who, awareness));
                }
                unsettled |= level > 0.0 && level < 1.0 || (level > 0.0) != look.in_view;
            }
        }
        Some(Answer { changes, learnt: Learnt::Awareness(learnt), unsettled })
    }
}

/// How far a body is from a point.
pub(super) fn distance_to(space: Space<'_>, who: EntityId, point: DVec3) -> f64 {
    let Space { scene, state, .. } = space;
    let pose = state.pose(scene, who, state.now);
    let thing = scene.thing(who);
    let parts = thing.body.iter().flat_map(|body| &body.parts);
    let parts = parts.map(|part| part.form.distance_to_point(&(pose * part.pose), point));
    let solid = thing.solid.iter().map(|solid| solid.form.distance_to_point(&pose, point));
    let zone = thing.zone.iter().map(|zone| zone.form.distance_to_point(&pose, point));
    let nearest = parts.chain(solid).chain(zone).fold(f64::INFINITY, f64::min);
    if nearest.is_finite() { nearest } else { pose.position.distance(point) }
}

/// So many points of a body: the middle of each part, then points nine tenths of the way from
/// there to its surface, in six directions.
fn points(space: Space<'_>, who: EntityId, most: usize) -> SmallVec<[DVec3; 8]> {
    const WAYS: [DVec3; 6] =
        [DVec3::Y, DVec3::NEG_Y, DVec3::X, DVec3::NEG_X, DVec3::Z, DVec3::NEG_Z];
    let Space { scene, state, .. } = space;
    let pose = state.pose(scene, who, state.now);
    let parts = scene.thing(who).body.as_ref().map_or(&[][..], |body| &body.parts);
    let pieces = || parts.iter().flat_map(PlacedPart::pieces);
    let mut points: SmallVec<[DVec3; 8]> = SmallVec::new();
    for (offset, _) in pieces().take(most) {
        points.push(pose.point(offset.position));
    }
    for way in WAYS {
        for (offset, convex) in pieces() {
            if points.len() >= most {
                return points;
            }
            let at = pose * offset;
            points.push(at.position + (convex.support(&at, way) - at.position) * 0.9);
        }
    }
    points
}
