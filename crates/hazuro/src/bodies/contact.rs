//! What a body touches, and what is in its way.

use std::sync::LazyLock;

use glam::DVec3;
use smallvec::SmallVec;

use crate::Time;
use crate::describe::EntityId;
use crate::geometry::{Aabb, Form, Pose, ROUNDING, Shape, distance};
use crate::model::{Mover, Scene};
use crate::space::{Filter, Hit, Space};
use crate::state::State;

/// A gap up to which a body leans against something, in metres.
pub(super) const CONTACT: f64 = 1e-6;

/// A gap up to which something still carries a body, in metres.
pub(super) const SUPPORT: f64 = 1e-4;

/// Nearer than this, in metres, something carries or stops a body for sure, whatever the rounding of
/// [`SUPPORT`].
pub(super) const FIRM: f64 = SUPPORT * 0.9;

/// What a body is deeper in than this is no obstacle to it, so that it can get out again.
pub(super) const DEEP: f64 = -1e-3;

/// The level ground below everything.
static FLOOR: LazyLock<Form> = LazyLock::new(|| {
    Form::new(&Shape::HalfSpace).unwrap_or_else(|_| unreachable!("it has no lengths"))
});

/// A body that moves by itself, and all around it.
#[derive(Clone, Copy)]
pub(super) struct Around<'a> {
    pub space: Space<'a>,
    pub who: EntityId,
    /// Its shape, with what it holds.
    pub mover: &'a Mover,
    /// The body that takes it or lets go of it, and is not in its way meanwhile.
    pub holder: Option<EntityId>,
}

/// Something that may be in the way: of which entity, or the floor, its form, and where that is
/// on the entity.
pub(super) struct Obstacle<'a> {
    pub by: Option<EntityId>,
    pub form: &'a Form,
    pub offset: Pose,
}

/// Something that a body touches, or nearly.
#[derive(Clone, Copy, Debug)]
pub(super) struct Contact {
    /// What, if it is not the floor.
    pub by: Option<EntityId>,
    /// The unit vector from it to the body.
    pub normal: DVec3,
    pub gap: f64,
    pub point: DVec3,
    /// Whether it is not the body itself that touches, but what it holds: nothing to stand on.
    pub held: bool,
}

impl<'a> Around<'a> {
    /// How many of the pieces of its shape are its own; the others are held.
    fn own_pieces(&self) -> usize {
        self.scene().mover(self.who).map_or(usize::MAX, |own| own.pieces.len())
    }

    /// Whether it holds something.
    pub fn is_loaded(&self) -> bool {
        self.mover.pieces.len() > self.own_pieces()
    }

    /// Whether nothing solid is between the body and what it holds, at a pose.
    pub fn reaches(&self, pose: &Pose) -> bool {
        let mut held = self.mover.pieces.iter().skip(self.own_pieces());
        held.all(|(at, piece)| {
            let form =
                Form::of_pieces(std::iter::once((Pose { position: DVec3::ZERO, ..*at }, piece)));
            let to = pose.point(at.position);
            let from = Pose { position: DVec3 { y: to.y, ..pose.position }, ..*pose };
            self.in_way_of(&form, from, to).is_none()
        })
    }

