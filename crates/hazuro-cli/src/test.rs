//! `hazuro test`: runs playtests and says which expectations were met.

use std::path::{Path, PathBuf};

use hazuro_files::{Finding, Outcome, Severity, load, run_playtest};

use crate::Ending;
use crate::files::files;
use crate::output::{coloured, paint, report, say};

/// Runs playtests, each to its end.
pub fn test(paths: &[PathBuf], rate: Option<u32>) -> Ending {
    let files = match files(paths, &["playtest"]) {
        Ok(files) => files,
        Err(finding) => return report(&[finding]),
    };
    let (mut worst, mut passed, mut failed, mut unread) = (Ending::Fine, 0, 0, 0);
    for file in &files {
        let ending = run_one(file, rate, &mut passed, &mut failed);
        unread += usize::from(ending == Ending::Unreadable);
        worst = worst.max(ending);
    }
    let unread = if unread == 0 { String::new() } else { format!(", {unread} not readable") };
    say!("\n{passed} passed, {failed} failed{unread}");
    worst
}

fn run_one(file: &Path, rate: Option<u32>, passed: &mut usize, failed: &mut usize) -> Ending {
    let loaded = match load(file) {
        Ok(loaded) => loaded,
        Err(findings) => return report(&findings),
    };
    let Some(playtest) = &loaded.playtest else {
        let message = format!("`{}` is a scene, not a playtest", file.display());
        let finding = Finding::new(Severity::Error, "no-playtest", message)
            .with_help("a playtest names its scene: scene = \"...\"");
        return report(&[finding]);
    };
    let outcome = run_playtest(playtest, rate);
    say!("{}", file.display());
    for outcome in &outcome.outcomes {
        *(if outcome.met { &mut *passed } else { &mut *failed }) += 1;
        print(outcome);
    }
    for halt in outcome.halts.iter().filter(|_| !outcome.passed()) {
        say!("  note {halt}");
    }
    if outcome.outcomes.is_empty() {
        say!("  it expects nothing");
    }
    if outcome.passed() { Ending::Fine } else { Ending::Findings }
}

fn print(outcome: &Outcome) {
    let colour = coloured(&std::io::stdout());
    let Outcome { met, expected, seen, line } = outcome;
    let mut seen = seen.lines();
    let first = seen.next().unwrap_or_default();
    if *met {
        let seen = if first.is_empty() { String::new() } else { format!("  ({first})") };
        say!("  {} {expected}{seen}", paint(colour, "32", "pass"));
        return;
    }
    say!("  {} {expected}", paint(colour, "1;31", "FAIL"));
    say!("       line {line}; seen: {first}");
    for more in seen {
        say!("       {more}");
    }
}
