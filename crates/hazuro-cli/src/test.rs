//! `hazuro test`: runs playtests and says which expectations were met.

use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

use hazuro::why::Coverage;
use hazuro_format::{Code, FileAccess, Finding, Level, Severity, Source, write_log};
use hazuro_verify::{
    Changed, CoverageTable, Loaded, Outcome, Playtest, Report, Run, Watched, differences,
    differences_of_logs, jitter, junit, load_with, run_playtest_as,
};
use indicatif::{ProgressBar, ProgressStyle};

use crate::files::{access_of, files};
use crate::interrupt::Interrupt;
use crate::output::{coloured, happened, paint, report, say};
use crate::write::write_text;
use crate::{Ending, Tested};

/// The most differences that are told.
const TOLD: usize = 12;

/// What running playtests has come to so far.
#[derive(Default)]
struct Tally {
    worst: Option<Ending>,
    passed: usize,
    failed: usize,
    unread: usize,
    /// Of each scene's file, by its name: the scene and what has been tried of it.
    coverage: BTreeMap<String, (Loaded, Coverage)>,
    results: Vec<(String, Result<Report, Vec<Finding>>)>,
    /// The files that were read.
    inputs: Vec<PathBuf>,
}

impl Tally {
    fn end(&mut self, ending: Ending) {
        self.worst = self.worst.max(Some(ending));
    }

    /// Writes a text, if there is one, to a file that is none of those read.
    fn save(&mut self, to: &Path, text: Result<String, String>) {
        let unmade = |error: String| {
            let message = format!("`{}` cannot be written: {error}", to.display());
            Finding::new(Severity::Error, Code::Unwritable, message)
        };
        let saved = text.map_err(unmade).and_then(|text| write_text(to, &self.inputs, &text));
        if let Err(finding) = saved {
            self.end(report(&[finding]));
        }
    }
}

/// Runs playtests, each to its end.
pub fn test(asked: &Tested, access: &FileAccess) -> Ending {
    let files = match files(&asked.paths, &["playtest"]) {
        Ok(files) => files,
        Err(finding) => return report(&[finding]),
    };
    let fits = |file: &&PathBuf| {
        asked.filter.as_ref().is_none_or(|filter| file.display().to_string().contains(filter))
    };
    let files: Vec<PathBuf> = files.iter().filter(fits).cloned().collect();
    if let (true, Some(filter)) = (files.is_empty(), &asked.filter) {
        let message = format!("no playtest has `{filter}` in its path");
        return report(&[Finding::new(Severity::Error, Code::NoPlaytest, message)]);
    }
    let (shard, of) = asked.shard;
    let files: Vec<&PathBuf> = files.iter().skip(shard - 1).step_by(of).collect();
    let interrupt = Interrupt::listen();
    let mut tally = Tally::default();
    let count = files.len();
    // It shows itself only on a terminal.
    let bar = ProgressBar::new(files.len() as u64);
    if let Ok(style) = ProgressStyle::with_template("{pos} of {len} playtests  {msg}") {
        bar.set_style(style);
    }
    for file in files {
        if interrupt.is_asked() {
            break;
        }
        bar.set_message(file.display().to_string());
        // What is printed must not mix with the line of progress.
        bar.suspend(|| run_file((file, access), (asked, &interrupt), &mut tally));
        bar.inc(1);
    }
    bar.finish_and_clear();
    let Tally { passed, failed, unread, .. } = tally;
    let unread = if unread == 0 { String::new() } else { format!(", {unread} not readable") };
    if let Some(to) = &asked.coverage {
        cover(&mut tally, to);
    }
    let cut = if interrupt.is_asked() {
        format!("; cut short in file {} of {count}", tally.results.len())
    } else {
        String::new()
    };
    say!("\n{passed} passed, {failed} failed{unread}{cut}");
    if let Some(to) = &asked.junit {
        let text = junit(&tally.results);
        tally.save(to, text);
    }
    interrupt.ending(tally.worst.unwrap_or(Ending::Fine))
}

