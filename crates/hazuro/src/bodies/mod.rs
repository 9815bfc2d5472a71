//! How bodies get along by themselves: walking, standing on what moves, falling.
//!
//! A body goes from one decision to the next. Each decision looks at what the body touches and
//! lays out an even movement, or one under constant acceleration, in the frame of what carries
//! it. When the next decision is due is found by looking ahead along the paths of all that is
//! near: when it meets something new, or leaves what it stands on or leans against. So nothing
//! depends on the tick rate, and a walker that stands still costs nothing.

mod ahead;
mod contact;
mod controller;
mod decide;
mod free_body;
mod load;
mod room;
mod solve;
mod steer;
mod stride;
mod tolerance;
mod way;

pub(crate) use ahead::ahead;
pub(crate) use controller::{Course, Plan};
pub(crate) use decide::{decide, pressing};
pub(crate) use room::{hand, has_room, on_ground, places_beside};
