//! Detection over time: who must be looked at when, and what is about to happen.
//!
//! Nothing is looked at tick by tick. A look at a moving body or zone follows its path some way
//! ahead, finds every crossing on it, and says when to look again; what stands still need not be
//! looked at at all. A body that is moved by small steps, as by a host, keeps the distance to the
//! nearest boundary of a zone that stands still: until it has moved that far, no step of it is
//! looked at.
//!
//! Everything here can be rebuilt from the scene and the state, so none of it is part of a state.

use std::cmp::Reverse;
use std::collections::{BTreeMap, BTreeSet, BinaryHeap};

use crate::Time;
use crate::describe::{Detector, EntityId};
use crate::detect::probe::ProbeRay;
use crate::detect::{Change, members};
use crate::fast_hash::FastMap;
use crate::geometry::Aabb;
use crate::model::{BodySpec, Scene, Thing};
use crate::motion::{Path, Segment};
use crate::space::{Course, Index, Indices};
use crate::state::{Cause, State};

use super::clearance::Clearances;
use super::hearing::Hearing;
use super::pending::{Insides, Pair, Pending, Pendings};
use super::rounds::Rounds;
use super::sides::{SIDES, prompt_bounds};

/// What is known about an entity that detects or is detected.
#[derive(Clone, Debug)]
pub(super) struct Mark {
    /// Counts the changes of its movement or switch; what was found before one is void.
    pub change: u32,
    /// Until when its path has been followed.
    pub until: Time,
}

/// A detector and a subject, one of which is near the other.
pub(super) type Near = (EntityId, Detector);

/// What watches over a play.
#[derive(Debug, Default)]
pub(super) struct Watch {
    pub(super) indices: Indices,
    pub(super) marks: Vec<Mark>,
    pub(super) clearances: Clearances,
    pub(super) inside: Insides,
    pub(super) wakes: BinaryHeap<Reverse<(Time, EntityId, u32)>>,
    pub(super) pending: Pendings,
    pub(super) rounds: Rounds,
    /// The last ray of each probe.
    pub(super) rays: BTreeMap<EntityId, ProbeRay>,
    /// Bodies that have been told where to be and are yet to be looked at.
    pub(super) told: Vec<EntityId>,
    /// What a witness has heard in this run.
    pub(super) hearing: Hearing,
    /// Who is near; kept for its memory.
    pub(super) near: Vec<Near>,
    /// Bodies around which something has changed, and that must be looked at at once.
    pub(super) dirty_bodies: BTreeSet<EntityId>,
    /// When bodies that move by themselves have something to decide, or are looked at again.
    pub(super) decisions: BTreeSet<(Time, EntityId)>,
    pub(super) decision_of: FastMap<EntityId, Time>,
    /// What has been put elsewhere or switched, when, and which of it: whoever decides at the same
    /// instant is detected for that reason, not for having moved.
    pub(super) reasons: FastMap<EntityId, (Time, Cause)>,
}

impl Watch {
    /// Looks at everything there is.
    pub fn new(scene: &Scene, state: &State) -> Self {
        let mut watch = Self {
            marks: vec![Mark { change: 0, until: Time::MAX }; scene.len()],
            rounds: Rounds::of(scene, state),
            ..Self::default()
        };
        watch.look_at_all(scene, state);
        watch
    }

    fn look_at_all(&mut self, scene: &Scene, state: &State) {
        self.inside = Insides::of(state);
        let moving = |id: &EntityId| state.is_moving(scene, *id);
        for side in &SIDES {
            let faces = scene.ids().filter_map(|entity| side.face(scene, state, entity));
            *(side.index)(&mut self.indices) = Index::build(scene.len(), faces);
        }
        for entity in scene.ids().filter(moving) {
            self.follow(scene, state, entity);
        }
        let cause = if state.started { Cause::Move } else { Cause::Appear };
        for entity in scene.ids() {
            // Who stands still is looked at from one side only: by the bodies.
            let looks_itself =
                |thing: &Thing| thing.region(Detector::Touch).is_some_and(|touch| touch.solids);
            // What is out of the play is detected by nobody, and looked at when it comes in.
            if state.live(entity).removed {
                continue;
            }
            if scene.has_body(entity) || moving(&entity) || looks_itself(scene.thing(entity)) {
                self.look(scene, state, entity, cause);
            }
        }
    }

