//! What is going to happen: inputs, delayed reactions and the beats of `inside`.

use std::collections::{BTreeMap, VecDeque};
use std::hash::{Hash, Hasher};

use glam::DVec3;

use crate::Time;
use crate::geometry::{Pose, bits};
use crate::scene::{Action, EntityId, Limits, ReactionId, Scene, StatId};

use super::State;

/// What is done to a play from outside.
///
/// ```
/// use hazuro::{Input, Play, Scene, Time, geometry::Shape, scene::{Body, Entity}};
/// let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
/// let scene = Scene::builder("Yard").entity(Entity::new("miller").body(body)).build()?;
/// let miller = scene.find("miller").unwrap();
/// let mut play = Play::new(scene);
/// play.schedule(Time::from_secs(0.5), Input::Walk { who: miller, to: [6.0, 0.0, 0.0].into() });
/// play.advance(Time::from_secs(3.0));
/// assert_eq!(play.pose("miller")?.position.x, 6.0);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
pub enum Input {
    /// Walk there at walking speed, as seen from above, around what is in the way. Who cannot walk
    /// stays.
    Walk {
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
        /// Who or what.
        who: EntityId,
        /// Where to.
        to: Target,
        /// When it is there.
        until: Time,
    },
    /// Be there at once; nothing between is swept.
    Place {
        /// Who or what.
        who: EntityId,
        /// Where.
        at: Target,
    },
    /// Turn towards it at once, about Y.
    Face {
        /// Who or what.
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
    /// Point somewhere, and maybe press or let go of the button.
    Point {
        /// The player.
        who: EntityId,
        /// Where.
        at: Spot,
        /// What to do there.
        button: Button,
    },
    /// Let the detectors of an entity act so often from now on; what they did before counts too.
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
    Act(Action<EntityId>),
    /// Take an entity and its children out of the play, for good.
    Remove(EntityId),
}

impl Hash for Input {
    fn hash<H: Hasher>(&self, state: &mut H) {
        std::mem::discriminant(self).hash(state);
        match self {
            Self::Walk { who, to } | Self::Place { who, at: to } | Self::Face { who, to } => {
                (who, to).hash(state);
            }
            Self::WalkAlong { who, through } => (who, through).hash(state),
            Self::Follow { who, whom, near } => (who, whom, near.to_bits()).hash(state),
            Self::Drive { who, to, until } => (who, to, until).hash(state),
            Self::Press { who, key } | Self::Release { who, key } => (who, key).hash(state),
            Self::Interact { who, with } => (who, with).hash(state),
            Self::Point { who, at, button } => (who, at, button).hash(state),
            Self::Limit { what, limits } => (what, limits).hash(state),
            Self::Renew(what) | Self::Remove(what) => what.hash(state),
            Self::Stop(reaction) => reaction.hash(state),
            Self::Act(action) => action.hash(state),
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
pub enum Target {
    /// Where an entity is when it is needed.
    Entity(EntityId),
    /// There, turned as before.
    Place(DVec3),
    /// There, turned so.
    Pose(Pose),
}

impl Target {
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

impl From<mint::Point3<f64>> for Target {
    fn from(place: mint::Point3<f64>) -> Self {
        Self::Place(Pose::from(place).position)
    }
}

impl From<mint::Point3<f32>> for Target {
    fn from(place: mint::Point3<f32>) -> Self {
        Self::Place(Pose::from(place).position)
    }
}

impl From<DVec3> for Target {
    fn from(place: DVec3) -> Self {
        Self::Place(place)
    }
}

impl From<[f64; 3]> for Target {
    fn from(place: [f64; 3]) -> Self {
        Self::Place(place.into())
    }
}

/// Something that will happen.
#[derive(Clone, Debug, PartialEq, Hash)]
pub(crate) enum Item {
    Input(Input),
    /// A reaction begins, its `after` or `every` being over.
    Round {
        run: u64,
        round: u64,
    },
    /// A sequence of a reaction goes on.
    Resume {
        run: u64,
        thread: u64,
    },
    /// An effect ends.
    EffectEnd {
        on: EntityId,
        number: u64,
        until: Time,
    },
    /// A stat that changes steadily comes to its least or most.
    Brim {
        entity: EntityId,
        stat: StatId,
        turn: u64,
    },
    /// A pickup comes back.
    Respawn {
        pickup: EntityId,
        number: u64,
    },
    /// Something has come to a stop of its way, or has waited there.
    Trip {
        what: EntityId,
        turn: u64,
    },
    /// What is held up tries to go on.
    Retry {
        what: EntityId,
        number: u64,
    },
    /// A spawner looks after its own.
    Spawner(EntityId),
    /// A key has been held long enough.
    Held {
        player: EntityId,
        since: Time,
    },
    /// Another interval of a stay is over.
    Beat {
        zone: EntityId,
        subject: EntityId,
        stay: u64,
        number: u64,
    },
}

/// When something is due. In one instant inputs come before what is detected, and what was put
/// off comes after it; otherwise in the order in which they were put here.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct Due {
    pub time: Time,
    pub after_detection: bool,
    number: u64,
}

/// All that will happen, in order.
#[derive(Clone, Debug, Default, PartialEq, Hash)]
pub(crate) struct Agenda {
    /// Inputs that are due as soon as time goes on. Kept apart from the rest because a host may
    /// give thousands each tick.
    at_once: VecDeque<Input>,
    items: BTreeMap<Due, Item>,
    so_far: u64,
}

impl Agenda {
    pub fn put(&mut self, time: Time, item: Item) {
        let after_detection = !matches!(item, Item::Input(_));
        self.items.insert(Due { time, after_detection, number: self.so_far }, item);
        self.so_far += 1;
    }

    /// Lets an input happen at this time, or as soon as time goes on from `now`.
    pub fn put_input(&mut self, time: Time, now: Time, input: Input) {
        // What has long been planned for this very moment comes first.
        let planned = self.next().is_some_and(|due| due.time <= now && !due.after_detection);
        if time <= now && !planned {
            self.at_once.push_back(input);
        } else {
            self.put(time.max(now), Item::Input(input));
        }
    }

    /// Takes the next input that is due as soon as time goes on.
    pub fn take_at_once(&mut self) -> Option<Input> {
        self.at_once.pop_front()
    }

    pub fn next(&self) -> Option<Due> {
        self.items.first_key_value().map(|(due, _)| *due)
    }

    pub fn take(&mut self) -> Option<(Due, Item)> {
        self.items.pop_first()
    }
}
