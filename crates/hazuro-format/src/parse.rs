//! From text to the structures of a file, with errors in plain words.

use std::ops::Range;

use schemars::JsonSchema;
use serde::de::DeserializeOwned;
use toml::de::DeTable;

use crate::code::Code;
use crate::finding::{Finding, Severity};
use crate::nesting::too_deep;
use crate::source::{Format, Source};
use crate::spans::Spans;
use crate::value::Value;
use crate::wanted;

/// Reads a structure from a text.
///
/// # Errors
/// The first thing that does not fit, with its place.
pub fn parse<T: DeserializeOwned + JsonSchema>(source: &Source) -> Result<T, Finding> {
    if source.text().trim().is_empty() {
        return Err(Finding::new(
            Severity::Error,
            Code::Empty,
            format!("`{}` is empty", source.name()),
        )
        .at(source, 0..0)
        .with_help("a scene needs at least one [[entity]], a playtest a scene = \"...\""));
    }
    if let Some(finding) = too_deep(source) {
        return Err(finding);
    }
    let value = match source.format() {
        Format::Toml => DeTable::parse(source.text())
            .map(|table| Value::of_toml_table(table.get_ref()))
            .map_err(|error| syntax(source, error.message(), error.span().unwrap_or(0..0))),
        Format::Json => serde_json::from_str(source.text()).map_err(|error| {
            let offset = offset_of(source.text(), error.line(), error.column());
            let text = error.to_string();
            let message = text.split(" at line ").next().unwrap_or(&text);
            syntax(source, message, offset..offset)
        }),
    }?;
    T::deserialize(value).map_err(|misfit| {
        let (field, spans) = (misfit.field(), Spans::of(source));
        let span = spans.map_or(0..0, |spans| {
            if misfit.at_key { spans.find_key(&field) } else { spans.find(&field) }
        });
        let found = source.text().get(span.clone()).filter(|_| misfit.code == Code::WrongType);
        let wanted = || {
            let schema = schemars::schema_for!(T).to_value();
            wanted::cure(&schema, &field, found?, source.format())
        };
        let help = misfit.help.or_else(wanted);
        let finding = Finding::new(Severity::Error, misfit.code, misfit.message).at(source, span);
        match help {
            Some(help) => finding.with_help(help),
            None => finding,
        }
    })
}

/// The byte at a line and column, both from 1.
fn offset_of(text: &str, line: usize, column: usize) -> usize {
    let start: usize = text.split_inclusive('\n').take(line.saturating_sub(1)).map(str::len).sum();
    (start + column.saturating_sub(1)).min(text.len())
}

/// The error of a text that is not what its name says.
fn syntax(source: &Source, message: &str, span: Range<usize>) -> Finding {
    let format = match source.format() {
        Format::Toml => "TOML",
        Format::Json => "JSON",
    };
    // Several lines at most for a very long message, none of them beyond a screen's width.
    let message: String = message.chars().take(400).collect();
    let message = format!("this is not {format}: {message}");
    Finding::new(Severity::Error, Code::Syntax, message).at(source, span)
}
