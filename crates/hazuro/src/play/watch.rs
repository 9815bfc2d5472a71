//! Detection over time: who must be looked at when, and what is about to happen.
//!
//! Nothing is looked at tick by tick. A look at a moving body or zone follows its path some way
//! ahead, finds every crossing on it, and says when to look again; what stands still need not be
//! looked at at all. A body that is moved by small steps, as by a host, keeps the distance to the
//! nearest boundary of a zone that stands still: until it has moved that far, no step of it is
//! looked at.
//!
//! Everything here can be rebuilt from the scene and the state, so none of it is part of a state.

use std::cmp::{Ordering, Reverse};
use std::collections::{BTreeSet, BinaryHeap};

use crate::Time;
use crate::detect::{Crossing, Look, boundary_distance, look};
use crate::geometry::{Aabb, Form, Pose};
use crate::motion::{Path, Segment};
use crate::scene::{BodySpec, EntityId, Layers, Scene, Thing};
use crate::space::{Course, Face, Index};
use crate::state::{Cause, State};
use crate::why::{Chain, Unwitnessed, Witness};

use super::stroll::{MARGIN, Step, Strolls};

/// What is known about an entity that detects or is detected.
#[derive(Clone, Debug)]
struct Mark {
    /// Counts the changes of its movement or switch; what was found before one is void.
    change: u32,
    /// Until when its path has been followed.
    until: Time,
}

/// A crossing that will happen if nothing changes.
#[derive(Clone, Debug)]
struct Pending {
    key: Key,
    /// The changes of zone and subject that it rests on.
    changes: (u32, u32),
    crossing: Crossing,
    cause: Cause,
}

/// When a pending crossing happens, its zone and subject, and its place among several of the two
/// at the same instant.
type Key = (Time, EntityId, EntityId, usize);

impl PartialEq for Pending {
    fn eq(&self, other: &Self) -> bool {
        self.cmp(other).is_eq()
    }
}

impl Eq for Pending {}

impl PartialOrd for Pending {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl Ord for Pending {
    fn cmp(&self, other: &Self) -> Ordering {
        (self.key, self.changes).cmp(&(other.key, other.changes))
    }
}

/// The form of something, the layers by which it is found, and its bounds.
type Found = (Option<Form>, Layers, Aabb);

/// What watches over a play.
#[derive(Debug, Default)]
pub(super) struct Watch {
    zones: Index,
    bodies: Index,
    solids: Index,
    marks: Vec<Mark>,
    strolls: Strolls,
    /// The stays of the state, by subject.
    inside: BTreeSet<(EntityId, EntityId)>,
    wakes: BinaryHeap<Reverse<(Time, EntityId, u32)>>,
    pending: BinaryHeap<Reverse<Pending>>,
    /// Who is near; kept for its memory.
    near: Vec<EntityId>,
}

impl Watch {
    /// Looks at everything there is.
    pub fn new(scene: &Scene, state: &State) -> Self {
        let mut watch = Self {
            marks: vec![Mark { change: 0, until: Time::MAX }; scene.len()],
            strolls: Strolls::of(scene),
            ..Self::default()
        };
        watch.look_at_all(scene, state);
        watch
    }

