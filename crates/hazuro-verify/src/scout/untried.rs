//! What scouting does not try, and why.

use hazuro::scene::Detector;
use hazuro::{EntityId, Scene};

use super::Plan;
use super::subjects::{Subject, is_sent};
use super::visits::suits;
use crate::coverage::tried_detectors;

/// What was not tried, for one reason.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Untried {
    /// Why not, and what could be done instead.
    pub why: String,
    /// What it is true of, in the order of the scene: entities, or detectors as `sight owl`.
    pub what: Vec<String>,
}

/// What was not tried: detectors without visits, bodies that were not sent, stock.
pub(super) fn of(scene: &Scene, subjects: &[Subject], planned: &[Plan]) -> Vec<Untried> {
    let mut untried: Vec<Untried> = Vec::new();
    let mut note = |why: &str, what: String| match untried.iter_mut().find(|it| it.why == why) {
        Some(untried) => untried.what.push(what),
        None => untried.push(Untried { why: why.into(), what: vec![what] }),
    };
    for on in scene.described() {
        let name = scene.name(on);
        for detector in tried_detectors(scene, on) {
            let whole = format!("{} {name}", detector.word());
            if let Some(why) = by_itself(detector) {
                note(why, whole);
            } else if planned.iter().any(|plan| plan.is_empty_of((on, detector))) {
                note(nobody(scene, subjects, (on, detector)), whole);
            }
        }
        let carried = scene.parent(on).is_some();
        if scene.has_body(on) && !is_sent(scene, on) {
            note(
                if carried {
                    "goes where its carrier goes, and was not sent by itself"
                } else {
                    "begins switched off, and was not sent: let a playtest switch it on"
                },
                name.into(),
            );
        }
    }
    for kind in scene.kinds().iter().filter(|kind| kind.stock_size() > 0) {
        if !scene.described().any(|on| scene.is_of_kind(on, kind.name())) {
            let why = "comes only by spawning: let a playtest set off what spawns it";
            note(why, format!("kind {}", kind.name()));
        }
    }
    untried
}

/// Why a sort of detector has no visits at all, if it has none.
fn by_itself(detector: Detector) -> Option<&'static str> {
    match detector {
        Detector::Footing => Some("tells what its own body stands on: let that walk in a playtest"),
        Detector::Carry => Some("was not grabbed, dropped or thrown: do so in a playtest"),
        Detector::Ownership => Some("belonged to nobody: let somebody take it in a playtest"),
        Detector::Route => Some("goes its way by itself: play a playtest for as long as it takes"),
        _ => None,
    }
}

/// Why there is no visit to a detector.
fn nobody(scene: &Scene, subjects: &[Subject], goal: (EntityId, Detector)) -> &'static str {
    if subjects.iter().any(|subject| suits(scene, goal, subject.who)) {
        "has no ground beside it where somebody could stand"
    } else if goal.1 == Detector::Pointer {
        "no player has a camera to point through"
    } else {
        "there is nobody whom it could detect"
    }
}
