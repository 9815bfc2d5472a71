//! Texts that are missing, altogether or in one language, and pickups that nobody can collect.

use std::collections::BTreeSet;

use hazuro::Scene;
use hazuro::scene::{Action, Field, Reaction, Text};
use hazuro_format::{Code, Cure, Finding, Severity};

use super::Checker;

pub(super) fn check(checker: &mut Checker<'_>) {
    missing(checker);
    missing_in_scripts(checker);
    languages(checker);
    pickups(checker);
}

/// Texts that are said and are not there.
fn missing(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    for (index, reaction) in scene.reactions().iter().enumerate() {
        let several = reaction.sequences().len() > 1;
        for (key, number, place, action) in reaction.actions() {
            let Action::Say { key: text, .. } = action else { continue };
            if scene.texts().contains_key(text) {
                continue;
            }
            let field = Field::ROOT.key("reaction").item(index).key(key);
            let field = if several && key == "do" { field.item(number) } else { field };
            let message = format!("there is no text named `{text}`, so the name itself is shown");
            let help = text_cure(scene, text);
            checker.warn(&field.item(place).key("say"), Code::MissingText, message, help);
        }
    }
}

/// The text that was probably meant.
fn text_cure(scene: &Scene, text: &str) -> Cure {
    let known = scene.texts().keys().map(String::as_str);
    Cure::nearest(text, known, || format!("add it: [texts] \"{text}\" = \"...\""))
}

/// Texts that scripts say and that are not there.
fn missing_in_scripts(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    for (text, source, span) in checker.scripts.said() {
        if scene.texts().contains_key(&text) {
            continue;
        }
        let message = format!("there is no text named `{text}`, so the name itself is shown");
        let help = text_cure(scene, &text);
        let finding = Finding::new(Severity::Warning, Code::MissingText, message).with_help(help);
        checker.found.push((Field::ROOT.key("texts"), finding.at(source, span)));
    }
}

/// Texts that are not in a language in which others are.
fn languages(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    let own = |language: &str| match language {
        "" => scene.language().to_owned(),
        language => language.to_owned(),
    };
    let all = scene.texts().values().flat_map(Text::languages);
    let translated: Vec<BTreeSet<String>> = scene
        .texts()
        .values()
        .map(|text| text.languages().map(|(language, _)| own(language)).collect())
        .collect();
    let all: BTreeSet<String> = all.map(|(language, _)| own(language)).collect();
    for (key, has) in scene.texts().keys().zip(translated) {
        let lacks: Vec<&str> = all.difference(&has).map(String::as_str).collect();
        if lacks.is_empty() {
            continue;
        }
        let message = format!("the text `{key}` is missing in {}", lacks.join(", "));
        let help = format!("add it: \"{key}\" = {{ {} = \"...\" }}", lacks[0]);
        checker.warn(&Field::ROOT.key("texts").key(key), Code::MissingLanguage, message, help);
    }
}

/// Pickups without a zone, which nothing collects.
fn pickups(checker: &mut Checker<'_>) {
    let scene = checker.scene;
    let collected = |name: &str| {
        scene.reactions().iter().flat_map(Reaction::actions).any(|(.., action)| match action {
            Action::Collect { what, .. } => what == name || what == "on" || what.contains(':'),
            Action::Call(_) => true,
            _ => false,
        })
    };
    for id in scene.described() {
        let entity = scene.entity(id);
        let name = entity.name();
        if scene.pickup_of(id).is_some() && !scene.has_zone(id) && !collected(name) {
            let message = format!("nobody can collect `{name}`: it has no zone to come into");
            let help = "give it one, or let a reaction collect it: { collect = \"...\" }";
            let field = checker.place(id, "pickup");
            checker.warn(&field, Code::NeverSetOff, message, help);
        }
    }
}
