//! What a condition asks of the moment, written down with the answers.

use std::cell::RefCell;
use std::collections::BTreeMap;

use glam::{DQuat, DVec3};

use crate::Time;
use crate::describe::{
    Condition, Detector, EntityId, Facts, Ground, Particulars, SlotSort, SlotValue, Struck, Switch,
    angles,
};

use super::Evidence;

/// Facts that remember what was asked of them.
struct Asked<'a> {
    facts: &'a dyn Facts,
    /// By name: the answer.
    answers: RefCell<BTreeMap<String, String>>,
}

/// What a condition asked, with the answers. Of a condition that names what it asks, only that; of
/// one that is made of parts, only of those that do not hold.
pub(crate) fn condition(condition: &Condition, facts: &dyn Facts) -> Evidence {
    let text = condition.text().to_owned();
    let parts = condition.parts().iter();
    let fails = |part: &&Condition| part.holds(facts) != Ok(true);
    let failing: Vec<&Condition> = parts.filter(fails).collect();
    let failed = failing.iter().map(|part| part.text().to_owned()).collect();
    let mut saw = Vec::new();
    for part in if failing.is_empty() { vec![condition] } else { failing } {
        for answer in answers(part, facts) {
            if !saw.contains(&answer) {
                saw.push(answer);
            }
        }
    }
    Evidence::Condition { text, saw, failed }
}

fn answers(condition: &Condition, facts: &dyn Facts) -> Vec<(String, String)> {
    let asked = Asked { facts, answers: RefCell::default() };
    let failure = condition.holds(&asked).err();
    let text = condition.text();
    let is_part = |c: char| c.is_alphanumeric() || c == '_' || c == '.';
    let paths = text.split(|c| !is_part(c)).filter(|path| !path.is_empty());
    let words: Vec<&str> = paths.clone().flat_map(|path| path.split('.')).collect();
    let mut answers = asked.answers.into_inner();
    // What nobody has changed yet is not among what there is.
    for path in paths {
        let mut ends = path.rsplit('.');
        let (Some(name), Some(sort)) = (ends.next(), ends.next()) else { continue };
        let untouched = match sort {
            "flag" => "false, as nobody has set it",
            "count" => "0, as nobody has changed it",
            _ => continue,
        };
        if !name.is_empty() && !answers.contains_key(path) {
            answers.insert(path.to_owned(), untouched.to_owned());
        }
    }
    let is_named = |name: &str| {
        // `who.stat.health` is named where `health` is.
        name.rsplit('.').next().is_some_and(|last| words.contains(&last))
    };
    let some_named = answers.keys().any(|name| is_named(name));
    let kept = answers.into_iter().filter(|(name, _)| !some_named || is_named(name));
    let mut saw: Vec<(String, String)> = kept.collect();
    saw.extend(failure.map(|why| ("the test".into(), why)));
    saw
}

impl Asked<'_> {
    #[expect(clippy::needless_pass_by_value, reason = "answers are written where they are asked")]
    fn note(&self, of: Option<EntityId>, what: &str, answer: impl ToString) {
        let name = match of {
            None => what.to_owned(),
            Some(of) if self.facts.who() == Some(of) => format!("who.{what}"),
            Some(of) if self.facts.on() == Some(of) => format!("on.{what}"),
            Some(of) => format!("{}.{what}", self.facts.name(of)),
        };
        self.answers.borrow_mut().insert(name, answer.to_string());
    }

    fn names(&self, ids: &[EntityId]) -> String {
        let names: Vec<&str> = ids.iter().map(|id| self.facts.name(*id)).collect();
        if names.is_empty() { "nobody".into() } else { names.join(", ") }
    }
}

/// A number to six places.
fn number(value: f64) -> f64 {
    (value * 1e6).round() / 1e6 + 0.0
}

