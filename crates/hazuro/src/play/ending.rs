//! Ending what reactions still have to do.

use std::collections::VecDeque;

use crate::describe::ReactionId;
use crate::record::Entry;
use crate::state::{Event, State};

/// Ends those runs of a reaction whose event is one of these.
pub(super) fn stop(
    state: &mut State,
    entries: &mut Vec<Entry>,
    reaction: ReactionId,
    ends: impl Fn(&Event) -> bool,
) {
    let time = state.now;
    state.runs.retain(|_, run| {
        let over = run.reaction == reaction && ends(&run.event);
        if over {
            entries.push(Entry::Stopped { time, reaction, who: run.event.who });
        }
        !over
    });
    state.queues.retain(|(queued, _), queue| {
        if *queued == reaction {
            queue.retain(|(event, _)| !ends(event));
        }
        !queue.is_empty()
    });
    state.queued = state.queues.values().map(VecDeque::len).sum();
}
