//! How a movement gathers and loses speed: the easing functions of CSS Easing Level 1.

use std::fmt;
use std::hash::{Hash, Hasher};
use std::str::FromStr;

use thiserror::Error;

/// How progress follows time over one movement, as in CSS Easing Functions Level 1 (W3C).
///
/// Written as in CSS: `linear`, `ease`, `ease-in`, `ease-out`, `ease-in-out`,
/// `cubic-bezier(x1, y1, x2, y2)`, `step-start`, `step-end`, `steps(n)`, `steps(n, jump-start)`.
///
/// ```
/// use hazuro::motion::Easing;
/// let ease: Easing = "ease-in-out".parse()?;
/// assert_eq!(ease.progress(0.5), 0.5);
/// assert!(ease.progress(0.1) < 0.1);
/// # Ok::<(), hazuro::motion::EasingError>(())
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Easing {
    /// Progress equals time.
    #[default]
    Linear,
    /// A cubic Bezier curve from (0, 0) to (1, 1) with these two control points.
    CubicBezier {
        /// Time of the first control point, from 0 to 1.
        x1: f64,
        /// Progress of the first control point; beyond 0..1 it overshoots.
        y1: f64,
        /// Time of the second control point, from 0 to 1.
        x2: f64,
        /// Progress of the second control point; beyond 0..1 it overshoots.
        y2: f64,
    },
    /// Jumps of equal size. What lies between two steps is not travelled through.
    Steps {
        /// How many intervals, at least 1 (2 for [`StepPosition::JumpNone`]).
        count: u32,
        /// Where the jumps are.
        position: StepPosition,
    },
}

/// Where the jumps of [`Easing::Steps`] are.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum StepPosition {
    /// The first jump is at the start (`jump-start` or `start`).
    JumpStart,
    /// The last jump is at the end (`jump-end` or `end`).
    #[default]
    JumpEnd,
    /// No jump at either end (`jump-none`).
    JumpNone,
    /// Jumps at both ends (`jump-both`).
    JumpBoth,
}

/// An easing that cannot be read.
#[derive(Clone, Debug, PartialEq, Eq, Error)]
pub enum EasingError {
    /// It is none of the words and functions known.
    #[error(
        "`{0}` is no easing: use linear, ease, ease-in, ease-out, ease-in-out, \
         cubic-bezier(x1, y1, x2, y2), step-start, step-end or steps(n, jump-end)"
    )]
    Unknown(String),
    /// A `cubic-bezier` with other than four finite numbers, or times outside 0 to 1.
    #[error("cubic-bezier takes four numbers, the first and third from 0 to 1; `{0}` does not fit")]
    Bezier(String),
    /// A `steps` with a count or position that does not exist.
    #[error(
        "steps takes a whole number from 1 to 1000 (at least 2 with jump-none) and one of \
         jump-start, jump-end, jump-none, jump-both, start, end; `{0}` does not fit"
    )]
    Steps(String),
}

impl Easing {
    /// CSS `ease`.
    pub const EASE: Self = Self::CubicBezier { x1: 0.25, y1: 0.1, x2: 0.25, y2: 1.0 };
    /// CSS `ease-in`.
    pub const EASE_IN: Self = Self::CubicBezier { x1: 0.42, y1: 0.0, x2: 1.0, y2: 1.0 };
    /// CSS `ease-out`.
    pub const EASE_OUT: Self = Self::CubicBezier { x1: 0.0, y1: 0.0, x2: 0.58, y2: 1.0 };
    /// CSS `ease-in-out`.
    pub const EASE_IN_OUT: Self = Self::CubicBezier { x1: 0.42, y1: 0.0, x2: 0.58, y2: 1.0 };

