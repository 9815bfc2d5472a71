//! The structure of files: what they can say, before anything is looked up. Schemas are made from these
//! types.

pub(crate) mod literal;
pub(crate) mod one_or_many;
pub(crate) mod optional;
pub(crate) mod quantity;
pub(crate) mod reaction;
pub(crate) mod scene;
pub(crate) mod shape;
