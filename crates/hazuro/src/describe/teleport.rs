//! Teleports, as actions.

use std::hash::Hash;

use super::route::worded;

/// A teleport as an [`Action`](super::Action): at once, nothing between is swept. What is held and who stands on it
/// comes along.
///
/// ```
/// use hazuro::scene::{Action, Choose, Teleport};
/// let away: Teleport =
///     Action::teleport("who", "cellar").or_to("loft").choose(Choose::Nearest).only_if_free();
/// # let _ = away;
/// ```
#[derive(Clone, Debug, PartialEq, Hash)]
#[expect(clippy::struct_excessive_bools, reason = "each is a choice of its own")]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Teleport<T = String> {
    /// The entity.
    pub what: T,
    /// The entities whose place it may take: at least one.
    pub to: Vec<T>,
    /// Which of them.
    pub choose: Choose,
    /// Keep facing as before, instead of as the destination does.
    pub keep_facing: bool,
    /// Keep the speed, turned as the facing is.
    pub keep_speed: bool,
    /// Keep the place relative to the detector of the event, as through a window.
    pub keep_offset: bool,
    /// Only where there is room: else the next destination, or a place beside it.
    pub free: bool,
    /// Only where there is something to stand on.
    pub stand: bool,
}

worded! {
    /// Which of several destinations a [`Teleport`] leads to.
    ///
    /// ```
    /// assert_eq!(hazuro::scene::Choose::Random.word(), "random");
    /// ```
    Choose {
        /// The first.
        #[default]
        First "first",
        /// One after another.
        InTurn "in_turn",
        /// Any, by chance, which comes from the scene's seed.
        Random "random",
        /// The nearest.
        Nearest "nearest",
    }
}

impl<T> Teleport<T> {
    /// To one destination, facing as that does.
    pub(crate) fn of(what: T, to: T) -> Self {
        Self {
            what,
            to: vec![to],
            choose: Choose::First,
            keep_facing: false,
            keep_speed: false,
            keep_offset: false,
            free: false,
            stand: false,
        }
    }

    /// Or there.
    #[must_use]
    pub fn or_to(mut self, to: impl Into<T>) -> Self {
        self.to.push(to.into());
        self
    }

    /// Say which of several destinations it leads to.
    #[must_use]
    pub fn choose(self, choose: Choose) -> Self {
        Self { choose, ..self }
    }

    /// Keep facing as before.
    #[must_use]
    pub fn keep_facing(self) -> Self {
        Self { keep_facing: true, ..self }
    }

    /// Keep the speed.
    #[must_use]
    pub fn keep_speed(self) -> Self {
        Self { keep_speed: true, ..self }
    }

    /// Keep the place relative to the detector of the event.
    #[must_use]
    pub fn keep_offset(self) -> Self {
        Self { keep_offset: true, ..self }
    }

    /// Only where there is room.
    #[must_use]
    pub fn only_if_free(self) -> Self {
        Self { free: true, ..self }
    }

    /// Only where there is something to stand on.
    #[must_use]
    pub fn only_on_ground(self) -> Self {
        Self { stand: true, ..self }
    }
}
