//! Whose things are.

use crate::Time;
use crate::describe::{EntityId, Owners, TagId};
use crate::model::Scene;

use super::State;

/// Whose a thing is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Owned {
    pub by: EntityId,
    pub since: Time,
    /// Its owner took it in their hands or dragged it, so it is theirs only until it is at rest. What an
    /// action gave them stays theirs.
    pub by_hand: bool,
    /// Its owner has let go of it since.
    pub let_go: bool,
    /// Tells this use of it from an earlier one.
    pub number: u64,
}

impl State {
    /// Whose a thing is now.
    pub(crate) fn owner(&self, what: EntityId) -> Option<EntityId> {
        self.values.owned.get(&what).map(|owned| owned.by)
    }

    /// What keeps somebody from using a thing: that it, or an ancestor of it, belongs to somebody else.
    pub(crate) fn kept_from(&self, scene: &Scene, what: EntityId, who: EntityId) -> Option<Owned> {
        if self.values.owned.is_empty() {
            return None;
        }
        let other = |up: EntityId| {
            let owned = self.values.owned.get(&up)?;
            let is_own = owned.by == who || self.are_one_team(scene, up, [owned.by, who]);
            (!is_own).then_some(*owned)
        };
        self.lineage(scene, what).find_map(other)
    }

    /// The teams of somebody that may own a thing; none if it is not for teams.
    pub(crate) fn teams<'a>(
        &'a self,
        scene: &'a Scene,
        what: EntityId,
        who: EntityId,
    ) -> Option<impl Iterator<Item = TagId> + use<'a>> {
        let Owners::Team(teams) = &scene.thing(what).ownership.as_ref()?.by else { return None };
        let tags = self.tags(scene, who);
        Some(teams.iter().copied().filter(|team| tags.contains(team)))
    }

    /// Whether two are in the same team of those that may own a thing.
    pub(crate) fn are_one_team(
        &self,
        scene: &Scene,
        what: EntityId,
        [one, other]: [EntityId; 2],
    ) -> bool {
        let own = self.teams(scene, what, one);
        let tags = self.tags(scene, other);
        own.is_some_and(|mut own| own.any(|team| tags.contains(&team)))
    }

    /// Whether somebody is told of a thing: neither it nor an ancestor of it is somebody else's secret.
    pub(crate) fn knows(&self, scene: &Scene, who: EntityId, what: EntityId) -> bool {
        let is_kept = |up: EntityId| {
            let is_own = |owner| owner == who || self.are_one_team(scene, up, [owner, who]);
            scene.is_secret(up) && !self.owner(up).is_some_and(is_own)
        };
        !self.lineage(scene, what).any(is_kept)
    }

    /// Whether its owner holds or drags a thing.
    pub(crate) fn is_used(&self, what: EntityId, owner: EntityId) -> bool {
        let pointer = self.senses.pointers.get(&owner).filter(|pointer| pointer.is_down);
        let drags = pointer.and_then(|it| it.pressed).is_some_and(|grip| grip.what == what);
        drags || self.holder(what) == Some(owner)
    }
}
