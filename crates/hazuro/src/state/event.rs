//! Something detected.

use std::fmt;

use glam::DVec3;

use crate::Time;
use crate::describe::{EntityId, EventKind};
use crate::geometry::bits;

use super::{Meeting, Reading};

/// Why a subject began or ceased to be detected.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Cause {
    /// The subject or the detector moved.
    Move,
    /// It was there when the play began.
    Appear,
    /// The subject or the detector was put elsewhere at once.
    Teleport,
    /// The subject or the detector was switched on.
    Enable,
    /// The subject or the detector was switched off.
    Disable,
    /// The subject or the detector was taken out of the play.
    Remove,
    /// The detector's rule began or ceased to admit the subject: its condition, a
    /// tag, or whose it is.
    Admit,
    /// The subject or the detector was converted or reverted.
    Convert,
    /// Somebody sent the event by hand.
    Hand,
    /// What belonged to somebody came to rest.
    Rest,
    /// The time was over for which somebody might keep it.
    Expire,
    /// An action took it away.
    Action,
}

impl Cause {
    /// All of them.
    pub const ALL: [Self; 12] = [
        Self::Move,
        Self::Appear,
        Self::Teleport,
        Self::Enable,
        Self::Disable,
        Self::Remove,
        Self::Admit,
        Self::Convert,
        Self::Hand,
        Self::Rest,
        Self::Expire,
        Self::Action,
    ];

    /// The word for it in files and logs.
    pub fn word(self) -> &'static str {
        match self {
            Self::Move => "move",
            Self::Appear => "appear",
            Self::Teleport => "teleport",
            Self::Enable => "enable",
            Self::Disable => "disable",
            Self::Remove => "remove",
            Self::Admit => "admit",
            Self::Convert => "convert",
            Self::Hand => "hand",
            Self::Rest => "rest",
            Self::Expire => "expire",
            Self::Action => "action",
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
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
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
    /// Where and how the two met, for `touch`, `hit`, `land` and what a pointer does; for
    /// `miss`, where it is on anything.
    pub meeting: Option<Meeting>,
    /// What was detected before, for `retarget`; what was pointed at, where an event has gone up
    /// to an ancestor of that.
    pub was: Option<EntityId>,
    /// What a user interface highlights for the subject from now on, for `offer`, or no longer, for
    /// `withdraw`; none if some other offer highlights the same.
    pub highlight: Option<EntityId>,
    /// What was lacking, for `refused`: the name of a count, a tag or a stat.
    pub need: Option<String>,
    /// What a stat changed from and to, for `stat`, `empty` and `full`.
    pub reading: Option<Reading>,
    /// For an event that begins a detection, nobody was detected before; for one that ends it,
    /// nobody is any more.
    pub edge: bool,
    /// The name of a cue.
    pub cue: Option<String>,
}

impl Event {
    /// Where it happened: of what a pointer does, the point under it, if there is anything; of a `drag`,
    /// where it holds the thing; of anything else [`at`](Self::at).
    pub fn point(&self) -> Option<DVec3> {
        match self.kind {
            EventKind::Hover
            | EventKind::Unhover
            | EventKind::PointerDown
            | EventKind::PointerUp
            | EventKind::Click
            | EventKind::Miss => self.meeting.as_ref().map(|meeting| meeting.point),
            _ => self.at,
        }
    }

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
            meeting: None,
            was: None,
            highlight: None,
            need: None,
            reading: None,
            edge: false,
            cue: None,
        }
    }
}

impl std::hash::Hash for Event {
    fn hash<H: std::hash::Hasher>(&self, state: &mut H) {
        (self.time, self.tick, self.kind, self.on, self.who, self.part, self.cause).hash(state);
        self.at.map(bits).hash(state);
        (self.meeting, self.was, &self.need, self.reading, self.edge, &self.cue).hash(state);
        self.highlight.hash(state);
    }
}
