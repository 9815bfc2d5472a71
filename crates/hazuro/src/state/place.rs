//! Where things are, and how they move.

use std::collections::BTreeMap;

use glam::{DQuat, DVec3};
use smallvec::SmallVec;

use crate::Time;
use crate::describe::EntityId;
use crate::geometry::Pose;
use crate::model::Scene;
use crate::motion::{Easing, Path, Segment, Travel};

use super::{BodyState, Mode, Order, State};

impl State {
    /// When the entity and all that carries it will have arrived.
    pub(crate) fn arrival(&self, scene: &Scene, entity: EntityId) -> Time {
        let ends = self.carriers(scene, entity).filter_map(|entity| self.cast.end(entity));
        ends.max().unwrap_or(self.now)
    }

    /// The entity's pose in its carrier's frame.
    pub(crate) fn local_pose(&self, entity: EntityId, time: Time) -> Pose {
        self.cast.pose(entity, time)
    }

    /// The entity's pose in the world.
    pub(crate) fn pose(&self, scene: &Scene, entity: EntityId, time: Time) -> Pose {
        self.chain(scene, entity, |at| self.cast.pose(at, time))
    }

    fn pose_before(&self, scene: &Scene, entity: EntityId, time: Time) -> Pose {
        self.chain(scene, entity, |at| self.cast.pose_before(at, time))
    }

    /// Where the entity was in the world before anything was put elsewhere at this instant.
    pub(crate) fn pose_before_jumps(&self, scene: &Scene, entity: EntityId) -> Pose {
        let (time, jumped) = &self.motion.jumped;
        self.chain(scene, entity, |at| match jumped.get(&at).filter(|_| *time == self.now) {
            Some(before) => *before,
            None => self.cast.pose(at, self.now),
        })
    }

    /// The product of all poses up to the world. Not recursive: things may stand on one another
    /// thousands high.
    fn chain(&self, scene: &Scene, entity: EntityId, local: impl Fn(EntityId) -> Pose) -> Pose {
        // From the entity up, cut where something rides: the pose of the rider, and below it.
        let mut rides: SmallVec<[(Pose, Option<Pose>); 2]> = SmallVec::new();
        let mut below: Option<Pose> = None;
        let mut at = entity;
        let mut pose = loop {
            let live = self.live(at);
            let own = local(at);
            if let Some(carrier) = live.rides {
                rides.push((own, below.take()));
                at = carrier;
                continue;
            }
            let pose = below.map_or(own, |below| own * below);
            match self.parent(scene, at) {
                Some(parent) => (below, at) = (Some(pose), parent),
                None => break pose,
            }
        };
        for (own, below) in rides.into_iter().rev() {
            let rider = ride(pose, own);
            pose = below.map_or(rider, |below| rider * below);
        }
        pose
    }

    /// A pose in the world, in the frame of what carries the entity.
    pub(crate) fn in_parent(&self, scene: &Scene, entity: EntityId, pose: Pose) -> Pose {
        if let Some(carrier) = self.live(entity).rides {
            let carrier = self.pose(scene, carrier, self.now);
            let position = carrier.inverse().point(pose.position);
            let rotation = yaw(carrier).conjugate() * pose.rotation;
            return Pose { position, rotation };
        }
        match self.parent(scene, entity) {
            Some(parent) => self.pose(scene, parent, self.now).inverse() * pose,
            None => pose,
        }
    }

    /// Puts an entity somewhere in its carrier's frame at once. Whatever it was about to do by
    /// itself, it does no more.
    pub(crate) fn put(&mut self, entity: EntityId, pose: Pose) {
        self.motion.stirs.0 += 1;
        if self.motion.jumped.0 != self.now {
            self.motion.jumped = (self.now, BTreeMap::new());
        }
        let before = self.local_pose(entity, self.now);
        self.motion.jumped.1.entry(entity).or_insert(before);
        self.set_pose(entity, pose);
    }

    /// As [`put`](Self::put), where that is where it is already, in another frame.
    pub(super) fn set_pose(&mut self, entity: EntityId, pose: Pose) {
        self.cast.rest(entity, pose);
        if let Some(stance) = &mut self.live_mut(entity).stance {
            let (holder, stirred) = (stance.holder, stance.stirred);
            **stance = BodyState { holder, stirred, ..BodyState::default() };
        }
    }

    /// Whether a walker is just stepping over an edge.
    pub(crate) fn is_striding(&self, entity: EntityId) -> bool {
        self.live(entity).stance.as_ref().is_some_and(|stance| !stance.stride.is_empty())
    }

    /// Lets a body that moves by itself decide anew what it does.
    pub(crate) fn decide_anew(&mut self, entity: EntityId) {
        if let Some(stance) = &mut self.live_mut(entity).stance {
            stance.undecided |= stance.mode != Mode::Led;
        }
    }