    fn look_at_all(&mut self, scene: &Scene, state: &State) {
        let stays = state.zones.iter();
        self.inside = stays
            .flat_map(|(zone, stays)| stays.stays.keys().map(|subject| (*subject, *zone)))
            .collect();
        let moving = |id: &EntityId| state.is_moving(scene, *id);
        let still = |pose| Path::still(state.now, state.now, pose);
        // The index of one side of the things that have it.
        let index = |has: fn(&Thing) -> bool, find: &dyn Fn(&Thing, &Path) -> Option<Found>| {
            let having = scene.ids().filter(|entity| has(scene.thing(*entity)));
            let faces = having.filter_map(|entity| {
                let pose = state.pose(scene, entity, state.now);
                let (form, layers, bounds) = find(scene.thing(entity), &still(pose))?;
                let off = state.switched_off_by(scene, entity).is_some();
                let still = !moving(&entity);
                let face = Face { entity, off, still, pose, form, layers: layers.0 };
                Some((face, still.then_some(bounds)))
            });
            Index::build(scene.len(), faces)
        };
        self.zones = index(|thing| thing.zone.is_some(), &|thing, path| {
            let zone = thing.zone.as_ref()?;
            Some((Some(zone.form.clone()), zone.admission.layers, zone.bounds(path)))
        });
        self.bodies = index(|thing| thing.body.is_some(), &|thing, path| {
            let body = thing.body.as_ref()?;
            // Of a body of one part where it stands itself, the part is all there is to know.
            let form = match &*body.parts {
                [part] if part.pose == Pose::IDENTITY => Some(part.form.clone()),
                _ => None,
            };
            Some((form, thing.layers, body.bounds(path)))
        });
        self.solids = index(|thing| thing.solid.is_some(), &|thing, path| {
            let solid = thing.solid.as_ref()?;
            Some((Some(solid.form.clone()), thing.layers, solid.bounds(path)))
        });
        for entity in scene.ids().filter(moving) {
            self.follow(scene, state, entity);
        }
        let cause = if state.started { Cause::Move } else { Cause::Appear };
        for entity in scene.ids() {
            // Who stands still is looked at from one side only: by the bodies.
            if scene.has_body(entity) || moving(&entity) {
                self.look(scene, state, entity, cause);
            }
        }
    }

    /// Looks again at an entity and its children, after a change of movement or switch.
    pub fn disturb(&mut self, scene: &Scene, state: &State, entity: EntityId, cause: Cause) {
        if matches!(cause, Cause::Enable | Cause::Disable | Cause::Remove) {
            for entity in scene.family(entity) {
                let off = state.switched_off_by(scene, entity).is_some();
                for index in [&mut self.zones, &mut self.bodies, &mut self.solids] {
                    index.switch(entity, off);
                }
            }
        }
        if scene.is_childless(entity) {
            self.marks[entity.index()].change += 1;
            self.look(scene, state, entity, cause);
            return;
        }
        // All are marked before any is looked at, so that nothing found is void at once.
        for entity in scene.family(entity) {
            if cause != Cause::Move {
                self.strolls.get_mut(entity).lose();
            }
            self.marks[entity.index()].change += 1;
            self.follow(scene, state, entity);
        }
        for entity in scene.family(entity) {
            self.look(scene, state, entity, cause);
        }
    }

    /// Where zones are.
    pub fn zones(&self) -> &Index {
        &self.zones
    }

    /// Where bodies are.
    pub fn bodies(&self) -> &Index {
        &self.bodies
    }

    /// Where solids are.
    pub fn solids(&self) -> &Index {
        &self.solids
    }

    /// Sees to it that questions are answered fast, if there are many.
    pub fn refresh(&mut self, scene: &Scene, state: &State) {
        let here = |id| Path::still(state.now, state.now, state.pose(scene, id, state.now));
        let known = |bounds: Option<Aabb>| bounds.unwrap_or(Aabb::EMPTY);
        let marks = &self.marks;
        let course = |id: EntityId| {
            let path = state.path(scene, id, state.now, marks[id.index()].until.max(state.now));
            course(&path, scene.thing(id).body.as_ref()?)
        };
        let body = |id| scene.thing(id).body.as_ref().map(|body| body.bounds(&here(id)));
        self.bodies.refresh(state.now, course, |id| known(body(id)));
        let solid = |id| scene.thing(id).solid.as_ref().map(|solid| solid.bounds(&here(id)));
        self.solids.refresh(state.now, |_| None, |id| known(solid(id)));
        let zone = |id| scene.thing(id).zone.as_ref().map(|zone| zone.bounds(&here(id)));
        self.zones.refresh(state.now, |_| None, |id| known(zone(id)));
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
        }
    }

    /// When the next crossing happens.
    pub fn next_crossing(&mut self) -> Option<Time> {
        while let Some(Reverse(Pending { key, changes, crossing, .. })) = self.pending.peek() {
            let (time, zone, subject, _) = *key;
            let is_inside = self.inside.contains(&(subject, zone));
            // What a later look found again has happened already.
            if *changes == self.changes(zone, subject) && crossing.enters != is_inside {
                return Some(time);
            }
            self.pending.pop();
        }
        None
    }

