//! The tables of stats, effects, gifts and pickups.

use std::collections::BTreeMap;

use hazuro::scene::{Alter, Effect, Field, Grant, Pickup, Stacking, Stat};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::keys::optional::optional;
use crate::read::Reader;
use crate::table::{Table, key_name, notation, table};

table! {
    /// A number on an entity.
    StatKeys of Stat {
        /// The value at the start.
        start: f64,
        /// The smallest value.
        least = "min": f64,
        /// The largest value. The default is no limit.
        most = "max": f64,
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
        /// What happens if an entity gets it and has it already: `refresh`, `extend`, `add` or
        /// `ignore`. The default is `refresh`.
        again: String,
    }
}

table! {
    /// What an effect does to one stat.
    AlterKeys of Alter {
        /// The amount added.
        add: f64,
        /// The factor, applied after all amounts are added.
        times: f64,
        /// The amount added per second, which stays when the effect ends.
        rate: f64,
    }
}

table! {
    /// What an entity is given.
    GrantKeys of Grant {
        /// Added to counts of the scene.
        counts: BTreeMap<String, i64>,
        /// Added to counts of the receiver.
        own_counts: BTreeMap<String, i64>,
        /// Flags of the scene raised.
        flags: Vec<String>,
        /// Added to stats of the receiver.
        stats: BTreeMap<String, f64>,
        /// Effects put on the receiver.
        effects: Vec<String>,
        /// Tags given to the receiver.
        tags: Vec<String>,
        /// The entity put in the hands of the receiver, which must be one that can be carried.
        hands: Option<String>,
    }
}

impl GrantKeys {
    /// What is given.
    pub fn grant(&self) -> Grant {
        let Self { counts, own_counts, flags, stats, effects, tags, hands } = self.clone();
        Grant { counts, own_counts, flags, stats, effects, tags, hands }
    }
}

optional! {
    /// What a subject that comes into the entity's zone collects. A subject that would get nothing leaves it
    /// lying.
    PickupKeys {
        /// Added to counts of the scene.
        counts: BTreeMap<String, i64>,
        /// Added to counts of the collector.
        own_counts: BTreeMap<String, i64>,
        /// Flags of the scene raised.
        flags: Vec<String>,
        /// Added to stats of the collector.
        stats: BTreeMap<String, f64>,
        /// Effects put on the collector.
        effects: Vec<String>,
        /// Tags given to the collector.
        tags: Vec<String>,
        /// The entity put in the hands of the collector.
        hands: String,
        /// Seconds until it comes back. The default is never.
        back_after: f64,
        /// How many times each subject may collect it. The default is no limit.
        limit: u64,
    }
}

impl Table for Pickup {
    type Keys = PickupKeys;

    fn keys(&self) -> PickupKeys {
        let Self { grant, back_after, limit } = self;
        let GrantKeys { counts, own_counts, flags, stats, effects, tags, hands } = grant.keys();
        PickupKeys {
            counts: (!counts.is_empty()).then_some(counts),
            own_counts: (!own_counts.is_empty()).then_some(own_counts),
            flags: (!flags.is_empty()).then_some(flags),
            stats: (!stats.is_empty()).then_some(stats),
            effects: (!effects.is_empty()).then_some(effects),
            tags: (!tags.is_empty()).then_some(tags),
            hands,
            back_after: *back_after,
            limit: *limit,
        }
    }

    fn read(keys: &PickupKeys, _: &mut Reader<'_>, _: &Field) -> Option<Self> {
        let keys = keys.clone();
        let grant = Grant {
            counts: keys.counts.unwrap_or_default(),
            own_counts: keys.own_counts.unwrap_or_default(),
            flags: keys.flags.unwrap_or_default(),
            stats: keys.stats.unwrap_or_default(),
            effects: keys.effects.unwrap_or_default(),
            tags: keys.tags.unwrap_or_default(),
            hands: keys.hands,
        };
        Some(Self { grant, back_after: keys.back_after, limit: keys.limit })
    }
}

impl EffectKeys {
    /// The stats that it changes.
    pub fn stat_names(&self) -> impl Iterator<Item = &String> {
        self.stats.iter().flat_map(BTreeMap::keys)
    }

    /// The keys of an effect.
    pub fn of(effect: &Effect) -> Self {
        let alters = effect.alters().iter();
        let again = effect.stacking();
        Self {
            stats: Some(alters.map(|(stat, alter)| (stat.clone(), alter.keys())).collect()),
            seconds: effect.duration(),
            while_detected: effect.is_while_detected().then_some(true),
            again: (again != Stacking::default()).then(|| again.word().into()),
        }
    }

    /// The effect of this name.
    pub fn read(&self, name: &str, reader: &mut Reader<'_>, field: &Field) -> Effect {
        let mut effect = Effect::new(name);
        for (stat, keys) in self.stats.iter().flatten() {
            let field = field.key("stats").key(stat);
            if let Some(alter) = Alter::read(keys, reader, &field) {
                effect = effect.alter(stat, alter);
            }
        }
        if let Some(seconds) = self.seconds {
            effect = effect.seconds(seconds);
        }
        if self.while_detected == Some(true) {
            effect = effect.while_detected();
        }
        if let Some(word) = &self.again {
            if let Some(again) = Stacking::ALL.into_iter().find(|again| again.word() == word) {
                effect = effect.again(again);
            } else {
                let words = Stacking::ALL.map(Stacking::word);
                reader.unknown_word(&field.key("again"), word, &words);
            }
        }
        effect
    }
}
