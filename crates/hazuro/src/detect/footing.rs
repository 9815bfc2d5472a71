//! Footing: what a body stands on.
//!
//! A ball as wide as the lowest part of the body is let down from a margin above its feet. What it
//! meets first from above is the ground. The rule of admission is for those whom an entity detects
//! around it; what it stands on is a matter of layers.

use glam::{DVec2, DVec3};

use crate::Time;
use crate::describe::{
    Among, Described, Detector, EntityId, Field, Footing, Ground, Layers, Scope, Switch, range,
};
use crate::geometry::{Aabb, Convex, Form, Pose, ROUNDING, Ray, Shape};
use crate::model::Thing;
use crate::resolve::{Owner, Resolve, Resolver};
use crate::space::{Filter, Hit, Space};
use crate::state::{Meeting, Stand};
use crate::why::{Check, Evidence, Gate, Witness, run};

use super::pair::enabled;
use super::target::{Target, looks_at_target, senses};
use super::{Answer, Asked, Change, Detect, Learnt, Question};

/// What faces upwards less than this, as the sine of its elevation, is a wall.
const WALL: f64 = 0.05;
/// Grounds whose heights differ by no more than this, in metres, are level with one another: of the floor below
/// everything and what lies on it, what lies there counts.
const LEVEL: f64 = 1e-6;
/// How far beside an edge it is asked how the surface slopes there, in metres.
const ASIDE: f64 = 1e-4;
/// From how far above the surface that is asked, and how far below, in metres: ten times as far as aside, which reaches
/// slopes of 84 degrees.
const ABOVE: f64 = 1e-3;

/// How far the feet may at least sink in before what they are in is ground no more, in metres.
const LEAST_LIFT: f64 = 0.1;

#[derive(Clone, Debug)]
pub(crate) struct FootingSpec {
    pub grace: Time,
    pub layers: Layers,
    pub config: Footing,
}

impl Described for Footing {
    type Spec = FootingSpec;
}

impl Resolve for Footing {
    fn resolve(&self, resolver: &mut Resolver, _: Owner<'_>, field: &Field) -> Option<FootingSpec> {
        resolver.range(field.key("margin"), self.margin, &range::FOOTING_MARGIN);
        resolver.range(field.key("reach"), self.reach, &range::LENGTH);
        resolver.angle(field.key("slope"), self.slope, &range::SLOPE);
        Some(FootingSpec {
            grace: resolver.seconds(field.key("grace"), self.grace),
            layers: resolver.layers_or_all(&self.layers, field, "layers"),
            config: self.clone(),
        })
    }
}

/// The gates of a footing, in order.
const fn gates<'a>() -> [Check<Look<'a>>; 3] {
    [
        enabled(),
        Check {
            gate: Gate::InAngle,
            passes: |look| look.ground.slope <= look.spec.config.slope + ROUNDING,
            evidence: |look| Evidence::Angle {
                got: look.ground.slope,
                most: look.spec.config.slope,
            },
        },
        Check {
            gate: Gate::OnGround,
            passes: |look| look.ground.height <= look.margin,
            evidence: |look| Evidence::Range { got: look.ground.height, most: look.margin },
        },
    ]
}

struct Look<'a> {
    target: Target<'a>,
    spec: &'a FootingSpec,
    ground: Ground,
    /// How high the feet may be above ground to stand on it, in metres.
    margin: f64,
}

