//! What is allowed though it looks like a mistake.

use super::{Field, Scene, SceneBuilder};

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

impl SceneBuilder {
    /// Allow what a check would find at a field of the description, or below it.
    #[must_use]
    pub fn allow(
        mut self,
        field: Field,
        finding: impl Into<String>,
        because: impl Into<String>,
    ) -> Self {
        let (finding, because) = (finding.into(), because.into());
        self.allowances.push(Allowance { field, finding, because });
        self
    }
}

impl Scene {
    /// The findings that the scene allows, in the order in which they were allowed.
    pub fn allowances(&self) -> &[Allowance] {
        &self.allowances
    }
}

impl Field {
    /// Whether this field is another or below it.
    pub fn is_within(&self, other: &Self) -> bool {
        self.steps().starts_with(other.steps())
    }
}
