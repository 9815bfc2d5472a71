//! The text of a file.

use std::ops::Range;
use std::path::Path;
use std::sync::Arc;

/// The text of a file, with the name to call it by.
#[derive(Clone, Debug)]
pub struct Source(Arc<Named>);

#[derive(Debug)]
struct Named {
    name: String,
    text: String,
    /// The text, byte for byte, with nothing in it that does anything to a terminal, if it is another.
    #[cfg(feature = "draw")]
    harmless: std::sync::OnceLock<Option<String>>,
}

/// In which of the two ways a file is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Format {
    /// TOML 1.0.
    Toml,
    /// JSON (RFC 8259), for a file whose name ends in `.json`.
    Json,
}

/// A text of the same length, in which each character that would do something to what shows it is
/// another one. None if there is nothing to change.
#[cfg(feature = "draw")]
fn harmless(text: &str) -> Option<String> {
    // Line breaks and tabs are what a snippet is laid out by; a backslash is shown as it is.
    let is_plain = |character: char, next: Option<char>| match character {
        '\n' | '\t' | '\\' => true,
        '\r' => next == Some('\n'),
        _ => !hazuro::shown(character.encode_utf8(&mut [0; 4])).starts_with('\\'),
    };
    let next = || text.chars().skip(1).map(Some).chain([None]);
    let replaced = |(character, next): (char, Option<char>)| match (
        is_plain(character, next),
        character.len_utf8(),
    ) {
        (true, _) => character,
        (false, 1) => '?',
        (false, 2) => '¿',
        (false, _) => '\u{fffd}',
    };
    let all_plain = text.chars().zip(next()).all(|(character, next)| is_plain(character, next));
    (!all_plain).then(|| text.chars().zip(next()).map(replaced).collect())
}

impl Source {
    /// A text that does not come from a file.
    pub fn new(name: impl AsRef<str>, text: impl Into<String>) -> Self {
        Self(Arc::new(Named {
            name: name.as_ref().to_owned(),
            text: text.into(),
            #[cfg(feature = "draw")]
            harmless: std::sync::OnceLock::new(),
        }))
    }

    /// The name to call it by.
    pub fn name(&self) -> &str {
        &self.0.name
    }

    /// The whole text.
    pub fn text(&self) -> &str {
        &self.0.text
    }

    /// How it is written, going by its name.
    pub fn format(&self) -> Format {
        let json =
            Path::new(self.name()).extension().is_some_and(|end| end.eq_ignore_ascii_case("json"));
        if json { Format::Json } else { Format::Toml }
    }

    /// The name and the text, as they can be shown.
    #[cfg(feature = "draw")]
    pub(crate) fn to_show(&self) -> (String, &str) {
        let harmless = self.0.harmless.get_or_init(|| harmless(self.text()));
        (hazuro::shown(self.name()).into_owned(), harmless.as_deref().unwrap_or(self.text()))
    }

    /// The bytes of the word, or else the character, at a line and column, both from 1.
    pub fn word_at(&self, line: usize, column: usize) -> Range<usize> {
        let text = self.text();
        let before: usize = text.split_inclusive('\n').take(line.max(1) - 1).map(str::len).sum();
        let rest = text[before..].lines().next().unwrap_or_default();
        let at = rest.char_indices().nth(column.max(1) - 1).map_or(rest.len(), |(at, _)| at);
        let word = rest[at..].chars().take_while(|it| it.is_alphanumeric() || *it == '_');
        let first = rest[at..].chars().next().map_or(0, char::len_utf8);
        let length = word.map(char::len_utf8).sum::<usize>().max(first);
        before + at..before + at + length
    }

    /// How many bytes the longest line has of those in which some bytes stand, and of so many before
    /// and after them.
    #[cfg(feature = "draw")]
    pub(crate) fn longest_line(&self, bytes: &Range<usize>, around: usize) -> usize {
        let text = self.text().as_bytes();
        let is_break = |byte: &u8| *byte == b'\n';
        let line_start = |at| text[..at].iter().rposition(is_break).map_or(0, |last| last + 1);
        let line_end = |at| text[at..].iter().position(is_break).map_or(text.len(), |n| at + n);
        let mut start = line_start(bytes.start.min(text.len()));
        let mut end = line_end(bytes.end.clamp(start, text.len()));
        for _ in 0..around {
            start = line_start(start.saturating_sub(1));
            end = line_end((end + 1).min(text.len()));
        }
        text[start..end].split(is_break).map(<[u8]>::len).max().unwrap_or(0)
    }

    /// The line and column, from 1, of a byte.
    pub fn line_and_column(&self, offset: usize) -> (usize, usize) {
        let text = self.text();
        let mut offset = offset.min(text.len());
        while !text.is_char_boundary(offset) {
            offset -= 1;
        }
        let before = &text[..offset];
        let line_start = before.rfind('\n').map_or(0, |newline| newline + 1);
        (before.matches('\n').count() + 1, before[line_start..].chars().count() + 1)
    }
}
