//! From the keys of stats, effects and pickups to their descriptions.

use hazuro::scene::{Alter, Effect, Field, Grant, Pickup, Stacking, Stat, nearest};

use crate::keys::number::{EffectKeys, GrantKeys, PickupKeys, StatKeys};
use crate::read::reader::Reader;

pub(crate) fn stat(keys: &StatKeys) -> Stat {
    let usual = Stat::default();
    Stat {
        start: keys.start.unwrap_or(usual.start),
        least: keys.min.unwrap_or(usual.least),
        most: keys.max.unwrap_or(usual.most),
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

pub(crate) fn pickup(keys: &PickupKeys) -> Pickup {
    let PickupKeys { counts, own_counts, flags, stats, effects, tags, hands, back_after, limit } =
        keys.clone();
    let grant = grant(&GrantKeys { counts, own_counts, flags, stats, effects, tags, hands });
    Pickup { grant, back_after, limit }
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