    /// Takes in the entities from number `first` on, which are not in the play yet. Those who have been
    /// there may have got other reaches.
    pub fn grow(&mut self, scene: &Scene, state: &State, first: usize, reaches_anew: bool) {
        self.marks.resize(scene.len(), Mark { change: 0, until: Time::MAX });
        for entity in scene.ids().skip(first) {
            for side in &SIDES {
                if let Some((face, bounds)) = side.face(scene, state, entity) {
                    (side.index)(&mut self.indices).add(scene.len(), face, bounds.as_ref());
                }
            }
            // Whose part it is may have been nothing but a body.
            if let Some(bearer) = state.bearer(scene, entity) {
                self.lose_surroundings(state, bearer);
            }
        }
        let first = if reaches_anew { 0 } else { first };
        if reaches_anew {
            self.rounds = Rounds::default();
            self.clearances.clear();
        }
        self.rounds.grow(scene, state, first, state.motion.stirs.1.max(state.now));
        // Their reaches go along with what is on its way.
        for entity in scene.ids().skip(first).filter(|entity| state.is_moving(scene, *entity)) {
            self.stir(scene, state, entity, Cause::Move);
        }
    }

    /// Takes in an entity that has been converted. Those who have been there may have got other reaches.
    pub fn convert(&mut self, scene: &Scene, state: &State, entity: EntityId, reaches_anew: bool) {
        for side in &SIDES {
            if let Some((face, bounds)) = side.face(scene, state, entity) {
                (side.index)(&mut self.indices).replace(face, bounds.as_ref());
            }
        }
        self.rounds.convert(scene, state, entity);
        if reaches_anew {
            self.grow(scene, state, scene.len(), true);
        }
    }

    /// Looks again at an entity and its children, after a change of movement or switch.
    pub fn disturb(&mut self, scene: &Scene, state: &State, entity: EntityId, cause: Cause) {
        // What carries it may not have carried it before.
        if let Some(carrier) = state.carriers(scene, entity).nth(1) {
            self.bind(state, carrier);
        }
        if cause != Cause::Move {
            for entity in state.company(scene, entity) {
                self.reasons.insert(entity, (state.now, cause));
            }
        }
        if matches!(cause, Cause::Enable | Cause::Disable | Cause::Remove | Cause::Appear) {
            for entity in state.family(scene, entity) {
                for side in &SIDES {
                    let off = state.off_by(scene, entity, side.switch).is_some();
                    (side.index)(&mut self.indices).switch(entity, off);
                }
            }
        }
        if state.is_alone(scene, entity) {
            self.marks[entity.index()].change += 1;
            self.look(scene, state, entity, cause);
        } else {
            // All are marked before any is looked at, so that nothing found is void at once.
            let company = state.company(scene, entity);
            for &entity in &company {
                if cause != Cause::Move {
                    self.lose_surroundings(state, entity);
                }
                self.marks[entity.index()].change += 1;
                self.follow(scene, state, entity);
            }
            for entity in company {
                self.look(scene, state, entity, cause);
            }
        }
        self.look_at_bearer(scene, state, entity);
    }

    /// Looks again at the body whose solid something below it is.
    fn look_at_bearer(&mut self, scene: &Scene, state: &State, entity: EntityId) {
        let bearer = state.bearer(scene, entity).filter(|bearer| *bearer != entity);
        let Some(bearer) = bearer.filter(|bearer| !scene.attached_solids(*bearer).is_empty())
        else {
            return;
        };
        self.lose_surroundings(state, bearer);
        self.marks[bearer.index()].change += 1;
        self.look(scene, state, bearer, Cause::Move);
    }

    /// Where everything is.
    pub fn indices(&self) -> &Indices {
        &self.indices
    }

