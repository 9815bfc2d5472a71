//! Movements and turns, as actions.

use std::hash::{Hash, Hasher};

use crate::motion::Easing;

use super::{Action, Teleport};

/// A movement as an [`Action`].
///
/// ```
/// use hazuro::scene::{Action, Move};
/// let lift: Move = Action::move_by("millstone", [0.0, 1.0, 0.0]).over(2.0);
/// # let _ = lift;
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Move<T = String> {
    /// What moves.
    pub what: T,
    /// Where to.
    pub to: Destination<T>,
    /// How many seconds it takes; 0 is a jump.
    pub over: f64,
    /// How it gathers and loses speed.
    pub ease: Easing,
}

/// Where a [`Move`] leads.
#[derive(Clone, Debug, PartialEq)]
pub enum Destination<T = String> {
    /// Where the entity was placed in the scene.
    Home,
    /// The pose that this entity has when the movement begins.
    Entity(T),
    /// Where the event is: of a `drag`, where the pointer holds it. Turned as before.
    Point,
    /// So far from where it is, in metres along the axes of its parent. Turned as before.
    By([f64; 3]),
}

/// A turn about Y as an [`Action`].
///
/// ```
/// use hazuro::scene::{Action, Turn};
/// let slowly: Turn = Action::face("owl", "who").rate(0.5);
/// let at_once: Action = Action::turn("weathercock", 1.5).into();
/// # let _ = (slowly, at_once);
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Turn<T = String> {
    /// What turns.
    pub what: T,
    /// Towards whom it turns, so that its -Z points there; otherwise by the angle.
    pub towards: Option<T>,
    /// How far it turns if not towards somebody, in radians, counter-clockwise from above.
    pub by: f64,
    /// How long it takes.
    pub pace: Pace,
    /// How it gathers and loses speed.
    pub ease: Easing,
}

/// How long something takes.
///
/// ```
/// use hazuro::scene::Pace;
/// assert_ne!(Pace::Over(2.0), Pace::Rate(2.0));
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Pace {
    /// So many seconds; 0 is at once.
    Over(f64),
    /// At constant speed: radians per second for a turn, metres per second for a way.
    Rate(f64),
}

impl Action {
    /// Move an entity to where another one is. At once, unless [`Move::over`] says otherwise.
    pub fn move_to(what: impl Into<String>, to: impl Into<String>) -> Move {
        Move::of(what, Destination::Entity(to.into()))
    }

    /// Move an entity back to where it was placed in the scene.
    pub fn move_home(what: impl Into<String>) -> Move {
        Move::of(what, Destination::Home)
    }

    /// Move an entity to where the event is: of a `drag`, where the pointer holds it.
    pub fn move_to_point(what: impl Into<String>) -> Move {
        Move::of(what, Destination::Point)
    }

    /// Move an entity so far from where it is, in metres along the axes of its parent.
    pub fn move_by(what: impl Into<String>, way: [f64; 3]) -> Move {
        Move::of(what, Destination::By(way))
    }

    /// Put an entity at another's place at once.
    pub fn teleport(what: impl Into<String>, to: impl Into<String>) -> Teleport {
        Teleport::of(what.into(), to.into())
    }

    /// Let somebody walk to another's place.
    pub fn walk(what: impl Into<String>, to: impl Into<String>) -> Self {
        Self::Walk { what: what.into(), to: to.into() }
    }

    /// Let somebody stop walking.
    pub fn halt(what: impl Into<String>) -> Self {
        Self::Halt(what.into())
    }

    /// Let somebody jump.
    pub fn jump(what: impl Into<String>) -> Self {
        Self::Jump(what.into())
    }

    /// Turn an entity about Y towards another. At once, unless [`Turn::over`] or [`Turn::rate`]
    /// say otherwise.
    pub fn face(what: impl Into<String>, to: impl Into<String>) -> Turn {
        let (what, towards) = (what.into(), Some(to.into()));
        Turn { what, towards, by: 0.0, pace: Pace::Over(0.0), ease: Easing::Linear }
    }

