//! Slots that nobody fills, that nothing asks for, or that are asked for where they are not.

use std::collections::{BTreeMap, BTreeSet};

use hazuro::scene::{
    Action, Again, Field, Filling, Kind, Per, Reaction, Slot, SlotSort, SlotValue, Trigger,
    slot_reference,
};
use hazuro::{EntityId, Scene};
use hazuro_format::Code;

use super::Checker;
use super::asked::asked;
use super::expressions::{conditions, formulas};
use super::reactions::actions;
use crate::meaning::fillings;

pub(super) fn check(checker: &mut Checker<'_>) {
    empty(checker);
    let scene = checker.scene;
    for (index, reaction) in scene.reactions().iter().enumerate() {
        let field = Field::ROOT.key("reaction").item(index);
        lacking(checker, reaction, &field);
        ends_others(checker, reaction, &field);
    }
    unused(checker);
}

/// An entity that leaves a slot of its kind empty.
fn empty(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    for id in scene.described() {
        for (name, sort) in left_empty(checker, id) {
            let own = scene.name(id);
            let message = format!("`{own}` leaves the slot `{name}` of its kind empty");
            let help = format!("fill it: slots = {{ {name} = {} }}", sample(sort));
            checker.warn(&scene.field(id).key("name"), Code::EmptySlot, message, help);
        }
    }
    for kind in scene.kinds().iter().filter(|kind| kind.stock_size() > 0) {
        let first = scene.ids().find(|id| {
            let its = scene.kinds_of(*id).next();
            scene.is_stock(*id) && its.is_some_and(|it| it.name() == kind.name())
        });
        for (name, sort) in first.map_or_else(BTreeMap::new, |id| left_empty(checker, id)) {
            let message = format!("what comes out of stock has nothing in its slot `{name}`");
            let help = format!("give the kind one: {name} = {}", sample(sort));
            let field = kind.field().key("slots").key(name);
            checker.warn(&field, Code::EmptySlot, message, help);
        }
    }
}

/// Whether something may be put into slots of this name while playing.
fn is_filled(checker: &Checker<'_>, slot: &str) -> bool {
    let by_reactions = fillings(checker.scene, slot).any(|with| *with != Filling::Nothing);
    let scripted = || checker.scripts.may("fill") && checker.scripts.may(slot);
    by_reactions || (scripted() && self::scripted(checker))
}

/// The slots of its kinds in which an entity has nothing, and that nobody fills.
fn left_empty<'a>(checker: &Checker<'a>, id: EntityId) -> BTreeMap<&'a str, SlotSort> {
    let mut needed = needed(checker.scene, id);
    needed.retain(|name, _| checker.scene.slot(id, name).is_none() && !is_filled(checker, name));
    needed
}

/// The slots that an entity is to fill by its kinds.
fn needed(scene: &Scene, id: EntityId) -> BTreeMap<&str, SlotSort> {
    let all = scene.kinds_of(id).flat_map(Kind::own_slots);
    let needed = all.filter_map(|(name, slot)| match slot {
        Slot::Needed(sort) => Some((name.as_str(), *sort)),
        Slot::Filled(_) => None,
    });
    needed.collect()
}

/// How something of a sort is written.
fn sample(sort: SlotSort) -> &'static str {
    match sort {
        SlotSort::Entity => "\"the name of an entity\"",
        SlotSort::Number => "1.0",
        SlotSort::Text => "\"a text\"",
        SlotSort::Flag => "true",
    }
}

/// The detectors of the events that a reaction waits for; none if some event has no detector.
fn detectors(scene: &Scene, reaction: &Reaction) -> Option<Vec<EntityId>> {
    let of = |trigger: &Trigger| match trigger {
        Trigger::Detected { event, on, .. } => {
            let detector = event.detector()?;
            let all = scene.select(on).ok()?.into_iter();
            Some(all.filter(|id| scene.has(*id, detector)).collect::<Vec<_>>())
        }
        _ => None,
    };
    let all: Option<Vec<_>> = reaction.triggers().iter().map(of).collect();
    Some(all?.concat())
}

