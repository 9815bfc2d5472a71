//! What happens then: the gates on a reaction, and what its actions do to the state.

mod aiming;
mod apply;
mod converting;
mod gates;
mod grants;
mod hands;
mod owning;
mod side_effects;
mod slots;
mod spawning;
mod stats;
mod trips;

pub(crate) use apply::{ActionContext, face};
pub(crate) use gates::{Consider, consider, holds, is_wanted, still_so};
pub(crate) use hands::{Release, hold};
pub(crate) use side_effects::SideEffects;
