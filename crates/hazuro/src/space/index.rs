//! What stands still and what moves, kept apart.

use std::sync::atomic::AtomicUsize;
use std::sync::atomic::Ordering::Relaxed;

use glam::DVec3;

use crate::Time;
use crate::describe::EntityId;
use crate::geometry::tree::{Beam, Bounds, Item, Tree};
use crate::geometry::{Aabb, Form, Pose};

use super::flock::{Course, Flock};

/// Not in the index.
const NONE: u32 = u32::MAX;

/// What the index knows of an entity, so that a question need not ask further.
#[derive(Clone, Debug)]
pub(crate) struct Face {
    pub entity: EntityId,
    /// Whether it is switched off or taken out of the play.
    pub off: bool,
    /// Whether it stands still, at `pose`.
    pub still: bool,
    /// In the world; out of date while it moves.
    pub pose: Pose,
    /// The shape of a solid or a zone, or of a body of one part. Others have many.
    pub form: Option<Form>,
    /// The layers by which it is found.
    pub layers: u64,
    /// Whether it is a detector with a rule on whom it admits, beside layers.
    pub is_picky: bool,
}

/// The bounds of some entities. What moves is kept apart from what stands still, so that its
/// coming and going never touches the bounds of the others. Faces that are near one another in
/// space are so in memory.
#[derive(Debug, Default)]
pub(crate) struct Index {
    still: Tree,
    /// By all they sweep on the next stretch of their way.
    moving: Tree,
    /// By where they are, while that is asked for.
    flock: Flock,
    /// How often somebody has asked since that was last seen to.
    asked: AtomicUsize,
    /// Whether the flock is kept up to date.
    flocks: bool,
    faces: Vec<Face>,
    /// Where each entity's face is, or [`NONE`].
    slots: Vec<u32>,
}

impl Index {
    /// An index of some of `count` entities. Those that stand still come with their bounds.
    pub fn build(count: usize, entities: impl Iterator<Item = (Face, Option<Aabb>)>) -> Self {
        let (still, moving): (Vec<_>, Vec<_>) = entities.partition(|(_, bounds)| bounds.is_some());
        let item = |(number, (face, bounds)): (usize, &(Face, Option<Aabb>))| Item {
            number: number as u32,
            bounds: Bounds::from(&bounds.unwrap_or(Aabb::EMPTY)),
            layers: face.layers,
        };
        let items: Vec<Item> = still.iter().enumerate().map(item).collect();
        let mut tree = Tree::build(&items);
        let order = tree.renumber();
        let mut still: Vec<Option<Face>> = still.into_iter().map(|(face, _)| Some(face)).collect();
        let ordered = order.into_iter().filter_map(|number| still[number as usize].take());
        let mut faces: Vec<Face> =
            ordered.chain(moving.into_iter().map(|(face, _)| face)).collect();
        faces.shrink_to_fit();
        let mut slots = if faces.is_empty() { Vec::new() } else { vec![NONE; count] };
        for (slot, face) in faces.iter().enumerate() {
            slots[face.entity.index()] = slot as u32;
        }
        Self { still: tree, faces, slots, ..Self::default() }
    }

    /// Puts in one more of what are now `count` entities, with its bounds if it stands still.
    pub fn add(&mut self, count: usize, face: Face, bounds: Option<&Aabb>) {
        let (entity, pose) = (face.entity, face.pose);
        self.slots.resize(count, NONE);
        self.slots[entity.index()] = self.faces.len() as u32;
        self.faces.push(face);
        if let Some(bounds) = bounds {
            self.set(entity, bounds, Some(pose));
        }
    }

    /// Lets an entity be found otherwise, with its bounds if it stands still. What moves is to be
    /// [set](Self::set).
    pub fn replace(&mut self, face: Face, bounds: Option<&Aabb>) {
        let Some(slot) = self.slot(face.entity) else { return };
        let (entity, pose) = (face.entity, face.pose);
        self.faces[slot as usize] = face;
        if let Some(bounds) = bounds {
            self.set(entity, bounds, Some(pose));
        }
    }

    /// Whether there is nothing in it.
    pub fn is_empty(&self) -> bool {
        self.faces.is_empty()
    }

    fn slot(&self, entity: EntityId) -> Option<u32> {
        self.slots.get(entity.index()).copied().filter(|slot| *slot != NONE)
    }

    /// What is known of an entity.
    pub fn face(&self, entity: EntityId) -> Option<&Face> {
        self.slot(entity).map(|slot| &self.faces[slot as usize])
    }

