//! What comes of a detection: whether it is hard enough, still admitted, and not too often.

use crate::Time;
use crate::describe::{Detector, EntityId};
use crate::model::Scene;
use crate::state::State;
use crate::why::{Check, Evidence, Gate, Witness, go_on};

use super::Change;
use super::pair::{Looks, Pair, condition};

/// The gates between a detection and its event, in order; the same for every sort of detector.
const fn gates<'a>() -> [Check<Rule<'a>>; 4] {
    [
        Check {
            gate: Gate::Hard,
            passes: |rule| rule.speed() >= rule.needed_speed(),
            evidence: |rule| Evidence::Speed { got: rule.speed(), need: rule.needed_speed() },
        },
        Check {
            gate: Gate::Once,
            passes: |rule| !rule.is_limited() || is_left(rule.scene, rule.state, rule.key()),
            evidence: |_| Evidence::None,
        },
        Check {
            gate: Gate::Cooldown,
            passes: |rule| {
                !rule.is_limited() || rule.ready_at().is_none_or(|at| rule.state.now >= at)
            },
            evidence: |rule| rule.ready_at().map_or(Evidence::None, Evidence::ReadyAt),
        },
        condition(),
    ]
}

/// What is to be done about a detection.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Ruling {
    /// Tell of it.
    Event,
    /// Keep it in mind, but never tell of it.
    Silent,
    /// It is none.
    Dropped,
}

struct Rule<'a> {
    scene: &'a Scene,
    state: &'a State,
    change: &'a Change,
    failure: Option<String>,
}

/// What is to be done about a subject that begins to be detected, and why a condition could not be
/// tested, if so.
pub(crate) fn rule_on<W: Witness>(
    scene: &Scene,
    state: &State,
    change: &Change,
    witness: &mut W,
) -> (Ruling, Option<String>) {
    let mut rule = Rule { scene, state, change, failure: None };
    let chain = rule.pair().chain();
    if go_on(&gates(), &mut rule, chain, state.now, witness) {
        return (Ruling::Event, rule.failure);
    }
    // Whom limits keep from being told is there all the same; whom a condition refuses is not.
    match rule.pair().condition_holds() {
        Ok(true) => (Ruling::Silent, None),
        Ok(false) => (Ruling::Dropped, None),
        Err(why) => (Ruling::Dropped, Some(why)),
    }
}

impl Looks for Rule<'_> {
    fn pair(&self) -> Pair<'_> {
        let Self { scene, state, change: &Change { on, detector, who, .. }, .. } = *self;
        Pair { scene, state, on, detector, who }
    }

    fn failed(&mut self, why: String) {
        self.failure = Some(why);
    }
}

impl Rule<'_> {
    fn speed(&self) -> f64 {
        self.change.meeting.map_or(0.0, |meeting| meeting.speed)
    }

    fn needed_speed(&self) -> f64 {
        let senses = self.scene.thing(self.change.on).senses.as_ref();
        let touch = senses.filter(|_| self.change.detector == Detector::Touch);
        touch.and_then(|senses| senses.touch.as_ref()).map_or(0.0, |touch| touch.config.at_least)
    }

    fn key(&self) -> (EntityId, Detector) {
        (self.change.on, self.change.detector)
    }

    /// Prompts and pointers are limited where they are used, not where they are detected.
    fn is_limited(&self) -> bool {
        !matches!(self.change.detector, Detector::Prompt | Detector::Pointer)
    }

    fn ready_at(&self) -> Option<Time> {
        let Change { on, detector, who, .. } = *self.change;
        ready_at(self.scene, self.state, (on, detector, who))
    }
}

/// Whether a detector may act at all any more.
pub(crate) fn is_left(scene: &Scene, state: &State, (on, detector): (EntityId, Detector)) -> bool {
    let limit = state.limits(scene, on).limit;
    let usage = state.senses.detector_usage.get(&(on, detector, None));
    limit.is_none_or(|limit| usage.is_none_or(|usage| usage.times < limit))
}

/// From when on a detector may act for a subject again, if it has acted before.
pub(crate) fn ready_at(
    scene: &Scene,
    state: &State,
    (on, detector, who): (EntityId, Detector, EntityId),
) -> Option<Time> {
    let whose = if state.limits(scene, on).shared { None } else { Some(who) };
    state.senses.detector_usage.get(&(on, detector, whose)).map(|usage| usage.ready_at)
}
