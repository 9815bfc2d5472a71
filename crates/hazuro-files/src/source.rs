//! Reading the text of a file.

use std::fs::File;
use std::io::{ErrorKind, Read};
use std::path::Path;
use std::sync::Arc;

use miette::NamedSource;

use crate::finding::{Finding, Severity};

/// The largest file that is read, in bytes.
const MAX_BYTES: u64 = 16 * 1024 * 1024;

/// The text of a file, with the name to call it by.
#[derive(Clone, Debug)]
pub struct Source {
    named: Arc<NamedSource<String>>,
}

/// In which of the two ways a file is written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Format {
    /// TOML 1.0.
    Toml,
    /// JSON (RFC 8259), for a file whose name ends in `.json`.
    Json,
}

impl Source {
    /// A text that does not come from a file.
    pub fn new(name: impl AsRef<str>, text: impl Into<String>) -> Self {
        Self { named: Arc::new(NamedSource::new(name, text.into())) }
    }

    /// Reads a file.
    ///
    /// # Errors
    /// If it does not exist, is a directory, is too large, or is not UTF-8.
    pub fn read(path: &Path) -> Result<Self, Finding> {
        let name = path.display().to_string();
        let error = |code, message: String| Finding::new(Severity::Error, code, message);
        let unreadable = |error: &std::io::Error| match error.kind() {
            ErrorKind::NotFound => {
                Finding::new(Severity::Error, "no-such-file", format!("there is no file `{name}`"))
                    .with_help("check the path; it is taken from the current directory")
            }
            _ => Finding::new(
                Severity::Error,
                "unreadable",
                format!("`{name}` cannot be read: {error}"),
            ),
        };
        let file = File::open(path).map_err(|error| unreadable(&error))?;
        if file.metadata().is_ok_and(|metadata| metadata.is_dir()) {
            let message = format!("`{name}` is a directory, not a scene or playtest");
            return Err(error("directory", message).with_help("name a file in it"));
        }
        let mut bytes = Vec::new();
        file.take(MAX_BYTES + 1).read_to_end(&mut bytes).map_err(|error| unreadable(&error))?;
        if bytes.len() as u64 > MAX_BYTES {
            let message = format!("`{name}` is larger than {} MB", MAX_BYTES / 1024 / 1024);
            return Err(error("too-large", message).with_help("is it a scene or playtest at all?"));
        }
        let text = String::from_utf8(bytes).map_err(|bad| {
            let upto = bad.utf8_error().valid_up_to();
            let line = bad.as_bytes()[..upto].split(|byte| *byte == b'\n').count();
            error("not-utf8", format!("`{name}` is not UTF-8 text: line {line}, byte {upto}"))
                .with_help("save it as UTF-8")
        })?;
        Ok(Self::new(name, text))
    }

    /// The name to call it by.
    pub fn name(&self) -> &str {
        self.named.name()
    }

    /// The whole text.
    pub fn text(&self) -> &str {
        self.named.inner()
    }

    /// How it is written, going by its name.
    pub fn format(&self) -> Format {
        let json =
            Path::new(self.name()).extension().is_some_and(|end| end.eq_ignore_ascii_case("json"));
        if json { Format::Json } else { Format::Toml }
    }

    pub(crate) fn named(&self) -> &Arc<NamedSource<String>> {
        &self.named
    }

    /// The bytes of the word, or else the character, at a line and column, both from 1.
    pub(crate) fn word_at(&self, line: usize, column: usize) -> std::ops::Range<usize> {
        let text = self.text();
        let before: usize = text.split_inclusive('\n').take(line.max(1) - 1).map(str::len).sum();
        let rest = text[before..].lines().next().unwrap_or_default();
        let at = rest.char_indices().nth(column.max(1) - 1).map_or(rest.len(), |(at, _)| at);
        let word = rest[at..].chars().take_while(|it| it.is_alphanumeric() || *it == '_');
        let first = rest[at..].chars().next().map_or(0, char::len_utf8);
        let length = word.map(char::len_utf8).sum::<usize>().max(first);
        before + at..before + at + length
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
