//! From a path to a scene or playtest.

use std::path::{Path, PathBuf};
use std::sync::Arc;

use hazuro::{Play, Scene};
use hazuro_format::{Code, FileAccess, Finding, Severity, Source, folder_of};
use hazuro_script::{Scripts, read_scene, read_scene_with};

use crate::playtest::{self, Playtest, is_playtest, read_playtest};
use crate::tape::play_of;

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

/// Reads a scene or a playtest, whichever the file holds. What they name lies below their folders.
///
/// # Errors
/// Everything that is wrong with it or its scene: at least one finding.
pub fn load(path: &Path) -> Result<Loaded, Vec<Finding>> {
    load_with(path, &FileAccess::default())
}

/// As [`load`], with files elsewhere, too, where they are allowed.
///
/// # Errors
/// Everything that is wrong with it or its scene: at least one finding.
pub fn load_with(path: &Path, access: &FileAccess) -> Result<Loaded, Vec<Finding>> {
    let source = Source::read(path).map_err(|finding| vec![finding])?;
    if is_playtest(&source) {
        return playtest_of(&source, access);
    }
    let (scene, scripts) = scene_of(&source, access)?;
    Ok(Loaded { scene: Arc::new(scene), source, scripts, playtest: None })
}

/// Reads a scene with its scripts.
fn scene_of(source: &Source, access: &FileAccess) -> Result<(Scene, Scripts), Vec<Finding>> {
    let folder = folder_of(Path::new(source.name()));
    read_scene_with(source, &|path| access.read(folder, path))
}

impl Loaded {
    /// All files it was read from: the playtest if it is one, the scene, its scripts.
    pub fn files(&self) -> Vec<PathBuf> {
        let folder = folder_of(Path::new(self.source.name()));
        let scripts = self.scene.scripts().iter().map(|script| folder.join(script));
        let playtest = self.playtest.as_ref().map(|playtest| playtest.source().name());
        let named = playtest.into_iter().chain([self.source.name()]).map(PathBuf::from);
        named.chain(scripts).collect()
    }

    /// A play of the scene, with its scripts.
    ///
    /// # Panics
    /// Never: its scripts have been checked against it.
    pub fn play(&self) -> Play {
        play_of(&self.scene, &self.scripts)
    }
}

/// Reads a scene.
///
/// # Errors
/// Everything that is wrong with it: at least one finding.
pub fn load_scene(path: &Path) -> Result<Scene, Vec<Finding>> {
    let source = Source::read(path).map_err(|finding| vec![finding])?;
    read_scene(&source)
}

fn playtest_of(playtest: &Source, access: &FileAccess) -> Result<Loaded, Vec<Finding>> {
    let path = playtest::scene_path(playtest).map_err(|finding| vec![finding])?;
    let folder = folder_of(Path::new(playtest.name()));
    let source = access.read(folder, &path).map_err(|finding| {
        let message = format!("the scene of this playtest: {}", finding.message());
        let span = playtest::span_of(playtest, "scene");
        let help = finding.help().filter(|_| finding.code() == Code::Outside);
        let help = help.unwrap_or("`scene` is a path from the folder of the playtest").to_owned();
        let finding = Finding::new(Severity::Error, finding.code(), message).at(playtest, span);
        vec![finding.with_help(help)]
    })?;
    let (scene, scripts) = scene_of(&source, access)?;
    let scene = Arc::new(scene);
    let read = read_playtest(playtest, scene.clone())?;
    let read = read.with_scripts(scripts.clone()).with_scene_source(source.clone());
    if let Some(log) = read.log() {
        let span = playtest::span_of(playtest, "log");
        access.check(folder, log).map_err(|finding| vec![finding.at(playtest, span)])?;
    }
    Ok(Loaded { scene, source, scripts, playtest: Some(read) })
}
