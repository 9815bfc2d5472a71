//! `hazuro test`: runs playtests and says which expectations were met.

use std::path::{Path, PathBuf};

use hazuro_files::{Finding, Outcome, Severity, load, run_playtest};

use crate::Ending;
use crate::output::{coloured, paint, report, say};

/// Runs playtests, each to its end.
pub fn test(paths: &[PathBuf], rate: Option<u32>) -> Ending {
    let files = match files(paths) {
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

/// The files meant, with those in folders in the order of their names.
fn files(paths: &[PathBuf]) -> Result<Vec<PathBuf>, Finding> {
    let mut files = Vec::new();
    for path in paths {
        if !path.is_dir() {
            files.push(path.clone());
            continue;
        }
        let before = files.len();
        collect(path, &mut files).map_err(|error| {
            let message = format!("`{}` cannot be read: {error}", path.display());
            Finding::new(Severity::Error, "unreadable", message)
        })?;
        if files.len() == before {
            let message = format!("there is no playtest in `{}`", path.display());
            return Err(Finding::new(Severity::Error, "no-playtest", message)
                .with_help("playtests in a folder end in `.playtest.toml` or `.playtest.json`"));
        }
        files[before..].sort();
    }
    Ok(files)
}

fn collect(folder: &Path, files: &mut Vec<PathBuf>) -> std::io::Result<()> {
    for entry in std::fs::read_dir(folder)? {
        let entry = entry?;
        let name = entry.file_name();
        let name = name.to_string_lossy();
        // A link to a folder is not followed, so no circle can hold us up.
        if entry.file_type()?.is_dir() {
            collect(&entry.path(), files)?;
        } else if name.ends_with(".playtest.toml") || name.ends_with(".playtest.json") {
            files.push(entry.path());
        }
    }
    Ok(())
}
