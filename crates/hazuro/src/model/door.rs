//! The one door of actions. Whatever comes in as words, from a file, the builder, a script, a
//! handler, a tape or the host, has its names looked up and its numbers held against the same
//! ranges here.

use std::convert::Infallible;

use crate::describe::slot::SLOT_MARK;
use crate::describe::{
    Action, EffectId, EntityId, Fault, Field, Grant, KindId, Lead, MAX_NAME, Measure, Quantity,
    RESERVED_NAMES, ReactionId, ResolvedAction, Selector, SlotId, StatId, TagId, Translate, range,
    slot_reference,
};
use crate::shown;

use super::thing::{Role, TargetRef};

/// Where names are looked up: in a scene that is being put together, or in one that is ready.
pub(crate) trait Names {
    /// The entity of a name.
    fn entity(&self, name: &str) -> Result<EntityId, Fault>;
    /// The kind of a name.
    fn kind(&self, name: &str) -> Result<KindId, Fault>;
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
    let mut faults = incoming.faults;
    faults.extend(check_names(action, names));
    (found, faults)
}

/// An action on its way in: names become ids, and numbers are held against their ranges.
struct Incoming<'a, N, R> {
    names: &'a N,
    role: R,
    faults: Faults,
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
            self.faults.push((Field::ROOT.key(key), fault));
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
    action.translate(&mut Ranges)?;
    check_names(action, names).into_iter().next().map_or(Ok(()), |(_, fault)| Err(fault))
}

/// Holds the numbers of an action against their ranges.
struct Ranges;

impl<T: Clone> Translate<T, f64, i64> for Ranges {
    type Entity = T;
    type Number = f64;
    type Count = i64;
    type Error = Fault;

    fn entity(&mut self, entity: &T, _: &'static str, _: bool) -> Result<T, Fault> {
        Ok(entity.clone())
    }

    fn number(&mut self, number: &f64, measure: Measure) -> Result<f64, Fault> {
        measure.check(*number).map(|()| *number)
    }

    fn count(&mut self, count: &i64, _: &'static str) -> Result<i64, Fault> {
        Ok(*count)
    }
}

/// Checks the names in an action other than those of entities.
fn check_names<T, N, C>(action: &Action<T, N, C>, names: &impl Names) -> Faults {
    let mut door = Door { names, faults: Vec::new(), at: Field::ROOT };
    door.action(action);
    door.faults
}

/// Checks what is granted.
pub(crate) fn check_grant(grant: &Grant, names: &impl Names) -> Faults {
    let mut door = Door { names, faults: Vec::new(), at: Field::ROOT };
    door.grant(grant);
    door.faults
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

struct Door<'a, N> {
    names: &'a N,
    faults: Faults,
    at: Field,
}

impl<N: Names> Door<'_, N> {
    fn keep<V>(&mut self, key: &str, result: Result<V, Fault>) {
        if let Err(fault) = result {
            self.faults.push((self.at.key(key), fault));
        }
    }

    fn keep_in<V>(&mut self, key: &str, item: usize, result: Result<V, Fault>) {
        if let Err(fault) = result {
            self.faults.push((self.at.key(key).item(item), fault));
        }
    }

    fn action<T, N2, C>(&mut self, action: &Action<T, N2, C>) {
        match action {
            Action::Lead(Lead { through, .. }) if through.is_empty() => {
                self.keep("through", Err::<(), _>(Fault::Nowhere));
            }
            Action::Teleport(teleport) if teleport.to.is_empty() => {
                self.keep("to", Err::<(), _>(Fault::Nowhere));
            }
            Action::Cue { name: cue, .. } => self.keep("cue", name(cue)),
            Action::Count { name: count, .. } => self.keep("count", name(count)),
            Action::Flag { name: flag, .. } => self.keep("flag", name(flag)),
            Action::Tag { tag, .. } | Action::Untag { tag, .. } => {
                self.keep("with", name(tag).and_then(|()| self.names.tag(tag)));
            }
            Action::Fill { slot, .. } => self.keep(action.word(), self.names.slot(slot)),
            Action::Stat { name, .. } => self.keep("stat", self.names.stat(name)),
            Action::Effect { name, .. } | Action::EndEffect { name, .. } => {
                self.keep(action.word(), self.names.effect(name));
            }
            Action::Grant { grant, .. } => {
                self.at = Field::ROOT.key("grant");
                self.grant(grant);
                self.at = Field::ROOT;
            }
            Action::Spawn { kind, .. } => self.keep("spawn", self.names.kind(kind)),
            Action::Stop { name, .. } => self.keep("stop", self.names.reaction(name)),
            Action::Send { event, .. } if event.detector().is_none() => {
                self.keep("send", Err::<(), _>(Fault::NeverDetected { event: *event }));
            }
            Action::Teleport(_)
            | Action::Lead(_)
            | Action::Aim(_)
            | Action::Move(_)
            | Action::Turn(_)
            | Action::Throw(_)
            | Action::Send { .. }
            | Action::Wait(_)
            | Action::Route { .. }
            | Action::Grab { .. }
            | Action::Own { .. }
            | Action::Disown(_)
            | Action::Drop(_)
            | Action::Walk { .. }
            | Action::Halt(_)
            | Action::Jump(_)
            | Action::Switch { .. }
            | Action::Collect { .. }
            | Action::Say { .. }
            | Action::Remove(_)
            | Action::Reset(_)
            | Action::Attach { .. }
            | Action::Detach(_)
            | Action::Call(_) => {}
        }
    }

    fn grant(&mut self, grant: &Grant) {
        if grant.is_empty() {
            self.faults.push((self.at.clone(), Fault::GivesNothing));
        }
        for (key, counts) in [("counts", &grant.counts), ("own_counts", &grant.own_counts)] {
            for count in counts.keys() {
                if let Err(fault) = name(count) {
                    self.faults.push((self.at.key(key).key(count), fault));
                }
            }
        }
        for (name, amount) in &grant.stats {
            let known = self.names.stat(name).map(drop);
            for fault in [range::AMOUNT.check(*amount), known].into_iter().filter_map(Result::err) {
                self.faults.push((self.at.key("stats").key(name), fault));
            }
        }
        for (index, name) in grant.effects.iter().enumerate() {
            self.keep_in("effects", index, self.names.effect(name));
        }
        if let Some(thing) = &grant.hands {
            self.keep("hands", self.names.entity(thing));
        }
        for (index, tag) in grant.tags.iter().enumerate() {
            self.keep_in("tags", index, name(tag).and_then(|()| self.names.tag(tag)));
        }
        for (index, flag) in grant.flags.iter().enumerate() {
            self.keep_in("flags", index, name(flag));
        }
    }
}
