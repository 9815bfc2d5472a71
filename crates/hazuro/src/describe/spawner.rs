//! What keeps a number of a kind in the play.

/// Keeps a number of a kind in the play: brings them out of the kind's stock, anywhere in the zone of its
/// entity by chance, which comes from the scene's seed.
///
/// ```
/// use hazuro::geometry::Shape;
/// use hazuro::scene::{Entity, Kind, Spawner, Zone};
/// let reed = Kind::new("reed").stock(12);
/// let creek = Entity::new("creek")
///     .zone(Zone::new(Shape::Box { size: [2.0, 1.0, 20.0] }))
///     .spawner(Spawner { every: 0.5, oldest: Some(60.0), ..Spawner::of("reed", 9) });
/// # let _ = (reed, creek);
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Spawner {
    /// The kind, which needs a stock of at least as many.
    pub kind: String,
    /// How many there are to be.
    pub keep: u32,
    /// How many of them are there to begin with; the others come one by one, each `every` seconds. The
    /// default is all.
    pub first: Option<u32>,
    /// How many seconds it looks after whether one is missing; then it brings out one at most.
    pub every: f64,
    /// The age in seconds at which one is taken back.
    pub oldest: Option<f64>,
    /// What has left the zone of this entity is taken back.
    pub bounds: Option<String>,
}

impl Spawner {
    /// So many of a kind, looked after each second.
    pub fn of(kind: impl Into<String>, keep: u32) -> Self {
        Self { kind: kind.into(), keep, first: None, every: 1.0, oldest: None, bounds: None }
    }
}
