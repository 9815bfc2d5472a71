//! What becomes of what takes time: reactions that wait, effects, what was brought out.

use crate::Time;
use crate::describe::{EntityId, ReactionId};

/// What becomes of a reaction that waits before, between or after its actions.
///
/// ```
/// use hazuro::{Happening, Life, Play, Scene, scene::{Action, Reaction, Trigger}};
/// let scene = Scene::builder("Yard")
///     .reaction(Reaction::on(Trigger::Start).after(2.0).then(Action::cue("dong")))
///     .build()?;
/// let mut play = Play::new(scene);
/// let lives: Vec<Life> = play.step().iter().filter_map(|entry| match entry.what {
///     Happening::Run { life, .. } => Some(life),
///     _ => None,
/// }).collect();
/// assert_eq!(lives[0], Life::Begins);
/// assert!(matches!(lives[1], Life::Waits { until, .. } if until.secs() == 2.0));
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Life {
    /// It begins.
    Begins,
    /// It waits.
    Waits {
        /// Until when; an arrival may be put off meanwhile.
        until: Time,
        /// For whose arrival, if it waits for one.
        arrival: Option<EntityId>,
    },
    /// It was still under way, so that the event waits until that is over.
    Queued,
    /// It was still under way, so that the event is ignored.
    Ignored,
    /// Another reaction does what it would have done: `instead_of`.
    Replaced(ReactionId),
    /// It has done everything.
    Done,
    /// What it still had to do is left out.
    Stopped(Stopped),
}

/// What ends a reaction before it has done everything.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stopped {
    /// An event of its `until`.
    Until,
    /// The condition of its `until` holds.
    UntilHolds,
    /// Its event happened again, and it begins anew: `again`.
    Anew,
    /// An action, a host or a tape stopped it.
    Stop,
    /// For `first` and `last`: while it waited somebody came, or all left.
    NoLonger,
}

/// Why an effect ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Expiry {
    /// Its time was over.
    Time,
    /// The entity that had it is detected no more.
    Left,
    /// An action ended it.
    Action,
    /// The entity that had it was taken out of the play.
    Gone,
}

/// Why a spawner took back what it had brought out.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum TakenBack {
    /// It was as old as it may become.
    Old,
    /// It had left the bounds.
    Strayed,
}

impl Stopped {
    /// In words.
    pub fn words(self) -> &'static str {
        match self {
            Self::Until => "an event of its `until` happened",
            Self::UntilHolds => "the condition of its `until` holds",
            Self::Anew => "its event happened again, and it begins anew",
            Self::Stop => "it was stopped",
            Self::NoLonger => "meanwhile somebody came or left, and it is not so any more",
        }
    }
}

impl Expiry {
    /// In words.
    pub fn words(self) -> &'static str {
        match self {
            Self::Time => "its time is over",
            Self::Left => "its subject has left",
            Self::Action => "an action ended it",
            Self::Gone => "its subject is out of the play",
        }
    }
}

impl TakenBack {
    /// In words.
    pub fn words(self) -> &'static str {
        match self {
            Self::Old => "it is as old as it may become",
            Self::Strayed => "it has left the bounds",
        }
    }
}
