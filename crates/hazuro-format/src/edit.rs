//! Edits of a file: what stands where, and what to write instead.

use std::ops::Range;

use crate::source::Source;

/// A piece of a file, and what to write instead.
///
/// ```
/// use hazuro::scene::Field;
/// use hazuro_format::{Editor, Source, Spans, with_edits};
/// let source = Source::new("yard.toml", "[[entity]]\nname = \"pad\"\n");
/// let spans = Spans::of(&source).unwrap();
/// let entity = Field::ROOT.key("entity").item(0);
/// let edit = Editor::new(&source, &spans).set(&entity, "enabled", &false.into()).unwrap();
/// assert_eq!(with_edits(source.text(), &[edit]), "[[entity]]\nname = \"pad\"\nenabled = false\n");
/// ```
#[derive(Clone, Debug)]
pub struct Edit {
    pub(crate) source: Source,
    pub(crate) range: Range<usize>,
    pub(crate) new: String,
}

/// A text with edits of it, which must not overlap.
pub fn with_edits(text: &str, edits: &[Edit]) -> String {
    let mut edits: Vec<&Edit> = edits.iter().collect();
    edits.sort_by_key(|edit| edit.range.start);
    let (mut edited, mut done) = (String::new(), 0);
    for Edit { range, new, .. } in edits {
        edited.push_str(&text[done..range.start]);
        edited.push_str(new);
        done = range.end;
    }
    edited + &text[done..]
}

impl Edit {
    /// In which text.
    pub fn source(&self) -> &Source {
        &self.source
    }

    /// Which bytes of it.
    pub fn range(&self) -> Range<usize> {
        self.range.clone()
    }

    /// What stands there.
    pub fn old(&self) -> &str {
        &self.source.text()[self.range.clone()]
    }

    /// What to write instead.
    pub fn new_text(&self) -> &str {
        &self.new
    }

    /// Writes `right` where the word `wrong` stands among some bytes; none if it stands there more
    /// than once or not as it is, or if `right` would have to be quoted.
    pub fn word(source: &Source, within: Range<usize>, wrong: &str, right: &str) -> Option<Self> {
        let text = source.text();
        let is_part = |c: char| c.is_alphanumeric() || c == '_' || c == '-';
        let ends = |at: Range<usize>| {
            !text[..at.start].ends_with(is_part) && !text[at.end..].starts_with(is_part)
        };
        let mut found = text.get(within.clone())?.match_indices(wrong).map(|(at, _)| {
            let start = within.start + at;
            start..start + wrong.len()
        });
        let range = found.find(|range| !wrong.is_empty() && ends(range.clone()))?;
        if found.any(ends) {
            return None;
        }
        let quoted = text[..range.start].ends_with(['"', '\'']);
        let plain = |c: char| is_part(c) || quoted && " .:/*".contains(c);
        (right.chars().all(plain) && right.is_ascii()).then(|| Self {
            source: source.clone(),
            range,
            new: right.to_owned(),
        })
    }
}
