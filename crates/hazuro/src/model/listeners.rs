//! Who waits for which event: found without asking those who wait for something else.

use std::collections::BTreeMap;

use smallvec::SmallVec;

use crate::describe::{EntityId, EventKind, StatId, TagId, Trigger};
use crate::fast_hash::FastMap;

use super::{Group, Subjects, Thing};

/// What a trigger means in a scene.
#[derive(Clone, Debug, Default)]
pub(crate) struct Meant {
    /// The detectors that are there; none are listed if all are meant.
    pub detectors: Vec<EntityId>,
    /// By what they are chosen, unless by name.
    pub group: Option<Group>,
    /// The stat that it names.
    pub stat: Option<StatId>,
    /// The subjects that it names.
    pub subjects: Option<Subjects>,
}

/// A listener for an event, and which of its occurrences it wants.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Listener<L> {
    /// Listeners to one event hear of it in this order.
    pub order: (i32, L),
    /// Which occurrences of its events it wants.
    pub wanted: Wanted,
    /// Only of this stat.
    pub stat: Option<StatId>,
    /// Only while the detector has this tag.
    pub tag: Option<TagId>,
}

/// Which occurrences of an event a listener wants.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Wanted {
    /// Only when nobody was detected before, or nobody is any more.
    pub only_edge: bool,
    /// Only of these subjects.
    pub subjects: Option<Subjects>,
}

impl<L: Copy> Listener<L> {
    pub fn who(&self) -> L {
        self.order.1
    }

    /// Whether it wants this event of a kind it waits for. Edge and subject are left to gates.
    pub fn hears(&self, stat: Option<StatId>, has: impl Fn(TagId) -> bool) -> bool {
        self.stat.is_none_or(|wanted| stat == Some(wanted)) && self.tag.is_none_or(has)
    }
}

/// Those who hear of an event, in order.
pub(crate) type Hearers<L> = SmallVec<[Listener<L>; 2]>;

/// Those who do not hear of an event, each with what replaces it.
pub(crate) type Replaced<L> = SmallVec<[(L, L); 1]>;

/// What is known of an event before anybody hears of it.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Call<'a> {
    pub kind: EventKind,
    pub on: Option<EntityId>,
    pub cue: Option<&'a str>,
    pub stat: Option<StatId>,
    /// The tags of the detector, if they are not those it had at the start.
    pub tags: Option<&'a [TagId]>,
}

/// Reactions or handlers, by the event they wait for.
#[derive(Clone, Debug)]
pub(crate) struct Listeners<L> {
    by_detector: FastMap<(EventKind, EntityId), Vec<Listener<L>>>,
    /// Of those who wait for whatever has a tag, for detectors that get it later.
    by_tag: BTreeMap<(EventKind, TagId), Vec<Listener<L>>>,
    /// Of those who wait for whatever detects.
    of_any: FastMap<EventKind, Vec<Listener<L>>>,
    at_start: Vec<Listener<L>>,
    on_cue: BTreeMap<String, Vec<Listener<L>>>,
    /// Those who wait for whatever is of a kind or in a layer or has a tag, for what comes later.
    of_groups: Vec<(EventKind, Group, Listener<L>)>,
    /// Each that is replaced where both would hear, and by which.
    replacements: Vec<(L, L)>,
}

impl<L> Default for Listeners<L> {
    fn default() -> Self {
        Self {
            by_detector: FastMap::default(),
            by_tag: BTreeMap::new(),
            of_any: FastMap::default(),
            at_start: Vec::new(),
            on_cue: BTreeMap::new(),
            of_groups: Vec::new(),
            replacements: Vec::new(),
        }
    }
}

