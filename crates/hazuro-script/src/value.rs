//! What an expression gives.

use std::fmt;

use hazuro_format::Literal;
use rhai::Dynamic;

/// What an expression gives.
///
/// ```
/// use hazuro_format::Literal;
/// use hazuro_script::Value;
/// assert_eq!(Value::Number(0.1 + 0.2).to_string(), "0.3");
/// assert!(Value::Whole(3).is(&Literal::Number(3.0)) && !Value::Flag(true).is(&Literal::Whole(1)));
/// ```
#[derive(Clone, Debug, PartialEq)]
pub enum Value {
    /// True or false.
    Flag(bool),
    /// A whole number.
    Whole(i64),
    /// A number.
    Number(f64),
    /// A text.
    Text(String),
    /// A list, an entity or nothing, as a script would print it.
    Other(String),
}

impl Value {
    /// How far numbers may be apart and still be equal.
    pub const CLOSE: f64 = 1e-6;

    /// Whether it is what stands in a file. A number may be off by [`CLOSE`](Self::CLOSE).
    pub fn is(&self, literal: &Literal) -> bool {
        self.is_within(literal, Self::CLOSE)
    }

    /// Whether it is what stands in a file, or a number that is at most `off` from it.
    pub fn is_within(&self, literal: &Literal, off: f64) -> bool {
        let near = |one: f64, other: f64| one == other || (one - other).abs() <= off;
        match (self, literal) {
            (Self::Flag(one), Literal::Flag(other)) => one == other,
            (Self::Text(one), Literal::Text(other)) => one == other,
            (Self::Whole(one), Literal::Whole(other)) => one.abs_diff(*other) as f64 <= off,
            (Self::Number(one), Literal::Whole(other)) => near(*one, *other as f64),
            (Self::Whole(one), Literal::Number(other)) => near(*one as f64, *other),
            (Self::Number(one), Literal::Number(other)) => near(*one, *other),
            _ => false,
        }
    }
}

impl From<Dynamic> for Value {
    fn from(value: Dynamic) -> Self {
        if let Ok(flag) = value.as_bool() {
            Self::Flag(flag)
        } else if let Ok(whole) = value.as_int() {
            Self::Whole(whole)
        } else if let Ok(number) = value.as_float() {
            Self::Number(number)
        } else {
            let text = value.to_string();
            if value.is_string() { Self::Text(text) } else { Self::Other(text) }
        }
    }
}

/// As people write it: numbers to nine places.
impl fmt::Display for Value {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Flag(flag) => flag.fmt(f),
            Self::Whole(number) => number.fmt(f),
            Self::Number(number) => Dynamic::from((number * 1e9).round() / 1e9).fmt(f),
            Self::Text(text) | Self::Other(text) => f.write_str(text),
        }
    }
}
