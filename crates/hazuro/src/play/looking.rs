//! Looking at one entity: whom it is near on its way, and what that will lead to.

use std::cmp::Reverse;

use crate::Time;
use crate::describe::{Detector, EntityId};
use crate::detect::{boundary_distance, look, members};
use crate::geometry::Aabb;
use crate::model::Scene;
use crate::motion::Path;
use crate::space::{Face, Indices};
use crate::state::{Cause, State, WHOLE};
use crate::why::Unwitnessed;

use super::clearance::{MARGIN, Step};
use super::pending::{Pair, Pending, REGIONS};
use super::sides::prompt_bounds;
use super::watch::{Mark, Near, Watch, course};

impl Watch {
    /// Works out how far ahead an entity can be followed and writes down what it sweeps. Gives its
    /// path, if it detects or is detected at all. What only makes a step is followed to its end, so
    /// that it is looked at in the same way whether its surroundings are known or not.
    pub(super) fn follow(
        &mut self,
        scene: &Scene,
        state: &State,
        (entity, is_step): (EntityId, bool),
    ) -> Option<Path> {
        let thing = scene.thing(entity);
        let found = thing.zone.is_some() || thing.body.is_some() || thing.solid.is_some();
        if !found && thing.senses.is_none() && !self.rounds.has(entity) {
            return None;
        }
        let horizon = state.horizon(scene, entity);
        let moving = horizon < Time::MAX;
        // A body that arrives within the horizon can be followed beyond: there it stands still.
        let region = thing.zone.is_some() || thing.has(Detector::Touch);
        let arrives = !region && (is_step || state.arrival(scene, entity) <= horizon);
        let until = if arrives { Time::MAX } else { horizon };
        self.marks[entity.index()].until = until;
        let path = state.path(scene, entity, state.now, until);
        let still = (!moving).then(|| path.pose(state.now));
        if let Some(zone) = &thing.zone {
            self.indices.zones.set(entity, &zone.bounds(&path), still);
        }
        if let Some(solid) = &thing.solid {
            self.indices.solids.set(entity, &solid.bounds(&path), still);
        }
        if let Some(touch) = thing.region(Detector::Touch) {
            self.indices.touches.set(entity, &touch.bounds(&path), still);
        }
        if let Some(bounds) = prompt_bounds(thing, &path) {
            self.indices.prompts.set(entity, &bounds, still);
        }
        if let Some(body) = &thing.body {
            // What strolls is looked for in a wider place, see `look`.
            if !self.clearances.get(entity).is_under_way() {
                self.indices.bodies.set(entity, &body.bounds(&path), still);
                if moving
                    && self.indices.bodies.wants_courses()
                    && let Some(course) = course(&path, body)
                {
                    self.indices.bodies.set_course(entity, course);
                }
            }
        }
        Some(path)
    }

