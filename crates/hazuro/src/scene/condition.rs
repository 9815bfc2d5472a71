//! Conditions: the `if` of a reaction.

use std::fmt;
use std::sync::Arc;

use glam::DVec3;

use crate::Time;

use super::{EntityId, Scene};

/// What a condition can ask about the moment it is tested at.
pub trait Facts {
    /// The scene being played.
    fn scene(&self) -> &Scene;
    /// The present moment.
    fn time(&self) -> Time;
    /// The subject of the event, if it has one.
    fn who(&self) -> Option<EntityId>;
    /// The detector of the event, if it has one.
    fn on(&self) -> Option<EntityId>;
    /// A count; 0 if nothing has changed it yet.
    fn count(&self, name: &str) -> i64;
    /// All counts, by name.
    fn counts(&self) -> Vec<(String, i64)>;
    /// Whether an entity and all its ancestors are on.
    fn is_enabled(&self, entity: EntityId) -> bool;
    /// Whether an entity is shown.
    fn is_visible(&self, entity: EntityId) -> bool;
    /// Where an entity is in the world.
    fn position(&self, entity: EntityId) -> DVec3;
    /// Who is inside a zone, in the scene's order.
    fn occupants(&self, zone: EntityId) -> Vec<EntityId>;
}

type Test = dyn Fn(&dyn Facts) -> Result<bool, String> + Send + Sync;

/// A question about the moment, with the text it was written as.
///
/// ```
/// use hazuro::scene::Condition;
/// let paid = Condition::new("four tokens", |facts| facts.count("tokens") >= 4);
/// assert_eq!(paid.text(), "four tokens");
/// ```
#[derive(Clone)]
pub struct Condition {
    text: String,
    test: Arc<Test>,
}

impl Condition {
    /// A condition that always has an answer.
    pub fn new(
        text: impl Into<String>,
        test: impl Fn(&dyn Facts) -> bool + Send + Sync + 'static,
    ) -> Self {
        Self::fallible(text, move |facts| Ok(test(facts)))
    }

    /// A condition that can fail; the message says why, in full.
    pub fn fallible(
        text: impl Into<String>,
        test: impl Fn(&dyn Facts) -> Result<bool, String> + Send + Sync + 'static,
    ) -> Self {
        Self { text: text.into(), test: Arc::new(test) }
    }

    /// The text it was written as.
    pub fn text(&self) -> &str {
        &self.text
    }

    pub(crate) fn holds(&self, facts: &dyn Facts) -> Result<bool, String> {
        (self.test)(facts)
    }
}

/// Two conditions are equal if they were written alike.
impl PartialEq for Condition {
    fn eq(&self, other: &Self) -> bool {
        self.text == other.text
    }
}

impl fmt::Debug for Condition {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_tuple("Condition").field(&self.text).finish()
    }
}