    /// Takes the next crossing, with its zone, subject and cause.
    pub fn take(&mut self) -> Option<(EntityId, EntityId, Crossing, Cause)> {
        self.next_crossing()?;
        let Reverse(Pending { key, crossing, cause, .. }) = self.pending.pop()?;
        let (_, zone, subject, _) = key;
        if crossing.enters {
            self.inside.insert((subject, zone));
        } else {
            self.inside.remove(&(subject, zone));
        }
        Some((zone, subject, crossing, cause))
    }

    /// Runs the gates of every pair that a witness asks for, from now until `until`, for it to
    /// hear.
    pub fn hear<W: Witness>(scene: &Scene, state: &State, until: Time, witness: &mut W) {
        let bodies: Vec<EntityId> = scene.ids().filter(|id| scene.has_body(*id)).collect();
        for on in scene.ids().filter(|id| scene.has_zone(*id)) {
            for &who in &bodies {
                if witness.wants(&Chain::Detector { on, who }) {
                    run_gates(scene, state, (on, who), until, witness, |_| {});
                }
            }
        }
    }

    fn changes(&self, zone: EntityId, subject: EntityId) -> (u32, u32) {
        (self.marks[zone.index()].change, self.marks[subject.index()].change)
    }

    /// Works out how far ahead an entity can be followed and writes down what it sweeps. Gives its
    /// path, if it detects or is detected at all.
    fn follow(&mut self, scene: &Scene, state: &State, entity: EntityId) -> Option<Path> {
        let thing = scene.thing(entity);
        if thing.zone.is_none() && thing.body.is_none() && thing.solid.is_none() {
            return None;
        }
        let horizon = state.horizon(scene, entity);
        let moving = horizon < Time::MAX;
        // A body that arrives within the horizon can be followed beyond: there it stands still.
        let arrives = thing.zone.is_none() && state.arrival(scene, entity) <= horizon;
        let until = if arrives { Time::MAX } else { horizon };
        self.marks[entity.index()].until = until;
        let path = state.path(scene, entity, state.now, until);
        let still = (!moving).then(|| path.pose(state.now));
        if let Some(zone) = &thing.zone {
            self.zones.set(entity, &zone.bounds(&path), still);
        }
        if let Some(solid) = &thing.solid {
            self.solids.set(entity, &solid.bounds(&path), still);
        }
        if let Some(body) = &thing.body {
            // What strolls is looked for in a wider place, see `look`.
            if !self.strolls.get(entity).is_under_way() {
                self.bodies.set(entity, &body.bounds(&path), still);
                if moving
                    && self.bodies.wants_courses()
                    && let Some(course) = course(&path, body)
                {
                    self.bodies.set_course(entity, course);
                }
            }
        }
        Some(path)
    }

    /// Looks at one entity from now on.
    fn look(&mut self, scene: &Scene, state: &State, entity: EntityId, cause: Cause) {
        let strolls = cause == Cause::Move && self.strolls.may(entity);
        let step = if strolls { small_step(state, entity) } else { None };
        match &step {
            Some(step) if self.strolls.get(entity).knows(step) => {
                self.marks[entity.index()].until = Time::MAX;
                self.stroll(scene, state, entity, step);
                return;
            }
            Some(_) => {}
            None => self.strolls.get_mut(entity).lose(),
        }
        let Some(path) = self.follow(scene, state, entity) else { return };
        let Mark { change, until } = self.marks[entity.index()];
        if until < Time::MAX {
            self.wakes.push(Reverse((until, entity, change)));
        }
        let mut near = std::mem::take(&mut self.near);
        let thing = scene.thing(entity);
        if let Some(zone) = &thing.zone {
            near.clear();
            near.extend(state.occupants(entity));
            let bounds = zone.bounds(&path);
            // Also those who know their surroundings, which are others now.
            let layers = zone.admission.layers.0;
            self.bodies.meeting(&bounds.grown(MARGIN), layers, |subject| near.push(subject.entity));
            near.sort_unstable();
            near.dedup();
            for &subject in &near {
                self.strolls.get_mut(subject).lose();
                self.examine(scene, state, (entity, subject), cause);
            }
        }
        if let Some(body) = &thing.body {
            near.clear();
            near.extend(self.inside_of(entity));
            let bounds = body.bounds(&path);
            let layers = thing.layers.0;
            let margin = if step.is_some() { MARGIN } else { 0.0 };
            self.zones.meeting(&bounds.grown(margin), layers, |zone| near.push(zone.entity));
            near.sort_unstable();
            near.dedup();
            if let Some(step) = step {
                // So that a zone that comes near finds it wherever it has gone meanwhile.
                self.bodies.cover(entity, &bounds.grown(MARGIN), MARGIN);
                self.strolls.get_mut(entity).begin(&step, &near);
                self.stroll(scene, state, entity, &step);
            } else {
                for &zone in &near {
                    self.examine(scene, state, (zone, entity), cause);
                }
            }
        }
        self.near = near;
    }

