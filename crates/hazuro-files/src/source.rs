//! Reading the text of a file.

use std::fs::File;
use std::io::{ErrorKind, Read};
use std::path::Path;
use std::sync::Arc;

use miette::NamedSource;

use crate::finding::{Finding, Severity};

/// The largest file that is read, in bytes.
const MAX_BYTES: u64 = 16 * 1024 * 1024;
/// The largest log that is read, in bytes.
const MAX_LOG_BYTES: u64 = 1024 * 1024 * 1024;

/// The text of a file, with the name to call it by.
#[derive(Clone, Debug)]
pub struct Source {
    named: Arc<NamedSource<String>>,
    /// The same, byte for byte, with nothing in it that does anything to a terminal.
    shown: Arc<NamedSource<String>>,
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

fn too_large(name: &str, bytes: u64, most: u64) -> Finding {
    let megabytes = |bytes: u64| bytes.div_ceil(1024 * 1024);
    let (most, size) = (megabytes(most), megabytes(bytes));
    let message = format!("`{name}` is larger than {most} MB: it has {size} MB");
    Finding::new(Severity::Error, "too-large", message)
        .with_help("is it a scene or playtest at all?")
}

impl Source {
    /// A text that does not come from a file.
    pub fn new(name: impl AsRef<str>, text: impl Into<String>) -> Self {
        let (name, text) = (name.as_ref(), text.into());
        let harmless = harmless(&text);
        let shown = hazuro::shown(name) != name || harmless.is_some();
        let named = Arc::new(NamedSource::new(name, text));
        let shown = if shown {
            let text = harmless.unwrap_or_else(|| named.inner().clone());
            Arc::new(NamedSource::new(hazuro::shown(name), text))
        } else {
            named.clone()
        };
        Self { named, shown }
    }

    /// Reads a file.
    ///
    /// # Errors
    /// If it does not exist, is no regular file, is larger than 16 MB, or is not UTF-8.
    pub fn read(path: &Path) -> Result<Self, Finding> {
        Self::read_up_to(path, MAX_BYTES)
    }

    /// As [`read`](Self::read), of a log, which may be larger: up to 1 GB.
    ///
    /// # Errors
    /// As [`read`](Self::read).
    pub fn read_log(path: &Path) -> Result<Self, Finding> {
        Self::read_up_to(path, MAX_LOG_BYTES)
    }

    fn read_up_to(path: &Path, most: u64) -> Result<Self, Finding> {
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
        // Asked before it is opened: opening a pipe waits for whoever writes to it.
        let metadata = path.metadata().map_err(|error| unreadable(&error))?;
        if metadata.is_dir() {
            let message = format!("`{name}` is a directory, not a scene or playtest");
            return Err(error("directory", message).with_help("name a file in it"));
        }
        if !metadata.is_file() {
            let message = format!("`{name}` is a pipe, a device or the like, not a file");
            return Err(error("no-regular-file", message).with_help("write to a file first"));
        }
        if metadata.len() > most {
            return Err(too_large(&name, metadata.len(), most));
        }
        let file = File::open(path).map_err(|error| unreadable(&error))?;
        let mut bytes = Vec::new();
        file.take(most + 1).read_to_end(&mut bytes).map_err(|error| unreadable(&error))?;
        if bytes.len() as u64 > most {
            return Err(too_large(&name, bytes.len() as u64, most));
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

    /// The text with its name, to be shown.
    pub(crate) fn to_show(&self) -> &Arc<NamedSource<String>> {
        &self.shown
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

    /// How many bytes the line has in which a byte stands.
    pub(crate) fn line_length(&self, offset: usize) -> usize {
        let text = self.text().as_bytes();
        let offset = offset.min(text.len());
        let before = text[..offset].iter().rev().take_while(|byte| **byte != b'\n').count();
        before + text[offset..].iter().take_while(|byte| **byte != b'\n').count()
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
