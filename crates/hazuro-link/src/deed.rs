//! What a client may ask its host to let its player do.

use hazuro::scene::{Action, EntityKey, Fault, Named, Throw};
use hazuro::{Button, EntityId, Input, Play, Scene, Target};
use serde::{Deserialize, Serialize};
use thiserror::Error;

/// What a client may ask for. It is always the client's own player who does it, and no more than that
/// player could: nothing here puts anybody anywhere.
///
/// ```
/// use hazuro_link::{Deed, To};
/// let deeds = [
///     Deed::Walk { to: To::from([4.0, 0.0, -3.0]) },
///     Deed::Grab { what: "sack".into() },
///     Deed::Throw { velocity: [0.0, 3.0, -4.0] },
/// ];
/// # let _ = deeds;
/// ```
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum Deed {
    /// Walk there, around what is in the way.
    Walk {
        /// Where to.
        to: To,
    },
    /// Walk straight there, as who holds down a key.
    WalkStraight {
        /// Where to.
        to: To,
    },
    /// Walk after somebody.
    Follow {
        /// After whom.
        whom: String,
        /// How near to come, in metres.
        near: f64,
    },
    /// Stop walking.
    Halt,
    /// Jump.
    Jump,
    /// Turn towards it at once, about Y.
    Face {
        /// What to look at.
        to: To,
    },
    /// Press a key.
    Press {
        /// As W3C UI Events name it, as in `KeyE`.
        key: String,
    },
    /// Let go of a key.
    Release {
        /// As W3C UI Events name it.
        key: String,
    },
    /// Use a prompt, whatever its key.
    Interact {
        /// Which.
        with: String,
    },
    /// Take a thing in one's hands, if it is within reach and nobody else's.
    Grab {
        /// Which.
        what: String,
    },
    /// Let go of what one holds.
    Drop,
    /// Throw what one holds.
    Throw {
        /// How fast along one's own axes, in metres per second; one faces -Z.
        velocity: [f64; 3],
    },
    /// Point somewhere, and maybe press or let go of the button.
    Point {
        /// Where on one's own screen.
        at: Spot,
        /// What the button does.
        #[serde(default)]
        button: Press,
    },
}

/// What a pointer's button does.
///
/// ```
/// assert_eq!(hazuro_link::Deed::Point { at: [1.0, 2.0].into(), button: Default::default() },
///     hazuro_link::Deed::Point { at: [1.0, 2.0].into(), button: hazuro_link::Press::Stays });
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Press {
    /// Stays as it is.
    #[default]
    Stays,
    /// Is pressed.
    Down,
    /// Is let go of.
    Up,
    /// Is pressed and let go of.
    Click,
}

/// A place, or the entity that is there then.
///
/// ```
/// use hazuro_link::To;
/// assert_eq!(To::from("mill"), To::Name("mill".into()));
/// ```
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(untagged)]
pub enum To {
    /// A place in the world, in metres.
    Place([f64; 3]),
    /// Where this entity is.
    Name(String),
}

/// A point of one's own screen, or where the middle of an entity is on it then.
///
/// ```
/// use hazuro_link::{Deed, Press, Spot};
/// let click = Deed::Point { at: "bell".into(), button: Press::Click };
/// assert_eq!(click, Deed::Point { at: Spot::Name("bell".into()), button: Press::Click });
/// ```
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(untagged)]
pub enum Spot {
    /// In pixels from the left and from the top.
    Pixel([f64; 2]),
    /// Where the middle of this entity is. Something else may be in front of it.
    Name(String),
}

impl From<[f64; 2]> for Spot {
    fn from(pixel: [f64; 2]) -> Self {
        Self::Pixel(pixel)
    }
}

impl From<&str> for Spot {
    fn from(name: &str) -> Self {
        Self::Name(name.into())
    }
}

