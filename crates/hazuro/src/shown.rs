//! How names, texts and numbers of others are shown: harmlessly, and never endlessly.

use std::borrow::Cow;

/// A text as it can be shown anywhere: characters that control a terminal, and those that turn the
/// direction of writing, are written out, as in `\u{1b}`. Line breaks and tabs are, too.
///
/// ```
/// assert_eq!(hazuro::shown("red\u{1b}[31m"), "red\\u{1b}[31m");
/// assert_eq!(hazuro::shown("Tide mill"), "Tide mill");
/// ```
pub fn shown(text: &str) -> Cow<'_, str> {
    if !text.contains(is_harmful) {
        return Cow::Borrowed(text);
    }
    let mut shown = String::with_capacity(text.len() + 8);
    for character in text.chars() {
        if is_harmful(character) {
            shown.extend(character.escape_default());
        } else {
            shown.push(character);
        }
    }
    Cow::Owned(shown)
}

/// Whether a character does something to what shows it, or to the order of what stands beside it.
/// The latter are the `Bidi_Control` characters of the Unicode Standard, Annex 9; line and
/// paragraph separators break lines.
fn is_harmful(character: char) -> bool {
    character.is_control()
        || matches!(
            character,
            '\u{61c}'
                | '\u{200e}'
                | '\u{200f}'
                | '\u{2028}'
                | '\u{2029}'
                | '\u{202a}'..='\u{202e}'
                | '\u{2066}'..='\u{2069}'
        )
}

/// The beginning of a name, for messages: a name that is far too long is told by it, too.
pub(crate) fn short(name: &str) -> String {
    const MOST: usize = 60;
    match name.char_indices().nth(MOST) {
        None => shown(name).into_owned(),
        Some((end, _)) => format!("{}…", shown(&name[..end])),
    }
}

/// A number for messages: in powers of ten where it has many digits.
///
/// ```
/// assert_eq!(hazuro::shown_number(1e300), "1e300");
/// assert_eq!(hazuro::shown_number(0.25), "0.25");
/// ```
pub fn number(value: f64) -> String {
    const MOST: usize = 18;
    let digits = value.to_string();
    if digits.len() > MOST { format!("{value:e}") } else { digits }
}
