//! Playtests: what players do, and what must and must not happen.

use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use hazuro::scene::{Fault, Field};
use hazuro::{EntityId, Input, Play, Scene, Time};
use hazuro_format::{Finding, Format, Severity, Source, Spans, folder_of, parse};
use hazuro_script::Scripts;

mod deeds;
mod expect;
pub(crate) mod file;
mod tape;
mod write;

pub(crate) use expect::{Expectation, Often, Pattern, What};
use file::PlaytestKeys;
pub use file::playtest_schema;
pub use write::write_playtest;

/// The longest play, in seconds: a day.
const MAX_SECONDS: f64 = 86_400.0;

/// A playtest with its scene, ready to be run.
#[derive(Debug)]
pub struct Playtest {
    pub(crate) source: Source,
    pub(crate) scene: Arc<Scene>,
    pub(crate) scripts: Scripts,
    pub(crate) seconds: Time,
    pub(crate) tape: Vec<(Time, Input)>,
    /// Where each input of the tape stands, in the same order.
    pub(crate) inputs: Vec<Range<usize>>,
    /// The text of the scene, if it is known.
    scene_source: Option<Source>,
    pub(crate) expectations: Vec<Expectation>,
    /// When each entry of the tape is done, and the bytes of its text.
    pub(crate) done: Vec<(Time, Range<usize>)>,
    /// The file of the log that it must give again.
    pub(crate) log: Option<PathBuf>,
}

impl Playtest {
    /// The playtest's file.
    pub fn source(&self) -> &Source {
        &self.source
    }

    /// The scene it plays.
    pub fn scene(&self) -> &Arc<Scene> {
        &self.scene
    }

    /// With the scripts of its scene.
    #[must_use]
    pub fn with_scripts(self, scripts: Scripts) -> Self {
        Self { scripts, ..self }
    }

    /// With the text of its scene, so that what is said of it has lines.
    #[must_use]
    pub fn with_scene_source(self, source: Source) -> Self {
        Self { scene_source: Some(source), ..self }
    }

    /// The text of its scene, if it is known.
    pub fn scene_source(&self) -> Option<&Source> {
        self.scene_source.as_ref()
    }

    /// The line of the tape, from 1, on which an input stands: by its number, in the order of
    /// [`tape`](Self::tape). None if there are not so many.
    pub fn line_of(&self, input: usize) -> Option<usize> {
        let span = self.inputs.get(input)?;
        Some(self.source.line_and_column(span.start).0)
    }

    /// A play of its scene, with its scripts, in which its tape is going to happen.
    pub fn play(&self) -> Play {
        let mut play = play_of(&self.scene, &self.scripts);
        self.start(&mut play);
        play
    }

    /// As [`play`](Self::play), at another tick rate if one is given, which has been checked.
    pub(crate) fn play_at(&self, rate: Option<u32>) -> Play {
        let mut play = self.play();
        if let Some(rate) = rate {
            let taken = play.set_rate(rate);
            debug_assert_eq!(taken, Ok(()), "whoever asks has checked it");
        }
        play
    }

    /// Lets its tape happen in a play of its scene that is still at time 0.
    pub fn start(&self, play: &mut Play) {
        for (time, input) in &self.tape {
            let taken = play.schedule(*time, input.clone());
            debug_assert_eq!(taken, Ok(()), "each was checked when it was read");
        }
    }

    /// What is done, in order of time.
    pub fn tape(&self) -> &[(Time, Input)] {
        &self.tape
    }

    /// The file of the log that it must give again, if it has one.
    pub fn log(&self) -> Option<&Path> {
        self.log.as_deref()
    }

    /// How long it plays.
    pub fn length(&self) -> Time {
        self.seconds
    }
}

/// Whether a file describes a playtest and not a scene: its `scene` is the name of a file, or it
/// has another key that only playtests have.
pub fn is_playtest(source: &Source) -> bool {
    may_be_playtest(source)
        && Spans::of(source).is_some_and(|spans| {
            spans.is_text("scene") || ["seconds", "tape", "expect"].iter().any(|key| spans.has(key))
        })
}

/// Whether a text may be a playtest, going by how its lines begin; cheaper than taking it apart.
fn may_be_playtest(source: &Source) -> bool {
    const KEYS: [&str; 4] = ["scene", "seconds", "tape", "expect"];
    if source.format() != Format::Toml {
        return true;
    }
    // Before the first header stand the keys of the whole; of headers, those of the last two.
    let (mut above, mut known) = (true, &KEYS[..]);
    source.text().lines().any(|line| {
        let line = line.trim_start();
        if line.starts_with('[') {
            (above, known) = (false, &KEYS[2..]);
        } else if !above {
            return false;
        }
        let key = line.trim_start_matches(['[', '"', '\'', ' ']);
        known.iter().any(|known| key.starts_with(known))
    })
}

