//! The log: JSON Lines, one header, then one object an event.

use std::io::{self, Write};

use hazuro::scene::EventKind;
use hazuro::{Entry, Event, Play};
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
    need: Option<&'a str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    point: Option<[f64; 3]>,
    #[serde(skip_serializing_if = "Option::is_none")]
    normal: Option<[f64; 3]>,
    #[serde(skip_serializing_if = "Option::is_none")]
    speed: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    first: Option<bool>,
    #[serde(skip_serializing_if = "Option::is_none")]
    last: Option<bool>,
}

/// Writes the log of a play: a header, then one line an event. Times are exact to a microsecond,
/// places to a micrometre.
///
/// # Errors
/// What `out` reports.
pub fn write_log(out: &mut impl Write, play: &Play, entries: &[Entry]) -> io::Result<()> {
    let scene = play.scene();
    let header =
        Header { hazuro_log: VERSION, scene: scene.title(), rate: play.rate(), seed: scene.seed() };
    serde_json::to_writer(&mut *out, &header)?;
    writeln!(out)?;
    for event in entries.iter().filter_map(Entry::event) {
        serde_json::to_writer(&mut *out, &line(play, event))?;
        writeln!(out)?;
    }
    Ok(())
}

fn line<'a>(play: &'a Play, event: &'a Event) -> Line<'a> {
    let scene = play.scene();
    let meeting = event.meeting.filter(|meeting| meeting.normal.length_squared() > 0.0);
    let moves = meeting.filter(|_| matches!(event.kind, EventKind::Touch | EventKind::Land));
    let micros = |number: f64| (number * 1e6).round() / 1e6 + 0.0;
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
        need: event.need.as_deref(),
        point: event.meeting.map(|meeting| meeting.point.to_array().map(micros)),
        normal: meeting.map(|meeting| meeting.normal.to_array().map(micros)),
        speed: moves.map(|meeting| micros(meeting.speed)),
        first: (event.edge && event.kind.is_opening()).then_some(true),
        last: (event.edge && !event.kind.is_opening()).then_some(true),
    }
}
