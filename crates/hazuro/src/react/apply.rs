//! What actions do to the state.

use std::collections::BTreeMap;

use glam::{DQuat, DVec3};
use smallvec::SmallVec;

use crate::Time;
use crate::describe::{
    Action, Change, Destination, Detector, EntityId, EventKind, Move, Pace, ResolvedAction, StatId,
    Switch, Turn, Wait, most::MAX_COORDINATE, most::MAX_DEPTH,
};
use crate::geometry::Pose;
use crate::model::Scene;
use crate::motion::Travel;
use crate::record::{Happening, Refusal};
use crate::state::{Cause, Event, Mode, Order, State, Target};

use super::SideEffects;

/// Somebody doing something about an event.
pub(crate) struct ActionContext<'a> {
    pub scene: &'a Scene,
    pub state: &'a mut State,
    pub event: &'a Event,
    pub after: &'a mut SideEffects,
}

impl ActionContext<'_> {
    /// Something has been done to an entity that detection must look at again.
    pub fn disturb(&mut self, what: EntityId, cause: Cause) {
        self.state.stir(what, cause);
        self.after.disturbed.push((what, cause));
    }

    /// Lets an event be sent once this is done.
    pub fn send(&mut self, event: Event) {
        self.after.events.push((self.state.causes.now, event));
    }

    /// Lets something be told once this is done.
    pub fn tell_of(&mut self, what: Happening) {
        self.after.told.push((self.state.causes.now, what));
    }

    /// Does one action now, but for those that others see to: calls, waits and stops, and what
    /// depends on what is around: teleports, throws and letting go.
    pub fn apply(&mut self, action: &ResolvedAction) -> Result<(), Refusal> {
        match action {
            Action::Move(movement) => self.travel(movement)?,
            Action::Route { what, order } => self.route(*what, *order)?,
            Action::Lead(lead) => self.lead(lead),
            Action::Aim(aim) => self.aim(aim),
            Action::Grab { what, to } => self.grab(*what, *to)?,
            Action::Own { what, to } => self.own(*what, *to, false)?,
            Action::Disown(what) => self.take_away(*what)?,
            Action::Turn(turn) => self.turn(turn),
            Action::Walk { what, to } => {
                self.may_walk(*what)?;
                self.order(*what, Some(Order::new([Target::Entity(*to)], None)));
            }
            Action::Halt(what) => self.halt(*what)?,
            Action::Jump(what) => self.jump(*what)?,
            Action::Switch { what, switch, to } => self.switch(*what, *switch, *to)?,
            Action::Tag { what, tag } => self.tag(*what, tag, true),
            Action::Untag { what, tag } => self.tag(*what, tag, false),
            Action::Convert { what, to } => self.convert(*what, to)?,
            Action::Revert(what) => self.revert(*what),
            Action::Count { name, of, change } => self.change_count(*of, name, *change),
            Action::Flag { name, of, to } => {
                let up = to.unwrap_or_else(|| !self.state.flag(*of, name));
                self.state.values_mut(*of).flags.insert(name.clone(), up);
            }
            Action::Fill { slot, of, with } => self.fill(*of, slot, with)?,
            Action::Stat { name, of, change } => self.change_stat(*of, name, *change)?,
            Action::Effect { name, of } => self.begin_effect(name, *of)?,
            Action::EndEffect { name, of } => self.end_effects(name, *of),
            Action::Grant { grant, to } => self.grant(grant, *to)?,
            Action::Collect { what, to } => self.collect(*what, *to)?,
            Action::Cue { name, on, who } => {
                let Event { time, tick, .. } = *self.event;
                let (on, who) = (on.or(self.event.on), who.or(self.event.who));
                let cue = Event::bare(EventKind::Cue, time, tick);
                self.send(Event { on, who, cue: Some(name.clone()), ..cue });
            }
            Action::Send { event, on, who } => {
                let Event { time, tick, .. } = *self.event;
                let (on, cause) = (Some(*on), Some(Cause::Hand));
                let sent = Event::bare(*event, time, tick);
                self.send(Event { on, who: *who, cause, ..sent });
            }
            Action::Spawn { kind, at } => self.spawn(kind, *at)?,
            Action::Remove(what) => self.remove(*what),
            Action::Reset(what) => self.reset(*what),
            Action::Attach { what, to } => self.attach(*what, Some(*to))?,
            Action::Detach(what) => self.attach(*what, None)?,
            Action::Wait(Wait::Seconds(_) | Wait::Arrival(_))
            | Action::Say { .. }
            | Action::Call(_)
            | Action::Teleport(_)
            | Action::Drop(_)
            | Action::Throw(_)
            | Action::Stop { .. } => {}
        }
        Ok(())
    }

    /// How far a way leads along a line in the world, both its ends being in the frame of what carries
    /// what goes; nowhere if the line has no direction.
    fn along(&self, what: EntityId, axis: DVec3, [from, to]: [Pose; 2]) -> Pose {
        let axis = axis.normalize_or_zero();
        let carrier = self.state.parent(self.scene, what);
        let turned = carrier.map_or(DQuat::IDENTITY, |carrier| {
            self.state.pose(self.scene, carrier, self.state.now).rotation
        });
        let axis = turned.conjugate() * axis;
        let way = (to.position - from.position).dot(axis);
        Pose { position: from.position + axis * way, ..from }
    }

    fn travel(&mut self, movement: &Move<EntityId, f64>) -> Result<(), Refusal> {
        let Move { what, over, ease, .. } = *movement;
        let (scene, now) = (self.scene, self.state.now);
        if let Destination::By(way) = movement.to {
            let here = self.state.local_pose(what, now).position;
            if (here + DVec3::from(way)).abs().max_element() > MAX_COORDINATE {
                return Err(Refusal::TooFar);
            }
        }
        self.release(what);
        self.state.dismount(scene, what);
        let from = self.state.local_pose(what, now);
        let to = match movement.to {
            Destination::Point => {
                let here = self.state.pose(scene, what, now);
                let there = Pose { position: self.event.point().unwrap_or(here.position), ..here };
                self.state.in_parent(scene, what, there)
            }
            Destination::By(way) => Pose { position: from.position + DVec3::from(way), ..from },
            Destination::Home if self.state.presence.links.contains_key(&what) => {
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
        let to = match movement.axis {
            Some(axis) => self.along(what, DVec3::from(axis), [from, to]),
            None => to,
        };
        let end = now + Time::from_secs(over);
        if end > now {
            let travel = Travel::new(now, end, from, to, ease);
            self.state.send(what, travel);
            self.disturb(what, Cause::Move);
        } else {
            self.put(what, to);
        }
        Ok(())
    }

    pub(super) fn may_walk(&self, what: EntityId) -> Result<(), Refusal> {
        let walks = self.scene.walking_speed(what).is_some();
        if walks { Ok(()) } else { Err(Refusal::Lacks("legs to walk with".into())) }
    }

    fn order(&mut self, what: EntityId, order: Option<Order>) {
        self.state.order(what, order);
        self.disturb(what, Cause::Move);
    }

    fn jump(&mut self, what: EntityId) -> Result<(), Refusal> {
        if self.state.jump_height(self.scene, what) <= 0.0 {
            return Err(Refusal::Lacks("legs to jump with".into()));
        }
        if self.state.motion.trips.get(&what).is_some_and(|trip| trip.leads) {
            // Whoever is taken along lets go.
            return self.halt(what);
        }
        let stance = self.state.live_mut(what).stance.as_deref_mut();
        let Some(stance) = stance.filter(|stance| stance.mode == Mode::Stands) else {
            return Err(Refusal::NotStanding);
        };
        (stance.jumps, stance.undecided) = (true, true);
        stance.stride.clear();
        self.disturb(what, Cause::Move);
        Ok(())
    }

    /// Puts an entity somewhere in the world at once, to go on with a velocity if there is one.
    pub fn put_in_world(&mut self, what: EntityId, pose: Pose, velocity: Option<DVec3>) {
        self.release(what);
        self.state.dismount(self.scene, what);
        self.put(what, self.state.in_parent(self.scene, what, pose));
        if let Some(stance) = &mut self.state.live_mut(what).stance {
            stance.launch = velocity.map(|velocity| velocity.to_array());
        }
    }

    /// Puts an entity somewhere at once.
    fn put(&mut self, what: EntityId, pose: Pose) {
        self.state.put(what, pose);
        self.disturb(what, Cause::Teleport);
    }

    fn turn(&mut self, turn: &Turn<EntityId, f64>) {
        let Turn { what, towards, by, pace, ease } = *turn;
        let (scene, now) = (self.scene, self.state.now);
        self.state.motion.aims.remove(&what);
        let at_once = matches!(pace, Pace::Over(seconds) if Time::from_secs(seconds) <= Time::ZERO);
        if let Some(to) = towards.filter(|_| at_once) {
            face(scene, self.state, what, Target::Entity(to));
            self.disturb(what, Cause::Move);
            return;
        }
        let from = self.state.local_pose(what, now);
        let to = match towards {
            Some(to) => {
                let here = self.state.pose(scene, what, now);
                let way = self.state.pose(scene, to, now).position - here.position;
                self.state.in_parent(scene, what, here.facing(way))
            }
            None => Pose { rotation: DQuat::from_rotation_y(by) * from.rotation, ..from },
        };
        let seconds = match pace {
            Pace::Over(seconds) => seconds,
            Pace::Rate(rate) => from.angle_to(&to) / rate,
        };
        let end = now + Time::from_secs(seconds);
        if end > now {
            let travel = Travel::new(now, end, from, to, ease);
            if self.state.holder(what).is_some() {
                // It turns in the hand that holds it.
                self.state.cast.go(what, travel);
            } else {
                self.stop_on_way(what);
                self.state.send(what, travel);
            }
        } else {
            self.state.cast.turn(what, to.rotation, now);
        }
        self.disturb(what, Cause::Move);
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
            self.state.motion.stirs.0 += 1;
            let cause = if on { Cause::Enable } else { Cause::Disable };
            self.disturb(what, cause);
            if !on && switch == Switch::Enabled {
                self.let_go_of_all(what);
            }
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
            self.state.values.tags.remove(&what);
        } else {
            self.state.values.tags.insert(what, tags);
        }
        if self.scene.rules_on(tag) {
            self.disturb(what, Cause::Admit);
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
        let place = self.state.pose(self.scene, at, self.state.now);
        let what = self.bring_out(kind, place)?;
        self.give_to_creator(what);
        Ok(())
    }

    /// Takes an entity and its children out of the play.
    pub fn remove(&mut self, what: EntityId) {
        self.let_go_of_all(what);
        let family = self.state.family(self.scene, what);
        self.leave_all(&family);
        for entity in family {
            self.release(entity);
            self.drop_effects(entity);
            self.state.motion.aims.remove(&entity);
        }
        self.state.take_out(self.scene, what);
        self.state.motion.stirs.0 += 1;
        self.disturb(what, Cause::Remove);
    }

    fn reset(&mut self, what: EntityId) {
        let family = self.state.family(self.scene, what);
        let switches = |state: &State, entity: &EntityId| {
            let live = state.live(*entity);
            (live.switches, live.taken, live.removed)
        };
        let before: Vec<_> = family.iter().map(|it| switches(self.state, it)).collect();
        self.let_go_of_all(what);
        self.leave_all(&family);
        for &entity in &family {
            self.release(entity);
            self.begin_anew(entity);
        }
        let after: Vec<_> = family.iter().map(|it| switches(self.state, it)).collect();
        // What was only attached is below it no longer.
        let below = |entity: EntityId| {
            let parent = self.state.parent(self.scene, entity);
            entity != what && parent.is_some_and(|parent| family.contains(&parent))
        };
        let roots: Vec<EntityId> = family.iter().copied().filter(|it| !below(*it)).collect();
        for root in roots {
            if self.scene.thing(root).stocked {
                self.disturb(root, Cause::Remove);
            } else {
                // Put where it was, and switched as it was.
                self.disturb(root, Cause::Teleport);
                if before != after {
                    self.disturb(root, Cause::Enable);
                }
            }
        }
    }

    /// Makes an entity what and where it was at the start.
    pub(super) fn begin_anew(&mut self, what: EntityId) {
        self.state.set_rides(what, None);
        // Where it goes back to may be below what stands on it now.
        let riders: Vec<EntityId> = self.state.riders_on(what).collect();
        for rider in riders {
            self.state.dismount(self.scene, rider);
            self.disturb(rider, Cause::Move);
        }
        let state = &mut *self.state;
        let was_out = state.live(what).removed;
        *state.live_mut(what) = State::at_start(self.scene, what);
        if state.live(what).removed
            || (was_out && self.scene.was_added(what) && !self.scene.is_made(what))
        {
            // What was added is out until it is added again.
            state.take_out(self.scene, what);
        } else {
            state.presence.awaited.remove(&what);
        }
        state.values.own.remove(&what);
        state.values.slots.remove(&what);
        state.values.effects.remove(&what);
        state.values.tags.remove(&what);
        state.presence.links.remove(&what);
        state.motion.aims.remove(&what);
        state.senses.limits.remove(&what);
        // What is foreseen of its stats is no longer so.
        drop_from(&mut state.values.stat_tracks, (what, StatId::FIRST), |it| it.0 == what);
        drop_from(&mut state.senses.detector_usage, (what, Detector::ALL[0], None), |it| {
            it.0 == what
        });
        drop_from(&mut state.values.collected, (what, EntityId::LOWEST), |it| it.0 == what);
        self.revert(what);
    }

    /// Makes an entity a child of another or of nobody, where it is now.
    fn attach(&mut self, what: EntityId, to: Option<EntityId>) -> Result<(), Refusal> {
        if let Some(to) = to {
            let (scene, state) = (self.scene, &*self.state);
            if state.is_gone(scene, to) {
                return Err(Refusal::Gone);
            }
            // Nor may it be a child of what stands on it, or is held by it.
            let mut above = state.lineage(scene, to).chain(state.carriers(scene, to));
            if above.any(|up| up == what) {
                return Err(Refusal::OwnChild);
            }
            let deepest = state.family(scene, what).iter().map(|it| state.depth(scene, *it)).max();
            let below = deepest.unwrap_or(0) - state.depth(scene, what);
            if state.depth(scene, to) + 1 + below > MAX_DEPTH {
                return Err(Refusal::TooDeep);
            }
        }
        self.release(what);
        self.state.dismount(self.scene, what);
        let here = self.state.pose(self.scene, what, self.state.now);
        if to == self.scene.parent(what) {
            self.state.presence.links.remove(&what);
        } else {
            self.state.presence.links.insert(what, to);
        }
        self.state.put(what, self.state.in_parent(self.scene, what, here));
        // It may be on or off now through its ancestors.
        if self.state.switched_off_by(self.scene, what).is_some() {
            self.let_go_of_all(what);
        }
        self.disturb(what, Cause::Enable);
        Ok(())
    }
}

/// Turns towards a place at once; a journey under way goes on, turned that way.
pub(crate) fn face(scene: &Scene, state: &mut State, who: EntityId, to: Target) {
    state.motion.aims.remove(&who);
    if state.held_by(who).next().is_some() {
        // What it holds may be in something then.
        state.decide_anew(who);
    }
    let here = state.pose(scene, who, state.now);
    let facing = here.facing(to.pose(state, scene, here).position - here.position);
    turn_to(scene, state, who, facing);
}

/// Turns as the pose is turned, at once; a journey under way goes on, turned that way.
fn turn_to(scene: &Scene, state: &mut State, who: EntityId, pose: Pose) {
    let rotation = state.in_parent(scene, who, pose).rotation;
    state.cast.turn(who, rotation, state.now);
}

/// Forgets what is known under the keys from `first` on that are `meant`.
fn drop_from<K: Ord + Clone, V>(known: &mut BTreeMap<K, V>, first: K, meant: impl Fn(&K) -> bool) {
    let keys = known.range(first..).map(|(key, _)| key).take_while(|key| meant(key));
    let keys: SmallVec<[K; 4]> = keys.cloned().collect();
    for key in keys {
        known.remove(&key);
    }
}
