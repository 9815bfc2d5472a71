//! Slots: what each entity of a kind has of its own, for reactions that are the same for all of them.

use std::fmt;
use std::hash::{Hash, Hasher};

use super::{Formula, Quantity};

/// What a slot is for.
///
/// ```
/// use hazuro::scene::SlotSort;
/// assert_eq!(SlotSort::Entity.word(), "entity");
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum SlotSort {
    /// An entity.
    Entity,
    /// A number.
    Number,
    /// A text.
    Text,
    /// True or false.
    Flag,
}

impl SlotSort {
    /// All of them.
    pub const ALL: [Self; 4] = [Self::Entity, Self::Number, Self::Text, Self::Flag];

    /// The word for it in files.
    pub fn word(self) -> &'static str {
        match self {
            Self::Entity => "entity",
            Self::Number => "number",
            Self::Text => "text",
            Self::Flag => "flag",
        }
    }
}

impl fmt::Display for SlotSort {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::Entity => "an entity",
            Self::Number => "a number",
            Self::Text => "a text",
            Self::Flag => "true or false",
        })
    }
}

/// What is in a slot. `T` is how it names entities: by words in a description, by id in a scene.
///
/// ```
/// use hazuro::scene::{SlotSort, SlotValue};
/// assert_eq!(SlotValue::from(2.5), SlotValue::<String>::Number(2.5));
/// assert_eq!(SlotValue::entity("north_gate").sort(), SlotSort::Entity);
/// ```
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum SlotValue<T = String> {
    /// An entity.
    Entity(T),
    /// A number.
    Number(f64),
    /// A text. In a slot for an entity it is the name of that.
    Text(String),
    /// True or false.
    Flag(bool),
}

impl SlotValue {
    /// The entity of this name.
    pub fn entity(name: impl Into<String>) -> Self {
        Self::Entity(name.into())
    }
}

impl<T> SlotValue<T> {
    /// What it is.
    pub fn sort(&self) -> SlotSort {
        match self {
            Self::Entity(_) => SlotSort::Entity,
            Self::Number(_) => SlotSort::Number,
            Self::Text(_) => SlotSort::Text,
            Self::Flag(_) => SlotSort::Flag,
        }
    }
}

impl<T: Hash> Hash for SlotValue<T> {
    fn hash<H: Hasher>(&self, state: &mut H) {
        self.sort().hash(state);
        match self {
            Self::Entity(entity) => entity.hash(state),
            Self::Number(number) => (number + 0.0).to_bits().hash(state),
            Self::Text(text) => text.hash(state),
            Self::Flag(up) => up.hash(state),
        }
    }
}

impl From<f64> for SlotValue {
    fn from(number: f64) -> Self {
        Self::Number(number)
    }
}

impl From<bool> for SlotValue {
    fn from(flag: bool) -> Self {
        Self::Flag(flag)
    }
}

impl From<&str> for SlotValue {
    fn from(text: &str) -> Self {
        Self::Text(text.into())
    }
}

impl From<String> for SlotValue {
    fn from(text: String) -> Self {
        Self::Text(text)
    }
}

/// What an action puts into a slot. `T` is how it names entities, `N` how its number is given.
///
/// ```
/// use hazuro::scene::{Action, Filling};
/// let owner = Action::fill("on", "owner", Filling::entity("who"));
/// let slower = Action::fill("on", "delay", 2.5);
/// let nobodys = Action::unfill("on", "owner");
/// assert_eq!((owner.word(), nobodys.word()), ("fill", "unfill"));
/// ```
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Filling<T = String, N = Quantity> {
    /// An entity.
    Entity(T),
    /// A number.
    Number(N),
    /// A text. For a slot that is for an entity it is the name of that.
    Text(String),
    /// True or false.
    Flag(bool),
    /// Nothing: the slot is empty from then on.
    Nothing,
}

impl Filling {
    /// The entity of this name; `who`, `on` and `on.slot.NAME` as in any action.
    pub fn entity(name: impl Into<String>) -> Self {
        Self::Entity(name.into())
    }
}

impl<T, N> Filling<T, N> {
    /// What it is; none if it is nothing.
    pub fn sort(&self) -> Option<SlotSort> {
        match self {
            Self::Entity(_) => Some(SlotSort::Entity),
            Self::Number(_) => Some(SlotSort::Number),
            Self::Text(_) => Some(SlotSort::Text),
            Self::Flag(_) => Some(SlotSort::Flag),
            Self::Nothing => None,
        }
    }

    /// Whether it will do for a slot of a sort. A text may be the name of an entity.
    pub(crate) fn fits(&self, slot: SlotSort) -> bool {
        let is_name = slot == SlotSort::Entity && matches!(self, Self::Text(_));
        is_name || self.sort().is_none_or(|sort| sort == slot)
    }
}

impl From<f64> for Filling {
    fn from(number: f64) -> Self {
        Self::Number(number.into())
    }
}

impl From<Formula> for Filling {
    fn from(formula: Formula) -> Self {
        Self::Number(formula.into())
    }
}

impl From<bool> for Filling {
    fn from(flag: bool) -> Self {
        Self::Flag(flag)
    }
}

impl From<&str> for Filling {
    fn from(text: &str) -> Self {
        Self::Text(text.into())
    }
}

impl From<String> for Filling {
    fn from(text: String) -> Self {
        Self::Text(text)
    }
}

/// A slot as it is described.
///
/// ```
/// use hazuro::scene::{Kind, Slot, SlotSort};
/// let area = Kind::new("gate_area").slot("delay", 2.0).needs_slot("gate", SlotSort::Entity);
/// assert_eq!(area.own_slots()[1].1, Slot::Needed(SlotSort::Entity));
/// ```
#[derive(Clone, Debug, PartialEq)]
pub enum Slot {
    /// With this in it, unless an entity of the kind has something else there.
    Filled(SlotValue),
    /// Empty: each entity of the kind fills its own.
    Needed(SlotSort),
}

impl Slot {
    /// What it is for.
    pub fn sort(&self) -> SlotSort {
        match self {
            Self::Filled(value) => value.sort(),
            Self::Needed(sort) => *sort,
        }
    }

    /// The slot of an entity in place of the one of its kind.
    pub(crate) fn instead_of(self, given: &Self) -> Self {
        match (given.sort(), self) {
            (SlotSort::Entity, Self::Filled(SlotValue::Text(name))) => {
                Self::Filled(SlotValue::Entity(name))
            }
            (_, own) => own,
        }
    }
}

/// Between what has a child and what that is called, as in `gate/leaf`.
pub(crate) const CHILD_MARK: char = '/';

/// The slot in which a child that a description gives has its parent.
pub(crate) const PARENT: &str = "parent";

/// Between whose slot it is and its name, as in `on.slot.gate`.
pub(crate) const SLOT_MARK: &str = ".slot.";

/// Whose slot a name in an action means, and which.
///
/// ```
/// use hazuro::scene::slot_reference;
/// assert_eq!(slot_reference("on.slot.gate"), Some(("on", "gate")));
/// assert_eq!(slot_reference("gate"), None);
/// ```
pub fn slot_reference(name: &str) -> Option<(&str, &str)> {
    name.split_once(SLOT_MARK)
}
