//! From a description to the keys of its file.

mod origins;
mod reaction;
mod scene;

pub use origins::{Origin, origins};
pub use scene::write_scene;

/// Degrees that give back the same radians, as far as there are such.
fn degrees(radians: f64) -> f64 {
    let degrees = radians.to_degrees();
    let round = (degrees * 1e9).round() / 1e9;
    if round.to_radians().to_bits() == radians.to_bits() { round } else { degrees }
}
