//! Who looks at a play at a moment.

use hazuro::glam::DVec3;
use hazuro::{EntityId, Play};
use hazuro_link::Client;

/// A play as it is seen at a moment.
#[derive(Clone, Copy)]
pub(crate) struct Watcher<'a> {
    pub play: &'a Play,
    /// At whose desk.
    client: Option<&'a Client>,
}

impl<'a> Watcher<'a> {
    /// The play as it is.
    pub fn of_play(play: &'a Play) -> Self {
        Self { play, client: None }
    }

    /// As a player knows it who plays from elsewhere.
    pub fn of_client(client: &'a Client) -> Self {
        Self { play: client.play(), client: Some(client) }
    }

    /// Where something is, as it is shown.
    pub fn position(&self, who: EntityId) -> Option<DVec3> {
        let pose = match self.client {
            Some(client) => client.pose(who),
            None => self.play.pose(who),
        };
        pose.ok().map(|pose| pose.position)
    }
}
