//! The events that reactions and handlers wait for.

use std::fmt;

use super::{EventKind, Selector};

/// The event that a reaction or handler waits for.
///
/// ```
/// use hazuro::scene::Trigger;
/// let opened = Trigger::first_enter("sluice_pad");
/// let left = Trigger::last_exit("kind:pad");
/// let paid = Trigger::cue("toll_paid");
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Trigger {
    /// The start of the play.
    Start,
    /// Something is detected.
    Detected {
        /// What.
        event: EventKind,
        /// By which detectors.
        on: Selector,
        /// Of an event with which subjects begin to be detected, only when nobody was before; of
        /// one with which they cease to be, only when nobody is left.
        edge: bool,
        /// Of an event of stats, only of this one.
        of: Option<String>,
        /// Only of these subjects.
        who: Option<Selector>,
    },
    /// The cue of this name is sent.
    Cue(String),
}

impl Trigger {
    /// Any event of a detector. Without a detector, as for `start` and `cue`, it never happens.
    pub fn of(event: EventKind, on: impl Into<Selector>) -> Self {
        Self::Detected { event, on: on.into(), edge: false, of: None, who: None }
    }

    /// Somebody comes into the zone.
    pub fn enter(zone: impl Into<Selector>) -> Self {
        Self::of(EventKind::Enter, zone)
    }

    /// Somebody comes into the zone while nobody is inside.
    pub fn first_enter(zone: impl Into<Selector>) -> Self {
        Self::enter(zone).at_edge()
    }

    /// Somebody leaves the zone.
    pub fn exit(zone: impl Into<Selector>) -> Self {
        Self::of(EventKind::Exit, zone)
    }

    /// Somebody leaves the zone and nobody is left inside.
    ///
    /// With [`Reaction::after`](super::Reaction::after) it must stay that way: if somebody comes in before the time is
    /// over, the reaction does not happen.
    pub fn last_exit(zone: impl Into<Selector>) -> Self {
        Self::exit(zone).at_edge()
    }

    /// Somebody has stayed inside for another interval.
    pub fn inside(zone: impl Into<Selector>) -> Self {
        Self::of(EventKind::Inside, zone)
    }

    /// Somebody begins to touch it.
    pub fn touch(what: impl Into<Selector>) -> Self {
        Self::of(EventKind::Touch, what)
    }

    /// A player clicks it.
    pub fn click(what: impl Into<Selector>) -> Self {
        Self::of(EventKind::Click, what)
    }

    /// A player uses what makes no offers.
    pub fn interact(what: impl Into<Selector>) -> Self {
        Self::of(EventKind::Interact, what)
    }

    /// A player uses a prompt.
    pub fn accept(prompt: impl Into<Selector>) -> Self {
        Self::of(EventKind::Accept, prompt)
    }

    /// A probe begins to hit something.
    pub fn hit(probe: impl Into<Selector>) -> Self {
        Self::of(EventKind::Hit, probe)
    }

    /// A body comes to stand on something.
    pub fn land(body: impl Into<Selector>) -> Self {
        Self::of(EventKind::Land, body)
    }

    /// A watcher notices somebody.
    pub fn spot(watcher: impl Into<Selector>) -> Self {
        Self::of(EventKind::Spot, watcher)
    }

    /// A seeker chooses another target, or none.
    pub fn retarget(seeker: impl Into<Selector>) -> Self {
        Self::of(EventKind::Retarget, seeker)
    }

    /// A pickup is collected.
    pub fn collect(pickup: impl Into<Selector>) -> Self {
        Self::of(EventKind::Collect, pickup)
    }

    /// Something is taken in somebody's hands.
    pub fn grab(thing: impl Into<Selector>) -> Self {
        Self::of(EventKind::Grab, thing)
    }

    /// Something belongs to somebody from now on.
    pub fn own(thing: impl Into<Selector>) -> Self {
        Self::of(EventKind::Own, thing)
    }

    /// Something belongs to its owner no more.
    pub fn disown(thing: impl Into<Selector>) -> Self {
        Self::of(EventKind::Disown, thing)
    }

    /// Something that was let go of has come to rest.
    pub fn settle(thing: impl Into<Selector>) -> Self {
        Self::of(EventKind::Settle, thing)
    }

    /// Something comes to a stop of its way.
    pub fn reach(what: impl Into<Selector>) -> Self {
        Self::of(EventKind::Reach, what)
    }

