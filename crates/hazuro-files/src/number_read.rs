//! From the keys of stats, effects and pickups to their descriptions, and back.

use std::collections::BTreeMap;

use hazuro::scene::{Alter, Effect, Field, Grant, Pickup, Stacking, Stat, nearest};

use crate::number_file::{AlterKeys, EffectKeys, GrantKeys, PickupKeys, StatKeys};
use crate::scene_read::Reader;

pub(crate) fn stat(keys: &StatKeys) -> Stat {
    let usual = Stat::default();
    Stat {
        start: keys.start.unwrap_or(usual.start),
        least: keys.min.unwrap_or(usual.least),
        most: keys.max.unwrap_or(usual.most),
    }
}

pub(crate) fn write_stat(stat: &Stat) -> StatKeys {
    let usual = Stat::default();
    let other = |value: f64, usual: f64| (value.to_bits() != usual.to_bits()).then_some(value);
    StatKeys {
        start: other(stat.start, usual.start),
        min: other(stat.least, usual.least),
        max: other(stat.most, usual.most),
    }
}

pub(crate) fn grant(keys: &GrantKeys) -> Grant {
    let keys = keys.clone();
    Grant {
        counts: keys.counts.unwrap_or_default(),
        own_counts: keys.own_counts.unwrap_or_default(),
        flags: keys.flags.unwrap_or_default(),
        stats: keys.stats.unwrap_or_default(),
        effects: keys.effects.unwrap_or_default(),
        hands: keys.hands,
        tags: keys.tags.unwrap_or_default(),
    }
}

pub(crate) fn write_grant(grant: &Grant) -> GrantKeys {
    let Grant { counts, own_counts, flags, stats, effects, tags, hands } = grant.clone();
    GrantKeys {
        counts: map(counts),
        own_counts: map(own_counts),
        flags: list(flags),
        stats: map(stats),
        effects: list(effects),
        hands,
        tags: list(tags),
    }
}

fn map<T>(map: BTreeMap<String, T>) -> Option<BTreeMap<String, T>> {
    (!map.is_empty()).then_some(map)
}

fn list(list: Vec<String>) -> Option<Vec<String>> {
    (!list.is_empty()).then_some(list)
}

pub(crate) fn pickup(keys: &PickupKeys) -> Pickup {
    let PickupKeys { counts, own_counts, flags, stats, effects, tags, hands, back_after, limit } =
        keys.clone();
    let grant = grant(&GrantKeys { counts, own_counts, flags, stats, effects, tags, hands });
    Pickup { grant, back_after, limit }
}

pub(crate) fn write_pickup(pickup: &Pickup) -> PickupKeys {
    let GrantKeys { counts, own_counts, flags, stats, effects, tags, hands } =
        write_grant(&pickup.grant);
    let Pickup { back_after, limit, .. } = *pickup;
    PickupKeys { counts, own_counts, flags, stats, effects, tags, hands, back_after, limit }
}

pub(crate) fn write_effect(effect: &Effect) -> EffectKeys {
    let other = |value: f64, usual: f64| (value.to_bits() != usual.to_bits()).then_some(value);
    let alters = effect.alters().iter().map(|(stat, alter)| {
        let keys = AlterKeys {
            add: other(alter.add, 0.0),
            times: other(alter.times, 1.0),
            rate: other(alter.rate, 0.0),
        };
        (stat.clone(), keys)
    });
    let again = effect.stacking();
    EffectKeys {
        stats: Some(alters.collect()),
        seconds: effect.duration(),
        while_detected: effect.is_while_detected().then_some(true),
        again: (again != Stacking::default()).then(|| again.word().into()),
    }
}

impl Reader<'_> {
    pub(crate) fn effect(&mut self, name: &str, keys: &EffectKeys, field: &Field) -> Effect {
        let mut effect = Effect::new(name);
        for (stat, alter) in keys.stats.iter().flatten() {
            let alter = Alter {
                add: alter.add.unwrap_or(0.0),
                times: alter.times.unwrap_or(1.0),
                rate: alter.rate.unwrap_or(0.0),
            };
            effect = effect.alter(stat, alter);
        }
        if let Some(seconds) = keys.seconds {
            effect = effect.seconds(seconds);
        }
        if keys.while_detected == Some(true) {
            effect = effect.while_detected();
        }
        if let Some(word) = &keys.again {
            if let Some(again) = Stacking::ALL.into_iter().find(|again| again.word() == word) {
                effect = effect.again(again);
            } else {
                let words = Stacking::ALL.map(Stacking::word);
                self.unknown_word(&field.key("again"), word, &words);
            }
        }
        effect
    }

    /// Reports a word that is none of those there are.
    pub(crate) fn unknown_word(&mut self, field: &Field, word: &str, known: &[&str]) {
        let help = match nearest(word, known.iter().copied()) {
            Some(nearest) => format!("did you mean `{nearest}`?"),
            None => format!("there are {}", known.join(", ")),
        };
        self.error(field, "unknown-name", &format!("`{word}` means nothing here"), &help);
    }
}
