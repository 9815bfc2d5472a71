//! `hazuro run`: plays without a screen and prints what happens.

use std::fs::File;
use std::io::{self, BufWriter, Write};
use std::path::Path;

use hazuro::{Entry, Input, Play, Time};
use hazuro_files::{Changed, Finding, Level, Severity, Watched, load, play_watching, write_log};

use crate::Ending;
use crate::output::{Table, report, report_problems, say};

/// How long a scene without a tape plays.
const SECONDS: f64 = 10.0;

/// Plays a scene or a playtest.
pub fn run(
    path: &Path,
    (log, level): (Option<&Path>, Level),
    (rate, seconds): (Option<u32>, Option<f64>),
    watch: &[String],
) -> Ending {
    let loaded = match load(path) {
        Ok(loaded) => loaded,
        Err(findings) => return report(&findings),
    };
    let watched: Result<Vec<Watched>, Finding> =
        watch.iter().map(|text| Watched::new(text, &loaded.scene)).collect();
    let watched = match watched {
        Ok(watched) => watched,
        Err(finding) => return report(&[finding]),
    };
    let mut play = match &loaded.playtest {
        Some(playtest) => playtest.play(),
        None => loaded.play(),
    };
    if let Some(rate) = rate {
        play.set_rate(rate);
    }
    let length = loaded.playtest.as_ref().map(hazuro_files::Playtest::length);
    let until = seconds.map(Time::from_secs).or(length).unwrap_or(Time::from_secs(SECONDS));
    let (entries, changed) = play_watching(&mut play, until, &watched);
    let to_stdout = log.is_some_and(|log| log == Path::new("-"));
    if !to_stdout {
        let tape = loaded.playtest.as_ref().map_or(&[][..], hazuro_files::Playtest::tape);
        // What is done later than it is played is not done.
        let tape = &tape[..tape.partition_point(|(time, _)| *time < until)];
        print_table(&play, until, tape, (&entries, &changed));
    }
    if let Some(log) = log
        && let Err(error) = save(log, &play, &entries, level)
    {
        let message = format!("the log cannot be written to `{}`: {error}", log.display());
        return report(&[Finding::new(Severity::Error, "unwritable", message)]);
    }
    report_problems(&play, &loaded.source, &loaded.scripts, &entries)
}

fn print_table(
    play: &Play,
    until: Time,
    tape: &[(Time, Input)],
    (entries, changed): (&[Entry], &[Changed]),
) {
    let scene = play.scene();
    say!("{}: {} s at {} ticks a second\n", scene.title(), until.secs(), play.rate());
    let table = Table::new(scene);
    say!("{}", table.head());
    for line in table.lines_watching(scene, tape, (entries, changed)) {
        say!("{line}");
    }
    let events = entries.iter().filter_map(Entry::event).count();
    say!("\n{events} event{}", if events == 1 { "" } else { "s" });
}

fn save(path: &Path, play: &Play, entries: &[Entry], level: Level) -> io::Result<()> {
    let outcome = if path == Path::new("-") {
        let mut out = BufWriter::new(io::stdout().lock());
        write_log(&mut out, play, entries, level).and_then(|()| out.flush())
    } else {
        let mut out = BufWriter::new(File::create(path)?);
        write_log(&mut out, play, entries, level).and_then(|()| out.flush())
    };
    match outcome {
        // Whoever was reading has read enough.
        Err(error) if error.kind() == io::ErrorKind::BrokenPipe => Ok(()),
        outcome => outcome,
    }
}
