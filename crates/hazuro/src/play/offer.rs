//! What a player is offered, for a user interface to draw.

use crate::describe::EntityId;

/// Something that a player may use now.
///
/// ```
/// use hazuro::{Play, Scene, Time, geometry::Shape, scene::{Body, Entity, Prompt}};
/// let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 });
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("miller").player(true).body(body))
///     .entity(
///         Entity::new("lever")
///             .at([1.0, 1.0, 0.0])
///             .prompt(Prompt { caption: "Pull".into(), ..Prompt::default() }),
///     )
///     .build()?;
/// let mut play = Play::new(scene);
/// play.advance(Time::from_secs(0.1));
/// let offers = play.offers("miller")?;
/// assert_eq!((offers[0].key, offers[0].caption), ("KeyE", "Pull"));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Offer<'a> {
    /// The entity with the prompt.
    pub prompt: EntityId,
    /// What to highlight: the nearest of it and its ancestors that is marked so, or else itself.
    pub highlight: EntityId,
    /// The key to press, as W3C UI Events name it.
    pub key: &'a str,
    /// What is offered, in a word or two.
    pub caption: &'a str,
    /// More about it.
    pub detail: &'a str,
    /// How many seconds the key must be held.
    pub hold: f64,
    /// How much of that is over, from 0 to 1.
    pub progress: f64,
}
