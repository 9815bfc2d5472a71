//! Kinds that build on one another: in which order their words count, and what that gives.

use std::borrow::Cow;
use std::collections::HashMap;
use std::sync::Arc;

use smallvec::SmallVec;

use crate::describe::{
    CHILD_MARK, Entity, Fault, Features, Kind, KindId, MAX_CHILD_KINDS, MAX_KINDS, MAX_NESTED,
    SceneError, Selector,
};
use crate::model::KindSpec;

/// The kinds that something names, and that take it in.
pub(super) type Named = SmallVec<[KindId; 2]>;

/// The kinds of a scene, made ready.
pub(crate) struct Kinds<'a> {
    pub all: &'a [Kind],
    pub specs: &'a [KindSpec],
    by_name: HashMap<&'a str, KindId>,
    /// Those that take in what does not name them.
    takers: Vec<KindId>,
}

impl<'a> Kinds<'a> {
    pub fn new(all: &'a [Kind], specs: &'a [KindSpec]) -> Self {
        let by_name = all.iter().zip(0..).map(|(kind, it)| (kind.name.as_str(), KindId(it)));
        let takers = (0..).zip(all).filter(|(_, kind)| !kind.takes.is_empty());
        let takers = takers.map(|(number, _)| KindId(number)).collect();
        Self { all, specs, by_name: by_name.collect(), takers }
    }

    /// The kind of this name.
    pub fn find(&self, name: &str) -> Option<KindId> {
        self.by_name.get(name).copied()
    }

    pub fn spec(&self, kind: KindId) -> &'a KindSpec {
        &self.specs[kind.0 as usize]
    }

    /// The kinds that an entity names, then those that take it in, by name.
    pub fn of(&self, entity: &Entity) -> Named {
        let named = entity.features.kinds.iter().filter_map(|name| self.find(name));
        let mut kinds: Named = named.collect();
        if self.takers.is_empty() {
            return kinds;
        }
        let specs = kinds.iter().map(|kind| &self.spec(*kind).features);
        let tags: Vec<&String> =
            [&entity.features].into_iter().chain(specs).flat_map(|it| &it.tags).collect();
        for taker in &self.takers {
            let takes = |selector: &Selector| match selector {
                Selector::Any => entity.made_for.is_none(),
                Selector::Tag(tag) => tags.contains(&tag),
                Selector::Entity(pattern) => fits(pattern, &entity.name),
                Selector::Kind(_) | Selector::Layer(_) => false,
            };
            if self.all[taker.0 as usize].takes.iter().any(takes) && !kinds.contains(taker) {
                kinds.push(*taker);
            }
        }
        kinds
    }

    /// These kinds and those that they build on, in the order in which their words count.
    pub fn line(&self, kinds: &[KindId]) -> Box<[KindId]> {
        if let [kind] = kinds {
            return self.spec(*kind).line.clone();
        }
        let mut line = kinds.iter().flat_map(|kind| &self.spec(*kind).line).copied().collect();
        keep_last(&mut line);
        line.into()
    }

    /// What these kinds give together, if there are any.
    pub fn features(&self, kinds: &[KindId]) -> Option<Cow<'a, Features>> {
        match kinds {
            [] => None,
            [kind] => Some(Cow::Borrowed(&self.spec(*kind).features)),
            _ => Some(Cow::Owned(merged(self.all, &self.line(kinds)))),
        }
    }
}

/// Whether a name fits a pattern, in which a star stands for any letters, but not for the mark before a child.
fn fits(pattern: &str, name: &str) -> bool {
    let (patterns, names) = (pattern.split(CHILD_MARK), name.split(CHILD_MARK));
    patterns.clone().count() == names.clone().count()
        && patterns.zip(names).all(|(pattern, name)| fits_part(pattern, name))
}

fn fits_part(pattern: &str, name: &str) -> bool {
    let Some((start, rest)) = pattern.split_once('*') else { return pattern == name };
    let Some(mut left) = name.strip_prefix(start) else { return false };
    let mut pieces: Vec<&str> = rest.split('*').collect();
    let end = pieces.pop().unwrap_or_default();
    for piece in pieces {
        let Some(place) = left.find(piece) else { return false };
        left = &left[place + piece.len()..];
    }
    left.ends_with(end)
}

/// Of what is there several times keeps the last.
fn keep_last(line: &mut Vec<KindId>) {
    let mut place = 0;
    while place < line.len() {
        if line[place + 1..].contains(&line[place]) {
            line.remove(place);
        } else {
            place += 1;
        }
    }
}

/// What the kinds of a line give.
fn merged(kinds: &[Kind], line: &[KindId]) -> Features {
    let mut all = line.iter().map(|kind| &kinds[kind.0 as usize].features);
    let first = all.next().cloned().unwrap_or_default();
    all.fold(first, Features::or)
}

