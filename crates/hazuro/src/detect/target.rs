//! What detectors that are asked again and again have in common: a detector, and one that it may
//! detect.

use std::cell::RefCell;

use glam::DVec3;

use crate::describe::{Detector, EntityId, Layers};
use crate::geometry::Ray;
use crate::model::{Scene, Senses};
use crate::space::{Filter, Space};
use crate::state::State;
use crate::why::Chain;

use super::pair::Pair;

/// A detector, asked about one entity.
#[derive(Clone, Copy)]
pub(super) struct Target<'a> {
    pub space: Space<'a>,
    pub on: EntityId,
    pub detector: Detector,
    pub who: EntityId,
    pub failures: &'a Failures,
}

/// What could not be told of a detector and a subject.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Failure {
    pub on: EntityId,
    pub detector: Detector,
    pub who: EntityId,
    pub what: Failed,
}

/// What could not be told.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Failed {
    Condition(String),
    Score(String),
}

/// All that could not be told while something was asked.
pub(crate) type Failures = RefCell<Vec<Failure>>;

impl<'a> Target<'a> {
    pub fn pair(&self) -> Pair<'a> {
        let Self { space: Space { scene, state, .. }, on, detector, who, .. } = *self;
        Pair { scene, state, on, detector, who }
    }

    pub fn chain(&self) -> Chain {
        self.pair().chain()
    }

    /// Keeps in mind what could not be told.
    pub fn fail(&self, what: Failed) {
        let Self { on, detector, who, .. } = *self;
        self.failures.borrow_mut().push(Failure { on, detector, who, what });
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
}

/// The detectors of an entity that has one.
pub(super) fn senses(scene: &Scene, on: EntityId) -> Option<&Senses> {
    scene.thing(on).senses.as_deref()
}

/// What an entity belongs to, as far as it is one thing: its body, or itself.
pub(super) fn whole(space: Space<'_>, entity: EntityId) -> EntityId {
    space.state.bearer(space.scene, entity).unwrap_or(entity)
}

/// Whether an entity belongs to another, or is it.
pub(super) fn belongs(space: Space<'_>, entity: EntityId, to: EntityId) -> bool {
    space.state.lineage(space.scene, entity).any(|ancestor| ancestor == to)
}

/// Makes the look of a detector one at a pair, by its `target`.
macro_rules! looks_at_target {
    ($look:ty) => {
        impl $crate::detect::pair::Looks for $look {
            fn pair(&self) -> $crate::detect::pair::Pair<'_> {
                self.target.pair()
            }

            fn failed(&mut self, why: String) {
                self.target.fail($crate::detect::target::Failed::Condition(why));
            }
        }
    };
}

pub(super) use looks_at_target;
