//! Zones: shapes that detect and block nothing.

use crate::geometry::Shape;

/// A shape that detects and blocks nothing.
///
/// ```
/// use hazuro::scene::Zone;
/// use hazuro::geometry::Shape;
/// let pad = Zone::new(Shape::Box { size: [4.0, 2.0, 4.0] }).inside_every(0.5);
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Zone {
    pub(crate) shape: Shape,
    pub(crate) inside_every: Option<f64>,
}

impl Zone {
    /// A zone of this shape, centred on its entity.
    pub fn new(shape: Shape) -> Self {
        Self { shape, inside_every: None }
    }

    /// Report `inside` each time a subject has stayed for another `seconds`.
    #[must_use]
    pub fn inside_every(self, seconds: f64) -> Self {
        Self { inside_every: Some(seconds), ..self }
    }

    /// Its shape.
    pub fn shape(&self) -> &Shape {
        &self.shape
    }

    /// How many seconds lie between two `inside` events, if there are any.
    pub fn inside_interval(&self) -> Option<f64> {
        self.inside_every
    }
}
