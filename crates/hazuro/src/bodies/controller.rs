//! A body about to decide, and what it may decide.

use glam::{DVec2, DVec3};
use smallvec::SmallVec;

use crate::Time;
use crate::describe::EntityId;
use crate::geometry::Pose;
use crate::state::BodyState;

use super::contact::Around;

/// What a body does from now on.
#[derive(Debug)]
pub(crate) struct Plan {
    /// Where it is, in the world.
    pub pose: Pose,
    /// What carries it.
    pub rides: Option<EntityId>,
    pub course: Course,
    pub stance: BodyState,
    /// What can move no further, since the body is in its way and cannot give way.
    pub stops: SmallVec<[EntityId; 1]>,
    /// Why it does not get where it wants to go, if that is news.
    pub halt: Option<Halt>,
    /// Whether it has just come to rest.
    pub settled: bool,
}

/// How a body moves until it decides anew, seen from what carries it, along the axes of the world
/// as they are now.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Course {
    Still,
    Straight { way: DVec3, until: Time },
    Arc { velocity: DVec3, acceleration: DVec3, until: Time },
}

/// Why a walker cannot reach its goal.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Halt {
    /// What is in the way, if it is an entity.
    pub by: Option<EntityId>,
    /// The goal.
    pub goal: DVec3,
}

/// What somebody wants to do next.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Desire {
    /// Over the ground, in metres per second.
    pub velocity: DVec2,
    /// Until when, if nothing gets in the way.
    pub until: Option<Time>,
    /// The way over the ground that leads to, in metres.
    pub exactly: Option<DVec2>,
    /// What is in the way for good.
    pub halt: Option<Halt>,
    /// What it waits for to get out of the way.
    pub against: Option<EntityId>,
}

/// Somebody about to decide.
pub(super) struct Controller<'a> {
    pub around: Around<'a>,
    pub stance: BodyState,
    pub pose: Pose,
    pub rides: Option<EntityId>,
    /// How fast it has moved so far, in the frame of what carries it.
    pub own: DVec3,
}

impl Controller<'_> {
    pub fn now(&self) -> Time {
        self.around.now()
    }
}
