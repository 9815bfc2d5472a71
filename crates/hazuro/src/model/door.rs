//! The one door of actions. Whatever comes in as words, from a file, the builder, a script, a
//! handler, a tape or the host, has its names looked up and its numbers held against the same
//! ranges here.

use std::convert::Infallible;

use crate::describe::slot::SLOT_MARK;
use crate::describe::{
    Action, EffectId, EntityId, Fault, Features, Field, Grant, KindId, MAX_NAME, Measure, Noun,
    Quantity, RESERVED_NAMES, ReactionId, ResolvedAction, Selector, SlotId, StatId, TagId,
    Translate, range, slot_reference,
};
use crate::shown;

use super::thing::{Role, TargetRef};

/// Where names are looked up: in a scene that is being put together, or in one that is ready.
pub(crate) trait Names {
    /// The entity of a name.
    fn entity(&self, name: &str) -> Result<EntityId, Fault>;
    /// The kind of a name.
    fn kind(&self, name: &str) -> Result<KindId, Fault>;
    /// What a kind gives, with all that it builds on.
    fn given(&self, kind: KindId) -> &Features;
    /// The tag of a name.
    fn tag(&self, name: &str) -> Result<TagId, Fault>;
    /// The stat of a name.
    fn stat(&self, name: &str) -> Result<StatId, Fault>;
    /// The effect of a name.
    fn effect(&self, name: &str) -> Result<EffectId, Fault>;
    /// The slot of a name.
    fn slot(&self, name: &str) -> Result<SlotId, Fault>;
    /// The reaction of a name.
    fn reaction(&self, name: &str) -> Result<ReactionId, Fault>;
}

/// What is wrong, and under which keys it stands.
pub(crate) type Faults = Vec<(Field, Fault)>;

/// Looks up the entities of an action, and checks all else in it. `role` says who `who` and `on`
/// are. What is not found is `who` in what comes back.
pub(crate) fn enter(
    action: &Action,
    names: &impl Names,
    role: impl Fn(&'static str) -> Result<TargetRef, Fault>,
) -> (Action<TargetRef>, Faults) {
    let mut incoming = Incoming { names, role, faults: Faults::new() };
    let Ok(found) = action.translate(&mut incoming);
    (found, incoming.faults)
}

/// An action on its way in: names become ids, and numbers are held against their ranges.
struct Incoming<'a, N, R> {
    names: &'a N,
    role: R,
    faults: Faults,
}

impl<N, R> Incoming<'_, N, R> {
    fn keep(&mut self, key: &'static str, result: Result<(), Fault>) {
        self.faults.extend(result.err().map(|fault| (Field::ROOT.key(key), fault)));
    }
}

