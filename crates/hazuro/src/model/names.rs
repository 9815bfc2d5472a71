//! Names that are numbered, and effects with everything looked up.

use crate::Time;
use crate::describe::{Alter, Stacking, StatId};

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

    /// Forgets all names but the first so many.
    pub fn truncate(&mut self, count: usize) {
        for name in self.names.drain(count..) {
            self.ids.remove(&name);
        }
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
