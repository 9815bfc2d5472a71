//! All entities as they are now: each by itself, where it is and where it goes.

use std::borrow::Cow;
use std::hash::{Hash, Hasher};

use glam::DQuat;

use crate::Time;
use crate::describe::{EntityId, Switch};
use crate::geometry::Pose;
use crate::motion::Travel;

use super::BodyState;
use super::lane::Lane;

/// How one entity is now.
#[derive(Clone, Debug)]
pub(crate) struct Live {
    at: At,
    /// What it stands on, if that is an entity: it goes along with it, and its pose is given in the
    /// frame of that instead of its parent's.
    pub rides: Option<EntityId>,
    /// How it gets along, if it moves by itself.
    pub stance: Option<Box<BodyState>>,
    /// Its own switches, by their order; each counts only if all ancestors' are on too.
    pub switches: [bool; 4],
    /// The number of its collection, if it has been collected and is not yet back.
    pub taken: Option<u64>,
    pub removed: bool,
}

/// Where something is, in its carrier's frame.
#[derive(Clone, Debug)]
enum At {
    Still(Pose),
    Travels(Box<Travel>),
    /// At its place in the lane.
    InLane(u32),
}

/// The same, wherever it is kept.
#[derive(PartialEq, Hash)]
enum Seen<'a> {
    Still(&'a Pose),
    Travels(Cow<'a, Travel>),
}

impl Live {
    /// As it is to begin with.
    pub fn new(
        pose: Pose,
        stance: Option<Box<BodyState>>,
        switches: [bool; 4],
        removed: bool,
    ) -> Self {
        Self { at: At::Still(pose), rides: None, stance, switches, taken: None, removed }
    }

    /// Its own switch.
    pub fn is_on(&self, switch: Switch) -> bool {
        self.switches[switch as usize]
    }
}

/// All entities.
#[derive(Clone, Debug, Default)]
pub(crate) struct Cast {
    lives: Vec<Live>,
    pub lane: Lane,
}

impl Cast {
    /// How many there are.
    pub fn len(&self) -> usize {
        self.lives.len()
    }

    /// Puts more entities behind the others.
    pub fn extend(&mut self, more: impl Iterator<Item = Live>) {
        self.lives.extend(more);
    }

    pub fn get(&self, entity: EntityId) -> &Live {
        &self.lives[entity.index()]
    }

    pub fn get_mut(&mut self, entity: EntityId) -> &mut Live {
        &mut self.lives[entity.index()]
    }

    /// The movement of an entity, under way or over; none if it was put where it is.
    pub fn travel(&self, entity: EntityId) -> Option<Cow<'_, Travel>> {
        match self.seen(self.get(entity)) {
            Seen::Travels(travel) => Some(travel),
            Seen::Still(_) => None,
        }
    }

    /// When an entity has come to the end of its way; none if it was put where it is.
    pub fn end(&self, entity: EntityId) -> Option<Time> {
        match &self.get(entity).at {
            At::Still(_) => None,
            At::Travels(travel) => Some(travel.end()),
            At::InLane(place) => Some(self.lane.way(*place as usize).end),
        }
    }

    /// The place in the lane of an entity whose way is there.
    pub fn way(&self, entity: EntityId) -> Option<usize> {
        match self.get(entity).at {
            At::InLane(place) => Some(place as usize),
            At::Still(_) | At::Travels(_) => None,
        }
    }

    /// Where an entity is, in its carrier's frame.
    pub fn pose(&self, entity: EntityId, time: Time) -> Pose {
        match &self.get(entity).at {
            At::Still(pose) => *pose,
            At::Travels(travel) => travel.pose(time),
            At::InLane(place) => self.lane.pose(*place as usize, time),
        }
    }

    /// Where it is when it gets to `time`: at a step, before that.
    pub fn pose_before(&self, entity: EntityId, time: Time) -> Pose {
        match self.seen(self.get(entity)) {
            Seen::Still(pose) => *pose,
            Seen::Travels(travel) => travel.pose_before(time),
        }
    }

    /// Where it set out, or else is.
    pub fn start(&self, entity: EntityId) -> Pose {
        match self.seen(self.get(entity)) {
            Seen::Still(pose) => *pose,
            Seen::Travels(travel) => *travel.from(),
        }
    }

    /// Keeps an entity at a pose.
    pub fn rest(&mut self, entity: EntityId, pose: Pose) {
        self.get_mut(entity).at = At::Still(pose);
    }

    /// Sends an entity on a way.
    pub fn go(&mut self, entity: EntityId, travel: Travel) {
        match &mut self.get_mut(entity).at {
            At::Travels(before) => **before = travel,
            other => *other = At::Travels(Box::new(travel)),
        }
    }

    /// Sends an entity straight and evenly from one pose to another, as a host that may do so again
    /// and again.
    pub fn go_in_lane(&mut self, entity: EntityId, way: [Pose; 2], times: (Time, Time)) {
        let place = self.lane.take_place(entity);
        self.lane.set(place, way, times);
        self.get_mut(entity).at = At::InLane(place as u32);
    }

    /// Keeps an entity turned like this: on its way, if it is on one at `now`, or where it is.
    pub fn turn(&mut self, entity: EntityId, rotation: DQuat, now: Time) {
        if self.end(entity).is_none_or(|end| end <= now) {
            let position = self.pose(entity, now).position;
            return self.rest(entity, Pose { position, rotation });
        }
        match &mut self.lives[entity.index()].at {
            At::Still(_) => {}
            At::Travels(travel) => travel.turn_to(rotation),
            At::InLane(place) => self.lane.turn_to(*place as usize, rotation),
        }
    }

    fn seen<'a>(&'a self, live: &'a Live) -> Seen<'a> {
        match &live.at {
            At::Still(pose) => Seen::Still(pose),
            At::Travels(travel) => Seen::Travels(Cow::Borrowed(travel)),
            At::InLane(place) => Seen::Travels(Cow::Owned(self.lane.travel(*place as usize))),
        }
    }

    /// Each with where it is, as two casts are compared: it makes no difference where that is kept.
    fn all_seen(&self) -> impl Iterator<Item = (Seen<'_>, Rest<'_>)> {
        self.lives.iter().map(|live| {
            let Live { rides, stance, switches, taken, removed, .. } = live;
            (self.seen(live), (rides, stance, switches, taken, removed))
        })
    }
}

