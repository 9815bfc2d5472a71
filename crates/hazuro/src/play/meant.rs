//! Whom an action means when it is its turn, and what its numbers are then.

use crate::describe::{
    Action, EntityId, EventKind, Fault, Formula, Measure, Quantity, ResolvedAction, Translate,
};
use crate::model::{Role, Scene, TargetRef, door};
use crate::shown;
use crate::state::{Event, Moment, State};

/// Why an action cannot be done: nobody is meant by a word, or what it is to do will not do.
pub(super) enum Unclear {
    Nobody(&'static str),
    Fault(Fault),
}

/// An action whose turn has come: at which event, and to which one of several it is done.
pub(super) struct Due<'a> {
    pub scene: &'a Scene,
    pub state: &'a State,
    pub event: &'a Event,
    pub one: Option<EntityId>,
}

impl Due<'_> {
    /// The one entity meant.
    pub fn meant(&self, target: TargetRef) -> Result<EntityId, Unclear> {
        let role = |role: Role| match role {
            Role::Who => self.event.who.ok_or(Unclear::Nobody("who")),
            Role::On => self.event.on.ok_or(Unclear::Nobody("on")),
            Role::Entity(entity) => Ok(entity),
        };
        match target {
            TargetRef::Entity(entity) => Ok(entity),
            // Several are told one by one before they come here.
            TargetRef::Who | TargetRef::Kind(_) | TargetRef::Tag(_) => role(Role::Who),
            TargetRef::On => role(Role::On),
            TargetRef::Slot(of, slot) => {
                self.state.entity_in_slot(self.scene, role(of)?, slot).map_err(Unclear::Fault)
            }
        }
    }

    fn moment(&self) -> Moment<'_> {
        let Event { who, on, .. } = *self.event;
        Moment { scene: self.scene, state: self.state, who, on, event: Some(self.event) }
    }

    /// What a formula gives now, if it will do.
    pub fn formula(
        &self,
        formula: &Formula,
        check: impl Fn(f64) -> Result<(), Fault>,
    ) -> Result<f64, Fault> {
        let fault = |why| Fault::Formula { text: formula.text().into(), why };
        let value = formula.value(&self.moment()).map_err(fault)?;
        check(value).map_err(|bad| {
            fault(match bad {
                Fault::Number { value, need } => {
                    format!("it gives {}, which is not {need}", shown::number(value))
                }
                other => other.to_string(),
            })
        })?;
        Ok(value)
    }
}

impl Translate<TargetRef, Quantity, Quantity<i64>> for Due<'_> {
    type Entity = EntityId;
    type Number = f64;
    type Count = i64;
    type Error = Unclear;

    fn entity(
        &mut self,
        target: &TargetRef,
        _: &'static str,
        acted_on: bool,
    ) -> Result<EntityId, Unclear> {
        self.one.filter(|_| acted_on).map_or_else(|| self.meant(*target), Ok)
    }

    fn number(&mut self, number: &Quantity, measure: Measure) -> Result<f64, Unclear> {
        match number {
            Quantity::Fixed(number) => Ok(*number),
            Quantity::Formula(formula) => {
                self.formula(formula, |value| measure.check(value)).map_err(Unclear::Fault)
            }
        }
    }

    fn count(&mut self, count: &Quantity<i64>, _: &'static str) -> Result<i64, Unclear> {
        match count {
            Quantity::Fixed(count) => Ok(*count),
            Quantity::Formula(formula) => formula
                .whole(&self.moment())
                .map_err(|why| Unclear::Fault(Fault::Formula { text: formula.text().into(), why })),
        }
    }
}

/// All that a kind or a tag means now, in the scene's order; none if one entity is meant.
pub(super) fn all_of(scene: &Scene, state: &State, meant: TargetRef) -> Option<Vec<EntityId>> {
    let there = |entity: &EntityId| !state.live(*entity).removed;
    let all = scene.ids().filter(there);
    Some(match meant {
        TargetRef::Kind(kind) => {
            all.filter(|entity| scene.thing(*entity).kinds.contains(&kind)).collect()
        }
        TargetRef::Tag(tag) => {
            all.filter(|entity| state.tags(scene, *entity).contains(&tag)).collect()
        }
        TargetRef::Who | TargetRef::On | TargetRef::Entity(_) | TargetRef::Slot(..) => return None,
    })
}

/// The action let in through the [door]: several actions, if it is done to several entities.
///
/// # Errors
/// If it names what the scene or the event does not have, has a number out of range, or waits.
pub(super) fn find(
    scene: &Scene,
    state: &State,
    action: &Action,
    event: Option<&Event>,
) -> Result<Vec<ResolvedAction>, Fault> {
    if matches!(action, Action::Wait(_)) {
        return Err(Fault::Waits);
    }
    let nobody = |word: &'static str| {
        let role = if word == "on" { "detector" } else { "subject" };
        let event = event.map_or("the host", |event| event.kind.word());
        Fault::NobodyMeant { word: word.into(), event, role }
    };
    let role = |word: &'static str| {
        let found = event.and_then(|event| if word == "on" { event.on } else { event.who });
        found.map(TargetRef::Entity).ok_or_else(|| nobody(word))
    };
    let (found, faults) = door::enter(action, scene, role);
    if let Some((_, fault)) = faults.into_iter().next() {
        return Err(fault);
    }
    let each = found.target().and_then(|(meant, _)| all_of(scene, state, *meant));
    let each = each.map_or(vec![None], |each| each.into_iter().map(Some).collect());
    let bare = Event::bare(EventKind::Cue, state.now, 0);
    let event = event.unwrap_or(&bare);
    let of_one = |one| {
        found.translate(&mut Due { scene, state, event, one }).map_err(|unclear| match unclear {
            Unclear::Nobody(word) => nobody(word),
            Unclear::Fault(fault) => fault,
        })
    };
    each.into_iter().map(of_one).collect()
}