    /// Looks at one entity from now on.
    pub(super) fn look(&mut self, scene: &Scene, state: &State, entity: EntityId, cause: Cause) {
        if scene.has_movers() {
            self.wake_neighbours(scene, state, entity);
        }
        // What else has happened to it at this instant is yet to be told, wherever it is.
        let makes_steps = cause == Cause::Move
            && self.clearances.may(entity)
            && self.other_reason(entity, state.now).is_none()
            && state.live(entity).rides.is_none()
            && (state.links.is_empty() || !state.links.contains_key(&entity));
        let step = if makes_steps { small_step(scene, state, entity) } else { None };
        if !self.rounds.is_empty() {
            let unnoticed = step.as_ref().is_some_and(|step| {
                self.clearances.get(entity).knows(step) && !self.is_noticed(scene, state, entity)
            });
            if !unnoticed {
                self.stir(scene, state, entity, cause);
            }
        }
        match &step {
            Some(step) if self.clearances.get(entity).knows(step) => {
                self.marks[entity.index()].until = Time::MAX;
                self.clearance(scene, state, entity, step);
                return;
            }
            Some(_) => {}
            None => self.clearances.get_mut(entity).lose(),
        }
        let Some(path) = self.follow(scene, state, (entity, step.is_some())) else { return };
        let Mark { change, until } = self.marks[entity.index()];
        if until < Time::MAX {
            self.wakes.push(Reverse((until, entity, change)));
        }
        for detector in REGIONS {
            self.look_for_subjects(scene, state, (entity, detector), &path, cause);
        }
        let thing = scene.thing(entity);
        if let Some(body) = &thing.body {
            let mut near = std::mem::take(&mut self.near);
            near.clear();
            near.extend(self.inside_of(entity));
            let bounds = body.bounds(&path);
            let layers = thing.layers.0;
            let margin = if step.is_some() { MARGIN } else { 0.0 };
            let around = bounds.grown(margin);
            let Indices { zones, touches, .. } = &self.indices;
            zones.meeting(&around, layers, |zone| near.push((zone.entity, Detector::Zone)));
            if !touches.is_empty() {
                let mut around = around;
                for limb in scene.attached_solids(entity) {
                    let until = self.marks[limb.index()].until;
                    let path = state.path(scene, *limb, state.now, until);
                    let solid = scene.thing(*limb).solid.as_ref();
                    around = solid.map_or(around, |solid| around.join(&solid.bounds(&path)));
                }
                touches.meeting(&around, layers, |on| near.push((on.entity, Detector::Touch)));
            }
            near.sort_unstable();
            near.dedup();
            if let Some(step) = step {
                // So that a zone that comes near finds it wherever it has gone meanwhile.
                let within = bounds.grown(MARGIN);
                self.indices.bodies.cover(entity, &within, MARGIN);
                self.clearances.get_mut(entity).begin(&step, &near, within);
                self.clearance(scene, state, entity, &step);
            } else {
                for &(on, detector) in &near {
                    self.examine(scene, state, (on, detector, entity), cause);
                }
            }
            self.near = near;
        }
        if let Some(solid) = thing.solid.as_ref().filter(|_| !self.indices.touches.is_empty()) {
            // Of a body's solids the body is the subject, and seen to there.
            if state.owner(scene, entity).is_none() {
                let mut near: Vec<Near> = self.inside_of(entity).collect();
                let (bounds, layers) = (solid.bounds(&path), thing.layers.0);
                self.indices.touches.meeting(&bounds, layers, |on| {
                    let region = scene.thing(on.entity).region(Detector::Touch);
                    if on.entity != entity && region.is_some_and(|region| region.solids) {
                        near.push((on.entity, Detector::Touch));
                    }
                });
                near.sort_unstable();
                near.dedup();
                for (on, detector) in near {
                    self.examine(scene, state, (on, detector, entity), cause);
                }
            }
        }
    }

    /// Whether anything asked in rounds may notice a body that makes steps in known surroundings.
    fn is_noticed(&mut self, scene: &Scene, state: &State, entity: EntityId) -> bool {
        // What senses itself, or can be used, matters in more ways than by being there.
        if scene.thing(entity).senses.is_some() || self.rounds.has(entity) {
            return true;
        }
        let rounds = &self.rounds;
        let ask = |within: &Aabb| rounds.may_notice((scene, state), entity, within);
        self.clearances.get_mut(entity).is_noticed(rounds.moves(), ask)
    }

    /// The zones and touch detectors that detect a subject.
    fn inside_of(&self, who: EntityId) -> impl Iterator<Item = Near> {
        self.inside.of_subject(who).filter(|(_, detector)| REGIONS.contains(detector))
    }

    /// Looks for those whom a zone or touch detector detects along its path.
    fn look_for_subjects(
        &mut self,
        scene: &Scene,
        state: &State,
        (entity, detector): (EntityId, Detector),
        path: &Path,
        cause: Cause,
    ) {
        let Some(region) = scene.thing(entity).region(detector) else { return };
        let mut near = std::mem::take(&mut self.near);
        near.clear();
        near.extend(state.known(entity, detector).into_iter().map(|who| (who, detector)));
        let bounds = region.bounds(path);
        // Also those who know their surroundings, which are others now.
        let layers = region.admission.layers.0;
        let Indices { bodies, solids, .. } = &self.indices;
        bodies.meeting(&bounds.grown(MARGIN), layers, |who| near.push((who.entity, detector)));
        if detector == Detector::Touch {
            solids.meeting(&bounds, u64::MAX, |solid| match state.owner(scene, solid.entity) {
                Some(owner) => near.push((owner, detector)),
                None if region.solids && solid.entity != entity => {
                    near.push((solid.entity, detector));
                }
                None => {}
            });
        }
        near.sort_unstable();
        near.dedup();
        for &(who, _) in &near {
            self.clearances.get_mut(who).lose();
            self.examine(scene, state, (entity, detector, who), cause);
        }
        self.near = near;
    }

    /// All that know an entity already are asked at once, and all that it is offered to.
    pub(super) fn poll_awareness(&mut self, state: &State, entity: EntityId, cause: Cause) {
        for (on, _) in self.inside.of_subject(entity) {
            self.rounds.hasten_all(on, state.now, cause);
        }
        // Of these the players ask.
        for detector in [Detector::Prompt, Detector::Pointer] {
            for player in state.known(entity, detector) {
                self.rounds.hasten_all(player, state.now, cause);
            }
        }
    }

