//! Probes: a ray, or a swept shape, asked again and again.

use glam::DVec3;
use smallvec::SmallVec;

use crate::Time;
use crate::describe::{Described, Detector, EntityId, Fault, Field, Layers, Probe, Scope};
use crate::geometry::{Convex, Form, Glide, MIN_LENGTH, Pose, Ray, Shape, closest_approach};
use crate::model::{PlacedPart, Thing};
use crate::resolve::{Owner, Resolve, Resolver, Use};
use crate::space::{Filter, Hit, Space};
use crate::state::Meeting;
use crate::why::{Check, Evidence, Gate, Witness, run};

use super::pair::{admitted, condition, enabled, present};
use super::region::way_between;
use super::target::{Target, looks_at_target, senses, whole};
use super::{Answer, Asked, Change, Detect, Learnt, Question};

/// The last ray of a probe, in the world.
///
/// ```
/// use hazuro::{Play, Scene, Time, geometry::Shape, scene::{Entity, Probe}};
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("feeler").probe(Probe { to: [0.0, 0.0, -4.0], ..Probe::default() }))
///     .entity(Entity::new("wall").at([0.0, 0.0, -3.0]).solid(Shape::Box { size: [1.0; 3] }))
///     .build()?;
/// let mut play = Play::new(scene);
/// play.advance(Time::from_secs(0.1));
/// let ray = play.probe_ray("feeler")?.unwrap();
/// assert_eq!(ray.hit.unwrap().distance, 2.5);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct ProbeRay {
    /// Where it started.
    pub from: DVec3,
    /// Where it would end.
    pub to: DVec3,
    /// What it met first, admitted or not.
    pub hit: Option<Hit>,
}

#[derive(Clone, Debug)]
pub(crate) struct ProbeSpec {
    pub form: Option<Form>,
    pub every: Option<Time>,
    pub layers: Layers,
    pub config: Probe,
}

impl Described for Probe {
    type Spec = ProbeSpec;
}

impl Resolve for Probe {
    fn resolve(&self, resolver: &mut Resolver, _: Owner<'_>, field: &Field) -> Option<ProbeSpec> {
        resolver.coordinates(&field.key("from"), self.from);
        resolver.coordinates(&field.key("to"), self.to);
        if self.from == self.to {
            resolver.error(field.key("to"), Fault::NoLength);
        }
        resolver.something(self.among, field);
        let shape = self.shape.as_ref();
        Some(ProbeSpec {
            form: shape.and_then(|shape| resolver.shape(field, shape, 1.0, Use::Body)),
            every: self.every.map(|seconds| resolver.interval(field.key("every"), seconds)),
            layers: resolver.layers_or_all(&self.layers, field, "layers"),
            config: self.clone(),
        })
    }
}

/// The gates of a probe, in order.
const fn gates<'a>() -> [Check<Look<'a>>; 6] {
    [
        enabled(),
        present(),
        admitted(),
        condition(),
        Check {
            gate: Gate::InRange,
            passes: |look| {
                let only = |entity| entity == look.target.who;
                look.is_first() || look.cast(&only).is_some()
            },
            evidence: |look| look.gap(),
        },
        Check {
            gate: Gate::InView,
            passes: |look| look.is_first(),
            evidence: |look| match look.first {
                Some(hit) if hit.entity != look.target.who => Evidence::HiddenBy(hit.entity),
                _ => Evidence::None,
            },
        },
    ]
}

struct Look<'a> {
    target: Target<'a>,
    spec: &'a ProbeSpec,
    way: (Pose, DVec3),
    first: Option<Hit>,
}

