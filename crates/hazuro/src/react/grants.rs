//! Giving, and collecting what gives.

use crate::Time;
use crate::describe::{Change, EntityId, EventKind, Grant, Stacking};
use crate::model::Scene;
use crate::record::Refusal;
use crate::state::{Cause, Event, Scheduled, State};

use super::ActionContext;

impl ActionContext<'_> {
    /// Gives an entity what a grant holds: all of it or, if a stat is lacking, nothing.
    pub fn grant(&mut self, grant: &Grant, to: EntityId) -> Result<(), Refusal> {
        for name in grant.stats.keys() {
            self.stat(to, name)?;
        }
        if let Some(thing) = grant.hands.as_deref().and_then(|name| self.scene.find(name)) {
            self.grab(thing, to)?;
        }
        for (of, counts) in [(None, &grant.counts), (Some(to), &grant.own_counts)] {
            for (name, amount) in counts {
                self.change_count(of, name, Change::Add(*amount));
            }
        }
        for name in &grant.flags {
            self.state.values_mut(None).flags.insert(name.clone(), true);
        }
        for (name, amount) in &grant.stats {
            self.change_stat(to, name, Change::Add(*amount))?;
        }
        for name in &grant.effects {
            // What is there already, or cannot be there, is no reason to withhold the rest.
            let _ = self.begin_effect(name, to);
        }
        for name in &grant.tags {
            self.tag(to, name, true);
        }
        Ok(())
    }

    /// Lets somebody collect a pickup.
    pub fn collect(&mut self, what: EntityId, to: EntityId) -> Result<(), Refusal> {
        let scene = self.scene;
        let Some(pickup) = &scene.thing(what).pickup else {
            return Err(Refusal::Lacks("a pickup".into()));
        };
        if self.state.switched_off_by(scene, what).is_some() {
            return Err(Refusal::Gone);
        }
        let collected = self.state.values.collected.get(&(what, to)).copied().unwrap_or_default();
        if pickup.limit.is_some_and(|limit| collected >= limit) {
            return Err(Refusal::UsedUp);
        }
        if !gives(scene, self.state, &pickup.grant, to) {
            let why = why_nothing(scene, self.state, &pickup.grant, to);
            return Err(Refusal::GivesNothing(why));
        }
        self.grant(&pickup.grant, to)?;
        if pickup.limit.is_some() {
            self.state.values.collected.insert((what, to), collected + 1);
        }
        self.leave_all(&[what]);
        let number = self.state.next_number();
        self.state.live_mut(what).taken = Some(number);
        if let Some(seconds) = pickup.back_after {
            let time = self.state.now + Time::from_secs(seconds);
            self.state.put_off(time, Scheduled::Respawn { pickup: what, number });
        }
        let Event { time, tick, .. } = *self.event;
        let (on, who) = (Some(what), Some(to));
        self.send(Event { on, who, ..Event::bare(EventKind::Collect, time, tick) });
        self.disturb(what, Cause::Disable);
        Ok(())
    }

    /// Brings back a pickup.
    pub fn respawn(&mut self, pickup: EntityId, number: u64) {
        let live = self.state.live_mut(pickup);
        if live.taken != Some(number) {
            return;
        }
        live.taken = None;
        let Event { time, tick, .. } = *self.event;
        let back = Event::bare(EventKind::Respawn, time, tick);
        self.send(Event { on: Some(pickup), ..back });
        self.disturb(pickup, Cause::Enable);
    }
}

impl State {
    /// Whether a pickup that is there would give somebody anything.
    pub(crate) fn would_give(&self, scene: &Scene, what: EntityId, to: EntityId) -> bool {
        let pickup = scene.thing(what).pickup.as_ref();
        self.switched_off_by(scene, what).is_none()
            && pickup.is_some_and(|pickup| {
                let collected = self.values.collected.get(&(what, to)).copied().unwrap_or_default();
                pickup.limit.is_none_or(|limit| collected < limit)
                    && gives(scene, self, &pickup.grant, to)
            })
    }
}

/// Why a grant would change nothing, in words.
fn why_nothing(scene: &Scene, state: &State, grant: &Grant, to: EntityId) -> String {
    let full = grant.stats.keys().filter_map(|name| {
        let stat = scene.stat_id(name).ok()?;
        let Some(is) = state.stat(scene, to, stat) else {
            return Some(format!("there is no {name}"));
        };
        Some(format!("{name} is {is} already"))
    });
    let up = grant.flags.iter().map(|name| format!("{name} is raised already"));
    let had =
        grant.tags.iter().chain(&grant.effects).map(|name| format!("{name} is there already"));
    let hands = grant.hands.as_deref().and_then(|name| scene.find(name));
    let hands = hands.and_then(|thing| state.may_grab(scene, thing, to).err());
    let hands = hands.map(|why| why.words(scene));
    full.chain(up).chain(had).chain(hands).collect::<Vec<_>>().join(", ")
}

/// Whether a grant would change anything.
fn gives(scene: &Scene, state: &State, grant: &Grant, to: EntityId) -> bool {
    let counts = grant.counts.values().chain(grant.own_counts.values());
    let mut tags = grant.tags.iter().filter_map(|name| scene.tag_id(name).ok());
    let mut effects = grant.effects.iter().filter_map(|name| scene.effect_id(name).ok());
    let has_effect = |effect| {
        state
            .values
            .effects
            .get(&to)
            .is_some_and(|had| had.iter().any(|active| active.effect == effect))
    };
    let hands = grant.hands.as_deref().and_then(|name| scene.find(name));
    if hands.is_some_and(|thing| state.may_grab(scene, thing, to).is_err()) {
        return false;
    }
    let stat_changes = |(name, amount): (&String, &f64)| {
        let Ok(stat) = scene.stat_id(name) else { return false };
        let (Some(base), Some(spec)) = (state.base(scene, to, stat), scene.stat(to, stat)) else {
            return false;
        };
        (base + amount).clamp(spec.least, spec.most).to_bits() != base.to_bits()
    };
    counts.into_iter().any(|amount| *amount != 0)
        || grant.flags.iter().any(|name| !state.flag(None, name))
        || tags.any(|tag| !state.tags(scene, to).contains(&tag))
        || effects.any(|effect| {
            scene.effect_spec(effect).again != Stacking::Ignore || !has_effect(effect)
        })
        || grant.stats.iter().any(stat_changes)
        || hands.is_some()
}
