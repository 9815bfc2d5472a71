//! What reading all parts of a playtest has in common: names are looked up, times held against their range,
//! and what is wrong is kept with its place.

use std::ops::Range;

use hazuro::scene::{EventKind, Fault, Field, Named, nearest};
use hazuro::{EntityId, Scene, Time};
use hazuro_format::{Code, Finding, Severity, Source, Spans};

/// The longest play, in seconds: a day.
pub(crate) const MAX_SECONDS: f64 = 86_400.0;

/// Reads a playtest of a scene.
pub(crate) struct Reader<'a> {
    pub source: &'a Source,
    pub scene: &'a Scene,
    pub spans: Option<Spans>,
    pub findings: Vec<Finding>,
    /// Who plays from elsewhere.
    pub players: Vec<EntityId>,
}

impl<'a> Reader<'a> {
    pub fn new(source: &'a Source, scene: &'a Scene) -> Self {
        Self { source, scene, spans: Spans::of(source), findings: Vec::new(), players: Vec::new() }
    }

    pub fn span(&self, field: &Field) -> Range<usize> {
        self.spans.as_ref().map_or(0..0, |spans| spans.find(field))
    }

    pub fn error(&mut self, field: &Field, code: Code, message: &str, help: &str) {
        let finding = Finding::new(Severity::Error, code, message).with_help(help);
        self.findings.push(finding.at(self.source, self.span(field)));
    }

    pub fn fault(&mut self, field: &Field, fault: &Fault) {
        self.findings.push(Finding::of_fault(fault).at(self.source, self.span(field)));
    }

    /// That a key does not go with what a table does, but with others.
    pub fn stray(&mut self, field: &Field, (key, with): (&str, &[&str]), help: &str) {
        let message = format!("`{key}` goes with `{}`", with.join("`, `"));
        self.error(&field.key(key), Code::NoPartner, &message, help);
    }

    pub fn seconds(&mut self, value: f64, field: &Field) -> Time {
        if !(0.0..=MAX_SECONDS).contains(&value) {
            let message = format!("{value} is not a number of seconds from 0 to {MAX_SECONDS}");
            self.error(field, Code::BadNumber, &message, "times count from the start of the play");
        }
        Time::from_secs(value)
    }

    pub fn entity(&mut self, name: &str, field: &Field) -> Option<EntityId> {
        self.scene.entity_id(name).map_err(|fault| self.fault(field, &fault)).ok()
    }

    /// Somebody who plays from elsewhere.
    pub fn player(&mut self, name: &str, field: &Field) -> Option<EntityId> {
        let player = self.entity(name, field)?;
        if self.players.contains(&player) {
            return Some(player);
        }
        let message = format!("`{name}` does not play from elsewhere, and is told of nothing");
        let help = format!("say how good the line is: [players] {name} = {{ delay = 0.1 }}");
        self.error(field, Code::NoLine, &message, &help);
        None
    }

    /// The event that a word means.
    pub fn event_kind(&mut self, word: &str, field: &Field) -> Option<EventKind> {
        let kind = EventKind::from_word(word);
        if kind.is_none() {
            let known = EventKind::ALL.iter().map(|kind| kind.word());
            let nearest = nearest(word, known);
            let fault = Fault::Unknown { what: Named::Event, name: word.into(), nearest };
            self.fault(field, &fault);
        }
        kind
    }

    /// Sees to it that an entity has the detector of an event.
    pub fn detects(&mut self, on: EntityId, event: EventKind, field: &Field) {
        if let Some(detector) = event.detector().filter(|sort| !self.scene.has(on, *sort)) {
            let name = self.scene.name(on).into();
            self.fault(field, &Fault::NoDetector { event, detector, name, relative: None });
        }
    }
}
