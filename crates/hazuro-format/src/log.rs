//! The log: JSON Lines, one header, then one object an event.

use std::io::{self, Write};

use hazuro::scene::{Action, Aim, Destination, EventKind, Move, ResolvedAction, Turn};
use hazuro::{By, Entry, Event, Happening, Life, Origin, Play, Scene, Step, Time};
use serde::Serialize;

/// The version of the format, in the header.
const VERSION: u32 = 1;

#[derive(Serialize)]
struct Header<'a> {
    hazuro_log: u32,
    scene: &'a str,
    rate: u32,
    seed: u64,
}

#[derive(Serialize)]
struct Line<'a> {
    t: f64,
    tick: u64,
    event: &'static str,
    #[serde(skip_serializing_if = "Option::is_none")]
    on: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    who: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    part: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    cause: Option<&'static str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    at: Option<[f64; 3]>,
    #[serde(skip_serializing_if = "Option::is_none")]
    cue: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    was: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    highlight: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    need: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    point: Option<[f64; 3]>,
    #[serde(skip_serializing_if = "Option::is_none")]
    normal: Option<[f64; 3]>,
    #[serde(skip_serializing_if = "Option::is_none")]
    speed: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    stat: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    from: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    value: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    first: Option<bool>,
    #[serde(skip_serializing_if = "Option::is_none")]
    last: Option<bool>,
}

/// A line with the number of its entry, and what that came of.
#[derive(Serialize)]
struct Numbered<T> {
    #[serde(flatten)]
    line: T,
    /// Its number in the play.
    n: u64,
    /// What it came of: the number of the nearest entry in this log that led to it, `start`, or
    /// `input` and which.
    of: Of,
}

#[derive(Serialize)]
#[serde(untagged)]
enum Of {
    Entry(u64),
    Outside(String),
}

/// Marks a log as that of a play that was stopped at this time.
///
/// # Errors
/// If it cannot be written.
pub fn write_cut_short(to: &mut (impl Write + ?Sized), at: Time) -> io::Result<()> {
    writeln!(to, "{{\"t\":{:.6},\"cut_short\":true}}", at.secs())
}

/// How much a log tells.
///
/// ```
/// use hazuro::{Play, Scene, Time};
/// use hazuro_format::{Level, write_log};
/// let mut play = Play::new(Scene::builder("Yard").build().unwrap());
/// let entries = play.advance(Time::from_secs(1.0)).to_vec();
/// let mut log = Vec::new();
/// write_log(&mut log, &play, &entries, Level::All).unwrap();
/// assert_eq!(log.iter().filter(|byte| **byte == b'\n').count(), 2);
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub enum Level {
    /// Events.
    #[default]
    Events,
    /// And what was done about them: `did`, `said`, `stopped`.
    Actions,
    /// And what was not done, what went wrong, and what scripts print: `refused`, `halted`,
    /// `problem`, `printed`.
    All,
    /// And what became of what takes time: `run`, `expired`, `taken_back`.
    Runs,
}

/// Something done, said, stopped or refused, or that went wrong: under the key of what it is.
#[derive(Default, Serialize)]
struct Deed<'a> {
    t: f64,
    #[serde(skip_serializing_if = "Option::is_none")]
    did: Option<&'static str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    said: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    stopped: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    halted: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    refused: Option<&'static str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    problem: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    printed: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    run: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    is: Option<&'static str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    until: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    expired: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    added: Option<&'a str>,
    removed: Option<&'a str>,
    taken_back: Option<&'a str>,
    /// To whom or what.
    #[serde(skip_serializing_if = "Option::is_none")]
    what: Option<&'a str>,
    /// With what: a name or an entity beside it.
    #[serde(skip_serializing_if = "Option::is_none")]
    with: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    text: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    why: Option<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    by: Option<String>,
    /// Which of the actions of its reaction it is, from 1, or the line of the script.
    #[serde(skip_serializing_if = "Option::is_none")]
    step: Option<String>,
}