looks_at_target!(Look<'_>);

impl Detect for Footing {
    fn asked(spec: &FootingSpec, owner: &Thing) -> Asked {
        let reach = spec.config.reach + spec.config.margin + owner.body_reach();
        Asked::Rounds { every: None, reach }
    }

    fn scope(&self) -> Scope {
        let among = Among { solids: true, ..Among::default() };
        Scope { itself: true, ..Scope::of(among) }
    }

    fn ask<W: Witness>(question: Question<'_>, witness: &mut W) -> Option<Answer> {
        let Question { space, on, cause, failures } = question;
        let Space { scene, state, .. } = space;
        let spec = senses(scene, on)?.footing.as_ref()?;
        let before = state.senses.stands.get(&on);
        let (mut ground, mut meeting) = look_down(space, on, spec)?;
        let who = ground.under.unwrap_or(on);
        let detector = Detector::Footing;
        // A walker just stepping over an edge counts as standing.
        let step = scene
            .mover(on)
            .filter(|_| state.is_striding(on))
            .map_or(0.0, |_| state.step_height(scene, on));
        let margin = spec.config.margin.max(step);
        let mut look =
            Look { target: Target { space, on, detector, who, failures }, spec, ground, margin };
        let chain = look.target.chain();
        let near = run(&gates(), &mut look, chain, state.now, witness) && ground.height.is_finite();
        let is_off = state.off_by(scene, on, Switch::Detect).is_some();
        let was_grounded = before.is_some_and(|before| before.ground.grounded);
        let last_near = match before {
            _ if near => state.now,
            Some(before) => before.last_near,
            None => Time::ZERO,
        };
        ground.grounded = near || (was_grounded && !is_off && state.now - last_near <= spec.grace);
        let sinking = sinking(space, on);
        meeting.speed = before.map_or(0.0, |before| before.sinking).max(sinking).max(0.0);
        let landed_before = before.and_then(|before| before.landed_on);
        let change = (ground.grounded != was_grounded).then(|| {
            // It ends where it began, wherever it has walked since: so the two are a pair.
            let under = if ground.grounded { ground.under } else { landed_before };
            let meeting = Some(meeting).filter(|_| ground.grounded);
            Change { meeting, about: under, ..Change::of(on, detector, on, ground.grounded, cause) }
        });
        // While in the air for a moment, what it stood on is what it stands on.
        if ground.grounded && !near {
            ground.under = before.and_then(|before| before.ground.under);
        }
        // Where nothing moves nothing is noted, so that it makes no difference how often it is asked.
        let still =
            [Some(on), ground.under].into_iter().flatten().all(|it| !state.is_moving(scene, it));
        let last_near = match before {
            Some(before) if still && near && before.ground == ground => before.last_near,
            _ => last_near,
        };
        let landed_on = if was_grounded { landed_before } else { ground.under };
        let landed_on = landed_on.filter(|_| ground.grounded);
        let stand = Stand { ground, landed_on, last_near, sinking };
        Some(Answer {
            changes: change.into_iter().collect(),
            learnt: Learnt::Stand(stand),
            // Its grace is running.
            unsettled: ground.grounded && !near,
        })
    }
}

/// How fast a body goes down from now on, in metres per second.
fn sinking(space: Space<'_>, on: EntityId) -> f64 {
    let Space { scene, state, .. } = space;
    let path = state.path(scene, on, state.now, state.horizon(scene, on).max(state.now));
    let first = path.segments()[0];
    let span = (first.end - first.start).secs();
    if span > 0.0 && span < 1e6 {
        (first.from.position.y - first.to.position.y) / span
    } else {
        0.0
    }
}

/// What is under the feet of a body, and where it would meet them.
fn look_down(space: Space<'_>, on: EntityId, spec: &FootingSpec) -> Option<(Ground, Meeting)> {
    let Space { scene, state, .. } = space;
    let pose = state.pose(scene, on, state.now);
    let parts = scene.thing(on).body.iter().flat_map(|body| &body.parts);
    let bounds = parts.map(|part| part.form.bounds(&(pose * part.pose)));
    let lowest: Aabb =
        bounds.reduce(|low, other| if other.min.y < low.min.y { other } else { low })?;
    let width = (lowest.max.x - lowest.min.x).min(lowest.max.z - lowest.min.z);
    let radius = (width * 0.475).clamp(0.005, 1e4);
    let (lift, reach) = (spec.config.margin.max(LEAST_LIFT), spec.config.reach);
    let middle = (lowest.min + lowest.max) / 2.0;
    let feet = DVec3 { y: lowest.min.y, ..middle };
    let from = Pose::at(feet + DVec3::Y * (radius + lift));
    let to = from.position - DVec3::Y * (lift + reach);
    let ball = Form::from(Convex::new(&Shape::Sphere { radius }).ok()?);
    let filter = Filter::solids().layers(spec.layers).without(on);
    let mut first: Option<Hit> = None;
    space.each_in_way(&ball, from, to, &filter, |hit| {
        let nearer = first.is_none_or(|first| hit.distance < first.distance);
        if !hit.inside && hit.normal.y > WALL && nearer {
            first = Some(hit);
        }
    });
    let above = scene.floor_height().map(|floor| feet.y - floor);
    let floor = above.filter(|above| (-lift..=reach).contains(above));
    let height = first.map(|hit| hit.distance - lift);
    let Some((hit, height)) =
        first.zip(height).filter(|(_, height)| floor.is_none_or(|it| *height <= it + LEVEL))
    else {
        // Only the level ground below everything, or nothing.
        let height = floor.unwrap_or(f64::INFINITY);
        let ground = Ground { grounded: false, under: None, height, slope: 0.0 };
        let point = DVec3 { y: feet.y - floor.unwrap_or(0.0), ..feet };
        return Some((ground, Meeting { point, normal: DVec3::Y, speed: 0.0 }));
    };
    // The ball may have met an edge: then the surface beside it tells the slope.
    let aside = DVec3 { y: 0.0, ..-hit.normal }.normalize_or_zero() * ASIDE;
    let down = Ray::new(hit.point + aside + DVec3::Y * ABOVE, DVec3::NEG_Y, 2.0 * ABOVE).ok();
    let beside = down.and_then(|ray| space.ray(&ray, &filter)).filter(|hit| !hit.inside);
    let flatness = beside.map_or(hit.normal.y, |beside| beside.normal.y.max(hit.normal.y));
    let flatness = flatness.min(1.0);
    let slope = DVec2::new(flatness, (1.0 - flatness * flatness).sqrt()).to_angle();
    let ground = Ground { grounded: false, under: Some(hit.entity), height, slope };
    Some((ground, Meeting { point: hit.point, normal: hit.normal, speed: 0.0 }))
}
