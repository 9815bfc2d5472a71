//! What is tried, and what came of a visit.

use hazuro::Entry;

use crate::playtest::Playtest;

/// What to try.
///
/// ```
/// use hazuro_format::Source;
/// use hazuro_script::read_scene_with;
/// use hazuro_verify::{Scouting, scout};
/// let scene = Source::new("yard.toml", r#"
/// [[entity]]
/// name = "ball"
/// body = { sphere = { radius = 0.5 } }
///
/// [[entity]]
/// name = "pad"
/// at = [3, 0, 0]
/// zone = { box = [1, 1, 1] }
/// "#);
/// let (scene, scripts) = read_scene_with(&scene, &Source::read).unwrap();
/// let scouted = scout(&scene.into(), &scripts, &Scouting::new("yard.toml"), &mut |_, _| true);
/// assert_eq!(scouted.rows[0].cells, ["yes"]);
/// assert!(scouted.suspicions.is_empty());
/// ```
#[derive(Clone, Debug)]
pub struct Scouting {
    /// The scene's file, as the playtests that are written name it.
    pub scene: String,
    /// How many minutes of play to try combinations of visits for.
    pub minutes: f64,
    /// What the combinations come from.
    pub seed: u64,
}

impl Scouting {
    /// Each detector by itself.
    pub fn new(scene: impl Into<String>) -> Self {
        Self { scene: scene.into(), minutes: 0.0, seed: 1 }
    }
}

/// What came of a visit.
pub(super) struct Seen {
    pub playtest: Playtest,
    pub entries: Vec<Entry>,
    /// The entities that the detector still detects at the end.
    pub left_inside: bool,
}
