//! Playtests: what players do, and what must and must not happen.

use std::ops::Range;
use std::path::{Path, PathBuf};
use std::sync::Arc;

use hazuro::scene::{Detector, EventKind, Fault, Field, StatId};
use hazuro::{Cause, EntityId, Input, Play, Scene, Time};

use crate::condition::{Known, Program};
use crate::expression;
use crate::finding::{Finding, Severity};
use crate::load::play_of;
use crate::parse::parse;
use crate::playtest_file::{ExpectKeys, PlaytestKeys, ValueKeys};
use crate::script::Scripts;
use crate::source::Source;
use crate::spans::Spans;

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
    pub(crate) expectations: Vec<Expectation>,
}

/// One thing that must or must not happen.
#[derive(Debug)]
pub(crate) struct Expectation {
    /// The bytes of its text.
    pub span: Range<usize>,
    pub what: What,
}

#[derive(Debug)]
pub(crate) enum What {
    Event { pattern: Pattern, times: Times },
    Value { text: String, program: Program, who: Option<EntityId>, is: ValueKeys, at: Time },
}

/// The events that an expectation is about.
#[derive(Clone, Debug)]
pub(crate) struct Pattern {
    pub event: EventKind,
    pub on: Option<EntityId>,
    pub cue: Option<String>,
    pub who: Option<EntityId>,
    pub cause: Option<Cause>,
    pub need: Option<String>,
    pub of: Option<StatId>,
    pub after: Option<Time>,
    pub by: Option<Time>,
}

/// How often an event must happen.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Times {
    AtLeastOnce,
    Exactly(usize),
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

    /// A play of its scene, with its scripts, in which its tape is going to happen.
    pub fn play(&self) -> Play {
        let mut play = play_of(&self.scene, &self.scripts);
        self.start(&mut play);
        play
    }

    /// Lets its tape happen in a play of its scene that is still at time 0.
    pub fn start(&self, play: &mut Play) {
        for (time, input) in &self.tape {
            play.schedule(*time, input.clone());
        }
    }

    /// What is done, in order of time.
    pub fn tape(&self) -> &[(Time, Input)] {
        &self.tape
    }

    /// How long it plays.
    pub fn length(&self) -> Time {
        self.seconds
    }
}

/// Whether a file describes a playtest and not a scene: its `scene` is the name of a file, or it
/// has another key that only playtests have.
pub fn is_playtest(source: &Source) -> bool {
    Spans::of(source).is_some_and(|spans| {
        spans.is_text("scene") || ["seconds", "tape", "expect"].iter().any(|key| spans.has(key))
    })
}

/// The scene's file, as a playtest names it.
///
/// # Errors
/// If the file is no playtest.
pub(crate) fn scene_path(source: &Source) -> Result<PathBuf, Finding> {
    let keys: PlaytestKeys = parse(source)?;
    let folder = Path::new(source.name()).parent().unwrap_or(Path::new(""));
    Ok(folder.join(keys.scene))
}

