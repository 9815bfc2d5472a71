//! What every client can do, whatever it knows of the play.

use hazuro::scene::Fault;

use crate::deed::Deed;
use crate::talk::{Standing, Talks};

/// One player's end of a line: a [`Client`](crate::Client) or a [`Viewer`](crate::Viewer).
///
/// ```
/// use hazuro_link::{Guest, Viewer};
/// fn carry(guest: &mut impl Guest, to_host: &mut Vec<Vec<u8>>, from_host: &[Vec<u8>]) {
///     from_host.iter().for_each(|bytes| guest.receive(bytes));
///     guest.step();
///     to_host.extend(guest.outgoing());
/// }
/// let mut viewer = Viewer::new().named("ada");
/// let mut sent = Vec::new();
/// carry(&mut viewer, &mut sent, &[]);
/// assert_eq!(sent.len(), 1, "it asks to join");
/// ```
pub trait Guest: Talks {
    /// Lets the player do something now. Gives its number.
    ///
    /// # Errors
    /// If the client has not joined or a thousand deeds have not been confirmed. A [`Client`](crate::Client)
    /// knows also if it names what the scene does not have, or a number is out of its range; to others
    /// [the host says so](Self::refused).
    fn act(&mut self, deed: Deed) -> Result<u64, Fault>;

    /// Goes on by a tick of the client's own clock.
    fn step(&mut self);

    /// A message has come by the line. What is none is left out.
    fn receive(&mut self, bytes: &[u8]);

    /// What is to be sent.
    fn outgoing(&mut self) -> impl Iterator<Item = Vec<u8>> {
        self.talk_mut().out.drain(..)
    }

    /// Wants this player and no other.
    #[must_use]
    fn named(mut self, player: impl Into<String>) -> Self
    where
        Self: Sized,
    {
        self.talk_mut().hello.name = Some(player.into());
        self
    }

    /// Knows the word that the host asks for.
    #[must_use]
    fn token(mut self, token: impl Into<String>) -> Self
    where
        Self: Sized,
    {
        self.talk_mut().hello.token = Some(token.into());
        self
    }

    /// How it stands with the host.
    fn standing(&self) -> &Standing {
        &self.talk().standing
    }

    /// Texts for the player since this was last asked.
    fn said(&mut self) -> impl Iterator<Item = String> {
        self.talk_mut().said.drain(..)
    }

    /// The numbers of deeds that the host has not done since this was last asked, and why not.
    fn refused(&mut self) -> impl Iterator<Item = (u64, String)> {
        self.talk_mut().refused.drain(..)
    }

    /// Joins again by another line, as the same player.
    fn come_back(&mut self) {
        self.talk_mut().come_back();
    }

    /// Leaves for good.
    fn leave(&mut self) {
        self.talk_mut().leave();
    }
}
