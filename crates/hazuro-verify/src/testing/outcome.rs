//! What was seen of an expectation, and whether it was met.

use hazuro::EntityId;
use hazuro::glam::DVec3;
use hazuro_script::Value;

/// Whether one expectation was met.
#[derive(Clone, Debug)]
pub struct Outcome {
    /// Whether it was met.
    pub met: bool,
    /// What was expected, in words.
    pub expected: String,
    /// What was seen, in words; for an expectation that was met, what met it.
    pub seen: String,
    /// Why it was not met, and what would cure it, a line each.
    pub why: Vec<String>,
    /// The line of the file it stands on, from 1.
    pub line: usize,
}

/// What was seen of an expectation at its moment.
#[derive(Clone, Debug)]
pub(super) enum Seen {
    /// What an expression gave, or why it gave nothing.
    Value(Result<Value, String>),
    /// Where the entity was, and where it was expected.
    Place(DVec3, DVec3),
    /// Whether it was so; if not, and it is about what is shown, the first of it and its ancestors
    /// that is hidden or off.
    Is(bool, Option<EntityId>),
}
