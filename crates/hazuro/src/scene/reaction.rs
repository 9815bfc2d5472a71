//! When an event, if a condition, do actions.

use std::fmt;

use super::{Action, Condition, EventKind, Selector};

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
    },
    /// The cue of this name is sent.
    Cue(String),
}

impl Trigger {
    /// Any event of a detector. Without a detector, as for `start` and `cue`, it never happens.
    pub fn of(event: EventKind, on: impl Into<Selector>) -> Self {
        Self::Detected { event, on: on.into(), edge: false }
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
    /// With [`Reaction::after`] it must stay that way: if somebody comes in before the time is
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

    /// A cue is sent.
    pub fn cue(name: impl Into<String>) -> Self {
        Self::Cue(name.into())
    }

    /// Only when nobody was detected before, or when nobody is any more.
    #[must_use]
    pub fn at_edge(self) -> Self {
        match self {
            Self::Detected { event, on, .. } => Self::Detected { event, on, edge: true },
            other => other,
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
            Self::Detected { event, on, edge } => {
                let edge = match edge {
                    false => "",
                    true if event.is_opening() => "first ",
                    true => "last ",
                };
                write!(f, "{edge}{event} {on}")
            }
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
    pub(crate) pass_on: bool,
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
            pass_on: false,
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

    /// Leave the event of a pointer to the ancestors of what was pointed at too. Without this,
    /// whoever reacts to it stops it.
    #[must_use]
    pub fn pass_on(self) -> Self {
        Self { pass_on: true, ..self }
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

    /// Whether it leaves the event of a pointer to ancestors too.
    pub fn passes_on(&self) -> bool {
        self.pass_on
    }

    /// What it does, in order.
    pub fn actions(&self) -> &[Action] {
        &self.actions
    }
}
