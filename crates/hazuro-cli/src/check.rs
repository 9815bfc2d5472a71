//! `hazuro check`: lists what is wrong or suspicious.

use std::path::PathBuf;

use hazuro_files::{Finding, Severity, check_scene, load};

use crate::Ending;
use crate::files::files;
use crate::output::{coloured, ending, report, say};

/// Checks scenes and playtests. Findings are the result, so they go to standard output.
pub fn check(paths: &[PathBuf]) -> Ending {
    let mut worst = Ending::Fine;
    let files = match files(paths, &["scene", "playtest"]) {
        Ok(files) => files,
        Err(finding) => return report(&[finding]),
    };
    for path in &files {
        let findings = match load(path) {
            Ok(loaded) => check_scene(&loaded.source, &loaded.scene),
            Err(findings) => findings,
        };
        let colour = coloured(&std::io::stdout());
        for finding in &findings {
            say!("{}", finding.render(100, colour).trim_end_matches('\n'));
            say!("");
        }
        say!("{}: {}", path.display(), summary(&findings));
        worst = worst.max(ending(&findings));
    }
    worst
}

fn summary(findings: &[Finding]) -> String {
    let count = |severity| findings.iter().filter(|finding| finding.severity() == severity).count();
    let plural = |number: usize, word: &str| match number {
        0 => None,
        1 => Some(format!("1 {word}")),
        _ => Some(format!("{number} {word}s")),
    };
    let counts =
        [plural(count(Severity::Error), "error"), plural(count(Severity::Warning), "warning")];
    let counts: Vec<String> = counts.into_iter().flatten().collect();
    if counts.is_empty() { "nothing to complain about".into() } else { counts.join(", ") }
}
