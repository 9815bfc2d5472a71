//! A detector and one that it may detect, and the gates that are about nothing else: whether the
//! one is on and the other there, whether they are apart, whether the one admits the other. Every
//! detector that has such a gate has it from here.

use crate::describe::{Clause, Detector, EntityId, Switch};
use crate::model::{Admission, Scene, are_apart};
use crate::state::{Moment, Owned, State};
use crate::why::{Chain, Check, Evidence, Gate, asked};

/// A detector and one that it may detect, now.
#[derive(Clone, Copy)]
pub(crate) struct Pair<'a> {
    pub scene: &'a Scene,
    pub state: &'a State,
    pub on: EntityId,
    pub detector: Detector,
    pub who: EntityId,
}

/// Something that looks at a pair.
pub(super) trait Looks {
    fn pair(&self) -> Pair<'_>;
    /// Keeps in mind that a condition could not be tested.
    fn failed(&mut self, why: String);
}

impl<'a> Pair<'a> {
    /// The chain of its gates.
    pub fn chain(&self) -> Chain {
        Chain::Detector { on: self.on, detector: self.detector, who: self.who }
    }

    /// What keeps the detector from being on: itself or an ancestor.
    pub fn off_by(&self) -> Option<EntityId> {
        self.state.off_by(self.scene, self.on, Switch::Detect)
    }

    /// What keeps the subject from being there: itself or an ancestor.
    pub fn absent_by(&self) -> Option<EntityId> {
        self.state.switched_off_by(self.scene, self.who)
    }

    /// Whether the two are no part of one another, and neither is in the other's hands.
    pub fn is_apart(&self) -> bool {
        are_apart(&(self.scene, self.state), self.on, self.who)
    }

    /// What keeps the subject from using it: that it belongs to somebody else.
    pub fn kept_from(&self) -> Option<Owned> {
        self.state.kept_from(self.scene, self.on, self.who)
    }

    fn admission(&self) -> Option<&'a Admission> {
        self.scene.admission(self.on)
    }

    /// The clause by which the detector refuses the subject.
    pub fn refusal(&self) -> Option<Clause> {
        let tags = self.state.tags(self.scene, self.who);
        self.admission()?.refusal(self.scene, (self.who, tags))
    }

    /// Whether the condition holds on which the detector admits the subject.
    ///
    /// # Errors
    /// If it cannot be tested; it counts as not holding.
    pub fn condition_holds(&self) -> Result<bool, String> {
        match self.admission().and_then(|rule| rule.condition.as_ref()) {
            Some(condition) => condition.holds(&self.moment()),
            None => Ok(true),
        }
    }

    /// What the condition saw.
    fn condition_evidence(&self) -> Evidence {
        let condition = self.admission().and_then(|rule| rule.condition.as_ref());
        condition.map_or(Evidence::None, |it| asked::condition(it, &self.moment()))
    }

    fn moment(&self) -> Moment<'a> {
        let Self { scene, state, on, who, .. } = *self;
        Moment { scene, state, who: Some(who), on: Some(on), event: None }
    }
}

/// The detector and all its ancestors are on.
pub(super) const fn enabled<L: Looks>() -> Check<L> {
    Check {
        gate: Gate::Enabled,
        passes: |look| look.pair().off_by().is_none(),
        evidence: |look| look.pair().off_by().map_or(Evidence::None, Evidence::OffBy),
    }
}

/// The subject and all its ancestors are on.
pub(super) const fn present<L: Looks>() -> Check<L> {
    Check {
        gate: Gate::Present,
        passes: |look| look.pair().absent_by().is_none(),
        evidence: |look| look.pair().absent_by().map_or(Evidence::None, Evidence::OffBy),
    }
}

/// A detector does not detect what it is a part of or what is a part of it, nor what holds it or
/// what it holds.
pub(super) const fn apart<L: Looks>() -> Check<L> {
    Check { gate: Gate::Apart, passes: |look| look.pair().is_apart(), evidence: |_| Evidence::None }
}

/// The detector's rule admits the subject, whatever its condition says.
pub(super) const fn admitted<L: Looks>() -> Check<L> {
    Check {
        gate: Gate::Admitted,
        passes: |look| look.pair().refusal().is_none(),
        evidence: |look| look.pair().refusal().map_or(Evidence::None, Evidence::Refused),
    }
}

/// What is to be used belongs to nobody but the subject.
pub(super) const fn own<L: Looks>() -> Check<L> {
    Check {
        gate: Gate::Own,
        passes: |look| look.pair().kept_from().is_none(),
        evidence: |look| {
            let kept = look.pair().kept_from();
            kept.map_or(Evidence::None, |it| Evidence::BelongsTo { owner: it.by, since: it.since })
        },
    }
}

/// The condition holds on which the detector admits the subject.
pub(super) const fn condition<L: Looks>() -> Check<L> {
    Check {
        gate: Gate::Condition,
        passes: |look| match look.pair().condition_holds() {
            Ok(holds) => holds,
            Err(why) => {
                look.failed(why);
                false
            }
        },
        evidence: |look| look.pair().condition_evidence(),
    }
}
