//! What can be carried, thrown and stacked, and the actions for it.

use super::Quantity;

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
    /// A body with the stat `strength` lifts what is no heavier than that; one without it lifts
    /// anything. The default is 1.
    pub mass: f64,
    /// The share of its speed it keeps when it bounces, from 0 to 1. The default is 0.2.
    pub bounce: f64,
    /// How much it is slowed down by what it slides on: the share of its weight. It rests on
    /// slopes up to the angle with this tangent. The default is 0.6.
    pub friction: f64,
    /// Whether gravity acts on it. The default is yes.
    pub gravity: bool,
    /// Whether another subject may take it out of the holder's hands. The default is no.
    pub snatch: bool,
    /// Where its origin is held, in metres from the origin of the holder, who faces -Z. The default is
    /// in front of the holder, at half their height.
    pub hold: Option<[f64; 3]>,
    /// From how far somebody takes it by themselves ([`Input::Grab`](crate::Input::Grab), `grab` in a
    /// tape), in metres from body to body; an action takes it from anywhere. The default is 1.5.
    pub reach: f64,
}

impl Default for Carry {
    fn default() -> Self {
        Self {
            mass: 1.0,
            bounce: 0.2,
            friction: 0.6,
            gravity: true,
            snatch: false,
            hold: None,
            reach: 1.5,
        }
    }
}

/// The stat that tells what somebody can lift.
pub const STRENGTH: &str = "strength";

/// A throw as an [`Action`](super::Action): of a thing that is held, or of what a holder holds.
///
/// ```
/// use hazuro::scene::{Action, Throw};
/// let over_the_wall: Throw = Action::throw("who", [0.0, 4.0, -5.0]).spin(3.0);
/// # let _ = over_the_wall;
/// ```
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Throw<T = String, N = Quantity> {
    /// The thing to throw, or the holder that throws.
    pub what: T,
    /// The velocity in metres per second, in the frame of the holder, which faces -Z; the holder's own
    /// velocity is added.
    pub velocity: [N; 3],
    /// How fast it turns about Y on its way, in radians per second.
    pub spin: N,
}

impl<T> Throw<T> {
    /// Turns about Y on the way, in radians per second.
    #[must_use]
    pub fn spin(self, radians: impl Into<Quantity>) -> Self {
        Self { spin: radians.into(), ..self }
    }
}
