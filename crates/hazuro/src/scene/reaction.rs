//! When an event, if a condition, do actions.

use std::fmt;

use super::{Action, Condition, Selector};

/// What sort of thing was detected.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum EventKind {
    /// The play began.
    Start,
    /// A subject came into a zone.
    Enter,
    /// A subject left a zone.
    Exit,
    /// A subject has stayed in a zone for another interval.
    Inside,
    /// A cue was sent.
    Cue,
}

impl EventKind {
    /// All of them.
    pub const ALL: [Self; 5] = [Self::Start, Self::Enter, Self::Exit, Self::Inside, Self::Cue];

    /// The word for it in files and logs.
    pub fn word(self) -> &'static str {
        match self {
            Self::Start => "start",
            Self::Enter => "enter",
            Self::Exit => "exit",
            Self::Inside => "inside",
            Self::Cue => "cue",
        }
    }

    /// The kind that this word means.
    pub fn from_word(word: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|kind| kind.word() == word)
    }
}

impl fmt::Display for EventKind {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(self.word())
    }
}

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
    /// A subject comes into a zone.
    Enter {
        /// Which zones.
        zone: Selector,
        /// Only when nobody was inside before.
        first: bool,
    },
    /// A subject leaves a zone.
    Exit {
        /// Which zones.
        zone: Selector,
        /// Only when nobody is left inside.
        last: bool,
    },
    /// A subject has stayed in a zone for another interval.
    Inside {
        /// Which zones.
        zone: Selector,
    },
    /// The cue of this name is sent.
    Cue(String),
}

impl Trigger {
    /// Somebody comes into the zone.
    pub fn enter(zone: impl Into<Selector>) -> Self {
        Self::Enter { zone: zone.into(), first: false }
    }

    /// Somebody comes into the zone while nobody is inside.
    pub fn first_enter(zone: impl Into<Selector>) -> Self {
        Self::Enter { zone: zone.into(), first: true }
    }

    /// Somebody leaves the zone.
    pub fn exit(zone: impl Into<Selector>) -> Self {
        Self::Exit { zone: zone.into(), last: false }
    }

    /// Somebody leaves the zone and nobody is left inside.
    ///
    /// With [`Reaction::after`] it must stay that way: if somebody comes in before the time is
    /// over, the reaction does not happen.
    pub fn last_exit(zone: impl Into<Selector>) -> Self {
        Self::Exit { zone: zone.into(), last: true }
    }

    /// Somebody has stayed inside for another interval.
    pub fn inside(zone: impl Into<Selector>) -> Self {
        Self::Inside { zone: zone.into() }
    }

    /// A cue is sent.
    pub fn cue(name: impl Into<String>) -> Self {
        Self::Cue(name.into())
    }

    /// The kind of event.
    pub fn event(&self) -> EventKind {
        match self {
            Self::Start => EventKind::Start,
            Self::Enter { .. } => EventKind::Enter,
            Self::Exit { .. } => EventKind::Exit,
            Self::Inside { .. } => EventKind::Inside,
            Self::Cue(_) => EventKind::Cue,
        }
    }

    /// The zones it watches, if it watches zones.
    pub fn zone(&self) -> Option<&Selector> {
        match self {
            Self::Enter { zone, .. } | Self::Exit { zone, .. } | Self::Inside { zone } => {
                Some(zone)
            }
            Self::Start | Self::Cue(_) => None,
        }
    }

    /// Whether it wants only the first to enter or the last to leave.
    pub(crate) fn only_edge(&self) -> bool {
        matches!(self, Self::Enter { first: true, .. } | Self::Exit { last: true, .. })
    }
}

/// As in `enter sluice_pad`.
impl fmt::Display for Trigger {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Start => f.write_str("start"),
            Self::Enter { zone, first } => {
                write!(f, "{}enter {zone}", if *first { "first " } else { "" })
            }
            Self::Exit { zone, last } => {
                write!(f, "{}exit {zone}", if *last { "last " } else { "" })
            }
            Self::Inside { zone } => write!(f, "inside {zone}"),
            Self::Cue(name) => write!(f, "cue {name}"),
        }
    }
}

/// When an event, if a condition, do actions.
///
/// ```
/// use hazuro::scene::{Action, Condition, Reaction, Trigger};
/// let close = Reaction::on(Trigger::last_exit("sluice_pad"))
///     .after(2.0)
///     .then(Action::move_home("sluice_gate").over(1.2));
/// let toll = Reaction::on(Trigger::enter("toll_gate"))
///     .when(Condition::new("four tokens", |facts| facts.count("tokens") >= 4))
///     .once()
///     .then(Action::say("toll.paid"));
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Reaction {
    pub(crate) on: Trigger,
    pub(crate) condition: Option<Condition>,
    pub(crate) after: f64,
    pub(crate) once: bool,
    pub(crate) cooldown: f64,
    pub(crate) actions: Vec<Action>,
}

impl Reaction {
    /// A reaction to this event that does nothing yet.
    pub fn on(trigger: Trigger) -> Self {
        Self {
            on: trigger,
            condition: None,
            after: 0.0,
            once: false,
            cooldown: 0.0,
            actions: Vec::new(),
        }
    }

    /// Only if this holds when the event happens.
    #[must_use]
    pub fn when(self, condition: Condition) -> Self {
        Self { condition: Some(condition), ..self }
    }

    /// Wait this many seconds between the event and the actions.
    #[must_use]
    pub fn after(self, seconds: f64) -> Self {
        Self { after: seconds, ..self }
    }

    /// Only the first time.
    #[must_use]
    pub fn once(self) -> Self {
        Self { once: true, ..self }
    }

    /// Not again until this many seconds after the event it last reacted to.
    #[must_use]
    pub fn cooldown(self, seconds: f64) -> Self {
        Self { cooldown: seconds, ..self }
    }

    /// Then do this, after what it does already.
    #[must_use]
    pub fn then(mut self, action: impl Into<Action>) -> Self {
        self.actions.push(action.into());
        self
    }

    /// What it waits for.
    pub fn trigger(&self) -> &Trigger {
        &self.on
    }

    /// Its condition, if it has one.
    pub fn condition(&self) -> Option<&Condition> {
        self.condition.as_ref()
    }

    /// How many seconds it waits.
    pub fn delay(&self) -> f64 {
        self.after
    }

    /// Whether it happens only once.
    pub fn is_once(&self) -> bool {
        self.once
    }

    /// Its cooldown in seconds.
    pub fn cooldown_seconds(&self) -> f64 {
        self.cooldown
    }

    /// What it does, in order.
    pub fn actions(&self) -> &[Action] {
        &self.actions
    }
}
