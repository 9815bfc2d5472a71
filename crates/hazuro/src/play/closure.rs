//! Running the closures that handlers and routines are.

use std::any::Any;
use std::panic::{AssertUnwindSafe, catch_unwind};

use super::act::Act;
use super::handler::{Ended, Whose};

impl Act<'_> {
    /// Runs a handler or routine. If it panics, what it has done stays done.
    pub(super) fn run_closure(&mut self, whose: Whose<'_>) -> Ended {
        let mut run = match self.runtime.handlers.slot(whose) {
            None => return Ended::Missing,
            Some(slot) if slot.gone => return Ended::Missing,
            Some(slot) => match slot.run.take() {
                Some(run) => run,
                None => return Ended::Busy,
            },
        };
        let event = self.event;
        let outcome = catch_unwind(AssertUnwindSafe(|| run(event, self)));
        // It may have taken itself away, or been replaced.
        if let Some(slot) = self.runtime.handlers.slot(whose)
            && !slot.gone
            && slot.run.is_none()
        {
            slot.run = Some(run);
        }
        match outcome {
            Ok(Ok(())) => Ended::Well,
            Ok(Err(failure)) => Ended::Failed(failure),
            Err(panic) => Ended::Panicked(message_of(&*panic)),
        }
    }
}

fn message_of(panic: &(dyn Any + Send)) -> String {
    let text = panic.downcast_ref::<&str>().map(|text| (*text).to_owned());
    text.or_else(|| panic.downcast_ref::<String>().cloned()).unwrap_or_else(|| "unknown".into())
}
