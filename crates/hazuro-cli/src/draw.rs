//! `hazuro draw`: pictures, timelines and report pages.

use std::path::Path;

use hazuro::scene::{Fault, Selector};
use hazuro::{EntityId, Play, Scene, Time};
use hazuro_format::{Code, FileAccess, Finding, Severity};
use hazuro_verify::{Loaded, load_with};
use hazuro_view::{Firings, Picture, Recording, Report, SIZES, Timeline, View, chart, png};

use crate::output::{report, say};
use crate::write::write;
use crate::{Drawing, Ending, Shown};

/// How long a scene without a tape is played for a timeline or a page, in seconds.
const SECONDS: f64 = 10.0;
/// How much is shown around something by default, in metres.
const AROUND: f64 = 5.0;

/// Draws a scene or playtest into a file.
pub fn draw(asked: &Drawing, access: &FileAccess) -> Ending {
    match drawn(asked, access) {
        Ok(words) => {
            say!("{words}");
            Ending::Fine
        }
        Err(findings) => report(&findings),
    }
}

/// What a file is to hold, by its ending.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Kind {
    Svg,
    Png,
    Page,
}

fn kind(path: &Path) -> Result<Kind, Finding> {
    let ending = path.extension().and_then(|it| it.to_str()).map(str::to_ascii_lowercase);
    match ending.as_deref() {
        Some("svg") => Ok(Kind::Svg),
        Some("png") => Ok(Kind::Png),
        Some("html" | "htm") => Ok(Kind::Page),
        _ => {
            let message = format!("`{}` does not say what to draw", path.display());
            Err(bad(Code::UnknownEnding, &message, "end its name with .svg, .png or .html"))
        }
    }
}

fn bad(code: Code, message: &str, help: &str) -> Finding {
    Finding::new(Severity::Error, code, message).with_help(help)
}

/// What an option names that is not there.
fn unknown(option: &str, fault: &Fault) -> Finding {
    let finding = Finding::new(Severity::Error, Code::from(fault), format!("{option}: {fault}"));
    match hazuro_format::cure_of(fault) {
        Some(cure) => finding.with_help(cure),
        None => finding,
    }
}

fn drawn(asked: &Drawing, access: &FileAccess) -> Result<String, Vec<Finding>> {
    let kind = kind(&asked.out).map_err(|finding| vec![finding])?;
    let loaded = load_with(&asked.path, access)?;
    let (from, until) = span(asked, &loaded, kind).map_err(|finding| vec![finding])?;
    let (bytes, words) = if kind == Kind::Page {
        let report = Report::of(&loaded, until);
        (report.html().into_bytes(), format!("a report of {} s", until.secs()))
    } else {
        let svg = picture(asked, &loaded, (from, until)).map_err(|finding| vec![finding])?;
        let bytes = if kind == Kind::Png {
            png(&svg).map_err(|error| {
                vec![bad(Code::Undrawable, &error.to_string(), "make it smaller")]
            })?
        } else {
            svg.into_bytes()
        };
        (bytes, format!("{} of {}", asked.view.words(), loaded.scene.title()))
    };
    write(&asked.out, &loaded.files(), |file| file.write_all(&bytes))
        .map_err(|finding| vec![finding])?;
    Ok(format!("{}: {words}", asked.out.display()))
}

/// From when to when is drawn.
fn span(asked: &Drawing, loaded: &Loaded, kind: Kind) -> Result<(Time, Time), Finding> {
    let length = loaded.playtest.as_ref().map(hazuro_verify::Playtest::length);
    let is_play = asked.view == Shown::Timeline || kind == Kind::Page;
    let whole = length.unwrap_or(if is_play { Time::from_secs(SECONDS) } else { Time::ZERO });
    if let Some(at) = asked.at {
        return Ok((Time::from_secs(at), Time::from_secs(at)));
    }
    let from = asked.from.map_or(Time::ZERO, Time::from_secs);
    let until = asked.until.map_or(whole.max(from), Time::from_secs);
    if until < from {
        let message = format!("--until {until} is before --from {from}");
        return Err(bad(Code::BadNumber, &message, "times count from the start of the play"));
    }
    Ok((from, until))
}

fn picture(asked: &Drawing, loaded: &Loaded, span: (Time, Time)) -> Result<String, Finding> {
    let scene = &loaded.scene;
    let only = chosen(scene, &asked.only)?;
    let mut play = played(loaded);
    let recording = Recording::of(&mut play, span.1);
    if asked.view == Shown::Timeline {
        let mut timeline = Timeline::of(scene, &recording);
        if !only.is_empty() {
            let names: Vec<&str> = only.iter().map(|id| scene.name(*id)).collect();
            timeline.rows.retain(|row| names.contains(&row.name.as_str()));
        }
        return Ok(chart(scene.title(), &timeline, asked.size.0, asked.dark));
    }
    let mut firings = Firings::default();
    firings.note(&recording.entries);
    let around = match &asked.around {
        Some(name) => {
            let pose = play.pose(name.as_str()).map_err(|fault| unknown("--around", &fault))?;
            Some((pose.position, asked.within.unwrap_or(AROUND)))
        }
        None => None,
    };
    let picture = Picture {
        recording: Some(&recording),
        span,
        views: match asked.view {
            Shown::Front => vec![View::Front],
            Shown::Side => vec![View::Side],
            Shown::All => View::ALL.to_vec(),
            Shown::Top | Shown::Timeline => vec![View::Top],
        },
        only,
        around,
        size: [asked.size.0, asked.size.1],
        dark: asked.dark,
        ..Picture::new(&play, &firings)
    };
    Ok(picture.svg())
}

fn played(loaded: &Loaded) -> Play {
    match &loaded.playtest {
        Some(playtest) => playtest.play(),
        None => loaded.play(),
    }
}

/// The entities that selectors mean.
fn chosen(scene: &Scene, names: &[String]) -> Result<Vec<EntityId>, Finding> {
    let mut chosen = Vec::new();
    for name in names {
        let selector = Selector::from(name.as_str());
        chosen.extend(scene.select(&selector).map_err(|fault| unknown("--only", &fault))?);
    }
    Ok(chosen)
}

/// A size such as 1280x800.
pub fn size(text: &str) -> Result<(u32, u32), String> {
    let parts = text.split_once(['x', '×']);
    let parts = parts.and_then(|(w, h)| Some((w.trim().parse().ok()?, h.trim().parse().ok()?)));
    match parts {
        Some((width, height)) if SIZES.contains(&width) && SIZES.contains(&height) => {
            Ok((width, height))
        }
        _ => Err(format!(
            "not a width and height such as 1280x800, from {} to {} pixels",
            SIZES.start(),
            SIZES.end()
        )),
    }
}