fn cover(tally: &mut Tally, to: &Path) {
    let mut tables = Vec::new();
    for (loaded, coverage) in tally.coverage.values() {
        let table = CoverageTable::of(&loaded.scene, coverage);
        crate::coverage::print(&table);
        tables.push(table);
    }
    if to != Path::new("-") {
        let text = serde_json::to_string_pretty(&tables).map_err(|error| error.to_string());
        tally.save(to, text.map(|text| text + "\n"));
    }
}

fn run_file(
    (file, access): (&Path, &FileAccess),
    (asked, interrupt): (&Tested, &Interrupt),
    tally: &mut Tally,
) {
    let unread = |findings: Vec<Finding>, tally: &mut Tally| {
        tally.end(report(&findings));
        tally.unread += 1;
        tally.results.push((file.display().to_string(), Err(findings)));
    };
    tally.inputs.push(file.to_owned());
    let loaded = match load_with(file, &access_of(file, &asked.paths, access)) {
        Ok(loaded) => loaded,
        Err(findings) => return unread(findings, tally),
    };
    tally.inputs.extend(loaded.files());
    let Some(playtest) = &loaded.playtest else {
        let message = format!("`{}` is a scene, not a playtest", file.display());
        let finding = Finding::new(Severity::Error, Code::NoPlaytest, message)
            .with_help("a playtest names its scene: scene = \"...\"");
        return unread(vec![finding], tally);
    };
    let watched: Result<Vec<Watched>, Finding> =
        asked.watch.iter().map(|text| Watched::new(text, &loaded.scene)).collect();
    let watched = match watched {
        Ok(watched) => watched,
        Err(finding) => return unread(vec![finding], tally),
    };
    let name = loaded.source.name().to_owned();
    let mut coverage = asked.coverage.as_ref().map(|_| {
        tally.coverage.remove(&name).map_or_else(Coverage::default, |(_, coverage)| coverage)
    });
    let first = asked.rates.first().copied().or(asked.rate);
    let run = Run {
        rate: first,
        watched: &watched,
        coverage: coverage.as_mut(),
        stop: Some(interrupt.flag()),
        ..Run::default()
    };
    let outcome = run_playtest_as(playtest, run);
    say!("{}", file.display());
    print_changes(&outcome.changed, &outcome, playtest);
    for outcome in &outcome.outcomes {
        *(if outcome.met { &mut tally.passed } else { &mut tally.failed }) += 1;
        print(outcome);
    }
    if !outcome.failures.is_empty() {
        verdict(tally, false, "nothing goes wrong in scripts, handlers and conditions");
        for failure in &outcome.failures {
            say!("       {failure}");
        }
    }
    for line in &outcome.lines {
        say!("  note {line}");
    }
    for halt in outcome.halts.iter().filter(|_| !outcome.passed()) {
        say!("  note {halt}");
    }
    if let Some(at) = outcome.cut_short {
        say!("  cut short at {at} s");
        tally.results.push((file.display().to_string(), Ok(outcome)));
        return;
    }
    let mut fine = outcome.passed();
    for rate in asked.rates.iter().skip(1) {
        fine &= same_at(playtest, &outcome, (first, *rate), tally);
    }
    if let Some(seeds) = asked.seeds {
        fine &= is_sturdy(playtest, first, seeds, tally);
    }
    match log(playtest, &outcome, asked.update, tally) {
        Ok(same) => fine &= same,
        Err(ending) => tally.end(ending),
    }
    if outcome.outcomes.is_empty() && playtest.log().is_none() {
        say!("  it expects nothing");
    }
    tally.end(if fine { Ending::Fine } else { Ending::Findings });
    tally.results.push((file.display().to_string(), Ok(outcome)));
    if let Some(coverage) = coverage {
        tally.coverage.insert(name, (loaded, coverage));
    }
}

/// Whether a play is the same at another rate; tells the first difference.
fn same_at(
    playtest: &Playtest,
    first: &Report,
    (was, rate): (Option<u32>, u32),
    tally: &mut Tally,
) -> bool {
    let run = Run { rate: Some(rate), quick: true, ..Run::default() };
    let other = run_playtest_as(playtest, run);
    let different = differences(&playtest.play(), &first.entries, &other.entries);
    let was = was.unwrap_or(playtest.scene().rate());
    verdict(tally, different.is_empty(), &format!("the same at {rate} as at {was} ticks a second"));
    if let Some(difference) = different.first() {
        say!("       {} differences; first: {difference}", different.len());
    }
    different.is_empty()
}

