//! Ways travelled from stop to stop, and the actions for them.

use crate::motion::Easing;

use super::{Pace, Quantity};

/// Stops that an entity travels to one after another, as a lift or a gate: `run` sets it going.
///
/// ```
/// use hazuro::scene::{Entity, Pace, Route, Then};
/// let hoist = Entity::new("hoist").route(Route {
///     pace: Pace::Rate(1.5),
///     then: Then::Back,
///     wait: 2.0,
///     ..Route::through(["home", "loft"])
/// });
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Route {
    /// The names of the entities whose places are its stops; `home` is where it was placed.
    pub through: Vec<String>,
    /// The time for each leg, or the speed in metres per second. The default is
    /// 1 second.
    pub pace: Pace,
    /// How it gathers and loses speed on each stretch.
    pub ease: Easing,
    /// How many seconds it waits at each stop before it goes on.
    pub wait: f64,
    /// What it does at the last stop.
    pub then: Then,
    /// What it does when a body is in its way.
    pub blocked: Blocked,
    /// Whether it starts moving when the play begins.
    pub starts: bool,
}

impl Route {
    /// Through these stops, once.
    pub fn through<T: Into<String>>(stops: impl IntoIterator<Item = T>) -> Self {
        Self {
            through: stops.into_iter().map(Into::into).collect(),
            pace: Pace::Over(1.0),
            ease: Easing::Linear,
            wait: 0.0,
            then: Then::default(),
            blocked: Blocked::default(),
            starts: false,
        }
    }
}

macro_rules! worded {
    ($(#[$about:meta])* $name:ident { $($(#[$doc:meta])* $kind:ident $word:literal,)* }) => {
        $(#[$about])*
        #[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
        #[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
        pub enum $name { $($(#[$doc])* $kind,)* }

        impl $name {
            /// All of them.
            pub const ALL: &[Self] = &[$(Self::$kind),*];

            /// The word for it in files.
            pub fn word(self) -> &'static str {
                match self { $(Self::$kind => $word,)* }
            }
        }
    };
}

pub(super) use worded;

worded! {
    /// What is done at the last stop of a [`Route`].
    ///
    /// ```
    /// assert_eq!(hazuro::scene::Then::Around.word(), "around");
    /// ```
    Then {
        /// Stay there; the next `run` leads back.
        #[default]
        Stop "stop",
        /// Go back, and so on.
        Back "back",
        /// Go on to the first stop, and so on.
        Around "around",
    }
}

worded! {
    /// What something does that moves when a body is in its way.
    ///
    /// ```
    /// assert_eq!(hazuro::scene::Blocked::Push.word(), "push");
    /// ```
    Blocked {
        /// Push the body along; stop while it cannot give way, and go on when it can.
        #[default]
        Push "push",
        /// Stop as soon as it touches the body, and go on when that is gone.
        Stop "stop",
        /// Go back to the stop before.
        Back "back",
    }
}

worded! {
    /// What to do with a [`Route`].
    ///
    /// ```
    /// assert_eq!(hazuro::scene::RouteOrder::Reverse.word(), "reverse");
    /// ```
    RouteOrder {
        /// Set off, or go on.
        #[default]
        Run "run",
        /// Go back to the stop before, from where it is.
        Reverse "reverse",
    }
}

/// An [`Action`](super::Action) that leads an entity along some places, as up a ladder, and lets go of it there.
/// A `halt` or a jump ends it on the way.
///
/// ```
/// use hazuro::scene::{Action, Lead};
/// let climb: Lead = Action::lead("who", ["ladder_top", "loft"]).rate(1.2);
/// # let _ = climb;
/// ```
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Lead<T = String, N = Quantity> {
    /// The entity.
    pub what: T,
    /// The entities whose places it is taken to, in order. It keeps facing as it does.
    pub through: Vec<T>,
    /// How long each stretch takes, or at how many metres per second it goes.
    pub pace: Pace<N>,
    /// How it gathers and loses speed on each stretch.
    pub ease: Easing,
}

impl<T> Lead<T> {
    /// Take this many seconds for each stretch.
    #[must_use]
    pub fn over(self, seconds: impl Into<Quantity>) -> Self {
        Self { pace: Pace::Over(seconds.into()), ..self }
    }

    /// Goes at this speed, in metres per second.
    #[must_use]
    pub fn rate(self, speed: impl Into<Quantity>) -> Self {
        Self { pace: Pace::Rate(speed.into()), ..self }
    }

    /// Gather and lose speed like this.
    #[must_use]
    pub fn ease(self, ease: Easing) -> Self {
        Self { ease, ..self }
    }
}