    const WORDS: [(&'static str, Self); 7] = [
        ("linear", Self::Linear),
        ("ease", Self::EASE),
        ("ease-in", Self::EASE_IN),
        ("ease-out", Self::EASE_OUT),
        ("ease-in-out", Self::EASE_IN_OUT),
        ("step-start", Self::Steps { count: 1, position: StepPosition::JumpStart }),
        ("step-end", Self::Steps { count: 1, position: StepPosition::JumpEnd }),
    ];

    /// How much of the way is done when this much of the time is over. Both are 0 before the
    /// start and 1 from the end on.
    pub fn progress(&self, time: f64) -> f64 {
        if time >= 1.0 {
            return 1.0;
        }
        match *self {
            Self::Linear => time.max(0.0),
            Self::CubicBezier { .. } if time <= 0.0 => 0.0,
            Self::CubicBezier { x1, y1, x2, y2 } => bezier(y1, y2, solve(x1, x2, time)),
            Self::Steps { .. } if time < 0.0 => 0.0,
            Self::Steps { count, position } => {
                let step = (time * f64::from(count)).floor();
                let count = f64::from(count);
                match position {
                    StepPosition::JumpStart => (step + 1.0) / count,
                    StepPosition::JumpEnd => step / count,
                    StepPosition::JumpNone => step / (count - 1.0),
                    StepPosition::JumpBoth => (step + 1.0) / (count + 1.0),
                }
            }
        }
    }
}

impl Hash for Easing {
    fn hash<H: Hasher>(&self, state: &mut H) {
        match *self {
            Self::Linear => 0_u8.hash(state),
            Self::CubicBezier { x1, y1, x2, y2 } => {
                let bits = |number: f64| (number + 0.0).to_bits();
                (bits(x1), bits(y1), bits(x2), bits(y2)).hash(state);
            }
            Self::Steps { count, position } => (count, position).hash(state),
        }
    }
}

/// One coordinate of a cubic Bezier curve from 0 to 1 with control values `a` and `b`.
fn bezier(a: f64, b: f64, t: f64) -> f64 {
    let u = 1.0 - t;
    3.0 * u * u * t * a + 3.0 * u * t * t * b + t * t * t
}

/// The parameter at which the curve's time is `x`. Time never falls along the curve, so bisection
/// always works; it ends at the last bit.
fn solve(x1: f64, x2: f64, x: f64) -> f64 {
    let (mut low, mut high) = (0.0, 1.0);
    loop {
        let middle = f64::midpoint(low, high);
        if middle <= low || middle >= high {
            return middle;
        }
        let value = bezier(x1, x2, middle);
        if value == x {
            return middle;
        }
        if value < x {
            low = middle;
        } else {
            high = middle;
        }
    }
}

impl FromStr for Easing {
    type Err = EasingError;

    fn from_str(text: &str) -> Result<Self, EasingError> {
        let text = text.trim();
        if let Some((_, easing)) = Self::WORDS.iter().find(|(word, _)| *word == text) {
            return Ok(*easing);
        }
        let arguments = |name: &str| {
            let inner =
                text.strip_prefix(name)?.trim_start().strip_prefix('(')?.strip_suffix(')')?;
            Some(inner.split(',').map(str::trim).collect::<Vec<_>>())
        };
        if let Some(words) = arguments("cubic-bezier") {
            let numbers: Option<Vec<f64>> = words
                .iter()
                .map(|word| word.parse().ok().filter(|number: &f64| number.is_finite()))
                .collect();
            return match numbers.as_deref() {
                Some(&[x1, y1, x2, y2]) if [x1, x2].iter().all(|x| (0.0..=1.0).contains(x)) => {
                    Ok(Self::CubicBezier { x1, y1, x2, y2 })
                }
                _ => Err(EasingError::Bezier(text.into())),
            };
        }
        if let Some(words) = arguments("steps") {
            return parse_steps(&words).ok_or_else(|| EasingError::Steps(text.into()));
        }
        Err(EasingError::Unknown(text.into()))
    }
}

fn parse_steps(words: &[&str]) -> Option<Easing> {
    let (count, position) = match *words {
        [count] => (count, StepPosition::JumpEnd),
        [count, position] => {
            let position = match position {
                "jump-start" | "start" => StepPosition::JumpStart,
                "jump-end" | "end" => StepPosition::JumpEnd,
                "jump-none" => StepPosition::JumpNone,
                "jump-both" => StepPosition::JumpBoth,
                _ => return None,
            };
            (count, position)
        }
        _ => return None,
    };
    let count = count.parse().ok()?;
    let least = if position == StepPosition::JumpNone { 2 } else { 1 };
    (least..=1000).contains(&count).then_some(Easing::Steps { count, position })
}

/// As in CSS, so that it can be read back.
impl fmt::Display for Easing {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        if let Some((word, _)) = Self::WORDS.iter().find(|(_, easing)| easing == self) {
            return f.write_str(word);
        }
        match self {
            Self::Linear => f.write_str("linear"),
            Self::CubicBezier { x1, y1, x2, y2 } => {
                write!(f, "cubic-bezier({x1}, {y1}, {x2}, {y2})")
            }
            Self::Steps { count, position } => {
                let position = match position {
                    StepPosition::JumpStart => "jump-start",
                    StepPosition::JumpEnd => "jump-end",
                    StepPosition::JumpNone => "jump-none",
                    StepPosition::JumpBoth => "jump-both",
                };
                write!(f, "steps({count}, {position})")
            }
        }
    }
}
