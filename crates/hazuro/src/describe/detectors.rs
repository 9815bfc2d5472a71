//! Detectors other than zones, as their author describes them.

use std::collections::BTreeMap;
use std::fmt;

use crate::geometry::Shape;

use super::{Detector, Formula};

/// Detects bodies that touch something.
///
/// ```
/// use hazuro::geometry::Shape;
/// use hazuro::scene::{Entity, Touch};
/// // A pot that breaks when something hits it hard.
/// let pot = Entity::new("pot")
///     .solid(Shape::Cylinder { radius: 0.2, height: 0.5 })
///     .touch(Touch { at_least: 4.0, ..Touch::default() });
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Touch {
    /// What can be touched, if it is not the entity's solid, or else its zone or body. It need
    /// not block anything.
    pub shape: Option<Shape>,
    /// An event for each part of a body instead of one for the body.
    pub parts: bool,
    /// Solids that belong to no body touch it too.
    pub solids: bool,
    /// How fast the two must come together, in metres per second along the normal of the contact.
    pub at_least: f64,
    /// How near counts as touching, in metres, from 0.0001 to 1.
    pub margin: f64,
}

impl Default for Touch {
    /// One event a body, bodies only, however slow, within a centimetre.
    fn default() -> Self {
        Self { shape: None, parts: false, solids: false, at_least: 0.0, margin: 0.01 }
    }
}

/// A ray, or a swept shape, asked again and again, that starts where its owner is and turns with
/// it.
///
/// ```
/// use hazuro::scene::{Entity, Probe};
/// let feeler = Entity::new("feeler").probe(Probe { to: [0.0, 0.0, -4.0], ..Probe::default() });
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Probe {
    /// Where it starts, from its owner's origin, in metres.
    pub from: [f64; 3],
    /// Where it ends, from its owner's origin, in metres.
    pub to: [f64; 3],
    /// What is swept along it instead of a ray, not turning.
    pub shape: Option<Shape>,
    /// Seconds between two casts. The default is one tick at the scene's rate.
    pub every: Option<f64>,
    /// What it meets.
    pub among: Among,
    /// The layers it can hit. The default is all layers.
    pub layers: Vec<String>,
    /// Whether it meets its owner, what the owner belongs to and what belongs to that.
    pub own: bool,
}

impl Default for Probe {
    /// A ray of ten metres ahead that meets solids and bodies.
    fn default() -> Self {
        Self {
            from: [0.0; 3],
            to: [0.0, 0.0, -10.0],
            shape: None,
            every: None,
            among: Among { solids: true, bodies: true, zones: false },
            layers: Vec::new(),
            own: false,
        }
    }
}

/// What a detector looks for.
///
/// ```
/// use hazuro::scene::Among;
/// let walls = Among { solids: true, ..Among::default() };
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Among {
    /// What is solid.
    pub solids: bool,
    /// Bodies.
    pub bodies: bool,
    /// Zones.
    pub zones: bool,
}

/// Whom a detector can detect, whatever its rule of admission says.
///
/// ```
/// use hazuro::{Scene, scene::{Detector, Entity, Prompt}};
/// let scene = Scene::builder("Yard")
///     .entity(Entity::new("lever").prompt(Prompt::default()))
///     .build()?;
/// let scope = scene.scope_of(scene.find("lever").unwrap(), Detector::Prompt).unwrap();
/// assert!(scope.players && scope.among.bodies);
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Scope {
    /// What it looks for.
    pub among: Among,
    /// Players only.
    pub players: bool,
    /// It tells of its own entity, whatever that admits.
    pub itself: bool,
}

impl Scope {
    /// All with a body.
    pub(crate) const BODIES: Self = Self::of(Among { solids: false, bodies: true, zones: false });

    pub(crate) const fn of(among: Among) -> Self {
        Self { among, players: false, itself: false }
    }
}

/// Finds out what a body stands on, and how high it is above it. Its feet are the lowest point of
/// its parts.
///
/// ```
/// use hazuro::geometry::Shape;
/// use hazuro::scene::{Body, Entity, Footing};
/// let miller = Entity::new("miller")
///     .body(Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0))
///     .footing(Footing::default());
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Footing {
    /// How far above the ground, or sunk into it, still counts as standing, in metres.
    pub margin: f64,
    /// How many seconds it may be higher before it has left the ground.
    pub grace: f64,
    /// The steepest slope to stand on, in radians from level.
    pub slope: f64,
    /// How far down to look, in metres.
    pub reach: f64,
    /// The layers that count as ground. The default is all layers.
    pub layers: Vec<String>,
}

impl Default for Footing {
    /// Ten centimetres, a tenth of a second, 50 degrees, a hundred metres.
    fn default() -> Self {
        let slope = 50_f64.to_radians();
        Self { margin: 0.1, grace: 0.1, slope, reach: 100.0, layers: Vec::new() }
    }
}

