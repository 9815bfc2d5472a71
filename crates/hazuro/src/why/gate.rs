//! Gates, what they saw, and how a chain of them is run.

use std::fmt;

use crate::Time;
use crate::describe::{Detector, EntityId, ReactionId};

use super::{Evidence, Witness};

/// One step of a chain.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[non_exhaustive]
pub enum Gate {
    /// The detector and all its ancestors are on.
    Enabled,
    /// The subject and all its ancestors are on.
    Present,
    /// The subject is neither the detector's carrier nor carried by it.
    Apart,
    /// The detector's rule admits the subject.
    Admitted,
    /// It belongs to nobody else.
    Own,
    /// A part of the subject is in the shape.
    InShape,
    /// The subject touches it.
    Touches,
    /// It is near enough.
    InRange,
    /// It is in the angle of view, or ahead.
    InAngle,
    /// Nothing hides it.
    InView,
    /// It was in view long enough.
    Noticed,
    /// There is ground near enough below.
    OnGround,
    /// It is the best of those it competes with.
    Best,
    /// What it needs is there.
    Needs,
    /// It is in front of the player's camera.
    OnScreen,
    /// Its key is held long enough.
    Held,
    /// Something changed: it was outside and came in, or was inside and left.
    Edge,
    /// The impact is hard enough.
    Hard,
    /// The subject is one of those that the reaction waits for.
    Subject,
    /// For `first` and `last`: nobody else is inside.
    OnlyOne,
    /// A reaction that happens once has not happened yet.
    Once,
    /// The cooldown is over.
    Cooldown,
    /// The reaction is not still doing what it did before.
    Idle,
    /// The condition holds.
    Condition,
    /// After waiting, it is still so that nobody is inside, or that somebody is.
    StillSo,
}

impl Gate {
    /// What the gate asks, in a few words.
    pub fn words(self) -> &'static str {
        self.words_and_code().1
    }

    /// A short name that stays the same from version to version.
    pub fn code(self) -> &'static str {
        self.words_and_code().0
    }

    fn words_and_code(self) -> (&'static str, &'static str) {
        match self {
            Self::Enabled => ("enabled", "detector is on"),
            Self::Present => ("present", "subject is on"),
            Self::Apart => ("apart", "subject is not its carrier"),
            Self::Admitted => ("admitted", "subject is admitted"),
            Self::Own => ("own", "belongs to nobody else"),
            Self::InShape => ("in-shape", "subject is in the shape"),
            Self::Touches => ("touches", "subject touches it"),
            Self::InRange => ("in-range", "in range"),
            Self::InAngle => ("in-angle", "in the angle of view"),
            Self::InView => ("in-view", "nothing hides it"),
            Self::Noticed => ("noticed", "in view long enough"),
            Self::OnGround => ("on-ground", "ground is near enough"),
            Self::Best => ("best", "best of its rivals"),
            Self::Needs => ("needs", "has what it needs"),
            Self::OnScreen => ("on-screen", "in front of the camera"),
            Self::Held => ("held", "key is held long enough"),
            Self::Hard => ("hard", "impact is hard enough"),
            Self::Edge => ("edge", "it comes in or leaves"),
            Self::Subject => ("subject", "a subject that it waits for"),
            Self::OnlyOne => ("only-one", "nobody else is inside"),
            Self::Once => ("once", "not used up"),
            Self::Cooldown => ("cooldown", "cooldown is over"),
            Self::Idle => ("idle", "not busy any more"),
            Self::Condition => ("condition", "condition holds"),
            Self::StillSo => ("still-so", "still so after waiting"),
        }
    }
}

/// Whose chain it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Chain {
    /// A detector looks at a subject.
    Detector {
        /// The detector's entity.
        on: EntityId,
        /// Which of its detectors.
        detector: Detector,
        /// The subject.
        who: EntityId,
    },
    /// A player presses the key of a prompt, or a button on something: the gates of the detector
    /// at that moment, and what using it takes beyond being detected.
    Use {
        /// What is to be used.
        on: EntityId,
        /// Which of its detectors.
        detector: Detector,
        /// The player.
        who: EntityId,
    },
    /// A reaction looks at an event.
    Reaction {
        /// The reaction.
        reaction: ReactionId,
        /// The event's detector.
        on: Option<EntityId>,
        /// The event's subject.
        who: Option<EntityId>,
    },
}

