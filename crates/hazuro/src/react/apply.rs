//! What actions do to the state.

use glam::{DQuat, DVec2, DVec3};

use crate::Time;
use crate::geometry::Pose;
use crate::motion::{Easing, Travel};
use crate::scene::{
    Action, Change, Destination, EntityId, EventKind, Move, Pace, Scene, Switch, Turn, Wait,
};
use crate::state::{Cause, Event, State, Target};

use super::{Aftermath, Refusal};

/// Somebody doing something about an event.
pub(crate) struct Doing<'a> {
    pub scene: &'a Scene,
    pub state: &'a mut State,
    pub event: &'a Event,
    pub after: &'a mut Aftermath,
}

impl Doing<'_> {
    /// Does one action now, but for those that others see to: calls, waits and stops.
    pub fn apply(&mut self, action: &Action<EntityId>) -> Result<(), Refusal> {
        match action {
            Action::Move(movement) => self.travel(movement),
            Action::Teleport { what, to } => {
                let place = self.state.pose(self.scene, *to, self.state.now);
                self.put(*what, self.state.in_parent(self.scene, *what, place));
            }
            Action::Turn(turn) => self.turn(turn),
            Action::Switch { what, switch, to } => self.switch(*what, *switch, *to)?,
            Action::Tag { what, tag } => self.tag(*what, tag, true),
            Action::Untag { what, tag } => self.tag(*what, tag, false),
            Action::Count { name, of, change } => self.change_count(*of, name, *change),
            Action::Flag { name, of, to } => {
                let up = to.unwrap_or_else(|| !self.state.flag(*of, name));
                self.state.values_mut(*of).flags.insert(name.clone(), up);
            }
            Action::Stat { name, of, change } => self.change_stat(*of, name, *change)?,
            Action::Effect { name, of } => self.begin_effect(name, *of)?,
            Action::EndEffect { name, of } => self.end_effects(name, *of),
            Action::Grant { grant, to } => self.grant(grant, *to)?,
            Action::Collect { what, to } => self.collect(*what, *to)?,
            Action::Cue(name) => {
                let Event { on, who, time, tick, .. } = *self.event;
                let cue = Event::bare(EventKind::Cue, time, tick);
                self.after.events.push(Event { on, who, cue: Some(name.clone()), ..cue });
            }
            Action::Send { event, on, who } => {
                let Event { time, tick, .. } = *self.event;
                let (on, cause) = (Some(*on), Some(Cause::Hand));
                let sent = Event::bare(*event, time, tick);
                self.after.events.push(Event { on, who: *who, cause, ..sent });
            }
            Action::Spawn { kind, at } => self.spawn(kind, *at)?,
            Action::Remove(what) => self.remove(*what),
            Action::Reset(what) => self.reset(*what),
            Action::Attach { what, to } => self.attach(*what, Some(*to))?,
            Action::Detach(what) => self.attach(*what, None)?,
            Action::Wait(Wait::Seconds(_) | Wait::Arrival(_))
            | Action::Say(_)
            | Action::Call(_)
            | Action::Stop { .. } => {}
        }
        Ok(())
    }

    fn travel(&mut self, movement: &Move<EntityId>) {
        let Move { what, over, ease, .. } = *movement;
        let (scene, now) = (self.scene, self.state.now);
        let from = self.state.local_pose(what, now);
        let to = match movement.to {
            Destination::Point => {
                let here = self.state.pose(scene, what, now);
                let there = Pose { position: self.event.at.unwrap_or(here.position), ..here };
                self.state.in_parent(scene, what, there)
            }
            Destination::By(way) => Pose { position: from.position + DVec3::from(way), ..from },
            Destination::Home if self.state.links.contains_key(&what) => {
                let parent = scene.parent(what);
                let parent = parent.map_or(Pose::IDENTITY, |it| self.state.pose(scene, it, now));
                self.state.in_parent(scene, what, parent * scene.entity(what).pose())
            }
            Destination::Home => scene.entity(what).pose(),
            Destination::Entity(to) => {
                let place = self.state.pose(scene, to, now);
                self.state.in_parent(scene, what, place)
            }
        };
        let end = now + Time::from_secs(over);
        if end > now {
            let travel = Travel::new(now, end, from, to, ease);
            self.state.send(what, from, travel);
            self.after.disturbed.push((what, Cause::Move));
        } else {
            self.put(what, to);
        }
    }

    /// Puts an entity somewhere at once.
    fn put(&mut self, what: EntityId, pose: Pose) {
        self.state.put(what, pose);
        self.after.disturbed.push((what, Cause::Teleport));
    }

    fn turn(&mut self, turn: &Turn<EntityId>) {
        let Turn { what, towards, by, pace, ease } = *turn;
        let (scene, now) = (self.scene, self.state.now);
        let at_once = matches!(pace, Pace::Over(seconds) if Time::from_secs(seconds) <= Time::ZERO);
        if let Some(to) = towards.filter(|_| at_once) {
            face(scene, self.state, what, Target::Entity(to));
            self.after.disturbed.push((what, Cause::Move));
            return;
        }
        let from = self.state.local_pose(what, now);
        let to = match towards {
            Some(to) => {
                let here = self.state.pose(scene, what, now);
                let way = self.state.pose(scene, to, now).position - here.position;
                self.state.in_parent(scene, what, facing(here, way))
            }
            None => Pose { rotation: DQuat::from_rotation_y(by) * from.rotation, ..from },
        };
        let seconds = match pace {
            Pace::Over(seconds) => seconds,
            Pace::Rate(rate) => from.angle_to(&to) / rate,
        };
        let end = now + Time::from_secs(seconds);
        if end > now {
            self.state.send(what, from, Travel::new(now, end, from, to, ease));
        } else {
            self.state.put(what, to);
        }
        self.after.disturbed.push((what, Cause::Move));
    }

    fn switch(&mut self, what: EntityId, switch: Switch, to: Option<bool>) -> Result<(), Refusal> {
        let family = || self.state.family(self.scene, what);
        match switch {
            Switch::Solid if !family().iter().any(|it| self.scene.is_solid(*it)) => {
                return Err(Refusal::Lacks("a solid".into()));
            }
            Switch::Detect if !family().iter().any(|it| self.scene.detects(*it)) => {
                return Err(Refusal::Lacks("a detector".into()));
            }
            _ => {}
        }
        let own = &mut self.state.live_mut(what).switches[switch as usize];
        let on = to.unwrap_or(!*own);
        if std::mem::replace(own, on) != on && switch != Switch::Visible {
            let cause = if on { Cause::Enable } else { Cause::Disable };
            self.after.disturbed.push((what, cause));
        }
        Ok(())
    }

    /// Gives a tag or takes it away.
    pub fn tag(&mut self, what: EntityId, name: &str, has: bool) {
        let Ok(tag) = self.scene.tag_id(name) else { return };
        let tags = self.state.tags(self.scene, what);
        if tags.contains(&tag) == has {
            return;
        }
        let mut tags = tags.to_vec();
        tags.retain(|other| *other != tag);
        if has {
            tags.push(tag);
            tags.sort_unstable();
        }
        if *tags == *self.scene.thing(what).tags {
            self.state.tags.remove(&what);
        } else {
            self.state.tags.insert(what, tags);
        }
        if self.scene.rules_on(tag) {
            self.after.disturbed.push((what, Cause::Admit));
        }
    }

    pub fn change_count(&mut self, of: Option<EntityId>, name: &str, change: Change) {
        let counts = &mut self.state.values_mut(of).counts;
        let count = match counts.get_mut(name) {
            Some(count) => count,
            None => counts.entry(name.to_owned()).or_default(),
        };
        *count = match change {
            Change::Add(amount) => count.saturating_add(amount),
            Change::Set(value) => value,
        };
    }

    fn spawn(&mut self, kind: &str, at: EntityId) -> Result<(), Refusal> {
        let kind = self.scene.kind_id(kind).map_err(|fault| Refusal::Lacks(fault.to_string()))?;
        let mut stock = self.scene.stock(kind);
        let next = stock.find(|entity| self.state.live(*entity).removed);
        let what = next.ok_or(Refusal::OutOfStock)?;
        let place = self.state.pose(self.scene, at, self.state.now);
        self.begin_anew(what);
        self.state.live_mut(what).removed = false;
        self.state.put(what, place);
        self.after.spawned = Some(what);
        self.after.disturbed.push((what, Cause::Appear));
        Ok(())
    }

    /// Takes an entity and its children out of the play.
    pub fn remove(&mut self, what: EntityId) {
        for entity in self.state.family(self.scene, what) {
            self.drop_effects(entity);
        }
        self.state.live_mut(what).removed = true;
        self.after.disturbed.push((what, Cause::Remove));
    }

    fn reset(&mut self, what: EntityId) {
        let family = self.state.family(self.scene, what);
        let switches = |state: &State, entity: &EntityId| {
            let live = state.live(*entity);
            (live.switches, live.taken, live.removed)
        };
        let before: Vec<_> = family.iter().map(|it| switches(self.state, it)).collect();
        for &entity in &family {
            self.begin_anew(entity);
        }
        let after: Vec<_> = family.iter().map(|it| switches(self.state, it)).collect();
        if self.scene.thing(what).stocked {
            self.after.disturbed.push((what, Cause::Remove));
        } else {
            // Put where it was, and switched as it was.
            self.after.disturbed.push((what, Cause::Teleport));
            if before != after {
                self.after.disturbed.push((what, Cause::Enable));
            }
        }
    }

    /// Makes an entity what and where it was at the start.
    fn begin_anew(&mut self, what: EntityId) {
        let state = &mut *self.state;
        *state.live_mut(what) = State::at_start(self.scene, what);
        state.own_values.remove(&what);
        state.effects.remove(&what);
        state.tags.remove(&what);
        state.links.remove(&what);
        state.limits.remove(&what);
        // What is foreseen of its stats is no longer so.
        state.meters.retain(|(of, _), _| *of != what);
        state.sense_wear.retain(|(on, ..), _| *on != what);
        state.collected.retain(|(pickup, _), _| *pickup != what);
    }

    /// Makes an entity a child of another or of nobody, where it is now.
    fn attach(&mut self, what: EntityId, to: Option<EntityId>) -> Result<(), Refusal> {
        if to.is_some_and(|to| self.state.lineage(self.scene, to).any(|up| up == what)) {
            return Err(Refusal::OwnChild);
        }
        let here = self.state.pose(self.scene, what, self.state.now);
        if to == self.scene.parent(what) {
            self.state.links.remove(&what);
        } else {
            self.state.links.insert(what, to);
        }
        self.state.put(what, self.state.in_parent(self.scene, what, here));
        // It may be on or off now through its ancestors.
        self.after.disturbed.push((what, Cause::Enable));
        Ok(())
    }
}

/// Turns towards a place at once; a journey under way goes on from here.
pub(crate) fn face(scene: &Scene, state: &mut State, who: EntityId, to: Target) {
    let here = state.pose(scene, who, state.now);
    let facing = facing(here, to.pose(state, scene, here).position - here.position);
    let journey = state.live(who).travel.as_deref().cloned();
    let walks_to = state.live(who).walks_to.clone();
    state.put(who, state.in_parent(scene, who, facing));
    if let Some(journey) = journey.filter(|journey| journey.end() > state.now) {
        let from = state.local_pose(who, state.now);
        let to = Pose { rotation: from.rotation, ..*journey.to() };
        let rest = Travel::new(state.now, journey.end(), from, to, Easing::Linear);
        state.send(who, from, rest);
        state.live_mut(who).walks_to = walks_to.map(|_| Box::new(to));
    }
}

/// The pose turned about Y so that -Z points along `way`; unturned if that is straight up or down.
pub(crate) fn facing(pose: Pose, way: DVec3) -> Pose {
    if way.x == 0.0 && way.z == 0.0 {
        pose
    } else {
        pose.turned(DVec2::new(-way.z, -way.x).to_angle())
    }
}
