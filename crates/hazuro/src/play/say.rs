//! Texts, with their placeholders filled.

use std::fmt::Write;

use crate::describe::{EntityId, Piece, SlotValue, pieces};
use crate::model::Scene;
use crate::state::{Event, State};

/// A text in a language, or in the scene's own if it is not in that, with its placeholders
/// filled. If there is no such text at all, its key.
pub(super) fn fill(
    scene: &Scene,
    state: &State,
    language: &str,
    key: &str,
    event: &Event,
) -> String {
    let language = if language.is_empty() { scene.language() } else { language };
    let found = scene.text(key, language).or_else(|| scene.text(key, scene.language()));
    let mut filled = String::new();
    for piece in pieces(found.unwrap_or(key)) {
        match piece {
            Piece::Plain(plain) => filled.push_str(plain),
            Piece::Name(name) => fill_in(&mut filled, scene, state, name, event),
        }
    }
    filled
}

fn fill_in(text: &mut String, scene: &Scene, state: &State, name: &str, event: &Event) {
    let named = |entity: Option<EntityId>| entity.map_or("nobody", |entity| scene.name(entity));
    let mut words = name.split('.');
    // Writing to a text cannot fail.
    let _ = match (words.next(), words.next(), words.next()) {
        (Some("who"), None, _) => write!(text, "{}", named(event.who)),
        (Some("on"), None, _) => write!(text, "{}", named(event.on)),
        (Some("part"), None, _) => {
            let part = event.who.zip(event.part).and_then(|(who, it)| scene.part_name(who, it));
            write!(text, "{}", part.unwrap_or("nothing"))
        }
        (Some("cue"), None, _) => write!(text, "{}", event.cue.as_deref().unwrap_or("nothing")),
        (Some("need"), None, _) => write!(text, "{}", event.need.as_deref().unwrap_or("nothing")),
        (Some("time"), None, _) => write!(text, "{}", state.now),
        (Some("value"), None, _) => number(text, event.reading.map_or(0.0, |reading| reading.is)),
        (Some("count"), Some(name), None) => write!(text, "{}", state.count(None, name)),
        (Some("flag"), Some(name), None) => write!(text, "{}", state.flag(None, name)),
        (Some(whose @ ("who" | "on")), Some(sort), Some(name)) => {
            let of = if whose == "who" { event.who } else { event.on };
            match (of, sort) {
                (None, _) => write!(text, "nothing"),
                (of, "count") => write!(text, "{}", state.count(of, name)),
                (of, "flag") => write!(text, "{}", state.flag(of, name)),
                (Some(of), "slot") => match state.slot(scene, of, name) {
                    Some(SlotValue::Entity(entity)) => write!(text, "{}", scene.name(*entity)),
                    Some(SlotValue::Number(value)) => number(text, *value),
                    Some(SlotValue::Text(value)) => write!(text, "{value}"),
                    Some(SlotValue::Flag(up)) => write!(text, "{up}"),
                    None => write!(text, "nothing"),
                },
                (Some(of), _) => {
                    let stat = scene.stat_id(name).ok();
                    match stat.and_then(|stat| state.stat(scene, of, stat)) {
                        Some(value) => number(text, value),
                        None => write!(text, "nothing"),
                    }
                }
            }
        }
        _ => write!(text, "{{{name}}}"),
    };
}

/// A number to two places, without what is not needed of them.
fn number(text: &mut String, value: f64) -> std::fmt::Result {
    write!(text, "{}", (value * 100.0).round() / 100.0 + 0.0)
}
