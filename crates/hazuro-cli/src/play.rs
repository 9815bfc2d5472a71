//! `hazuro play`: plays in the terminal.

use std::path::Path;

use hazuro_files::{Finding, Severity, load};
use hazuro_view::{Console, show};

use crate::Ending;
use crate::output::{report, say};

/// Plays a scene or playtest in the terminal; writes what was played to a file, if one is named.
pub fn play(path: &Path, (watch, rate): (&[String], Option<u32>), record: Option<&Path>) -> Ending {
    let loaded = match load(path) {
        Ok(loaded) => loaded,
        Err(findings) => return report(&findings),
    };
    let mut console = match Console::new(path, loaded, watch) {
        Ok(console) => console,
        Err(finding) => return report(&[finding]),
    };
    if let Some(rate) = rate {
        console = console.at_rate(rate);
    }
    let shown = show(&mut console);
    // Whatever ended it: what was played is kept.
    if let Some(file) = record
        && (shown.is_ok() || !console.tape().is_empty())
    {
        if let Err(error) = std::fs::write(file, console.record(file)) {
            let message = format!("`{}` cannot be written: {error}", file.display());
            let finding = Finding::new(Severity::Error, "unwritable", message);
            return report(&[finding.with_help("give another path after --record")]);
        }
        say!("{}: {} s of play", file.display(), console.play().now().secs());
    }
    match shown {
        Ok(()) => Ending::Fine,
        Err(error) => {
            let finding = Finding::new(Severity::Error, "no-terminal", error.to_string());
            let help = "run it in a terminal; `hazuro run` plays without one";
            report(&[finding.with_help(help)])
        }
    }
}
