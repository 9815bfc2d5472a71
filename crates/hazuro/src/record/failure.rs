//! Why a handler or routine failed, and where.

/// Why a handler or routine failed.
///
/// ```
/// use hazuro::{Failure, Place};
/// let plain = Failure::from("no more sacks".to_owned());
/// let place = Place { file: "mill.rhai".into(), line: 3, column: 7 };
/// let located = Failure { place: Some(place), ..plain };
/// assert_eq!(located.message, "no more sacks");
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Failure {
    /// What went wrong, in full.
    pub message: String,
    /// Where, if it was in a file.
    pub place: Option<Place>,
}

/// A place in a file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Place {
    /// The file's name.
    pub file: String,
    /// The line, from 1.
    pub line: usize,
    /// The column, from 1.
    pub column: usize,
}

impl From<String> for Failure {
    fn from(message: String) -> Self {
        Self { message, place: None }
    }
}
