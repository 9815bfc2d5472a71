//! The structure of stats, effects and pickups in a scene file. Its schema is made from these
//! types.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::keys::detector::optional;

optional! {
    /// A number on an entity.
    StatKeys {
        /// The value at the start. The default is 0.
        start: f64,
        /// The smallest value. The default is 0.
        min: f64,
        /// The largest value. The default is no limit.
        max: f64,
    }
}

optional! {
    /// A change to stats that ends by itself.
    EffectKeys {
        /// What it does to which stats.
        stats: BTreeMap<String, AlterKeys>,
        /// Seconds until it ends. The default is never.
        seconds: f64,
        /// It ends as soon as the detector of the event that began it no longer detects the
        /// subject. The default is no.
        while_detected: bool,
        /// What happens to whoever gets it and has it already: `refresh`, `extend`, `add` or
        /// `ignore`. The default is `refresh`.
        again: String,
    }
}

optional! {
    /// What an effect does to one stat.
    AlterKeys {
        /// The amount added. The default is 0.
        add: f64,
        /// The factor, applied after all amounts are added. The default is 1.
        times: f64,
        /// The amount added per second, which stays when the effect ends. The default is 0.
        rate: f64,
    }
}

optional! {
    /// What somebody is given.
    GrantKeys {
        /// Added to counts of the scene.
        counts: BTreeMap<String, i64>,
        /// Added to counts of whoever gets it.
        own_counts: BTreeMap<String, i64>,
        /// Flags of the scene raised.
        flags: Vec<String>,
        /// Added to stats of whoever gets it.
        stats: BTreeMap<String, f64>,
        /// Effects put on whoever gets it.
        effects: Vec<String>,
        /// Tags given to whoever gets it.
        tags: Vec<String>,
        /// The entity put in the hands of whoever gets it, which must be one that can be carried.
        hands: String,
    }
}

optional! {
    /// What whoever comes into the entity's zone collects; left lying for whom it would give
    /// nothing.
    PickupKeys {
        /// Added to counts of the scene.
        counts: BTreeMap<String, i64>,
        /// Added to counts of whoever collects it.
        own_counts: BTreeMap<String, i64>,
        /// Flags of the scene raised.
        flags: Vec<String>,
        /// Added to stats of whoever collects it.
        stats: BTreeMap<String, f64>,
        /// Effects put on whoever collects it.
        effects: Vec<String>,
        /// Tags given to whoever collects it.
        tags: Vec<String>,
        /// The entity put in the hands of whoever collects it.
        hands: String,
        /// Seconds until it comes back. The default is never.
        back_after: f64,
        /// How many times each subject may collect it. The default is no limit.
        limit: u64,
    }
}
