//! What to write where a value of another sort stands than is wanted, as the schema of the file says it.

use std::fmt::Write as _;

use hazuro::scene::{Field, Step, nearest};
use serde_json::Value;

use crate::cure::Cure;
use crate::source::Format;

/// At most so many keys are listed.
const MOST_LISTED: usize = 24;
/// A longer value is not written out again.
const MOST_SHOWN: usize = 60;

/// What to write at a field, where `found` stands in a file: a table or a list instead of a single
/// value, a list of tables instead of one.
pub(crate) fn cure(schema: &Value, field: &Field, found: &str, format: Format) -> Option<Cure> {
    let wanted = field.steps().iter().fold(Wanted::of(schema, schema), |at, step| at.step(step));
    // That it is to be a text says enough.
    if wanted.find("string").is_some() {
        return None;
    }
    let item = wanted.step(&Step::Item(0));
    // Where there may be several, a header names each of them alike.
    if has_header(found) {
        let help = "write [[...]] with two brackets before each, or a list in [ ]; a name stands in `name`";
        return item.find("object").map(|_| help.into());
    }
    if let Some(table) = wanted.find("object") {
        return Some(wanted.in_table(table, found, format, |table| table));
    }
    let list = wanted.find("array")?;
    if let Some(table) = item.find("object").filter(|_| !item.takes(found)) {
        return Some(item.in_table(table, found, format, |table| format!("[{table}]")));
    }
    item.takes(found).then(|| match list["minItems"].as_u64() {
        Some(2) => "write [x, y]".into(),
        Some(3) => "write [x, y, z]".into(),
        Some(4) => "write [x, y, z, w]".into(),
        _ => format!("write [{}]", short(found)).into(),
    })
}

/// Whether a header of a table stands there or its key in one, as in `[entity.pad]`, or else a list; no
/// brackets around these would cure anything.
fn has_header(found: &str) -> bool {
    let is_word = found.starts_with(|c: char| c.is_ascii_alphabetic() || c == '_');
    found.starts_with('[') || is_word && !matches!(found, "true" | "false" | "inf" | "nan")
}

/// A value as it is written out again.
fn short(found: &str) -> &str {
    match found {
        found if found.len() <= MOST_SHOWN && !found.contains('\n') => found,
        table if table.starts_with('{') => "{ ... }",
        _ => "...",
    }
}

/// A table of one key as it is written.
fn shown(key: &str, value: &str, format: Format) -> String {
    match format {
        Format::Toml => format!("{{ {key} = {value} }}"),
        Format::Json => format!("{{ \"{key}\": {value} }}"),
    }
}

/// What may stand at a place: one of several.
struct Wanted<'a> {
    schema: &'a Value,
    any: Vec<&'a Value>,
}

impl<'a> Wanted<'a> {
    /// What a part of a schema lets stand there.
    fn of(schema: &'a Value, part: &'a Value) -> Self {
        let (mut any, mut waiting) = (Vec::new(), vec![part]);
        while let Some(part) = waiting.pop() {
            let named =
                part["$ref"].as_str().and_then(|name| schema.pointer(name.strip_prefix('#')?));
            let several = ["anyOf", "oneOf"].map(|key| part[key].as_array());
            if named.is_none() && several.iter().all(Option::is_none) {
                any.push(part);
            }
            waiting.extend(named.into_iter().chain(several.into_iter().flatten().flatten()));
        }
        Self { schema, any }
    }

    /// What may stand at a step from here.
    fn step(&self, step: &Step) -> Self {
        let parts = self.any.iter().filter_map(|part| match step {
            Step::Key(key) => part["properties"]
                .get(key)
                .or_else(|| part.get("additionalProperties").filter(|part| part.is_object())),
            Step::Item(_) => part.get("items"),
        });
        let any = parts.flat_map(|part| Self::of(self.schema, part).any).collect();
        Self { any, ..*self }
    }

    /// The one of a type.
    fn find(&self, word: &str) -> Option<&'a Value> {
        self.any.iter().copied().find(|part| is_of(part, word))
    }

    /// What to write for `found` where a table stands, put together as `written`.
    fn in_table(
        &self,
        table: &'a Value,
        found: &str,
        format: Format,
        written: impl Fn(String) -> String,
    ) -> Cure {
        let Some(keys) = table.get("properties").and_then(Value::as_object) else {
            let table = written(shown("NAME", "...", format));
            return format!("write a table with names as its keys: {table}").into();
        };
        let known = || keys.keys().map(String::as_str);
        let takes = |key: &str, value| Self::of(self.schema, &keys[key]).takes(value);
        let needed: Vec<&str> =
            table["required"].as_array().into_iter().flatten().filter_map(Value::as_str).collect();
        let meant = nearest(found.trim_matches(['"', '\'']), known());
        let (key, value) = match (&needed[..], meant.as_deref()) {
            ([key], _) => (*key, if takes(key, found) { short(found) } else { "..." }),
            ([], Some(key)) => (key, if takes(key, "true") { "true" } else { "..." }),
            _ => ("KEY", "..."),
        };
        let mut words = format!("write {}", written(shown(key, value, format)));
        let listed: Vec<&str> = known().take(MOST_LISTED).collect();
        if listed.len() > 1 {
            let _ = write!(words, "; its keys are {}", listed.join(", "));
        }
        if keys.len() > listed.len() {
            let _ = write!(words, " and {} more", keys.len() - listed.len());
        }
        if needed.len() > 1 {
            let _ = write!(words, "; needed: {}", needed.join(", "));
        }
        words.into()
    }

    /// Whether a value may stand here as it is.
    fn takes(&self, found: &str) -> bool {
        let words: &[&str] = match found {
            "true" | "false" => &["boolean"],
            table if table.starts_with('{') => &["object"],
            text if text.starts_with(['"', '\'']) => &["string"],
            _ => &["number", "integer"],
        };
        words.iter().any(|word| self.find(word).is_some())
    }
}

/// Whether a part of a schema is of a type.
fn is_of(part: &Value, word: &str) -> bool {
    match &part["type"] {
        Value::Array(several) => several.iter().any(|one| one == word),
        one => one == word,
    }
}
