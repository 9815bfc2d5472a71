//! What a user interface highlights for whom, while something is offered.

use crate::describe::EntityId;
use crate::model::Scene;

use super::State;

impl State {
    /// What is highlighted for somebody now, in the scene's order, each once.
    pub(crate) fn highlighted(&self, who: EntityId) -> Vec<EntityId> {
        let first = (who, EntityId::LOWEST);
        let of =
            self.senses.highlights.range(first..).take_while(|((player, _), _)| *player == who);
        let mut all: Vec<EntityId> = of.map(|(_, highlight)| *highlight).collect();
        all.sort_unstable();
        all.dedup();
        all
    }

    /// A prompt is offered: the nearest of it and its ancestors that is marked so is highlighted, or else
    /// the prompt itself, for as long as the offer lasts. None if that is highlighted already.
    pub(crate) fn begin_highlight(
        &mut self,
        scene: &Scene,
        (prompt, who): (EntityId, EntityId),
    ) -> Option<EntityId> {
        let marked = |entity: &EntityId| scene.thing(*entity).highlight;
        let highlight = self.lineage(scene, prompt).find(marked).unwrap_or(prompt);
        let is_new = !self.highlighted(who).contains(&highlight);
        self.senses.highlights.insert((who, prompt), highlight);
        is_new.then_some(highlight)
    }

    /// A prompt is withdrawn. What is no longer highlighted; none if something else that is offered still
    /// highlights it.
    pub(crate) fn end_highlight(&mut self, prompt: EntityId, who: EntityId) -> Option<EntityId> {
        let highlight = self.senses.highlights.remove(&(who, prompt))?;
        (!self.highlighted(who).contains(&highlight)).then_some(highlight)
    }
}
