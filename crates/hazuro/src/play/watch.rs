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

use glam::{DQuat, DVec3};

use crate::Time;
use crate::detect::{Crossing, Look, boundary_distance, look};
use crate::geometry::{Aabb, Form, Pose};
use crate::motion::Path;
use crate::scene::{EntityId, Layers, Scene};
use crate::space::{Face, Index};
use crate::state::{Cause, State};
use crate::why::{Chain, Unwitnessed, Witness};

/// How far around a body moved by small steps to look for boundaries, in metres.
const MARGIN: f64 = 2.0;

/// What is known about an entity that detects or is detected.
#[derive(Clone, Debug)]
struct Mark {
    /// Counts the changes of its movement or switch; what was found before one is void.
    change: u32,
    /// Until when its path has been followed.
    until: Time,
}

/// Around `center`, turned so, a body meets no boundary of a zone that stands still.
#[derive(Clone, Debug, Default)]
struct Ball {
    center: DVec3,
    rotation: DQuat,
    radius: f64,
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

/// What watches over a play.
#[derive(Debug, Default)]
pub(super) struct Watch {
    zones: Index,
    bodies: Index,
    solids: Index,
    marks: Vec<Mark>,
    balls: Vec<Ball>,
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
            balls: vec![Ball::default(); scene.len()],
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
        let face = |entity: EntityId, form: Option<&Form>, layers: Layers| Face {
            entity,
            off: state.switched_off_by(scene, entity).is_some(),
            still: !moving(&entity),
            pose: state.pose(scene, entity, state.now),
            form: form.cloned(),
            layers: layers.0,
        };
        let here = |face: &Face| face.still.then(|| Path::still(state.now, state.now, face.pose));
        self.zones = Index::build(
            scene.len(),
            scene.ids().filter_map(|id| {
                let zone = scene.thing(id).zone.as_ref()?;
                let face = face(id, Some(&zone.form), zone.admission.layers);
                let bounds = here(&face).map(|path| zone.bounds(&path));
                Some((face, bounds))
            }),
        );
        self.bodies = Index::build(
            scene.len(),
            scene.ids().filter_map(|id| {
                let body = scene.thing(id).body.as_ref()?;
                let face = face(id, None, scene.layers_of(id));
                let bounds = here(&face).map(|path| body.bounds(&path));
                Some((face, bounds))
            }),
        );
        self.solids = Index::build(
            scene.len(),
            scene.ids().filter_map(|id| {
                let solid = scene.thing(id).solid.as_ref()?;
                let face = face(id, Some(&solid.form), scene.layers_of(id));
                let bounds = here(&face).map(|path| solid.bounds(&path));
                Some((face, bounds))
            }),
        );
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
            let bounds = body.bounds(&path);
            if self.small_step(scene, entity, &path).is_some() {
                self.bodies.cover(entity, &bounds, MARGIN);
            } else {
                self.bodies.set(entity, &bounds, still);
            }
        }
        Some(path)
    }

    /// Looks at one entity from now on.
    fn look(&mut self, scene: &Scene, state: &State, entity: EntityId, cause: Cause) {
        if self.is_safe(scene, state, entity, cause) {
            self.marks[entity.index()].until = Time::MAX;
            return;
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
            // Also those whose ball this zone may now reach into.
            let layers = zone.admission.layers.0;
            self.bodies.meeting(&bounds.grown(MARGIN), layers, |subject| near.push(subject.entity));
            near.sort_unstable();
            near.dedup();
            for &subject in &near {
                self.balls[subject.index()].radius = 0.0;
                self.examine(scene, state, (entity, subject), cause);
            }
        }
        if let Some(body) = &thing.body {
            near.clear();
            near.extend(self.inside_of(entity));
            let bounds = body.bounds(&path);
            let step = self.small_step(scene, entity, &path).filter(|_| cause == Cause::Move);
            let margin = if step.is_some() { MARGIN } else { 0.0 };
            let layers = thing.layers.0;
            self.zones.meeting(&bounds.grown(margin), layers, |zone| near.push(zone.entity));
            near.sort_unstable();
            near.dedup();
            self.balls[entity.index()].radius = 0.0;
            if let Some(step) = step {
                self.inflate(scene, state, entity, (&bounds, step), &near);
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

    /// Whether a body moves on by a step so small that it cannot meet a boundary, so that there
    /// is nothing to look at.
    fn is_safe(&self, scene: &Scene, state: &State, entity: EntityId, cause: Cause) -> bool {
        let ball = &self.balls[entity.index()];
        let thing = scene.thing(entity);
        let more_than_body = thing.zone.is_some() || thing.solid.is_some();
        // A moving zone may come to it from anywhere.
        if ball.radius == 0.0
            || cause != Cause::Move
            || more_than_body
            || self.zones.anything_moves()
        {
            return false;
        }
        let (Some(travel), None) = (&state.live(entity).travel, scene.parent(entity)) else {
            return false;
        };
        let holds = |pose: &Pose| {
            pose.rotation == ball.rotation && pose.position.distance(ball.center) < ball.radius
        };
        travel.is_straight() && holds(&travel.pose(state.now)) && holds(travel.to())
    }

    /// The length of a step so small that the surroundings of the body are worth knowing.
    fn small_step(&self, scene: &Scene, entity: EntityId, path: &Path) -> Option<f64> {
        let [segment, ..] = path.segments() else { return None };
        let step = segment.from.position.distance(segment.to.position);
        let even = segment.from.rotation == segment.to.rotation && scene.parent(entity).is_none();
        let small = even && step > 0.0 && step < MARGIN / 4.0 && !self.zones.anything_moves();
        small.then_some(step)
    }

    /// Finds out how far a body is from all boundaries of the zones near it, and examines those
    /// that its step may reach.
    fn inflate(
        &mut self,
        scene: &Scene,
        state: &State,
        entity: EntityId,
        (swept, step): (&Aabb, f64),
        near: &[EntityId],
    ) {
        let pose = state.pose(scene, entity, state.now);
        let mut radius = MARGIN;
        for &zone in near {
            // Nothing that detects moves now, so that what the index knows of it is true.
            let Some(Face { form: Some(form), pose: zone_pose, .. }) = self.zones.face(zone) else {
                continue;
            };
            let (is_inside, distance) =
                boundary_distance(scene, (zone, form, zone_pose), (entity, &pose));
            if distance <= step || is_inside != self.inside.contains(&(entity, zone)) {
                self.examine(scene, state, (zone, entity), Cause::Move);
            }
            radius = radius.min(distance);
        }
        if radius > step {
            self.balls[entity.index()] =
                Ball { center: pose.position, rotation: pose.rotation, radius };
            // So that a zone that comes near finds it wherever it has gone meanwhile.
            self.bodies.cover(entity, &swept.grown(radius), MARGIN);
        }
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