/// What else is to be told of an entity.
type Rest<'a> =
    (&'a Option<EntityId>, &'a Option<Box<BodyState>>, &'a [bool; 4], &'a Option<u64>, &'a bool);

impl FromIterator<Live> for Cast {
    fn from_iter<I: IntoIterator<Item = Live>>(lives: I) -> Self {
        Self { lives: lives.into_iter().collect(), lane: Lane::default() }
    }
}

impl IntoIterator for Cast {
    type Item = Live;
    type IntoIter = std::vec::IntoIter<Live>;

    /// Each as it is, but that none is in the lane.
    fn into_iter(mut self) -> Self::IntoIter {
        for live in &mut self.lives {
            if let At::InLane(place) = live.at {
                live.at = At::Travels(Box::new(self.lane.travel(place as usize)));
            }
        }
        self.lives.into_iter()
    }
}

impl PartialEq for Cast {
    fn eq(&self, other: &Self) -> bool {
        self.all_seen().eq(other.all_seen())
    }
}

impl Hash for Cast {
    fn hash<H: Hasher>(&self, state: &mut H) {
        self.len().hash(state);
        self.all_seen().for_each(|live| live.hash(state));
    }
}

#[cfg(feature = "serde")]
pub(crate) use saved::SavedLive;

#[cfg(feature = "serde")]
mod saved {
    //! A cast as it is saved: each entity with its movement, wherever that is kept.

    use serde::{Deserialize, Deserializer, Serialize, Serializer};

    use super::{At, Cast, Live, Seen};
    use crate::describe::EntityId;
    use crate::geometry::Pose;
    use crate::motion::Travel;
    use crate::state::BodyState;

    /// How one entity is, as it is saved.
    #[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
    pub(crate) struct SavedLive {
        pose: Pose,
        travel: Option<Travel>,
        rides: Option<EntityId>,
        stance: Option<Box<BodyState>>,
        switches: [bool; 4],
        taken: Option<u64>,
        removed: bool,
    }

    impl Cast {
        /// Each as it is saved.
        fn saved(&self) -> impl Iterator<Item = SavedLive> {
            self.lives.iter().map(|live| self.saved_live(live))
        }

        fn saved_live(&self, live: &Live) -> SavedLive {
            let Live { rides, ref stance, switches, taken, removed, .. } = *live;
            let (pose, travel) = match self.seen(live) {
                Seen::Still(pose) => (*pose, None),
                Seen::Travels(travel) => (*travel.from(), Some(travel.into_owned())),
            };
            SavedLive { pose, travel, rides, stance: stance.clone(), switches, taken, removed }
        }

        /// Those that are otherwise than in another cast of as many, with their places.
        pub(crate) fn differing(&self, other: &Self) -> impl Iterator<Item = (u32, SavedLive)> {
            let both = self.all_seen().zip(other.all_seen()).zip(&self.lives).zip(0_u32..);
            both.filter(|(((one, other), _), _)| one != other)
                .map(|((_, live), place)| (place, self.saved_live(live)))
        }

        /// Lets the entity at this place be as it was saved, if there is such a one.
        pub(crate) fn set(&mut self, place: usize, saved: SavedLive) -> bool {
            let live = self.lives.get_mut(place);
            let Some(live) = live.filter(|it| it.stance.is_some() == saved.stance.is_some()) else {
                return false;
            };
            *live = saved.into();
            true
        }
    }

    impl From<SavedLive> for Live {
        fn from(saved: SavedLive) -> Self {
            let SavedLive { pose, travel, rides, stance, switches, taken, removed } = saved;
            let at = match travel {
                Some(travel) => At::Travels(Box::new(travel)),
                None => At::Still(pose),
            };
            Self { at, rides, stance, switches, taken, removed }
        }
    }

    impl Serialize for Cast {
        fn serialize<S: Serializer>(&self, to: S) -> Result<S::Ok, S::Error> {
            to.collect_seq(self.saved())
        }
    }

    impl<'de> Deserialize<'de> for Cast {
        fn deserialize<D: Deserializer<'de>>(from: D) -> Result<Self, D::Error> {
            let saved = Vec::<SavedLive>::deserialize(from)?;
            Ok(saved.into_iter().map(Live::from).collect())
        }
    }
}
