//! Players who play from elsewhere, over lines that may be bad.

use std::collections::BTreeMap;
use std::ops::{Range, RangeInclusive};

use hazuro::EntityId;
use hazuro::scene::{Fault, Field};
use hazuro_format::Code;
use hazuro_link::Conditions;
use schemars::JsonSchema;
use serde::Deserialize;

use crate::tape::Reader;

mod desk;
mod rehearse;

pub(crate) use rehearse::{Rehearsed, rehearse};

/// How long a message may take at most, in seconds.
const MAX_SECONDS: f64 = 10.0;
/// The greatest share of messages that may be lost; of all nothing would come of it.
const MAX_LOSS: f64 = 0.9;
/// By how much a player's clock may be faster or slower at most.
const MAX_DRIFT: f64 = 0.05;

/// A player who plays from elsewhere: how good the line to the host is, each way.
#[derive(Clone, Debug, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct LineKeys {
    /// How many seconds a message takes at least, from 0 to 10. The default is 0.
    pub delay: Option<f64>,
    /// How many seconds longer it may take, by chance, from 0 to 10. The default is 0.
    pub jitter: Option<f64>,
    /// The share of messages that never arrive, from 0 to 0.9. The default is 0.
    pub loss: Option<f64>,
    /// From when to when nothing is carried, in seconds. The default is never.
    pub cut: Option<[f64; 2]>,
    /// How much faster the player's clock goes than the host's, from -0.05 to 0.05: 0.01 is a hundredth. The
    /// default is 0.
    pub drift: Option<f64>,
}

/// A player who plays from elsewhere.
#[derive(Clone, Debug)]
pub(crate) struct Player {
    pub id: EntityId,
    pub line: Conditions,
    /// Where it is written.
    pub span: Range<usize>,
}

impl Player {
    /// Reads all of a playtest, in the order of their names.
    pub fn read_all(
        reader: &mut Reader<'_>,
        keys: &BTreeMap<String, LineKeys>,
        field: &Field,
    ) -> Vec<Self> {
        let mut all = Vec::new();
        for (name, keys) in keys {
            let field = field.key(name.clone());
            let line = keys.conditions(reader, &field);
            let Some(id) = reader.entity(name, &field) else { continue };
            if !reader.scene.is_player(id) {
                reader.fault(&field, &Fault::NoPlayer { name: name.clone() });
            }
            all.push(Self { id, line, span: reader.span(&field) });
        }
        all
    }
}

impl LineKeys {
    fn conditions(&self, reader: &mut Reader<'_>, field: &Field) -> Conditions {
        let Conditions { delay, jitter, loss, cut, drift } = Conditions::default();
        let mut number =
            |key: &'static str, given: Option<f64>, default: f64, range: RangeInclusive<f64>| {
                let value = given.unwrap_or(default);
                if !range.contains(&value) {
                    let message =
                        format!("`{key}` is not from {} to {}", range.start(), range.end());
                    let help = format!("a good line has {key} = {default}");
                    reader.error(&field.key(key), Code::BadNumber, &message, &help);
                }
                value
            };
        let delay = number("delay", self.delay, delay, 0.0..=MAX_SECONDS);
        let jitter = number("jitter", self.jitter, jitter, 0.0..=MAX_SECONDS);
        let loss = number("loss", self.loss, loss, 0.0..=MAX_LOSS);
        let drift = number("drift", self.drift, drift, -MAX_DRIFT..=MAX_DRIFT);
        let given = self.cut.map(|ends| {
            let [from, to] = ends.map(|end| reader.seconds(end, &field.key("cut")));
            if from > to {
                let message = "the line would be mended before it is cut";
                reader.error(&field.key("cut"), Code::BadNumber, message, "swap the two times");
            }
            (from.secs(), (to - from).secs())
        });
        Conditions { delay, jitter, loss, cut: given.or(cut), drift }
    }
}
