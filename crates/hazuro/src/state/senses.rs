//! What detectors other than zones remember.

use std::hash::{Hash, Hasher};

use glam::DVec3;

use crate::Time;
use crate::describe::{EntityId, Ground};
use crate::geometry::bits;

/// The number of a subject's part where the subject is detected as a whole.
pub(crate) const WHOLE: u32 = u32::MAX;

/// Where and how a subject and a detector met.
///
/// ```
/// use hazuro::{Play, Scene, Time, geometry::Shape, scene::{Body, Entity, Touch}};
/// let scene = Scene::builder("Yard")
///     .entity(
///         Entity::new("ball").at([-5.0, 0.0, 0.0]).body(Body::new(Shape::Sphere { radius: 0.5 })),
///     )
///     .entity(Entity::new("wall").solid(Shape::Box { size: [1.0; 3] }).touch(Touch::default()))
///     .build()?;
/// let mut play = Play::new(scene);
/// play.drive("ball", [0.0, 0.0, 0.0])?;
/// let entries = play.advance(Time::from_secs(1.0));
/// let meeting = entries.iter().find_map(|entry| entry.event()?.meeting).unwrap();
/// assert_eq!(meeting.normal.to_array(), [-1.0, 0.0, 0.0]);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Meeting {
    /// Where, in metres.
    pub point: DVec3,
    /// The unit vector out of what was met.
    pub normal: DVec3,
    /// How fast the two came together there along the normal, in metres per second; 0 if they did
    /// not move, as after a jump.
    pub speed: f64,
}

impl Hash for Meeting {
    fn hash<H: Hasher>(&self, state: &mut H) {
        (bits(self.point), bits(self.normal), self.speed.to_bits()).hash(state);
    }
}

/// What a watcher knows of somebody it has seen.
///
/// ```
/// use hazuro::{Play, Scene, Time, geometry::Shape, scene::{Body, Entity, Sight}};
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("owl").sight(Sight::default()))
///     .entity(
///         Entity::new("mouse")
///             .at([0.0, 0.0, -4.0])
///             .body(Body::new(Shape::Sphere { radius: 0.1 })),
///     )
///     .build()?;
/// let mut play = Play::new(scene);
/// play.advance(Time::from_secs(0.2));
/// let seen = &play.sightings("owl")?[0];
/// assert!(seen.spotted && seen.place.z == -4.0);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Sighting {
    /// Of whom.
    pub who: EntityId,
    /// How sure it is, from 0 to 1.
    pub awareness: f64,
    /// Whether it saw it when it last looked.
    pub in_view: bool,
    /// Whether it has noticed it and not yet forgotten it.
    pub spotted: bool,
    /// When it last saw it.
    pub last_seen: Time,
    /// Where that was.
    pub place: DVec3,
}

/// How sure a watcher is of somebody.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Awareness {
    /// From 0 to 1, when it was last looked at.
    pub level: f64,
    pub looked: Time,
    pub in_view: bool,
    /// Where it was seen last, and when.
    pub seen: Option<(Time, DVec3)>,
}

impl Awareness {
    /// Whether an earlier look tells the same, and will as time goes by: then it stays as it is, so
    /// that it makes no difference how often somebody looked.
    pub fn says_as_much_as(&self, before: &Self) -> bool {
        let place = |it: &Self| it.seen.map(|(_, place)| place);
        let lasts = self.level == f64::from(u8::from(self.in_view));
        lasts
            && (self.level, self.in_view, place(self))
                == (before.level, before.in_view, place(before))
    }
}

impl Hash for Awareness {
    fn hash<H: Hasher>(&self, state: &mut H) {
        (self.level.to_bits(), self.looked, self.in_view).hash(state);
        self.seen.map(|(time, place)| (time, bits(place))).hash(state);
    }
}

/// What a body's footing remembers.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Stand {
    pub ground: Ground,
    /// What its `land` named, while it stands.
    pub landed_on: Option<EntityId>,
    /// When it last was near enough to the ground to stand on it; while it stands still on what
    /// stands still, since when.
    pub last_near: Time,
    /// How fast it was going down, in metres per second.
    pub sinking: f64,
}

impl Hash for Stand {
    fn hash<H: Hasher>(&self, state: &mut H) {
        let Ground { grounded, under, height, slope } = self.ground;
        (grounded, under, height.to_bits(), slope.to_bits()).hash(state);
        self.landed_on.hash(state);
        (self.last_near, self.sinking.to_bits()).hash(state);
    }
}

/// A player's pointer.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct PointerState {
    /// Where on the screen, in pixels from the top left.
    pub at: (f64, f64),
    /// On what it was pressed, while it is.
    pub pressed: Option<DragState>,
    pub is_down: bool,
    /// On what it is.
    pub over: Option<EntityId>,
}

/// What is held with a pointer, and how.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct DragState {
    pub what: EntityId,
    /// Where it was grabbed.
    pub point: DVec3,
    /// From there to the origin of what is held.
    pub offset: DVec3,
}

impl Hash for PointerState {
    fn hash<H: Hasher>(&self, state: &mut H) {
        (self.at.0.to_bits(), self.at.1.to_bits(), self.is_down, self.over).hash(state);
        self.pressed.map(|grip| (grip.what, bits(grip.point), bits(grip.offset))).hash(state);
    }
}

/// A prompt whose key is held.
#[derive(Clone, Copy, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct KeyHold {
    pub prompt: EntityId,
    pub since: Time,
}
