//! What a player was told of a play, and when.

use hazuro::{EntityId, Event, Time};

/// What a player who plays from elsewhere was told.
#[derive(Debug)]
pub(crate) struct Told {
    pub player: EntityId,
    /// Since when they were in.
    pub since: Option<Time>,
    /// When they heard of which event, in order.
    pub events: Vec<(Time, Event)>,
}

impl Told {
    pub fn new(player: EntityId) -> Self {
        Self { player, since: None, events: Vec::new() }
    }
}

/// An event, and when it was seen: as it happened, or as a player was told of it.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Sighting<'a> {
    pub event: &'a Event,
    pub at: Time,
}

impl<'a> Sighting<'a> {
    /// As it happened.
    pub fn of(event: &'a Event) -> Self {
        Self { event, at: event.time }
    }
}
