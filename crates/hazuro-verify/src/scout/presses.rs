//! Visits to what is used: prompts and pointers.

use std::sync::Arc;

use hazuro::glam::DVec3;
use hazuro::scene::{Detector, EventKind};
use hazuro::{EntityId, Play, Scene};

use super::spots::{SIDES, bounds, ground, place, size};
use super::visit::{Manner, Visit, event, line};

/// Beside a prompt, from each side, to use it; and to let go of its key too early.
pub(super) fn beside(scene: &Arc<Scene>, on: EntityId, who: EntityId) -> Vec<Visit> {
    let Some(prompt) = scene.prompt_of(on) else { return Vec::new() };
    let wide = wide(scene, (on, Detector::Prompt));
    let (_, half) = size(scene, who);
    let (hold, begin) = (prompt.hold, 0.3);
    let used = |how: String, manner, mut tape: Vec<String>, over: f64| {
        let does = format!("hold = {:?}, over = {over}", prompt.key);
        tape.push(line(scene, begin, who, &does));
        let seconds = over + 0.6;
        let event = event(scene, (on, Detector::Prompt));
        Visit { on, detector: Detector::Prompt, who, how, manner, tape, seconds, times: 1, event }
    };
    let mut visits = Vec::new();
    for (side, stand) in stands(scene, on, wide + half.x + prompt.reach * 0.4) {
        // From far below nobody is expected to reach it.
        if scene.pose(on).position.y - stand.y > half.y * 2.0 + prompt.reach * 0.8 {
            continue;
        }
        let comes = before_it(scene, on, who, Some(stand));
        let whole = hold + 0.2;
        visits.push(used(format!("used from {side}"), Manner::Side, comes.clone(), whole));
        if hold > 0.0 && visits.len() == 1 {
            let how = format!("from {side}, letting go of the key too early");
            visits.push(used(how, Manner::Other, comes, hold / 2.0));
        }
    }
    visits
}

/// Something to click, from each side if its player can stand there: clicked, pointed at, pressed
/// and pulled away.
pub(super) fn pointing(scene: &Arc<Scene>, on: EntityId, who: EntityId) -> Vec<Visit> {
    let name = scene.name(on);
    let does = |at: f64, verb: &str, spot: &str| line(scene, at, who, &format!("{verb} = {spot}"));
    let there = format!("{name:?}");
    let is_dragged = scene.pointer_of(on).is_some_and(|pointer| pointer.drag.is_some());
    let pull = if is_dragged { EventKind::Drag } else { EventKind::PointerDown };
    let presses = |from: &str, stand| {
        let visit = |how: String, manner, event, does: Vec<String>| {
            let mut tape = before_it(scene, on, who, stand);
            tape.extend(does);
            let detector = Detector::Pointer;
            Visit { on, detector, who, how, manner, tape, seconds: 0.8, times: 1, event }
        };
        let clicked = vec![does(0.3, "click", &there)];
        let pulled = vec![
            does(0.3, "pointer_down", &there),
            does(0.45, "pointer", "[0, 0]"),
            does(0.6, "pointer_up", "[0, 0]"),
        ];
        let pointed = vec![does(0.3, "pointer", &there), does(0.6, "pointer", "[0, 0]")];
        let others = Manner::Other;
        [
            visit(format!("clicked{from}"), Manner::Side, EventKind::Click, clicked),
            visit(format!("pointed at{from}"), others, EventKind::Hover, pointed),
            visit(format!("pressed and pulled away{from}"), others, pull, pulled),
        ]
    };
    // A player without a body points from where the camera is.
    if !scene.has_body(who) {
        return presses("", None).into();
    }
    let far = wide(scene, (on, Detector::Pointer)) + 2.5;
    let stands = stands(scene, on, far).into_iter().enumerate();
    let each = stands.flat_map(|(index, (side, stand))| {
        let all = if index == 0 { 3 } else { 1 };
        presses(&format!(" from {side}"), Some(stand)).into_iter().take(all)
    });
    each.collect()
}

/// How far a shape reaches from its middle, level.
fn wide(scene: &Scene, goal: (EntityId, Detector)) -> f64 {
    let shape = bounds(scene, goal);
    ((shape.max - shape.min) / 2.0).with_y(0.0).length()
}

/// Where one can stand, so far from something, by side.
fn stands(scene: &Arc<Scene>, on: EntityId, far: f64) -> Vec<(&'static str, DVec3)> {
    let play = Play::new(scene.clone());
    let at = scene.pose(on).position;
    let stand = |(side, way)| Some((side, ground(&play, at + way * far, at.y + 0.5)?));
    SIDES.into_iter().filter_map(stand).collect()
}

/// Comes to stand somewhere and turns to something. Who has no body only points.
fn before_it(scene: &Scene, on: EntityId, who: EntityId, stand: Option<DVec3>) -> Vec<String> {
    let Some(stand) = stand else { return Vec::new() };
    vec![
        line(scene, 0.0, who, &format!("place_at = {}", place(stand))),
        line(scene, 0.1, who, &format!("face = {:?}", scene.name(on))),
    ]
}
