//! From a path to a scene or playtest.

use std::path::Path;
use std::sync::Arc;

use hazuro::Scene;

use crate::finding::{Finding, Severity};
use crate::playtest::{self, Playtest, is_playtest, read_playtest};
use crate::scene_read::read_scene;
use crate::source::Source;

/// A scene, or a playtest with its scene.
#[derive(Debug)]
pub struct Loaded {
    /// The scene.
    pub scene: Arc<Scene>,
    /// The text of the scene.
    pub source: Source,
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
    let scene = Arc::new(read_scene(&source)?);
    Ok(Loaded { scene, source, playtest: None })
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
    let scene = Arc::new(read_scene(&source)?);
    let playtest = Some(read_playtest(playtest, scene.clone())?);
    Ok(Loaded { scene, source, playtest })
}
