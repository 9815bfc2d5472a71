//! Who looks at a play at a moment.

use hazuro::glam::DVec3;
use hazuro::{EntityId, Play};

/// A play as it is seen at a moment.
#[derive(Clone, Copy)]
pub(crate) struct Watcher<'a> {
    pub play: &'a Play,
}

impl Watcher<'_> {
    /// Where something is seen.
    pub fn position(&self, who: EntityId) -> Option<DVec3> {
        self.play.pose(who).ok().map(|pose| pose.position)
    }
}
