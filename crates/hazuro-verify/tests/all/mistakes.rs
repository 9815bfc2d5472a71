//! Scenes of one mistake each, written before it was known what would be said of them: the first
//! thing that the first command says names the true cause, and the mended twin raises no alarm.

use std::sync::Arc;

use hazuro_format::{Finding, Severity, Source, with_edits};
use hazuro_script::read_scene_with;
use hazuro_verify::{Playtest, check_playtest, check_scene_with, read_playtest, run_playtest};
use serde::Deserialize;

#[derive(Deserialize)]
struct Cases {
    case: Vec<Case>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Case {
    name: String,
    scene: String,
    #[serde(default)]
    script: String,
    playtest: String,
    /// What makes it right.
    mend: Vec<Edit>,
    /// What must be said first.
    says: Vec<String>,
    /// The findings of `check` that the mistake may raise by itself.
    #[serde(default)]
    check: Vec<String>,
    /// `check` if that finds it before it is played.
    #[serde(default)]
    by: String,
}

#[derive(Deserialize)]
struct Edit {
    old: String,
    new: String,
}

const WORLD: &str = include_str!("../mistakes/world.toml");

/// The texts of a case, mended or not: scene, script, playtest.
fn texts(case: &Case, mended: bool) -> [String; 3] {
    let scripts = if case.script.is_empty() { "" } else { "scripts = [\"case.rhai\"]\n" };
    let world = WORLD.replacen("[scene]\n", &format!("[scene]\n{scripts}"), 1);
    let playtest = format!("scene = \"case.toml\"\n{}", case.playtest);
    let mut texts = [format!("{world}\n{}", case.scene), case.script.clone(), playtest];
    for Edit { old, new } in case.mend.iter().filter(|_| mended) {
        let text = texts.iter_mut().find(|text| text.contains(old));
        let text = text.unwrap_or_else(|| panic!("{}: nothing to mend: {old}", case.name));
        *text = text.replacen(old, new, 1);
    }
    texts
}

fn read(texts: &[String; 3]) -> Result<(Playtest, Vec<Finding>), Vec<Finding>> {
    let [scene, script, playtest] = texts;
    let source = Source::new("case.toml", scene);
    let (scene, scripts) = read_scene_with(&source, &|_| Ok(Source::new("case.rhai", script)))?;
    let scene = Arc::new(scene);
    let mut findings = check_scene_with(&source, &scene, &scripts);
    let playtest = Source::new("case.playtest.toml", playtest);
    let playtest = read_playtest(&playtest, scene)?;
    findings.extend(check_playtest(&playtest));
    Ok((playtest.with_scripts(scripts).with_scene_source(source), findings))
}

/// What is said first: by `check` if it has found anything, or else by `test`.
fn first(case: &Case) -> String {
    let say = |finding: &Finding| {
        let place = finding.place().map_or(String::new(), |it| format!("{it} "));
        let help = finding.help().unwrap_or_default();
        format!("{place}{}: {} ({help})", finding.code(), finding.message())
    };
    let (playtest, findings) = match read(&texts(case, false)) {
        Ok(read) => read,
        Err(findings) => {
            let said = findings.first().map(say).unwrap_or_default();
            assert_eq!(case.by, "check", "{}: {said}", case.name);
            return said;
        }
    };
    let unexpected = |it: &&Finding| !case.check.iter().any(|code| it.code() == **code);
    let found = findings.iter().filter(|it| it.severity() > Severity::Hint).find(unexpected);
    if let Some(finding) = found {
        assert_eq!(case.by, "check", "{}: {}", case.name, say(finding));
        return say(finding);
    }
    let report = run_playtest(&playtest, None);
    assert!(!report.passed(), "{}: nothing is wrong", case.name);
    match report.outcomes.iter().find(|outcome| !outcome.met) {
        Some(outcome) => {
            let why = outcome.why.first().cloned().unwrap_or_default();
            format!("{}: seen: {}\n    {why}", outcome.expected, outcome.seen)
        }
        None => report.failures.first().cloned().unwrap_or_default(),
    }
}

/// What is still wrong with a case, once mended.
fn alarms(case: &Case, texts: &[String; 3]) -> Vec<String> {
    let (playtest, findings) = match read(texts) {
        Ok(read) => read,
        Err(findings) => return findings.iter().map(|it| it.message().to_owned()).collect(),
    };
    let code = |it: &Finding| format!("{}: {}", it.code(), it.message());
    let raised = findings.iter().filter(|it| it.severity() > Severity::Hint);
    let unexpected = |it: &&Finding| !case.check.iter().any(|code| it.code() == **code);
    let mut alarms: Vec<String> = raised.filter(unexpected).map(code).collect();
    let report = run_playtest(&playtest, None);
    let unmet = report.outcomes.iter().filter(|it| !it.met);
    alarms.extend(unmet.map(|it| format!("{}: {}", it.expected, it.seen)));
    alarms.extend(report.failures);
    alarms
}

/// What is wrong after the cures that are edits have been made, one after the other; none if the
/// first finding has no such cure.
fn after_edits(case: &Case) -> Option<Vec<String>> {
    let mut texts = texts(case, false);
    let mut made = 0;
    loop {
        let findings = match read(&texts) {
            Ok((_, findings)) | Err(findings) => findings,
        };
        let unexpected = |it: &&Finding| !case.check.iter().any(|code| it.code() == **code);
        // What is worth a look need not be the mistake.
        let raised = findings.iter().filter(|it| it.severity() > Severity::Hint);
        let edits = raised.filter(unexpected).map(Finding::edits);
        let Some(edits) = edits.into_iter().find(|edits| !edits.is_empty()) else { break };
        assert!(made < 9, "{}: its cures have no end", case.name);
        for edit in &edits {
            let names = ["case.toml", "case.rhai", "case.playtest.toml"];
            let file = names.iter().position(|name| *name == edit.source().name()).unwrap();
            assert_eq!(edit.source().text(), texts[file], "{}", case.name);
        }
        let source = edits[0].source().clone();
        let text = texts.iter_mut().find(|text| *text == source.text()).unwrap();
        *text = with_edits(source.text(), &edits);
        made += 1;
    }
    (made > 0).then(|| alarms(case, &texts))
}

fn try_all(text: &str) {
    let cases: Cases = toml::from_str(text).unwrap();
    let mut wrong = Vec::new();
    for case in &cases.case {
        if let Some(alarms) = after_edits(case).filter(|alarms| !alarms.is_empty()) {
            wrong.push(format!("{}, cured by its edits: {alarms:#?}", case.name));
        }
        let said = first(case);
        let lacks: Vec<&String> = case.says.iter().filter(|word| !said.contains(*word)).collect();
        if !lacks.is_empty() {
            wrong.push(format!("{}: lacks {lacks:?} in\n    {said}", case.name));
        }
        let alarms = alarms(case, &texts(case, true));
        if !alarms.is_empty() {
            wrong.push(format!("{}, mended: {alarms:#?}", case.name));
        }
    }
    assert!(wrong.is_empty(), "{} of {}:\n{}", wrong.len(), cases.case.len(), wrong.join("\n\n"));
}

#[test]
fn values_tell_what_changed_them_and_what_would_have() {
    try_all(include_str!("../mistakes/values.toml"));
}

#[test]
fn reactions_that_take_time_tell_what_became_of_them() {
    try_all(include_str!("../mistakes/runs.toml"));
}

#[test]
fn events_that_do_not_come_tell_what_kept_them() {
    try_all(include_str!("../mistakes/events.toml"));
}

#[test]
fn events_that_must_not_come_tell_the_chain_that_led_to_them() {
    try_all(include_str!("../mistakes/never.toml"));
}

#[test]
fn places_and_switches_tell_whose_doing_they_are() {
    try_all(include_str!("../mistakes/places.toml"));
}

#[test]
fn scripts_are_read_and_their_failures_told() {
    try_all(include_str!("../mistakes/scripts.toml"));
}

#[test]
fn numbers_tell_the_facts_of_the_scene_behind_them() {
    try_all(include_str!("../mistakes/facts.toml"));
}
