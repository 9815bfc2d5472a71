//! Playtests: what players do, and what must and must not happen.

use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::{Arc, OnceLock};

use hazuro::scene::Field;
use hazuro::{Input, Play, Scene, Time};
use hazuro_format::{Code, Finding, Format, Severity, Source, Spans, folder_of, parse};
use hazuro_script::Scripts;

mod file;
mod write;

use crate::expect::Expectation;
use crate::players::{Player, Rehearsed, rehearse};
use crate::tape::{MAX_SECONDS, Reader, Tape, play_of};
use crate::why::{self, Answer, Question};
use file::PlaytestKeys;
pub use file::playtest_schema;
pub use write::write_playtest;

/// The keys by which a playtest is known; the last three may have headers.
const KEYS: [&str; 5] = ["scene", "seconds", "players", "tape", "expect"];

/// A playtest with its scene, ready to be run.
#[derive(Debug)]
pub struct Playtest {
    /// What is done, as it is written.
    pub(crate) written: Tape,
    /// Who plays from elsewhere.
    pub(crate) players: Vec<Player>,
    /// How that goes: found out when it is first asked for.
    rehearsed: OnceLock<Rehearsed>,
    pub(crate) expectations: Vec<Expectation>,
    /// When each entry of the tape is done, and the bytes of its text.
    pub(crate) done: Vec<(Time, Range<usize>)>,
    /// The file of the log that it must give again.
    log: Option<PathBuf>,
}

impl Playtest {
    /// The playtest's file.
    pub fn source(&self) -> &Source {
        &self.written.source
    }

    /// The scene it plays.
    pub fn scene(&self) -> &Arc<Scene> {
        &self.written.scene
    }

    /// With the scripts of its scene.
    #[must_use]
    pub fn with_scripts(self, scripts: Scripts) -> Self {
        let written = Tape { scripts, ..self.written };
        Self { written, rehearsed: OnceLock::new(), ..self }
    }

    /// With the text of its scene, so that what is said of it has lines.
    #[must_use]
    pub fn with_scene_source(self, source: Source) -> Self {
        let written = Tape { scene_source: Some(source), ..self.written };
        Self { written, rehearsed: OnceLock::new(), ..self }
    }

    /// The text of its scene, if it is known.
    pub fn scene_source(&self) -> Option<&Source> {
        self.written.scene_source.as_ref()
    }

    /// Whether anybody plays from elsewhere.
    pub fn is_of_several(&self) -> bool {
        !self.players.is_empty()
    }

    /// What is done in the play: as it is written, or, of those who play from elsewhere, as the host hears it.
    pub(crate) fn heard(&self) -> &Tape {
        self.rehearsed().map_or(&self.written, |it| &it.tape)
    }

    /// How it goes with those who play from elsewhere, if anybody does.
    pub(crate) fn rehearsed(&self) -> Option<&Rehearsed> {
        self.is_of_several().then(|| {
            self.rehearsed.get_or_init(|| {
                let play = play_of(&self.written.scene, &self.written.scripts);
                self.rehearse(&self.written, play, 0)
            })
        })
    }

    /// How it goes with those who play from elsewhere, when this is done in a play of the scene that is at its
    /// start, and with the luck that their lines have by a seed.
    pub(crate) fn rehearse(&self, tape: &Tape, play: Play, seed: u64) -> Rehearsed {
        rehearse(tape, (&self.players, &self.expectations), play, seed)
    }

    /// The line of the tape, from 1, on which an input stands: by its number, in the order of
    /// [`tape`](Self::tape). None if there is no such input.
    pub fn line_of(&self, input: usize) -> Option<usize> {
        self.heard().line_of(input)
    }

    /// A play of its scene, with its scripts, in which its tape is going to happen.
    pub fn play(&self) -> Play {
        self.heard().play()
    }

    /// Lets its tape happen in a play of its scene that is still at time 0.
    pub fn start(&self, play: &mut Play) {
        self.heard().start(play);
    }

    /// What is done, in order of time: by those who play from elsewhere, as the host hears of it.
    pub fn tape(&self) -> &[(Time, Input)] {
        &self.heard().inputs
    }

    /// The file of the log that it must give again, if it has one.
    pub fn log(&self) -> Option<&Path> {
        self.log.as_deref()
    }

    /// How long it plays.
    pub fn length(&self) -> Time {
        self.written.length
    }
}

/// Plays a playtest with a witness on what is asked about, and answers.
pub fn explain(playtest: &Playtest, question: &Question) -> Answer {
    why::explain(playtest.heard(), question)
}

/// Whether a file describes a playtest and not a scene: its `scene` is the name of a file, or it
/// has another key that only playtests have.
pub fn is_playtest(source: &Source) -> bool {
    may_be_playtest(source)
        && Spans::of(source).is_some_and(|spans| {
            spans.is_text("scene") || KEYS[1..].iter().any(|key| spans.has(key))
        })
}

/// Whether a text may be a playtest, going by how its lines begin; cheaper than taking it apart.
fn may_be_playtest(source: &Source) -> bool {
    if source.format() != Format::Toml {
        return true;
    }
    // Before the first header stand the keys of the whole; of headers, those of the last three.
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

/// Takes a playtest apart.
fn keys_of(source: &Source) -> Result<PlaytestKeys, Finding> {
    parse(source).map_err(|finding: Finding| {
        // A key of the whole below the header is no line of a player, and that is all that can be told of it.
        let below = Spans::of(source).and_then(|spans| {
            let all = KEYS.into_iter().chain(["log"]);
            let mut all = all.map(|key| (key, Field::ROOT.key("players").key(key)));
            all.find(|(_, field)| spans.contains(field)).map(|(key, it)| (key, spans.find(&it)))
        });
        let Some((key, span)) = below else { return finding };
        let message =
            format!("`{key}` stands below the header [players], and so is one of the players");
        let help = format!(
            "put `{key}` above the first header, or write players.NAME = {{ ... }} without one"
        );
        Finding::new(Severity::Error, Code::StrayKey, message).with_help(help).at(source, span)
    })
}

/// The scene's file, as a playtest names it.
///
/// # Errors
/// If the file is no playtest.
pub(crate) fn scene_path(source: &Source) -> Result<PathBuf, Finding> {
    let keys = keys_of(source)?;
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
    let keys = keys_of(source).map_err(|finding| vec![finding])?;
    let mut reader = Reader::new(source, &scene);
    let length = reader.seconds(keys.seconds, &Field::ROOT.key("seconds"));
    let players = Player::read_all(&mut reader, &keys.players, &Field::ROOT.key("players"));
    reader.players = players.iter().map(|player| player.id).collect();
    let mut tape: Vec<((Time, Input), Range<usize>)> = Vec::new();
    let mut done = Vec::new();
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
    let written = Tape { source, scene, scripts, scene_source, length, inputs, places };
    let rehearsed = OnceLock::new();
    Ok(Playtest { written, players, rehearsed, expectations, done, log })
}
