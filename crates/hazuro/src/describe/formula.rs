//! Numbers that are worked out when they are needed, written by the author of a scene.

use std::fmt;
use std::sync::Arc;

use crate::shown::number;

use super::Facts;

type Work = dyn Fn(&dyn Facts) -> Result<f64, String> + Send + Sync;

/// How a number is worked out at a moment, with the text it was written as. `who` and `on` are the
/// subject and the detector of the event; in the score of a seeker the target and the seeker.
///
/// ```
/// use hazuro::scene::Formula;
/// let highest = Formula::new("highest", |facts| facts.position(facts.who().unwrap()).y);
/// assert_eq!(highest.text(), "highest");
/// ```
#[derive(Clone)]
pub struct Formula {
    text: String,
    /// What the text gives is multiplied by this.
    unit: f64,
    work: Arc<Work>,
}

impl Formula {
    /// A formula that always has a value.
    pub fn new(
        text: impl Into<String>,
        work: impl Fn(&dyn Facts) -> f64 + Send + Sync + 'static,
    ) -> Self {
        Self::fallible(text, move |facts| Ok(work(facts)))
    }

    /// A formula that can fail; the message says why, in full.
    pub fn fallible(
        text: impl Into<String>,
        work: impl Fn(&dyn Facts) -> Result<f64, String> + Send + Sync + 'static,
    ) -> Self {
        Self { text: text.into(), unit: 1.0, work: Arc::new(work) }
    }

    /// The same in another unit: what its text gives is multiplied by `unit`, as by `PI / 180.0` where
    /// the text is in degrees.
    #[must_use]
    pub fn in_unit(self, unit: f64) -> Self {
        Self { unit: self.unit * unit, ..self }
    }

    /// The text it was written as.
    pub fn text(&self) -> &str {
        &self.text
    }

    /// By what the value of its text is multiplied.
    pub fn unit(&self) -> f64 {
        self.unit
    }

    pub(crate) fn value(&self, facts: &dyn Facts) -> Result<f64, String> {
        (self.work)(facts).map(|value| value * self.unit)
    }

    /// The value as a whole number.
    pub(crate) fn whole(&self, facts: &dyn Facts) -> Result<i64, String> {
        /// Above it not every whole number can be told from the next.
        const MOST: f64 = 9_007_199_254_740_992.0;
        let value = self.value(facts)?;
        if value.fract() == 0.0 && value.abs() <= MOST {
            return Ok(value as i64);
        }
        Err(format!("it gives {}, which is not a whole number", number(value)))
    }
}

/// Two formulas are equal if they were written alike.
impl PartialEq for Formula {
    fn eq(&self, other: &Self) -> bool {
        self.text == other.text && self.unit.to_bits() == other.unit.to_bits()
    }
}

impl fmt::Debug for Formula {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_tuple("Formula").field(&self.text).finish()
    }
}

/// A number as an author gives it: as it is, or as a formula.
///
/// ```
/// use hazuro::scene::{Formula, Quantity};
/// let (two, count) = (Quantity::from(2.0), Formula::new("visits", |facts| facts.count("visits") as f64));
/// assert_eq!(two.fixed(), Some(2.0));
/// assert_eq!(Quantity::<f64>::from(count).fixed(), None);
/// ```
#[derive(Clone, Debug, PartialEq)]
pub enum Quantity<N = f64> {
    /// This number.
    Fixed(N),
    /// Worked out anew each time it is needed.
    Formula(Formula),
}

impl<N: Copy> Quantity<N> {
    /// The number, if it is always the same.
    pub fn fixed(&self) -> Option<N> {
        match self {
            Self::Fixed(number) => Some(*number),
            Self::Formula(_) => None,
        }
    }
}

impl Quantity {
    /// The same in another unit: each value is multiplied by `unit`.
    #[must_use]
    pub fn in_unit(self, unit: f64) -> Self {
        match self {
            Self::Fixed(number) => Self::Fixed(number * unit),
            Self::Formula(formula) => Self::Formula(formula.in_unit(unit)),
        }
    }
}

impl<N> Quantity<N> {
    /// The formula, if it is one.
    pub fn formula(&self) -> Option<&Formula> {
        match self {
            Self::Fixed(_) => None,
            Self::Formula(formula) => Some(formula),
        }
    }
}

impl<N: fmt::Display> fmt::Display for Quantity<N> {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Self::Fixed(number) => number.fmt(f),
            Self::Formula(formula) => f.write_str(&formula.text),
        }
    }
}

impl From<f64> for Quantity {
    fn from(number: f64) -> Self {
        Self::Fixed(number)
    }
}

impl From<i64> for Quantity<i64> {
    fn from(number: i64) -> Self {
        Self::Fixed(number)
    }
}

impl<N> From<Formula> for Quantity<N> {
    fn from(formula: Formula) -> Self {
        Self::Formula(formula)
    }
}
