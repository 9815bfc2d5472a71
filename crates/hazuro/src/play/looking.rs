//! Looking at one entity: whom it is near on its way, and what that will lead to.

use std::cmp::Reverse;

use crate::Time;
use crate::describe::{Detector, EntityId};
use crate::detect::{look, members};
use crate::geometry::Aabb;
use crate::model::Scene;
use crate::motion::Path;
use crate::space::Indices;
use crate::state::{Cause, State};
use crate::why::Unwitnessed;

use super::pending::{Pair, Pending, REGIONS};
use super::sides::prompt_bounds;
use super::watch::{Mark, Near, Watch, course};

impl Watch {
    /// Works out how far ahead an entity can be followed and writes down what it sweeps. Gives its
    /// path, if it detects or is detected at all.
    pub(super) fn follow(
        &mut self,
        scene: &Scene,
        state: &State,
        entity: EntityId,
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
        let arrives = !region && state.arrival(scene, entity) <= horizon;
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
            // Who knows the surroundings is looked for in all of these, see `look_around`.
            if !self.knows_surroundings(state, entity) {
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

    /// Whether a body makes steps in known surroundings.
    pub(super) fn knows_surroundings(&self, state: &State, entity: EntityId) -> bool {
        state.cast.lane.place(entity).is_some_and(|place| self.clearances.knows(place))
    }

    /// Whether a body may be told to be elsewhere without being looked at.
    pub(super) fn has_leeway(&self, state: &State, entity: EntityId) -> bool {
        state.cast.lane.place(entity).is_some_and(|place| self.clearances.has_leeway(place))
    }

    /// Lets a body that makes steps be looked at at the next one.
    pub(super) fn bind(&mut self, state: &State, entity: EntityId) {
        if let Some(place) = state.cast.lane.place(entity) {
            self.clearances.bind(place);
        }
    }

    /// Lets a body that makes steps find anew what is around it.
    pub(super) fn lose_surroundings(&mut self, state: &State, entity: EntityId) {
        if let Some(place) = state.cast.lane.place(entity) {
            self.clearances.lose(place);
        }
    }

    /// Looks at one entity from now on.
    pub(super) fn look(&mut self, scene: &Scene, state: &State, entity: EntityId, cause: Cause) {
        if scene.has_movers() {
            self.wake_neighbours(scene, state, entity);
        }
        self.bind(state, entity);
        let step = self.step_of(scene, state, (entity, cause));
        if !self.rounds.is_empty() {
            let unnoticed = step.as_ref().is_some_and(|(place, step)| {
                self.clearances.around(*place).hold(step)
                    && !self.is_noticed(scene, state, (entity, *place))
            });
            if !unnoticed {
                self.stir(scene, state, entity, cause);
            }
        }
        if let Some((place, step)) = step {
            return self.look_at_step(scene, state, entity, (place, &step));
        }
        self.lose_surroundings(state, entity);
        let Some(path) = self.follow(scene, state, entity) else { return };
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
            let Indices { zones, touches, .. } = &self.indices;
            zones.meeting(&bounds, layers, |zone| near.push((zone.entity, Detector::Zone)));
            if !touches.is_empty() {
                let mut around = bounds;
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
            for &(on, detector) in &near {
                self.examine(scene, state, (on, detector, entity), cause);
            }
            self.near = near;
        }
        if let Some(solid) = thing.solid.as_ref().filter(|_| !self.indices.touches.is_empty()) {
            // Of a body's solids the body is the subject, and seen to there.
            if state.bearer(scene, entity).is_none() {
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

    /// The zones and touch detectors that detect a subject.
    pub(super) fn inside_of(&self, who: EntityId) -> impl Iterator<Item = Near> {
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
        // Also those who know their surroundings, which are others now: they are found in all of these.
        let layers = region.admission.layers.0;
        let Indices { bodies, solids, .. } = &self.indices;
        bodies.meeting(&bounds, layers, |who| near.push((who.entity, detector)));
        if detector == Detector::Touch {
            solids.meeting(&bounds, u64::MAX, |solid| match state.bearer(scene, solid.entity) {
                Some(bearer) => near.push((bearer, detector)),
                None if region.solids && solid.entity != entity => {
                    near.push((solid.entity, detector));
                }
                None => {}
            });
        }
        near.sort_unstable();
        near.dedup();
        for &(who, _) in &near {
            self.lose_surroundings(state, who);
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
            self.rounds.bearer_moves(entity, &path, until, now);
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

    /// Finds the crossings of a detector and a subject, as far as both have been followed.
    pub(super) fn examine(&mut self, scene: &Scene, state: &State, pair: Pair, cause: Cause) {
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
