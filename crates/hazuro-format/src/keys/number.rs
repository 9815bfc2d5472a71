//! The structure of stats, effects and pickups in a scene file. Its schema is made from these
//! types.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::keys::detector::optional;

optional! {
    /// A number on an entity.
    StatKeys {
        /// What it is to begin with; 0 unless said otherwise.
        start: f64,
        /// It is never less; 0 unless said otherwise.
        min: f64,
        /// It is never more; there is no end unless said otherwise.
        max: f64,
    }
}

optional! {
    /// A change to stats that ends by itself.
    EffectKeys {
        /// What it does to which stats.
        stats: BTreeMap<String, AlterKeys>,
        /// After how many seconds it ends; never unless said otherwise.
        seconds: f64,
        /// It ends as soon as the detector of the event that began it no longer detects the
        /// subject; not unless said otherwise.
        while_detected: bool,
        /// What happens to whoever gets it and has it already: `refresh`, `extend`, `add` or
        /// `ignore`; `refresh` unless said otherwise.
        again: String,
    }
}

optional! {
    /// What an effect does to one stat.
    AlterKeys {
        /// Added; 0 unless said otherwise.
        add: f64,
        /// Multiplied by, after all that is added; 1 unless said otherwise.
        times: f64,
        /// How much is added for good each second; 0 unless said otherwise.
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
        /// After how many seconds it comes back; never unless said otherwise.
        back_after: f64,
        /// How often each subject may collect it; for ever unless said otherwise.
        limit: u64,
    }
}
