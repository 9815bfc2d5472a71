//! Whether an expectation was met.

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
