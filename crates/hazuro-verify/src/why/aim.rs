//! What an expectation is about, and which actions bear on it.

use hazuro::scene::{Action, Change, EventKind, Grant, Quantity, Switch};
use hazuro::{EntityId, Scene};

/// A count, flag, stat or slot.
#[derive(Clone, Debug, PartialEq)]
pub(super) struct Named {
    pub sort: Sort,
    /// Whose; none for the scene's.
    pub of: Option<EntityId>,
    pub name: String,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Sort {
    Count,
    Flag,
    Stat,
    Slot,
}

impl Sort {
    const ALL: [Self; 4] = [Self::Count, Self::Flag, Self::Stat, Self::Slot];

    fn word(self) -> &'static str {
        match self {
            Self::Count => "count",
            Self::Flag => "flag",
            Self::Stat => "stat",
            Self::Slot => "slot",
        }
    }
}

impl Named {
    /// What an expression names, with `who` for this entity.
    pub fn all_in(text: &str, who: Option<EntityId>) -> Vec<Self> {
        let is_part = |c: char| c.is_alphanumeric() || c == '_' || c == '.';
        let mut all = Vec::new();
        for path in text.split(|c| !is_part(c)) {
            let mut ends = path.rsplit('.');
            let (Some(name), Some(sort)) = (ends.next(), ends.next()) else { continue };
            let Some(sort) = Sort::ALL.into_iter().find(|it| it.word() == sort) else { continue };
            let of = match ends.next() {
                None => None,
                Some(_) if who.is_some() => who,
                Some(_) => continue,
            };
            let named = Self { sort, of, name: name.to_owned() };
            if !name.is_empty() && !all.contains(&named) {
                all.push(named);
            }
        }
        all
    }

    /// As it is written, with the name of whose it is.
    pub fn words(&self, scene: &Scene) -> String {
        let of = self.of.map_or(String::new(), |of| format!("{}.", scene.name(of)));
        format!("{of}{}.{}", self.sort.word(), self.name)
    }

    fn granted(&self, grant: &Grant, to_it: bool) -> bool {
        match (self.sort, self.of) {
            (Sort::Count, None) => grant.counts.contains_key(&self.name),
            (Sort::Count, Some(_)) => to_it && grant.own_counts.contains_key(&self.name),
            (Sort::Flag, None) => grant.flags.contains(&self.name),
            (Sort::Flag, Some(_)) | (Sort::Slot, _) => false,
            (Sort::Stat, _) => to_it && grant.stats.contains_key(&self.name),
        }
    }
}

/// What an expectation is about.
#[derive(Clone, Debug)]
pub(super) enum Aim {
    /// That a cue is sent.
    Cue(String),
    /// That the text of this key is shown.
    Text(String),
    /// What a count, a flag, a stat or a slot is.
    Value(Named),
    /// Where something is.
    Moves(EntityId),
    /// Whether something is shown or on: any of these, itself and its ancestors, and in which
    /// way it is to be switched.
    Switches { of: Vec<EntityId>, to: bool },
    /// An event that comes of actions only.
    Event { kind: EventKind, on: EntityId },
}

