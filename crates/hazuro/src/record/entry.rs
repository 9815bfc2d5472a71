//! The entries of a log: what was detected, and what was done about it.

use crate::Time;
use crate::describe::{
    EntityId, Fault, ReactionId, ResolvedAction, most::MAX_ACTIONS, most::MAX_RUNS,
    most::MAX_STRETCHES, most::MAX_STRETCHES_AT_ONCE,
};
use crate::model::Scene;
use crate::state::{Event, Origin, State};

use super::{Expiry, Failure, Life, Refusal, Step, TakenBack};

/// One thing that happened in a play, and what it came of.
///
/// ```
/// use hazuro::{Happening, Play, Scene, scene::{Action, Reaction, Trigger}};
/// let scene = Scene::builder("Yard")
///     .text("hello", "Good morning.")
///     .reaction(Reaction::on(Trigger::Start).then(Action::say("hello")))
///     .build()?;
/// let mut play = Play::new(scene);
/// let said = play.step().iter().find_map(|entry| match &entry.what {
///     Happening::Said { text, .. } => Some(text.clone()),
///     _ => None,
/// });
/// assert_eq!(said.as_deref(), Some("Good morning."));
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Entry {
    /// Its number: the entries of a play are numbered from 1, in their order.
    pub number: u64,
    /// What it came of.
    pub origin: Origin,
    /// Where the action stands, for what a reaction or a script did, said or was refused.
    pub step: Option<Step>,
    /// What happened.
    pub what: Happening,
}

/// What can happen in a play.
///
/// See [`Entry`] for an example.
#[derive(Clone, Debug, PartialEq)]
pub enum Happening {
    /// Something was detected.
    Event(Event),
    /// An action was carried out.
    Did {
        /// When.
        time: Time,
        /// Who did it.
        by: By,
        /// What.
        action: ResolvedAction,
    },
    /// A text was shown.
    Said {
        /// When.
        time: Time,
        /// Who did it.
        by: By,
        /// The key of the text.
        key: String,
        /// The text, with its placeholders filled.
        text: String,
        /// To whom; none for everybody.
        to: Option<EntityId>,
    },
    /// A script or handler printed something, for the reader of the log.
    Printed {
        /// When.
        time: Time,
        /// Who did it.
        by: By,
        /// What.
        text: String,
    },
    /// An action was not carried out.
    Refused {
        /// When.
        time: Time,
        /// Who would have done it.
        by: By,
        /// What.
        action: ResolvedAction,
        /// Why not.
        why: Refusal,
    },
    /// Something went wrong in a reaction or handler; the play goes on.
    Problem {
        /// When.
        time: Time,
        /// Where.
        by: By,
        /// What.
        problem: Problem,
        /// The event that led there.
        event: Option<Box<Event>>,
    },
    /// A walker cannot reach its goal. It waits where it is, and goes on when it can.
    Halted {
        /// When.
        time: Time,
        /// Who.
        who: EntityId,
        /// What is in the way, if it is an entity.
        by: Option<EntityId>,
        /// The goal, in metres.
        goal: glam::DVec3,
    },
    /// What became of a reaction that takes time, or that another did.
    Run {
        /// When.
        time: Time,
        /// Which.
        reaction: ReactionId,
        /// The subject of the event it reacts to.
        who: Option<EntityId>,
        /// What became of it.
        life: Life,
    },
    /// An effect ended.
    Expired {
        /// When.
        time: Time,
        /// Which, by its name.
        effect: String,
        /// The entity that had it.
        of: EntityId,
        /// Why.
        why: Expiry,
    },
    /// A host let something come into the play: it was added or spawned.
    Added {
        /// When.
        time: Time,
        /// What.
        what: EntityId,
    },
    /// A host took something out of the play.
    Removed {
        /// When.
        time: Time,
        /// What.
        what: EntityId,
    },
    /// A spawner took back what it had brought out.
    TakenBack {
        /// When.
        time: Time,
        /// What.
        what: EntityId,
        /// The spawner.
        by: EntityId,
        /// Why.
        why: TakenBack,
    },
}

/// Who does an action.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum By {
    /// A reaction of the scene.
    Reaction(ReactionId),
    /// A Rust handler, numbered from 0 in the order in which they were added.
    Handler(usize),
    /// A detector, testing the condition on which it admits, or a score.
    Detector(EntityId),
    /// The host program or a tape.
    Host,
}

/// What can go wrong in a reaction or handler.
#[derive(Clone, Debug, PartialEq)]
pub enum Problem {
    /// The condition could not be tested; it counts as not holding.
    Condition(String),
    /// The score of a target could not be told; it counts as the worst.
    Score(String),
    /// A handler or routine failed.
    Handler(Failure),
    /// A handler or routine panicked; what it had done by then stays done.
    Panic(String),
    /// There is no routine of this name to call.
    NoRoutine(String),
    /// Routines that call one another too deeply, or themselves.
    TooDeep(String),
    /// `who` or `on` in an action, and the event has none; the action is left out.
    NobodyMeant {
        /// The word.
        word: &'static str,
        /// The action's word.
        action: &'static str,
    },
    /// Something was to move to the point of an event that has none, as where nothing is under a pointer; the
    /// action is left out.
    NoPoint,
    /// Something came to more than a thousand stops of its way in a second of play, or to more than
    /// 32 at one instant; it was halted.
    EndlessWay(EntityId),
    /// More is under way or waits than can be kept in mind: this reaction did not begin.
    TooManyRuns,
    /// More was done in a second of play than can be kept in mind: this action and all others in
    /// that second were left out.
    TooManyActions,
    /// An input that was to move what is not in the play; it is left out.
    NotInPlay(EntityId),
    /// An input that was to let something in that is in the play already; it is left out.
    InPlay(EntityId),
    /// An action with a number or a name that will not do; it is left out.
    BadAction(Fault),
    /// A reaction with a formula that does not give what is needed; it does not begin, or ends.
    Formula {
        /// The key it stands under in a scene file.
        key: &'static str,
        /// What is wrong.
        fault: Fault,
    },
    /// Reactions set each other off without end at one instant; this one was not run again.
    Circle(Vec<By>),
}

