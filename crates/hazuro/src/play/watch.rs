//! Detection over a span of time: which pairs to look at, and what is about to happen.
//!
//! Everything here can be rebuilt from the scene and the state, so none of it is part of a state.

use std::collections::{BTreeMap, BTreeSet};

use glam::DVec3;

use crate::Time;
use crate::detect::{Crossing, Look, look};
use crate::geometry::{Aabb, Convex, Pose, TOUCH};
use crate::motion::Path;
use crate::scene::{EntityId, Scene};
use crate::space::Index;
use crate::state::{Cause, State};
use crate::why::{Chain, Witness};

/// When a crossing happens, and in which order among those of the same instant.
type Key = (Time, EntityId, EntityId, usize);

/// What watches over a span of time.
#[derive(Debug, Default)]
pub(super) struct Watch {
    zones: Index,
    bodies: Index,
    /// Whether the two indices match the state at all.
    indexed: bool,
    travelling: BTreeSet<EntityId>,
    /// Whose bounds still cover a movement that is over.
    moved: Vec<EntityId>,
    pending: BTreeMap<Key, (Crossing, Cause)>,
}

impl Watch {
    /// Forgets everything that was known about the state.
    pub fn forget(&mut self) {
        *self = Self::default();
    }

    /// Opens the span from now until `until`: finds all that will happen if nothing interferes.
    pub fn open<W: Witness>(&mut self, scene: &Scene, state: &State, until: Time, witness: &mut W) {
        self.pending.clear();
        let mut pairs = BTreeSet::new();
        if self.indexed {
            let mut moving = std::mem::take(&mut self.moved);
            moving.extend(&self.travelling);
            for entity in &moving {
                self.index_family(scene, state, *entity, until);
            }
            for entity in self.travelling.clone() {
                self.pairs_of(scene, state, entity, &mut pairs);
            }
        } else {
            self.indexed = true;
            self.travelling = scene.ids().filter(|id| state.live(*id).travel.is_some()).collect();
            for entity in scene.ids() {
                self.index(scene, state, entity, until);
            }
            for entity in scene.ids() {
                self.pairs_of(scene, state, entity, &mut pairs);
            }
        }
        if W::LISTENS {
            let zones = scene.ids().filter(|entity| scene.has_zone(*entity));
            for on in zones {
                let bodies = scene.ids().filter(|entity| scene.has_body(*entity));
                pairs.extend(
                    bodies
                        .filter(|who| witness.wants(&Chain::Detector { on, who: *who }))
                        .map(|who| (on, who)),
                );
            }
        }
        let cause = if state.started { Cause::Move } else { Cause::Appear };
        self.examine_all(scene, state, &pairs, cause, until, witness);
    }

    /// Looks again at all that an entity and its children have to do with, after a change.
    pub fn disturb<W: Witness>(
        &mut self,
        scene: &Scene,
        state: &State,
        (entity, cause): (EntityId, Cause),
        until: Time,
        witness: &mut W,
    ) {
        if state.live(entity).travel.is_some() {
            self.travelling.insert(entity);
        } else if self.travelling.remove(&entity) {
            self.moved.push(entity);
        }
        self.index_family(scene, state, entity, until);
        let mut pairs = BTreeSet::new();
        self.pairs_of(scene, state, entity, &mut pairs);
        let family: BTreeSet<EntityId> = scene.family(entity).collect();
        self.pending.retain(|(_, zone, subject, _), _| {
            let again = family.contains(zone) || family.contains(subject);
            if again {
                pairs.insert((*zone, *subject));
            }
            !again
        });
        self.examine_all(scene, state, &pairs, cause, until, witness);
    }

    /// The next crossing, if there is one.
    pub fn next(&self) -> Option<Time> {
        self.pending.keys().next().map(|key| key.0)
    }

    /// Takes the next crossing, with its zone, subject and cause.
    pub fn take(&mut self) -> Option<(EntityId, EntityId, Crossing, Cause)> {
        let ((_, zone, subject, _), (crossing, cause)) = self.pending.pop_first()?;
        Some((zone, subject, crossing, cause))
    }