/// Whether nothing is decided by a few millimetres or milliseconds.
fn is_sturdy(playtest: &Playtest, rate: Option<u32>, seeds: u64, tally: &mut Tally) -> bool {
    let jittered = jitter(playtest, rate, seeds);
    let sturdy = jittered.fragile.is_empty();
    let luck = if playtest.is_of_several() { ", with other luck on the lines" } else { "" };
    let what = format!("the same in {seeds} runs that begin up to 5 mm and 5 ms otherwise{luck}");
    verdict(tally, sturdy, &what);
    for fragile in &jittered.fragile {
        let (line, expected, seen) = (fragile.line, &fragile.expected, &fragile.seen);
        say!("       line {line}: {expected}");
        let (missed, seed) = (fragile.missed, fragile.seed);
        say!(
            "         missed in {missed} of {seeds}; first otherwise with seed {seed}, seen: {seen}"
        );
    }
    sturdy
}

/// Whether the log is the expected one, or writes it.
fn log(
    playtest: &Playtest,
    outcome: &Report,
    update: bool,
    tally: &mut Tally,
) -> Result<bool, Ending> {
    let Some(path) = playtest.log() else { return Ok(true) };
    let mut text = Vec::new();
    let play = playtest.play();
    // Memory can be written to.
    let _ = write_log(&mut text, &play, &outcome.entries, Level::All);
    let text = String::from_utf8_lossy(&text);
    let expected = match Source::read_log(path) {
        Ok(expected) => expected.text().to_owned(),
        Err(finding) if update && finding.code() == Code::NoSuchFile => String::new(),
        Err(finding) => {
            let message = format!("the log: {}", finding.message());
            let finding = Finding::new(Severity::Error, finding.code(), message);
            return Err(report(&[finding.with_help("`hazuro test --update` writes it")]));
        }
    };
    let different = differences_of_logs(&expected, &text);
    if update && expected != text {
        write_text(path, &tally.inputs, &text).map_err(|finding| report(&[finding]))?;
        say!("  wrote {}: {} differences", path.display(), different.len());
    } else {
        verdict(tally, different.is_empty(), &format!("the log is {}", path.display()));
    }
    for difference in different.iter().take(TOLD) {
        say!("       {difference}");
    }
    if different.len() > TOLD {
        say!("       and {} more", different.len() - TOLD);
    }
    if !update && !different.is_empty() {
        say!("       `hazuro test --update` accepts them");
    }
    Ok(update || different.is_empty())
}

fn verdict(tally: &mut Tally, met: bool, what: &str) {
    *(if met { &mut tally.passed } else { &mut tally.failed }) += 1;
    say!("  {} {what}", word(met));
}

fn word(met: bool) -> String {
    let colour = coloured(&std::io::stdout());
    if met { paint(colour, "32", "pass") } else { paint(colour, "1;31", "FAIL") }
}

/// How the values that are watched changed, each with what changed it.
fn print_changes(changes: &[Changed], report: &Report, playtest: &Playtest) {
    for line in changed_lines(changes, report, playtest) {
        say!("  {line}");
    }
}

/// A line for each change of a value.
fn changed_lines(changes: &[Changed], report: &Report, playtest: &Playtest) -> Vec<String> {
    let line = |changed: &Changed| {
        let by = changed.event.map(|event| happened(playtest.scene(), &report.entries[..=event]));
        crate::output::changed(changed, by.as_deref())
    };
    changes.iter().map(line).collect()
}

fn print(outcome: &Outcome) {
    let Outcome { met, expected, seen, why, line } = outcome;
    if *met {
        let seen = if seen.is_empty() { String::new() } else { format!("  ({seen})") };
        say!("  {} {expected}{seen}", word(true));
        return;
    }
    say!("  {} {expected}", word(false));
    say!("       line {line}; seen: {seen}");
    for more in why {
        say!("       {more}");
    }
}
