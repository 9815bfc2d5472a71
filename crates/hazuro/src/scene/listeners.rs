//! Who waits for which event: found without asking those who wait for something else.

use std::collections::BTreeMap;

use super::{EntityId, EventKind, Trigger};

/// Reactions or handlers, by the event they wait for.
#[derive(Debug)]
pub(crate) struct Listeners<L> {
    by_zone: BTreeMap<(EventKind, EntityId), Vec<L>>,
    at_start: Vec<L>,
    on_cue: BTreeMap<String, Vec<L>>,
}

impl<L> Default for Listeners<L> {
    fn default() -> Self {
        Self { by_zone: BTreeMap::new(), at_start: Vec::new(), on_cue: BTreeMap::new() }
    }
}

impl<L: Copy> Listeners<L> {
    /// Lets `listener` wait for `trigger`, whose zones are `zones`.
    pub fn add(&mut self, trigger: &Trigger, zones: &[EntityId], listener: L) {
        match trigger {
            Trigger::Start => self.at_start.push(listener),
            Trigger::Cue(name) => self.on_cue.entry(name.clone()).or_default().push(listener),
            Trigger::Enter { .. } | Trigger::Exit { .. } | Trigger::Inside { .. } => {
                for zone in zones {
                    self.by_zone.entry((trigger.event(), *zone)).or_default().push(listener);
                }
            }
        }
    }

    /// Those who wait for this event, in the order in which they were added.
    pub fn to(&self, kind: EventKind, on: Option<EntityId>, cue: Option<&str>) -> &[L] {
        let found = match (kind, on, cue) {
            (EventKind::Start, _, _) => Some(&self.at_start),
            (EventKind::Cue, _, Some(cue)) => self.on_cue.get(cue),
            (_, Some(on), _) => self.by_zone.get(&(kind, on)),
            _ => None,
        };
        found.map_or(&[], Vec::as_slice)
    }
}
