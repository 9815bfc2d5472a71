//! Events in a line of a terminal.

use hazuro::scene::Scene;
use hazuro::{EntityId, Entry, Happening};
use hazuro_verify::came_of;

/// What happened, in a line.
pub(super) fn entry(scene: &Scene, entry: &Entry) -> String {
    let Happening::Event(event) = &entry.what else {
        return format!("{:8} {}", "", came_of(scene, entry).unwrap_or_default());
    };
    let name = |id: EntityId| scene.name(id);
    let on = event.cue.as_deref().or(event.on.map(name)).unwrap_or_default();
    let who = event.who.map_or("", name);
    let need = event.need.as_ref().map_or(String::new(), |need| format!(" lacks {need}"));
    let line = format!("{:8.3} {} {on} {who}{need}", event.time.secs(), event.kind);
    line.trim_end().to_owned()
}
