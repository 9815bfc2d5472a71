//! What would cure a finding: in words, and as edits of the file where they are certain.

use std::fmt::{self, Display};

use hazuro::scene::{Detector, Fault, Named, Need, nearest};

/// What would cure something that is wrong in a file.
///
/// ```
/// use hazuro_format::Cure;
/// let cure = Cure::nearest("gaet", ["gate", "wall"], || "there are gate and wall".into());
/// assert_eq!(cure.to_string(), "did you mean `gate`?");
/// assert_eq!(cure.instead(), Some(("gaet", "gate")));
/// assert_eq!(Cure::from("take it away").instead(), None);
/// ```
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Cure {
    words: String,
    /// The word that is wrong, and the one to write instead.
    instead: Option<Box<(String, String)>>,
}

impl Cure {
    /// To write `right` where `wrong` stands.
    pub fn meant(wrong: impl Into<String>, right: impl Into<String>) -> Self {
        let right = right.into();
        let words = format!("did you mean `{right}`?");
        Self { words, instead: Some(Box::new((wrong.into(), right))) }
    }

    /// To write the nearest of the names there are; if none is near, `otherwise`.
    pub fn nearest<'a>(
        wrong: &str,
        known: impl IntoIterator<Item = &'a str>,
        otherwise: impl FnOnce() -> String,
    ) -> Self {
        match nearest(wrong, known) {
            Some(right) => Self::meant(wrong, right),
            None => otherwise().into(),
        }
    }

    /// With another sentence after it.
    #[must_use]
    pub fn and(self, more: &str) -> Self {
        Self { words: format!("{} {more}", self.words), ..self }
    }

    /// In other words.
    #[must_use]
    pub(crate) fn map(self, words: impl FnOnce(&str) -> String) -> Self {
        Self { words: words(&self.words), ..self }
    }

    /// In words.
    pub fn words(&self) -> &str {
        &self.words
    }

    /// The word that is wrong and the one to write instead, if that is all.
    pub fn instead(&self) -> Option<(&str, &str)> {
        let (wrong, right) = self.instead.as_deref()?;
        Some((wrong.as_str(), right.as_str()))
    }
}

impl Display for Cure {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.words)
    }
}

impl From<String> for Cure {
    fn from(words: String) -> Self {
        Self { words, instead: None }
    }
}

impl From<&str> for Cure {
    fn from(words: &str) -> Self {
        words.to_owned().into()
    }
}

/// What would cure a fault, as it is written in a file where that differs from what a program would
/// do; none if nothing can be said.
///
/// ```
/// use hazuro::{Scene, Play, scene::Entity};
/// let play = Play::new(Scene::builder("Yard").entity(Entity::new("gate")).build().unwrap());
/// let fault = play.pose("gaet").unwrap_err();
/// assert_eq!(hazuro_format::cure_of(&fault).unwrap().words(), "did you mean `gate`?");
/// ```
pub fn cure_of(fault: &Fault) -> Option<Cure> {
    let words = match fault {
        Fault::Unknown { name, nearest: Some(nearest), .. }
        | Fault::NoSlot { name, nearest: Some(nearest), .. } => {
            return Some(Cure::meant(name, nearest));
        }
        Fault::Unknown { what: Named::Text, name, nearest: None } => {
            format!("add it: [texts] \"{name}\" = \"...\"")
        }
        Fault::NoDetector { detector: Detector::Stats, name, relative: None, .. } => {
            format!("give it one: `{name}` with stats = {{ health = {{ start = 100 }} }}")
        }
        Fault::LooksForNothing => "name one: of = [\"bodies\"]".into(),
        Fault::NoPlayer { .. } => "only players press keys and point: give it player = true".into(),
        Fault::Unable { need: Need::Stock, name, .. } => {
            format!("give it one: [kind.{name}] stock = 10")
        }
        other => return other.cure().map(Cure::from),
    };
    Some(words.into())
}
