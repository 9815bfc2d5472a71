//! What expressions and scripts can ask of an entity and of the scene.

use std::collections::BTreeMap;
use std::sync::Arc;

use hazuro::EntityId;
use hazuro::scene::{Detector, Facts, SlotValue};
use hazuro_format::Known;
use rhai::{Dynamic, Engine, EvalAltResult};

/// What an entity has.
pub(crate) const PROPERTIES: [&str; 22] = [
    "name",
    "kind",
    "tags",
    "x",
    "y",
    "z",
    "enabled",
    "visible",
    "parent",
    "count",
    "flag",
    "stat",
    "slot",
    "effects",
    "occupants",
    "touched_by",
    "sees",
    "target",
    "height",
    "grounded",
    "ground",
    "occupied",
];

/// The names of one sort that are known, and what one of them is called.
pub(crate) fn sort<'a>(known: &'a Known, property: &str) -> Option<(Vec<&'a str>, &'static str)> {
    let (names, what): (Vec<&String>, _) = match property {
        "count" => (known.counts.iter().collect(), "count"),
        "flag" => (known.flags.iter().collect(), "flag"),
        "stat" => (known.stats.iter().collect(), "stat"),
        "slot" => (known.slots.keys().collect(), "slot"),
        _ => return None,
    };
    Some((names.into_iter().map(String::as_str).collect(), what))
}

/// Counts, flags, stats or slots, by name.
#[derive(Clone, Debug)]
pub(crate) struct Values {
    values: Arc<BTreeMap<String, Dynamic>>,
    missing: Missing,
}

/// What stands for a value that is not there.
#[derive(Clone, Debug)]
enum Missing {
    Value(Dynamic),
    /// It is a mistake to ask, as these words say with the name of what was asked for behind them.
    Mistake(Arc<str>),
}

impl Values {
    /// The counts of the scene or of an entity.
    pub fn counts(facts: &dyn Facts, of: Option<EntityId>) -> Self {
        let values = facts.counts(of).into_iter();
        let values = values.map(|(name, value)| (name.to_owned(), Dynamic::from(value)));
        Self { values: Arc::new(values.collect()), missing: Missing::Value(0_i64.into()) }
    }

    /// The flags of the scene or of an entity.
    pub fn flags(facts: &dyn Facts, of: Option<EntityId>) -> Self {
        let values = facts.flags(of).into_iter();
        let values = values.map(|(name, value)| (name.to_owned(), Dynamic::from(value)));
        Self { values: Arc::new(values.collect()), missing: Missing::Value(false.into()) }
    }

    /// The stats of an entity.
    pub fn stats(facts: &dyn Facts, of: EntityId) -> Self {
        let values = facts.stats(of).into_iter();
        let values = values.map(|(name, value)| (name.to_owned(), Dynamic::from(value)));
        Self {
            values: Arc::new(values.collect()),
            missing: Missing::Mistake("it has no stat".into()),
        }
    }

    /// Slots of an entity.
    pub fn slots(of: &str, values: impl Iterator<Item = (String, Dynamic)>) -> Self {
        let missing = Missing::Mistake(format!("`{of}` has nothing in a slot").into());
        Self { values: Arc::new(values.collect()), missing }
    }

    fn get(&self, name: &str) -> Result<Dynamic, Box<EvalAltResult>> {
        match (self.values.get(name), &self.missing) {
            (Some(value), _) | (None, Missing::Value(value)) => Ok(value.clone()),
            (None, Missing::Mistake(why)) => Err(format!("{why} `{name}`").into()),
        }
    }

    /// Lets an engine ask for them.
    pub fn register(engine: &mut Engine) {
        engine
            .register_type_with_name::<Self>("values")
            .register_indexer_get(|values: &mut Self, name: &str| values.get(name));
    }
}

/// What is in a slot; `entity` says what stands for an entity.
pub(crate) fn in_slot(
    value: SlotValue<EntityId>,
    entity: impl FnOnce(EntityId) -> Dynamic,
) -> Dynamic {
    match value {
        SlotValue::Entity(id) => entity(id),
        SlotValue::Number(number) => number.into(),
        SlotValue::Text(text) => text.into(),
        SlotValue::Flag(up) => up.into(),
    }
}

/// What an entity's property of this name is; its slots are asked for one by one.
pub(crate) fn property(facts: &dyn Facts, entity: EntityId, name: &str) -> Dynamic {
    let named = |id: Option<EntityId>| id.map_or("", |id| facts.name(id)).to_owned().into();
    let names = |ids: Vec<EntityId>| -> Dynamic {
        let names = ids.into_iter().map(|id| Dynamic::from(facts.name(id).to_owned()));
        names.collect::<Vec<Dynamic>>().into()
    };
    let words = |words: Vec<&str>| -> Dynamic {
        words.into_iter().map(|word| word.to_owned().into()).collect::<Vec<Dynamic>>().into()
    };
    match name {
        "name" => facts.name(entity).to_owned().into(),
        "kind" => facts.kind(entity).unwrap_or_default().to_owned().into(),
        "tags" => words(facts.tags(entity)),
        "x" => facts.position(entity).x.into(),
        "y" => facts.position(entity).y.into(),
        "z" => facts.position(entity).z.into(),
        "enabled" => facts.is_enabled(entity).into(),
        "visible" => facts.is_visible(entity).into(),
        "parent" => named(facts.parent(entity)),
        "count" => Dynamic::from(Values::counts(facts, Some(entity))),
        "flag" => Dynamic::from(Values::flags(facts, Some(entity))),
        "stat" => Dynamic::from(Values::stats(facts, entity)),
        "effects" => words(facts.effects(entity)),
        "occupants" => names(facts.occupants(entity)),
        "occupied" => (!facts.occupants(entity).is_empty()).into(),
        "touched_by" => names(facts.detected(entity, Detector::Touch)),
        "sees" => names(facts.detected(entity, Detector::Sight)),
        "target" => named(facts.detected(entity, Detector::Seeker).first().copied()),
        "height" => facts.ground(entity).map_or(f64::INFINITY, |ground| ground.height).into(),
        "grounded" => facts.ground(entity).is_some_and(|ground| ground.grounded).into(),
        "ground" => named(facts.ground(entity).and_then(|ground| ground.under)),
        _ => Dynamic::UNIT,
    }
}
