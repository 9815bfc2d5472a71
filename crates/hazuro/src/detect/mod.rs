//! Detectors, one file each, each written as its list of gates.

mod zone;

pub(crate) use zone::{Crossing, Look, boundary_distance, look};
