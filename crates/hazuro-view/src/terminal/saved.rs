//! Whether the files of a play have been saved since they were read.

use std::path::{Path, PathBuf};
use std::time::SystemTime;

use hazuro_verify::Loaded;

/// The files that a play was read from, and when each was last written.
#[derive(Debug)]
pub(super) struct Saved(Vec<(PathBuf, Option<SystemTime>)>);

fn written(path: &Path) -> Option<SystemTime> {
    path.metadata().and_then(|metadata| metadata.modified()).ok()
}

impl Saved {
    /// Those of what was loaded from a path: playtest, scene and scripts.
    pub fn of(path: &Path, loaded: &Loaded) -> Self {
        let mut files = vec![path.to_owned()];
        files.extend(loaded.files());
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
