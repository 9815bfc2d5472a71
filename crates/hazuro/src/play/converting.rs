//! Letting the scene that is played have its entities as they have been converted.

use std::collections::BTreeSet;
use std::sync::Arc;

use crate::describe::{EntityId, Fault};
use crate::model::{Converted, Scene};
use crate::state::State;

use super::Play;

impl Play {
    /// Lets the scene have an entity as it is once converted, or by itself again. It is yet to be looked at.
    pub(super) fn convert(&mut self, what: EntityId, to: Option<Converted>) {
        let before = self.scene.reaches();
        Arc::make_mut(&mut self.scene).convert(what, to);
        let reaches_anew = before != self.scene.reaches();
        self.runtime.watch.convert(&self.scene, &self.state, what, reaches_anew);
    }
}

/// Lets a scene have its entities as they are in a state, or changes nothing.
///
/// # Errors
/// Why one of them cannot be so.
pub(super) fn fit(scene: &mut Arc<Scene>, state: &State) -> Result<(), Fault> {
    let conversions = &state.presence.conversions;
    let all: BTreeSet<EntityId> =
        scene.conversions.keys().chain(conversions.keys()).copied().collect();
    let mut changes = Vec::new();
    for what in all {
        let to = conversions.get(&what).map(String::as_str);
        if to != scene.converted_to(what) {
            changes.push((what, to.map(|to| scene.converted(what, to)).transpose()?));
        }
    }
    for (what, to) in changes {
        Arc::make_mut(scene).convert(what, to);
    }
    Ok(())
}
