//! What the commands print: a table of events, findings, and colour only on a terminal.

use std::borrow::Cow;
use std::collections::BTreeSet;
use std::io::{self, IsTerminal, Write};

use hazuro::scene::{Action, Detector, EventKind, Reaction, slot_reference};
use hazuro::{By, EntityId, Entry, Event, Happening, Input, Play, Scene, Time, shown};
use hazuro_format::{Code, Finding, Severity, Source};
use hazuro_script::{Scripts, locate_problem};
use hazuro_verify::{Changed, came_of, done, round};

use crate::Ending;

/// In how many columns findings are laid out.
const FINDING_WIDTH: usize = 100;

/// Prints a line to standard output.
macro_rules! say {
    ($($what:tt)*) => { $crate::output::print_line(&format!($($what)*)) };
}
pub(crate) use say;

/// Prints a line to standard error.
macro_rules! complain {
    ($($what:tt)*) => {{
        use std::io::Write;
        // Where nobody can be told, nobody is.
        let _ = writeln!(std::io::stderr().lock(), $($what)*);
    }};
}
pub(crate) use complain;

/// Prints a line, or several, to standard output. If nobody reads it any more, as in `| head`, the
/// program ends as any other does; if it cannot be written, it says so and ends with 2.
pub fn print_line(line: &str) {
    write_line(&harmless(line));
}

/// Prints a finding to standard output, as [`print_line`] does. It is rendered harmlessly already,
/// in colours of its own.
pub fn print_finding(finding: &Finding, colour: bool) {
    write_line(finding.render(FINDING_WIDTH, colour).trim_end_matches('\n'));
}

fn write_line(line: &str) {
    if let Err(error) = writeln!(io::stdout().lock(), "{line}") {
        cannot_print(&error);
    }
}

/// What is done when standard output cannot be written.
pub fn cannot_print(error: &io::Error) -> ! {
    #[cfg(unix)]
    if error.kind() == io::ErrorKind::BrokenPipe {
        let _ = signal_hook::low_level::emulate_default_handler(signal_hook::consts::SIGPIPE);
    }
    let _ = writeln!(io::stderr().lock(), "standard output cannot be written: {error}");
    std::process::exit(i32::from(Ending::Unreadable as u8));
}

/// A text without anything that could do something to a terminal, but for the colours that are
/// given here, and ends of lines.
fn harmless(text: &str) -> Cow<'_, str> {
    let plain = |character: char| !character.is_control() || character == '\n';
    if text.chars().all(plain) {
        return Cow::Borrowed(text);
    }
    let mut rest = text;
    let mut harmless = String::with_capacity(text.len());
    while let Some(character) = rest.chars().next() {
        let colour = COLOURS.iter().find(|colour| rest.starts_with(&sgr(colour)));
        let length = match colour {
            Some(colour) => sgr(colour).len(),
            None => character.len_utf8(),
        };
        let (first, after) = rest.split_at(length);
        match colour {
            None if character != '\n' => harmless.push_str(&shown(first)),
            _ => harmless.push_str(first),
        }
        rest = after;
    }
    Cow::Owned(harmless)
}

/// All colours that are used, as parameters of the sequence that sets them (ECMA-48, SGR).
const COLOURS: [&str; 13] =
    ["0", "1", "2", "3", "1;31", "1;32", "1;33", "1;35", "31", "32", "33", "35", "36"];

fn sgr(colour: &str) -> String {
    format!("\x1b[{colour}m")
}

/// Whether to colour what is written to a stream.
pub fn coloured(stream: &impl IsTerminal) -> bool {
    stream.is_terminal() && std::env::var_os("NO_COLOR").is_none_or(|value| value.is_empty())
}

/// Text in a colour, if colours are on.
pub fn paint(on: bool, code: &str, text: &str) -> String {
    debug_assert!(COLOURS.contains(&code), "each colour is in the list");
    let text = shown(text);
    if on { format!("{}{text}{}", sgr(code), sgr("0")) } else { text.into_owned() }
}

/// Writes findings to standard error. The ending that they call for.
pub fn report(findings: &[Finding]) -> Ending {
    let stderr = io::stderr();
    let colour = coloured(&stderr);
    for finding in findings {
        let text = finding.render(FINDING_WIDTH, colour);
        let _ = writeln!(stderr.lock(), "{}", text.trim_end_matches('\n'));
    }
    ending(findings)
}

/// The ending that findings call for.
pub fn ending(findings: &[Finding]) -> Ending {
    let worst = findings.iter().map(Finding::severity).max();
    match worst {
        // A hint alone is no reason to stop anything.
        None | Some(Severity::Hint) => Ending::Fine,
        Some(Severity::Warning) => Ending::Findings,
        Some(Severity::Error) => Ending::Unreadable,
    }
}