/// A field of view: which bodies are in it, not hidden, and long enough to be noticed.
///
/// ```
/// use hazuro::scene::{Entity, Sight};
/// let owl = Entity::new("owl").sight(Sight { range: 12.0, notice: 0.5, ..Sight::default() });
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Sight {
    /// How far it sees, in metres.
    pub range: f64,
    /// The whole angle of view from left to right, in radians.
    pub angle: f64,
    /// The whole angle of view from bottom to top, in radians.
    pub rise: f64,
    /// Where the eye is, in metres relative to the entity's origin. The default is nine tenths of the
    /// height of its body, or the origin if it has no body.
    pub eye: Option<[f64; 3]>,
    /// Subjects within this distance of the eye, in metres, are noticed without being looked at or seen.
    pub near: f64,
    /// The layers whose solids block the view. The default is all layers.
    pub hides: Vec<String>,
    /// How many points of a body are tested, from 1 to 64.
    pub points: u32,
    /// The share of these points that must be seen, above 0, to 1.
    pub fraction: f64,
    /// How many seconds it takes to notice what is in view.
    pub notice: f64,
    /// How many seconds it takes to forget what is in view no more.
    pub forget: f64,
    /// Seconds between two looks.
    pub every: f64,
}

impl Default for Sight {
    /// Ten metres, 60 degrees by 60, one of five points, at once, ten times per second.
    fn default() -> Self {
        Self {
            range: 10.0,
            angle: 60.0_f64.to_radians(),
            rise: 60.0_f64.to_radians(),
            eye: None,
            near: 0.0,
            hides: Vec::new(),
            points: 5,
            fraction: 0.2,
            notice: 0.0,
            forget: 0.0,
            every: 0.1,
        }
    }
}

/// Keeps a target: the nearest body that it admits, or the one with the best score.
///
/// ```
/// use hazuro::scene::{Admit, Entity, Seeker};
/// let cock = Entity::new("weathercock")
///     .seeker(Seeker { range: 30.0, margin: 1.0, ..Seeker::default() })
///     .admit(Admit::tags(["sack"]));
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Seeker {
    /// How far away a target may be, in metres.
    pub range: f64,
    /// By how much another must be better, in metres or in score, to be chosen instead.
    pub margin: f64,
    /// What to choose among.
    pub among: Among,
    /// Only what no solid hides.
    pub sight: bool,
    /// The layers whose solids block the view. The default is all layers.
    pub hides: Vec<String>,
    /// Chooses the highest score instead of the nearest.
    pub score: Option<Formula>,
    /// Seconds between two choices.
    pub every: f64,
}

impl Default for Seeker {
    /// Bodies within ten metres, hidden or not; half a metre nearer; ten times per second.
    fn default() -> Self {
        Self {
            range: 10.0,
            margin: 0.5,
            among: Among { bodies: true, ..Among::default() },
            sight: false,
            hides: Vec::new(),
            score: None,
            every: 0.1,
        }
    }
}

/// The offer to use something, made to each player who is near enough; or something that can be
/// used without an offer.
///
/// ```
/// use hazuro::scene::{Entity, Prompt};
/// let lever = Entity::new("lever").prompt(Prompt {
///     reach: 1.5,
///     caption: "Pull".into(),
///     hold: 0.8,
///     ..Prompt::default()
/// });
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Prompt {
    /// How near the player's body must be, in metres.
    pub reach: f64,
    /// How much farther it may then go before the offer ends, in metres.
    pub margin: f64,
    /// The key to press, as W3C UI Events name it.
    pub key: String,
    /// What is offered, in a word or two, for a user interface to show.
    pub caption: String,
    /// More about it.
    pub detail: String,
    /// How many seconds the key must be held.
    pub hold: f64,
    /// Only if no solid is between the player's eyes and it.
    pub sight: bool,
    /// The whole angle ahead of the player in which it must be, in radians.
    pub angle: f64,
    /// Of several that exclude one another, the one of highest priority is offered.
    pub priority: i32,
    /// Offered beside others for the same key.
    pub several: bool,
    /// Makes no offers, but can be used: `interact` instead of `accept`.
    pub quiet: bool,
    /// What a player must have; a player that lacks it is refused.
    pub needs: Needs,
}

impl Default for Prompt {
    /// `KeyE` within two metres, from any side, pressed once.
    fn default() -> Self {
        Self {
            reach: 2.0,
            margin: 0.25,
            key: "KeyE".into(),
            caption: String::new(),
            detail: String::new(),
            hold: 0.0,
            sight: false,
            angle: std::f64::consts::TAU,
            priority: 0,
            several: false,
            quiet: false,
            needs: Needs::default(),
        }
    }
}

/// What it takes to use something.
///
/// ```
/// use hazuro::scene::Needs;
/// let toll = Needs { counts: [("tokens".into(), 4)].into(), ..Needs::default() };
/// ```
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Needs {
    /// Counts of the scene that must be at least so high.
    pub counts: BTreeMap<String, i64>,
    /// Counts of the player that must be at least so high.
    pub own_counts: BTreeMap<String, i64>,
    /// Stats of the player that must be at least so high.
    pub stats: BTreeMap<String, f64>,
    /// Tags that the player must have, all of them.
    pub tags: Vec<String>,
}

