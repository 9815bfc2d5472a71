//! Reading files, and where files may lie that are named in other files: below the folder of the file
//! that names them, unless somebody allows more. A scene from elsewhere must not be able to show, or to
//! overwrite, what is none of its business.

use std::fs::File;
use std::io::{ErrorKind, Read};
use std::path::{Component, Path, PathBuf};

use crate::code::Code;
use crate::finding::{Finding, Severity};
use crate::source::Source;

/// The largest file that is read, in bytes.
const MAX_BYTES: u64 = 16 * 1024 * 1024;
/// The largest log that is read, in bytes.
const MAX_LOG_BYTES: u64 = 1024 * 1024 * 1024;

/// Which files other files may name.
///
/// ```
/// use std::path::Path;
/// use hazuro_format::FileAccess;
/// let access = FileAccess::default();
/// assert!(access.check(Path::new("mill"), Path::new("mill/scripts/mill.rhai")).is_ok());
/// assert!(access.check(Path::new("mill"), Path::new("mill/../letters.txt")).is_err());
/// assert!(FileAccess::below(".").check(Path::new("mill"), Path::new("mill/../b.rhai")).is_ok());
/// ```
#[derive(Clone, Debug, Default)]
pub struct FileAccess {
    roots: Vec<PathBuf>,
}

impl FileAccess {
    /// All files below a folder, whichever file names them, beside those below its own folder.
    pub fn below(root: impl Into<PathBuf>) -> Self {
        Self::default().and_below(root)
    }

    /// And all files below another folder.
    #[must_use]
    pub fn and_below(mut self, root: impl Into<PathBuf>) -> Self {
        self.roots.push(root.into());
        self
    }

    /// Whether a file in `folder` may name the one at `path`.
    ///
    /// # Errors
    /// If that lies elsewhere, or is a link to something elsewhere.
    pub fn check(&self, folder: &Path, path: &Path) -> Result<(), Finding> {
        let within = |root: &Path| {
            if !plain(path).starts_with(plain(root)) {
                return false;
            }
            // What is not there yet is no link, but the folder it lies in may be one.
            let there = path.ancestors().find_map(|part| {
                let part = if part.as_os_str().is_empty() { Path::new(".") } else { part };
                part.canonicalize().ok()
            });
            match (there, plain(root).canonicalize()) {
                (Some(there), Ok(root)) => there.starts_with(root),
                _ => true,
            }
        };
        if within(folder) || self.roots.iter().any(|root| within(root)) {
            return Ok(());
        }
        let message = format!("`{}` lies outside of the folder of this file", path.display());
        Err(Finding::new(Severity::Error, Code::Outside, message)
            .with_help("move it there, or allow more with --root FOLDER"))
    }

    /// Reads a file that a file in `folder` names.
    ///
    /// # Errors
    /// If it may not be named there, or cannot be read.
    pub fn read(&self, folder: &Path, path: &Path) -> Result<Source, Finding> {
        self.check(folder, path)?;
        Source::read(path)
    }
}

impl Source {
    /// Reads a file.
    ///
    /// # Errors
    /// If it does not exist, is no regular file, is larger than 16 MB, or is not UTF-8.
    pub fn read(path: &Path) -> Result<Self, Finding> {
        Self::read_up_to(path, MAX_BYTES)
    }

    /// As [`read`](Self::read), of a log, which may be larger: up to 1 GB.
    ///
    /// # Errors
    /// As [`read`](Self::read).
    pub fn read_log(path: &Path) -> Result<Self, Finding> {
        Self::read_up_to(path, MAX_LOG_BYTES)
    }

    fn read_up_to(path: &Path, most: u64) -> Result<Self, Finding> {
        let name = path.display().to_string();
        let error = |code, message: String| Finding::new(Severity::Error, code, message);
        let unreadable = |error: &std::io::Error| match error.kind() {
            ErrorKind::NotFound => Finding::new(
                Severity::Error,
                Code::NoSuchFile,
                format!("there is no file `{name}`"),
            )
            .with_help("check the path; it is taken from the current directory"),
            _ => Finding::new(
                Severity::Error,
                Code::Unreadable,
                format!("`{name}` cannot be read: {error}"),
            ),
        };
        // Asked before it is opened: opening a pipe waits for whoever writes to it.
        let metadata = path.metadata().map_err(|error| unreadable(&error))?;
        if metadata.is_dir() {
            let message = format!("`{name}` is a directory, not a scene or playtest");
            return Err(error(Code::Directory, message).with_help("name a file in it"));
        }
        if !metadata.is_file() {
            let message = format!("`{name}` is a pipe, a device or the like, not a file");
            return Err(error(Code::NoRegularFile, message).with_help("write to a file first"));
        }
        if metadata.len() > most {
            return Err(too_large(&name, metadata.len(), most));
        }
        let file = File::open(path).map_err(|error| unreadable(&error))?;
        let mut bytes = Vec::new();
        file.take(most + 1).read_to_end(&mut bytes).map_err(|error| unreadable(&error))?;
        if bytes.len() as u64 > most {
            return Err(too_large(&name, bytes.len() as u64, most));
        }
        let text = String::from_utf8(bytes).map_err(|bad| {
            let upto = bad.utf8_error().valid_up_to();
            let line = bad.as_bytes()[..upto].split(|byte| *byte == b'\n').count();
            error(Code::NotUtf8, format!("`{name}` is not UTF-8 text: line {line}, byte {upto}"))
                .with_help("save it as UTF-8")
        })?;
        Ok(Self::new(name, text))
    }
}

fn too_large(name: &str, bytes: u64, most: u64) -> Finding {
    let megabytes = |bytes: u64| bytes.div_ceil(1024 * 1024);
    let (most, size) = (megabytes(most), megabytes(bytes));
    let message = format!("`{name}` is larger than {most} MB: it has {size} MB");
    Finding::new(Severity::Error, Code::TooLarge, message)
        .with_help("is it a scene or playtest at all?")
}

/// A path from the root of all, without `.` and `..`, whether it exists or not.
fn plain(path: &Path) -> PathBuf {
    let path = if path.as_os_str().is_empty() { Path::new(".") } else { path };
    let mut plain = PathBuf::new();
    for part in std::path::absolute(path).unwrap_or_else(|_| path.to_owned()).components() {
        match part {
            Component::CurDir => {}
            Component::ParentDir => {
                plain.pop();
            }
            part => plain.push(part),
        }
    }
    plain
}

/// The folder a file lies in.
pub fn folder_of(file: &Path) -> &Path {
    file.parent().unwrap_or(Path::new(""))
}

/// A path as a file would have to name it.
pub fn path_from(file: &Path, path: &Path) -> String {
    let (folder, path) = (plain(folder_of(file)), plain(path));
    let mut up = PathBuf::new();
    let mut base = folder.as_path();
    loop {
        if let Ok(rest) = path.strip_prefix(base) {
            return up.join(rest).to_string_lossy().replace('\\', "/");
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

    #[test]
    fn only_what_lies_below_may_be_named() {
        let may = |folder: &str, path: &str| {
            FileAccess::default().check(Path::new(folder), Path::new(path)).is_ok()
        };
        assert!(may("", "mill.rhai") && may("", "scripts/mill.rhai") && may("mill", "mill/a/../b"));
        assert!(!may("", "../mill.rhai") && !may("mill", "/etc/hosts") && !may("mill", "mills/a"));
    }
}
