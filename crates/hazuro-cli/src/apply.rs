//! `hazuro check --apply`: makes the cures that are edits, one after the other, and keeps each only
//! if it cures.

use std::collections::{BTreeMap, BTreeSet};
use std::path::Path;

use hazuro_format::{Code, Edit, Finding, Severity, Source, with_edits};

use crate::output::{coloured, paint, say};
use crate::write::write_text;

/// A change of some files, by their names: what was there, and what is there now.
type Change = BTreeMap<String, (String, String)>;

/// Makes one cure after the other until no finding has one. `look` reads and checks the files again.
/// How many were made.
///
/// # Errors
/// If a file cannot be written.
pub fn apply(look: impl Fn() -> Vec<Finding>) -> Result<usize, Finding> {
    let mut findings = look();
    let (mut made, mut tried) = (0, BTreeSet::new());
    while let Some(finding) = findings
        .iter()
        .find(|finding| !finding.edits().is_empty() && tried.insert(told(finding)))
        .cloned()
    {
        let change = change(&finding.edits());
        write(&change, |(_, new)| new)?;
        let left = look();
        if cures(&finding, &findings, &left) {
            show(&finding, &change);
            (made, findings) = (made + 1, left);
        } else {
            write(&change, |(old, _)| old)?;
            say!("{}", finding.line());
            say!("  not changed: the cure that was tried does not cure it\n");
        }
    }
    Ok(made)
}

/// What tells a finding from others, wherever its line has gone.
fn told(finding: &Finding) -> (Code, String, Option<String>) {
    let file = finding.at_text().map(|(source, _)| source.name().to_owned());
    (finding.code(), finding.message().to_owned(), file)
}

/// Whether a finding is gone, and nothing else has come that keeps the files from being read.
fn cures(finding: &Finding, before: &[Finding], after: &[Finding]) -> bool {
    let count = |all: &[Finding]| all.iter().filter(|it| told(it) == told(finding)).count();
    let broken = |all: &[Finding], code: Option<Code>| {
        all.iter().any(|it| match code {
            Some(code) => it.code() == code,
            None => it.severity() == Severity::Error,
        })
    };
    count(after) < count(before)
        && !broken(after, Some(Code::Syntax))
        && (broken(before, None) || !broken(after, None))
}

fn change(edits: &[Edit]) -> Change {
    let mut files: BTreeMap<String, (Source, Vec<Edit>)> = BTreeMap::new();
    for edit in edits {
        let name = edit.source().name().to_owned();
        let (_, all) = files.entry(name).or_insert_with(|| (edit.source().clone(), Vec::new()));
        all.push(edit.clone());
    }
    let changed = files.into_iter().map(|(name, (source, edits))| {
        (name, (source.text().to_owned(), with_edits(source.text(), &edits)))
    });
    changed.collect()
}

fn write(change: &Change, which: impl Fn(&(String, String)) -> &String) -> Result<(), Finding> {
    change.iter().try_for_each(|(file, texts)| write_text(Path::new(file), &[], which(texts)))
}

/// Shows a change as the lines that went and those that came.
fn show(finding: &Finding, change: &Change) {
    let colour = coloured(&std::io::stdout());
    say!("{}", finding.line());
    for (old, new) in change.values() {
        let (old, new): (Vec<_>, Vec<_>) = (old.lines().collect(), new.lines().collect());
        let shorter = old.len().min(new.len());
        let same = old.iter().zip(&new).take_while(|(old, new)| old == new).count();
        let ends = old.iter().rev().zip(new.iter().rev());
        let end = ends.take(shorter - same).take_while(|(old, new)| old == new).count();
        for line in &old[same..old.len() - end] {
            say!("  {}", paint(colour, "31", &format!("- {line}")));
        }
        for line in &new[same..new.len() - end] {
            say!("  {}", paint(colour, "32", &format!("+ {line}")));
        }
    }
    say!("");
}
