//! Where in what somebody does an action stands.

use super::Place;

/// Where in what somebody does an action stands.
///
/// See [`Entry::step`](super::Entry::step).
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Step {
    /// Among all actions of the reaction, from 0, in the order of
    /// [`Reaction::actions`](crate::scene::Reaction::actions).
    Action(usize),
    /// In a script.
    Line(Box<Place>),
}
