//! A value as it stands in a file.

use std::fmt;

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A value as it stands in a file, where more than one sort can.
///
/// ```
/// use hazuro_format::Literal;
/// assert_eq!(Literal::Text("oak".into()).to_string(), "\"oak\"");
/// assert_eq!(Literal::Whole(3).to_string(), "3");
/// ```
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize, JsonSchema)]
#[serde(untagged, expecting = "a number, a text, or true or false")]
pub enum Literal {
    /// True or false.
    Flag(bool),
    /// A whole number.
    Whole(i64),
    /// A number.
    Number(f64),
    /// A text.
    Text(String),
}

impl fmt::Display for Literal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Flag(flag) => flag.fmt(f),
            Self::Whole(number) => number.fmt(f),
            Self::Number(number) => number.fmt(f),
            Self::Text(text) => write!(f, "\"{text}\""),
        }
    }
}
