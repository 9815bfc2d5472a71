//! How deep lists and tables may be nested in a text.

use crate::code::Code;
use crate::finding::{Finding, Severity};
use crate::source::{Format, Source};

/// The most lists and tables that may be within one another.
const MOST: usize = 64;

/// The error, if lists and tables are nested too deep in a text: readers go into each by calling
/// themselves. Looks at each byte once.
pub(crate) fn too_deep(source: &Source) -> Option<Finding> {
    let text = source.text().as_bytes();
    let toml = source.format() == Format::Toml;
    let (mut depth, mut at) = (0_usize, 0);
    while let Some(&byte) = text.get(at) {
        match byte {
            b'"' | b'\'' if toml || byte == b'"' => at = end_of_text(text, at, toml),
            b'#' if toml => {
                let line = text[at..].iter().position(|byte| *byte == b'\n');
                at += line.unwrap_or(text.len() - at);
            }
            b'[' | b'{' => {
                depth += 1;
                if depth > MOST {
                    let message = format!("lists and tables are more than {MOST} deep here");
                    let finding = Finding::new(Severity::Error, Code::TooDeep, message);
                    let finding = finding.at(source, at..at + 1);
                    return Some(finding.with_help("is it a scene or playtest at all?"));
                }
            }
            b']' | b'}' => depth = depth.saturating_sub(1),
            _ => {}
        }
        at += 1;
    }
    None
}

/// The last byte of a quoted text that begins at `at`.
fn end_of_text(text: &[u8], at: usize, toml: bool) -> usize {
    let quote = text[at];
    let escapes = quote == b'"';
    let whole = [quote; 3];
    let closing: &[u8] = if toml && text[at..].starts_with(&whole) { &whole } else { &whole[..1] };
    let mut next = at + closing.len();
    while next < text.len() {
        if escapes && text[next] == b'\\' {
            next += 2;
        } else if text[next..].starts_with(closing) {
            return next + closing.len() - 1;
        } else if toml && closing.len() == 1 && text[next] == b'\n' {
            // It is not closed on its line, which its reader will complain about.
            return next;
        } else {
            next += 1;
        }
    }
    text.len()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn brackets_in_texts_and_comments_do_not_count() {
        let many = "[".repeat(100);
        let texts = [
            format!("a = \"{many}\\\"{many}\"\n"),
            format!("# {many}\na = '{many}'\n"),
            format!("a = \"\"\"{many}\n\"{many}\"\"\"\nb = [1]\n"),
        ];
        for text in texts {
            assert!(too_deep(&Source::new("a.toml", text)).is_none());
        }
        assert!(too_deep(&Source::new("a.json", format!("{{\"a\": \"{many}\"}}"))).is_none());
        assert!(too_deep(&Source::new("a.json", many.clone())).is_some());
        assert!(too_deep(&Source::new("a.toml", format!("a = {many}"))).is_some());
        let wide = format!("[{}]", "[],".repeat(1000));
        assert!(too_deep(&Source::new("a.json", wide)).is_none());
    }
}
