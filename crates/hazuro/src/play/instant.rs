//! What goes on at one instant.

use std::collections::VecDeque;

use crate::Time;
use crate::describe::{EntityId, ReactionId};
use crate::fast_hash::FastMap;
use crate::record::By;
use crate::state::{Event, Origin, Queued};

/// How often, at one instant, the same reaction may react to the same subject and detector.
const MAX_ROUNDS: u32 = 32;

/// What goes on at one instant. Empty between instants, so no part of the state.
#[derive(Debug, Default)]
pub(super) struct Instant {
    time: Time,
    /// Only ever asked for one of them, so that their order does not matter.
    runs: FastMap<Run, u32>,
    /// Who reacted, in order, for naming a circle.
    trail: VecDeque<By>,
    /// To be sent, each with what it comes of.
    pub events: VecDeque<(Origin, Event)>,
    pub sending: bool,
    /// What waited in queues and begins now.
    pub next_runs: VecDeque<(ReactionId, Queued)>,
    pub beginning: bool,
}

type Run = (By, Option<EntityId>, Option<EntityId>);

impl Instant {
    /// Counts another run at this time. The circle, if it has been round too often.
    pub fn enter(&mut self, time: Time, by: By, event: &Event) -> Result<(), Vec<By>> {
        if self.time != time {
            self.time = time;
            self.runs.clear();
            self.trail.clear();
        }
        let runs = self.runs.entry((by, event.on, event.who)).or_default();
        *runs += 1;
        if *runs > MAX_ROUNDS {
            let back = self.trail.iter().rev().position(|other| *other == by);
            let from = back.map_or(0, |back| self.trail.len() - 1 - back);
            return Err(self.trail.iter().skip(from).copied().chain([by]).collect());
        }
        if self.trail.len() == MAX_ROUNDS as usize {
            self.trail.pop_front();
        }
        self.trail.push_back(by);
        Ok(())
    }
}
