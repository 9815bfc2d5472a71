//! What is said, in which languages.

use std::collections::BTreeMap;

/// A text in one or several languages.
///
/// Names between braces are filled when it is said: `{who}`, `{on}`, `{part}`, `{cue}`, `{need}`,
/// `{time}`, `{value}` of an event; `{count.NAME}` and `{flag.NAME}` of the scene;
/// `{who.count.NAME}`, `{who.flag.NAME}`, `{who.stat.NAME}`, `{who.slot.NAME}` and the same of `on`.
///
/// ```
/// use hazuro::scene::Text;
/// let toll = Text::from("{who} has paid.").and("de", "{who} hat bezahlt.");
/// assert_eq!(toll.in_language("de"), Some("{who} hat bezahlt."));
/// assert_eq!(toll.in_language("nl"), None);
/// ```
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Text {
    /// By language; under the empty name in the language of the scene.
    pub(crate) by_language: BTreeMap<String, String>,
}

impl Text {
    /// A text in one language.
    pub fn new(language: impl Into<String>, text: impl Into<String>) -> Self {
        Self::default().and(language, text)
    }

    /// And in another language.
    #[must_use]
    pub fn and(mut self, language: impl Into<String>, text: impl Into<String>) -> Self {
        self.by_language.insert(language.into(), text.into());
        self
    }

    /// The text in a language; the empty name stands for the scene's own.
    pub fn in_language(&self, language: &str) -> Option<&str> {
        self.by_language.get(language).map(String::as_str)
    }

    /// Its languages, and the text in each.
    pub fn languages(&self) -> impl Iterator<Item = (&str, &str)> {
        self.by_language.iter().map(|(language, text)| (language.as_str(), text.as_str()))
    }
}

/// A text in the scene's own language.
impl From<&str> for Text {
    fn from(text: &str) -> Self {
        Self::new("", text)
    }
}

/// A text in the scene's own language.
impl From<String> for Text {
    fn from(text: String) -> Self {
        Self::new("", text)
    }
}

/// A piece of a text.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Piece<'a> {
    Plain(&'a str),
    /// A name between braces.
    Name(&'a str),
}

/// The pieces of a text. A brace without its partner is plain.
pub(crate) fn pieces(text: &str) -> impl Iterator<Item = Piece<'_>> {
    let mut rest = text;
    std::iter::from_fn(move || {
        if rest.is_empty() {
            return None;
        }
        if let Some((name, after)) = rest.strip_prefix('{').and_then(|inner| inner.split_once('}'))
        {
            rest = after;
            return Some(Piece::Name(name));
        }
        let next = rest.char_indices().skip(1).find(|(_, letter)| *letter == '{');
        let end = next.map_or(rest.len(), |(at, _)| at);
        let (plain, after) = rest.split_at(end);
        rest = after;
        Some(Piece::Plain(plain))
    })
}

/// Whether a name between braces can be filled.
pub(crate) fn is_placeholder(name: &str) -> bool {
    let words: Vec<&str> = name.split('.').collect();
    match words.as_slice() {
        ["who" | "on" | "part" | "cue" | "need" | "time" | "value"] => true,
        ["count" | "flag", name] | ["who" | "on", "count" | "flag" | "stat" | "slot", name] => {
            !name.is_empty()
        }
        _ => false,
    }
}
