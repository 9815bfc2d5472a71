//! Why an action was not carried out.

use crate::describe::most::{MAX_COORDINATE, MAX_DEPTH};

/// Why an action was not carried out.
///
/// ```
/// use hazuro::Refusal;
/// assert_eq!(Refusal::OutOfStock.words(), "all of the stock is out");
/// assert!(Refusal::Lacks("a solid".into()).is_mistake());
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Refusal {
    /// Who arrived in a zone by teleport is not sent on by it before having left it.
    JustArrived,
    /// What is acted on has not what the action needs, as in `the stat "health"`.
    Lacks(String),
    /// What is acted on is not in the play, or has been collected.
    Gone,
    /// The pickup would give this subject nothing.
    GivesNothing,
    /// This subject has collected the pickup as often as it may.
    UsedUp,
    /// The effect is there already, and does not stack.
    HasAlready,
    /// The effect lasts while its subject is detected, and it is not.
    NotDetected,
    /// All of the kind's stock is in the play.
    OutOfStock,
    /// It would become its own ancestor, or would be carried by what it carries.
    OwnChild,
    /// It would have too many ancestors.
    TooDeep,
    /// It would be farther from the origin than anything can be.
    TooFar,
    /// Who is to jump stands on nothing.
    NotStanding,
    /// Somebody else holds it.
    InOtherHands,
    /// Whoever is to take it holds something already.
    HandsFull,
    /// Whoever is to take it is not strong enough.
    TooHeavy,
    /// Nobody holds it, or whoever is to let go holds nothing.
    NotHeld,
    /// There is no room for it there.
    NoRoom,
    /// There is nothing to stand on there.
    NoGround,
}

impl Refusal {
    /// In words.
    pub fn words(&self) -> String {
        match self {
            Self::JustArrived => "it arrived here by teleport and has not left since".into(),
            Self::Lacks(need) => format!("it has not got {need}"),
            Self::Gone => "it is not there".into(),
            Self::GivesNothing => "it would give nothing".into(),
            Self::UsedUp => "it has been collected as often as it may".into(),
            Self::HasAlready => "it is there already".into(),
            Self::NotDetected => "it lasts while the subject is detected, and it is not".into(),
            Self::OutOfStock => "all of the stock is out".into(),
            Self::OwnChild => "it would become its own ancestor".into(),
            Self::TooDeep => format!("it would have more than {MAX_DEPTH} ancestors"),
            Self::TooFar => {
                format!("it would be more than {MAX_COORDINATE} metres from the origin")
            }
            Self::InOtherHands => "somebody else holds it".into(),
            Self::HandsFull => "the hands are full".into(),
            Self::TooHeavy => "it is too heavy".into(),
            Self::NotHeld => "nothing is held".into(),
            Self::NoRoom => "there is no room for it there".into(),
            Self::NoGround => "there is nothing to stand on there".into(),
            Self::NotStanding => "it stands on nothing".into(),
        }
    }

    /// Whether it comes of a mistake in the scene rather than of how things stand.
    pub fn is_mistake(&self) -> bool {
        matches!(
            self,
            Self::Lacks(_) | Self::NotDetected | Self::OwnChild | Self::TooDeep | Self::TooFar
        )
    }
}
