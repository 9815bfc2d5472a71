//! Which gate a detector and a player hang on right now.

use hazuro::scene::{Detector, Scene};
use hazuro::why::{Chain, Notebook};
use hazuro::{EntityId, Play, Time};

/// What the gates of a detector say of a player at a moment.
#[derive(Clone, Debug)]
pub(super) struct Why {
    pub on: EntityId,
    pub who: EntityId,
    pub at: Time,
    /// Each detector of the entity.
    pub chains: Vec<Asked>,
}

/// One detector's gates.
#[derive(Clone, Debug)]
pub(super) struct Asked {
    pub detector: Detector,
    /// Whether it detects the player now.
    pub detects: bool,
    /// Each gate that was tried, and whether it let pass.
    pub gates: Vec<(&'static str, bool)>,
    /// What the first that did not let pass saw, and the cure.
    pub stopped: Option<(String, Option<String>)>,
}

/// Asks the gates of a detector about a player.
pub(super) fn now(scene: &Scene, play: &Play, on: EntityId, who: EntityId) -> Why {
    let mut notebook = Notebook::about(Some(on), Some(who));
    // Both are of this scene.
    let _ = play.try_gates(on, who, &mut notebook);
    let chain = |detector: Detector| {
        let detects = play.detected(on, detector).is_ok_and(|all| all.contains(&who));
        let record = notebook.record(&Chain::Detector { on, detector, who });
        let run = record.map_or(&[][..], |record| record.run());
        let stopped = record.and_then(|record| record.stopped()).filter(|_| !detects);
        Asked {
            detector,
            detects,
            gates: run.iter().map(|verdict| (verdict.gate.words(), verdict.passed)).collect(),
            stopped: stopped.map(|verdict| (verdict.reason(scene), verdict.cure(scene))),
        }
    };
    Why { on, who, at: play.now(), chains: detectors_of(scene, on).map(chain).collect() }
}

/// The detectors of an entity that can be asked about.
pub(super) fn detectors_of(scene: &Scene, id: EntityId) -> impl Iterator<Item = Detector> {
    let asked = move |it: &Detector| scene.scope_of(id, *it).is_some_and(|scope| !scope.itself);
    Detector::ALL.into_iter().filter(asked)
}