impl<L: Copy + Ord> Listeners<L> {
    /// Lets somebody wait for `trigger`, which means this.
    pub fn add(&mut self, trigger: &Trigger, meant: &Meant, order: (i32, L)) {
        let tag = match meant.group {
            Some(Group::Tag(tag)) => Some(tag),
            _ => None,
        };
        let wanted = Wanted { only_edge: trigger.only_edge(), subjects: meant.subjects };
        let listener = Listener { order, wanted, stat: meant.stat, tag };
        match trigger {
            Trigger::Start => put(&mut self.at_start, listener),
            Trigger::Cue(name) => put(self.on_cue.entry(name.clone()).or_default(), listener),
            Trigger::Detected { event, .. } => {
                for detector in &meant.detectors {
                    put(self.by_detector.entry((*event, *detector)).or_default(), listener);
                }
                match meant.group {
                    Some(Group::Any) if meant.detectors.is_empty() => {
                        put(self.of_any.entry(*event).or_default(), listener);
                    }
                    Some(group) => self.of_groups.push((*event, group, listener)),
                    None => {}
                }
                if let Some(tag) = tag {
                    put(self.by_tag.entry((*event, tag)).or_default(), listener);
                }
            }
        }
    }

    /// Lets those who wait for whatever has something in common with this entity wait for it, too.
    pub fn meet(&mut self, entity: EntityId, thing: &Thing) {
        for (event, group, listener) in &self.of_groups {
            let detects = event.detector().is_some_and(|detector| thing.has(detector));
            if detects && group.has(thing) {
                put(self.by_detector.entry((*event, entity)).or_default(), *listener);
            }
        }
    }

    /// Lets somebody wait no more.
    pub fn remove(&mut self, who: L) {
        let lists = self.by_detector.values_mut().chain(self.by_tag.values_mut());
        let lists = lists.chain([&mut self.at_start]).chain(self.on_cue.values_mut());
        let lists = lists.chain(self.of_any.values_mut());
        lists.for_each(|list| list.retain(|listener| listener.order.1 != who));
        self.of_groups.retain(|(.., listener)| listener.order.1 != who);
    }

    /// Lets `by` replace `who` at each event that both wait for.
    pub fn replace(&mut self, who: L, by: L) {
        self.replacements.push((who, by));
    }

    /// Takes those out of the listeners to an event that others among them replace; gives each with what
    /// replaces it. One that waits for certain subjects only replaces none for another.
    pub fn settle(&self, all: &mut Hearers<L>, met: &dyn Fn(Wanted) -> bool) -> Replaced<L> {
        let mut replaced = Replaced::new();
        if all.len() < 2 {
            return replaced;
        }
        for (who, by) in &self.replacements {
            let replaces = |it: &Listener<L>| {
                it.order.1 == *by && (it.wanted.subjects.is_none() || met(it.wanted))
            };
            if all.iter().any(replaces) && all.iter().any(|it| it.order.1 == *who) {
                all.retain(|it| it.order.1 != *who);
                replaced.push((*who, *by));
            }
        }
        replaced
    }

    /// The listeners to this event, in order. One that waits for it in two ways is given in the way that is
    /// `met`, if one is.
    pub fn to(&self, call: &Call<'_>, met: &dyn Fn(Wanted) -> bool) -> Hearers<L> {
        let found = match (call.kind, call.on, call.cue) {
            (EventKind::Start, _, _) => Some(&self.at_start),
            (EventKind::Cue, _, Some(cue)) => self.on_cue.get(cue),
            (kind, Some(on), _) => self.by_detector.get(&(kind, on)),
            _ => None,
        };
        let found = found.map_or(&[][..], Vec::as_slice);
        let of_any = self.of_any.get(&call.kind).map_or(&[][..], Vec::as_slice);
        let has = |tag| call.tags.is_none_or(|tags| tags.contains(&tag));
        let both = found.iter().chain(of_any);
        let mut all: Hearers<L> =
            both.filter(|listener| listener.hears(call.stat, has)).copied().collect();
        for tag in call.tags.unwrap_or_default() {
            let more = self.by_tag.get(&(call.kind, *tag)).into_iter().flatten();
            all.extend(more.filter(|listener| listener.hears(call.stat, has)).copied());
        }
        let met_first =
            |one: &Listener<L>, other: &Listener<L>| met(other.wanted).cmp(&met(one.wanted));
        all.sort_unstable_by(|one, other| {
            one.order.cmp(&other.order).then_with(|| met_first(one, other))
        });
        all.dedup_by_key(|listener| listener.order);
        all
    }
}

/// Puts a listener at its place among others.
fn put<L: Copy + Ord>(list: &mut Vec<Listener<L>>, listener: Listener<L>) {
    let place = list.partition_point(|other| other.order <= listener.order);
    list.insert(place, listener);
}
