//! What happens then: the gates on a reaction, and what its actions do to the state.

mod apply;
mod gates;

pub(crate) use apply::{apply, face, facing};
pub(crate) use gates::{Consider, consider, still_so};