/// Detects what a player's pointer does over the entity's solid, body or zone.
///
/// ```
/// use hazuro::scene::{Drag, Entity, Pointer};
/// let bell = Entity::new("bell").pointer(Pointer { reach: 6.0, ..Pointer::default() });
/// let brake = Entity::new("brake")
///     .pointer(Pointer { drag: Some(Drag::Axis([1.0, 0.0, 0.0])), ..Pointer::default() });
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Pointer {
    /// The greatest distance from the camera, in metres.
    pub reach: f64,
    /// Whether the shapes of its children count for it, where they have no pointer of their own
    /// or nobody handles their events.
    pub children: bool,
    /// How it is dragged. By default it cannot be.
    pub drag: Option<Drag>,
}

impl Default for Pointer {
    /// Within a hundred metres, children too, not dragged.
    fn default() -> Self {
        Self { reach: 100.0, children: true, drag: None }
    }
}

/// Along what something is dragged. It keeps the offset at which it was grabbed.
///
/// ```
/// use hazuro::scene::Drag;
/// let floor = Drag::Plane([0.0, 1.0, 0.0]);
/// ```
#[derive(Clone, Debug, PartialEq)]
pub enum Drag {
    /// The plane with this normal, in the world, through where it was grabbed.
    Plane([f64; 3]),
    /// The line in this direction, in the world, through where it was grabbed.
    Axis([f64; 3]),
    /// The zone or solid of this entity, which need not be seen.
    Surface(String),
}

/// Turns a point of a screen into a ray. It looks along its entity's -Z.
///
/// ```
/// use hazuro::scene::{Camera, Entity, Lens};
/// let above = Entity::new("above").at([0.0, 20.0, 0.0]).camera(Camera {
///     look_at: Some("sluice_gate".into()),
///     lens: Lens::Orthographic { height: 30.0 },
///     ..Camera::default()
/// });
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Camera {
    /// The entity that it looks at, whichever way it is turned itself.
    pub look_at: Option<String>,
    /// How it pictures the world.
    pub lens: Lens,
    /// The width and height of the picture, in pixels. Points are counted from its top left.
    pub viewport: [f64; 2],
    /// The layers a pointer can hit through this camera. The default is all layers.
    pub layers: Vec<String>,
}

/// How a camera pictures the world.
///
/// ```
/// use hazuro::scene::Lens;
/// let wide = Lens::Perspective { angle: 90_f64.to_radians() };
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Lens {
    /// Things farther away are smaller.
    Perspective {
        /// The whole angle of view from bottom to top, in radians.
        angle: f64,
    },
    /// Things are equally large however far away.
    Orthographic {
        /// How much is seen from bottom to top, in metres.
        height: f64,
    },
}

impl Default for Camera {
    /// 50 degrees from bottom to top, in 1280 by 720 pixels.
    fn default() -> Self {
        let lens = Lens::Perspective { angle: 50_f64.to_radians() };
        Self { look_at: None, lens, viewport: [1280.0, 720.0], layers: Vec::new() }
    }
}

/// How often a detector may act. Its own for each sort of detector of an entity.
///
/// A subject that it may not detect is left alone for the rest of its visit, so that events stay
/// in pairs. A cooldown belongs to the entity that set it off and stays with it wherever it goes.
///
/// ```
/// use hazuro::scene::{Entity, Limits};
/// let bell = Entity::new("bell").limits(Limits { cooldown: 2.0, ..Limits::default() });
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Limits {
    /// The cooldown, in seconds after it began to detect a subject.
    pub cooldown: f64,
    /// The cooldown is one for all instead of one for each subject.
    pub shared: bool,
    /// How many times it may act. The default is no limit.
    pub limit: Option<u64>,
}

impl std::hash::Hash for Limits {
    fn hash<H: std::hash::Hasher>(&self, state: &mut H) {
        (self.cooldown.to_bits(), self.shared, self.limit).hash(state);
    }
}

macro_rules! detectors {
    ($($(#[$about:meta])* $name:ident $key:ident $of:ident $set:literal;)*) => {
        /// The detectors of a kind or an entity other than its zone; what is none is not there.
        #[derive(Clone, Debug, Default, PartialEq)]
        #[non_exhaustive]
        pub struct Detectors {
            $($(#[$about])* pub $key: Option<$name>,)*
        }

        impl Detectors {
            /// No detectors, for those who have none.
            pub(crate) const NONE: Self = Self { $($key: None,)* };

            /// These, and those of a kind where there are none of one's own.
            pub(crate) fn or(self, kind: &Self) -> Self {
                Self { $($key: self.$key.or_else(|| kind.$key.clone()),)* }
            }
        }

        $(impl Listed for $name {
            const DETECTOR: Detector = Detector::$name;
        })*
    };
}

crate::for_each_detector!(detectors);

/// The description of a detector of the list.
pub(crate) trait Listed {
    const DETECTOR: Detector;
}

/// A description from which what a play reads of a detector is made.
pub(crate) trait Described: Listed {
    /// The description with its names looked up and its numbers checked.
    type Spec: Clone + fmt::Debug;
}
