//! Where in a text each field of a description stands.

use std::collections::BTreeMap;
use std::ops::Range;

use hazuro::scene::{Field, Step};
use serde_json::value::RawValue;
use toml::Spanned;
use toml::de::{DeTable, DeValue};

use crate::nesting::too_deep;
use crate::source::{Format, Source};

/// The fields of a text as a tree, each with its bytes.
#[derive(Debug)]
pub struct Spans {
    pub(crate) span: Range<usize>,
    /// Of its key, if it has one.
    pub(crate) key: Range<usize>,
    pub(crate) inside: Inside,
}

#[derive(Debug)]
pub(crate) enum Inside {
    Table(BTreeMap<String, Spans>),
    List(Vec<Spans>),
    Text,
    Other,
}

impl Spans {
    /// Reads the tree of a text; nothing if it is neither TOML nor JSON.
    pub fn of(source: &Source) -> Option<Self> {
        if too_deep(source).is_some() {
            return None;
        }
        let text = source.text();
        match source.format() {
            Format::Toml => {
                let table = DeTable::parse(text).ok()?;
                let inside = Inside::of_table(table.get_ref());
                Some(Self { span: 0..0, key: 0..0, inside })
            }
            Format::Json => Self::of_json(text, serde_json::from_str(text).ok()?),
        }
    }

    /// The bytes of a field, or of the nearest field around it that is written.
    pub fn find(&self, field: &Field) -> Range<usize> {
        self.nearest(field).span.clone()
    }

    /// The bytes of the key of a field, or of the nearest field around it that is written.
    pub(crate) fn find_key(&self, field: &Field) -> Range<usize> {
        let found = self.nearest(field);
        if found.key.is_empty() { found.span.clone() } else { found.key.clone() }
    }

    /// Whether a field is written.
    pub fn contains(&self, field: &Field) -> bool {
        field.steps().iter().try_fold(self, |here, step| here.below(step)).is_some()
    }

    fn nearest(&self, field: &Field) -> &Self {
        let mut here = self;
        for step in field.steps() {
            let Some(next) = here.below(step) else { break };
            here = next;
        }
        here
    }

    fn below(&self, step: &Step) -> Option<&Self> {
        match (step, &self.inside) {
            (Step::Key(key), Inside::Table(table)) => table.get(key),
            (Step::Item(index), Inside::List(list)) => list.get(*index),
            // A single value may stand for a list of one.
            (Step::Item(0), _) => Some(self),
            _ => None,
        }
    }

    /// Whether the whole has a key.
    pub fn has(&self, key: &str) -> bool {
        matches!(&self.inside, Inside::Table(table) if table.contains_key(key))
    }

    /// Whether the value of a key of the whole is a text.
    pub fn is_text(&self, key: &str) -> bool {
        let Inside::Table(table) = &self.inside else {
            return false;
        };
        table.get(key).is_some_and(|value| matches!(value.inside, Inside::Text))
    }

    fn of_toml(value: &Spanned<DeValue<'_>>) -> Self {
        let inside = match value.get_ref() {
            DeValue::Table(table) => Inside::of_table(table),
            DeValue::Array(list) => Inside::List(list.iter().map(Self::of_toml).collect()),
            DeValue::String(_) => Inside::Text,
            _ => Inside::Other,
        };
        Self { span: value.span(), key: 0..0, inside }
    }

    fn of_json(whole: &str, value: &RawValue) -> Option<Self> {
        let text = value.get();
        // The raw value borrows from the whole text, so its place is how far it lies into it.
        let start = (text.as_ptr() as usize).checked_sub(whole.as_ptr() as usize)?;
        let inside = match text.as_bytes().first()? {
            b'{' => {
                let table: BTreeMap<String, &RawValue> = serde_json::from_str(text).ok()?;
                let spans = table.into_iter().map(|(key, value)| {
                    let spans = Self::of_json(whole, value)?;
                    let quoted = format!("\"{key}\"");
                    let before = whole[start..spans.span.start].rfind(&quoted);
                    let at = before.map_or(0..0, |at| start + at..start + at + quoted.len());
                    Some((key, Self { key: at, ..spans }))
                });
                Inside::Table(spans.collect::<Option<_>>()?)
            }
            b'[' => {
                let list: Vec<&RawValue> = serde_json::from_str(text).ok()?;
                let spans = list.into_iter().map(|value| Self::of_json(whole, value));
                Inside::List(spans.collect::<Option<_>>()?)
            }
            b'"' => Inside::Text,
            _ => Inside::Other,
        };
        Some(Self { span: start..start + text.len(), key: 0..0, inside })
    }
}

impl Inside {
    fn of_table(table: &DeTable<'_>) -> Self {
        let spans = table.iter().map(|(key, value)| {
            let spans = Spans { key: key.span(), ..Spans::of_toml(value) };
            (key.get_ref().to_string(), spans)
        });
        Self::Table(spans.collect())
    }
}
