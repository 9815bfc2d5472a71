//! What is allowed though it looks like a mistake.

use super::Field;

/// A finding that a scene allows, with the reason.
///
/// ```
/// use hazuro::{Scene, scene::Field};
/// let scene = Scene::builder("Yard")
///     .allow(Field::ROOT, "never-set-off", "the host adds the barges")
///     .build()?;
/// assert_eq!(scene.allowances()[0].because, "the host adds the barges");
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Allowance {
    /// Where: there and below.
    pub field: Field,
    /// The code of the finding.
    pub finding: String,
    /// Why it is no mistake.
    pub because: String,
}

impl Field {
    /// Whether this field is another or below it.
    pub fn is_within(&self, other: &Self) -> bool {
        self.steps().starts_with(other.steps())
    }
}