impl Aim {
    /// Whether an action bears on it. `means` says whether a target of it means an entity.
    pub fn is_met_by<T, N, C: Amount>(
        &self,
        scene: &Scene,
        action: &Action<T, N, C>,
        means: impl Fn(&T, EntityId) -> bool,
    ) -> bool {
        match self {
            Self::Cue(cue) => match action {
                Action::Cue { name, .. } => name == cue,
                _ => false,
            },
            Self::Text(text) => matches!(action, Action::Say { key, .. } if key == text),
            Self::Value(named) => changes(scene, named, action, &means),
            Self::Moves(what) => match action {
                Action::Move(it) => means(&it.what, *what),
                Action::Teleport(it) => means(&it.what, *what),
                Action::Lead(it) => means(&it.what, *what),
                Action::Throw(it) => means(&it.what, *what),
                Action::Route { what: it, .. }
                | Action::Walk { what: it, .. }
                | Action::Halt(it)
                | Action::Grab { what: it, .. }
                | Action::Reset(it) => means(it, *what),
                _ => false,
            },
            Self::Switches { of, to } => {
                let any = |it: &T| of.iter().any(|what| means(it, *what));
                match action {
                    Action::Switch { what, switch: Switch::Visible | Switch::Enabled, to: way } => {
                        way.is_none_or(|way| way == *to) && any(what)
                    }
                    Action::Remove(what) | Action::Collect { what, .. } => !to && any(what),
                    Action::Reset(what) => any(what),
                    _ => false,
                }
            }
            Self::Event { kind, on } => match (kind, action) {
                (_, Action::Send { event, on: it, .. }) => event == kind && means(it, *on),
                (EventKind::Collect, Action::Collect { what, .. })
                | (EventKind::Grab | EventKind::Own, Action::Grab { what, .. })
                | (EventKind::Own, Action::Own { what, .. })
                | (EventKind::Disown, Action::Disown(what) | Action::Drop(what))
                | (EventKind::Drop | EventKind::Settle, Action::Drop(what))
                | (EventKind::Reach, Action::Route { what, .. }) => means(what, *on),
                (EventKind::Drop | EventKind::Settle | EventKind::Disown, Action::Throw(it)) => {
                    means(&it.what, *on)
                }
                (EventKind::Arrive, Action::Teleport(it)) => it.to.iter().any(|to| means(to, *on)),
                (EventKind::Depart, Action::Teleport(_)) => true,
                (
                    EventKind::Stat | EventKind::Empty | EventKind::Full,
                    Action::Stat { of, .. } | Action::Effect { name: _, of },
                ) => means(of, *on),
                (
                    EventKind::Stat | EventKind::Empty | EventKind::Full,
                    Action::Grant { to, .. } | Action::Collect { to, .. },
                ) => means(to, *on),
                _ => false,
            },
        }
    }
}

/// By how much a count changes.
pub(super) trait Amount {
    /// Whether adding it changes nothing.
    fn is_nothing(&self) -> bool;
}

impl Amount for i64 {
    fn is_nothing(&self) -> bool {
        *self == 0
    }
}

impl Amount for Quantity<i64> {
    fn is_nothing(&self) -> bool {
        self.fixed() == Some(0)
    }
}

fn changes<T, N, C: Amount>(
    scene: &Scene,
    named: &Named,
    action: &Action<T, N, C>,
    means: &impl Fn(&T, EntityId) -> bool,
) -> bool {
    let is_its = |of: &Option<T>| match (of, named.of) {
        (None, None) => true,
        (Some(of), Some(whose)) => means(of, whose),
        _ => false,
    };
    let it = |of: &T| named.of.is_some_and(|whose| means(of, whose));
    match action {
        Action::Count { name, of, change } => {
            let nothing = matches!(change, Change::Add(amount) if amount.is_nothing());
            named.sort == Sort::Count && *name == named.name && !nothing && is_its(of)
        }
        Action::Flag { name, of, .. } => {
            named.sort == Sort::Flag && *name == named.name && is_its(of)
        }
        Action::Stat { name, of, .. } => named.sort == Sort::Stat && *name == named.name && it(of),
        Action::Fill { slot, of, .. } => named.sort == Sort::Slot && *slot == named.name && it(of),
        Action::Effect { name, of } | Action::EndEffect { name, of } => {
            let effect = scene.effects().iter().find(|effect| effect.name() == name);
            let alters = effect.is_some_and(|it| it.alters().contains_key(&named.name));
            named.sort == Sort::Stat && alters && it(of)
        }
        Action::Grant { grant, to } => named.granted(grant, it(to)),
        Action::Collect { what, to } => {
            // Of a pickup that is only meant by a word it is not known what it gives.
            let pickup = scene.ids().find(|id| means(what, *id));
            let pickup = pickup.and_then(|id| scene.pickup_of(id));
            pickup.is_some_and(|pickup| named.granted(&pickup.grant, it(to)))
        }
        Action::Reset(what) => it(what),
        _ => false,
    }
}
