//! The structure of a playtest file. Its schema is made from these types.

use hazuro_format::Literal;
use schemars::JsonSchema;
use serde::Deserialize;

use super::deeds::{PlaceKeys, TapeKeys};

/// What players do, and what must and must not happen.
#[derive(Clone, Debug, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct PlaytestKeys {
    /// The scene's file, from the folder of this one.
    pub scene: String,
    /// How many seconds to play.
    pub seconds: f64,
    /// What is done, in order of time.
    #[serde(default)]
    pub tape: Vec<TapeKeys>,
    /// What must and must not happen.
    #[serde(default)]
    pub expect: Vec<ExpectKeys>,
    /// A log that the play must give again, from the folder of this file. `hazuro test --update`
    /// writes it.
    pub log: Option<String>,
}

/// What must or must not happen: an `event`, events `in_order`, a text `said`, the `value` of an expression, the
/// `place` of somebody, what is `offered`, or what is `visible`.
#[derive(Clone, Debug, Default, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct ExpectKeys {
    /// The word of the event.
    pub event: Option<String>,
    /// Events that must happen one after another; others may come between.
    pub in_order: Option<Vec<ExpectKeys>>,
    /// The key of a text that must be shown: to `who`, alone or with everybody, or to anybody.
    pub said: Option<String>,
    /// Where `who` must be.
    pub place: Option<PlaceKeys>,
    /// With `place`: the greatest distance from there, in metres. The default is 0.01. With `value`: by how
    /// much a number may be off. The default is 0.000001.
    pub within: Option<f64>,
    /// A prompt that must be offered to `who`.
    pub offered: Option<String>,
    /// An entity that must be shown, itself and its ancestors.
    pub visible: Option<String>,
    /// Its detector, or the name of a cue.
    pub on: Option<String>,
    /// Its subject. With `value`: whom `who` means in the expression.
    pub who: Option<String>,
    /// The word of its cause.
    pub cause: Option<String>,
    /// Of `refused`: the need that was lacking.
    pub need: Option<String>,
    /// Of `stat`, `empty` and `full`: the stat.
    pub of: Option<String>,
    /// Not before this many seconds.
    pub after: Option<f64>,
    /// At this many seconds at the latest.
    pub by: Option<f64>,
    /// Not before the one and not after the other, in seconds.
    pub between: Option<[f64; 2]>,
    /// The exact number of times. The default is at least once.
    pub times: Option<usize>,
    /// So often or more.
    pub at_least: Option<usize>,
    /// So often or less.
    pub at_most: Option<usize>,
    /// Not once.
    pub never: Option<bool>,
    /// An expression over `count` and `time`.
    pub value: Option<String>,
    /// With `value`: what it is. With `offered` and `visible`: whether. The default is true.
    pub is: Option<Literal>,
    /// With all but events: when, in seconds. The default is at the end.
    pub at: Option<f64>,
}

/// The JSON Schema of playtest files.
pub fn playtest_schema() -> serde_json::Value {
    schemars::schema_for!(PlaytestKeys).to_value()
}
