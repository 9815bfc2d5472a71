//! What is done to a play from outside.

use std::hash::{Hash, Hasher};

use glam::{DQuat, DVec3, Quat, Vec3};

use crate::Time;
use crate::describe::{Action, EntityId, Fault, Limits, ReactionId, ResolvedAction, range};
use crate::geometry::{Pose, bits};
use crate::model::{Scene, door};

use super::State;

/// What is done to a play from outside.
///
/// ```
/// use hazuro::{Input, Play, Scene, Time, geometry::Shape, scene::{Body, Entity}};
/// let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
/// let scene = Scene::builder("Yard").entity(Entity::new("miller").body(body)).build()?;
/// let miller = scene.find("miller").unwrap();
/// let mut play = Play::new(scene);
/// play.schedule(Time::from_secs(0.5), Input::Walk { who: miller, to: [6.0, 0.0, 0.0].into() })?;
/// play.advance(Time::from_secs(3.0));
/// assert_eq!(play.pose("miller")?.position.x, 6.0);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Input {
    /// Walk there at walking speed, as seen from above, around what is in the way. A body that cannot
    /// walk stays.
    Walk {
        /// The walker.
        who: EntityId,
        /// Where to.
        to: Target,
    },
    /// Walk straight there at walking speed, as seen from above, as a player who holds down a key: along what
    /// is in the way as far as that leads on, but never around it.
    WalkStraight {
        /// The walker.
        who: EntityId,
        /// Where to.
        to: Target,
    },
    /// Walk to one place after another.
    WalkAlong {
        /// The walker.
        who: EntityId,
        /// Where to, in order.
        through: Vec<Target>,
    },
    /// Walk after somebody, until told otherwise.
    Follow {
        /// The walker.
        who: EntityId,
        /// After whom.
        whom: EntityId,
        /// How near to come, in metres from origin to origin as seen from above.
        near: f64,
    },
    /// Go there straight and evenly.
    Drive {
        /// The entity.
        who: EntityId,
        /// Where to.
        to: Target,
        /// When it is there.
        until: Time,
    },
    /// Be there at once; nothing between is swept.
    Place {
        /// The entity.
        who: EntityId,
        /// Where.
        at: Target,
    },
    /// Turn towards it at once, about Y.
    Face {
        /// The entity.
        who: EntityId,
        /// What to look at.
        to: Target,
    },
    /// Press a key: uses the best of what is offered for it, or begins to.
    Press {
        /// The player.
        who: EntityId,
        /// As W3C UI Events name it, as in `KeyE`.
        key: String,
    },
    /// Let go of a key.
    Release {
        /// The player.
        who: EntityId,
        /// As W3C UI Events name it.
        key: String,
    },
    /// Use this prompt, whatever its key, as long as it must be held. If it cannot be used, it is
    /// not.
    Interact {
        /// The player.
        who: EntityId,
        /// The prompt.
        with: EntityId,
    },
    /// Take a thing in one's hands, if it is within its [reach](crate::scene::Carry::reach).
    Grab {
        /// The body that takes it.
        who: EntityId,
        /// The thing.
        what: EntityId,
    },
    /// Point somewhere, and maybe press or let go of the button.
    Point {
        /// The player.
        who: EntityId,
        /// Where.
        at: Spot,
        /// What to do there.
        button: Button,
    },
    /// Limit how often the detectors of an entity may act from now on; what they did before counts.
    Limit {
        /// Whose.
        what: EntityId,
        /// How often.
        limits: Limits,
    },
    /// Let the detectors of an entity begin anew: no cooldown, nothing used up.
    Renew(EntityId),
    /// End what a reaction of the scene still has to do.
    Stop(ReactionId),
    /// Do an action that needs no event.
    Act(ResolvedAction),
    /// Take an entity and its children out of the play, until it is added again.
    Remove(EntityId),
    /// Let something come in that is out of the play.
    Add {
        /// What.
        what: EntityId,
        /// Where in the world, if not where it is described.
        at: Option<Pose>,
    },
}

