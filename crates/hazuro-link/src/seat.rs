//! Who plays whom.

use std::hash::{BuildHasher, Hasher, RandomState};

use hazuro::EntityId;

use crate::line::LineId;

/// A player that is played by somebody.
///
/// ```
/// use hazuro::{Play, Scene};
/// use hazuro_link::{Room, Rules};
/// let room = Room::new(Play::new(Scene::builder("Yard").build()?), Rules::default());
/// assert_eq!(room.seats().count(), 0);
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Debug)]
pub struct Seat {
    /// The player.
    pub player: EntityId,
    /// The line by which they play; none while they are cut off.
    pub line: Option<LineId>,
    /// How many bytes they were sent.
    pub sent: u64,
    /// How many seconds their own time is ahead of the host's, as last heard.
    pub lead: f64,
    /// With which one gets the seat again.
    pub(crate) key: String,
    /// The last deed that was received.
    pub(crate) done: u64,
    /// How many more deeds may be done now.
    pub(crate) budget: f64,
    /// The tick at which they were cut off.
    pub(crate) gone_at: u64,
}

impl Seat {
    pub(crate) fn new(player: EntityId, line: LineId, budget: f64) -> Self {
        let (sent, lead, done, gone_at) = (0, 0.0, 0, 0);
        Self { player, line: Some(line), sent, lead, key: secret(), done, budget, gone_at }
    }
}

/// A word that nobody guesses. It is no part of the play, which is the same with any.
fn secret() -> String {
    // What the system has by chance is in the keys of each new state.
    let half = || RandomState::new().build_hasher().finish();
    format!("{:016x}{:016x}", half(), half())
}