    /// Ends the journeys that are over.
    pub fn settle(&mut self, state: &mut State) {
        let now = state.now;
        self.travelling.retain(|entity| {
            let Some(travel) = &state.live(*entity).travel else {
                return false;
            };
            if travel.end() > now {
                return true;
            }
            let pose = *travel.to();
            state.put(*entity, pose);
            self.moved.push(*entity);
            false
        });
    }

    /// All pairs of a zone and a subject of which one belongs to the family of `entity`, and
    /// that are near or inside one another.
    fn pairs_of(
        &self,
        scene: &Scene,
        state: &State,
        entity: EntityId,
        pairs: &mut BTreeSet<(EntityId, EntityId)>,
    ) {
        for entity in scene.family(entity) {
            if let Some(bounds) = self.bodies.bounds(entity) {
                pairs.extend(self.zones.meeting(bounds).map(|zone| (zone, entity)));
                let occupied = state.zones.iter();
                let occupied = occupied.filter(|(_, zone)| zone.stays.contains_key(&entity));
                pairs.extend(occupied.map(|(zone, _)| (*zone, entity)));
            }
            if let Some(bounds) = self.zones.bounds(entity) {
                pairs.extend(self.bodies.meeting(bounds).map(|subject| (entity, subject)));
                pairs.extend(state.occupants(entity).map(|subject| (entity, subject)));
            }
        }
    }

    fn examine_all<W: Witness>(
        &mut self,
        scene: &Scene,
        state: &State,
        pairs: &BTreeSet<(EntityId, EntityId)>,
        cause: Cause,
        until: Time,
        witness: &mut W,
    ) {
        for &(zone, subject) in pairs {
            let zone_path = state.path(scene, zone, state.now, until);
            let subject_path = state.path(scene, subject, state.now, until);
            let off = |entity| state.switched_off_by(scene, entity);
            let was_inside = state.stay(zone, subject).is_some();
            let crossings = look(
                Look::new(
                    scene,
                    (zone, &zone_path, off(zone)),
                    (subject, &subject_path, off(subject)),
                    was_inside,
                ),
                witness,
            );
            for (order, crossing) in crossings.into_iter().enumerate() {
                let cause = if crossing.time == state.now { cause } else { Cause::Move };
                self.pending.insert((crossing.time, zone, subject, order), (crossing, cause));
            }
        }
    }

    fn index_family(&mut self, scene: &Scene, state: &State, entity: EntityId, until: Time) {
        for entity in scene.family(entity) {
            self.index(scene, state, entity, until);
        }
    }

    /// Writes down what an entity sweeps until then.
    fn index(&mut self, scene: &Scene, state: &State, entity: EntityId, until: Time) {
        let thing = scene.thing(entity);
        if thing.zone.is_none() && thing.body.is_none() {
            return;
        }
        let path = state.path(scene, entity, state.now, until);
        if let Some(zone) = &thing.zone {
            let shape = std::iter::once((&zone.shape, Pose::IDENTITY));
            self.zones.set(entity, swept_bounds(&shape, &path));
        }
        if let Some(body) = &thing.body {
            let parts = body.iter().map(|part| (&part.shape, part.pose));
            self.bodies.set(entity, swept_bounds(&parts, &path));
        }
    }
}

/// The bounds of all that some shapes sweep, or touch, when carried along a path.
fn swept_bounds<'a>(
    shapes: &(impl Iterator<Item = (&'a Convex, Pose)> + Clone),
    path: &Path,
) -> Aabb {
    let mut bounds = Aabb::EMPTY;
    for segment in path.segments() {
        for (shape, offset) in shapes.clone() {
            let (from, to) = (segment.from * offset, segment.to * offset);
            if segment.from.rotation == segment.to.rotation {
                bounds = bounds.join(&shape.bounds(&from)).join(&shape.bounds(&to));
            } else {
                // Whatever way it turns, it stays this near the line its carrier travels.
                let reach = offset.position.length() + shape.reach();
                let ends = [segment.from.position, segment.to.position];
                for end in ends {
                    bounds = bounds.join(&Aabb::around(end, DVec3::splat(reach)));
                }
            }
        }
    }
    bounds.grown(TOUCH)
}