/// Adds the kinds of the children that kinds give, sorts all by name, and makes them ready.
pub(super) fn prepare(kinds: &mut Vec<Kind>) -> (Arc<[KindSpec]>, Vec<SceneError>) {
    let (mut errors, given) = (Vec::new(), kinds.len());
    let mut found = specs(kinds, &mut errors);
    if !errors.is_empty() {
        return (found.into(), errors);
    }
    // Each round adds the kinds of the children of those of the last.
    let mut first = 0;
    for depth in 0.. {
        let children = |number: usize| found[number].features.children.iter();
        let more: Vec<Kind> = (first..kinds.len())
            .flat_map(|giver| children(giver).map(move |child| (giver, &child.name)))
            .map(|(giver, child)| kind_of_child(kinds, &found, giver, child))
            .collect();
        let Some(deepest) = more.first() else { break };
        if depth == MAX_NESTED || kinds.len() - given + more.len() > MAX_CHILD_KINDS {
            let fault = Fault::NestedChildren { name: deepest.name.clone() };
            errors.push(SceneError { field: kinds[first].field(), fault });
            break;
        }
        first = kinds.len();
        kinds.extend(more);
        found = specs(kinds, &mut Vec::new());
    }
    if kinds.len() > given {
        kinds.sort_by(|one, other| one.name.cmp(&other.name));
        found = specs(kinds, &mut errors);
    }
    (found.into(), errors)
}

/// The kind of a child that a kind gives, by itself or by what it builds on.
fn kind_of_child(kinds: &[Kind], specs: &[KindSpec], giver: usize, child: &str) -> Kind {
    let Kind { name, features, .. } = &kinds[giver];
    let own = features.children.iter().find(|it| it.name == child);
    let mut given = own.map_or_else(Features::default, |own| own.features.clone());
    // In the order in which the giver builds on them: so do its children on theirs.
    for base in &features.kinds {
        let spec = kinds.iter().zip(specs).find(|(kind, _)| kind.name == *base);
        if spec.is_some_and(|(_, spec)| spec.features.children.iter().any(|it| it.name == child)) {
            given.kinds.push(name_of_child(base, child));
        }
    }
    Kind { of_child: true, features: given, ..Kind::new(name_of_child(name, child)) }
}

/// The name of a child, or of the kind of the children, of something.
pub(super) fn name_of_child(of: &str, child: &str) -> String {
    format!("{of}{CHILD_MARK}{child}")
}

/// Each kind with all that it builds on.
fn specs(kinds: &[Kind], errors: &mut Vec<SceneError>) -> Vec<KindSpec> {
    let places = kinds.iter().zip(0..).map(|(kind, place)| (kind.name.as_str(), place)).collect();
    let found = vec![None; kinds.len()];
    let mut lines = Lines { kinds, places, found, open: Vec::new(), errors };
    let all: Vec<_> = (0..kinds.len()).map(|kind| lines.of(kind)).collect();
    let spec = |line: Vec<KindId>| {
        let features = merged(kinds, &line);
        KindSpec { line: line.into(), features }
    };
    all.into_iter().map(spec).collect()
}

/// Looks for the kinds that each builds on.
struct Lines<'a> {
    kinds: &'a [Kind],
    places: HashMap<&'a str, usize>,
    found: Vec<Option<Vec<KindId>>>,
    /// Those that are being looked at, each since the one before builds on it.
    open: Vec<usize>,
    errors: &'a mut Vec<SceneError>,
}

impl Lines<'_> {
    fn of(&mut self, kind: usize) -> Vec<KindId> {
        if let Some(found) = &self.found[kind] {
            return found.clone();
        }
        let kinds = self.kinds;
        let field = kinds[kind].field().key("kind");
        if let Some(back) = self.open.iter().position(|it| *it == kind) {
            let circle = self.open[back..].iter().chain([&kind]);
            let names = circle.map(|it| kinds[*it].name.clone()).collect();
            self.errors.push(SceneError { field, fault: Fault::KindCircle { names } });
            return Vec::new();
        }
        let mut line = vec![KindId(kind as u32)];
        if self.open.len() == MAX_KINDS {
            // The first of those has too many, whatever this one builds on.
            return line;
        }
        self.open.push(kind);
        for name in &kinds[kind].features.kinds {
            if let Some(base) = self.places.get(name.as_str()).copied() {
                line.extend(self.of(base));
            }
        }
        self.open.pop();
        keep_last(&mut line);
        if line.len() > MAX_KINDS {
            let name = kinds[kind].name.clone();
            self.errors.push(SceneError { field, fault: Fault::TooManyKinds { name } });
            line.truncate(1);
        }
        self.found[kind] = Some(line.clone());
        line
    }
}

#[cfg(test)]
mod tests {
    use super::fits;

    #[test]
    fn stars_stand_for_any_letters() {
        for (pattern, name) in [
            ("gate_*", "gate_1"),
            ("*", ""),
            ("*a*b", "xaab"),
            ("gate", "gate"),
            ("*/leaf", "a/leaf"),
        ] {
            assert!(fits(pattern, name), "{pattern} {name}");
        }
        for (pattern, name) in
            [("gate_*", "gate"), ("*a*b", "xab c"), ("ab*ba", "aba"), ("", "a"), ("*", "a/b")]
        {
            assert!(!fits(pattern, name), "{pattern} {name}");
        }
    }
}