/// A reaction that asks a detector for a slot that it has not, or for an entity where there is none.
fn lacking(checker: &mut Checker<'_>, reaction: &Reaction, field: &Field) {
    let scene = checker.scene;
    let Some(detectors) = detectors(scene, reaction) else { return };
    let mut wanted: Vec<(Field, String, bool)> = Vec::new();
    for (field, text) in formulas(reaction, field).into_iter().chain(conditions(reaction, field)) {
        let own = asked(&text, "slot").filter(|(whose, _)| *whose == "on");
        wanted.extend(own.map(|(_, name)| (field.clone(), name.to_owned(), false)));
    }
    for (action, place) in actions(reaction, field) {
        let _ = action.try_map(|name, key, _| {
            if let Some(("on", slot)) = slot_reference(name) {
                wanted.push((place.key(key), slot.to_owned(), true));
            }
            Ok::<_, ()>(())
        });
    }
    let mut told = BTreeSet::new();
    for (field, slot, is_entity) in wanted {
        let lacks = detectors.iter().find(|id| match scene.slot(**id, &slot) {
            Some(value) => is_entity && !matches!(value, SlotValue::Entity(_)),
            // What its kind needs is reported where it is not filled.
            None => !needed(scene, **id).contains_key(slot.as_str()),
        });
        let Some(id) = lacks.filter(|_| told.insert(slot.clone())) else { continue };
        let name = scene.name(*id);
        let message = match scene.slot(*id, &slot) {
            Some(value) => {
                format!(
                    "`{name}` has {} in its slot `{slot}`, and an entity is needed",
                    value.sort()
                )
            }
            None => format!("this asks for a slot `{slot}`, and `{name}` has none"),
        };
        let help = format!("give `{name}` or its kind such a slot, or wait for others");
        checker.warn(&field, Code::LacksSlot, message, help);
    }
}

/// Whether scripts may ask for slots.
fn scripted(checker: &Checker<'_>) -> bool {
    let calls = |reaction: &Reaction| {
        reaction.actions().any(|(.., action)| matches!(action, Action::Call(_)))
    };
    let has_scripts = !checker.scene.scripts().is_empty();
    (has_scripts || checker.scene.reactions().iter().any(calls)) && checker.scripts.may("slot")
}

/// A reaction of several detectors that does something with each one's own things, and when it is set off by
/// one of them ends, skips or puts off what it does for another.
fn ends_others(checker: &mut Checker<'_>, reaction: &Reaction, field: &Field) {
    let again = reaction.when_again();
    if again == Again::Beside || reaction.counts_per() != Per::All {
        return;
    }
    let Some(all) = detectors(checker.scene, reaction).filter(|all| all.len() > 1) else { return };
    let own = |name: &str| name == "on" || slot_reference(name).is_some_and(|(it, _)| it == "on");
    let mut acts_on_own = false;
    for (.., action) in reaction.actions() {
        let _ = action.try_map(|name, _, _| {
            acts_on_own |= own(name);
            Ok::<_, ()>(())
        });
    }
    if acts_on_own {
        let [one, other] = [all[0], all[1]].map(|id| checker.scene.name(id));
        let does = match again {
            Again::Restart => "ends",
            Again::Ignore => "goes unheard beside",
            Again::Queue | Again::Beside => "waits for",
        };
        let message = format!("what is begun by `{other}` {does} what is begun by `{one}`");
        let help = "if each is by itself: per = \"detector\"";
        checker.hint(&field.key("again"), Code::EndsOthers, message, help);
    }
}

/// A slot that nothing asks for.
fn unused(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    let mut used = checker.asked_for("slot");
    for (.., action) in scene.reactions().iter().flat_map(Reaction::actions) {
        let _ = action.try_map(|name, _, _| {
            used.extend(slot_reference(name).map(|(_, slot)| slot.to_owned()));
            Ok::<_, ()>(())
        });
    }
    let kinds = scene.kinds().iter().map(|kind| (kind.field(), kind.own_slots()));
    let entities = scene.described().map(|id| (scene.field(id), scene.entity(id).own_slots()));
    for (field, slots) in kinds.chain(entities).collect::<Vec<_>>() {
        for (name, _) in slots {
            // Each name is told once, where it is first.
            if !used.insert(name.clone()) {
                continue;
            }
            if scripted(checker) && checker.scripts.may(name) {
                continue;
            }
            let message = format!("nothing asks for the slot `{name}`");
            let help = "use it, as on.slot.NAME, or take it away";
            checker.hint(&field.key("slots").key(name), Code::UnusedSlot, message, help);
        }
    }
}
