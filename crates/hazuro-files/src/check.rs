//! What is suspicious about a scene that can be played.

use hazuro::scene::{Action, Field};
use hazuro::{EntityId, Scene};

use crate::finding::{Finding, Severity};
use crate::source::Source;
use crate::spans::Spans;

/// Looks for detectors that nothing in the scene can set off. `source` is the text that the scene
/// was read from.
pub fn check_scene(source: &Source, scene: &Scene) -> Vec<Finding> {
    let spans = Spans::of(source);
    let warn = |field: &Field, code, message: String, help: String| {
        let span = spans.as_ref().map_or(0..0, |spans| spans.find(field));
        Finding::new(Severity::Warning, code, message).with_help(help).at(source, span)
    };
    let bodies: Vec<EntityId> = scene.ids().filter(|id| scene.has_body(*id)).collect();
    let mut findings = Vec::new();
    for (index, id) in scene.ids().enumerate() {
        let field = Field::ROOT.key("entity").item(index);
        let entity = scene.entity(id);
        let name = entity.name();
        if !scene.has_zone(id) {
            if entity.own_admit().is_some() {
                let message = format!("`{name}` says whom to admit, but has no detector");
                let help = "give it a zone, or take `admit` away".into();
                findings.push(warn(&field.key("admit"), "admits-to-nothing", message, help));
            }
            continue;
        }
        let able = |body: &&EntityId| scene.admits(id, **body) && can_meet(scene, id, **body);
        if bodies.is_empty() {
            let message =
                format!("nothing can set off `{name}`: no entity in the scene has a body");
            findings.push(warn(
                &field.key("zone"),
                "never-set-off",
                message,
                "give an entity a body".into(),
            ));
        } else if !bodies.iter().any(|body| able(&body)) {
            let rule =
                if entity.own_admit().is_some() { field.key("admit") } else { field.key("zone") };
            let message =
                format!("nothing can set off `{name}`: it admits no entity that has a body");
            let names: Vec<_> = bodies.iter().take(4).map(|body| scene.name(*body)).collect();
            let help = format!("those with a body are {}: does one lack a tag?", names.join(", "));
            findings.push(warn(&rule, "never-set-off", message, help));
        }
        if let Some(off) = scene
            .lineage(id)
            .find(|id| !scene.starts_enabled(*id) && !can_be_switched_on(scene, *id))
        {
            let message = if off == id {
                format!("nothing can set off `{name}`: it is off, and nothing switches it on")
            } else {
                let off = scene.name(off);
                format!(
                    "nothing can set off `{name}`: its ancestor `{off}` is off, and nothing switches that on"
                )
            };
            let help = format!("add {{ enable = \"{}\" }} to a reaction", scene.name(off));
            let at = if entity.own_enabled().is_some() {
                field.key("enabled")
            } else {
                field.key("zone")
            };
            findings.push(warn(&at, "off-for-good", message, help));
        }
    }
    findings
}

/// Whether a zone can detect a body at all: not its own carrier, nor a body it carries.
fn can_meet(scene: &Scene, zone: EntityId, body: EntityId) -> bool {
    !scene.lineage(zone).any(|id| id == body) && !scene.lineage(body).any(|id| id == zone)
}

/// Whether some action may switch an entity on.
fn can_be_switched_on(scene: &Scene, entity: EntityId) -> bool {
    scene.reactions().iter().any(|reaction| {
        reaction.actions().iter().any(|action| match action {
            // `who` and `on` may mean anybody.
            Action::Enable(name) | Action::Toggle(name) => {
                ["who", "on"].contains(&name.as_str()) || scene.find(name) == Some(entity)
            }
            _ => false,
        })
    })
}
