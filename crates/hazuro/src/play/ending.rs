//! Ending what reactions still have to do.

use std::collections::VecDeque;

use crate::describe::ReactionId;
use crate::record::{Entry, Happening, Life, Stopped};
use crate::state::{Event, State};

/// Ends those runs of a reaction whose event is one of these.
pub(super) fn stop(
    state: &mut State,
    entries: &mut Vec<Entry>,
    (reaction, why): (ReactionId, Stopped),
    ends: impl Fn(&Event) -> bool,
) {
    let (time, life) = (state.now, Life::Stopped(why));
    let mut over = Vec::new();
    state.runs.under_way.retain(|_, run| {
        let ended = run.reaction == reaction && ends(&run.event);
        if ended {
            over.push(run.event.who);
        }
        !ended
    });
    for who in over {
        let entry = Entry::next(state, Happening::Run { time, reaction, who, life });
        entries.push(entry);
    }
    state.runs.queues.retain(|scope, queue| {
        if scope.reaction == reaction {
            queue.retain(|queued| !ends(&queued.event));
        }
        !queue.is_empty()
    });
    state.runs.queued = state.runs.queues.values().map(VecDeque::len).sum();
}