/// Where the playtest names it.
pub(crate) fn scene_span(source: &Source) -> Range<usize> {
    Spans::of(source).map_or(0..0, |spans| spans.find(&Field::ROOT.key("scene")))
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
    let mut tape: Vec<(Time, Input)> = entries
        .filter_map(|(index, entry)| reader.entry(entry, &Field::ROOT.key("tape").item(index)))
        .flatten()
        .collect();
    tape.sort_by_key(|(time, _)| *time);
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
        Ok(Playtest { source, scene, scripts, seconds, tape, expectations })
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
        let finding = Finding::new(Severity::Error, fault.code(), fault.to_string());
        let finding = finding.at(self.source, self.span(field));
        self.findings.push(match fault.cure() {
            Some(cure) => finding.with_help(cure),
            None => finding,
        });
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

    fn expectation(&mut self, keys: &ExpectKeys, field: &Field, end: Time) -> Option<What> {
        match (&keys.event, &keys.value) {
            (Some(event), None) => self.event(event, keys, field),
            (None, Some(text)) => self.value(text, keys, field, end),
            _ => {
                let message = "an expectation is about an `event` or a `value`";
                let help = "as in { event = \"enter\", on = \"pad\", by = 3.0 } \
                            or { value = \"count.tokens\", is = 4, at = 9.0 }";
                self.error(field, "one-expectation", message, help);
                None
            }
        }
    }

    fn event(&mut self, word: &str, keys: &ExpectKeys, field: &Field) -> Option<What> {
        for (key, there) in [("is", keys.is.is_some()), ("at", keys.at.is_some())] {
            if there {
                let message = format!("`{key}` goes with `value`");
                self.error(
                    &field.key(key),
                    "no-partner",
                    &message,
                    "for an event use after and by",
                );
            }
        }
        let Some(event) = EventKind::from_word(word) else {
            let known = EventKind::ALL.iter().map(|kind| kind.word());
            let fault = Fault::Unknown {
                what: "event",
                name: word.into(),
                nearest: hazuro::scene::nearest(word, known),
            };
            self.fault(&field.key("event"), &fault);
            return None;
        };
        let cue = if event == EventKind::Cue { keys.on.clone() } else { None };
        let on = match &keys.on {
            Some(name) if cue.is_none() => {
                let on = self.entity(name, &field.key("on"))?;
                if let Some(detector) = event.detector().filter(|sort| !self.scene.has(on, *sort)) {
                    let name = name.clone();
                    let fault = Fault::NoDetector { event, detector, name, relative: None };
                    self.fault(&field.key("on"), &fault);
                }
                Some(on)
            }
            _ => None,
        };
        let who = match &keys.who {
            Some(name) => Some(self.entity(name, &field.key("who"))?),
            None => None,
        };
        let cause = match &keys.cause {
            Some(word) => {
                let Some(cause) = Cause::ALL.into_iter().find(|cause| cause.word() == word) else {
                    let nearest = hazuro::scene::nearest(word, Cause::ALL.map(Cause::word));
                    let fault = Fault::Unknown { what: "cause", name: word.clone(), nearest };
                    self.fault(&field.key("cause"), &fault);
                    return None;
                };
                Some(cause)
            }
            None => None,
        };
        let times = match (keys.never, keys.times) {
            (Some(true), None) => Times::Exactly(0),
            (Some(true), Some(_)) => {
                let message = "`never` and `times` both say how often";
                self.error(&field.key("times"), "two-counts", message, "keep one of them");
                return None;
            }
            (_, Some(times)) => Times::Exactly(times),
            (_, None) => Times::AtLeastOnce,
        };
        let after = keys.after.map(|seconds| self.seconds(seconds, &field.key("after")));
        let by = keys.by.map(|seconds| self.seconds(seconds, &field.key("by")));
        let need = keys.need.clone();
        if need.is_some() && event != EventKind::Refused {
            let message = "`need` goes with `refused`";
            self.error(&field.key("need"), "no-partner", message, "take it away");
        }
        let of = keys.of.as_ref().and_then(|name| {
            let field = field.key("of");
            if event.detector() != Some(Detector::Stats) {
                let message = "`of` goes with `stat`, `empty` and `full`";
                self.error(&field, "no-partner", message, "take it away");
            }
            self.scene.stat_id(name).map_err(|fault| self.fault(&field, &fault)).ok()
        });
        let pattern = Pattern { event, on, cue, who, cause, need, of, after, by };
        Some(What::Event { pattern, times })
    }

    fn value(&mut self, text: &str, keys: &ExpectKeys, field: &Field, end: Time) -> Option<What> {
        for (key, there) in [
            ("on", keys.on.is_some()),
            ("need", keys.need.is_some()),
            ("of", keys.of.is_some()),
            ("cause", keys.cause.is_some()),
            ("after", keys.after.is_some()),
            ("by", keys.by.is_some()),
            ("times", keys.times.is_some()),
            ("never", keys.never.is_some()),
        ] {
            if there {
                let message = format!("`{key}` goes with `event`");
                self.error(&field.key(key), "no-partner", &message, "a value takes `is` and `at`");
            }
        }
        let Some(is) = keys.is.clone() else {
            self.error(
                field,
                "missing-key",
                "the key `is` is missing here",
                "say what the value is",
            );
            return None;
        };
        let at = keys.at.map_or(end, |seconds| self.seconds(seconds, &field.key("at")));
        if at > end {
            let message = "the play is over by then";
            self.error(&field.key("at"), "too-late", message, "play longer: raise `seconds`");
        }
        let who = match &keys.who {
            Some(name) => Some(self.entity(name, &field.key("who"))?),
            None => None,
        };
        match Program::new(text, &Known::of_scene(self.scene)) {
            Ok(program) => Some(What::Value { text: text.into(), program, who, is, at }),
            Err(bad) => {
                let field = field.key("value");
                let spans = self.spans.as_ref();
                self.findings.push(expression::finding(self.source, spans, &field, text, &bad));
                None
            }
        }
    }
}
