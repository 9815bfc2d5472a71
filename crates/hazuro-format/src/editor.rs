//! Edits of what stands at a field of a file.

use std::ops::Range;

use hazuro::scene::{Field, Step};
use serde_json::Value;

use crate::edit::Edit;
use crate::source::{Format, Source};
use crate::spans::{Inside, Spans};

/// Makes edits of one text. See [`Edit`] for an example.
#[derive(Clone, Copy, Debug)]
pub struct Editor<'a> {
    source: &'a Source,
    spans: &'a Spans,
}

impl<'a> Editor<'a> {
    /// For a text, taken apart.
    pub fn new(source: &'a Source, spans: &'a Spans) -> Self {
        Self { source, spans }
    }

    fn edit(self, range: Range<usize>, new: impl Into<String>) -> Edit {
        Edit { source: self.source.clone(), range, new: new.into() }
    }

    /// What is written as the value of a field.
    pub fn text_of(self, field: &Field) -> Option<&'a str> {
        let here = self.spans.at(field)?;
        here.is_value(self.source.text()).then(|| &self.source.text()[here.span.clone()])
    }

    /// Gives the key of a field another name; none if it does not stand before its whole value.
    pub fn rename(self, field: &Field, key: &str) -> Option<Edit> {
        let here = self.spans.at(field).filter(|here| !here.key.is_empty())?;
        if !here.is_value(self.source.text()) {
            return None;
        }
        let quoted = self.source.text()[here.key.clone()].starts_with(['"', '\'']);
        let plain = |c: char| c.is_ascii_alphanumeric() || c == '_' || c == '-';
        let key = if quoted { format!("\"{key}\"") } else { key.to_owned() };
        (quoted || key.chars().all(plain)).then(|| self.edit(here.key.clone(), key))
    }

    /// Writes `new` where `old` stands in the value of a field; none if it does not stand there
    /// exactly once.
    pub fn within(self, field: &Field, old: &str, new: &str) -> Option<Edit> {
        let span = self.spans.at(field)?.span.clone();
        let mut found = self.source.text()[span.clone()].match_indices(old);
        let at = span.start + found.next()?.0;
        let edit = self.edit(at..at + old.len(), new);
        found.next().is_none().then_some(edit)
    }

    /// Sets a key of a table, or adds it after its other keys; none if there is no such table.
    pub fn set(self, table: &Field, key: &str, value: &Value) -> Option<Edit> {
        let value = match self.source.format() {
            Format::Toml => toml::Value::try_from(value).ok()?.to_string(),
            Format::Json => value.to_string(),
        };
        self.set_text(table, key, &value)
    }

    /// As [`set`](Self::set), with the value as it is written in the file.
    pub fn set_text(self, table: &Field, key: &str, value: &str) -> Option<Edit> {
        let here = self.spans.at(table)?;
        let Inside::Table(keys) = &here.inside else { return None };
        let text = self.source.text();
        if let Some(given) = keys.get(key) {
            // Of a table with a header the value is all lines below it.
            return given.is_value(text).then(|| self.edit(given.span.clone(), value));
        }
        let written = match self.source.format() {
            Format::Toml => format!("{key} = {value}"),
            Format::Json => format!("\"{key}\": {value}"),
        };
        let last = keys.values().filter_map(|value| value.end(text)).max();
        if text[here.span.clone()].starts_with('{') {
            let (at, new) = match last {
                Some(last) => (last, format!(", {written}")),
                None => (here.span.start + 1, format!(" {written} ")),
            };
            return Some(self.edit(at..at, new));
        }
        let header = here.has_header(text).then_some(here.span.end);
        // A table that is written with dots has no lines of its own.
        let last = last.filter(|_| header.is_some() || table.steps().is_empty());
        let at = line_end(text, last.or(header)?);
        Some(self.edit(at..at, format!("\n{written}")))
    }

    /// Takes a key with its value, or an item of a list, out of a file; none if it is not there, or
    /// stands in several pieces.
    pub fn remove(self, field: &Field) -> Option<Edit> {
        let here = self.spans.at(field)?;
        let text = self.source.text();
        let is_item = matches!(field.steps().last(), Some(Step::Item(_)));
        let dotted = text[..here.key.start].ends_with('.');
        if dotted || !(here.is_value(text) || here.has_header(text) && is_item) {
            return None;
        }
        let range = if here.has_header(text) {
            let end = match self.spans.next_header(text, here.span.end, field) {
                Some(next) => without_comments(text, next),
                None => text.len(),
            };
            here.span.start..end
        } else {
            let start = if here.key.is_empty() { here.span.start } else { here.key.start };
            let line = text[..start].rfind('\n').map_or(0, |newline| newline + 1);
            let end = line_end(text, here.span.end);
            let between = text[here.span.end..end].trim_start();
            let alone = text[line..start].trim().is_empty()
                && (between.is_empty() || between.starts_with('#'));
            // The last of several keeps no comma before it.
            if alone && !text[..line].trim_end().ends_with(',') {
                line..(end + 1).min(text.len())
            } else {
                with_comma(text, start..here.span.end)
            }
        };
        Some(self.edit(range, ""))
    }
}

