//! From a path to a scene or playtest.

use std::path::Path;
use std::sync::Arc;

use hazuro::{Play, Scene};

use crate::finding::{Finding, Severity};
use crate::playtest::{self, Playtest, is_playtest, read_playtest};
use crate::scene_read::{read_scene, read_scene_with};
use crate::script::Scripts;
use crate::source::Source;

/// A scene, or a playtest with its scene.
#[derive(Debug)]
pub struct Loaded {
    /// The scene.
    pub scene: Arc<Scene>,
    /// The text of the scene.
    pub source: Source,
    /// Its scripts.
    pub scripts: Scripts,
    /// The playtest, if the file was one.
    pub playtest: Option<Playtest>,
}

/// Reads a scene or a playtest, whichever the file holds.
///
/// # Errors
/// Everything that is wrong with it or its scene: at least one finding.
pub fn load(path: &Path) -> Result<Loaded, Vec<Finding>> {
    let source = Source::read(path).map_err(|finding| vec![finding])?;
    if is_playtest(&source) {
        return playtest_of(&source);
    }
    let (scene, scripts) = read_scene_with(&source, &Source::read)?;
    Ok(Loaded { scene: Arc::new(scene), source, scripts, playtest: None })
}

impl Loaded {
    /// A play of the scene, with its scripts.
    ///
    /// # Panics
    /// Never: its scripts have been checked against it.
    pub fn play(&self) -> Play {
        play_of(&self.scene, &self.scripts)
    }
}

/// A play of a scene, with the scripts that were checked against it.
pub(crate) fn play_of(scene: &Arc<Scene>, scripts: &Scripts) -> Play {
    let mut play = Play::new(scene.clone());
    scripts.attach(&mut play).expect("scripts are checked against their scene");
    play
}

/// Reads a scene.
///
/// # Errors
/// Everything that is wrong with it: at least one finding.
pub fn load_scene(path: &Path) -> Result<Scene, Vec<Finding>> {
    let source = Source::read(path).map_err(|finding| vec![finding])?;
    read_scene(&source)
}

fn playtest_of(playtest: &Source) -> Result<Loaded, Vec<Finding>> {
    let path = playtest::scene_path(playtest).map_err(|finding| vec![finding])?;
    let source = Source::read(&path).map_err(|finding| {
        let message = format!("the scene of this playtest: {}", finding.message());
        let span = playtest::scene_span(playtest);
        let finding = Finding::new(Severity::Error, finding.code(), message).at(playtest, span);
        vec![finding.with_help("`scene` is a path from the folder of the playtest")]
    })?;
    let (scene, scripts) = read_scene_with(&source, &Source::read)?;
    let scene = Arc::new(scene);
    let playtest = read_playtest(playtest, scene.clone())?.with_scripts(scripts.clone());
    Ok(Loaded { scene, source, scripts, playtest: Some(playtest) })
}
