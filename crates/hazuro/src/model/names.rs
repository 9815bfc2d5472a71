//! Names that are numbered, and effects with everything looked up.

use crate::Time;
use crate::describe::{Alter, LEG_STATS, Stacking, StatId};

/// The names of stats or effects, numbered in order of appearance.
#[derive(Clone, Debug)]
pub(crate) struct NameList<N> {
    pub names: Vec<String>,
    pub ids: std::collections::BTreeMap<String, N>,
}

impl<N> Default for NameList<N> {
    fn default() -> Self {
        Self { names: Vec::new(), ids: std::collections::BTreeMap::new() }
    }
}

impl<N: Copy> NameList<N> {
    pub fn intern(&mut self, name: &str, number: impl FnOnce(u32) -> N) {
        if !self.ids.contains_key(name) {
            self.ids.insert(name.to_owned(), number(self.names.len() as u32));
            self.names.push(name.to_owned());
        }
    }

    /// Forgets all names but the first `count`.
    pub fn truncate(&mut self, count: usize) {
        for name in self.names.drain(count..) {
            self.ids.remove(&name);
        }
    }
}

/// The stats that legs go by, as far as there are such: asked for at each step.
#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct LegStats {
    pub walk: Option<StatId>,
    pub jump: Option<StatId>,
    pub step: Option<StatId>,
    pub gravity: Option<StatId>,
}

impl LegStats {
    pub fn of(stats: &NameList<StatId>) -> Self {
        let [walk, jump, step, gravity] = LEG_STATS.map(|name| stats.ids.get(name).copied());
        Self { walk, jump, step, gravity }
    }
}

/// An effect with everything looked up.
#[derive(Clone, Debug)]
pub(crate) struct EffectSpec {
    pub alters: Box<[(StatId, Alter)]>,
    pub seconds: Option<Time>,
    pub while_detected: bool,
    pub again: Stacking,
}
