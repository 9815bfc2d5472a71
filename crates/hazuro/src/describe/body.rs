//! Bodies, as their author describes them.

use crate::geometry::{Pose, Shape};

/// What makes an entity move by itself and be detected.
///
/// ```
/// use hazuro::scene::{Body, Part};
/// use hazuro::geometry::Shape;
/// let person = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
/// let heron = Body::of_parts([
///     Part::new("legs", Shape::Capsule { radius: 0.1, height: 0.6 }).at([0.0, 0.3, 0.0]),
///     Part::new("head", Shape::Sphere { radius: 0.12 }).at([0.0, 1.0, -0.2]),
/// ]);
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Body {
    pub(crate) makeup: Makeup,
    pub(crate) walk: Option<f64>,
    pub(crate) legs: Legs,
    pub(crate) blocks: bool,
}

/// How a walker gets along.
///
/// ```
/// use hazuro::scene::{Body, Legs};
/// use hazuro::geometry::Shape;
/// let legs = Legs { jump: 1.1, ..Legs::default() };
/// let person = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0).legs(legs);
/// assert_eq!(person.walking_legs().step, 0.3);
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Legs {
    /// How high it jumps, in metres. The default is 0: it cannot jump.
    pub jump: f64,
    /// How high a step it goes up and down without jumping or falling, in metres. The
    /// default is 0.3.
    pub step: f64,
    /// The steepest slope it walks on, in radians. The default is 50 degrees; on what is
    /// steeper it slides down.
    pub slope: f64,
}

impl Default for Legs {
    fn default() -> Self {
        Self { jump: 0.0, step: 0.3, slope: 50_f64.to_radians() }
    }
}

/// What a body is made of.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Makeup {
    /// One shape, which stands on the origin of a body that walks.
    Whole(Shape),
    Parts(Vec<Part>),
}

impl Body {
    /// The name of the only part of a body that lists none.
    pub const WHOLE: &'static str = "body";

    /// A body of one shape: centred on its origin, or standing on it if the body walks.
    pub fn new(shape: Shape) -> Self {
        Self::made(Makeup::Whole(shape))
    }

    /// A body of several named shapes.
    pub fn of_parts(parts: impl IntoIterator<Item = Part>) -> Self {
        Self::made(Makeup::Parts(parts.into_iter().collect()))
    }

    fn made(makeup: Makeup) -> Self {
        Self { makeup, walk: None, legs: Legs::default(), blocks: false }
    }

    /// Give it a walker's legs, at `speed` metres per second. Without, the host drives it.
    #[must_use]
    pub fn walk(self, speed: f64) -> Self {
        Self { walk: Some(speed), ..self }
    }

    /// Say what its legs can do, if it walks.
    #[must_use]
    pub fn legs(self, legs: Legs) -> Self {
        Self { legs, ..self }
    }

    /// Let it be in the way of walkers and of what falls, as solids are.
    #[must_use]
    pub fn blocks(self, blocks: bool) -> Self {
        Self { blocks, ..self }
    }

    /// What its legs can do, if it walks.
    pub fn walking_legs(&self) -> &Legs {
        &self.legs
    }

    /// Whether it is in the way of walkers and of what falls.
    pub fn is_blocking(&self) -> bool {
        self.blocks
    }

    /// Its walking speed in metres per second, if it walks.
    pub fn walking_speed(&self) -> Option<f64> {
        self.walk
    }

    /// Its shape, if it is of one shape.
    pub fn shape(&self) -> Option<&Shape> {
        match &self.makeup {
            Makeup::Whole(shape) => Some(shape),
            Makeup::Parts(_) => None,
        }
    }

    /// Its named parts; none if it is of one shape.
    pub fn parts(&self) -> &[Part] {
        match &self.makeup {
            Makeup::Whole(_) => &[],
            Makeup::Parts(parts) => parts,
        }
    }
}

/// A named shape of a body.
#[derive(Clone, Debug, PartialEq)]
pub struct Part {
    pub(crate) name: String,
    pub(crate) shape: Shape,
    pub(crate) pose: Pose,
}

impl Part {
    /// A part centred on the body's origin.
    pub fn new(name: impl Into<String>, shape: Shape) -> Self {
        Self { name: name.into(), shape, pose: Pose::IDENTITY }
    }

    /// Put it here, relative to the body's origin.
    #[must_use]
    pub fn at(self, pose: impl Into<Pose>) -> Self {
        Self { pose: pose.into(), ..self }
    }

    /// Its name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// Its shape.
    pub fn shape(&self) -> &Shape {
        &self.shape
    }

    /// Its pose, relative to the body's origin.
    pub fn pose(&self) -> Pose {
        self.pose
    }
}