impl Facts for Asked<'_> {
    fn name(&self, entity: EntityId) -> &str {
        self.facts.name(entity)
    }
    fn kinds(&self, entity: EntityId) -> Vec<&str> {
        let kinds = self.facts.kinds(entity);
        self.note(Some(entity), "kind", kinds.first().unwrap_or(&"none"));
        kinds
    }
    fn converted_to(&self, entity: EntityId) -> Option<&str> {
        let to = self.facts.converted_to(entity);
        self.note(Some(entity), "converted_to", to.unwrap_or("none"));
        to
    }
    fn find(&self, name: &str) -> Option<EntityId> {
        self.facts.find(name)
    }
    fn time(&self) -> Time {
        let time = self.facts.time();
        self.note(None, "time", time);
        time
    }
    fn who(&self) -> Option<EntityId> {
        self.facts.who()
    }
    fn on(&self) -> Option<EntityId> {
        self.facts.on()
    }
    fn count(&self, name: &str) -> i64 {
        let count = self.facts.count(name);
        self.note(None, &format!("count.{name}"), count);
        count
    }
    fn flag(&self, name: &str) -> bool {
        let flag = self.facts.flag(name);
        self.note(None, &format!("flag.{name}"), flag);
        flag
    }
    fn count_of(&self, entity: EntityId, name: &str) -> i64 {
        let count = self.facts.count_of(entity, name);
        self.note(Some(entity), &format!("count.{name}"), count);
        count
    }
    fn flag_of(&self, entity: EntityId, name: &str) -> bool {
        let flag = self.facts.flag_of(entity, name);
        self.note(Some(entity), &format!("flag.{name}"), flag);
        flag
    }
    fn counts(&self, of: Option<EntityId>) -> Vec<(&str, i64)> {
        let counts = self.facts.counts(of);
        for (name, value) in &counts {
            self.note(of, &format!("count.{name}"), value);
        }
        counts
    }
    fn flags(&self, of: Option<EntityId>) -> Vec<(&str, bool)> {
        let flags = self.facts.flags(of);
        for (name, value) in &flags {
            self.note(of, &format!("flag.{name}"), value);
        }
        flags
    }
    fn stat(&self, entity: EntityId, name: &str) -> Option<f64> {
        let stat = self.facts.stat(entity, name);
        let answer = stat.map_or("not there".into(), |stat| number(stat).to_string());
        self.note(Some(entity), &format!("stat.{name}"), answer);
        stat
    }
    fn stats(&self, entity: EntityId) -> Vec<(&str, f64)> {
        let stats = self.facts.stats(entity);
        for (name, value) in &stats {
            self.note(Some(entity), &format!("stat.{name}"), number(*value));
        }
        stats
    }
    fn effects(&self, entity: EntityId) -> Vec<&str> {
        let effects = self.facts.effects(entity);
        self.note(Some(entity), "effects", effects.join(", "));
        effects
    }
    fn slot(&self, entity: EntityId, name: &str) -> Option<SlotValue<EntityId>> {
        let value = self.facts.slot(entity, name);
        let answer = match &value {
            None => "empty".into(),
            Some(SlotValue::Entity(entity)) => self.facts.name(*entity).into(),
            Some(SlotValue::Number(value)) => number(*value).to_string(),
            Some(SlotValue::Text(text)) => text.clone(),
            Some(SlotValue::Flag(up)) => up.to_string(),
        };
        self.note(Some(entity), &format!("slot.{name}"), answer);
        value
    }
    fn slot_sort(&self, entity: EntityId, name: &str) -> Option<SlotSort> {
        self.facts.slot_sort(entity, name)
    }
    fn tags(&self, entity: EntityId) -> Vec<&str> {
        let tags = self.facts.tags(entity);
        self.note(Some(entity), "tags", tags.join(", "));
        tags
    }
    fn parent(&self, entity: EntityId) -> Option<EntityId> {
        let parent = self.facts.parent(entity);
        self.note(Some(entity), "parent", self.names(parent.as_slice()));
        parent
    }
    fn is_enabled(&self, entity: EntityId) -> bool {
        let is = self.facts.is_enabled(entity);
        self.note(Some(entity), "enabled", is);
        is
    }
    fn is_visible(&self, entity: EntityId) -> bool {
        let is = self.facts.is_visible(entity);
        self.note(Some(entity), "visible", is);
        is
    }
    fn is_on(&self, entity: EntityId, switch: Switch) -> bool {
        let is = self.facts.is_on(entity, switch);
        self.note(Some(entity), switch.word(), is);
        is
    }
    fn own_switch(&self, entity: EntityId, switch: Switch) -> bool {
        let is = self.facts.own_switch(entity, switch);
        self.note(Some(entity), &format!("own.{}", switch.word()), is);
        is
    }
    fn holder(&self, thing: EntityId) -> Option<EntityId> {
        let holder = self.facts.holder(thing);
        self.note(Some(thing), "holder", self.names(holder.as_slice()));
        holder
    }
    fn owner(&self, thing: EntityId) -> Option<EntityId> {
        let owner = self.facts.owner(thing);
        self.note(Some(thing), "owner", self.names(owner.as_slice()));
        owner
    }
    fn held_by(&self, holder: EntityId) -> Vec<EntityId> {
        let held = self.facts.held_by(holder);
        self.note(Some(holder), "holds", self.names(&held));
        held
    }
    fn mass(&self, entity: EntityId) -> Option<f64> {
        let mass = self.facts.mass(entity);
        let answer = mass.map_or("not there".into(), |mass| number(mass).to_string());
        self.note(Some(entity), "mass", answer);
        mass
    }
    fn is_there(&self, entity: EntityId) -> bool {
        let is = self.facts.is_there(entity);
        self.note(Some(entity), "there", is);
        is
    }
    fn position(&self, entity: EntityId) -> DVec3 {
        let place = self.facts.position(entity);
        for (axis, along) in ["x", "y", "z"].into_iter().zip(place.to_array()) {
            self.note(Some(entity), axis, number(along));
        }
        place
    }
    fn rotation(&self, entity: EntityId) -> DQuat {
        let rotation = self.facts.rotation(entity);
        let [facing, pitch] = angles(rotation);
        self.note(Some(entity), "facing", number(facing));
        self.note(Some(entity), "pitch", number(pitch));
        rotation
    }
    fn velocity(&self, entity: EntityId) -> DVec3 {
        let velocity = self.facts.velocity(entity);
        self.note(Some(entity), "speed", number(velocity.length()));
        velocity
    }
    fn detected_by(&self, who: EntityId, detector: Detector) -> Vec<EntityId> {
        let found = self.facts.detected_by(who, detector);
        let what = match detector {
            Detector::Zone => "inside",
            Detector::Prompt => "offered",
            other => other.word(),
        };
        self.note(Some(who), what, self.names(&found));
        found
    }
    fn highlighted(&self, who: EntityId) -> Vec<EntityId> {
        let all = self.facts.highlighted(who);
        let names: Vec<&str> = all.iter().map(|it| self.facts.name(*it)).collect();
        self.note(Some(who), "highlighted", names.join(", "));
        all
    }
    fn particulars(&self) -> Particulars<'_> {
        let of = self.facts.particulars();
        self.note(None, "event.part", of.part.unwrap_or("nothing"));
        if let Some(speed) = of.speed {
            self.note(None, "event.speed", number(speed));
        }
        of
    }
    fn occupants(&self, zone: EntityId) -> Vec<EntityId> {
        let inside = self.facts.occupants(zone);
        self.note(Some(zone), "occupants", self.names(&inside));
        self.note(Some(zone), "occupied", !inside.is_empty());
        inside
    }
    fn detected(&self, on: EntityId, detector: Detector) -> Vec<EntityId> {
        let detected = self.facts.detected(on, detector);
        let what = match detector {
            Detector::Zone => "occupants",
            Detector::Touch => "touched_by",
            Detector::Sight => "sees",
            Detector::Seeker => "target",
            other => other.word(),
        };
        self.note(Some(on), what, self.names(&detected));
        detected
    }
    fn parts_detected(&self, on: EntityId, detector: Detector, who: EntityId) -> Vec<&str> {
        let parts = self.facts.parts_detected(on, detector, who);
        self.note(Some(on), &format!("parts of {}", self.facts.name(who)), parts.join(", "));
        parts
    }
    fn struck(&self, probe: EntityId) -> Option<Struck<'_>> {
        let struck = self.facts.struck(probe);
        let distance = struck.map_or("nothing".into(), |it| number(it.distance).to_string());
        self.note(Some(probe), "hit_distance", distance);
        struck
    }
    fn zones_at(&self, place: DVec3) -> Vec<EntityId> {
        let zones = self.facts.zones_at(place);
        let place = place.to_array().map(number);
        self.note(None, &format!("zones at {place:?}"), self.names(&zones));
        zones
    }
    fn ground(&self, body: EntityId) -> Option<Ground> {
        let ground = self.facts.ground(body);
        let height = ground.map_or(f64::INFINITY, |ground| ground.height);
        self.note(Some(body), "height", number(height));
        self.note(Some(body), "grounded", ground.is_some_and(|ground| ground.grounded));
        let under = ground.and_then(|ground| ground.under);
        self.note(Some(body), "ground", self.names(under.as_slice()));
        ground
    }
    fn awareness(&self, watcher: EntityId, of: EntityId) -> f64 {
        let awareness = self.facts.awareness(watcher, of);
        self.note(Some(watcher), "awareness", number(awareness));
        awareness
    }
}
