//! The structure of what moves in a scene file: what can be carried, routes, spawners. Its schema is
//! made from these types.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::keys::detector::optional;

optional! {
    /// Makes an entity with a body something to carry, throw and stack.
    CarryKeys {
        /// Who has the stat `strength` lifts what is no heavier than that; 1 unless said otherwise.
        mass: f64,
        /// How much of its speed it keeps when it bounces, from 0 to 1; 0.2 unless said otherwise.
        bounce: f64,
        /// How much it is slowed down by what it slides on; 0.6 unless said otherwise.
        friction: f64,
        /// Whether it falls; it does unless said otherwise.
        gravity: bool,
        /// Whether somebody else may take it out of a holder's hands; not unless said otherwise.
        snatch: bool,
        /// Where it is held, from the holder's origin; in front of him unless said otherwise.
        hold: [f64; 3],
    }
}

optional! {
    /// Stops that an entity travels to one after another.
    RouteKeys {
        /// The entities whose places are its stops, in order; `home` is where it was placed.
        through: Vec<String>,
        /// How many seconds each stretch takes; 1 unless said otherwise.
        over: f64,
        /// Instead: at how many metres a second it goes.
        rate: f64,
        /// A CSS easing for each stretch.
        ease: String,
        /// How many seconds it waits at each stop.
        wait: f64,
        /// What it does at the last stop: `stop`, `back` or `around`; `stop` unless said otherwise.
        then: String,
        /// What it does when a body is in its way: `push`, `stop` or `back`; `push` unless said
        /// otherwise.
        blocked: String,
        /// Whether it sets off when the play begins; not unless said otherwise.
        starts: bool,
    }
}

optional! {
    /// Keeps so many of a kind about, in the zone of its entity.
    SpawnerKeys {
        /// The kind, which needs a `stock`; needed.
        kind: String,
        /// How many there are to be; needed.
        keep: u32,
        /// How many seconds it looks after whether one is missing; 1 unless said otherwise.
        every: f64,
        /// What is older than so many seconds is taken back.
        oldest: f64,
        /// What has left the zone of this entity is taken back.
        bounds: String,
    }
}