/// Why a deed was not done.
///
/// ```
/// use hazuro_link::NotDone;
/// assert_eq!(NotDone::Late { seconds: 0.75 }.to_string(), "it came 0.75 s too late");
/// ```
#[derive(Clone, Debug, Error, PartialEq)]
#[non_exhaustive]
pub enum NotDone {
    /// There were too many.
    #[error("there are more than {most} deeds a second")]
    TooMany {
        /// How many may be done a second.
        most: u32,
    },
    /// It is meant for a time that is too far ahead.
    #[error("it is meant for {seconds:.2} s later")]
    Early {
        /// How far.
        seconds: f64,
    },
    /// It was meant for a time that has long been over.
    #[error("it came {seconds:.2} s too late")]
    Late {
        /// How long.
        seconds: f64,
    },
    /// It names what is not there, or a number is out of its range.
    #[error(transparent)]
    Fault(#[from] Fault),
}

impl From<[f64; 3]> for To {
    fn from(place: [f64; 3]) -> Self {
        Self::Place(place)
    }
}

impl From<&str> for To {
    fn from(name: &str) -> Self {
        Self::Name(name.into())
    }
}

impl To {
    fn target(&self, id: impl Fn(&str) -> Result<EntityId, Fault>) -> Result<Target, Fault> {
        Ok(match self {
            Self::Place(place) => (*place).into(),
            Self::Name(name) => id(name)?.into(),
        })
    }
}

impl Deed {
    /// What a player must ask for so that this happens, and who the player is; nothing if no client can ask
    /// for it.
    ///
    /// ```
    /// use hazuro::{Input, Scene, geometry::Shape, scene::{Body, Entity}};
    /// use hazuro_link::Deed;
    /// let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
    /// let scene = Scene::builder("Yard").entity(Entity::new("ada").player(true).body(body)).build()?;
    /// let who = scene.find("ada").unwrap();
    /// let walk = Input::Walk { who, to: [1.0, 0.0, 2.0].into() };
    /// assert_eq!(Deed::of(&scene, &walk), Some((who, Deed::Walk { to: [1.0, 0.0, 2.0].into() })));
    /// // Only the host puts somebody somewhere.
    /// assert_eq!(Deed::of(&scene, &Input::Place { who, at: [1.0, 0.0, 2.0].into() }), None);
    /// # Ok::<(), hazuro::scene::SceneErrors>(())
    /// ```
    pub fn of(scene: &Scene, input: &Input) -> Option<(EntityId, Self)> {
        let name = |id: &EntityId| scene.name(*id).to_owned();
        let to = |target: &Target| match target {
            Target::Entity(id) => Some(To::Name(name(id))),
            Target::Place(place) => Some(To::Place(place.to_array())),
            Target::Pose(_) => None,
        };
        Some(match input {
            Input::Walk { who, to: at } => (*who, Self::Walk { to: to(at)? }),
            Input::WalkStraight { who, to: at } => (*who, Self::WalkStraight { to: to(at)? }),
            Input::Follow { who, whom, near } => {
                (*who, Self::Follow { whom: name(whom), near: *near })
            }
            Input::Face { who, to: at } => (*who, Self::Face { to: to(at)? }),
            Input::Press { who, key } => (*who, Self::Press { key: key.clone() }),
            Input::Release { who, key } => (*who, Self::Release { key: key.clone() }),
            Input::Interact { who, with } => (*who, Self::Interact { with: name(with) }),
            Input::Grab { who, what } => (*who, Self::Grab { what: name(what) }),
            Input::Point { who, at, button } => {
                let button = match button {
                    Button::Stays => Press::Stays,
                    Button::Down => Press::Down,
                    Button::Up => Press::Up,
                    Button::Click => Press::Click,
                };
                let at = match at {
                    hazuro::Spot::Pixel(x, y) => Spot::Pixel([*x, *y]),
                    hazuro::Spot::Entity(id) => Spot::Name(name(id)),
                };
                (*who, Self::Point { at, button })
            }
            Input::Act(Action::Halt(who)) => (*who, Self::Halt),
            Input::Act(Action::Jump(who)) => (*who, Self::Jump),
            Input::Act(Action::Drop(who)) => (*who, Self::Drop),
            Input::Act(Action::Throw(Throw { what, velocity, spin: 0.0 })) => {
                (*what, Self::Throw { velocity: *velocity })
            }
            _ => return None,
        })
    }

    /// What it is as an input of this player, in this play.
    ///
    /// # Errors
    /// If it names what is not there or is somebody else's secret, which is not told apart, or a number is
    /// out of its range.
    pub(crate) fn input(&self, play: &Play, who: EntityId) -> Result<Input, Fault> {
        let scene = play.scene();
        let id = |name: &str| {
            let known = |id: &EntityId| play.knows(who, *id).unwrap_or(false);
            match scene.find(name).filter(known) {
                Some(id) => Ok(id),
                // A guess at what was meant would tell of secrets.
                None if scene.has_secrets() => {
                    Err(Fault::Unknown { what: Named::Entity, name: name.into(), nearest: None })
                }
                None => Err(name.fault(scene)),
            }
        };
        let input = match self {
            Self::Walk { to } => Input::Walk { who, to: to.target(id)? },
            Self::WalkStraight { to } => Input::WalkStraight { who, to: to.target(id)? },
            Self::Follow { whom, near } => Input::Follow { who, whom: id(whom)?, near: *near },
            Self::Halt => Input::Act(Action::Halt(who)),
            Self::Jump => Input::Act(Action::Jump(who)),
            Self::Face { to } => Input::Face { who, to: to.target(id)? },
            Self::Press { key } => Input::Press { who, key: key.clone() },
            Self::Release { key } => Input::Release { who, key: key.clone() },
            Self::Interact { with } => Input::Interact { who, with: id(with)? },
            Self::Grab { what } => Input::Grab { who, what: id(what)? },
            Self::Drop => Input::Act(Action::Drop(who)),
            Self::Throw { velocity } => {
                Input::Act(Action::Throw(Throw { what: who, velocity: *velocity, spin: 0.0 }))
            }
            Self::Point { at, button } => {
                let button = match button {
                    Press::Stays => Button::Stays,
                    Press::Down => Button::Down,
                    Press::Up => Button::Up,
                    Press::Click => Button::Click,
                };
                let at = match at {
                    Spot::Pixel([x, y]) => hazuro::Spot::Pixel(*x, *y),
                    Spot::Name(name) => hazuro::Spot::Entity(id(name)?),
                };
                Input::Point { who, at, button }
            }
        };
        input.check(scene)?;
        Ok(input)
    }
}