    /// A body is in the way of something that moves.
    pub fn blocked(what: impl Into<Selector>) -> Self {
        Self::of(EventKind::Blocked, what)
    }

    /// Somebody is put here from elsewhere.
    pub fn arrive(place: impl Into<Selector>) -> Self {
        Self::of(EventKind::Arrive, place)
    }

    /// Somebody is put elsewhere from here.
    pub fn depart(place: impl Into<Selector>) -> Self {
        Self::of(EventKind::Depart, place)
    }

    /// A stat of an entity has sunk to its least.
    pub fn empty(whose: impl Into<Selector>, stat: impl Into<String>) -> Self {
        Self::of(EventKind::Empty, whose).of_stat(stat)
    }

    /// A stat of an entity has risen to its most.
    pub fn full(whose: impl Into<Selector>, stat: impl Into<String>) -> Self {
        Self::of(EventKind::Full, whose).of_stat(stat)
    }

    /// A cue is sent.
    pub fn cue(name: impl Into<String>) -> Self {
        Self::Cue(name.into())
    }

    /// Only when nobody was detected before, or when nobody is any more.
    #[must_use]
    pub fn at_edge(mut self) -> Self {
        if let Self::Detected { edge, .. } = &mut self {
            *edge = true;
        }
        self
    }

    /// Only of this stat.
    #[must_use]
    pub fn of_stat(mut self, stat: impl Into<String>) -> Self {
        if let Self::Detected { of, .. } = &mut self {
            *of = Some(stat.into());
        }
        self
    }

    /// Only of these subjects: one, or all of a kind, in a layer or with a tag. What gets the tag later is
    /// one of them, too. Nothing else changes: with [`at_edge`](Self::at_edge) all subjects count for whether anybody
    /// is inside.
    ///
    /// ```
    /// use hazuro::{Play, Scene, geometry::Shape};
    /// use hazuro::scene::{Body, Entity, Trigger, Zone};
    /// let ball = || Body::new(Shape::Sphere { radius: 0.1 });
    /// let scene = Scene::builder("Yard")
    ///     .entity(Entity::new("ada").tags(["player"]).body(ball()))
    ///     .entity(Entity::new("dog").body(ball()))
    ///     .entity(Entity::new("pad").zone(Zone::new(Shape::Box { size: [1.0; 3] })))
    ///     .build()?;
    /// let mut play = Play::new(scene);
    /// play.on(Trigger::enter("pad").of_subject("tag:player"), |_, act| act.add("players", 1))?;
    /// play.step();
    /// assert_eq!(play.count("players"), 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn of_subject(mut self, subjects: impl Into<Selector>) -> Self {
        if let Self::Detected { who, .. } = &mut self {
            *who = Some(subjects.into());
        }
        self
    }

    /// The stat that it waits for, if it names one.
    pub fn stat_name(&self) -> Option<&str> {
        match self {
            Self::Detected { of, .. } => of.as_deref(),
            Self::Start | Self::Cue(_) => None,
        }
    }

    /// The subjects that it waits for, if it names any.
    pub fn subjects(&self) -> Option<&Selector> {
        match self {
            Self::Detected { who, .. } => who.as_ref(),
            Self::Start | Self::Cue(_) => None,
        }
    }

    /// The kind of event.
    pub fn event(&self) -> EventKind {
        match self {
            Self::Start => EventKind::Start,
            Self::Detected { event, .. } => *event,
            Self::Cue(_) => EventKind::Cue,
        }
    }

    /// The detectors that it waits for, if it does.
    pub fn detectors(&self) -> Option<&Selector> {
        match self {
            Self::Detected { on, .. } => Some(on),
            Self::Start | Self::Cue(_) => None,
        }
    }

    /// Whether it wants only the first to come or the last to go.
    pub fn only_edge(&self) -> bool {
        matches!(self, Self::Detected { edge: true, .. })
    }
}

/// As in `enter sluice_pad`.
impl fmt::Display for Trigger {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Start => f.write_str("start"),
            Self::Detected { event, on, edge, of, who } => {
                let edge = match edge {
                    false => "",
                    true if event.is_opening() => "first ",
                    true => "last ",
                };
                write!(f, "{edge}{event} {on}")?;
                of.as_ref().map_or(Ok(()), |of| write!(f, " ({of})"))?;
                who.as_ref().map_or(Ok(()), |who| write!(f, " by {who}"))
            }
            Self::Cue(name) => write!(f, "cue {name}"),
        }
    }
}
