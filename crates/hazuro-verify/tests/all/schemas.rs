//! What is committed beside the code and made from its types: the schemas, and the lists of all keys and
//! of all findings.

use std::collections::{BTreeMap, BTreeSet, VecDeque};
use std::fmt::Write;
use std::path::Path;

use hazuro_format::{Code, Stage, scene_schema};
use hazuro_verify::playtest_schema;
use serde_json::{Map, Value};

/// Compares a committed file with what it should be, or writes it if it is to be made anew.
fn committed(path: &str, text: &str) {
    let path = Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs")).join(path);
    if std::env::var_os("UPDATE_SCHEMAS").is_some() {
        std::fs::write(&path, text).unwrap();
    }
    let found = std::fs::read_to_string(&path).unwrap_or_default();
    let path = path.display();
    assert!(found == text, "{path} is out of date: run the tests with UPDATE_SCHEMAS=1");
}

#[test]
fn the_committed_schemas_are_those_of_the_types() {
    for (name, schema) in [("scene", scene_schema()), ("playtest", playtest_schema())] {
        let text = serde_json::to_string_pretty(&schema).unwrap() + "\n";
        committed(&format!("schema/{name}.schema.json"), &text);
    }
}

#[test]
fn the_list_of_keys_is_that_of_the_schemas() {
    let mut text = String::from(
        "# All keys\n\nMade from the [schemas](schema), which editors can read too. A key that has \
         no default\nmay be left out unless its words say otherwise; then there is none of it.\n",
    );
    for (title, schema) in [("Scene file", scene_schema()), ("Playtest file", playtest_schema())] {
        write!(text, "\n## {title}\n").unwrap();
        Keys { schema: &schema, text: &mut text }.write();
    }
    committed("keys.md", &text);
}

#[test]
fn the_list_of_findings_is_that_of_the_codes() {
    let mut text = String::from(
        "# All findings\n\nEach finding has a code that stays the same from version to version. What \
         `check` finds\nis allowed under `allow`, with the reason; everything else has to be mended.\n",
    );
    for stage in Stage::ALL {
        let about = stage.about();
        let heading = about[..1].to_uppercase() + &about[1..];
        write!(text, "\n## {heading}\n\n| code | what it finds |\n|---|---|\n").unwrap();
        for code in Code::ALL.iter().filter(|code| code.stage() == *stage) {
            writeln!(text, "| `{code}` | {} |", code.about()).unwrap();
        }
    }
    committed("findings.md", &text);
}

/// Writes the tables of a schema.
struct Keys<'a> {
    schema: &'a Value,
    text: &'a mut String,
}