impl Chain {
    /// The chain of using what this one detects.
    pub(crate) fn of_use(self) -> Self {
        match self {
            Self::Detector { on, detector, who } => Self::Use { on, detector, who },
            other => other,
        }
    }

    /// The detector and the subject.
    pub fn pair(&self) -> (Option<EntityId>, Option<EntityId>) {
        match *self {
            Self::Detector { on, who, .. } | Self::Use { on, who, .. } => (Some(on), Some(who)),
            Self::Reaction { on, who, .. } => (on, who),
        }
    }
}

/// The outcome of one gate, with its evidence.
///
/// ```
/// use hazuro::{Play, Scene, Time, geometry::Shape, why::{Gate, Notebook}};
/// use hazuro::scene::{Admit, Body, Entity, Zone};
/// let ball = || Body::new(Shape::Sphere { radius: 0.1 });
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("ball").body(ball()))
///     .entity(Entity::new("key").tags(["brass"]).body(ball()))
///     .entity(
///         Entity::new("slot")
///             .zone(Zone::new(Shape::Box { size: [1.0, 1.0, 1.0] }))
///             .admit(Admit::tags(["brass"])),
///     )
///     .build()?;
/// let mut play = Play::new(scene);
/// let mut notebook = Notebook::all();
/// play.advance_witnessed(Time::from_secs(0.1), &mut notebook);
/// let [slot, ball] = ["slot", "ball"].map(|name| play.scene().find(name).unwrap());
/// assert_eq!(notebook.stopped(slot, ball).unwrap().gate, Gate::Admitted);
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Verdict {
    /// Whose chain.
    pub chain: Chain,
    /// The gate tried.
    pub gate: Gate,
    /// Whether it let pass.
    pub passed: bool,
    /// Whether the chain begins anew with it; else it goes on where it stopped.
    pub begins: bool,
    /// Whether it is the last gate before the event, or before what a reaction does.
    pub ends: bool,
    /// When the chain was run.
    pub time: Time,
    /// What it saw.
    pub evidence: Evidence,
}

impl fmt::Display for Verdict {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let outcome = if self.passed { "passed" } else { "stopped" };
        write!(f, "{} {outcome}: {}", self.time, self.gate.words())
    }
}

/// One gate of a chain: its name, its rule, and how to gather evidence when somebody asks.
pub(crate) struct Check<L: ?Sized> {
    pub gate: Gate,
    pub passes: fn(&mut L) -> bool,
    pub evidence: fn(&L) -> Evidence,
}

/// Tries the gates of a chain in order until one does not pass. Whether all passed.
pub(crate) fn run<L, W: Witness>(
    checks: &[Check<L>],
    look: &mut L,
    chain: Chain,
    time: Time,
    witness: &mut W,
) -> bool {
    try_all(checks, look, (chain, true), time, witness)
}

/// Tries the gates of the rest of a chain, whose first ones have been passed.
pub(crate) fn go_on<L, W: Witness>(
    checks: &[Check<L>],
    look: &mut L,
    chain: Chain,
    time: Time,
    witness: &mut W,
) -> bool {
    try_all(checks, look, (chain, false), time, witness)
}

fn try_all<L, W: Witness>(
    checks: &[Check<L>],
    look: &mut L,
    (chain, begins): (Chain, bool),
    time: Time,
    witness: &mut W,
) -> bool {
    let heard = W::LISTENS && witness.wants(&chain);
    for (number, check) in checks.iter().enumerate() {
        let passed = (check.passes)(look);
        if heard {
            let evidence = (check.evidence)(look);
            let begins = begins && number == 0;
            // Where there is one, the condition is tested last.
            let ends = number + 1 == checks.len() && check.gate == Gate::Condition;
            witness.hear(Verdict { chain, gate: check.gate, passed, begins, ends, time, evidence });
        }
        if !passed {
            return false;
        }
    }
    true
}
