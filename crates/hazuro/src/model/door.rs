//! The one door of actions. Whatever comes in as words, from a file, the builder, a script, a
//! handler, a tape or the host, has its names looked up and its numbers held against the same
//! ranges here.

use crate::describe::{
    Action, Change, Destination, EffectId, EntityId, Fault, Field, Grant, KindId, Lead, MAX_NAME,
    Move, Pace, RESERVED_NAMES, Range, ReactionId, Selector, StatId, TagId, Turn, Wait, range,
};
use crate::shown;

use super::thing::TargetRef;

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
    let mut faults = Faults::new();
    let found = action.try_map(|name, key, acted_on| {
        let found = meant(name, acted_on, names, &role).unwrap_or_else(|fault| {
            faults.push((Field::ROOT.key(key), fault));
            TargetRef::Who
        });
        Ok::<_, std::convert::Infallible>(found)
    });
    let Ok(found) = found;
    faults.extend(check(action, names));
    (found, faults)
}

/// Whom or what a name in an action means.
fn meant(
    name: &str,
    acted_on: bool,
    names: &impl Names,
    role: impl Fn(&'static str) -> Result<TargetRef, Fault>,
) -> Result<TargetRef, Fault> {
    match (name, Selector::from(name)) {
        ("who", _) => role("who"),
        ("on", _) => role("on"),
        (_, Selector::Entity(name)) => names.entity(&name).map(TargetRef::Entity),
        (_, Selector::Kind(kind)) if acted_on => names.kind(&kind).map(TargetRef::Kind),
        (_, Selector::Tag(tag)) if acted_on => names.tag(&tag).map(TargetRef::Tag),
        _ => Err(Fault::OnlyOne { name: name.into() }),
    }
}

/// Checks the numbers of an action, and its names other than those of entities.
pub(crate) fn check<T>(action: &Action<T>, names: &impl Names) -> Faults {
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

    fn range(&mut self, key: &str, value: f64, range: &Range) {
        self.keep(key, range.check(value));
    }

    fn pace(&mut self, pace: Pace, rate: impl Fn(f64) -> Result<(), Fault>) {
        match pace {
            Pace::Over(seconds) => self.range("over", seconds, &range::SECONDS),
            Pace::Rate(value) => self.keep("rate", rate(value)),
        }
    }

    fn action<T>(&mut self, action: &Action<T>) {
        match action {
            Action::Move(Move { over, to, .. }) => {
                self.range("over", *over, &range::SECONDS);
                if let Destination::By(way) = to {
                    for (axis, along) in way.iter().enumerate() {
                        self.keep_in("by", axis, range::COORDINATE.check(*along));
                    }
                }
            }
            Action::Turn(Turn { by, pace, .. }) => {
                self.keep("by", range::TURN.check_radians(*by));
                self.pace(*pace, |rate| range::TURN_RATE.check_radians(rate));
            }
            Action::Lead(Lead { through, pace, .. }) => {
                self.pace(*pace, |rate| range::TRAVEL_RATE.check(rate));
                if through.is_empty() {
                    self.keep("through", Err::<(), _>(Fault::Nowhere));
                }
            }
            Action::Teleport(teleport) if teleport.to.is_empty() => {
                self.keep("to", Err::<(), _>(Fault::Nowhere));
            }
            Action::Throw(throw) => {
                for (axis, along) in throw.velocity.iter().enumerate() {
                    self.keep_in("speed", axis, range::THROW_SPEED.check(*along));
                }
                self.keep("spin", range::SPIN.check_radians(throw.spin));
            }
            Action::Cue(cue) => self.keep("cue", name(cue)),
            Action::Count { name: count, .. } => self.keep("count", name(count)),
            Action::Flag { name: flag, .. } => self.keep("flag", name(flag)),
            Action::Tag { tag, .. } | Action::Untag { tag, .. } => {
                self.keep("with", name(tag).and_then(|()| self.names.tag(tag)));
            }
            Action::Stat { name, change, .. } => {
                let (Change::Add(value) | Change::Set(value)) = *change;
                self.range("stat", value, &range::AMOUNT);
                self.keep("stat", self.names.stat(name));
            }
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
            Action::Wait(Wait::Seconds(seconds)) => self.range("wait", *seconds, &range::PAUSE),
            Action::Teleport(_)
            | Action::Send { .. }
            | Action::Wait(Wait::Arrival(_))
            | Action::Route { .. }
            | Action::Grab { .. }
            | Action::Drop(_)
            | Action::Walk { .. }
            | Action::Halt(_)
            | Action::Jump(_)
            | Action::Switch { .. }
            | Action::Collect { .. }
            | Action::Say(_)
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
