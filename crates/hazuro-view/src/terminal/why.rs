//! Which gate a detector and a player hang on right now.

use std::sync::Arc;

use hazuro::scene::{Detector, Scene};
use hazuro::why::{Chain, Notebook};
use hazuro::{EntityId, Play, Time};

use super::console::detectors_of;

/// How far ahead a detector that is asked only now and then is waited for.
const WAIT: Time = Time::from_nanos(300_000_000);

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

/// Asks the gates of a detector about a player, in a copy of the play.
pub(super) fn now(scene: &Arc<Scene>, play: &Play, on: EntityId, who: EntityId) -> Why {
    let at = play.now();
    let mut copy = Play::new(scene.clone());
    copy.restore(play.state().clone());
    let mut notebook = Notebook::about(Some(on), Some(who));
    let asked: Vec<Detector> = detectors_of(scene, on).collect();
    let heard = |notebook: &Notebook, detector: Detector| {
        notebook.record(&Chain::Detector { on, detector, who }).is_some()
    };
    // Zones and touches say at once how it is; the others when it is next their turn.
    let mut until = at + Time::from_nanos(1);
    while until <= at + WAIT {
        copy.advance_witnessed(until, &mut notebook);
        if asked.iter().all(|detector| heard(&notebook, *detector)) {
            break;
        }
        until = until + Time::from_nanos(16_000_000);
    }
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
    Why { on, who, at, chains: asked.iter().map(|detector| chain(*detector)).collect() }
}
