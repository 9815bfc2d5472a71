//! Giving things to somebody, and taking them away.

use crate::describe::{EntityId, EventKind, Owners};
use crate::model::Scene;
use crate::record::Refusal;
use crate::state::{Cause, Event, Owned, Scheduled, State};

use super::ActionContext;

impl ActionContext<'_> {
    /// Makes a thing somebody's, until it is at rest if they took it themselves.
    ///
    /// # Errors
    /// If it cannot be owned, or not by them, or not now.
    pub fn own(&mut self, what: EntityId, who: EntityId, by_hand: bool) -> Result<(), Refusal> {
        self.state.may_own(self.scene, what, who)?;
        let before = self.state.values.owned.get(&what).copied();
        if before.is_some_and(|before| before.by != who) {
            self.disown(what, Cause::Action);
        }
        let before = before.filter(|before| before.by == who);
        let owned = Owned {
            by: who,
            since: before.map_or(self.state.now, |before| before.since),
            by_hand: by_hand && before.is_none_or(|before| before.by_hand),
            let_go: false,
            number: 0,
        };
        self.state.values.owned.insert(what, owned);
        self.keep(what);
        if before.is_none() {
            let event = Event { on: Some(what), who: Some(who), ..self.bare(EventKind::Own) };
            self.send(event);
            self.disturb(what, Cause::Admit);
        }
        Ok(())
    }

    /// Lets a thing be nobody's. Its holder lets go of it.
    pub fn disown(&mut self, what: EntityId, cause: Cause) {
        let Some(owner) = self.state.owner(what) else { return };
        if self.state.holder(what) == Some(owner) {
            self.let_go(what, owner, None);
        }
        self.state.values.owned.remove(&what);
        let event = self.bare(EventKind::Disown);
        self.send(Event { on: Some(what), who: Some(owner), cause: Some(cause), ..event });
        self.disturb(what, Cause::Admit);
    }

    /// An action takes a thing away from its owner.
    pub(super) fn take_away(&mut self, what: EntityId) -> Result<(), Refusal> {
        if self.scene.thing(what).ownership.is_none() {
            return Err(Refusal::Lacks("an `ownership`".into()));
        }
        if self.state.owner(what).is_none() {
            return Err(Refusal::NotOwned);
        }
        self.disown(what, Cause::Action);
        Ok(())
    }

    /// Counts anew for how long its owner may keep a thing.
    fn keep(&mut self, what: EntityId) {
        let number = self.state.next_number();
        let Some(owned) = self.state.values.owned.get_mut(&what) else { return };
        owned.number = number;
        let spec = self.scene.thing(what).ownership.as_deref();
        if let Some(keep) = spec.and_then(|spec| spec.keep) {
            self.state.put_off(self.state.now + keep, Scheduled::Disown { what, number });
        }
    }

    /// The time is over for which somebody may keep a thing. While they use it they keep it: once they do
    /// so no more it counts anew.
    pub fn kept_enough(&mut self, what: EntityId, number: u64) {
        let owned = self.state.values.owned.get(&what).filter(|owned| owned.number == number);
        if owned.is_some_and(|owned| !self.state.is_used(what, owned.by)) {
            self.disown(what, Cause::Expire);
        }
    }

    /// A thing's owner has let go of it.
    pub(super) fn was_let_go(&mut self, what: EntityId, by: EntityId) {
        if let Some(owned) = self.state.values.owned.get_mut(&what).filter(|owned| owned.by == by) {
            owned.let_go = true;
            self.keep(what);
        }
    }

    /// A thing has come to rest.
    pub fn is_at_rest(&mut self, what: EntityId) {
        if self.state.values.owned.get(&what).is_some_and(|owned| owned.by_hand && owned.let_go) {
            self.disown(what, Cause::Rest);
        }
    }

    /// Somebody has ended dragging a thing.
    pub fn put_down(&mut self, what: EntityId, by: EntityId) {
        let owned =
            self.state.values.owned.get(&what).filter(|owned| owned.by == by && !owned.let_go);
        let Some(by_hand) = owned.map(|owned| owned.by_hand) else { return };
        if by_hand && self.state.holder(what).is_none() {
            self.disown(what, Cause::Rest);
        } else {
            self.keep(what);
        }
    }

    /// Those who go own nothing any more, nor does anybody own them.
    pub(super) fn leave_all(&mut self, going: &[EntityId]) {
        let is_meant = |(what, owned): (&EntityId, &Owned)| {
            (going.contains(what) || going.contains(&owned.by)).then_some(*what)
        };
        let meant: Vec<EntityId> = self.state.values.owned.iter().filter_map(is_meant).collect();
        for what in meant {
            self.disown(what, Cause::Remove);
        }
    }

    /// What was brought out belongs to the body that brought it out, if that is its rule.
    pub(super) fn give_to_creator(&mut self, what: EntityId) {
        let spec = self.scene.thing(what).ownership.as_deref();
        let is_theirs = spec.is_some_and(|spec| spec.by == Owners::Creator);
        if let Some(who) = self.event.who.filter(|_| is_theirs) {
            // Who has no body of their own brings it out for nobody.
            let _ = self.own(what, who, false);
        }
    }
}

impl State {
    /// Whether an action may give a thing to somebody; else why not.
    pub(crate) fn may_own(
        &self,
        scene: &Scene,
        what: EntityId,
        who: EntityId,
    ) -> Result<(), Refusal> {
        let Some(spec) = scene.thing(what).ownership.as_deref() else {
            return Err(Refusal::Lacks("an `ownership`".into()));
        };
        if !scene.has_body(who) || what == who {
            return Err(Refusal::Lacks("a body of its own to own it".into()));
        }
        if [what, who].iter().any(|it| self.is_gone(scene, *it)) {
            return Err(Refusal::Gone);
        }
        if self.teams(scene, what, who).is_some_and(|mut teams| teams.next().is_none()) {
            return Err(Refusal::InNoTeam);
        }
        match self.values.owned.get(&what) {
            Some(owned)
                if owned.by != who
                    && !spec.by.are_given()
                    && !self.are_one_team(scene, what, [owned.by, who]) =>
            {
                Err(Refusal::BelongsTo { owner: owned.by, since: owned.since })
            }
            _ => Ok(()),
        }
    }

    /// Whether somebody may make a thing theirs by taking it or dragging it; else why not. What nobody
    /// can own anybody takes.
    pub(crate) fn may_take(
        &self,
        scene: &Scene,
        what: EntityId,
        who: EntityId,
    ) -> Result<(), Refusal> {
        let Some(spec) = scene.thing(what).ownership.as_deref() else { return Ok(()) };
        match self.values.owned.get(&what) {
            Some(owned) if owned.by == who => Ok(()),
            Some(Owned { by: owner, since, .. }) if spec.by.are_given() => {
                Err(Refusal::BelongsTo { owner: *owner, since: *since })
            }
            None if spec.by.are_given() => Err(Refusal::NotGiven),
            _ => self.may_own(scene, what, who),
        }
    }
}