    /// Turn an entity about Y by `by` radians, counter-clockwise from above.
    pub fn turn(what: impl Into<String>, by: f64) -> Turn {
        Turn { what: what.into(), towards: None, by, pace: Pace::Over(0.0), ease: Easing::Linear }
    }
}

impl Move {
    fn of(what: impl Into<String>, to: Destination) -> Self {
        Self { what: what.into(), to, over: 0.0, ease: Easing::Linear }
    }
}

impl<T> Move<T> {
    /// Take this many seconds.
    #[must_use]
    pub fn over(self, seconds: f64) -> Self {
        Self { over: seconds, ..self }
    }

    /// Gather and lose speed like this.
    #[must_use]
    pub fn ease(self, ease: Easing) -> Self {
        Self { ease, ..self }
    }

    pub(super) fn try_map<U, E>(
        &self,
        mut find: impl FnMut(&T, &'static str, bool) -> Result<U, E>,
    ) -> Result<Move<U>, E> {
        Ok(Move {
            what: find(&self.what, "move", true)?,
            to: match &self.to {
                Destination::Home => Destination::Home,
                Destination::Point => Destination::Point,
                Destination::By(way) => Destination::By(*way),
                Destination::Entity(to) => Destination::Entity(find(to, "to", false)?),
            },
            over: self.over,
            ease: self.ease,
        })
    }
}

impl<T> Turn<T> {
    /// Take this many seconds.
    #[must_use]
    pub fn over(self, seconds: f64) -> Self {
        Self { pace: Pace::Over(seconds), ..self }
    }

    /// Turns at this rate, in radians per second.
    #[must_use]
    pub fn rate(self, radians: f64) -> Self {
        Self { pace: Pace::Rate(radians), ..self }
    }

    /// Gather and lose speed like this.
    #[must_use]
    pub fn ease(self, ease: Easing) -> Self {
        Self { ease, ..self }
    }

    pub(super) fn try_map<U, E>(
        &self,
        word: &'static str,
        mut find: impl FnMut(&T, &'static str, bool) -> Result<U, E>,
    ) -> Result<Turn<U>, E> {
        Ok(Turn {
            what: find(&self.what, word, true)?,
            towards: self.towards.as_ref().map(|to| find(to, "to", false)).transpose()?,
            by: self.by,
            pace: self.pace,
            ease: self.ease,
        })
    }
}

impl Pace {
    /// For hashing.
    pub(super) fn bits(self) -> (u8, u64) {
        match self {
            Self::Over(seconds) => (0, (seconds + 0.0).to_bits()),
            Self::Rate(rate) => (1, (rate + 0.0).to_bits()),
        }
    }
}

impl<T: Hash> Hash for Destination<T> {
    fn hash<H: Hasher>(&self, state: &mut H) {
        match self {
            Self::Home => 0_u8.hash(state),
            Self::Entity(to) => (1_u8, to).hash(state),
            Self::Point => 2_u8.hash(state),
            Self::By(way) => (3_u8, way.map(|along| (along + 0.0).to_bits())).hash(state),
        }
    }
}

impl<T: Hash> Hash for Move<T> {
    fn hash<H: Hasher>(&self, state: &mut H) {
        (&self.what, &self.to, (self.over + 0.0).to_bits(), self.ease).hash(state);
    }
}

impl<T: Hash> Hash for Turn<T> {
    fn hash<H: Hasher>(&self, state: &mut H) {
        (&self.what, &self.towards, (self.by + 0.0).to_bits()).hash(state);
        (self.pace.bits(), self.ease).hash(state);
    }
}

impl<T> From<Move<T>> for Action<T> {
    fn from(movement: Move<T>) -> Self {
        Self::Move(movement)
    }
}

impl<T> From<Turn<T>> for Action<T> {
    fn from(turn: Turn<T>) -> Self {
        Self::Turn(turn)
    }
}
