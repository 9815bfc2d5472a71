//! Rules on who may set off a detector, with their words looked up.

use crate::describe::{Clause, Condition, EntityId, KindId, Layers, Lists, TagId};

use super::Scene;

/// A rule with its words looked up.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Admission {
    pub lists: Lists<TagId, KindId, EntityId>,
    pub not: Lists<TagId, KindId, EntityId>,
    pub layers: Layers,
    pub not_layers: Layers,
    pub players: bool,
    /// Tested on its own, since it depends on the moment.
    pub condition: Option<Condition>,
}

/// Everybody.
impl Default for Admission {
    fn default() -> Self {
        let (lists, not) = (Lists::default(), Lists::default());
        let (players, condition) = (false, None);
        Self { lists, not, layers: Layers::ALL, not_layers: Layers::NONE, players, condition }
    }
}

impl Admission {
    /// Whether it refuses anybody but for their layers, whatever the condition says.
    pub fn is_picky(&self) -> bool {
        let lists = |lists: &Lists<TagId, KindId, EntityId>| {
            !lists.tags.is_empty() || !lists.kinds.is_empty() || !lists.names.is_empty()
        };
        self.players || lists(&self.lists) || lists(&self.not) || self.not_layers != Layers::NONE
    }

    /// The first list that refuses `subject`, who has these tags; none if it is admitted.
    pub fn refusal(&self, scene: &Scene, (subject, has): (EntityId, &[TagId])) -> Option<Clause> {
        let thing = scene.thing(subject);
        let tagged = |tags: &[TagId]| tags.iter().any(|tag| has.contains(tag));
        let of_kind = |kinds: &[KindId]| thing.kinds.iter().any(|kind| kinds.contains(kind));
        if !self.layers.meet(thing.layers) {
            return Some(Clause::Layers);
        }
        if self.players && !thing.player {
            return Some(Clause::Players);
        }
        let Lists { tags, kinds, names } = &self.lists;
        if !tags.is_empty() && !tagged(tags) {
            return Some(Clause::Tags);
        }
        if !kinds.is_empty() && !of_kind(kinds) {
            return Some(Clause::Kinds);
        }
        if !names.is_empty() && !names.contains(&subject) {
            return Some(Clause::Names);
        }
        let Lists { tags, kinds, names } = &self.not;
        let refused = tagged(tags)
            || of_kind(kinds)
            || names.contains(&subject)
            || self.not_layers.meet(thing.layers);
        refused.then_some(Clause::Not)
    }
}