    /// Sees to it that questions are answered fast, if there are many.
    pub fn refresh(&mut self, scene: &Scene, state: &State) {
        let here = |id| Path::still(state.now, state.now, state.pose(scene, id, state.now));
        let known = |bounds: Option<Aabb>| bounds.unwrap_or(Aabb::EMPTY);
        let (marks, clearances) = (&self.marks, &self.clearances);
        let lane = &state.cast.lane;
        let course = |id: EntityId| {
            // Of what makes steps in known surroundings the index does not hear: it has no course.
            if lane.place(id).is_some_and(|place| clearances.knows(place)) {
                return None;
            }
            let path = state.path(scene, id, state.now, marks[id.index()].until.max(state.now));
            course(&path, scene.thing(id).body.as_ref()?)
        };
        let body = |id| scene.thing(id).body.as_ref().map(|body| body.bounds(&here(id)));
        self.indices.bodies.refresh(state.now, course, |id| known(body(id)));
        let solid = |id| scene.thing(id).solid.as_ref().map(|solid| solid.bounds(&here(id)));
        self.indices.solids.refresh(state.now, |_| None, |id| known(solid(id)));
        let zone = |id| scene.thing(id).zone.as_ref().map(|zone| zone.bounds(&here(id)));
        self.indices.zones.refresh(state.now, |_| None, |id| known(zone(id)));
        let touch = |id| {
            let region = scene.thing(id).region(Detector::Touch);
            region.map(|region| region.bounds(&here(id)))
        };
        self.indices.touches.refresh(state.now, |_| None, |id| known(touch(id)));
        let prompt = |id| prompt_bounds(scene.thing(id), &here(id));
        self.indices.prompts.refresh(state.now, |_| None, |id| known(prompt(id)));
    }

    /// When somebody must be looked at next.
    pub fn next_wake(&self) -> Option<Time> {
        self.wakes.peek().map(|Reverse((time, ..))| *time)
    }

    /// Looks at who must be looked at now.
    pub fn wake(&mut self, scene: &Scene, state: &State) {
        let Some(Reverse((time, entity, change))) = self.wakes.pop() else { return };
        let mark = &self.marks[entity.index()];
        if mark.change == change && mark.until == time {
            self.look(scene, state, entity, Cause::Move);
            self.look_at_bearer(scene, state, entity);
        }
    }

    /// When the next crossing happens.
    pub fn next_crossing(&mut self, scene: &Scene) -> Option<Time> {
        while let Some(Reverse(Pending { pair, changes, crossing, .. })) = self.pending.peek() {
            let is_inside = self.inside.has(*pair, crossing.by_part);
            // What a later look found again has happened already.
            if *changes == self.changes(scene, *pair) && crossing.enters != is_inside {
                return Some(crossing.time);
            }
            self.pending.pop();
        }
        None
    }

    /// Takes the next crossing, with its time.
    pub fn take(&mut self, scene: &Scene) -> Option<(Time, Change)> {
        self.next_crossing(scene)?;
        let Reverse(Pending { pair, crossing, cause, .. }) = self.pending.pop()?;
        let (on, detector, who) = pair;
        let change = Change {
            by_part: crossing.by_part,
            part: crossing.part,
            meeting: crossing.meeting,
            ..Change::of(on, detector, who, crossing.enters, cause)
        };
        Some((crossing.time, change))
    }

    /// The detectors that know a subject, in order; some several times.
    pub fn known_by(&self, who: EntityId) -> impl Iterator<Item = Near> {
        self.inside.of_subject(who)
    }

    /// Writes down that a subject is detected from now on, or is so no more.
    pub fn note(&mut self, state: &State, pair: Pair, by_part: u32, inside: bool) {
        self.inside.set(pair, by_part, inside);
        let (on, detector, who) = pair;
        if let Some(place) = state.cast.lane.place(who) {
            let inside = self.inside.of_subject(who).any(|it| it == (on, detector));
            self.clearances.note(place, (on, detector), inside);
        }
    }

    pub(super) fn changes(&self, scene: &Scene, (on, detector, who): Pair) -> (u32, u32) {
        let change = |entity: EntityId| self.marks[entity.index()].change;
        let subject = if detector == Detector::Zone {
            change(who)
        } else {
            let members = members(scene, detector, who);
            members.into_iter().fold(0, |sum: u32, member| sum.wrapping_add(change(member)))
        };
        (change(on), subject)
    }
}

/// The course of a body along a path, if it first goes straight and then, if at all, stands still.
pub(super) fn course(path: &Path, body: &BodySpec) -> Option<Course> {
    let (first, rest) = path.segments().split_first()?;
    let stays = |segment: &Segment| segment.from == first.to && segment.to == first.to;
    if first.from.rotation != first.to.rotation || !rest.iter().all(stays) {
        return None;
    }
    let bounds = body.bounds(&Path::still(first.start, first.start, first.from));
    let velocity =
        (first.to.position - first.from.position) / (first.end - first.start).secs().max(1e-9);
    Some(Course { start: first.start, end: first.end, bounds, velocity })
}
