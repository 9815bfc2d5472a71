//! What was done from elsewhere, as the play was told: enough to play it again.

use hazuro::scene::Fault;
use hazuro::{EntityId, Input, Time};

use super::Room;

/// Something that was done from elsewhere: what a player did, or that somebody came or left.
///
/// ```
/// use hazuro::{Play, Scene};
/// use hazuro_link::{Heard, Room, Rules};
/// let room = Room::new(Play::new(Scene::builder("Yard").build()?), Rules::default()).recording();
/// let tape: Vec<_> = room.heard().iter().map(|Heard { at, input, .. }| (*at, input.clone())).collect();
/// assert!(tape.is_empty());
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Heard {
    /// When it happens in the play.
    pub at: Time,
    /// What.
    pub input: Input,
    /// Whose deed it was, and its number, if it was a deed.
    pub deed: Option<(EntityId, u64)>,
}

impl Room {
    /// Keeps all that is done from elsewhere, from the beginning: see [`heard`](Self::heard).
    #[must_use]
    pub fn recording(mut self) -> Self {
        let out = |player: &EntityId| Heard {
            at: self.play.now(),
            input: Input::Remove(*player),
            deed: None,
        };
        self.heard = Some(self.players.iter().map(out).collect());
        self
    }

    /// All that was done from elsewhere, in the order in which the play was told; nothing unless that is
    /// [kept](Self::recording). A play of the same scene to which the same is done, at the same times and
    /// at the same rate, is the same.
    pub fn heard(&self) -> &[Heard] {
        self.heard.as_deref().unwrap_or_default()
    }

    /// Tells the play of something.
    ///
    /// # Errors
    /// If the play does not take it.
    pub(super) fn tell_play(&mut self, heard: Heard) -> Result<(), Fault> {
        self.play.schedule(heard.at, heard.input.clone())?;
        if let Some(all) = &mut self.heard {
            all.push(heard);
        }
        Ok(())
    }
}
