//! Rust handlers: closures that wait for events.

use std::fmt;

use crate::scene::{EntityId, Listeners, Trigger};
use crate::state::Event;

use super::act::Act;

type Run = dyn FnMut(&Event, &mut Act<'_>) -> Result<(), String> + Send;

/// What a handler may return: nothing, or a result whose error is reported.
pub trait Outcome {
    /// The error in words, if there is one.
    #[doc(hidden)]
    fn outcome(self) -> Result<(), String>;
}

impl Outcome for () {
    fn outcome(self) -> Result<(), String> {
        Ok(())
    }
}

impl<E: fmt::Display> Outcome for Result<(), E> {
    fn outcome(self) -> Result<(), String> {
        self.map_err(|error| error.to_string())
    }
}

/// All handlers of a play.
#[derive(Default)]
pub(super) struct Handlers {
    all: Vec<Handler>,
    listeners: Listeners<usize>,
}

struct Handler {
    only_edge: bool,
    run: Box<Run>,
}

impl Handlers {
    pub fn add(&mut self, trigger: &Trigger, zones: &[EntityId], run: Box<Run>) {
        self.listeners.add(trigger, zones, self.all.len());
        self.all.push(Handler { only_edge: trigger.only_edge(), run });
    }

    /// The number of handlers that wait for the event.
    pub fn count(&self, event: &Event) -> usize {
        self.listeners.to(event.kind, event.on, event.cue.as_deref()).len()
    }

    /// The number of the handler that is `index`th to hear of the event, if it wants this one.
    pub fn wanting(&self, event: &Event, index: usize) -> Option<usize> {
        let number = *self.listeners.to(event.kind, event.on, event.cue.as_deref()).get(index)?;
        (event.edge || !self.all[number].only_edge).then_some(number)
    }

    /// Runs a handler.
    pub fn run(&mut self, number: usize, act: &mut Act<'_>) -> Result<(), String> {
        (self.all[number].run)(act.event, act)
    }
}

impl fmt::Debug for Handlers {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_struct("Handlers").field("count", &self.all.len()).finish_non_exhaustive()
    }
}
