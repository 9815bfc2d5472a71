//! Seekers: the nearest, or the best, of those in range.

use glam::DVec3;
use smallvec::SmallVec;

use crate::Time;
use crate::describe::{Described, Detector, EntityId, Field, Layers, Scope, Seeker, range};
use crate::geometry::Aabb;
use crate::model::Thing;
use crate::resolve::{Owner, Resolve, Resolver};
use crate::space::Space;
use crate::state::Moment;
use crate::why::{Check, Evidence, Gate, Unwitnessed, Witness, run};

use super::pair::{admitted, apart, condition, enabled, present};
use super::sight::distance_to;
use super::target::{Failed, Target, looks_at_target, senses};
use super::{Answer, Asked, Change, Detect, Learnt, Question};

#[derive(Clone, Debug)]
pub(crate) struct SeekerSpec {
    pub every: Time,
    pub hides: Layers,
    pub config: Seeker,
}

impl Described for Seeker {
    type Spec = SeekerSpec;
}

impl Resolve for Seeker {
    fn resolve(&self, resolver: &mut Resolver, _: Owner<'_>, field: &Field) -> Option<SeekerSpec> {
        resolver.range(field.key("range"), self.range, &range::LENGTH);
        resolver.range(field.key("margin"), self.margin, &range::MARGIN);
        resolver.something(self.among, field);
        Some(SeekerSpec {
            every: resolver.interval(field.key("every"), self.every),
            hides: resolver.layers_or_all(&self.hides, field, "hides"),
            config: self.clone(),
        })
    }
}

/// The gates of a seeker, in order.
const fn gates<'a>() -> [Check<Look<'a>>; 8] {
    [
        enabled(),
        present(),
        apart(),
        admitted(),
        condition(),
        Check {
            gate: Gate::InRange,
            passes: |look| look.distance <= look.spec.config.range,
            evidence: |look| Evidence::Range { got: look.distance, most: look.spec.config.range },
        },
        Check {
            gate: Gate::InView,
            passes: |look| !look.spec.config.sight || look.hidden_by().is_none(),
            evidence: |look| look.hidden_by().map_or(Evidence::None, Evidence::HiddenBy),
        },
        Check {
            gate: Gate::Best,
            passes: |look| look.rival.is_none(),
            evidence: |look| look.rival.map_or(Evidence::None, Evidence::Instead),
        },
    ]
}

struct Look<'a> {
    target: Target<'a>,
    spec: &'a SeekerSpec,
    place: DVec3,
    distance: f64,
    is_current: bool,
    /// The one that is chosen instead.
    rival: Option<EntityId>,
}

looks_at_target!(Look<'_>);

impl Look<'_> {
    fn hidden_by(&self) -> Option<EntityId> {
        let Target { space: Space { scene, state, .. }, who, .. } = self.target;
        let there = state.pose(scene, who, state.now).position;
        self.target.hidden_by(self.place, there, self.spec.hides)
    }

    /// How good it is, with what it gains by being the target already.
    fn merit(&self) -> f64 {
        let Target { space, on, who, .. } = self.target;
        let merit = match &self.spec.config.score {
            None => -self.distance,
            Some(score) => {
                let Space { scene, state, .. } = space;
                let moment = Moment { scene, state, who: Some(who), on: Some(on), event: None };
                score.value(&moment).unwrap_or_else(|failure| {
                    self.target.fail(Failed::Score(failure));
                    f64::NEG_INFINITY
                })
            }
        };
        let merit = if merit.is_nan() { f64::NEG_INFINITY } else { merit };
        merit + if self.is_current { self.spec.config.margin } else { 0.0 }
    }
}

impl Detect for Seeker {
    fn asked(spec: &SeekerSpec, _: &Thing) -> Asked {
        Asked::Rounds { every: Some(spec.every), reach: spec.config.range }
    }

    fn scope(&self) -> Scope {
        Scope::of(self.among)
    }

    fn ask<W: Witness>(question: Question<'_>, witness: &mut W) -> Option<Answer> {
        let Question { space, on, cause, failures } = question;
        let Space { scene, state, indices } = space;
        let spec = senses(scene, on)?.seeker.as_ref()?;
        let place = state.pose(scene, on, state.now).position;
        let detector = Detector::Seeker;
        let current = state.known(on, detector).first().copied();
        let mut candidates: SmallVec<[EntityId; 8]> = current.into_iter().collect();
        let around = Aabb::around(place, DVec3::splat(spec.config.range));
        let layers = scene.admission(on).map_or(u64::MAX, |rule| rule.layers.0);
        let among = spec.config.among;
        let zones = (among.zones, &indices.zones);
        for (wanted, index) in
            [(among.bodies, &indices.bodies), (among.solids, &indices.solids), zones]
        {
            if wanted {
                let layers = if among.zones { u64::MAX } else { layers };
                index.meeting(&around, layers, |face| candidates.push(face.entity));
            }
        }
        if W::LISTENS {
            let wants = |who: &EntityId| {
                scene.is_among(*who, among)
                    && witness.wants(&Target { space, on, detector, who: *who, failures }.chain())
            };
            candidates.extend(scene.ids().filter(wants));
        }
        candidates.sort_unstable();
        candidates.dedup();
        let look = |who| Look {
            target: Target { space, on, detector, who, failures },
            spec,
            place,
            distance: distance_to(space, who, place),
            is_current: current == Some(who),
            rival: None,
        };
        let all = gates();
        let mut best: Option<(EntityId, f64)> = None;
        for who in &candidates {
            let mut look = look(*who);
            let chain = look.target.chain();
            if run(&all, &mut look, chain, state.now, &mut Unwitnessed) {
                let merit = look.merit();
                if best.is_none_or(|(_, most)| merit > most) {
                    best = Some((*who, merit));
                }
            }
        }
        let target = best.map(|(who, _)| who);
        if W::LISTENS {
            for who in candidates {
                let mut look = look(who);
                look.rival = target.filter(|target| *target != who);
                let chain = look.target.chain();
                run(&all, &mut look, chain, state.now, witness);
            }
        }
        let mut changes = SmallVec::new();
        if target != current {
            changes.extend(current.map(|was| Change::of(on, detector, was, false, cause)));
            changes.extend(target.map(|who| Change::of(on, detector, who, true, cause)));
        }
        Some(Answer { changes, learnt: Learnt::Nothing, unsettled: false })
    }
}
