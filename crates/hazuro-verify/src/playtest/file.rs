//! The structure of a playtest file. Its schema is made from these types.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::Deserialize;

use crate::expect::ExpectKeys;
use crate::players::LineKeys;
use crate::tape::TapeKeys;

/// What players do, and what must and must not happen.
#[derive(Clone, Debug, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct PlaytestKeys {
    /// The scene's file, from the folder of this one.
    pub scene: String,
    /// How many seconds to play.
    pub seconds: f64,
    /// Who plays from elsewhere, and how good their lines are. What they do is done at their desks. The default
    /// is that all is done at one.
    #[serde(default)]
    pub players: BTreeMap<String, LineKeys>,
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

/// The JSON Schema of playtest files.
pub fn playtest_schema() -> serde_json::Value {
    schemars::schema_for!(PlaytestKeys).to_value()
}
