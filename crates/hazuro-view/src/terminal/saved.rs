//! Whether the files of a play have been saved since they were read.

use std::path::{Path, PathBuf};
use std::time::SystemTime;

use hazuro_files::Loaded;

/// The files that a play was read from, and when each was last written.
#[derive(Debug)]
pub(super) struct Saved(Vec<(PathBuf, Option<SystemTime>)>);

fn written(path: &Path) -> Option<SystemTime> {
    path.metadata().and_then(|metadata| metadata.modified()).ok()
}

impl Saved {
    /// Those of what was loaded from a path: playtest, scene and scripts.
    pub fn of(path: &Path, loaded: &Loaded) -> Self {
        let scene = PathBuf::from(loaded.source.name());
        let folder = scene.parent().unwrap_or(Path::new("")).to_owned();
        let scripts = loaded.scene.scripts().iter().map(|script| folder.join(script));
        let mut files: Vec<PathBuf> = [path.to_owned(), scene].into_iter().chain(scripts).collect();
        files.dedup();
        Self(files.into_iter().map(|file| (file.clone(), written(&file))).collect())
    }

    /// Whether one has been written since this was last asked. A file that is not there, as between
    /// two halves of saving, has not.
    pub fn has_changed(&mut self) -> bool {
        let mut changed = false;
        for (file, known) in &mut self.0 {
            let now = written(file);
            if now.is_some() && now != *known {
                *known = now;
                changed = true;
            }
        }
        changed
    }
}

/// A path as a file would have to name it.
pub(super) fn path_from(file: &Path, path: &Path) -> String {
    let whole = |path: &Path| std::path::absolute(path).unwrap_or_else(|_| path.to_owned());
    // A bare name lies in the folder where everything is, which has no name of its own.
    let folder = file.parent().filter(|folder| !folder.as_os_str().is_empty());
    let (folder, path) = (whole(folder.unwrap_or(Path::new("."))), whole(path));
    let mut up = PathBuf::new();
    let mut base = folder.as_path();
    loop {
        if let Ok(rest) = path.strip_prefix(base) {
            let found = up.join(rest);
            return found.to_string_lossy().replace('\\', "/");
        }
        match base.parent() {
            Some(parent) => {
                up.push("..");
                base = parent;
            }
            None => return path.to_string_lossy().into_owned(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_scene_is_named_from_the_folder_of_the_playtest() {
        let from = |file: &str, path: &str| path_from(Path::new(file), Path::new(path));
        assert_eq!(from("found.playtest.toml", "yard.toml"), "yard.toml");
        assert_eq!(from("found/a.playtest.toml", "yard.toml"), "../yard.toml");
        assert_eq!(from("a/b/c.playtest.toml", "a/d/yard.toml"), "../d/yard.toml");
        assert_eq!(from("/mill/c.playtest.toml", "/mill/scenes/yard.toml"), "scenes/yard.toml");
        assert_eq!(from("/one/c.playtest.toml", "/other/yard.toml"), "../other/yard.toml");
    }
}