impl Keys<'_> {
    /// All tables, each once, under the first way to it; those nearest to the file first.
    fn write(&mut self) {
        let mut seen = BTreeSet::new();
        let mut queue = VecDeque::from([(String::new(), self.schema)]);
        while let Some((path, table)) = queue.pop_front() {
            let Some(properties) = table["properties"].as_object() else { continue };
            let below = if path.is_empty() { String::new() } else { format!("{path}.") };
            if !path.is_empty() {
                self.table(&path, table, properties);
            }
            for (key, property) in properties {
                for name in self.tables(property) {
                    if seen.insert(name.clone()) {
                        let path = match (property["type"].as_str(), path.is_empty()) {
                            (Some("array"), true) => format!("[[{key}]]"),
                            (Some("object"), true) => format!("[{key}.NAME]"),
                            (_, true) => format!("[{key}]"),
                            _ => format!("{below}{key}").replace("[[", "").replace("]]", ""),
                        };
                        queue.push_back((path, &self.schema["$defs"][&name]));
                    }
                }
            }
        }
    }

    /// The tables that a property can be, or hold.
    fn tables(&self, property: &Value) -> Vec<String> {
        let of = |name: String| {
            let referred = &self.schema["$defs"][&name];
            if referred["properties"].is_object() { vec![name] } else { self.tables(referred) }
        };
        names(property).into_iter().flat_map(of).collect()
    }

    fn table(&mut self, path: &str, table: &Value, properties: &Map<String, Value>) {
        let words = table["description"].as_str().unwrap_or_default().replace('\n', " ");
        write!(self.text, "\n### `{path}`\n\n{words}\n\n").unwrap();
        let mut rows: BTreeMap<&str, &Value> =
            properties.iter().map(|(key, property)| (key.as_str(), property)).collect();
        if path == "[kind.NAME]" {
            // What kinds and entities share is listed with the entities.
            let entity = &self.schema["$defs"]["EntityKeys"]["properties"];
            let shared = rows.len();
            rows.retain(|key, _| entity.get(key).is_none());
            assert!(shared > rows.len() + 20);
            self.text.push_str(
                "The keys of `[[entity]]` but for `name`, `kind`, `parent` and its place, and:\n\n",
            );
        }
        self.text.push_str("| key | value | default | |\n|---|---|---|---|\n");
        for (key, property) in rows {
            let words = property["description"].as_str().unwrap_or_default();
            let words = words.replace('\n', " ").replace('|', "\\|");
            let default = match &property["default"] {
                Value::Null => String::new(),
                Value::Array(list) if list.is_empty() => String::new(),
                Value::Object(table) if table.is_empty() => String::new(),
                Value::String(text) if text.is_empty() => String::new(),
                other => format!("`{other}`"),
            };
            let kind = self.kind(property);
            writeln!(self.text, "| `{key}` | {kind} | {default} | {words} |").unwrap();
        }
    }

    /// What sort of value it is, in words.
    fn kind(&self, property: &Value) -> String {
        if let Some(name) = property["$ref"].as_str().and_then(|it| it.rsplit('/').next()) {
            let referred = &self.schema["$defs"][name];
            let is_table = referred["properties"].is_object();
            return if is_table { "table".into() } else { self.kind(referred) };
        }
        for choice in ["anyOf", "oneOf"] {
            if let Some(all) = property[choice].as_array() {
                let kinds: BTreeSet<String> = all.iter().map(|one| self.kind(one)).collect();
                let kinds: Vec<String> = kinds.into_iter().filter(|it| it != "nothing").collect();
                return kinds.join(" or ");
            }
        }
        let types: Vec<&str> = match &property["type"] {
            Value::String(one) => vec![one],
            Value::Array(all) => all.iter().filter_map(Value::as_str).collect(),
            _ => vec![],
        };
        let kinds = types.into_iter().filter(|it| *it != "null").map(|one| match one {
            "number" => "number".to_owned(),
            "integer" => "whole number".to_owned(),
            "boolean" => "true or false".to_owned(),
            "string" => "text".to_owned(),
            "array" => {
                let items = plural(&self.kind(&property["items"]));
                match property["minItems"].as_u64() {
                    Some(count) => format!("list of {count} {items}"),
                    None => format!("list of {items}"),
                }
            }
            "object" => match &property["additionalProperties"] {
                Value::Object(_) => {
                    format!("{} by name", plural(&self.kind(&property["additionalProperties"])))
                }
                _ => "table".to_owned(),
            },
            other => other.to_owned(),
        });
        let kinds: Vec<String> = kinds.collect();
        if kinds.is_empty() { "nothing".into() } else { kinds.join(" or ") }
    }
}

/// Several of a sort of value.
fn plural(kind: &str) -> String {
    match kind.split_once(" of ") {
        Some(("list", items)) => format!("lists of {items}"),
        _ if kind == "true or false" => "flags".into(),
        _ if kind.contains(" or ") => format!("items, each {kind}"),
        _ => format!("{kind}s"),
    }
}

/// What a property refers to in the schema.
fn names(property: &Value) -> Vec<String> {
    match property {
        Value::Object(all) => {
            let own = all.get("$ref").and_then(Value::as_str);
            let own = own.and_then(|it| it.rsplit('/').next()).map(str::to_owned);
            own.into_iter().chain(all.values().flat_map(names)).collect()
        }
        Value::Array(all) => all.iter().flat_map(names).collect(),
        _ => Vec::new(),
    }
}