    /// Rouses the detectors that are asked again and again, as far as this entity matters to them.
    pub(super) fn stir(&mut self, scene: &Scene, state: &State, entity: EntityId, cause: Cause) {
        let now = state.now;
        let horizon = state.horizon(scene, entity);
        let until = state.arrival(scene, entity).min(horizon).max(now);
        let path = state.path(scene, entity, now, until);
        let thing = scene.thing(entity);
        if self.rounds.has(entity) {
            self.rounds.owner_moves(entity, &path, until, now);
            self.rounds.hasten_all(entity, now, cause);
        }
        let mut bounds = Aabb::EMPTY;
        let mut found = false;
        let mut join = |more: Option<Aabb>| {
            found |= more.is_some();
            bounds = more.map_or(bounds, |more| bounds.join(&more));
        };
        join(thing.body.as_ref().map(|body| body.bounds(&path)));
        join(thing.solid.as_ref().map(|solid| solid.bounds(&path)));
        join(thing.zone.as_ref().map(|zone| zone.bounds(&path)));
        join(prompt_bounds(thing, &path));
        if found {
            if !matches!(cause, Cause::Move | Cause::Appear) {
                // Also where it was found before, for who knows it from there.
                self.poll_awareness(state, entity, cause);
            }
            self.rounds.stir(&bounds, until, now, cause);
        }
    }

    /// Takes a step along a stroll: measures anew how far the zones are that it may reach, and
    /// examines those that it does.
    fn clearance(&mut self, scene: &Scene, state: &State, entity: EntityId, step: &Step) {
        let clearance = self.clearances.get_mut(entity);
        let walked = clearance.walk(step);
        if clearance.near.iter().all(|known| walked + step.length < known.until) {
            return;
        }
        let mut near = std::mem::take(&mut clearance.near);
        for known in near.iter_mut().filter(|known| known.until <= walked + step.length) {
            let (on, detector) = known.on;
            if self.other_reason(on, state.now).is_some() {
                known.until = 0.0;
                self.examine(scene, state, (on, detector, entity), Cause::Move);
                continue;
            }
            let index = match detector {
                Detector::Zone => &self.indices.zones,
                _ => &self.indices.touches,
            };
            let Some(Face { form: Some(form), pose, still, .. }) = index.face(on) else {
                continue;
            };
            let mut reached = true;
            if *still {
                let (is_inside, distance) = boundary_distance(
                    scene,
                    state,
                    (on, detector, form, pose),
                    (entity, &step.from),
                );
                known.until = walked + distance;
                reached = distance <= step.length
                    || is_inside != self.inside.has((on, detector, entity), WHOLE);
            }
            if reached {
                self.examine(scene, state, (on, detector, entity), Cause::Move);
            }
        }
        self.clearances.get_mut(entity).near = near;
    }

    /// Finds the crossings of a detector and a subject, as far as both have been followed.
    fn examine(&mut self, scene: &Scene, state: &State, pair: Pair, cause: Cause) {
        let (on, detector, who) = pair;
        let mut until = self.marks[on.index()].until;
        for member in members(scene, detector, who) {
            until = until.min(self.marks[member.index()].until);
        }
        let changes = self.changes(scene, pair);
        let crossings = look((scene, state), pair, until.max(state.now), &mut Unwitnessed);
        for (order, crossing) in crossings.into_iter().enumerate() {
            // What also moves at the instant at which something else happens to it, or to what
            // detects it, is not detected for having moved.
            let cause = match cause {
                _ if crossing.time != state.now => Cause::Move,
                Cause::Move => {
                    let other = [on, who].map(|one| self.other_reason(one, state.now));
                    other.into_iter().flatten().next().unwrap_or(Cause::Move)
                }
                other => other,
            };
            self.pending.push(Reverse(Pending { pair, changes, crossing, cause, order }));
        }
    }
}

/// The step that a body makes, if it is one of those for which it is worth knowing the
/// surroundings: straight, even, short, as a host makes one each tick; of no length if it says that
/// the body has stayed where it is.
fn small_step(scene: &Scene, state: &State, entity: EntityId) -> Option<Step> {
    let travel = state.live(entity).travel.as_ref().filter(|travel| travel.is_even())?;
    let (from, to) = (travel.pose(state.now), *travel.to());
    let mut length = from.position.distance(to.position);
    if from.rotation != to.rotation {
        let body = scene.thing(entity).body.as_ref()?;
        length += body.carried_by_turn(from.rotation, to.rotation);
    }
    (length < MARGIN / 4.0).then_some(Step { from, to: to.rotation, length })
}
