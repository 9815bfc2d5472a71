//! What things come of.

/// What an entry came of.
///
/// Following origins from any entry ends at the start of the play or at an input, and never in a
/// circle: an entry comes only of those before it.
///
/// ```
/// use hazuro::{Entry, Origin, Play, Scene, scene::{Action, Reaction, Trigger}};
/// let scene = Scene::builder("Yard")
///     .reaction(Reaction::on(Trigger::cue("ring")).then(Action::add("rings", 1)))
///     .build()?;
/// let mut play = Play::new(scene);
/// play.act(Action::cue("ring"))?;
/// let entries = play.step().to_vec();
/// let rung = entries.last().unwrap();
/// // The count rose by the event, which was sent by the action, which was the first input.
/// let Origin::Entry(event) = rung.origin else { panic!() };
/// let event = entries.iter().find(|entry| entry.number == event).unwrap();
/// let Origin::Entry(sent) = event.origin else { panic!() };
/// let sent = entries.iter().find(|entry| entry.number == sent).unwrap();
/// assert_eq!(sent.origin, Origin::Input(0));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Origin {
    /// The start of the play, and what goes by itself from there.
    #[default]
    Start,
    /// What the host or a tape did, by its number from 0, in the order in which it was given to
    /// the play.
    Input(u64),
    /// Another entry, by its number.
    Entry(u64),
}
