//! Numbers that may be given as formulas, and slots, as they stand in a file.

use hazuro::scene::{Quantity, SlotSort};
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

impl QuantityKeys {
    /// A number in the unit of the file, or the formula for it.
    pub fn of(quantity: &Quantity, unit: impl Fn(f64) -> f64) -> Self {
        match quantity {
            Quantity::Fixed(number) => Self::Number(unit(*number)),
            Quantity::Formula(formula) => Self::Formula(formula.text().into()),
        }
    }

    /// The same where 0 need not be given.
    pub fn given(number: &Quantity, unit: impl Fn(f64) -> f64) -> Option<Self> {
        (number.fixed() != Some(0.0)).then(|| Self::of(number, unit))
    }
}

/// A way along three axes.
pub(crate) fn axes(way: &[Quantity; 3]) -> [QuantityKeys; 3] {
    way.each_ref().map(|along| QuantityKeys::of(along, |it| it))
}

/// Degrees that give back the same radians, as far as there are such.
pub(crate) fn degrees(radians: f64) -> f64 {
    let degrees = radians.to_degrees();
    let round = (degrees * 1e9).round() / 1e9;
    if round.to_radians().to_bits() == radians.to_bits() { round } else { degrees }
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
