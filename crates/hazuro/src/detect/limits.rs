//! What comes of a detection: whether it is hard enough, still admitted, and not too often.

use crate::scene::{Detector, EntityId, Scene};
use crate::state::{Cause, Moment, State, Wear};
use crate::why::{Chain, Check, Evidence, Gate, Witness, run};

use super::Change;

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
            passes: |rule| {
                let limit = rule.scene.limits(rule.change.on).limit;
                limit.is_none_or(|limit| rule.wear(false).is_none_or(|wear| wear.times < limit))
            },
            evidence: |_| Evidence::None,
        },
        Check {
            gate: Gate::Cooldown,
            passes: |rule| rule.cooling().is_none_or(|wear| rule.state.now >= wear.ready_at),
            evidence: |rule| {
                rule.cooling().map_or(Evidence::None, |wear| Evidence::ReadyAt(wear.ready_at))
            },
        },
        Check {
            gate: Gate::Condition,
            passes: |rule| rule.condition_holds(),
            evidence: |rule| {
                let condition = rule.condition();
                condition
                    .map_or(Evidence::None, |condition| Evidence::Text(condition.text().into()))
            },
        },
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
    let Change { on, detector, who, .. } = *change;
    let chain = Chain::Detector { on, detector, who };
    let holds = rule.condition_holds();
    if run(&gates(), &mut rule, chain, state.now, witness) {
        return (Ruling::Event, rule.failure);
    }
    (if holds { Ruling::Silent } else { Ruling::Dropped }, rule.failure)
}

/// Whether the condition holds on which a detector admits a subject.
pub(crate) fn is_admitted(scene: &Scene, state: &State, on: EntityId, who: EntityId) -> bool {
    let change = &Change::of(on, Detector::Zone, who, true, Cause::Admit);
    Rule { scene, state, change, failure: None }.condition_holds()
}

impl Rule<'_> {
    fn condition(&self) -> Option<&crate::scene::Condition> {
        self.scene.admission(self.change.on)?.condition.as_ref()
    }

    fn condition_holds(&mut self) -> bool {
        let Some(condition) = self.condition() else { return true };
        let (who, on) = (Some(self.change.who), Some(self.change.on));
        let moment = Moment { scene: self.scene, state: self.state, who, on };
        condition.holds(&moment).unwrap_or_else(|failure| {
            self.failure = Some(failure);
            false
        })
    }

    fn speed(&self) -> f64 {
        self.change.meeting.map_or(0.0, |meeting| meeting.speed)
    }

    fn needed_speed(&self) -> f64 {
        let senses = self.scene.thing(self.change.on).senses.as_ref();
        let touch = senses.filter(|_| self.change.detector == Detector::Touch);
        touch.and_then(|senses| senses.touch.as_ref()).map_or(0.0, |touch| touch.told.at_least)
    }

    /// What the detector remembers of this subject, or of all.
    fn wear(&self, of_subject: bool) -> Option<&Wear> {
        let who = of_subject.then_some(self.change.who);
        self.state.sense_wear.get(&(self.change.on, self.change.detector, who))
    }

    fn cooling(&self) -> Option<&Wear> {
        self.wear(!self.scene.limits(self.change.on).shared)
    }
}
