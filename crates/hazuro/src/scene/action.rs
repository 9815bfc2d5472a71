//! What a reaction does.

use std::hash::{Hash, Hasher};

use crate::motion::Easing;

/// One thing done. `T` is how it names entities: by words in a description, by [`EntityId`] once
/// carried out.
///
/// In a description two words stand for who is part of the event: `who`, the subject, and `on`,
/// the detector.
///
/// ```
/// use hazuro::motion::Easing;
/// use hazuro::scene::Action;
/// let open: Action = Action::move_to("sluice_gate", "sluice_raised")
///     .over(0.8)
///     .ease(Easing::EASE_IN_OUT)
///     .into();
/// let pay = Action::add("tokens", 1);
/// ```
///
/// [`EntityId`]: super::EntityId
#[derive(Clone, Debug, PartialEq, Hash)]
pub enum Action<T = String> {
    /// Move an entity to another's place or back home.
    Move(Move<T>),
    /// Put an entity at another's place at once; nothing between is swept.
    Teleport {
        /// Who or what.
        what: T,
        /// The entity whose pose it takes.
        to: T,
    },
    /// Turn an entity about Y towards another, at once.
    Face {
        /// Who or what.
        what: T,
        /// What it looks at.
        to: T,
    },
    /// Switch an entity on.
    Enable(T),
    /// Switch an entity off, and with it all its children.
    Disable(T),
    /// Switch an entity off if it is on, on if it is off.
    Toggle(T),
    /// Make an entity visible.
    Show(T),
    /// Make an entity invisible. It still detects and is detected.
    Hide(T),
    /// Change a count.
    Count {
        /// Which count; it is 0 until something changes it.
        name: String,
        /// How.
        change: Change,
    },
    /// Show the text of this key.
    Say(String),
    /// Send the cue of this name.
    Cue(String),
}

/// How [`Action::Count`] changes a count. Counts stop at the ends of their range.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Change {
    /// Add this much, which may be negative.
    Add(i64),
    /// Make it this much.
    Set(i64),
}

/// A movement as an [`Action`].
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
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum Destination<T = String> {
    /// Where the entity was placed in the scene.
    Home,
    /// The pose that this entity has when the movement begins.
    Entity(T),
    /// Where the event is: of a `drag`, where the pointer holds it. Turned as before.
    Point,
}

impl Action {
    /// Move an entity to where another one is. At once, unless [`Move::over`] says otherwise.
    pub fn move_to(what: impl Into<String>, to: impl Into<String>) -> Move {
        let to = Destination::Entity(to.into());
        Move { what: what.into(), to, over: 0.0, ease: Easing::Linear }
    }

    /// Move an entity back to where it was placed in the scene.
    pub fn move_home(what: impl Into<String>) -> Move {
        Move { what: what.into(), to: Destination::Home, over: 0.0, ease: Easing::Linear }
    }

    /// Put an entity at another's place at once.
    pub fn teleport(what: impl Into<String>, to: impl Into<String>) -> Self {
        Self::Teleport { what: what.into(), to: to.into() }
    }

    /// Move an entity to where the event is: of a `drag`, where the pointer holds it.
    pub fn move_to_point(what: impl Into<String>) -> Move {
        Move { what: what.into(), to: Destination::Point, over: 0.0, ease: Easing::Linear }
    }

    /// Turn an entity towards another.
    pub fn face(what: impl Into<String>, to: impl Into<String>) -> Self {
        Self::Face { what: what.into(), to: to.into() }
    }

    /// Switch an entity on.
    pub fn enable(what: impl Into<String>) -> Self {
        Self::Enable(what.into())
    }

    /// Switch an entity off.
    pub fn disable(what: impl Into<String>) -> Self {
        Self::Disable(what.into())
    }

    /// Switch an entity over.
    pub fn toggle(what: impl Into<String>) -> Self {
        Self::Toggle(what.into())
    }

    /// Make an entity visible.
    pub fn show(what: impl Into<String>) -> Self {
        Self::Show(what.into())
    }

    /// Make an entity invisible.
    pub fn hide(what: impl Into<String>) -> Self {
        Self::Hide(what.into())
    }

    /// Add to a count.
    pub fn add(count: impl Into<String>, amount: i64) -> Self {
        Self::Count { name: count.into(), change: Change::Add(amount) }
    }

    /// Set a count.
    pub fn set(count: impl Into<String>, value: i64) -> Self {
        Self::Count { name: count.into(), change: Change::Set(value) }
    }

    /// Show a text.
    pub fn say(key: impl Into<String>) -> Self {
        Self::Say(key.into())
    }

    /// Send a cue.
    pub fn cue(name: impl Into<String>) -> Self {
        Self::Cue(name.into())
    }
}

impl<T> Action<T> {
    /// The action's word in scene files.
    pub fn word(&self) -> &'static str {
        match self {
            Self::Move(_) => "move",
            Self::Teleport { .. } => "teleport",
            Self::Face { .. } => "face",
            Self::Enable(_) => "enable",
            Self::Disable(_) => "disable",
            Self::Toggle(_) => "toggle",
            Self::Show(_) => "show",
            Self::Hide(_) => "hide",
            Self::Count { .. } => "count",
            Self::Say(_) => "say",
            Self::Cue(_) => "cue",
        }
    }

    /// The same action with its entities named another way. `find` also gets the key under which
    /// the entity stands in a scene file.
    ///
    /// # Errors
    /// The first error of `find`.
    pub fn try_map<U, E>(
        &self,
        mut find: impl FnMut(&T, &'static str) -> Result<U, E>,
    ) -> Result<Action<U>, E> {
        let word = self.word();
        Ok(match self {
            Self::Move(Move { what, to, over, ease }) => Action::Move(Move {
                what: find(what, word)?,
                to: match to {
                    Destination::Home => Destination::Home,
                    Destination::Point => Destination::Point,
                    Destination::Entity(to) => Destination::Entity(find(to, "to")?),
                },
                over: *over,
                ease: *ease,
            }),
            Self::Teleport { what, to } => {
                Action::Teleport { what: find(what, word)?, to: find(to, "to")? }
            }
            Self::Face { what, to } => {
                Action::Face { what: find(what, word)?, to: find(to, "to")? }
            }
            Self::Enable(what) => Action::Enable(find(what, word)?),
            Self::Disable(what) => Action::Disable(find(what, word)?),
            Self::Toggle(what) => Action::Toggle(find(what, word)?),
            Self::Show(what) => Action::Show(find(what, word)?),
            Self::Hide(what) => Action::Hide(find(what, word)?),
            Self::Count { name, change } => Action::Count { name: name.clone(), change: *change },
            Self::Say(key) => Action::Say(key.clone()),
            Self::Cue(name) => Action::Cue(name.clone()),
        })
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
}

impl<T: Hash> Hash for Move<T> {
    fn hash<H: Hasher>(&self, state: &mut H) {
        (&self.what, &self.to, (self.over + 0.0).to_bits(), self.ease).hash(state);
    }
}

impl<T> From<Move<T>> for Action<T> {
    fn from(movement: Move<T>) -> Self {
        Self::Move(movement)
    }
}
