//! `hazuro check`: lists what is wrong or suspicious.

use std::collections::BTreeSet;
use std::path::PathBuf;

use hazuro_format::{FileAccess, Finding, Severity};
use hazuro_verify::{check_playtest, check_scene_with, findings_json, findings_sarif, load_with};

use crate::files::{access_of, files};
use crate::output::{coloured, ending, print_finding, report, say};
use crate::{Ending, Format};

/// Checks scenes and playtests. Findings are the result, so they go to standard output.
pub fn check(paths: &[PathBuf], access: &FileAccess, format: Format) -> Ending {
    let files = match files(paths, &["scene", "playtest"]) {
        Ok(files) => files,
        Err(finding) => return report(&[finding]),
    };
    // A scene is checked once, however many playtests play it.
    let mut scenes = BTreeSet::new();
    let mut all = Vec::new();
    for path in &files {
        let findings = match load_with(path, &access_of(path, paths, access)) {
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
        if format == Format::Text {
            print(path, &findings);
        }
        all.extend(findings);
    }
    let told = match format {
        Format::Text => return ending(&all),
        Format::Json => findings_json(&all),
        Format::Sarif => findings_sarif(&all),
    };
    say!("{told:#}");
    ending(&all)
}

fn print(path: &std::path::Path, findings: &[Finding]) {
    let colour = coloured(&std::io::stdout());
    for finding in findings {
        print_finding(finding, colour);
        say!("");
    }
    say!("{}: {}", path.display(), summary(findings));
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
