//! What the text of an expression asks for.

/// The dotted words of an expression, as in `count.tokens`.
pub(super) fn words(text: &str) -> impl Iterator<Item = &str> {
    text.split(|c: char| !(c.is_alphanumeric() || c == '_' || c == '.'))
}

/// What a text asks for of one sort, as `slot`: of whom, if it says that, and its name.
pub(super) fn asked<'a>(text: &'a str, sort: &'a str) -> impl Iterator<Item = (&'a str, &'a str)> {
    words(text).flat_map(move |word| {
        let steps: Vec<&str> = word.split('.').collect();
        let found = steps.iter().enumerate().filter(|(_, step)| **step == sort);
        let named = found.filter_map(|(at, _)| {
            let whose = at.checked_sub(1).map_or("", |before| steps[before]);
            // Whose slot it is may itself be in a slot.
            let whose = if at > 1 { "" } else { whose };
            steps.get(at + 1).map(|name| (whose, *name))
        });
        named.collect::<Vec<_>>()
    })
}
