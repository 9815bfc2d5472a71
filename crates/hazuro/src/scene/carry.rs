//! What can be carried, thrown and stacked, and the actions for it.

use std::hash::{Hash, Hasher};

use super::Action;

/// Makes an entity with a body something to carry. While nobody holds it, it falls, bounces,
/// slides, comes to rest, and is in the way of others, if it does not say otherwise. It keeps
/// upright: it turns about Y only.
///
/// ```
/// use hazuro::geometry::Shape;
/// use hazuro::scene::{Body, Carry, Entity};
/// let sack = Entity::new("sack")
///     .body(Body::new(Shape::Box { size: [0.5, 0.7, 0.4] }))
///     .carry(Carry { mass: 25.0, bounce: 0.1, ..Carry::default() });
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Carry {
    /// Who has the stat `strength` lifts what is no heavier than that; who has none lifts
    /// anything. 1 unless said otherwise.
    pub mass: f64,
    /// How much of its speed it keeps when it bounces, from 0 to 1. 0.2 unless said otherwise.
    pub bounce: f64,
    /// How much it is slowed down by what it slides on: the share of its weight. It rests on
    /// slopes up to the angle with this tangent. 0.6 unless said otherwise.
    pub friction: f64,
    /// Whether it falls. It does unless said otherwise.
    pub gravity: bool,
    /// Whether somebody else may take it out of a holder's hands. Not unless said otherwise.
    pub snatch: bool,
    /// Where its origin is held, in metres from the origin of the holder, who faces -Z. In front
    /// of the holder, at half his height, unless said otherwise.
    pub hold: Option<[f64; 3]>,
}

impl Default for Carry {
    fn default() -> Self {
        Self { mass: 1.0, bounce: 0.2, friction: 0.6, gravity: true, snatch: false, hold: None }
    }
}

/// The stat that tells what somebody can lift.
pub const STRENGTH: &str = "strength";

/// A throw as an [`Action`]: of a thing that is held, or of what a holder holds.
///
/// ```
/// use hazuro::scene::{Action, Throw};
/// let over_the_wall: Throw = Action::throw("who", [0.0, 4.0, -5.0]).spin(3.0);
/// # let _ = over_the_wall;
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Throw<T = String> {
    /// What is thrown, or who throws what he holds.
    pub what: T,
    /// How fast, in metres a second, seen by the holder, who faces -Z; his own speed is added.
    pub velocity: [f64; 3],
    /// How fast it turns about Y on its way, in radians a second.
    pub spin: f64,
}

impl<T> Throw<T> {
    /// Turn about Y on the way, so many radians a second.
    #[must_use]
    pub fn spin(self, radians: f64) -> Self {
        Self { spin: radians, ..self }
    }
}

impl<T: Hash> Hash for Throw<T> {
    fn hash<H: Hasher>(&self, state: &mut H) {
        (&self.what, (self.spin + 0.0).to_bits()).hash(state);
        self.velocity.iter().for_each(|along| (along + 0.0).to_bits().hash(state));
    }
}

impl<T> From<Throw<T>> for Action<T> {
    fn from(throw: Throw<T>) -> Self {
        Self::Throw(throw)
    }
}

impl Action {
    /// Let somebody take a thing in his hands.
    pub fn grab(what: impl Into<String>, to: impl Into<String>) -> Self {
        Self::Grab { what: what.into(), to: to.into() }
    }

    /// Let go of a thing; or let somebody let go of what he holds.
    pub fn drop(what: impl Into<String>) -> Self {
        Self::Drop(what.into())
    }

    /// Throw a thing that is held; or let somebody throw what he holds.
    pub fn throw(what: impl Into<String>, velocity: [f64; 3]) -> Throw {
        Throw { what: what.into(), velocity, spin: 0.0 }
    }
}
