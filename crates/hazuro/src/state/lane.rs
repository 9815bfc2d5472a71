//! The lane: the ways of bodies that a host tells where to go, side by side.
//!
//! A host says of thousands of bodies each tick where they are. What is needed for that of each of them is
//! kept here in little memory, in the order in which they were first told, and gone through from one end
//! to the other.

use glam::{DQuat, DVec3};

use crate::Time;
use crate::describe::EntityId;
use crate::geometry::Pose;
use crate::motion::{Easing, Travel};

/// A way straight and even, in the world.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Way {
    pub from: DVec3,
    pub to: DVec3,
    pub start: Time,
    pub end: Time,
}

/// The place in the lane of something that has none.
const NONE: u32 = u32::MAX;

/// The ways of all that have ever been told.
#[derive(Clone, Debug, Default)]
pub(crate) struct Lane {
    ways: Vec<Way>,
    /// How each is turned at the start and at the end of its way.
    turns: Vec<[DQuat; 2]>,
    /// Whether these differ.
    turning: Vec<bool>,
    /// The place of each entity; what lies beyond has none.
    places: Vec<u32>,
}

impl Lane {
    /// The place of an entity that has ever been told where to go.
    pub fn place(&self, entity: EntityId) -> Option<usize> {
        let place = self.places.get(entity.index()).copied()?;
        (place != NONE).then_some(place as usize)
    }

    /// The place of an entity, a new one if it has none.
    pub fn take_place(&mut self, entity: EntityId) -> usize {
        if let Some(place) = self.place(entity) {
            return place;
        }
        if self.places.len() <= entity.index() {
            self.places.resize(entity.index() + 1, NONE);
        }
        let place = self.ways.len();
        self.places[entity.index()] = place as u32;
        let nowhere = DVec3::ZERO;
        self.ways.push(Way { from: nowhere, to: nowhere, start: Time::ZERO, end: Time::ZERO });
        self.turns.push([DQuat::IDENTITY; 2]);
        self.turning.push(false);
        place
    }

    /// The way at a place.
    pub fn way(&self, place: usize) -> &Way {
        &self.ways[place]
    }

    /// How what is at a place is turned at the end of its way.
    pub fn turned(&self, place: usize) -> DQuat {
        self.turns[place][1]
    }

    /// Sets out what is at a place from one pose to another.
    pub fn set(&mut self, place: usize, [from, to]: [Pose; 2], (start, end): (Time, Time)) {
        self.ways[place] = Way { from: from.position, to: to.position, start, end };
        self.turns[place] = [from.rotation, to.rotation];
        self.turning[place] = from.rotation != to.rotation;
    }

    /// Sets out what is at a place from where it is at `start`; turned as before, unless a rotation is
    /// given. What is given is the pose from which it sets out only if it turns.
    pub fn go_on(
        &mut self,
        place: usize,
        to: DVec3,
        rotation: Option<DQuat>,
        [start, end]: [Time; 2],
    ) {
        if self.turning[place] || rotation.is_some() {
            let from = self.pose(place, start);
            let rotation = rotation.unwrap_or(from.rotation);
            self.set(place, [from, Pose { position: to, rotation }], (start, end));
            return;
        }
        let way = &mut self.ways[place];
        let from = way.position(start);
        *way = Way { from, to, start, end };
    }

    /// Keeps what is at a place turned like this.
    pub fn turn_to(&mut self, place: usize, rotation: DQuat) {
        self.turns[place] = [rotation; 2];
        self.turning[place] = false;
    }

    /// Where what is at a place is then, and how it is turned.
    pub fn pose(&self, place: usize, time: Time) -> Pose {
        let way = &self.ways[place];
        let [from, to] = self.turns[place];
        if !self.turning[place] {
            return Pose { position: way.position(time), rotation: to };
        }
        let [from, to] = [(way.from, from), (way.to, to)].map(Pose::from);
        if time >= way.end {
            return to;
        }
        if time < way.start { from } else { from.towards(&to, time.fraction(way.start, way.end)) }
    }

    /// The way at a place as any other movement.
    pub fn travel(&self, place: usize) -> Travel {
        let Way { from, to, start, end } = self.ways[place];
        let [from, to] = [from, to].map(Pose::from);
        let [first, last] = self.turns[place];
        let (from, to) = (Pose { rotation: first, ..from }, Pose { rotation: last, ..to });
        Travel::new(start, end, from, to, Easing::Linear)
    }
}

impl Way {
    fn position(&self, time: Time) -> DVec3 {
        if time >= self.end {
            return self.to;
        }
        if time < self.start {
            return self.from;
        }
        self.from.lerp(self.to, time.fraction(self.start, self.end))
    }
}
