//! `hazuro run`: plays without a screen and prints what happens.

use std::io::{self, BufWriter, Write};
use std::path::Path;

use hazuro::{Entry, Input, Play, Time};
use hazuro_format::{FileAccess, Finding, Level, write_cut_short, write_log};
use hazuro_verify::{Changed, Watched, load_with, play_watching};

use crate::Ending;
use crate::interrupt::Interrupt;
use crate::only::Only;
use crate::output::{Table, cannot_print, complain, report, report_problems, say};
use crate::write::write;

/// How long a scene without a tape plays.
const SECONDS: f64 = 10.0;

/// Plays a scene or a playtest.
pub fn run(
    (path, access): (&Path, &FileAccess),
    (log, level): (Option<&Path>, Level),
    (rate, seconds): (Option<u32>, Option<f64>),
    watch: &[String],
    (events, about): (&[String], &[String]),
) -> Ending {
    let loaded = match load_with(path, access) {
        Ok(loaded) => loaded,
        Err(findings) => return report(&findings),
    };
    let watched: Result<Vec<Watched>, Finding> =
        watch.iter().map(|text| Watched::new(text, &loaded.scene)).collect();
    let watched = match watched {
        Ok(watched) => watched,
        Err(finding) => return report(&[finding]),
    };
    let only = match Only::new(events, about, &loaded.scene) {
        Ok(only) => only,
        Err(finding) => return report(&[finding]),
    };
    let mut play = match &loaded.playtest {
        Some(playtest) => playtest.play(),
        None => loaded.play(),
    };
    if let Some(rate) = rate {
        // The arguments have been checked.
        let _ = play.set_rate(rate);
    }
    let length = loaded.playtest.as_ref().map(hazuro_verify::Playtest::length);
    let until = seconds.map(Time::from_secs).or(length).unwrap_or(Time::from_secs(SECONDS));
    let interrupt = Interrupt::listen();
    let (entries, changed) = play_watching(&mut play, until, &watched, interrupt.flag());
    let cut = interrupt.is_asked().then(|| play.now());
    let until = cut.unwrap_or(until);
    let to_stdout = log.is_some_and(|log| log == Path::new("-"));
    if !to_stdout {
        let tape = loaded.playtest.as_ref().map_or(&[][..], hazuro_verify::Playtest::tape);
        // What is done later than it is played is not done.
        let until_then = tape.partition_point(|(time, _)| *time < until);
        let tape = &tape[..if only.is_all() { until_then } else { 0 }];
        let shown: Vec<Entry> = entries.iter().filter(|it| only.shows(it)).cloned().collect();
        print_table(&play, until, tape, (&shown, &changed));
    }
    let content = |file: &mut dyn Write| {
        write_log(&mut *file, &play, &entries, level)?;
        cut.map_or(Ok(()), |at| write_cut_short(file, at))
    };
    if to_stdout {
        let mut out = BufWriter::new(io::stdout().lock());
        if let Err(error) = content(&mut out).and_then(|()| out.flush()) {
            cannot_print(&error);
        }
    } else if let Some(log) = log
        && let Err(finding) = write(log, &loaded.files(), content)
    {
        return report(&[finding]);
    }
    if let Some(at) = cut {
        complain!("cut short at {at} s");
    }
    interrupt.ending(report_problems(&play, &loaded.source, &loaded.scripts, &entries))
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
