//! Who may set off a detector.

use super::Condition;

/// A detector's rule on which subjects may set it off. An empty rule admits all of them.
///
/// A list is met by any one of its words. Every list given must be met. A subject that meets any
/// list of `not` is refused.
///
/// ```
/// use hazuro::scene::Admit;
/// // Players, but not the apprentice.
/// let rule = Admit::tags(["player"]).not(Admit::names(["apprentice"]));
/// ```
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Admit {
    pub(crate) lists: Lists<String, String, String>,
    pub(crate) not: Lists<String, String, String>,
    pub(crate) layers: Vec<String>,
    pub(crate) not_layers: Vec<String>,
    pub(crate) players: bool,
    pub(crate) condition: Option<Condition>,
}

/// The three lists of a rule: as words in a description, as numbers in a scene.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Lists<T, K, E> {
    pub tags: Vec<T>,
    pub kinds: Vec<K>,
    pub names: Vec<E>,
}

impl<T, K, E> Default for Lists<T, K, E> {
    fn default() -> Self {
        Self { tags: Vec::new(), kinds: Vec::new(), names: Vec::new() }
    }
}

impl Admit {
    /// Subjects with one of these tags.
    pub fn tags<T: Into<String>>(tags: impl IntoIterator<Item = T>) -> Self {
        Self::default().and_tags(tags)
    }

    /// Subjects of one of these kinds.
    pub fn kinds<T: Into<String>>(kinds: impl IntoIterator<Item = T>) -> Self {
        Self::default().and_kinds(kinds)
    }

    /// Subjects with one of these names.
    pub fn names<T: Into<String>>(names: impl IntoIterator<Item = T>) -> Self {
        Self::default().and_names(names)
    }

    /// Subjects in one of these layers.
    pub fn layers<T: Into<String>>(layers: impl IntoIterator<Item = T>) -> Self {
        Self::default().and_layers(layers)
    }

    /// The same, and they must have one of these tags.
    #[must_use]
    pub fn and_tags<T: Into<String>>(mut self, tags: impl IntoIterator<Item = T>) -> Self {
        self.lists.tags.extend(tags.into_iter().map(Into::into));
        self
    }

    /// The same, and they must be of one of these kinds.
    #[must_use]
    pub fn and_kinds<T: Into<String>>(mut self, kinds: impl IntoIterator<Item = T>) -> Self {
        self.lists.kinds.extend(kinds.into_iter().map(Into::into));
        self
    }

    /// The same, and they must have one of these names.
    #[must_use]
    pub fn and_names<T: Into<String>>(mut self, names: impl IntoIterator<Item = T>) -> Self {
        self.lists.names.extend(names.into_iter().map(Into::into));
        self
    }

    /// The same, and they must be in one of these layers.
    #[must_use]
    pub fn and_layers<T: Into<String>>(mut self, layers: impl IntoIterator<Item = T>) -> Self {
        self.layers.extend(layers.into_iter().map(Into::into));
        self
    }

    /// The same, without the subjects that meet any list of `refused`. What `refused` itself refuses is ignored.
    #[must_use]
    pub fn not(mut self, refused: Self) -> Self {
        self.not.tags.extend(refused.lists.tags);
        self.not.kinds.extend(refused.lists.kinds);
        self.not.names.extend(refused.lists.names);
        self.not_layers.extend(refused.layers);
        self
    }

    /// The same, and they must be players.
    #[must_use]
    pub fn players(self) -> Self {
        Self { players: true, ..self }
    }

    /// Only while this holds, the subject being `who` and the detector `on`. It is tested when
    /// the subject would be detected, and again after each action of a reaction or handler.
    #[must_use]
    pub fn when(self, condition: Condition) -> Self {
        Self { condition: Some(condition), ..self }
    }

    /// Whether it admits players only.
    pub fn is_for_players(&self) -> bool {
        self.players
    }

    /// Its condition, if it has one.
    pub fn condition(&self) -> Option<&Condition> {
        self.condition.as_ref()
    }

    /// The tags, kinds and names admitted.
    pub fn admitted(&self) -> [&[String]; 3] {
        [&self.lists.tags, &self.lists.kinds, &self.lists.names]
    }

    /// The layers admitted, and those refused.
    pub fn layer_lists(&self) -> [&[String]; 2] {
        [&self.layers, &self.not_layers]
    }

    /// The tags, kinds and names refused.
    pub fn refused(&self) -> [&[String]; 3] {
        [&self.not.tags, &self.not.kinds, &self.not.names]
    }
}

/// The list of an [`Admit`] rule that decided against a subject.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Clause {
    /// It is in none of the layers.
    Layers,
    /// It has none of the tags.
    Tags,
    /// It is of none of the kinds.
    Kinds,
    /// It has none of the names.
    Names,
    /// It is no player.
    Players,
    /// It meets a list of `not`.
    Not,
}
