//! Words of which one is meant.

use hazuro::scene::Field;

use crate::code::Code;
use crate::cure::Cure;
use crate::read::reader::Reader;

/// The one of some words that is meant; else the nearest of them, and all of them.
pub(crate) fn word<T: Copy>(
    given: &str,
    all: &[T],
    word: impl Fn(T) -> &'static str,
) -> Result<T, Cure> {
    if let Some(found) = all.iter().find(|one| word(**one) == given) {
        return Ok(*found);
    }
    let words: Vec<&str> = all.iter().map(|one| word(*one)).collect();
    let all = || format!("it is one of {}", words.join(", "));
    Err(Cure::nearest(given, words.iter().copied(), all))
}

impl Reader<'_> {
    /// The one of some words that is meant; reports a word that is none of them.
    pub(crate) fn one_of<T: Copy>(
        &mut self,
        given: &str,
        all: &[T],
        of: impl Fn(T) -> &'static str,
        field: &Field,
    ) -> Option<T> {
        match word(given, all, of) {
            Ok(found) => Some(found),
            Err(help) => {
                let message = format!("`{given}` is none of the words that can be here");
                self.error(field, Code::BadValue, &message, help);
                None
            }
        }
    }

    /// Reports a word that is none of those there are.
    pub(crate) fn unknown_word(&mut self, field: &Field, word: &str, known: &[&str]) {
        let all = || format!("there are {}", known.join(", "));
        let help = Cure::nearest(word, known.iter().copied(), all);
        self.error(field, Code::UnknownName, &format!("`{word}` means nothing here"), help);
    }
}