    /// Gives somebody who walks an order, or none any more.
    pub(crate) fn order(&mut self, entity: EntityId, order: Option<Order>) {
        self.decide_anew(entity);
        if let Some(stance) = &mut self.live_mut(entity).stance {
            stance.order = order.map(Box::new);
        }
    }

    /// Sends an entity on a journey; until it has arrived it does nothing by itself.
    pub(crate) fn send(&mut self, entity: EntityId, travel: Travel) {
        self.motion.stirs = (self.motion.stirs.0 + 1, self.motion.stirs.1.max(travel.end()));
        self.cast.go(entity, travel);
        if let Some(stance) = &mut self.live_mut(entity).stance {
            **stance = BodyState { mode: Mode::Led, ..BodyState::default() };
        }
    }

    /// Sends an entity straight and evenly from one pose to another, until `end`, both in its carrier's
    /// frame, as a host does that says where it is.
    pub(crate) fn drive(&mut self, scene: &Scene, entity: EntityId, way: [Pose; 2], end: Time) {
        let live = self.live(entity);
        if live.stance.is_some() || live.rides.is_some() || self.parent(scene, entity).is_some() {
            let [from, to] = way;
            return self.send(entity, Travel::new(self.now, end, from, to, Easing::Linear));
        }
        self.motion.stirs = (self.motion.stirs.0 + 1, self.motion.stirs.1.max(end));
        self.cast.go_in_lane(entity, way, (self.now, end));
    }

    /// Lets what is at a place in the lane go on, see [`Lane::go_on`](super::lane::Lane::go_on).
    pub(crate) fn go_on(&mut self, place: usize, to: DVec3, rotation: Option<DQuat>, until: Time) {
        let end = until.max(self.now);
        self.motion.stirs = (self.motion.stirs.0 + 1, self.motion.stirs.1.max(end));
        self.cast.lane.go_on(place, to, rotation, [self.now, end]);
    }

    /// How fast the entity moves in the world from now on, in metres per second.
    pub(crate) fn velocity(&self, scene: &Scene, entity: EntityId) -> DVec3 {
        let horizon = self.horizon(scene, entity);
        if horizon == Time::MAX {
            return DVec3::ZERO;
        }
        let path = self.path(scene, entity, self.now, horizon);
        let first = path.segments()[0];
        first.velocity(self.now, first.from.position)
    }

    /// Whether the entity or something that carries it travels now.
    pub(crate) fn is_moving(&self, scene: &Scene, entity: EntityId) -> bool {
        self.horizon(scene, entity) < Time::MAX
    }

    /// Until when the entity's path is worth following at one go; for ever if it stands still.
    pub(crate) fn horizon(&self, scene: &Scene, entity: EntityId) -> Time {
        let travels = self.carriers(scene, entity).filter_map(|entity| self.cast.travel(entity));
        let horizons = travels.filter_map(|travel| travel.horizon(self.now));
        horizons.min().unwrap_or(Time::MAX)
    }

    /// How the entity moves in the world from `start` to `end`, if nothing interferes.
    pub(crate) fn path(&self, scene: &Scene, entity: EntityId, start: Time, end: Time) -> Path {
        let ends = |entity: EntityId| self.cast.end(entity);
        if self.carriers(scene, entity).filter_map(ends).all(|end| end <= start) {
            return Path::still(start, end, self.pose(scene, entity, start));
        }
        let mut cuts: SmallVec<[Time; 8]> = SmallVec::new();
        for entity in self.carriers(scene, entity) {
            if let Some(travel) = self.cast.travel(entity) {
                travel.cuts(start, end, |cut| cuts.push(cut));
            }
        }
        cuts.push(end);
        cuts.sort_unstable();
        cuts.dedup();
        let mut segments: SmallVec<[Segment; 4]> = SmallVec::new();
        let mut from = start;
        for to in cuts {
            segments.push(Segment {
                start: from,
                end: to,
                from: self.pose(scene, entity, from),
                to: self.pose_before(scene, entity, to),
            });
            from = to;
        }
        Path::new(&segments)
    }
}

/// The pose of a rider, upright: it only turns about Y with what carries it.
fn ride(carrier: Pose, local: Pose) -> Pose {
    Pose {
        position: carrier.point(local.position),
        rotation: if carrier.rotation == DQuat::IDENTITY {
            local.rotation
        } else {
            yaw(carrier) * local.rotation
        },
    }
}

/// How something is turned about Y.
fn yaw(pose: Pose) -> DQuat {
    let DQuat { y, w, .. } = pose.rotation;
    if y == 0.0 { DQuat::IDENTITY } else { DQuat::from_xyzw(0.0, y, 0.0, w).normalize() }
}
