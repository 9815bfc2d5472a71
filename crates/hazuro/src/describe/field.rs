//! Where something stands in a description.

use std::fmt;

/// The field of a description that is at fault, as in `entity[2].admit.tags[0]`.
///
/// The steps are those of the scene file, so that a reader of files can point at the text.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Field(Vec<Step>);

/// One step of a [`Field`].
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Step {
    /// Into the value of this key.
    Key(String),
    /// To this item of a list, from 0.
    Item(usize),
}

impl Field {
    /// The whole description.
    pub const ROOT: Self = Self(Vec::new());

    /// The value of `key` in this one.
    #[must_use]
    pub fn key(&self, key: impl Into<String>) -> Self {
        let mut steps = self.0.clone();
        steps.push(Step::Key(key.into()));
        Self(steps)
    }

    /// Item number `index`, from 0, of this one.
    #[must_use]
    pub fn item(&self, index: usize) -> Self {
        let mut steps = self.0.clone();
        steps.push(Step::Item(index));
        Self(steps)
    }

    /// A field below this one, given from here.
    pub(crate) fn join(&self, below: &Self) -> Self {
        Self(self.0.iter().chain(&below.0).cloned().collect())
    }

    /// The steps from the whole description to this field.
    pub fn steps(&self) -> &[Step] {
        &self.0
    }
}

impl fmt::Display for Field {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (index, step) in self.0.iter().enumerate() {
            match step {
                Step::Key(key) if index == 0 => f.write_str(key)?,
                Step::Key(key) => write!(f, ".{key}")?,
                Step::Item(item) => write!(f, "[{item}]")?,
            }
        }
        Ok(())
    }
}
