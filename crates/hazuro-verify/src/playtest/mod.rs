//! Playtests: what players do, and what must and must not happen.

use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use hazuro::scene::Field;
use hazuro::{Input, Play, Scene, Time};
use hazuro_format::{Finding, Format, Source, Spans, folder_of, parse};
use hazuro_script::Scripts;

mod file;
mod write;

use crate::expect::Expectation;
use crate::tape::{MAX_SECONDS, Reader, Tape};
use crate::why::{self, Answer, Question};
use file::PlaytestKeys;
pub use file::playtest_schema;
pub use write::write_playtest;

/// A playtest with its scene, ready to be run.
#[derive(Debug)]
pub struct Playtest {
    pub(crate) tape: Tape,
    pub(crate) expectations: Vec<Expectation>,
    /// When each entry of the tape is done, and the bytes of its text.
    pub(crate) done: Vec<(Time, Range<usize>)>,
    /// The file of the log that it must give again.
    log: Option<PathBuf>,
}

impl Playtest {
    /// The playtest's file.
    pub fn source(&self) -> &Source {
        &self.tape.source
    }

    /// The scene it plays.
    pub fn scene(&self) -> &Arc<Scene> {
        &self.tape.scene
    }

    /// With the scripts of its scene.
    #[must_use]
    pub fn with_scripts(self, scripts: Scripts) -> Self {
        Self { tape: Tape { scripts, ..self.tape }, ..self }
    }

    /// With the text of its scene, so that what is said of it has lines.
    #[must_use]
    pub fn with_scene_source(self, source: Source) -> Self {
        Self { tape: Tape { scene_source: Some(source), ..self.tape }, ..self }
    }

    /// The text of its scene, if it is known.
    pub fn scene_source(&self) -> Option<&Source> {
        self.tape.scene_source.as_ref()
    }

    /// The line of the tape, from 1, on which an input stands: by its number, in the order of
    /// [`tape`](Self::tape). None if there are not so many.
    pub fn line_of(&self, input: usize) -> Option<usize> {
        self.tape.line_of(input)
    }

    /// A play of its scene, with its scripts, in which its tape is going to happen.
    pub fn play(&self) -> Play {
        self.tape.play()
    }

    /// Lets its tape happen in a play of its scene that is still at time 0.
    pub fn start(&self, play: &mut Play) {
        self.tape.start(play);
    }

    /// What is done, in order of time.
    pub fn tape(&self) -> &[(Time, Input)] {
        &self.tape.inputs
    }

    /// The file of the log that it must give again, if it has one.
    pub fn log(&self) -> Option<&Path> {
        self.log.as_deref()
    }

    /// How long it plays.
    pub fn length(&self) -> Time {
        self.tape.length
    }
}

/// Plays a playtest with a witness on what is asked about, and answers.
pub fn explain(playtest: &Playtest, question: &Question) -> Answer {
    why::explain(&playtest.tape, question)
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
    let mut reader = Reader::new(source, &scene);
    let length = reader.seconds(keys.seconds, &Field::ROOT.key("seconds"));
    let (mut tape, mut done): (Vec<((Time, Input), Range<usize>)>, Vec<_>) = Default::default();
    for (index, entry) in keys.tape.iter().enumerate() {
        let field = Field::ROOT.key("tape").item(index);
        let inputs = reader.entry(entry, &field).unwrap_or_default();
        let span = reader.span(&field);
        tape.extend(inputs.into_iter().map(|input| (input, span.clone())));
        done.push((Time::from_secs(entry.at.clamp(0.0, MAX_SECONDS)), span));
    }
    tape.sort_by_key(|((time, _), _)| *time);
    let (inputs, places) = tape.into_iter().unzip();
    let expectations = keys.expect.iter().enumerate().filter_map(|(index, keys)| {
        let field = Field::ROOT.key("expect").item(index);
        Expectation::read(&mut reader, keys, &field, length)
    });
    let expectations = expectations.collect();
    if !reader.findings.is_empty() {
        return Err(reader.findings);
    }
    let (source, scripts, scene_source) = (source.clone(), Scripts::default(), None);
    let log = keys.log.map(|log| folder_of(Path::new(source.name())).join(log));
    let tape = Tape { source, scene, scripts, scene_source, length, inputs, places };
    Ok(Playtest { tape, expectations, done, log })
}
