//! `hazuro check`: lists what is wrong or suspicious.

use std::collections::BTreeSet;
use std::path::PathBuf;

use hazuro_format::{FileAccess, Finding, Severity};
use hazuro_verify::{check_playtest, check_scene_with, findings_json, findings_sarif, load_with};

use crate::apply::apply;
use crate::files::{access_of, files};
use crate::output::{coloured, ending, print_finding, report, say};
use crate::{Ending, Format};

/// Checks scenes and playtests. Findings are the result, so they go to standard output.
pub fn check(paths: &[PathBuf], access: &FileAccess, format: Format) -> Ending {
    let by_file = match findings(paths, access) {
        Ok(by_file) => by_file,
        Err(finding) => return report(&[finding]),
    };
    if format == Format::Text {
        return print(&by_file);
    }
    let all: Vec<Finding> = by_file.into_iter().flat_map(|(_, findings)| findings).collect();
    let told = match format {
        Format::Sarif => findings_sarif(&all),
        _ => findings_json(&all),
    };
    say!("{told:#}");
    ending(&all)
}

/// Makes the cures that are edits, shows each, and checks again.
pub fn check_and_apply(paths: &[PathBuf], access: &FileAccess) -> Ending {
    let look = || match findings(paths, access) {
        Ok(by_file) => by_file.into_iter().flat_map(|(_, findings)| findings).collect(),
        Err(finding) => vec![finding],
    };
    let made = match apply(look) {
        Ok(made) => made,
        Err(finding) => return report(&[finding]),
    };
    let ending = match findings(paths, access) {
        Ok(by_file) => print(&by_file),
        Err(finding) => return report(&[finding]),
    };
    say!("{}", if made == 1 { "1 change made".into() } else { format!("{made} changes made") });
    ending
}

/// What is wrong or suspicious in each file.
fn findings(
    paths: &[PathBuf],
    access: &FileAccess,
) -> Result<Vec<(PathBuf, Vec<Finding>)>, Finding> {
    // A scene is checked once, however many playtests play it.
    let mut scenes = BTreeSet::new();
    let by_file = files(paths, &["scene", "playtest"])?.into_iter().map(|path| {
        let findings = match load_with(&path, &access_of(&path, paths, access)) {
            Ok(loaded) => {
                let first = scenes.insert(std::fs::canonicalize(loaded.source.name()).ok());
                let scene = if first {
                    check_scene_with(&loaded.source, &loaded.scene, &loaded.scripts)
                } else {
                    Vec::new()
                };
                let playtest = loaded.playtest.iter().flat_map(check_playtest);
                scene.into_iter().chain(playtest).collect()
            }
            Err(findings) => findings,
        };
        (path, findings)
    });
    Ok(by_file.collect())
}

/// Prints what was found in each file, and says which of it can be cured at once.
fn print(by_file: &[(PathBuf, Vec<Finding>)]) -> Ending {
    let colour = coloured(&std::io::stdout());
    for (path, findings) in by_file {
        for finding in findings {
            print_finding(finding, colour);
            say!("");
        }
        say!("{}: {}", path.display(), summary(findings));
    }
    let all: Vec<Finding> = by_file.iter().flat_map(|(_, findings)| findings.clone()).collect();
    // What is wrong with a scene is found again with each of its playtests.
    let cured = all.iter().filter(|finding| !finding.edits().is_empty());
    match cured.map(Finding::line).collect::<BTreeSet<String>>().len() {
        0 => {}
        1 => say!("1 of them has a cure that is an edit: --apply makes it"),
        cures => say!("{cures} of them have a cure that is an edit: --apply makes them"),
    }
    ending(&all)
}

fn summary(findings: &[Finding]) -> String {
    let count = |severity| findings.iter().filter(|finding| finding.severity() == severity).count();
    let plural = |number: usize, word: &str| match number {
        0 => None,
        1 => Some(format!("1 {word}")),
        _ => Some(format!("{number} {word}s")),
    };
    let counts = [Severity::Error, Severity::Warning, Severity::Hint]
        .map(|severity| plural(count(severity), severity.word()));
    let counts: Vec<String> = counts.into_iter().flatten().collect();
    if counts.is_empty() { "nothing to complain about".into() } else { counts.join(", ") }
}