/// Writes the log of a play: a header, then one line an event, and one a deed if the level asks
/// for them. Times are exact to a microsecond, places to a micrometre.
///
/// # Errors
/// What `out` reports.
pub fn write_log(
    out: &mut (impl Write + ?Sized),
    play: &Play,
    entries: &[Entry],
    level: Level,
) -> io::Result<()> {
    let scene = play.scene();
    let header =
        Header { hazuro_log: VERSION, scene: scene.title(), rate: play.rate(), seed: scene.seed() };
    serde_json::to_writer(&mut *out, &header)?;
    writeln!(out)?;
    let told = |number: u64| {
        let place = entries.binary_search_by_key(&number, |entry| entry.number).ok()?;
        Some(&entries[place])
    };
    for entry in entries {
        if level_of(entry) > level {
            continue;
        }
        // What is not in this log is passed over.
        let mut of = entry.origin;
        while let Origin::Entry(number) = of
            && let Some(cause) = told(number).filter(|cause| level_of(cause) > level)
        {
            of = cause.origin;
        }
        let of = match of {
            Origin::Entry(number) => Of::Entry(number),
            Origin::Input(number) => Of::Outside(format!("input {}", number + 1)),
            Origin::Start => Of::Outside("start".into()),
        };
        let n = entry.number;
        if let Some(event) = entry.event() {
            let line = line(play, event);
            serde_json::to_writer(&mut *out, &Numbered { line, n, of })?;
        } else {
            let line = deed(scene, entry);
            serde_json::to_writer(&mut *out, &Numbered { line, n, of })?;
        }
        writeln!(out)?;
    }
    Ok(())
}

fn level_of(entry: &Entry) -> Level {
    match &entry.what {
        Happening::Event(_) => Level::Events,
        Happening::Did { .. }
        | Happening::Said { .. }
        | Happening::Added { .. }
        | Happening::Removed { .. }
        | Happening::Run { life: Life::Stopped(_), .. } => Level::Actions,
        Happening::Refused { .. }
        | Happening::Printed { .. }
        | Happening::Problem { .. }
        | Happening::Halted { .. } => Level::All,
        Happening::Run { .. } | Happening::Expired { .. } | Happening::TakenBack { .. } => {
            Level::Runs
        }
    }
}

fn deed<'a>(scene: &'a Scene, entry: &'a Entry) -> Deed<'a> {
    let step = entry.step.as_ref().map(|step| match step {
        Step::Action(place) => (place + 1).to_string(),
        Step::Line(place) => format!("{}:{}", place.file, place.line),
    });
    let t = micros(entry.time().secs());
    let by = entry.by().map(|by| by.describe(scene));
    let deed = Deed { t, by, step, ..Deed::default() };
    match &entry.what {
        Happening::Did { action, .. } => {
            let (what, with) = objects(scene, action);
            Deed { did: Some(action.word()), what, with, ..deed }
        }
        Happening::Said { key, text, to, .. } => {
            let what = to.map(|to| scene.name(to));
            Deed { said: Some(key), text: Some(text), what, ..deed }
        }
        Happening::Run { reaction, who, life, .. } => {
            let what = who.map(|who| scene.name(who));
            let run = Some(By::Reaction(*reaction).describe(scene));
            let (run, deed) = (run, Deed { what, by: None, ..deed });
            match *life {
                Life::Stopped(why) => Deed { stopped: run, why: Some(why.words().into()), ..deed },
                Life::Waits { until, arrival } => {
                    let with = arrival.map(|what| scene.name(what));
                    let until = Some(micros(until.secs()));
                    Deed { run, is: Some("waiting"), until, with, ..deed }
                }
                Life::Replaced(by) => {
                    let by = Some(By::Reaction(by).describe(scene));
                    Deed { run, is: Some("replaced"), by, ..deed }
                }
                Life::Begins => Deed { run, is: Some("begun"), ..deed },
                Life::Queued => Deed { run, is: Some("queued"), ..deed },
                Life::Ignored => Deed { run, is: Some("ignored"), ..deed },
                Life::Done => Deed { run, is: Some("done"), ..deed },
            }
        }
        Happening::Halted { who, by, .. } => {
            let what = by.map(|by| scene.name(by));
            Deed { halted: Some(scene.name(*who)), what, ..deed }
        }
        Happening::Refused { action, why, .. } => {
            let (what, with) = objects(scene, action);
            let why = Some(why.words(scene));
            Deed { refused: Some(action.word()), what, with, why, ..deed }
        }
        Happening::Problem { problem, .. } => {
            Deed { problem: Some(problem.describe(scene)), ..deed }
        }
        Happening::Expired { effect, of, why, .. } => {
            let (what, why) = (Some(scene.name(*of)), Some(why.words().into()));
            Deed { expired: Some(effect), what, why, ..deed }
        }
        Happening::Added { what, .. } => Deed { added: Some(scene.name(*what)), ..deed },
        Happening::Removed { what, .. } => Deed { removed: Some(scene.name(*what)), ..deed },
        Happening::TakenBack { what, by, why, .. } => {
            let (with, why) = (Some(scene.name(*by)), Some(why.words().into()));
            Deed { taken_back: Some(scene.name(*what)), with, why, ..deed }
        }
        Happening::Printed { text, .. } => Deed { printed: Some(text), ..deed },
        Happening::Event(_) => deed,
    }
}

