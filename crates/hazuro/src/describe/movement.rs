//! Movements and turns, as actions.

use std::hash::{Hash, Hasher};

use crate::motion::Easing;

/// A movement as an [`Action`](super::Action).
///
/// ```
/// use hazuro::scene::{Action, Move};
/// let lift: Move = Action::move_by("millstone", [0.0, 1.0, 0.0]).over(2.0);
/// # let _ = lift;
/// ```
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
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
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
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

/// A turn about Y as an [`Action`](super::Action).
///
/// ```
/// use hazuro::scene::{Action, Turn};
/// let slowly: Turn = Action::face("owl", "who").rate(0.5);
/// let at_once: Action = Action::turn("weathercock", 1.5).into();
/// # let _ = (slowly, at_once);
/// ```
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
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
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Pace {
    /// So many seconds; 0 is at once.
    Over(f64),
    /// At constant speed: radians per second for a turn, metres per second for a way.
    Rate(f64),
}

impl Move {
    pub(super) fn of(what: impl Into<String>, to: Destination) -> Self {
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

    pub(crate) fn try_map<U, E>(
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

    pub(crate) fn try_map<U, E>(
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
    pub(crate) fn bits(self) -> (u8, u64) {
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
