//! One way in which a subject comes to a detector: a tape, and what it is to show.

use hazuro::scene::{Detector, EventKind};
use hazuro::{EntityId, Entry, Event, Scene};

/// One way in which a subject comes to a detector.
#[derive(Clone, Debug)]
pub(super) struct Visit {
    pub on: EntityId,
    pub detector: Detector,
    pub who: EntityId,
    /// How it comes, in words.
    pub how: String,
    pub manner: Manner,
    /// The lines of its tape.
    pub tape: Vec<String>,
    pub seconds: f64,
    /// How often it is to be detected.
    pub times: usize,
    /// The event that tells of it.
    pub event: EventKind,
}

/// What a visit is to show.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Manner {
    /// From one side: whether it matters from which.
    Side,
    /// On foot: whether one can get there.
    OnFoot,
    /// Twice: whether it works a second time.
    Twice,
    /// Otherwise.
    Other,
}

/// The event that tells of a visit.
pub(super) fn event(scene: &Scene, (on, detector): (EntityId, Detector)) -> EventKind {
    match detector {
        Detector::Pointer => EventKind::Click,
        Detector::Prompt if scene.prompt_of(on).is_some_and(|it| it.quiet) => EventKind::Interact,
        detector => detector.opens().unwrap_or(EventKind::Enter),
    }
}

/// A line of a tape.
pub(super) fn line(scene: &Scene, at: f64, who: EntityId, does: &str) -> String {
    format!("{{ at = {}, who = {:?}, {does} }}", (at * 1e3).round() / 1e3, scene.name(who))
}

impl Visit {
    /// The events that tell of it.
    pub fn events<'a>(&self, entries: &'a [Entry]) -> impl Iterator<Item = &'a Event> {
        let (on, detector, who, kind) = (self.on, self.detector, self.who, self.event);
        entries.iter().filter_map(Entry::event).filter(move |event| {
            let told = match detector {
                Detector::Prompt => matches!(event.kind, EventKind::Offer | EventKind::Interact),
                _ => event.kind == kind,
            };
            told && event.on == Some(on) && event.who == Some(who)
        })
    }

    /// How often it was detected.
    pub fn fired(&self, entries: &[Entry]) -> usize {
        self.events(entries).count()
    }

    /// The playtest, as a file; with what it is to show in its first line, and what is expected.
    pub fn playtest(&self, scene: &str, expect: &str) -> String {
        let lines: Vec<String> = self.tape.iter().map(|line| format!("  {line},\n")).collect();
        let seconds = (self.seconds * 1e3).round() / 1e3;
        format!(
            "scene = {scene:?}\nseconds = {seconds}\n\ntape = [\n{}]\n\nexpect = [\n{expect}]\n",
            lines.concat()
        )
    }
}