    fn inside_of(&self, subject: EntityId) -> impl Iterator<Item = EntityId> {
        let range = (subject, EntityId(0))..=(subject, EntityId(u32::MAX));
        self.inside.range(range).map(|(_, zone)| *zone)
    }

    /// Takes a step along a stroll: measures anew how far the zones are that it may reach, and
    /// examines those that it does.
    fn stroll(&mut self, scene: &Scene, state: &State, entity: EntityId, step: &Step) {
        let stroll = self.strolls.get_mut(entity);
        let walked = stroll.walked;
        stroll.walked += step.length;
        if stroll.near.iter().all(|known| walked + step.length < known.until) {
            return;
        }
        let mut near = std::mem::take(&mut stroll.near);
        for known in near.iter_mut().filter(|known| known.until <= walked + step.length) {
            let zone = known.zone;
            let Some(Face { form: Some(form), pose, still, .. }) = self.zones.face(zone) else {
                continue;
            };
            let mut reached = true;
            if *still {
                let (is_inside, distance) =
                    boundary_distance(scene, (zone, form, pose), (entity, &step.from));
                known.until = walked + distance;
                reached =
                    distance <= step.length || is_inside != self.inside.contains(&(entity, zone));
            }
            if reached {
                self.examine(scene, state, (zone, entity), Cause::Move);
            }
        }
        self.strolls.get_mut(entity).near = near;
    }

    /// Finds the crossings of a zone and a subject, as far as both have been followed.
    fn examine(&mut self, scene: &Scene, state: &State, pair: (EntityId, EntityId), cause: Cause) {
        let (zone, subject) = pair;
        let until = self.marks[zone.index()].until.min(self.marks[subject.index()].until);
        let changes = self.changes(zone, subject);
        let pending = &mut self.pending;
        let mut order = 0;
        run_gates(scene, state, pair, until, &mut Unwitnessed, |crossing| {
            let cause = if crossing.time == state.now { cause } else { Cause::Move };
            let key = (crossing.time, zone, subject, order);
            pending.push(Reverse(Pending { key, changes, crossing, cause }));
            order += 1;
        });
    }
}

/// The step that a body makes, if it is one of those for which it is worth knowing the
/// surroundings: straight, not turning, short, as a host makes one each tick.
fn small_step(state: &State, entity: EntityId) -> Option<Step> {
    let travel = state.live(entity).travel.as_ref()?;
    let from = travel.pose(state.now);
    let length = from.position.distance(travel.to().position);
    let small = travel.is_straight() && length > 0.0 && length < MARGIN / 4.0;
    small.then_some(Step { from, length })
}

/// The course of a body along a path, if it first goes straight and then, if at all, stands still.
fn course(path: &Path, body: &BodySpec) -> Option<Course> {
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

/// Runs the gates of a zone for a subject from now until `until`.
fn run_gates<W: Witness>(
    scene: &Scene,
    state: &State,
    (zone, subject): (EntityId, EntityId),
    until: Time,
    witness: &mut W,
    found: impl FnMut(Crossing),
) {
    let zone_path = state.path(scene, zone, state.now, until);
    let subject_path = state.path(scene, subject, state.now, until);
    let off = |entity| state.switched_off_by(scene, entity);
    let was_inside = state.stay(zone, subject).is_some();
    let zone = (zone, &zone_path, off(zone));
    let subject = (subject, &subject_path, off(subject));
    look(Look::new(scene, zone, subject, was_inside), witness).into_iter().for_each(found);
}
