//! The texts of a scene in which expressions and placeholders stand, and what they ask for.

use hazuro::Scene;
use hazuro::scene::{Field, Reaction};

use super::reactions::actions;

/// The formulas of a reaction, each with its place.
pub(super) fn formulas(reaction: &Reaction, field: &Field) -> Vec<(Field, String)> {
    let (every, _) = reaction.repetition();
    let pauses = [("after", Some(reaction.delay())), ("every", every)];
    let pauses = pauses.into_iter().filter_map(|(key, it)| Some((key, it?.formula()?)));
    let pauses = pauses.map(|(key, formula)| (field.key(key), formula.text().to_owned()));
    let actions = actions(reaction, field).flat_map(|(action, place)| {
        let formulas = action.formulas().into_iter();
        formulas.map(move |(key, formula)| (place.key(key), formula.text().to_owned()))
    });
    pauses.chain(actions).collect()
}

/// The conditions of a reaction, each with its place.
pub(super) fn conditions(reaction: &Reaction, field: &Field) -> Vec<(Field, String)> {
    let all = [("if", reaction.condition()), ("until_if", reaction.ending())];
    let all = all.into_iter().filter_map(|(key, condition)| Some((key, condition?)));
    all.map(|(key, condition)| (field.key(key), condition.text().to_owned())).collect()
}

/// All texts in which something is asked for, but for the names in actions.
pub(super) fn texts(scene: &Scene) -> Vec<String> {
    let mut all = Vec::new();
    for reaction in scene.reactions() {
        let both = [formulas(reaction, &Field::ROOT), conditions(reaction, &Field::ROOT)];
        all.extend(both.into_iter().flatten().map(|(_, text)| text));
    }
    for id in scene.described() {
        let rule = scene.admit_of(id).and_then(|rule| rule.condition());
        all.extend(rule.map(|rule| rule.text().to_owned()));
        let score = scene.seeker_of(id).and_then(|seeker| seeker.score.as_ref());
        all.extend(score.map(|score| score.text().to_owned()));
    }
    for text in scene.texts().values() {
        all.extend(text.languages().map(|(_, text)| text.to_owned()));
    }
    all
}
