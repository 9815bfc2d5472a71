//! The three sides from which a scene is drawn, and the window that is drawn of it.

use std::fmt;

use hazuro::geometry::Aabb;
use hazuro::glam::DVec3;

/// A point of a drawing, in metres: to the right, and up.
pub type Flat = [f64; 2];

/// From where a scene is looked at.
///
/// ```
/// use hazuro_view::View;
/// // North, where an unturned body faces, is up on a map.
/// assert_eq!(View::Top.flat([2.0, 5.0, -1.0].into()), [2.0, 1.0]);
/// assert_eq!(View::Front.flat([2.0, 5.0, -1.0].into()), [2.0, 5.0]);
/// assert_eq!(View::Side.flat([2.0, 5.0, -1.0].into()), [1.0, 5.0]);
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum View {
    /// From above: east (+X) on the right, north (-Z) up.
    #[default]
    Top,
    /// From the south, looking north: east on the right, up is up.
    Front,
    /// From the east, looking west: north on the right, up is up.
    Side,
}

impl View {
    /// All of them.
    pub const ALL: [Self; 3] = [Self::Top, Self::Front, Self::Side];

    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Self::Top => "top",
            Self::Front => "front",
            Self::Side => "side",
        }
    }

    /// What it shows, in a few words.
    pub fn describe(self) -> &'static str {
        match self {
            Self::Top => "from above",
            Self::Front => "from the south",
            Self::Side => "from the east",
        }
    }

    /// Where a point of the world is in the drawing.
    pub fn flat(self, point: DVec3) -> Flat {
        match self {
            Self::Top => [point.x, -point.z],
            Self::Front => [point.x, point.y],
            Self::Side => [-point.z, point.y],
        }
    }

    /// How near to the eye a point of the world is, in metres: the greater the nearer.
    pub fn nearness(self, point: DVec3) -> f64 {
        match self {
            Self::Top => point.y,
            Self::Front => point.z,
            Self::Side => point.x,
        }
    }

    /// The direction in the world that is this one in the drawing.
    pub(crate) fn direction(self, [right, up]: Flat) -> DVec3 {
        match self {
            Self::Top => DVec3::new(right, 0.0, -up),
            Self::Front => DVec3::new(right, up, 0.0),
            Self::Side => DVec3::new(0.0, up, -right),
        }
    }

    /// The next one, round and round.
    #[must_use]
    pub fn next(self) -> Self {
        match self {
            Self::Top => Self::Front,
            Self::Front => Self::Side,
            Self::Side => Self::Top,
        }
    }
}

impl fmt::Display for View {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.pad(self.word())
    }
}

/// A rectangle of a drawing, in metres.
///
/// ```
/// use hazuro_view::Window;
/// let window = Window::around([0.0, 0.0], [4.0, 2.0]);
/// assert_eq!((window.min, window.max), ([-2.0, -1.0], [2.0, 1.0]));
/// assert!(window.holds([1.9, -0.9]) && !window.holds([0.0, 1.1]));
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Window {
    /// Its left and lower edges.
    pub min: Flat,
    /// Its right and upper edges.
    pub max: Flat,
}

impl Window {
    /// Around nothing: joins to whatever it is joined with.
    pub const EMPTY: Self = Self { min: [f64::INFINITY; 2], max: [f64::NEG_INFINITY; 2] };

    /// Around a middle, so wide and so high.
    pub fn around(middle: Flat, size: [f64; 2]) -> Self {
        Self {
            min: [middle[0] - size[0] / 2.0, middle[1] - size[1] / 2.0],
            max: [middle[0] + size[0] / 2.0, middle[1] + size[1] / 2.0],
        }
    }

    /// What a box of the world covers in a view.
    pub fn of(view: View, bounds: &Aabb) -> Self {
        Self::EMPTY.and(view.flat(bounds.min)).and(view.flat(bounds.max))
    }

    /// With this point, too.
    #[must_use]
    pub fn and(self, point: Flat) -> Self {
        let [x, y] = point;
        Self {
            min: [self.min[0].min(x), self.min[1].min(y)],
            max: [self.max[0].max(x), self.max[1].max(y)],
        }
    }

    /// The two together.
    #[must_use]
    pub fn join(self, other: Self) -> Self {
        if other.is_empty() { self } else { self.and(other.min).and(other.max) }
    }

    /// Whether it is around nothing.
    pub fn is_empty(&self) -> bool {
        !(self.min[0] <= self.max[0] && self.min[1] <= self.max[1])
    }

    /// Its width and height, in metres.
    pub fn size(&self) -> [f64; 2] {
        [self.max[0] - self.min[0], self.max[1] - self.min[1]]
    }

    /// Its middle.
    pub fn middle(&self) -> Flat {
        [f64::midpoint(self.min[0], self.max[0]), f64::midpoint(self.min[1], self.max[1])]
    }

    /// Larger by `by` metres on each side.
    #[must_use]
    pub fn grown(self, by: f64) -> Self {
        let [width, height] = self.size();
        Self::around(self.middle(), [width + 2.0 * by, height + 2.0 * by])
    }

    /// What of it lies in another.
    #[must_use]
    pub fn clipped(&self, to: &Self) -> Self {
        Self {
            min: [self.min[0].max(to.min[0]), self.min[1].max(to.min[1])],
            max: [self.max[0].min(to.max[0]), self.max[1].min(to.max[1])],
        }
    }

    /// The point in its upper left corner, this share of its size from the edges.
    pub fn upper_left(&self, share: f64) -> Flat {
        let [width, height] = self.size();
        [self.min[0] + width * share, self.max[1] - height * share]
    }

    /// Whether a point lies in it.
    pub fn holds(&self, [x, y]: Flat) -> bool {
        (self.min[0]..=self.max[0]).contains(&x) && (self.min[1]..=self.max[1]).contains(&y)
    }

    /// Whether the two have a point in common.
    pub fn meets(&self, other: &Self) -> bool {
        self.min[0] <= other.max[0]
            && other.min[0] <= self.max[0]
            && self.min[1] <= other.max[1]
            && other.min[1] <= self.max[1]
    }
}
