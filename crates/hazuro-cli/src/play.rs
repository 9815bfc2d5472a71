//! `hazuro play`: plays in the terminal.

use std::path::Path;

use hazuro_format::{Code, FileAccess, Finding, Severity};
use hazuro_verify::load_with;
use hazuro_view::{Closed, Console, show};

use crate::Ending;
use crate::output::{report, say};
use crate::write::write_text;

/// Plays a scene or playtest in the terminal; keeps what was played if asked to.
pub fn play(
    (path, access): (&Path, &FileAccess),
    (watch, rate): (&[String], Option<u32>),
    record: Option<&Path>,
) -> Ending {
    let loaded = match load_with(path, access) {
        Ok(loaded) => loaded,
        Err(findings) => return report(&findings),
    };
    let inputs = loaded.files();
    let mut console = match Console::new(path, loaded, watch) {
        Ok(console) => console.with_access(access.clone()),
        Err(finding) => return report(&[finding]),
    };
    if let Some(rate) = rate {
        console = console.at_rate(rate);
    }
    let shown = show(&mut console);
    // Whatever ended it: what was played is kept, also by somebody who was looking back.
    if let Some(file) = record
        && (shown.is_ok() || console.has_played())
    {
        let text = console.record(file);
        if let Err(finding) = write_text(file, &inputs, &text) {
            return report(&[finding]);
        }
        say!("{}: {} s of play", file.display(), console.play().now().secs());
    }
    match shown {
        Ok(Closed::ByPlayer) => Ending::Fine,
        Ok(Closed::BySignal(signal)) => Ending::by_signal(signal),
        Err(error) => {
            let finding = Finding::new(Severity::Error, Code::NoTerminal, error.to_string());
            let help = "run it in a terminal; `hazuro run` plays without one";
            report(&[finding.with_help(help)])
        }
    }
}