impl Spans {
    /// What stands at a field, if it is written.
    pub(crate) fn at(&self, field: &Field) -> Option<&Self> {
        field.steps().iter().try_fold(self, |here, step| match (step, &here.inside) {
            (Step::Key(key), Inside::Table(table)) => table.get(key),
            (Step::Item(index), Inside::List(list)) => list.get(*index),
            (Step::Item(0), _) => Some(here),
            _ => None,
        })
    }

    /// Whether it is a table whose keys stand in the lines below its header.
    fn has_header(&self, text: &str) -> bool {
        matches!(self.inside, Inside::Table(_)) && text[self.span.clone()].starts_with('[')
    }

    /// Whether its bytes are the whole of it.
    fn is_value(&self, text: &str) -> bool {
        match &self.inside {
            Inside::Table(_) => text[self.span.clone()].starts_with('{'),
            Inside::List(list) => !list.first().is_some_and(|first| first.has_header(text)),
            _ => true,
        }
    }

    /// Where its text ends, if it does not stand below headers of its own.
    fn end(&self, text: &str) -> Option<usize> {
        match &self.inside {
            _ if self.is_value(text) => Some(self.span.end),
            // Written with dots.
            Inside::Table(table) if !self.has_header(text) => {
                table.values().filter_map(|value| value.end(text)).max()
            }
            _ => None,
        }
    }

    /// Where the first header after some byte stands that is not within a field.
    fn next_header(&self, text: &str, after: usize, field: &Field) -> Option<usize> {
        let mut headers = Vec::new();
        self.headers(text, &Field::ROOT, &mut headers);
        let others = headers.into_iter().filter(|(at, of)| *at >= after && !of.is_within(field));
        others.map(|(at, _)| at).min()
    }

    fn headers(&self, text: &str, here: &Field, all: &mut Vec<(usize, Field)>) {
        if self.has_header(text) {
            all.push((self.span.start, here.clone()));
        }
        match &self.inside {
            Inside::Table(table) => {
                for (key, value) in table {
                    value.headers(text, &here.key(key), all);
                }
            }
            Inside::List(list) => {
                for (index, value) in list.iter().enumerate() {
                    value.headers(text, &here.item(index), all);
                }
            }
            _ => {}
        }
    }
}

/// Where the line of a byte ends.
fn line_end(text: &str, at: usize) -> usize {
    text[at..].find('\n').map_or(text.len(), |newline| at + newline)
}

/// The place before the comments that stand right before a header.
fn without_comments(text: &str, header: usize) -> usize {
    let mut start = header;
    for line in text[..header].split_inclusive('\n').rev() {
        if !line.trim_start().starts_with('#') {
            break;
        }
        start -= line.len();
    }
    start
}

/// An item with the comma after it, or else before it.
fn with_comma(text: &str, Range { start, end }: Range<usize>) -> Range<usize> {
    let after = &text[end..];
    if let Some(rest) = after.trim_start().strip_prefix(',') {
        return start..text.len() - rest.trim_start_matches(' ').len();
    }
    let before = text[..start].trim_end();
    before.strip_suffix(',').map_or(start..end, |before| before.len()..end)
}