/// The scene's file, as a playtest names it.
///
/// # Errors
/// If the file is no playtest.
pub(crate) fn scene_path(source: &Source) -> Result<PathBuf, Finding> {
    let keys: PlaytestKeys = parse(source)?;
    let folder = folder_of(Path::new(source.name()));
    Ok(folder.join(keys.scene))
}

/// Where the value of a key of the whole stands.
pub(crate) fn span_of(source: &Source, key: &str) -> Range<usize> {
    Spans::of(source).map_or(0..0, |spans| spans.find(&Field::ROOT.key(key)))
}

/// Reads a playtest of a scene that has been read.
///
/// # Errors
/// Everything that is wrong with it, in order: at least one finding.
pub fn read_playtest(source: &Source, scene: Arc<Scene>) -> Result<Playtest, Vec<Finding>> {
    let keys: PlaytestKeys = parse(source).map_err(|finding| vec![finding])?;
    let mut reader =
        Reader { source, scene: &scene, spans: Spans::of(source), findings: Vec::new() };
    let seconds = reader.seconds(keys.seconds, &Field::ROOT.key("seconds"));
    let entries = keys.tape.iter().enumerate();
    let mut tape: Vec<((Time, Input), Range<usize>)> = Vec::new();
    for (index, entry) in entries {
        let field = Field::ROOT.key("tape").item(index);
        let inputs = reader.entry(entry, &field).unwrap_or_default();
        let span = reader.span(&field);
        tape.extend(inputs.into_iter().map(|input| (input, span.clone())));
    }
    tape.sort_by_key(|((time, _), _)| *time);
    let (tape, inputs) = tape.into_iter().unzip();
    let entries = keys.tape.iter().enumerate();
    let done = entries.map(|(index, entry)| {
        let field = Field::ROOT.key("tape").item(index);
        (Time::from_secs(entry.at.clamp(0.0, MAX_SECONDS)), reader.span(&field))
    });
    let done = done.collect();
    let entries = keys.expect.iter().enumerate();
    let expectations = entries
        .filter_map(|(index, keys)| {
            let field = Field::ROOT.key("expect").item(index);
            let what = reader.expectation(keys, &field, seconds)?;
            Some(Expectation { span: reader.span(&field), what })
        })
        .collect();
    if reader.findings.is_empty() {
        let (source, scripts) = (source.clone(), Scripts::default());
        let folder = folder_of(Path::new(source.name()));
        let log = keys.log.map(|log| folder.join(log));
        let scene_source = None;
        Ok(Playtest {
            source,
            scene,
            scripts,
            seconds,
            tape,
            inputs,
            scene_source,
            expectations,
            done,
            log,
        })
    } else {
        Err(reader.findings)
    }
}

pub(crate) struct Reader<'a> {
    source: &'a Source,
    pub scene: &'a Scene,
    spans: Option<Spans>,
    findings: Vec<Finding>,
}

impl Reader<'_> {
    fn span(&self, field: &Field) -> Range<usize> {
        self.spans.as_ref().map_or(0..0, |spans| spans.find(field))
    }

    pub(crate) fn error(&mut self, field: &Field, code: &'static str, message: &str, help: &str) {
        let finding = Finding::new(Severity::Error, code, message).with_help(help);
        self.findings.push(finding.at(self.source, self.span(field)));
    }

    fn fault(&mut self, field: &Field, fault: &Fault) {
        self.findings.push(Finding::of_fault(fault).at(self.source, self.span(field)));
    }

    pub(crate) fn seconds(&mut self, value: f64, field: &Field) -> Time {
        if !(0.0..=MAX_SECONDS).contains(&value) {
            let message = format!("{value} is not a number of seconds from 0 to {MAX_SECONDS}");
            self.error(field, "bad-number", &message, "times count from the start of the play");
        }
        Time::from_secs(value)
    }

    pub(crate) fn entity(&mut self, name: &str, field: &Field) -> Option<EntityId> {
        self.scene.entity_id(name).map_err(|fault| self.fault(field, &fault)).ok()
    }
}

/// A play of a scene, with the scripts that were checked against it.
pub(crate) fn play_of(scene: &Arc<Scene>, scripts: &Scripts) -> Play {
    let mut play = Play::new(scene.clone());
    scripts.attach(&mut play).expect("scripts are checked against their scene");
    play
}
