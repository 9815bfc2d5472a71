//! What happens then: the gates on a reaction, and what its actions do to the state.

mod aftermath;
mod apply;
mod gates;
mod grants;
mod hands;
mod spawning;
mod stats;
mod trips;

pub(crate) use aftermath::Aftermath;
pub(crate) use apply::{Doing, face};
pub(crate) use gates::{Consider, consider, holds, still_so};
pub(crate) use hands::Release;
