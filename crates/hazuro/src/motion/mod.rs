//! How things move: journeys in closed form, and the path they make of a tick.
//!
//! A movement is never integrated tick by tick. It is a function of time from the moment it
//! began, so where something is does not depend on how often anybody looks.

mod easing;
mod path;
mod travel;

pub use easing::{Easing, EasingError, StepPosition};
pub use path::{Path, Segment};
pub use travel::Travel;
