//! Why an action was not carried out.

use crate::Time;
use crate::describe::most::{MAX_COORDINATE, MAX_DEPTH};
use crate::describe::{EntityId, Fault};
use crate::model::Scene;

/// Why an action was not carried out.
///
/// ```
/// use hazuro::{Refusal, Scene};
/// let scene = Scene::builder("Yard").build()?;
/// let heavy = Refusal::TooHeavy { mass: 25.0, strength: 5.0 };
/// assert_eq!(heavy.words(&scene), "it is too heavy: 25, and the strength is 5");
/// assert!(Refusal::Lacks("a solid".into()).is_mistake());
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
#[non_exhaustive]
pub enum Refusal {
    /// A subject that arrived in a zone by teleport is not sent on by it before it has left it.
    JustArrived,
    /// What is acted on has not what the action needs, as in `the stat "health"`.
    Lacks(String),
    /// What is acted on is not in the play, or has been collected.
    Gone,
    /// The pickup would give this subject nothing: why, in words.
    GivesNothing(String),
    /// This subject has collected the pickup as often as it may.
    UsedUp,
    /// The effect is there already, and does not stack.
    HasAlready,
    /// The effect lasts while its subject is detected, and it is not.
    NotDetected,
    /// All of the kind's stock is in the play; how many that are.
    OutOfStock(usize),
    /// It would become its own ancestor, or would be carried by what it carries.
    OwnChild,
    /// It would have too many ancestors.
    TooDeep,
    /// It would be farther from the origin than anything can be.
    TooFar,
    /// The body that is to jump stands on nothing.
    NotStanding,
    /// Somebody else holds it.
    InOtherHands(EntityId),
    /// It belongs to somebody else.
    BelongsTo {
        /// To whom.
        owner: EntityId,
        /// Since when.
        since: Time,
    },
    /// It is owned only by the body that an action gives it to.
    NotGiven,
    /// It is owned only by bodies in one of its teams.
    InNoTeam,
    /// It belongs to nobody.
    NotOwned,
    /// The body that is to take it holds this already.
    HandsFull(EntityId),
    /// The body that is to take it is not strong enough.
    TooHeavy {
        /// How heavy it is.
        mass: f64,
        /// How much the subject lifts.
        strength: f64,
    },
    /// It is too far away to be taken by hand.
    OutOfReach {
        /// How far, in metres from body to body.
        distance: f64,
        /// From how far it can be taken, in metres.
        reach: f64,
    },
    /// Nobody holds it, or the body that is to let go holds nothing.
    NotHeld,
    /// It cannot be converted to that: why.
    Unfit(Fault),
    /// There is no room for it there.
    NoRoom,
    /// There is nothing to stand on there.
    NoGround,
}

impl Refusal {
    /// In words, with the scene's names.
    pub fn words(&self, scene: &Scene) -> String {
        match self {
            Self::JustArrived => "it arrived here by teleport and has not left since".into(),
            Self::Lacks(need) => format!("it has not got {need}"),
            Self::Gone => "it is not there".into(),
            Self::GivesNothing(why) if why.is_empty() => "it would give nothing".into(),
            Self::GivesNothing(why) => format!("it would give nothing: {why}"),
            Self::UsedUp => "it has been collected as often as it may".into(),
            Self::HasAlready => "it is there already".into(),
            Self::NotDetected => "it lasts while the subject is detected, and it is not".into(),
            Self::OutOfStock(stock) => format!("all of the stock is out, which is {stock}"),
            Self::OwnChild => "it would become its own ancestor".into(),
            Self::TooDeep => format!("it would have more than {MAX_DEPTH} ancestors"),
            Self::TooFar => {
                format!("it would be more than {MAX_COORDINATE} metres from the origin")
            }
            Self::InOtherHands(holder) => {
                format!("somebody else holds it: {}", scene.name(*holder))
            }
            Self::BelongsTo { owner, since } => {
                format!("it belongs to {} since {:.3} s", scene.name(*owner), since.secs())
            }
            Self::NotGiven => "it belongs only to whom an action gives it to".into(),
            Self::InNoTeam => "it belongs only to who is in one of its teams".into(),
            Self::NotOwned => "it belongs to nobody".into(),
            Self::HandsFull(what) => format!("the hands are full: they hold {}", scene.name(*what)),
            Self::TooHeavy { mass, strength } => {
                format!("it is too heavy: {mass}, and the strength is {strength}")
            }
            Self::OutOfReach { distance, reach } => {
                format!("it is {distance:.2} m away, and is taken from {reach} m")
            }
            Self::NotHeld => "nothing is held".into(),
            Self::Unfit(why) => format!("it cannot be that: {why}"),
            Self::NoRoom => "there is no room for it there".into(),
            Self::NoGround => "there is nothing to stand on there".into(),
            Self::NotStanding => "it stands on nothing".into(),
        }
    }

    /// Whether it comes of a mistake in the scene rather than of how things stand.
    pub fn is_mistake(&self) -> bool {
        matches!(
            self,
            Self::Lacks(_)
                | Self::Unfit(_)
                | Self::NotDetected
                | Self::OwnChild
                | Self::TooDeep
                | Self::TooFar
        )
    }
}
