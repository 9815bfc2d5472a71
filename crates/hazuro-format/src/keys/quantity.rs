//! Numbers that may be given as formulas, and slots, as they stand in a file.

use hazuro::scene::SlotSort;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A number, or a formula that gives one.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize, JsonSchema)]
#[serde(untagged, expecting = "a number or a formula")]
pub(crate) enum QuantityKeys {
    /// A number.
    Number(f64),
    /// An expression over `who`, `on`, `count`, `flag` and `time`.
    Formula(String),
}

/// What is in a slot.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize, JsonSchema)]
#[serde(
    untagged,
    expecting = "a number, a text, true or false, { entity = \"...\" } or { needs = \"...\" }"
)]
pub(crate) enum SlotKeys {
    /// True or false.
    Flag(bool),
    /// A number.
    Number(f64),
    /// A text; in a slot for an entity its name.
    Text(String),
    /// An entity, or nothing yet.
    Table(SlotTable),
}

impl SlotKeys {
    /// What the slot is for, as far as that stands there.
    pub fn sort(&self) -> Option<SlotSort> {
        match self {
            Self::Flag(_) => Some(SlotSort::Flag),
            Self::Number(_) => Some(SlotSort::Number),
            Self::Text(_) => Some(SlotSort::Text),
            Self::Table(SlotTable { entity: Some(_), .. }) => Some(SlotSort::Entity),
            Self::Table(SlotTable { needs, .. }) => {
                SlotSort::ALL.into_iter().find(|sort| Some(sort.word()) == needs.as_deref())
            }
        }
    }
}

/// An entity in a slot, or what an empty slot is for.
#[derive(Clone, Debug, Default, PartialEq, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct SlotTable {
    /// The name of the entity in it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub entity: Option<String>,
    /// Of a kind: each entity fills it with an `entity`, a `number`, a `text` or a `flag`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub needs: Option<String>,
}
