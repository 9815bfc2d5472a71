//! Events in a line of a terminal.

use hazuro::scene::Scene;
use hazuro::{EntityId, Entry};
use hazuro_files::describe;

/// What happened, in a line.
pub(super) fn entry(scene: &Scene, entry: &Entry) -> String {
    let time = format!("{:8.3}", entry.time().secs());
    let name = |id: EntityId| scene.name(id);
    match entry {
        Entry::Event(event) => {
            let on = event.cue.as_deref().or(event.on.map(name)).unwrap_or_default();
            let who = event.who.map_or("", name);
            let need = event.need.as_ref().map_or(String::new(), |need| format!(" lacks {need}"));
            format!("{time} {} {on} {who}{need}", event.kind).trim_end().to_owned()
        }
        Entry::Did { action, .. } => format!("{:8} → {}", "", describe(scene, action)),
        Entry::Said { text, .. } => format!("{:8} “{text}”", ""),
        Entry::Refused { action, why, .. } => {
            format!("{:8} ✗ {}: {}", "", describe(scene, action), why.words())
        }
        Entry::Problem { by, problem, .. } => {
            format!("{:8} ! {}: {}", "", by.describe(scene), problem.describe(scene))
        }
        Entry::Halted { who, by, .. } => {
            let by = by.map_or("no way", name);
            format!("{time} ▼ {} gets no further: {by}", name(*who))
        }
        Entry::Stopped { reaction, .. } => {
            format!("{:8} ■ {} ends", "", hazuro_files::of_reaction(scene, *reaction))
        }
    }
}
