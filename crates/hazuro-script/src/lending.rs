//! What a script acts with, lent for the time of a call, and values on their way in and out.

use std::cell::RefCell;

use hazuro::glam::DVec3;
use hazuro::{Act, EntityId, Lent};
use rhai::{Dynamic, EvalAltResult, Map};
use serde_json::Value;

pub(crate) type Outcome<T> = Result<T, Box<EvalAltResult>>;

thread_local! {
    /// What the script that runs now acts with.
    static LENT: RefCell<Option<Box<Lent>>> = const { RefCell::new(None) };
}

/// An entity, as a script holds it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) struct Handle(pub EntityId);

/// Runs something to which everything is lent meanwhile.
pub(crate) fn lent_to<T>(lent: Lent, run: impl FnOnce() -> T) -> (Lent, T) {
    let before = LENT.replace(Some(Box::new(lent)));
    let outcome = run();
    let lent = LENT.replace(before);
    // Only whoever put it there takes it away; `acting` always puts it back.
    (*lent.expect("what is lent is put back"), outcome)
}

/// Acts with what is lent.
pub(crate) fn acting<T>(run: impl FnOnce(&mut Act<'_>) -> Outcome<T>) -> Outcome<T> {
    // Taken out meanwhile, since an action may call another script.
    let Some(mut lent) = LENT.take() else {
        return Err("this can only be done while playing, inside a function".into());
    };
    let outcome = run(&mut lent.act());
    LENT.set(Some(lent));
    outcome
}

/// A value as it would stand in a scene file: each entity by its name.
pub(crate) fn written(value: &Dynamic, name: &dyn Fn(EntityId) -> String) -> Outcome<Value> {
    if let Some(handle) = value.clone().try_cast::<Handle>() {
        return Ok(name(handle.0).into());
    }
    if let Some(map) = value.read_lock::<Map>() {
        let entries = map.iter().map(|(key, value)| Ok((key.to_string(), written(value, name)?)));
        return Ok(Value::Object(entries.collect::<Outcome<_>>()?));
    }
    if let Some(list) = value.read_lock::<rhai::Array>() {
        let items = list.iter().map(|value| written(value, name));
        return Ok(Value::Array(items.collect::<Outcome<_>>()?));
    }
    if let Ok(whole) = value.as_int() {
        return Ok(whole.into());
    }
    if let Ok(number) = value.as_float() {
        return Ok(number.into());
    }
    if let Ok(flag) = value.as_bool() {
        return Ok(flag.into());
    }
    let text = value.clone().into_immutable_string();
    let odd = |kind| format!("`{kind}` cannot stand here: numbers, texts, lists, entities can");
    text.map(|text| text.as_str().into()).map_err(|kind| odd(kind).into())
}

/// The name of nobody, where there are no entities yet.
pub(crate) fn nobody(_: EntityId) -> String {
    String::new()
}

/// A place, as a script sees it.
pub(crate) fn place_of(place: DVec3) -> Dynamic {
    place.to_array().map(Dynamic::from).to_vec().into()
}

/// What is wrong, with its cure.
#[expect(clippy::needless_pass_by_value, reason = "for `map_err`")]
#[expect(clippy::unnecessary_box_returns, reason = "the engine's errors are boxed")]
pub(crate) fn words(fault: hazuro::scene::Fault) -> Box<EvalAltResult> {
    let cure = hazuro_format::cure_of(&fault).map_or(String::new(), |cure| format!(": {cure}"));
    format!("{fault}{cure}").into()
}