    /// Changes the bounds of an entity that stands still at a pose, or moves. It may change sides
    /// at any time.
    pub fn set(&mut self, entity: EntityId, bounds: &Aabb, still: Option<Pose>) {
        let Some(slot) = self.slot(entity) else { return };
        let face = &mut self.faces[slot as usize];
        face.still = still.is_some();
        face.pose = still.unwrap_or(face.pose);
        if self.flocks {
            self.flock.change(slot, !face.still, face.layers, None);
        }
        let (here, other) = if face.still {
            (&mut self.still, &mut self.moving)
        } else {
            (&mut self.moving, &mut self.still)
        };
        other.remove(slot);
        here.set(Item { number: slot, bounds: Bounds::from(bounds), layers: face.layers });
    }

    /// Sees to it that the bounds of something that moves hold `bounds`. If they must be changed,
    /// `margin` metres more on each side keep them from changing again soon.
    pub fn cover(&mut self, entity: EntityId, bounds: &Aabb, margin: f64) {
        let Some(slot) = self.slot(entity) else { return };
        if !self.moving.covers(slot, &Bounds::from(bounds)) {
            self.set(entity, &bounds.grown(margin), None);
        }
    }

    /// Whether it is worth saying on which course something is.
    pub fn wants_courses(&self) -> bool {
        self.flocks
    }

    /// Says on which course something is that moves.
    pub fn set_course(&mut self, entity: EntityId, course: Course) {
        if let Some(slot) = self.slot(entity).filter(|_| self.flocks) {
            let layers = self.faces[slot as usize].layers;
            self.flock.change(slot, true, layers, Some(course));
        }
    }

    /// Works out where everything is now, if enough is asked to make that worth while. `course`
    /// gives the courses to begin with, `exact` the bounds of what is on no known course.
    pub fn refresh(
        &mut self,
        now: Time,
        course: impl Fn(EntityId) -> Option<Course>,
        exact: impl Fn(EntityId) -> Aabb,
    ) {
        // So many moving things are passed faster than one question is answered without this.
        const WORTH: usize = 256;
        let asked = std::mem::take(self.asked.get_mut());
        let moving = self.moving.len();
        let before = std::mem::replace(&mut self.flocks, moving > 0 && asked * WORTH >= moving);
        if !self.flocks {
            if before {
                self.flock = Flock::default();
            }
            return;
        }
        let faces = &self.faces;
        if !before {
            for (slot, face) in (0..).zip(faces).filter(|(_, face)| !face.still) {
                self.flock.change(slot, true, face.layers, course(face.entity));
            }
        }
        self.flock.refresh(now, |slot| exact(faces[slot as usize].entity));
    }

    /// The trees that hold everything, where it is now, for somebody who asks.
    fn trees(&self, now: Time) -> [&Tree; 2] {
        if !self.moving.is_empty() {
            self.asked.fetch_add(1, Relaxed);
        }
        [&self.still, self.flock.at(now).unwrap_or(&self.moving)]
    }

    /// Says whether an entity is off.
    pub fn switch(&mut self, entity: EntityId, off: bool) {
        if let Some(slot) = self.slot(entity) {
            self.faces[slot as usize].off = off;
        }
    }

    /// Calls `visit` with each entity in one of `layers` whose bounds meet `bounds`, in no
    /// particular order.
    pub fn meeting(&self, bounds: &Aabb, layers: u64, mut visit: impl FnMut(&Face)) {
        self.meeting_bounds(bounds, layers, |face, _| visit(face));
    }

    /// As [`meeting`](Self::meeting), with the bounds of each.
    pub fn meeting_bounds(&self, bounds: &Aabb, layers: u64, mut visit: impl FnMut(&Face, Bounds)) {
        let bounds = Bounds::from(bounds);
        for tree in [&self.still, &self.moving] {
            tree.meeting_bounds(&bounds, layers, |slot, bounds| {
                let face = &self.faces[slot as usize];
                if face.layers & layers != 0 {
                    visit(face, bounds);
                }
            });
        }
    }

    /// Calls `visit` with the entities in one of `layers` whose bounds a beam meets now, before
    /// `limit`. What it gives is the new limit.
    pub fn along(
        &self,
        now: Time,
        beam: &Beam,
        layers: u64,
        mut limit: f64,
        mut visit: impl FnMut(&Face, f64) -> f64,
    ) {
        for tree in self.trees(now) {
            tree.along(beam, layers, limit, |slot, until| {
                let face = &self.faces[slot as usize];
                limit = if face.layers & layers == 0 { until } else { visit(face, until) };
                limit
            });
        }
    }

    /// Calls `visit` with the entities in one of `layers` whose bounds lie now within `limit`
    /// of a point. What it gives is the new limit.
    pub fn around(
        &self,
        now: Time,
        point: DVec3,
        layers: u64,
        mut limit: f64,
        mut visit: impl FnMut(&Face, f64) -> f64,
    ) {
        for tree in self.trees(now) {
            tree.around(point, layers, limit, |slot, until| {
                let face = &self.faces[slot as usize];
                limit = if face.layers & layers == 0 { until } else { visit(face, until) };
                limit
            });
        }
    }
}
