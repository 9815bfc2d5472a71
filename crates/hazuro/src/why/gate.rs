//! Gates, what they saw, and how a chain of them is run.

use std::fmt;

use crate::Time;
use crate::scene::{Clause, Detector, EntityId, ReactionId, Scene};

use super::Witness;

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
    /// Something changed: it was outside and came in, or was inside and left.
    Edge,
    /// The impact is hard enough.
    Hard,
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
        match self {
            Self::Enabled => "detector is on",
            Self::Present => "subject is on",
            Self::Apart => "subject is not its carrier",
            Self::Admitted => "subject is admitted",
            Self::InShape => "subject is in the shape",
            Self::Touches => "subject touches it",
            Self::InRange => "in range",
            Self::InAngle => "in the angle of view",
            Self::InView => "nothing hides it",
            Self::Noticed => "in view long enough",
            Self::OnGround => "ground is near enough",
            Self::Best => "best of its rivals",
            Self::Needs => "has what it needs",
            Self::Hard => "impact is hard enough",
            Self::Edge => "it comes in or leaves",
            Self::OnlyOne => "nobody else is inside",
            Self::Once => "not used up",
            Self::Cooldown => "cooldown is over",
            Self::Idle => "not busy any more",
            Self::Condition => "condition holds",
            Self::StillSo => "still so after waiting",
        }
    }
}

/// What a gate saw, for those it did not let pass.
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Evidence {
    /// Nothing worth telling.
    None,
    /// This entity, itself or an ancestor, is off.
    OffBy(EntityId),
    /// This list of the rule refused it.
    Refused(Clause),
    /// How near it came, in metres, and when. At most 0 if it was inside.
    Gap {
        /// Metres between the shapes.
        metres: f64,
        /// When they were nearest.
        time: Time,
    },
    /// How far off it was, in metres, and how far it may be.
    Range {
        /// Metres.
        got: f64,
        /// Metres.
        most: f64,
    },
    /// How far off the middle it was, in radians, and how far it may be.
    Angle {
        /// Radians.
        got: f64,
        /// Radians.
        most: f64,
    },
    /// How fast it was, in metres a second, and how fast it must be.
    Speed {
        /// Metres a second.
        got: f64,
        /// Metres a second.
        need: f64,
    },
    /// What share of its points was seen, and what share must be.
    Share {
        /// From 0 to 1.
        got: f64,
        /// From 0 to 1.
        need: f64,
    },
    /// This hides it.
    HiddenBy(EntityId),
    /// This was chosen instead.
    Instead(EntityId),
    /// So many are inside.
    Occupants(usize),
    /// From then on it would have passed.
    ReadyAt(Time),
    /// The condition as written.
    Text(String),
}

/// Whose chain it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
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
    /// When the chain was run.
    pub time: Time,
    /// What it saw.
    pub evidence: Evidence,
}

impl Verdict {
    /// What the gate saw, in words, with the scene's names.
    pub fn reason(&self, scene: &Scene) -> String {
        let rule = match self.chain {
            Chain::Detector { on, .. } => scene.admit_of(on),
            Chain::Reaction { .. } => None,
        };
        let asked =
            |list: usize| rule.map_or(String::new(), |rule| rule.admitted()[list].join(", "));
        match &self.evidence {
            Evidence::None => String::new(),
            Evidence::OffBy(entity) => format!("`{}` is off", scene.name(*entity)),
            Evidence::Refused(Clause::Layers) => {
                let layers = rule.map_or(String::new(), |rule| rule.layer_lists()[0].join(", "));
                format!("it is in none of the layers asked for: {layers}")
            }
            Evidence::Refused(Clause::Tags) => {
                format!("it has none of the tags asked for: {}", asked(0))
            }
            Evidence::Refused(Clause::Kinds) => {
                format!("it is of none of the kinds asked for: {}", asked(1))
            }
            Evidence::Refused(Clause::Names) => format!("it is none of those named: {}", asked(2)),
            Evidence::Refused(Clause::Players) => "it is no player".into(),
            Evidence::Refused(Clause::Not) => "it is refused by `not`".into(),
            Evidence::Gap { metres, time } if *metres > 0.0 => {
                format!("came within {metres:.3} m at {:.3} s", time.secs())
            }
            Evidence::Gap { .. } => "it was inside".into(),
            Evidence::Range { got, most } => format!("it was {got:.3} m away; at most {most} m"),
            Evidence::Angle { got, most } => format!(
                "it was {:.1} degrees off; at most {:.1}",
                got.to_degrees(),
                most.to_degrees()
            ),
            Evidence::Speed { got, need } => format!("{got:.3} m/s; at least {need} m/s"),
            Evidence::Share { got, need } => format!(
                "{:.0} % of its points were in view; at least {:.0} %",
                got * 100.0,
                need * 100.0
            ),
            Evidence::HiddenBy(entity) => format!("`{}` hides it", scene.name(*entity)),
            Evidence::Instead(entity) => format!("`{}` was chosen instead", scene.name(*entity)),
            Evidence::Occupants(number) => format!("{number} inside"),
            Evidence::ReadyAt(time) => format!("ready at {:.3} s", time.secs()),
            Evidence::Text(text) => format!("`{text}`"),
        }
    }
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
    let heard = W::LISTENS && witness.wants(&chain);
    for check in checks {
        let passed = (check.passes)(look);
        if heard {
            let evidence = (check.evidence)(look);
            witness.hear(Verdict { chain, gate: check.gate, passed, time, evidence });
        }
        if !passed {
            return false;
        }
    }
    true
}
