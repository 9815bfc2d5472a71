//! The structure of a scene file. Its schema is made from these types.

use std::collections::BTreeMap;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::entity::{EntityKeys, KindKeys};
use crate::keys::one_or_many::TextKeys;
use crate::keys::reaction::ReactionKeys;
use crate::number::EffectKeys;

/// The level ground below everything.
#[derive(Clone, Copy, Debug, Deserialize, Serialize, JsonSchema)]
#[serde(untagged, expecting = "a height, or false")]
pub(crate) enum FloorKeys {
    /// So high, in metres.
    Height(f64),
    /// Whether there is one.
    There(bool),
}

/// What holds for the whole scene.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub(crate) struct HeadKeys {
    /// The scene's title.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// Ticks per second, from 1 to 10000. The default is 60.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rate: Option<u32>,
    /// The seed of everything random. The default is 1.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub seed: Option<u64>,
    /// The acceleration of what falls, in metres per second squared. The default is 9.81.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub gravity: Option<f64>,
    /// The height of the level ground below everything, or `false` for none. The default is the
    /// height of the lowest thing to stand on, and at most 0.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub floor: Option<FloorKeys>,
    /// Counts that do not start at 0, or that no action changes.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub counts: BTreeMap<String, i64>,
    /// Flags that are up to begin with, or that no action changes.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub flags: BTreeMap<String, bool>,
    /// The language of texts that name none. The default is `en`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub language: Option<String>,
    /// Files of script functions, from the folder of this one.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub scripts: Vec<String>,
    /// Findings of `check` that are no mistake anywhere in this scene: by code, why not.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub allow: BTreeMap<String, String>,
}

/// A scene: entities, kinds, reactions and texts.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub(crate) struct SceneKeys {
    /// What holds for the whole scene.
    pub scene: HeadKeys,
    /// What entities of one sort share, by name.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub kind: BTreeMap<String, KindKeys>,
    /// The entities; events of one instant are in this order.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub entity: Vec<EntityKeys>,
    /// The reactions; those to one event happen in this order.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub reaction: Vec<ReactionKeys>,
    /// Changes to stats that end by themselves, by name.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub effect: BTreeMap<String, EffectKeys>,
    /// Texts by key, each a text or a table of texts by language. `{who}` and `{on}` stand for
    /// the names of subject and detector.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub texts: BTreeMap<String, TextKeys>,
}

/// The JSON Schema of scene files.
pub fn scene_schema() -> serde_json::Value {
    schemars::schema_for!(SceneKeys).to_value()
}
