//! From text to the structures of a file, with errors in plain words.

use std::ops::Range;

use hazuro::scene::nearest;
use serde::de::DeserializeOwned;

use crate::finding::{Finding, Severity};
use crate::nesting::too_deep;
use crate::source::{Format, Source};

/// Reads a structure from a text.
///
/// # Errors
/// The first thing that does not fit, with its place.
pub fn parse<T: DeserializeOwned>(source: &Source) -> Result<T, Finding> {
    if source.text().trim().is_empty() {
        return Err(Finding::new(
            Severity::Error,
            "empty",
            format!("`{}` is empty", source.name()),
        )
        .at(source, 0..0)
        .with_help("a scene needs at least one [[entity]], a playtest a scene = \"...\""));
    }
    if let Some(finding) = too_deep(source) {
        return Err(finding);
    }
    match source.format() {
        Format::Toml => toml::from_str(source.text()).map_err(|error| {
            let span = error.span().unwrap_or(0..0);
            explain(source, error.message(), span)
        }),
        Format::Json => serde_json::from_str(source.text()).map_err(|error| {
            let offset = offset_of(source.text(), error.line(), error.column());
            let text = error.to_string();
            let message = text.split(" at line ").next().unwrap_or(&text);
            explain(source, message, offset..offset)
        }),
    }
}

/// The byte at a line and column, both from 1.
fn offset_of(text: &str, line: usize, column: usize) -> usize {
    let start: usize = text.split_inclusive('\n').take(line.saturating_sub(1)).map(str::len).sum();
    (start + column.saturating_sub(1)).min(text.len())
}

/// A reader's message in this project's words.
fn explain(source: &Source, message: &str, span: Range<usize>) -> Finding {
    let finding = |code, message: String| {
        Finding::new(Severity::Error, code, message).at(source, span.clone())
    };
    let mut quoted = message.split('`').skip(1).step_by(2);
    if message.starts_with("unknown field") || message.starts_with("unknown variant") {
        let name = quoted.next().unwrap_or_default();
        let known: Vec<&str> = quoted.collect();
        let list = known.join(", ");
        let help = match nearest(name, known.iter().copied()) {
            Some(nearest) => format!("did you mean `{nearest}`? Known here: {list}"),
            None => format!("known here: {list}"),
        };
        return finding("unknown-key", format!("there is no key `{name}` here")).with_help(help);
    }
    if message.starts_with("missing field") {
        let name = quoted.next().unwrap_or_default();
        return finding("missing-key", format!("the key `{name}` is missing here"))
            .with_help(format!("add `{name} = ...`"));
    }
    if let Some((found, expected)) = message
        .strip_prefix("invalid type: ")
        .or_else(|| message.strip_prefix("invalid value: "))
        .or_else(|| message.strip_prefix("invalid length "))
        .and_then(|rest| rest.split_once(", expected "))
    {
        let found = if message.starts_with("invalid length ") {
            format!("a list of {found}")
        } else {
            plain(found)
        };
        let message = format!("this is {found}, but should be {}", plain(expected));
        return finding("wrong-type", message);
    }
    let format = match source.format() {
        Format::Toml => "TOML",
        Format::Json => "JSON",
    };
    // Several lines at most for a very long message, none of them beyond a screen's width.
    let message: String = message.chars().take(400).collect();
    finding("syntax", format!("this is not {format}: {message}"))
}

/// A reader's word for a type in plain words.
fn plain(word: &str) -> String {
    let known = match word {
        "f64" => "a number",
        "u8" => "a whole number from 0 to 255",
        "u32" => "a whole number from 0 to 4294967295",
        "u64" | "usize" => "a whole number from 0",
        "i32" => "a whole number from -2147483648 to 2147483647",
        "i64" => "a whole number",
        "null" | "unit" | "unit value" => "nothing",
        "bool" | "a boolean" => "true or false",
        "a string" => "a text",
        "a sequence" | "sequence" => "a list",
        "a map" | "map" => "a table",
        "an array of length 3" => "a list of 3 numbers",
        "an array of length 4" => "a list of 4 numbers",
        _ => "",
    };
    if !known.is_empty() {
        return known.into();
    }
    if let Some(number) = word.strip_prefix("floating point ") {
        // Not with all its digits.
        let short = number.trim_matches('`').parse().map(hazuro::shown_number);
        return format!("the number `{}`", short.unwrap_or_else(|_| number.to_owned()));
    }
    for (start, plain) in [
        ("struct ", "a table"),
        ("string ", "the text "),
        ("integer ", "the number "),
        ("boolean ", "the value "),
    ] {
        if let Some(rest) = word.strip_prefix(start) {
            return if plain == "a table" { plain.into() } else { format!("{plain}{rest}") };
        }
    }
    word.into()
}