impl Input {
    /// Whether all that it means is in a scene, and all its numbers are in the ranges they have in
    /// files: whether a play of it will take it in.
    ///
    /// # Errors
    /// The first thing that is wrong with it.
    pub fn check(&self, scene: &Scene) -> Result<(), Fault> {
        let entity = |id: EntityId| scene.entity_id(id).map(drop);
        let player = |id: EntityId| {
            let is_player = scene.is_player(scene.entity_id(id)?);
            is_player.then_some(()).ok_or_else(|| Fault::NoPlayer { name: scene.name(id).into() })
        };
        match self {
            Self::Walk { who, to }
            | Self::WalkStraight { who, to }
            | Self::Drive { who, to, .. }
            | Self::Place { who, at: to }
            | Self::Face { who, to } => {
                entity(*who)?;
                to.check(scene)
            }
            Self::WalkAlong { who, through } => {
                entity(*who)?;
                through.iter().try_for_each(|to| to.check(scene))
            }
            Self::Follow { who, whom, near } => {
                entity(*who)?;
                entity(*whom)?;
                range::LENGTH_OR_NONE.check(*near)
            }
            Self::Press { who, key } | Self::Release { who, key } => {
                player(*who)?;
                door::name(key)
            }
            Self::Interact { who, with } => {
                entity(*with)?;
                player(*who)
            }
            Self::Grab { who, what } => {
                entity(*who)?;
                entity(*what)
            }
            Self::Point { who, at, .. } => {
                match *at {
                    Spot::Entity(at) => entity(at)?,
                    Spot::Pixel(x, y) => {
                        [x, y].iter().try_for_each(|at| range::SCREEN.check(*at))?;
                    }
                }
                player(*who)
            }
            Self::Limit { what, limits } => {
                entity(*what)?;
                range::limits(limits).map_err(|(_, fault)| fault)
            }
            Self::Renew(what) | Self::Remove(what) => entity(*what),
            Self::Add { what, at } => {
                entity(*what)?;
                at.map_or(Ok(()), |at| Target::Pose(at).check(scene))
            }
            Self::Stop(reaction) => scene.own_reaction(*reaction),
            Self::Act(Action::Wait(_)) => Err(Fault::Waits),
            Self::Act(action) => {
                action.try_map(|entity, _, _| scene.entity_id(*entity))?;
                door::check(action, scene)
            }
        }
    }

    /// Whom it moves, if it moves anybody.
    pub(crate) fn moves(&self) -> Option<EntityId> {
        match self {
            Self::Walk { who, .. }
            | Self::WalkStraight { who, .. }
            | Self::WalkAlong { who, .. }
            | Self::Follow { who, .. }
            | Self::Drive { who, .. }
            | Self::Place { who, .. }
            | Self::Face { who, .. } => Some(*who),
            Self::Press { .. }
            | Self::Release { .. }
            | Self::Interact { .. }
            | Self::Grab { .. }
            | Self::Point { .. }
            | Self::Limit { .. }
            | Self::Renew(_)
            | Self::Stop(_)
            | Self::Act(_)
            | Self::Add { .. }
            | Self::Remove(_) => None,
        }
    }
}

impl Hash for Input {
    fn hash<H: Hasher>(&self, state: &mut H) {
        std::mem::discriminant(self).hash(state);
        match self {
            Self::Walk { who, to }
            | Self::WalkStraight { who, to }
            | Self::Place { who, at: to }
            | Self::Face { who, to } => (who, to).hash(state),
            Self::WalkAlong { who, through } => (who, through).hash(state),
            Self::Follow { who, whom, near } => (who, whom, near.to_bits()).hash(state),
            Self::Drive { who, to, until } => (who, to, until).hash(state),
            Self::Press { who, key } | Self::Release { who, key } => (who, key).hash(state),
            Self::Interact { who, with: what } | Self::Grab { who, what } => {
                (who, what).hash(state);
            }
            Self::Point { who, at, button } => (who, at, button).hash(state),
            Self::Limit { what, limits } => (what, limits).hash(state),
            Self::Renew(what) | Self::Remove(what) => what.hash(state),
            Self::Add { what, at } => (what, at).hash(state),
            Self::Stop(reaction) => reaction.hash(state),
            Self::Act(action) => action.bits().hash(state),
        }
    }
}