/// The last event of what happened, in words: what something was changed by.
pub fn happened(scene: &Scene, entries: &[Entry]) -> String {
    let Some(event) = entries.iter().rev().find_map(Entry::event) else { return String::new() };
    let on = event.cue.as_deref().or_else(|| event.on.map(|on| scene.name(on)));
    let on = on.map_or(String::new(), |on| format!(" {on}"));
    let who = event.who.map_or(String::new(), |who| format!(" by {}", scene.name(who)));
    format!("{}{on}{who}", event.kind)
}

/// A change of a value that was watched, in a line.
pub fn changed(change: &Changed, by: Option<&str>) -> String {
    let Changed { time, text, was, is, .. } = change;
    let arrow = if was.is_empty() { String::new() } else { format!("{was} → ") };
    let by = by.map_or(String::new(), |by| format!("  ({by})"));
    format!("{:>9}  {text}  {arrow}{is}{by}", time.to_string())
}

/// A table of what happens in a play, a line each.
pub struct Table {
    event: usize,
    on: usize,
    who: usize,
    colour: bool,
}

/// The detectors that only some entities have.
fn told() -> impl Iterator<Item = Detector> {
    let all = Detector::ALL.into_iter();
    all.filter(|sort| !matches!(sort, Detector::Route | Detector::Teleport))
}

/// The names of the places that teleports lead to.
fn destinations(scene: &Scene) -> BTreeSet<&str> {
    let sequences = scene.reactions().iter().flat_map(Reaction::sequences);
    let leads_to = sequences.flatten().filter_map(|action| match action {
        Action::Teleport(teleport) => Some(&teleport.to),
        _ => None,
    });
    let named = leads_to.flatten().flat_map(|name| match slot_reference(name) {
        None => vec![name.as_str()],
        Some((_, slot)) => scene.in_slots(slot).map(|id| scene.name(id)).collect(),
    });
    named.collect()
}

impl Default for Table {
    /// A table for names that are not known beforehand.
    fn default() -> Self {
        Self { event: 12, on: 12, who: 12, colour: coloured(&io::stdout()) }
    }
}

impl Table {
    /// A table wide enough for the names of this scene.
    pub fn new(scene: &Scene) -> Self {
        let longest = |wanted: &dyn Fn(EntityId) -> bool| {
            let ids = scene.ids().filter(|id| wanted(*id));
            ids.map(|id| scene.name(id).chars().count()).max().unwrap_or(0)
        };
        let places = destinations(scene);
        let detects =
            |id| told().any(|sort| scene.has(id, sort)) || places.contains(scene.name(id));
        let others = |id| told().skip(1).any(|sort| scene.has(id, sort));
        let plain = !scene.ids().any(others);
        Self {
            event: if plain { 6 } else { 12 },
            on: longest(&detects).clamp(8, 28),
            who: longest(&|id| scene.has_body(id) || scene.is_solid(id)).clamp(7, 28),
            colour: coloured(&io::stdout()),
        }
    }

    /// The line above the columns.
    pub fn head(&self) -> String {
        let line = format!(
            "{:>9}  {:<event$}  {:<on$}  {:<who$}  {}",
            "time",
            "event",
            "detector",
            "subject",
            "how",
            event = self.event,
            on = self.on,
            who = self.who
        );
        paint(self.colour, "1", &line)
    }

    fn line(&self, scene: &Scene, entry: &Entry, at: &str) -> String {
        let code = match &entry.what {
            Happening::Event(event) => return self.event(scene, event),
            Happening::Did { .. }
            | Happening::Run { .. }
            | Happening::Expired { .. }
            | Happening::Added { .. }
            | Happening::Removed { .. }
            | Happening::TakenBack { .. } => "2",
            Happening::Said { .. } | Happening::Printed { .. } => "3",
            Happening::Refused { .. } | Happening::Halted { .. } => "33",
            Happening::Problem { .. } => "31",
        };
        self.beside(at, code, &came_of(scene, entry).unwrap_or_default())
    }

    /// The lines of a play: what was done from the tape, and what happened, in order of time.
    pub fn lines(&self, scene: &Scene, tape: &[(Time, Input)], entries: &[Entry]) -> Vec<String> {
        self.lines_watching(scene, tape, (entries, &[]))
    }

    /// As [`lines`](Self::lines), with the changes of values that were watched.
    pub fn lines_watching(
        &self,
        scene: &Scene,
        tape: &[(Time, Input)],
        (entries, changed): (&[Entry], &[Changed]),
    ) -> Vec<String> {
        let mut changed = changed.iter().peekable();
        let mut tape = tape.iter().peekable();
        let mut latest = None;
        let mut lines = Vec::new();
        for (index, entry) in entries.iter().enumerate() {
            // The start comes before whatever is done at time 0.
            while let Some((time, input)) = tape.next_if(|(time, _)| {
                *time < entry.time() || (*time == entry.time() && *time > Time::ZERO)
            }) {
                lines.push(self.tape(scene, *time, input));
            }
            // What is done at once stands under its event; what was put off has its own time.
            if entry.goes_without_saying() {
                continue;
            }
            let time = entry.time();
            let at = if latest == Some(time) { String::new() } else { time.to_string() };
            latest = Some(time);
            lines.push(self.line(scene, entry, &at));
            let next = entries.get(index + 1).map_or(Time::MAX, Entry::time);
            while let Some(changed) = changed.next_if(|changed| changed.time < next) {
                lines.push(self.watched(changed, latest == Some(changed.time)));
            }
        }
        lines.extend(tape.map(|(time, input)| self.tape(scene, *time, input)));
        lines
    }