    pub fn scene(&self) -> &'a Scene {
        self.space.scene
    }

    pub fn state(&self) -> &'a State {
        self.space.state
    }

    /// The highest step that the body takes now.
    pub fn step(&self) -> f64 {
        self.state().step_height(self.scene(), self.who)
    }

    /// The acceleration with which the body falls now.
    pub fn gravity(&self) -> f64 {
        self.state().gravity(self.scene(), self.who)
    }

    pub fn now(&self) -> Time {
        self.state().now
    }

    /// Whether something else can be in the way at all: whatever is not of its own family.
    pub fn minds(&self, other: EntityId) -> bool {
        let (scene, state, who) = (self.scene(), self.state(), self.who);
        other != who
            && !state.lineage(scene, other).any(|up| up == who || state.holder(up).is_some())
            && !state.lineage(scene, who).any(|up| up == other)
            && self.holder.is_none_or(|holder| state.bearer(scene, other) != Some(holder))
    }

    /// All that may be in the way within some bounds.
    pub fn obstacles(&self, bounds: &Aabb) -> SmallVec<[Obstacle<'a>; 8]> {
        let scene = self.scene();
        let mut found: SmallVec<[Obstacle<'a>; 8]> = SmallVec::new();
        let indices = self.space.indices;
        indices.solids.meeting(bounds, u64::MAX, |face| {
            let solid = scene.thing(face.entity).solid.as_ref();
            if let Some(solid) = solid.filter(|_| !face.off && self.minds(face.entity)) {
                let by = Some(face.entity);
                found.push(Obstacle { by, form: &solid.form, offset: Pose::IDENTITY });
            }
        });
        if scene.has_blocking_bodies() {
            indices.bodies.meeting(bounds, u64::MAX, |face| {
                let body = scene.thing(face.entity).body.as_ref().filter(|body| body.blocks);
                let Some(body) = body.filter(|_| !face.off && self.minds(face.entity)) else {
                    return;
                };
                for part in &body.parts {
                    let by = Some(face.entity);
                    found.push(Obstacle { by, form: &part.form, offset: part.pose });
                }
            });
        }
        found.sort_by_key(|obstacle| obstacle.by);
        if scene.floor_height().is_some_and(|height| bounds.min.y <= height + SUPPORT) {
            found.push(Obstacle { by: None, form: &FLOOR, offset: Pose::IDENTITY });
        }
        found
    }

    /// Where an obstacle's entity is; of the floor, where it lies.
    pub fn pose_of(&self, by: Option<EntityId>, time: Time) -> Pose {
        match by {
            Some(entity) => self.state().pose(self.scene(), entity, time),
            None => Pose::from([0.0, self.scene().floor_height().unwrap_or(0.0), 0.0]),
        }
    }

    /// How fast a point of an obstacle moves from now on, in metres per second.
    pub fn velocity_of(&self, by: Option<EntityId>, point: DVec3) -> DVec3 {
        let Some(entity) = by else { return DVec3::ZERO };
        let (state, scene, now) = (self.state(), self.scene(), self.now());
        if !state.is_moving(scene, entity) {
            return DVec3::ZERO;
        }
        let path = state.path(scene, entity, now, state.horizon(scene, entity));
        path.segments()[0].velocity(now, point)
    }

    /// All that the body touches at a pose, within a gap; of each convex piece of each once.
    pub fn contacts(&self, pose: &Pose, within: f64) -> SmallVec<[Contact; 4]> {
        self.touching(pose, within, DEEP)
    }

    fn touching(&self, pose: &Pose, within: f64, deepest: f64) -> SmallVec<[Contact; 4]> {
        let bounds = self.mover.form.bounds(pose).grown(within);
        let (mut contacts, own) = (SmallVec::new(), self.own_pieces());
        for Obstacle { by, form, offset } in self.obstacles(&bounds) {
            let at = self.pose_of(by, self.now()) * offset;
            form.near(&at, &bounds, |convex, at| {
                for (number, (offset, piece)) in self.mover.pieces.iter().enumerate() {
                    let held = number >= own;
                    let between = distance(convex, at, piece, &(*pose * *offset));
                    if (deepest..=within).contains(&between.gap) {
                        let (normal, gap, point) = (between.normal, between.gap, between.on_a);
                        contacts.push(Contact { by, normal, gap, point, held });
                    }
                }
            });
        }
        contacts
    }

    /// What touches the body where it is, and moves towards it.
    pub fn pressing(&self) -> SmallVec<[EntityId; 1]> {
        let comes = |contact: &Contact| {
            self.velocity_of(contact.by, contact.point).dot(contact.normal) > ROUNDING
        };
        let here = self.state().pose(self.scene(), self.who, self.now());
        let contacts = self.contacts(&here, FIRM);
        contacts.iter().filter(|it| comes(it)).filter_map(|contact| contact.by).collect()
    }

    /// What the body is deep inside of at a pose.
    pub fn depths(&self, pose: &Pose) -> SmallVec<[Contact; 4]> {
        let mut contacts = self.touching(pose, 0.0, f64::NEG_INFINITY);
        contacts.retain(|contact| contact.gap < DEEP);
        contacts
    }

    /// The first thing in the body's way from one pose straight to a place, as all is now. What it
    /// is deep inside of is none.
    pub fn in_way(&self, from: Pose, to: DVec3) -> Option<Hit> {
        self.in_way_of(&self.mover.form, from, to)
    }

    /// As [`in_way`](Self::in_way), of a part of its shape.
    fn in_way_of(&self, form: &Form, from: Pose, to: DVec3) -> Option<Hit> {
        let scene = self.scene();
        let solid = |entity| scene.thing(entity).solid.is_some();
        let blocks = |entity| scene.thing(entity).body.as_ref().is_some_and(|body| body.blocks);
        let only = |entity| (solid(entity) || blocks(entity)) && self.minds(entity);
        let filter = if scene.has_blocking_bodies() {
            Filter::solids().and_bodies()
        } else {
            Filter::solids()
        };
        let mut first: Option<Hit> = None;
        let way = to - from.position;
        self.space.each_in_way(form, from, to, &filter.only(&only), |hit| {
            // Of a body with a solid limb only the limb is solid.
            if hit.part.is_some() && !blocks(hit.entity) || hit.inside {
                return;
            }
            // What is merely touched on the way, or left behind, is not in the way.
            let nearer = first.is_none_or(|first| hit.distance < first.distance);
            if nearer && hit.normal.dot(way) < -ROUNDING * way.length() {
                first = Some(hit);
            }
        });
        first
    }

    /// How far down it is to what the body would stand on: the distance, what it is and the normal.
    /// None if there is nothing within `reach` metres, or it is too steep to stand on, or there is no room there
    /// for what it holds.
    pub fn drop(&self, from: Pose, reach: f64) -> Option<(f64, Option<EntityId>, DVec3)> {
        let to = from.position - DVec3::Y * reach;
        let own = self.scene().mover(self.who).unwrap_or(self.mover);
        let found = self
            .in_way_of(&own.form, from, to)
            .map(|hit| (hit.distance, Some(hit.entity), hit.normal));
        let floor = self.scene().floor_height().and_then(|height| {
            let above = own.form.bounds(&from).min.y - height;
            (-SUPPORT..=reach).contains(&above).then_some((above.max(0.0), None, DVec3::Y))
        });
        let lowest = match (found, floor) {
            (Some(found), Some(floor)) => Some(if floor.0 < found.0 { floor } else { found }),
            (found, floor) => found.or(floor),
        }?;
        let there = Pose { position: from.position - DVec3::Y * lowest.0, ..from };
        let fits = !self.is_loaded() || self.depths(&there).is_empty();
        (fits && self.is_walkable(lowest.2)).then_some(lowest)
    }

    /// Whether one can stand on what faces this way.
    pub fn is_walkable(&self, normal: DVec3) -> bool {
        normal.y >= glam::DVec2::from_angle(self.mover.legs.slope).x - ROUNDING
    }
}