/// Where a pointer points.
///
/// ```
/// use hazuro::Spot;
/// assert_eq!(Spot::from([640.0, 360.0]), Spot::Pixel(640.0, 360.0));
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Spot {
    /// A point of the screen, in pixels from the left and from the top.
    Pixel(f64, f64),
    /// Where the middle of an entity is on the screen then. Something else may be in front of it.
    Entity(EntityId),
}

impl Hash for Spot {
    fn hash<H: Hasher>(&self, state: &mut H) {
        match self {
            Self::Pixel(x, y) => (0_u8, x.to_bits(), y.to_bits()).hash(state),
            Self::Entity(entity) => (1_u8, entity).hash(state),
        }
    }
}

impl From<[f64; 2]> for Spot {
    fn from([x, y]: [f64; 2]) -> Self {
        Self::Pixel(x, y)
    }
}

impl From<EntityId> for Spot {
    fn from(entity: EntityId) -> Self {
        Self::Entity(entity)
    }
}

/// What a pointer's button does.
///
/// ```
/// use hazuro::Button;
/// assert_eq!(Button::default(), Button::Stays);
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Button {
    /// Stays as it is.
    #[default]
    Stays,
    /// Is pressed.
    Down,
    /// Is let go of.
    Up,
    /// Is pressed and let go of.
    Click,
}

/// A place in the world. Only [`Target::Pose`] says how to be turned there.
///
/// ```
/// use hazuro::Target;
/// assert_eq!(Target::from([1.0, 0.0, 2.0]), Target::Place([1.0, 0.0, 2.0].into()));
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Target {
    /// Where an entity is when it is needed.
    Entity(EntityId),
    /// There, turned as before.
    Place(DVec3),
    /// There, turned so.
    Pose(Pose),
}

impl Target {
    /// Whether it is a place that can be, in this scene.
    pub(crate) fn check(&self, scene: &Scene) -> Result<(), Fault> {
        let in_range = |place: DVec3| {
            place.to_array().iter().try_for_each(|value| range::COORDINATE.check(*value))
        };
        match self {
            Self::Entity(entity) => scene.entity_id(*entity).map(drop),
            Self::Place(place) => in_range(*place),
            Self::Pose(pose) => {
                in_range(pose.position)?;
                if pose.is_valid() { Ok(()) } else { Err(Fault::Rotation) }
            }
        }
    }

    /// The place meant, and the rotation if it says one.
    pub(crate) fn pose(&self, state: &State, scene: &Scene, turned: Pose) -> Pose {
        match *self {
            Self::Entity(entity) => {
                Pose { position: state.pose(scene, entity, state.now).position, ..turned }
            }
            Self::Place(position) => Pose { position, ..turned },
            Self::Pose(pose) => pose,
        }
    }
}

impl Hash for Target {
    fn hash<H: Hasher>(&self, state: &mut H) {
        match self {
            Self::Entity(entity) => (0_u8, entity).hash(state),
            Self::Place(place) => (1_u8, bits(*place)).hash(state),
            Self::Pose(pose) => (2_u8, pose).hash(state),
        }
    }
}

impl From<EntityId> for Target {
    fn from(entity: EntityId) -> Self {
        Self::Entity(entity)
    }
}

impl From<Pose> for Target {
    fn from(pose: Pose) -> Self {
        Self::Pose(pose)
    }
}

macro_rules! from_hosts {
    (places: $($place:ty),*; poses: $($pose:ty),*;) => {
        $(impl From<$place> for Target {
            /// There, turned as before.
            fn from(place: $place) -> Self {
                Self::Place(Pose::from(place).position)
            }
        })*
        $(impl From<$pose> for Target {
            /// There, turned so.
            fn from(pose: $pose) -> Self {
                Self::Pose(pose.into())
            }
        })*
    };
}

from_hosts! {
    places: DVec3, Vec3, [f64; 3], [f32; 3], mint::Point3<f64>, mint::Point3<f32>;
    poses:
        (DVec3, DQuat),
        (Vec3, Quat),
        ([f64; 3], [f64; 4]),
        ([f32; 3], [f32; 4]),
        (mint::Point3<f64>, mint::Quaternion<f64>),
        (mint::Point3<f32>, mint::Quaternion<f32>);
}
