//! Pointing into an expression that stands in a file.

use std::ops::Range;

use hazuro::scene::Field;

use crate::condition::BadExpression;
use crate::finding::{Finding, Severity};
use crate::source::Source;
use crate::spans::Spans;

/// A finding about an expression, at the place in the file where it goes wrong.
pub(crate) fn finding(
    source: &Source,
    spans: Option<&Spans>,
    field: &Field,
    text: &str,
    bad: &BadExpression,
) -> Finding {
    let span = spans.map_or(0..0, |spans| spans.find(field));
    let finding = Finding::new(Severity::Error, "bad-expression", bad.message.clone())
        .at(source, within(source.text(), span, text, bad.column));
    match &bad.help {
        Some(help) => finding.with_help(help),
        None => finding.with_help("a condition is an expression, as in count.tokens >= 4"),
    }
}

/// The bytes of what stands at a column of an expression, if the file has the expression as it
/// is, without escapes; else the whole expression.
fn within(whole: &str, span: Range<usize>, text: &str, column: usize) -> Range<usize> {
    let Some(start) = whole.get(span.clone()).and_then(|quoted| quoted.find(text)) else {
        return span;
    };
    let start = span.start + start;
    let Some((offset, _)) = text.char_indices().nth(column) else {
        return start..start + text.len();
    };
    let word = text[offset..].chars().take_while(|c| c.is_alphanumeric() || *c == '_');
    let length = word.map(char::len_utf8).sum::<usize>().max(1);
    start + offset..start + offset + length
}
