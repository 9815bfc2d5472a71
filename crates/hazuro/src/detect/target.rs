//! What detectors that are asked again and again have in common: a detector, and one that it may
//! detect.

use glam::DVec3;

use crate::geometry::Ray;
use crate::scene::{Admission, Detector, EntityId, Layers, Scene, Senses, Switch};
use crate::space::{Filter, Space};
use crate::state::{Moment, State};
use crate::why::{Chain, Check, Evidence, Gate, asked};

use super::is_admitted;

/// A detector, asked about one entity.
#[derive(Clone, Copy)]
pub(super) struct Target<'a> {
    pub space: Space<'a>,
    pub on: EntityId,
    pub detector: Detector,
    pub who: EntityId,
}

/// Something that looks at a target.
pub(super) trait Looks {
    fn target(&self) -> &Target<'_>;
}

impl<'a> Target<'a> {
    pub fn chain(&self) -> Chain {
        Chain::Detector { on: self.on, detector: self.detector, who: self.who }
    }

    pub fn scene(&self) -> &'a Scene {
        self.space.scene
    }

    pub fn state(&self) -> &'a State {
        self.space.state
    }

    /// Whether a solid may hide the target: not if it belongs to either of the two.
    pub fn may_hide(&self) -> impl Fn(EntityId) -> bool + use<'a> {
        let Self { space, on, who, .. } = *self;
        let own = whole(space, on);
        move |solid| !belongs(space, solid, own) && !belongs(space, solid, who)
    }

    /// The first solid between two places that hides the target.
    pub fn hidden_by(&self, from: DVec3, to: DVec3, layers: Layers) -> Option<EntityId> {
        let hides = self.may_hide();
        let filter = Filter::solids().layers(layers).only(&hides);
        self.space.ray(&Ray::between(from, to).ok()?, &filter).map(|hit| hit.entity)
    }

    fn admission(&self) -> Option<&'a Admission> {
        self.scene().admission(self.on)
    }
}

/// The detectors of an entity that has one.
pub(super) fn senses(scene: &Scene, on: EntityId) -> Option<&Senses> {
    scene.thing(on).senses.as_deref()
}

/// What an entity belongs to, as far as it is one thing: its body, or itself.
pub(super) fn whole(space: Space<'_>, entity: EntityId) -> EntityId {
    space.state.owner(space.scene, entity).unwrap_or(entity)
}

/// Whether an entity belongs to another, or is it.
pub(super) fn belongs(space: Space<'_>, entity: EntityId, to: EntityId) -> bool {
    space.state.lineage(space.scene, entity).any(|ancestor| ancestor == to)
}

pub(super) const fn enabled<L: Looks>() -> Check<L> {
    Check {
        gate: Gate::Enabled,
        passes: |look| {
            let target = look.target();
            target.state().off_by(target.scene(), target.on, Switch::Detect).is_none()
        },
        evidence: |look| {
            let target = look.target();
            let off = target.state().off_by(target.scene(), target.on, Switch::Detect);
            off.map_or(Evidence::None, Evidence::OffBy)
        },
    }
}

pub(super) const fn present<L: Looks>() -> Check<L> {
    Check {
        gate: Gate::Present,
        passes: |look| {
            let target = look.target();
            target.state().switched_off_by(target.scene(), target.who).is_none()
        },
        evidence: |look| {
            let target = look.target();
            let off = target.state().switched_off_by(target.scene(), target.who);
            off.map_or(Evidence::None, Evidence::OffBy)
        },
    }
}

pub(super) const fn apart<L: Looks>() -> Check<L> {
    Check {
        gate: Gate::Apart,
        passes: |look| {
            let Target { on, who, space, .. } = *look.target();
            let Space { scene, state, .. } = space;
            let owner = state.owner(scene, on);
            let same_body = owner.is_some() && owner == state.owner(scene, who);
            !same_body && !belongs(space, on, who) && !belongs(space, who, on)
        },
        evidence: |_| Evidence::None,
    }
}

pub(super) const fn admitted<L: Looks>() -> Check<L> {
    Check {
        gate: Gate::Admitted,
        passes: |look| {
            let target = look.target();
            let (scene, who) = (target.scene(), target.who);
            target.admission().is_none_or(|rule| {
                rule.refusal(scene, (who, target.state().tags(scene, who))).is_none()
            }) && is_admitted(scene, target.state(), target.on, who)
        },
        evidence: |look| {
            let target = look.target();
            let Some(rule) = target.admission() else { return Evidence::None };
            let tags = target.state().tags(target.scene(), target.who);
            match (rule.refusal(target.scene(), (target.who, tags)), &rule.condition) {
                (Some(clause), _) => Evidence::Refused(clause),
                (None, Some(condition)) => {
                    let (scene, state) = (target.scene(), target.state());
                    let (who, on) = (Some(target.who), Some(target.on));
                    asked::condition(condition, &Moment { scene, state, who, on })
                }
                (None, None) => Evidence::None,
            }
        },
    }
}
