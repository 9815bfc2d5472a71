//! The structure of what moves in a scene file: what can be carried, routes, spawners. Its schema is
//! made from these types.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::keys::detector::optional;

optional! {
    /// Makes an entity with a body something to carry, throw and stack.
    CarryKeys {
        /// Its mass. A subject with the stat `strength` lifts what is no heavier than that. The
        /// default is 1.
        mass: f64,
        /// The share of its speed it keeps when it bounces, from 0 to 1. The default is 0.2.
        bounce: f64,
        /// The friction with the surface it slides on. The default is 0.6.
        friction: f64,
        /// Whether gravity acts on it. The default is yes.
        gravity: bool,
        /// Whether another subject may take it out of the holder's hands. The default is no.
        snatch: bool,
        /// Where it is held, relative to the holder's origin. The default is in front of the holder.
        hold: [f64; 3],
    }
}

optional! {
    /// Stops that an entity travels to one after another.
    RouteKeys {
        /// The entities whose places are its stops, in order; `home` is where it was placed.
        through: Vec<String>,
        /// Seconds for each leg. The default is 1.
        over: f64,
        /// Instead: at how many metres per second it goes.
        rate: f64,
        /// A CSS easing for each stretch.
        ease: String,
        /// How many seconds it waits at each stop.
        wait: f64,
        /// What it does at the last stop: `stop`, `back` or `around`. The default is `stop`.
        then: String,
        /// What it does when a body is in its way: `push`, `stop` or `back`. The
        /// default is `push`.
        blocked: String,
        /// Whether it starts moving when the play begins. The default is no.
        starts: bool,
    }
}

optional! {
    /// Keeps a number of a kind in the play, within the zone of its entity.
    SpawnerKeys {
        /// The kind, which needs a `stock`; needed.
        kind: String,
        /// How many there are to be; needed.
        keep: u32,
        /// Seconds between two checks whether one is missing. The default is 1.
        every: f64,
        /// The age in seconds at which one is taken back.
        oldest: f64,
        /// What has left the zone of this entity is taken back.
        bounds: String,
    }
}
