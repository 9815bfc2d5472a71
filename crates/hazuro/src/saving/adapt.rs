//! A state that was read, made to fit its scene.

use std::collections::BTreeSet;

use crate::describe::EntityId;
use crate::model::Scene;
use crate::state::{Cast, OfScene, State, Usage};

use super::LoadError;
use super::names::Numbers;

/// Gives each thing its place in the scene; what was not saved begins as at the start.
pub(super) fn adapt(
    mut state: State,
    numbers: &Numbers,
    scene: &Scene,
) -> Result<State, LoadError> {
    let damaged = |text: &str| Err(LoadError::Damaged(text.into()));
    if state.cast.len() != numbers.entities.len() || !state.causes.is_of(numbers.entities.len()) {
        return damaged("it has another number of entities than names");
    }
    if state.runs.usage.len() != numbers.reactions.len() {
        return damaged("it has another number of reactions than names");
    }
    let kinds = state.presence.conversions.values();
    let names: BTreeSet<&String> = kinds.filter(|kind| scene.kind_id(kind).is_err()).collect();
    if !names.is_empty() {
        let names = names.into_iter().cloned().collect();
        return Err(LoadError::Missing { what: "kind", names });
    }
    state.scene = OfScene(scene.mark());
    let mut cast: Cast = scene.ids().map(|entity| State::at_start(scene, entity)).collect();
    for (entity, saved) in numbers.entities.iter().zip(state.cast) {
        let place = cast.get_mut(*entity);
        if place.stance.is_some() != saved.stance.is_some() {
            return Err(changed(scene, *entity));
        }
        *place = saved;
    }
    state.cast = cast;
    state.causes.renumber(scene.len(), &numbers.entities);
    let mut usage = vec![Usage::default(); scene.reactions().len()];
    for (reaction, saved) in numbers.reactions.iter().zip(state.runs.usage) {
        usage[reaction.index()] = saved;
    }
    state.runs.usage = usage;
    state.presence.stocks = state.counted_stocks(scene);
    state.values.tags.values_mut().for_each(|tags| tags.sort_unstable());
    state.senses.occupancies.retain(|(on, detector), _| scene.has(*on, *detector));
    state.values.stat_tracks.retain(|(entity, stat), _| scene.stat(*entity, *stat).is_some());
    check_plans(&state, scene)?;
    Ok(state)
}

/// Whether all that is under way leads through what the scene has.
pub(super) fn check_plans(state: &State, scene: &Scene) -> Result<(), LoadError> {
    for run in state.runs.under_way.values() {
        let wire = scene.wire(run.reaction);
        let fits = run.threads.iter().all(|thread| {
            let sequence = match (run.otherwise, thread.sequence as usize) {
                (true, _) => Some(&wire.otherwise),
                (false, number) => wire.sequences.get(number),
            };
            sequence.is_some_and(|sequence| thread.place as usize <= sequence.len())
        });
        if !fits {
            let by = crate::By::Reaction(run.reaction).describe(scene);
            return Err(LoadError::Changed(by));
        }
    }
    for (entity, trip) in &state.motion.trips {
        let stops = trip.stops.len();
        if trip.at >= stops || trip.target >= stops {
            return Err(changed(scene, *entity));
        }
    }
    Ok(())
}

fn changed(scene: &Scene, entity: EntityId) -> LoadError {
    LoadError::Changed(format!("`{}`", scene.name(entity)))
}
