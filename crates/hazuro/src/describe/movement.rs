//! Movements and turns, as actions.

use crate::motion::Easing;

use super::Quantity;

/// A movement as an [`Action`](super::Action).
///
/// ```
/// use hazuro::scene::{Action, Move};
/// let lift: Move = Action::move_by("millstone", [0.0, 1.0, 0.0]).over(2.0);
/// # let _ = lift;
/// ```
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Move<T = String, N = Quantity> {
    /// What moves.
    pub what: T,
    /// Where to.
    pub to: Destination<T, N>,
    /// Along which line in the world it moves, whatever its length; of the way there only what lies along
    /// it is gone, and it is not turned. The default is none: all the way.
    pub axis: Option<[N; 3]>,
    /// How many seconds it takes; 0 is a jump.
    pub over: N,
    /// How it gathers and loses speed.
    pub ease: Easing,
}

/// Where a [`Move`] leads.
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Destination<T = String, N = Quantity> {
    /// Where the entity was placed in the scene.
    Home,
    /// The pose that this entity has when the movement begins.
    Entity(T),
    /// Where the event is: of what a pointer does, the point under the pointer; of a `drag`, where the
    /// pointer holds it. Turned as before.
    Point,
    /// So far from where it is, in metres along the axes of its parent. Turned as before.
    By([N; 3]),
}

/// A turn about Y as an [`Action`](super::Action).
///
/// ```
/// use hazuro::scene::{Action, Turn};
/// let slowly: Turn = Action::face("owl", "who").rate(0.5);
/// let at_once: Action = Action::turn("weathercock", 1.5).into();
/// # let _ = (slowly, at_once);
/// ```
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Turn<T = String, N = Quantity> {
    /// What turns.
    pub what: T,
    /// The entity it turns towards, so that its -Z points there; otherwise it turns by the angle.
    pub towards: Option<T>,
    /// How far it turns if not towards somebody, in radians, counter-clockwise from above.
    pub by: N,
    /// How long it takes.
    pub pace: Pace<N>,
    /// How it gathers and loses speed.
    pub ease: Easing,
}

/// Following somebody with one's look as an [`Action`](super::Action), in both angles, until told otherwise.
///
/// The look is towards the middle of the other's body or solid, at the pose that it has at the end of each
/// 20 milliseconds.
///
/// ```
/// use hazuro::scene::{Action, Aim};
/// let turret: Aim = Action::aim("turret", "who").rate(1.5).pitch(-0.2, 1.2);
/// # let _ = turret;
/// ```
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Aim<T = String, N = Quantity> {
    /// What turns, so that its -Z points there.
    pub what: T,
    /// Whom it follows.
    pub at: T,
    /// How fast it turns at most, about Y as well as up and down, in radians per second.
    pub rate: N,
    /// How far it looks down and up, in radians above level, from -π/2 to π/2, in either order.
    pub pitch: [N; 2],
}

impl<T> Aim<T> {
    /// Turn no faster than this, in radians per second. The default is a half turn.
    #[must_use]
    pub fn rate(self, radians: impl Into<Quantity>) -> Self {
        Self { rate: radians.into(), ..self }
    }

    /// Look no further down and up than this, in radians above level. The default is straight down and up.
    #[must_use]
    pub fn pitch(self, least: impl Into<Quantity>, most: impl Into<Quantity>) -> Self {
        Self { pitch: [least.into(), most.into()], ..self }
    }
}

/// How long something takes.
///
/// ```
/// use hazuro::scene::Pace;
/// assert_ne!(Pace::Over(2.0), Pace::Rate(2.0));
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Pace<N = f64> {
    /// So many seconds; 0 is at once.
    Over(N),
    /// At constant speed: radians per second for a turn, metres per second for a way.
    Rate(N),
}

impl Move {
    pub(super) fn of(what: impl Into<String>, to: Destination) -> Self {
        Self { what: what.into(), to, axis: None, over: 0.0.into(), ease: Easing::Linear }
    }
}

impl<T> Move<T> {
    /// Go only as far as that lies along a line, and only there: a paddle that follows a finger along X
    /// goes `along([1.0, 0.0, 0.0])`.
    #[must_use]
    pub fn along(self, axis: [impl Into<Quantity>; 3]) -> Self {
        Self { axis: Some(axis.map(Into::into)), ..self }
    }

    /// Take this many seconds.
    #[must_use]
    pub fn over(self, seconds: impl Into<Quantity>) -> Self {
        Self { over: seconds.into(), ..self }
    }

    /// Gather and lose speed like this.
    #[must_use]
    pub fn ease(self, ease: Easing) -> Self {
        Self { ease, ..self }
    }
}

impl<T> Turn<T> {
    /// Take this many seconds.
    #[must_use]
    pub fn over(self, seconds: impl Into<Quantity>) -> Self {
        Self { pace: Pace::Over(seconds.into()), ..self }
    }

    /// Turns at this rate, in radians per second.
    #[must_use]
    pub fn rate(self, radians: impl Into<Quantity>) -> Self {
        Self { pace: Pace::Rate(radians.into()), ..self }
    }

    /// Gather and lose speed like this.
    #[must_use]
    pub fn ease(self, ease: Easing) -> Self {
        Self { ease, ..self }
    }
}