impl<N: Names, R> Translate<String, Quantity, Quantity<i64>> for Incoming<'_, N, R>
where
    R: Fn(&'static str) -> Result<TargetRef, Fault>,
{
    type Entity = TargetRef;
    type Number = Quantity;
    type Count = Quantity<i64>;
    type Error = Infallible;

    fn entity(
        &mut self,
        name: &String,
        key: &'static str,
        acted_on: bool,
    ) -> Result<TargetRef, Infallible> {
        Ok(meant(name, acted_on, self.names, &self.role).unwrap_or_else(|fault| {
            self.keep(key, Err(fault));
            TargetRef::Who
        }))
    }

    fn number(&mut self, number: &Quantity, measure: Measure) -> Result<Quantity, Infallible> {
        if let Some(Err(fault)) = number.fixed().map(|number| measure.check(number)) {
            self.faults.push((measure.field(), fault));
        }
        Ok(number.clone())
    }

    fn count(&mut self, count: &Quantity<i64>, _: &str) -> Result<Quantity<i64>, Infallible> {
        Ok(count.clone())
    }

    fn name(&mut self, what: Noun, name: &str, key: &'static str) -> Result<(), Infallible> {
        self.keep(key, known(what, name, self.names));
        Ok(())
    }

    fn grant(&mut self, grant: &Grant) -> Result<(), Infallible> {
        self.faults.extend(check_grant(grant, &Field::ROOT.key("grant"), self.names));
        Ok(())
    }

    fn wrong(&mut self, fault: Fault, key: &'static str) -> Result<(), Infallible> {
        self.keep(key, Err(fault));
        Ok(())
    }
}

/// Whom or what a name in an action means.
fn meant(
    name: &str,
    acted_on: bool,
    names: &impl Names,
    role: impl Fn(&'static str) -> Result<TargetRef, Fault>,
) -> Result<TargetRef, Fault> {
    if let Some((whose, slot)) = slot_reference(name) {
        return in_slot(whose, slot, names, role);
    }
    match (name, Selector::from(name)) {
        ("who", _) => role("who"),
        ("on", _) => role("on"),
        (_, Selector::Entity(name)) => names.entity(&name).map(TargetRef::Entity),
        (_, Selector::Kind(kind)) if acted_on => names.kind(&kind).map(TargetRef::Kind),
        (_, Selector::Tag(tag)) if acted_on => names.tag(&tag).map(TargetRef::Tag),
        _ => Err(Fault::OnlyOne { name: name.into() }),
    }
}

/// What is in a slot.
fn in_slot(
    whose: &str,
    slot: &str,
    names: &impl Names,
    role: impl Fn(&'static str) -> Result<TargetRef, Fault>,
) -> Result<TargetRef, Fault> {
    let of = match whose {
        "who" => role("who")?,
        "on" => role("on")?,
        name => match Selector::from(name) {
            Selector::Entity(name) => TargetRef::Entity(names.entity(&name)?),
            _ => return Err(Fault::OnlyOne { name: name.into() }),
        },
    };
    let of = match of {
        TargetRef::Who => Role::Who,
        TargetRef::On => Role::On,
        TargetRef::Entity(entity) => Role::Entity(entity),
        TargetRef::Kind(_) | TargetRef::Tag(_) | TargetRef::Slot(..) => {
            return Err(Fault::OnlyOne { name: whose.into() });
        }
    };
    Ok(TargetRef::Slot(of, names.slot(slot)?))
}

/// Checks an action whose entities and numbers are known already.
///
/// # Errors
/// The first thing that is wrong.
pub(crate) fn check(action: &ResolvedAction, names: &impl Names) -> Result<(), Fault> {
    action.translate(&mut Checked(names)).map(drop)
}

/// Holds the numbers of an action against their ranges, and looks its names up.
struct Checked<'a, N>(&'a N);

impl<N: Names> Translate<EntityId, f64, i64> for Checked<'_, N> {
    type Entity = EntityId;
    type Number = f64;
    type Count = i64;
    type Error = Fault;

    fn entity(&mut self, entity: &EntityId, _: &'static str, _: bool) -> Result<EntityId, Fault> {
        Ok(*entity)
    }

    fn number(&mut self, number: &f64, measure: Measure) -> Result<f64, Fault> {
        measure.check(*number).map(|()| *number)
    }

    fn count(&mut self, count: &i64, _: &'static str) -> Result<i64, Fault> {
        Ok(*count)
    }

    fn name(&mut self, what: Noun, name: &str, _: &'static str) -> Result<(), Fault> {
        known(what, name, self.0)
    }

    fn grant(&mut self, grant: &Grant) -> Result<(), Fault> {
        check_grant(grant, &Field::ROOT, self.0)
            .into_iter()
            .next()
            .map_or(Ok(()), |(_, fault)| Err(fault))
    }

    fn wrong(&mut self, fault: Fault, _: &'static str) -> Result<(), Fault> {
        Err(fault)
    }
}

/// Whether there is what a name of an action stands for, or whether it can be a name at all.
fn known(what: Noun, word: &str, names: &impl Names) -> Result<(), Fault> {
    match what {
        Noun::New => name(word),
        Noun::Tag => name(word).and_then(|()| names.tag(word)).map(drop),
        Noun::Slot => names.slot(word).map(drop),
        Noun::Stat => names.stat(word).map(drop),
        Noun::Effect => names.effect(word).map(drop),
        Noun::Kind => names.kind(word).map(drop),
        Noun::Conversion => conversion(word, names).map(drop),
        Noun::Reaction => names.reaction(word).map(drop),
    }
}

/// The kind of this name, if something can be converted to it.
pub(crate) fn conversion(word: &str, names: &impl Names) -> Result<KindId, Fault> {
    let kind = names.kind(word)?;
    match names.given(kind).unconvertible() {
        Some(feature) => Err(Fault::Unconvertible { kind: word.into(), feature }),
        None => Ok(kind),
    }
}

/// Checks what is granted `at` a place.
pub(crate) fn check_grant(grant: &Grant, at: &Field, names: &impl Names) -> Faults {
    let mut faults = Faults::new();
    let mut keep = |field: Field, result: Result<(), Fault>| {
        faults.extend(result.err().map(|fault| (field, fault)));
    };
    if grant.is_empty() {
        keep(at.clone(), Err(Fault::GivesNothing));
    }
    for (key, counts) in [("counts", &grant.counts), ("own_counts", &grant.own_counts)] {
        for count in counts.keys() {
            keep(at.key(key).key(count), name(count));
        }
    }
    for (name, amount) in &grant.stats {
        keep(at.key("stats").key(name), range::AMOUNT.check(*amount));
        keep(at.key("stats").key(name), known(Noun::Stat, name, names));
    }
    if let Some(thing) = &grant.hands {
        keep(at.key("hands"), names.entity(thing).map(drop));
    }
    let words = [
        ("effects", &grant.effects, Noun::Effect),
        ("tags", &grant.tags, Noun::Tag),
        ("flags", &grant.flags, Noun::New),
    ];
    for (key, all, noun) in words {
        for (index, word) in all.iter().enumerate() {
            keep(at.key(key).item(index), known(noun, word, names));
        }
    }
    faults
}

/// Whether a word can be a name; else why not.
pub(crate) fn name(name: &str) -> Result<(), Fault> {
    let why = if name.is_empty() {
        "it is empty"
    } else if name.chars().nth(MAX_NAME).is_some() {
        "it has more than 200 characters"
    } else if name.trim() != name || shown(name) != name {
        "it has space at an end or an unprintable character"
    } else if name.contains(':') {
        "a colon marks `kind:` and `tag:`"
    } else if name.contains(SLOT_MARK) {
        "`.slot.` marks a slot"
    } else if RESERVED_NAMES.contains(&name) {
        "the word has a meaning in actions"
    } else {
        return Ok(());
    };
    Err(Fault::BadName { name: name.into(), why })
}
