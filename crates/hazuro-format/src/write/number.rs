//! From the descriptions of stats, effects and pickups to their keys.

use std::collections::BTreeMap;

use hazuro::scene::{Effect, Grant, Pickup, Stacking, Stat};

use crate::keys::number::{AlterKeys, EffectKeys, GrantKeys, PickupKeys, StatKeys};

pub(crate) fn stat(stat: &Stat) -> StatKeys {
    let usual = Stat::default();
    let other = |value: f64, usual: f64| (value.to_bits() != usual.to_bits()).then_some(value);
    StatKeys {
        start: other(stat.start, usual.start),
        min: other(stat.least, usual.least),
        max: other(stat.most, usual.most),
    }
}

pub(crate) fn grant(grant: &Grant) -> GrantKeys {
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

pub(crate) fn pickup(pickup: &Pickup) -> PickupKeys {
    let GrantKeys { counts, own_counts, flags, stats, effects, tags, hands } = grant(&pickup.grant);
    let Pickup { back_after, limit, .. } = *pickup;
    PickupKeys { counts, own_counts, flags, stats, effects, tags, hands, back_after, limit }
}

pub(crate) fn effect(effect: &Effect) -> EffectKeys {
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

fn map<T>(map: BTreeMap<String, T>) -> Option<BTreeMap<String, T>> {
    (!map.is_empty()).then_some(map)
}

fn list(list: Vec<String>) -> Option<Vec<String>> {
    (!list.is_empty()).then_some(list)
}
