//! Findings for other programs to read.

use std::fmt::Write;

use std::ops::Range;

use hazuro_format::{Code, Edit, Finding, Severity, Source};
use serde::Serialize;
use serde_json::{Value, json};

/// A finding as JSON.
#[derive(Serialize)]
struct Told<'a> {
    severity: &'static str,
    code: &'a str,
    message: &'a str,
    #[serde(skip_serializing_if = "Option::is_none")]
    cure: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    file: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    line: Option<usize>,
    #[serde(skip_serializing_if = "Option::is_none")]
    column: Option<usize>,
    #[serde(skip_serializing_if = "Option::is_none")]
    text: Option<&'a str>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    edits: Vec<Value>,
}

/// An edit as JSON: which piece of which file, from the first character to the one after the
/// last, what stands there, and what to write instead.
fn edit_json(edit: &Edit) -> Value {
    let Range { start, end } = edit.range();
    let (line, column) = edit.source().line_and_column(start);
    let (end_line, end_column) = edit.source().line_and_column(end);
    json!({
        "file": edit.source().name(),
        "line": line,
        "column": column,
        "end_line": end_line,
        "end_column": end_column,
        "old": edit.old(),
        "new": edit.new_text(),
    })
}

/// Findings as a JSON list, each with its severity, code, message, cure, and its file, line and
/// column, from 1, as far as it has a place; and the edits that cure it, if the cure is one.
pub fn findings_json(findings: &[Finding]) -> Value {
    let told = findings.iter().map(|finding| {
        let place = finding.at_text();
        let (line, column) = place
            .map(|(source, span)| source.line_and_column(span.start))
            .map_or((None, None), |(line, column)| (Some(line), Some(column)));
        json!(Told {
            severity: finding.severity().word(),
            code: finding.code().word(),
            message: finding.message(),
            cure: finding.help(),
            file: place.map(|(source, _)| source.name()),
            line,
            column,
            text: place.and_then(|(source, span)| source.text().get(span.clone())),
            edits: finding.edits().iter().map(edit_json).collect(),
        })
    });
    Value::Array(told.collect())
}

/// Findings as a SARIF 2.1.0 log (OASIS standard), for code hosts and editors.
pub fn findings_sarif(findings: &[Finding]) -> Value {
    let mut codes: Vec<Code> = findings.iter().map(Finding::code).collect();
    codes.sort_unstable();
    codes.dedup();
    let rules = codes
        .iter()
        .map(|code| json!({ "id": code, "shortDescription": { "text": code.about() } }));
    let rules: Vec<Value> = rules.collect();
    let results = findings.iter().map(|finding| {
        let level = match finding.severity() {
            Severity::Error => "error",
            Severity::Warning => "warning",
            Severity::Hint => "note",
        };
        let text = match finding.help() {
            Some(help) => format!("{}. {help}", finding.message()),
            None => finding.message().to_owned(),
        };
        let mut result = json!({
            "ruleId": finding.code(),
            "ruleIndex": codes.binary_search(&finding.code()).unwrap_or_default(),
            "level": level,
            "message": { "text": text },
        });
        if let Some((source, span)) = finding.at_text() {
            result["locations"] = json!([{
                "physicalLocation": {
                    "artifactLocation": { "uri": uri(source.name()) },
                    "region": region(source, span),
                },
            }]);
        }
        let edits = finding.edits();
        if !edits.is_empty() {
            let changes: Vec<Value> = edits.iter().map(change).collect();
            let words = finding.help().unwrap_or_default();
            result["fixes"] =
                json!([{ "description": { "text": words }, "artifactChanges": changes }]);
        }
        result
    });
    let results: Vec<Value> = results.collect();
    json!({
        "$schema": "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
        "version": "2.1.0",
        "runs": [{
            "tool": {
                "driver": {
                    "name": "hazuro",
                    "version": env!("CARGO_PKG_VERSION"),
                    "rules": rules,
                },
            },
            "columnKind": "unicodeCodePoints",
            "results": results,
        }],
    })
}

fn region(source: &Source, span: &Range<usize>) -> Value {
    let (line, column) = source.line_and_column(span.start);
    let (end_line, end_column) = source.line_and_column(span.end);
    json!({
        "startLine": line,
        "startColumn": column,
        "endLine": end_line,
        "endColumn": end_column,
    })
}

/// An edit as a change of one file.
fn change(edit: &Edit) -> Value {
    json!({
        "artifactLocation": { "uri": uri(edit.source().name()) },
        "replacements": [{
            "deletedRegion": region(edit.source(), &edit.range()),
            "insertedContent": { "text": edit.new_text() },
        }],
    })
}

/// A path as a URI reference (RFC 3986).
fn uri(path: &str) -> String {
    let mut uri = String::new();
    for byte in path.replace('\\', "/").bytes() {
        if byte.is_ascii_alphanumeric() || b"-._~/".contains(&byte) {
            uri.push(byte as char);
        } else {
            // Writing to memory cannot fail.
            let _ = write!(uri, "%{byte:02X}");
        }
    }
    uri
}