impl Entry {
    /// The next entry of a play: what happens now.
    pub(crate) fn next(state: &mut State, what: Happening) -> Self {
        state.causes.entries += 1;
        Self { number: state.causes.entries, origin: state.causes.now, step: None, what }
    }

    /// When it happened.
    pub fn time(&self) -> Time {
        match &self.what {
            Happening::Event(event) => event.time,
            Happening::Did { time, .. }
            | Happening::Said { time, .. }
            | Happening::Printed { time, .. }
            | Happening::Refused { time, .. }
            | Happening::Run { time, .. }
            | Happening::Expired { time, .. }
            | Happening::Added { time, .. }
            | Happening::Removed { time, .. }
            | Happening::TakenBack { time, .. }
            | Happening::Halted { time, .. }
            | Happening::Problem { time, .. } => *time,
        }
    }

    /// Whether a list of what happened may leave it out: that a reaction begins, and that it has
    /// done everything, shows in what it does.
    pub fn goes_without_saying(&self) -> bool {
        matches!(self.what, Happening::Run { life: Life::Begins | Life::Done, .. })
    }

    /// The event, if it is one.
    pub fn event(&self) -> Option<&Event> {
        match &self.what {
            Happening::Event(event) => Some(event),
            _ => None,
        }
    }

    /// The action that was done or refused, if it is one.
    pub fn action(&self) -> Option<&ResolvedAction> {
        match &self.what {
            Happening::Did { action, .. } | Happening::Refused { action, .. } => Some(action),
            _ => None,
        }
    }

    /// Who did it, said it, was refused it or failed at it.
    pub fn by(&self) -> Option<By> {
        match self.what {
            Happening::Did { by, .. }
            | Happening::Said { by, .. }
            | Happening::Printed { by, .. }
            | Happening::Refused { by, .. }
            | Happening::Problem { by, .. } => Some(by),
            Happening::Run { reaction, .. } => Some(By::Reaction(reaction)),
            _ => None,
        }
    }
}

impl By {
    /// In words, with what the reaction waits for.
    pub fn describe(self, scene: &Scene) -> String {
        match self {
            Self::Reaction(reaction) => {
                let spec = scene.reaction(reaction);
                let triggers: Vec<_> = spec.triggers().iter().map(ToString::to_string).collect();
                let number = reaction.index() + 1;
                let name = spec.name().map_or(String::new(), |name| format!(" `{name}`"));
                format!("reaction {number}{name} (on {})", triggers.join(", "))
            }
            Self::Handler(number) => format!("handler {}", number + 1),
            Self::Detector(on) => format!("detector `{}`", scene.name(on)),
            Self::Host => "host".into(),
        }
    }
}

impl Problem {
    /// In words, with the scene's names.
    pub fn describe(&self, scene: &Scene) -> String {
        match self {
            Self::Condition(why) => format!("the condition could not be tested: {why}"),
            Self::Score(why) => format!("the score could not be told: {why}"),
            Self::Handler(failure) => format!("it failed: {}", failure.message),
            Self::Panic(why) => format!("it panicked: {why}"),
            Self::NoRoutine(name) => format!("there is no function named `{name}` to call"),
            Self::TooDeep(name) => format!("`{name}` was called too deeply, or by itself"),
            Self::NobodyMeant { word, action } => {
                format!("`{action} = \"{word}\"` means nobody: this event has no `{word}`")
            }
            Self::NoPoint => "`to = \"point\"` leads nowhere: this event has no point".to_owned(),
            Self::NotInPlay(who) => {
                let name = scene.name(*who).into();
                Fault::NotInPlay { name }.to_string()
            }
            Self::InPlay(what) => format!("`{}` is in the play already", scene.name(*what)),
            Self::BadAction(fault) => fault.to_string(),
            Self::Formula { key, fault } => format!("`{key}` could not be worked out: {fault}"),
            Self::EndlessWay(what) => format!(
                "`{}` came to more than {MAX_STRETCHES_AT_ONCE} stops at once, or {MAX_STRETCHES} \
                 within a second, and was halted",
                scene.name(*what)
            ),
            Self::TooManyRuns => {
                format!("it did not begin: {MAX_RUNS} reactions are under way or wait already")
            }
            Self::TooManyActions => format!(
                "more than {MAX_ACTIONS} actions in one second of play: the rest of them is left out"
            ),
            Self::Circle(circle) => {
                let names: Vec<_> = circle.iter().map(|by| by.describe(scene)).collect();
                format!("these set each other off without end: {}", names.join(" → "))
            }
        }
    }
}
