//! Who may own a thing: move it, use it and point at it, while nobody else may.

/// Lets a thing belong to one body at a time. A body that takes it in its hands or drags it owns it, until
/// it has come to rest; an action gives it and takes it away at any time. Nobody but its owner grabs
/// it, uses its prompt or points at it meanwhile.
///
/// ```
/// use hazuro::geometry::Shape;
/// use hazuro::{Input, Play, Scene, Time};
/// use hazuro::scene::{Body, Carry, Entity, Ownership};
/// let person = || Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("floor").at([0.0, -0.5, 0.0]).solid(Shape::Box { size: [9.0, 1.0, 9.0] }))
///     .entity(Entity::new("miller").body(person()))
///     .entity(Entity::new("apprentice").at([2.0, 0.0, 0.0]).body(person()))
///     .entity(
///         Entity::new("sack")
///             .at([1.0, 0.35, 0.0])
///             .body(Body::new(Shape::Box { size: [0.5, 0.7, 0.4] }))
///             .carry(Carry::default())
///             .ownership(Ownership::default()),
///     )
///     .build()?;
/// let [miller, apprentice, sack] =
///     ["miller", "apprentice", "sack"].map(|name| scene.find(name).unwrap());
/// let mut play = Play::new(scene);
/// play.schedule(Time::ZERO, Input::Grab { who: miller, what: sack })?;
/// play.schedule(Time::ZERO, Input::Grab { who: apprentice, what: sack })?;
/// play.step();
/// assert_eq!(play.owner(sack)?, Some(miller));
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Ownership {
    /// Which bodies may own it. The default is the first that takes it.
    pub by: Owners,
    /// After how many seconds it is given back, counted from when its owner got it, got it anew or let
    /// go of it. The default is never by time alone.
    pub keep: Option<f64>,
    /// Whether only its owner, and the owner's team, gets news of it and of what is below it where a play
    /// has several players; nobody does while nobody owns it. Detectors see it all the same.
    /// The default is no.
    pub secret: bool,
}

/// Which bodies may own a thing.
///
/// ```
/// use hazuro::scene::{Owners, Ownership};
/// let flag = Ownership { by: Owners::team(["red", "blue"]), ..Ownership::default() };
/// assert_eq!(flag.by, Owners::Team(vec!["red".into(), "blue".into()]));
/// ```
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub enum Owners<T = String> {
    /// The first body that takes it while nobody owns it.
    #[default]
    First,
    /// Only the body that an action gives it to. An action may also give it from one to another.
    Host,
    /// As [`Host`](Self::Host); and the subject of the event whose action brought it out owns it from
    /// then on.
    Creator,
    /// Bodies with one of these tags, each of which is a team. A body with the same one as the owner may
    /// take it over, use it and point at it.
    Team(Vec<T>),
}

impl Owners {
    /// Bodies with one of these tags.
    pub fn team<T: Into<String>>(tags: impl IntoIterator<Item = T>) -> Self {
        Self::Team(tags.into_iter().map(Into::into).collect())
    }
}

impl<T> Owners<T> {
    /// Those that are no teams, each with the word for it in files.
    pub const WORDS: [(Self, &str); 3] =
        [(Self::First, "first"), (Self::Host, "host"), (Self::Creator, "creator")];

    /// Whether only actions say who owns it.
    pub(crate) fn are_given(&self) -> bool {
        matches!(self, Self::Host | Self::Creator)
    }
}
