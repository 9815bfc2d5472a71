//! Something detected.

use std::fmt;

use glam::DVec3;

use crate::Time;
use crate::geometry::bits;
use crate::scene::{EntityId, EventKind};

/// Why a subject came into a zone or left it.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum Cause {
    /// The subject or the zone moved.
    Move,
    /// It was there when the play began.
    Appear,
    /// The subject or the zone was put elsewhere at once.
    Teleport,
    /// The subject or the zone was switched on.
    Enable,
    /// The subject or the zone was switched off.
    Disable,
    /// The subject or the zone was taken out of the play.
    Remove,
}

impl Cause {
    /// All of them.
    pub const ALL: [Self; 6] =
        [Self::Move, Self::Appear, Self::Teleport, Self::Enable, Self::Disable, Self::Remove];

    /// The word for it in files and logs.
    pub fn word(self) -> &'static str {
        match self {
            Self::Move => "move",
            Self::Appear => "appear",
            Self::Teleport => "teleport",
            Self::Enable => "enable",
            Self::Disable => "disable",
            Self::Remove => "remove",
        }
    }
}

impl fmt::Display for Cause {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(self.word())
    }
}

/// Something detected.
///
/// ```
/// use hazuro::{Play, Scene, geometry::Shape, scene::{Body, Entity, EventKind, Zone}};
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("ball").body(Body::new(Shape::Sphere { radius: 0.1 })))
///     .entity(Entity::new("pad").zone(Zone::new(Shape::Box { size: [1.0, 1.0, 1.0] })))
///     .build()?;
/// let mut play = Play::new(scene);
/// let enter = play.step().iter().filter_map(|entry| entry.event()).nth(1).unwrap().clone();
/// assert_eq!(enter.kind, EventKind::Enter);
/// assert_eq!(play.scene().name(enter.who.unwrap()), "ball");
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Event {
    /// When, exactly.
    pub time: Time,
    /// In which tick.
    pub tick: u64,
    /// What sort of event.
    pub kind: EventKind,
    /// The detector. A cue has the detector of the event that sent it, if there was one.
    pub on: Option<EntityId>,
    /// The subject. A cue has the subject of the event that sent it, if there was one.
    pub who: Option<EntityId>,
    /// Which part of the subject: the first one in, the last one out, numbered from 0.
    pub part: Option<usize>,
    /// Why.
    pub cause: Option<Cause>,
    /// Where the centre of that part was, in metres.
    pub at: Option<DVec3>,
    /// For `enter`, nobody was inside before; for `exit`, nobody is left inside.
    pub edge: bool,
    /// The name of a cue.
    pub cue: Option<String>,
}

impl Event {
    pub(crate) fn bare(kind: EventKind, time: Time, tick: u64) -> Self {
        Self {
            time,
            tick,
            kind,
            on: None,
            who: None,
            part: None,
            cause: None,
            at: None,
            edge: false,
            cue: None,
        }
    }
}

impl std::hash::Hash for Event {
    fn hash<H: std::hash::Hasher>(&self, state: &mut H) {
        (self.time, self.tick, self.kind, self.on, self.who, self.part, self.cause).hash(state);
        self.at.map(bits).hash(state);
        (self.edge, &self.cue).hash(state);
    }
}
