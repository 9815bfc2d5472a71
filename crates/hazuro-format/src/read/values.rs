//! Parts of a scene that come as values, as scripts give them, and not in a file.

use hazuro::geometry::Shape;
use hazuro::scene::{Action, Trigger};
use serde::de::DeserializeOwned;
use serde_json::Value;

use crate::action::{self, ActionKeys};
use crate::cure::Cure;
use crate::keys::reaction::TriggerKeys;
use crate::keys::shape::PosedKeys;
use crate::language::{Known, NoLanguage};
use crate::read::reaction;
use crate::read::reader::Formulas;
use crate::value;

/// An action with the keys it has in a scene file.
///
/// ```
/// use hazuro::scene::Action;
/// use hazuro_format::read_action;
/// let action = read_action(serde_json::json!({ "show": "lamp" })).unwrap();
/// assert_eq!(action, Action::show("lamp"));
/// let words = read_action(serde_json::json!({ "shwo": "lamp" })).unwrap_err();
/// assert_eq!(words, "there is no key `shwo` here: did you mean `show`?");
/// ```
///
/// # Errors
/// What is wrong with it, in words.
pub fn read_action(value: Value) -> Result<Action, String> {
    let keys: ActionKeys = read(value)?;
    let words = |all: Vec<action::BadAction>| {
        all.into_iter().map(|bad| bad.message).collect::<Vec<_>>().join("; ")
    };
    // What is given as a value is worked out already.
    let formulas = Formulas { language: &NoLanguage, known: &Known::default() };
    action::read_action(&keys, formulas).map_err(words)
}

/// The triggers that the `on` of a reaction stands for.
///
/// # Errors
/// What is wrong with it, in words.
pub fn read_triggers(value: Value) -> Result<Vec<Trigger>, String> {
    let keys: TriggerKeys = read(value)?;
    reaction::read_trigger(&keys).map_err(|bad| bad.message)
}

/// A shape, if there is one among the keys. Several together are none.
///
/// # Errors
/// What is wrong with it, in words.
pub fn read_shape(value: Value) -> Result<Option<Shape>, String> {
    let keys: PosedKeys = read(value)?;
    Ok(keys.given().simple().next())
}

fn read<T: DeserializeOwned>(value: Value) -> Result<T, String> {
    let value: value::Value = serde_json::from_value(value).map_err(|error| error.to_string())?;
    T::deserialize(value).map_err(|misfit| match misfit.help.as_ref().and_then(Cure::instead) {
        Some((_, nearest)) => format!("{misfit}: did you mean `{nearest}`?"),
        None => misfit.to_string(),
    })
}