looks_at_target!(Look<'_>);

impl Look<'_> {
    fn is_first(&self) -> bool {
        self.first.is_some_and(|hit| hit.entity == self.target.who)
    }

    /// How near the subject is to what is swept, or to the ray, in metres.
    fn gap(&self) -> Evidence {
        let Target { space: Space { scene, state, .. }, who, .. } = self.target;
        let pose = state.pose(scene, who, state.now);
        let (from, to) = (self.way.0, Pose { position: self.way.1, ..self.way.0 });
        let Ok(thin) = Convex::new(&Shape::Sphere { radius: MIN_LENGTH }) else {
            return Evidence::None;
        };
        let thin = Form::from(thin);
        let mut nearest: Option<(f64, DVec3)> = None;
        let thing = scene.thing(who);
        let parts = thing.body.iter().flat_map(|body| &body.parts).flat_map(PlacedPart::pieces);
        let solid = thing.solid.iter().flat_map(|solid| solid.form.pieces());
        for (offset, shape) in parts.chain(solid) {
            let there = Glide { shape, offset, from: pose, to: pose };
            for (offset, shape) in self.spec.form.as_ref().unwrap_or(&thin).pieces() {
                let own = Glide { shape, offset, from, to };
                let (fraction, gap) = closest_approach(&own, &there);
                if nearest.is_none_or(|(least, _)| gap < least) {
                    nearest = Some((gap, way_between(&own, &there, fraction)));
                }
            }
        }
        nearest.map_or(Evidence::None, |(metres, way)| Evidence::Gap {
            metres,
            time: state.now,
            way,
        })
    }

    fn cast(&self, only: &dyn Fn(EntityId) -> bool) -> Option<Hit> {
        cast(self.target.space, self.target.on, self.spec, self.way, Some(only))
    }
}

impl Detect for Probe {
    fn asked(spec: &ProbeSpec, _: &Thing) -> Asked {
        let Probe { from, to, .. } = spec.config;
        let [from, to] = [from, to].map(|place| DVec3::from_array(place).length());
        let wide = spec.form.as_ref().map_or(0.0, Form::reach);
        Asked::Rounds { every: spec.every, reach: from.max(to) + wide }
    }

    fn scope(&self) -> Scope {
        Scope::of(self.among)
    }

    fn ask<W: Witness>(question: Question<'_>, witness: &mut W) -> Option<Answer> {
        let Question { space, on, cause, failures } = question;
        let spec = senses(space.scene, on)?.probe.as_ref()?;
        let pose = space.state.pose(space.scene, on, space.state.now);
        let [from, to] = [spec.config.from, spec.config.to].map(|place| pose.point(place.into()));
        let way = (Pose { position: from, ..pose }, to);
        let detector = Detector::Probe;
        let target = Target { space, on, detector, who: on, failures };
        let mut look = Look { target, spec, way, first: None };
        look.first = cast(space, on, spec, way, None);
        let ray = ProbeRay { from, to, hit: look.first };
        if W::LISTENS {
            for who in space.scene.ids() {
                look.target.who = who;
                let found = space.scene.has_body(who) || space.scene.is_solid(who);
                let chain = look.target.chain();
                if found && !look.is_first() && witness.wants(&chain) {
                    run(&gates(), &mut look, chain, space.state.now, witness);
                }
            }
        }
        let hit = look.first.filter(|hit| {
            look.target.who = hit.entity;
            let chain = look.target.chain();
            run(&gates(), &mut look, chain, space.state.now, witness)
        });
        let mut changes = SmallVec::new();
        let known = space.state.known(on, detector);
        for who in known.iter().filter(|who| hit.is_none_or(|hit| hit.entity != **who)) {
            changes.push(Change::of(on, detector, *who, false, cause));
        }
        if let Some(hit) = hit.filter(|hit| !known.contains(&hit.entity)) {
            let meeting = Meeting { point: hit.point, normal: hit.normal, speed: 0.0 };
            changes.push(Change {
                part: hit.part,
                meeting: Some(meeting),
                ..Change::of(on, detector, hit.entity, true, cause)
            });
        }
        Some(Answer { changes, learnt: Learnt::Ray(ray), unsettled: false })
    }
}

/// The first thing in a probe's way.
fn cast(
    space: Space<'_>,
    on: EntityId,
    spec: &ProbeSpec,
    (from, to): (Pose, DVec3),
    only: Option<&dyn Fn(EntityId) -> bool>,
) -> Option<Hit> {
    let filter = Filter::among(spec.config.among).layers(spec.layers);
    let filter = if spec.config.own { filter } else { filter.without(whole(space, on)) };
    let filter = only.map_or(filter, |only| filter.only(only));
    match &spec.form {
        None => space.ray(&Ray::between(from.position, to).ok()?, &filter),
        Some(form) => space.first_in_way(form, from, to, &filter),
    }
}