    fn tape(&self, scene: &Scene, time: Time, input: &Input) -> String {
        let time = time.to_string();
        format!(
            "{time:>9}  {}",
            paint(
                self.colour,
                "36",
                &format!("{:<width$}  {}", "tape", done(scene, input), width = self.event)
            )
        )
    }

    fn watched(&self, change: &Changed, at_once: bool) -> String {
        let at = if at_once { String::new() } else { change.time.to_string() };
        let Changed { text, was, is, .. } = change;
        let arrow = if was.is_empty() { String::new() } else { format!("{was} → ") };
        self.beside(&at, "35", &format!("= {text}  {arrow}{is}"))
    }

    fn beside(&self, at: &str, code: &str, text: &str) -> String {
        format!("{at:>9}  {}", paint(self.colour, code, text))
    }

    fn event(&self, scene: &Scene, event: &Event) -> String {
        let name = |id: Option<EntityId>| id.map_or("", |id| scene.name(id));
        let on = event.cue.as_deref().unwrap_or_else(|| name(event.on));
        let who = name(event.who);
        let mut cause = event.cause.map_or(String::new(), |cause| cause.to_string());
        let mut add = |more: String| {
            cause.push_str(if cause.is_empty() { "" } else { ", " });
            cause.push_str(&more);
        };
        // Where each part is told of, which.
        let by_part = |on| scene.touch_of(on).is_some_and(|touch| touch.parts);
        let is_touch = event.kind.detector() == Some(Detector::Touch);
        if let (Some(on), Some(who), Some(part)) = (event.on, event.who, event.part)
            && is_touch
            && by_part(on)
        {
            add(scene.part_name(who, part).unwrap_or_default().to_owned());
        }
        match event.kind {
            EventKind::Enter if event.edge => add("first in".into()),
            EventKind::Exit if event.edge => add("last out".into()),
            EventKind::Touch | EventKind::Land => {
                let speed = event.meeting.map_or(0.0, |meeting| meeting.speed);
                if speed >= 0.005 {
                    add(format!("at {speed:.2} m/s"));
                }
            }
            EventKind::Retarget => {
                if let Some(was) = event.was {
                    add(format!("was {}", scene.name(was)));
                }
            }
            EventKind::Offer | EventKind::Withdraw => {
                if let Some(it) = event.highlight.filter(|it| Some(*it) != event.on) {
                    let ends = event.kind == EventKind::Withdraw;
                    let how = if ends { "no longer highlighted" } else { "highlighted" };
                    add(format!("{} is {how}", scene.name(it)));
                }
            }
            EventKind::Drag => {
                if let Some(at) = event.at {
                    add(format!("to [{:.2}, {:.2}, {:.2}]", at.x, at.y, at.z));
                }
            }
            _ => {}
        }
        if let Some(reading) = &event.reading {
            let stat = scene.stat_name(reading.stat);
            add(format!("{stat} {} → {}", round(reading.was), round(reading.is)));
        }
        if let Some(need) = &event.need {
            add(format!("for want of {need}"));
        }
        self.row(&event.time.to_string(), event.kind, [on, who, &cause])
    }

    /// A line: when, what was detected, and by which detector, of which subject and how.
    pub fn row(&self, time: &str, kind: EventKind, [on, who, how]: [&str; 3]) -> String {
        let word = format!("{kind:<width$}", width = self.event);
        let code = match kind {
            kind if kind.is_opening() => "1;32",
            kind if kind.is_closing() => "1;35",
            _ => "1",
        };
        let word = paint(self.colour, code, &word);
        let line = format!(
            "{time:>9}  {word}  {on:<on_width$}  {who:<who_width$}  {how}",
            on_width = self.on,
            who_width = self.who
        );
        line.trim_end().to_owned()
    }
}

/// Writes each problem of a play once, with its place. The ending that they call for.
pub fn report_problems(
    play: &Play,
    source: &Source,
    scripts: &Scripts,
    entries: &[Entry],
) -> Ending {
    let mut seen: Vec<(By, Code)> = Vec::new();
    let mut findings = Vec::new();
    for entry in entries {
        let (Happening::Problem { by, .. } | Happening::Refused { by, .. }) = &entry.what else {
            continue;
        };
        let Some(finding) = locate_problem(source, scripts, play.scene(), entry) else { continue };
        if !seen.contains(&(*by, finding.code())) {
            seen.push((*by, finding.code()));
            findings.push(finding);
        }
    }
    report(&findings)
}
