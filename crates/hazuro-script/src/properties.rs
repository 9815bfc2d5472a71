//! What expressions and scripts can ask of an entity and of the scene.

use std::collections::BTreeMap;
use std::sync::Arc;

use hazuro::EntityId;
use hazuro::glam::DVec3;
use hazuro::scene::{Detector, Facts, SlotSort, SlotValue, Struck, Switch, angles};
use hazuro_format::{BadExpression, Cure, Known};
use rhai::{Dynamic, Engine, EvalAltResult};

/// The names of one sort that are known, and what one of them is called.
fn sort<'a>(known: &'a Known, property: &str) -> Option<(Vec<&'a str>, &'static str)> {
    let (names, what): (Vec<&String>, _) = match property {
        "count" => (known.counts.iter().collect(), "count"),
        "flag" => (known.flags.iter().collect(), "flag"),
        "stat" => (known.stats.iter().collect(), "stat"),
        "slot" => (known.slots.keys().collect(), "slot"),
        _ => return None,
    };
    Some((names.into_iter().map(String::as_str).collect(), what))
}

/// What is wrong with the name of a count, flag, stat or slot, if nothing in the scene names it.
pub(crate) fn not_named(known: &Known, sorted: &str, name: &str) -> Option<BadExpression> {
    let (names, what) = sort(known, sorted)?;
    if names.contains(&name) {
        return None;
    }
    let help = Cure::nearest(name, names, || match what {
        "count" => {
            format!("let an action count it, or give it a start: [scene] counts = {{ {name} = 0 }}")
        }
        "flag" => format!(
            "let an action raise it, or give it a start: [scene] flags = {{ {name} = false }}"
        ),
        "slot" => format!("give it to a kind or an entity: slots = {{ {name} = 1.0 }}"),
        _ => format!("give it to an entity: stats = {{ {name} = {{ start = 0 }} }}"),
    });
    let message = format!("there is no {what} named `{name}`");
    Some(BadExpression { message, column: 0, help: Some(help) })
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

    /// Values of which none is missing: else what is said of it, with its name behind.
    fn of(mistake: &str, values: impl Iterator<Item = (String, Dynamic)>) -> Self {
        Self { values: Arc::new(values.collect()), missing: Missing::Mistake(mistake.into()) }
    }

    /// Slots of an entity.
    pub fn slots(of: &str, values: impl Iterator<Item = (String, Dynamic)>) -> Self {
        Self::of(&format!("`{of}` has nothing in a slot"), values)
    }

    /// The switches of an entity itself.
    fn switches(facts: &dyn Facts, of: EntityId) -> Self {
        let own = |switch: Switch| (switch.word().into(), facts.own_switch(of, switch).into());
        Self::of("it has no switch of its own named", Switch::ALL.into_iter().map(own))
    }

    /// What else is known of the event.
    pub fn event(facts: &dyn Facts) -> Self {
        let of = facts.particulars();
        let known: [(&str, Option<Dynamic>); 4] = [
            ("part", of.part.map(|part| part.to_owned().into())),
            ("point", of.point.map(axes)),
            ("normal", of.normal.map(axes)),
            ("speed", of.speed.map(Dynamic::from)),
        ];
        let known = known.into_iter().filter_map(|(name, it)| Some((name.to_owned(), it?)));
        Self::of("this event has no", known)
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

/// What is in a slot of an entity now: an empty text in an empty slot for an entity or a text.
pub(crate) fn slot_now(facts: &dyn Facts, of: EntityId, name: &str) -> Option<SlotValue<EntityId>> {
    facts.slot(of, name).or_else(|| match facts.slot_sort(of, name)? {
        SlotSort::Entity | SlotSort::Text => Some(SlotValue::Text(String::new())),
        SlotSort::Number | SlotSort::Flag => None,
    })
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

/// Makes the list of what an entity has, and how each is answered.
macro_rules! properties {
    ($($name:literal $of:expr;)*) => {
        /// What an entity has.
        pub(crate) const PROPERTIES: &[&str] = &[$($name),*];

        /// What an entity's property of this name is; its slots are asked for one by one.
        pub(crate) fn property(facts: &dyn Facts, entity: EntityId, name: &str) -> Dynamic {
            fn answer<T: Into<Dynamic>>(
                of: impl FnOnce(&dyn Facts, EntityId) -> T,
                facts: &dyn Facts,
                entity: EntityId,
            ) -> Dynamic {
                of(facts, entity).into()
            }
            match name {
                $($name => answer($of, facts, entity),)*
                _ => Dynamic::UNIT,
            }
        }
    };
}

properties! {
    "name" |facts, it| facts.name(it).to_owned();
    "kind" |facts, it| facts.kinds(it).first().copied().unwrap_or_default().to_owned();
    "kinds" |facts, it| words(facts.kinds(it));
    "tags" |facts, it| words(facts.tags(it));
    "x" |facts, it| facts.position(it).x;
    "y" |facts, it| facts.position(it).y;
    "z" |facts, it| facts.position(it).z;
    "facing" |facts, it| angles(facts.rotation(it))[0];
    "pitch" |facts, it| angles(facts.rotation(it))[1];
    "speed" |facts, it| facts.velocity(it).length();
    "velocity" |facts, it| axes(facts.velocity(it));
    "enabled" |facts, it| facts.is_enabled(it);
    "visible" |facts, it| facts.is_visible(it);
    "solid" |facts, it| facts.is_on(it, Switch::Solid);
    "detect" |facts, it| facts.is_on(it, Switch::Detect);
    "own" |facts, it| Dynamic::from(Values::switches(facts, it));
    "converted_to" |facts, it| facts.converted_to(it).unwrap_or_default().to_owned();
    "parent" |facts, it| named(facts, facts.parent(it));
    "holder" |facts, it| named(facts, facts.holder(it));
    "owner" |facts, it| named(facts, facts.owner(it));
    "holds" |facts, it| named(facts, facts.held_by(it).first().copied());
    "mass" |facts, it| facts.mass(it).unwrap_or(0.0);
    "count" |facts, it| Dynamic::from(Values::counts(facts, Some(it)));
    "flag" |facts, it| Dynamic::from(Values::flags(facts, Some(it)));
    "stat" |facts, it| Dynamic::from(Values::stats(facts, it));
    "slot" |_, _| Dynamic::UNIT;
    "effects" |facts, it| words(facts.effects(it));
    "occupants" |facts, it| names(facts, facts.occupants(it));
    "occupied" |facts, it| !facts.occupants(it).is_empty();
    "inside" |facts, it| names(facts, facts.detected_by(it, Detector::Zone));
    "touched_by" |facts, it| names(facts, facts.detected(it, Detector::Touch));
    "sees" |facts, it| names(facts, facts.detected(it, Detector::Sight));
    "target" |facts, it| named(facts, facts.detected(it, Detector::Seeker).first().copied());
    "hit" |facts, it| named(facts, facts.detected(it, Detector::Probe).first().copied());
    "hit_part" |facts, it| struck(facts, it, |hit| hit.part.unwrap_or("").to_owned().into());
    "hit_point" |facts, it| struck(facts, it, |hit| axes(hit.point));
    "hit_normal" |facts, it| struck(facts, it, |hit| axes(hit.normal));
    "hit_distance" |facts, it| facts.struck(it).map_or(f64::INFINITY, |hit| hit.distance);
    "parts_inside" |facts, it| parts(facts, it, Detector::Zone);
    "parts_touching" |facts, it| parts(facts, it, Detector::Touch);
    "covered_by" |facts, it| names(facts, facts.zones_at(facts.position(it)));
    "offered" |facts, it| names(facts, facts.detected_by(it, Detector::Prompt));
    "highlighted" |facts, it| names(facts, facts.highlighted(it));
    "height" |facts, it| facts.ground(it).map_or(f64::INFINITY, |ground| ground.height);
    "grounded" |facts, it| facts.ground(it).is_some_and(|ground| ground.grounded);
    "ground" |facts, it| named(facts, facts.ground(it).and_then(|ground| ground.under));
}

/// What is known of where a probe hits; an empty text if it hits nothing.
fn struck(facts: &dyn Facts, probe: EntityId, of: impl FnOnce(Struck<'_>) -> Dynamic) -> Dynamic {
    facts.struck(probe).map_or_else(|| Dynamic::from(String::new()), of)
}

/// The parts that a detector detects, each once, whosever they are.
fn parts(facts: &dyn Facts, on: EntityId, detector: Detector) -> Vec<Dynamic> {
    let mut all: Vec<&str> = Vec::new();
    for who in facts.detected(on, detector) {
        for part in facts.parts_detected(on, detector, who) {
            if !all.contains(&part) {
                all.push(part);
            }
        }
    }
    words(all)
}

/// The name of an entity; empty if there is none.
fn named(facts: &dyn Facts, id: Option<EntityId>) -> String {
    id.map_or("", |id| facts.name(id)).to_owned()
}

fn names(facts: &dyn Facts, ids: Vec<EntityId>) -> Vec<Dynamic> {
    words(ids.into_iter().map(|id| facts.name(id)).collect())
}

fn words(words: Vec<&str>) -> Vec<Dynamic> {
    words.into_iter().map(|word| word.to_owned().into()).collect()
}

/// The numbers of a vector, by axis.
fn axes(vector: DVec3) -> Dynamic {
    let axes = ["x", "y", "z"].into_iter().zip(vector.to_array());
    let axes = axes.map(|(axis, number)| (axis.to_owned(), number.into()));
    Dynamic::from(Values::of("it has no axis", axes))
}
