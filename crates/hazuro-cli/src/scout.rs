//! `hazuro scout`: tries every detector with every sort of subject.

use std::fmt::Write;
use std::path::{Path, PathBuf};

use hazuro_format::{Code, FileAccess, Finding, Severity, path_from};
use hazuro_verify::{MatrixRow, Scouted, Scouting, Untried, load_with, scout as try_all};
use indicatif::{ProgressBar, ProgressStyle};

use crate::interrupt::Interrupt;
use crate::output::{coloured, paint, report, say};
use crate::write::write_text;
use crate::{Ending, Scouts};

/// Tries a scene and says who sets off what, and what is suspicious.
pub fn scout(asked: &Scouts, access: &FileAccess) -> Ending {
    let loaded = match load_with(&asked.scene, access) {
        Ok(loaded) => loaded,
        Err(findings) => return report(&findings),
    };
    // Playtests that are written elsewhere must find it.
    let scene = match &asked.out {
        Some(folder) => path_from(&folder.join("visit"), Path::new(loaded.source.name())),
        None => loaded.source.name().to_owned(),
    };
    let interrupt = Interrupt::listen();
    let scouting = Scouting { scene, minutes: asked.minutes.unwrap_or(0.0), seed: asked.seed };
    // It shows itself only on a terminal.
    let bar = ProgressBar::new(0);
    if let Ok(style) = ProgressStyle::with_template("{bar:40} {pos} of {len} visits") {
        bar.set_style(style);
    }
    let scouted = try_all(&loaded.scene, &loaded.scripts, &scouting, &mut |done, all| {
        bar.set_length(all as u64);
        bar.set_position(done as u64);
        !interrupt.is_asked()
    });
    bar.finish_and_clear();
    print(&loaded.scene, &scouted, asked.out.is_some());
    if let Some(folder) = &asked.out {
        if let Err(finding) = save(folder, &scouted, &loaded.files()) {
            return report(&[finding]);
        }
        if !scouted.suspicions.is_empty() {
            say!(
                "`hazuro test --root FOLDER {}` plays them, FOLDER holding both",
                folder.display()
            );
        }
    }
    interrupt.ending(if scouted.suspicions.is_empty() { Ending::Fine } else { Ending::Findings })
}

/// Prints what was found; `written` is whether there are files that show it.
fn print(scene: &hazuro::Scene, scouted: &Scouted, written: bool) {
    let colour = coloured(&std::io::stdout());
    say!("Who sets off what in {}", scene.title());
    say!("");
    for line in matrix(&scouted.rows, &scouted.subjects) {
        say!("  {line}");
    }
    say!("");
    say!("  yes: each visit did; some: not each did; no: admitted, but none did");
    for suspicion in &scouted.suspicions {
        say!("");
        say!("{}  {}", paint(colour, "1;33", suspicion.code.word()), suspicion.message);
        say!("  cure: {}", suspicion.cure);
        if written {
            say!("  shown by {}.playtest.toml", suspicion.name);
        }
    }
    if !written && !scouted.suspicions.is_empty() {
        say!("");
        say!("  --out FOLDER writes a playtest that shows each");
    }
    if !scouted.untried.is_empty() {
        say!("");
        say!("not tried:");
    }
    for Untried { why, what } in &scouted.untried {
        say!("  {}", some_of(what));
        say!("    {why}");
    }
    let number = scouted.suspicions.len();
    let plural = if number == 1 { "" } else { "s" };
    let cut = if scouted.cut_short { "; cut short" } else { "" };
    let Scouted { visits, seconds, .. } = scouted;
    say!("");
    say!("{number} finding{plural} in {visits} visits, {seconds:.0} s played{cut}");
}

/// The most names in one list.
const SOME: usize = 8;

/// Names in a row; of many only the first.
fn some_of(names: &[String]) -> String {
    let (first, rest) = names.split_at(names.len().min(SOME));
    let more = if rest.is_empty() { String::new() } else { format!(" and {} more", rest.len()) };
    format!("{}{more}", first.join(", "))
}

/// The table of who sets off what. A column for each subject that sets off anything.
fn matrix(rows: &[MatrixRow], subjects: &[String]) -> Vec<String> {
    let told = |column: &usize| rows.iter().any(|row| !row.cells[*column].is_empty());
    let columns: Vec<usize> = (0..subjects.len()).filter(told).collect();
    let longest = |texts: &mut dyn Iterator<Item = &String>| {
        texts.map(|text| text.chars().count()).max().unwrap_or(0)
    };
    let on = longest(&mut rows.iter().map(|row| &row.on)).max("detector".len());
    let mut head = format!("{:<on$}  {:<8}", "detector", "");
    for column in &columns {
        let width = subjects[*column].chars().count().max(4);
        let _ = write!(head, "  {:<width$}", subjects[*column]);
    }
    let mut lines = vec![head.trim_end().to_owned()];
    for row in rows {
        let mut line = format!("{:<on$}  {:<8}", row.on, row.detector);
        for column in &columns {
            let width = subjects[*column].chars().count().max(4);
            let cell = if row.cells[*column].is_empty() { "·" } else { row.cells[*column] };
            let _ = write!(line, "  {cell:<width$}");
        }
        lines.push(line.trim_end().to_owned());
    }
    lines
}

fn save(folder: &Path, scouted: &Scouted, inputs: &[PathBuf]) -> Result<(), Finding> {
    std::fs::create_dir_all(folder).map_err(|error| {
        let message = format!("the folder `{}` cannot be made: {error}", folder.display());
        Finding::new(Severity::Error, Code::Unwritable, message)
    })?;
    for suspicion in &scouted.suspicions {
        let path = folder.join(format!("{}.playtest.toml", suspicion.name));
        write_text(&path, inputs, &suspicion.playtest)?;
    }
    Ok(())
}
