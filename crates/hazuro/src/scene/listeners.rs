//! Who waits for which event: found without asking those who wait for something else.

use std::collections::BTreeMap;

use super::{EntityId, EventKind, Trigger};

/// Reactions or handlers, by the event they wait for.
#[derive(Debug)]
pub(crate) struct Listeners<L> {
    by_detector: BTreeMap<(EventKind, EntityId), Vec<L>>,
    at_start: Vec<L>,
    on_cue: BTreeMap<String, Vec<L>>,
}

impl<L> Default for Listeners<L> {
    fn default() -> Self {
        Self { by_detector: BTreeMap::new(), at_start: Vec::new(), on_cue: BTreeMap::new() }
    }
}

impl<L: Copy> Listeners<L> {
    /// Lets `listener` wait for `trigger`, whose detectors are `detectors`.
    pub fn add(&mut self, trigger: &Trigger, detectors: &[EntityId], listener: L) {
        match trigger {
            Trigger::Start => self.at_start.push(listener),
            Trigger::Cue(name) => self.on_cue.entry(name.clone()).or_default().push(listener),
            Trigger::Detected { .. } => {
                for detector in detectors {
                    self.by_detector
                        .entry((trigger.event(), *detector))
                        .or_default()
                        .push(listener);
                }
            }
        }
    }

    /// Those who wait for this event, in the order in which they were added.
    pub fn to(&self, kind: EventKind, on: Option<EntityId>, cue: Option<&str>) -> &[L] {
        let found = match (kind, on, cue) {
            (EventKind::Start, _, _) => Some(&self.at_start),
            (EventKind::Cue, _, Some(cue)) => self.on_cue.get(cue),
            (_, Some(on), _) => self.by_detector.get(&(kind, on)),
            _ => None,
        };
        found.map_or(&[], Vec::as_slice)
    }
}