/// To whom or what an action is done, and with what.
fn objects<'a>(scene: &'a Scene, action: &'a ResolvedAction) -> (Option<&'a str>, Option<&'a str>) {
    let what = action.target().map(|(target, _)| scene.name(*target));
    let with = match action {
        Action::Move(Move { to: Destination::Entity(to), .. })
        | Action::Turn(Turn { towards: Some(to), .. })
        | Action::Aim(Aim { at: to, .. })
        | Action::Walk { to, .. }
        | Action::Grab { to, .. }
        | Action::Own { to, .. }
        | Action::Collect { to, .. }
        | Action::Attach { to, .. } => Some(scene.name(*to)),
        Action::Teleport(teleport) => teleport.to.first().map(|to| scene.name(*to)),
        Action::Lead(lead) => lead.through.last().map(|to| scene.name(*to)),
        Action::Move(Move { to: Destination::Home, .. }) => Some("home"),
        Action::Tag { tag: name, .. }
        | Action::Untag { tag: name, .. }
        | Action::Count { name, .. }
        | Action::Flag { name, .. }
        | Action::Fill { slot: name, .. }
        | Action::Stat { name, .. }
        | Action::Effect { name, .. }
        | Action::EndEffect { name, .. }
        | Action::Spawn { kind: name, .. }
        | Action::Convert { to: name, .. }
        | Action::Stop { name, .. }
        | Action::Cue { name, .. }
        | Action::Call(name) => Some(name.as_str()),
        Action::Send { event, .. } => Some(event.word()),
        _ => None,
    };
    (what, with)
}

fn micros(number: f64) -> f64 {
    (number * 1e6).round() / 1e6 + 0.0
}

fn line<'a>(play: &'a Play, event: &'a Event) -> Line<'a> {
    let scene = play.scene();
    let meeting = event.meeting.filter(|meeting| meeting.normal.length_squared() > 0.0);
    let moves = meeting.filter(|_| matches!(event.kind, EventKind::Touch | EventKind::Land));
    Line {
        t: micros(event.time.secs()),
        tick: event.tick,
        event: event.kind.word(),
        on: event.on.map(|on| scene.name(on)),
        who: event.who.map(|who| scene.name(who)),
        part: event.who.zip(event.part).and_then(|(who, part)| scene.part_name(who, part)),
        cause: event.cause.map(hazuro::Cause::word),
        at: event.at.map(|at| at.to_array().map(micros)),
        cue: event.cue.as_deref(),
        was: event.was.map(|was| scene.name(was)),
        // What is highlighted by itself goes without saying.
        highlight: event.highlight.filter(|it| Some(*it) != event.on).map(|it| scene.name(it)),
        need: event.need.as_deref(),
        point: event.meeting.map(|meeting| meeting.point.to_array().map(micros)),
        normal: meeting.map(|meeting| meeting.normal.to_array().map(micros)),
        speed: moves.map(|meeting| micros(meeting.speed)),
        stat: event.reading.map(|reading| scene.stat_name(reading.stat)),
        from: event.reading.map(|reading| micros(reading.was)),
        value: event.reading.map(|reading| micros(reading.is)),
        first: (event.edge && event.kind.is_opening()).then_some(true),
        last: (event.edge && !event.kind.is_opening()).then_some(true),
    }
}
