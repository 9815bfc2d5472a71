//! From paths on the command line to files.

use std::path::{Path, PathBuf};

use hazuro_format::{Code, FileAccess, Finding, Severity};

/// The files meant: scenes, playtests or both, with those in folders in the order of their names.
pub fn files(paths: &[PathBuf], sorts: &[&str]) -> Result<Vec<PathBuf>, Finding> {
    let mut files = Vec::new();
    for path in paths {
        if !path.is_dir() {
            files.push(path.clone());
            continue;
        }
        let before = files.len();
        collect(path, sorts, &mut files).map_err(|error| {
            let message = format!("`{}` cannot be read: {error}", path.display());
            Finding::new(Severity::Error, Code::Unreadable, message)
        })?;
        if files.len() == before {
            let (what, where_) = (sorts.join(" or "), path.display());
            let message = format!("there is no {what} in `{where_}`");
            let endings: Vec<_> = sorts.iter().map(|sort| format!("`.{sort}.toml`")).collect();
            let help =
                format!("files in a folder end in {} or the same with json", endings.join(", "));
            return Err(Finding::new(Severity::Error, Code::NoPlaytest, message).with_help(help));
        }
        files[before..].sort();
    }
    Ok(files)
}

/// What a file may name: also what lies below a folder that was named on the command line and holds
/// the file.
pub fn access_of(file: &Path, paths: &[PathBuf], access: &FileAccess) -> FileAccess {
    let folders = paths.iter().filter(|path| file != path.as_path() && file.starts_with(path));
    folders.fold(access.clone(), FileAccess::and_below)
}

fn collect(folder: &Path, sorts: &[&str], files: &mut Vec<PathBuf>) -> std::io::Result<()> {
    for entry in std::fs::read_dir(folder)? {
        let entry = entry?;
        let name = entry.file_name();
        let name = name.to_string_lossy();
        // A link to a folder is not followed, so no circle can hold us up.
        if entry.file_type()?.is_dir() {
            collect(&entry.path(), sorts, files)?;
        } else if ends(&name, sorts) {
            files.push(entry.path());
        }
    }
    Ok(())
}

/// Whether a name ends as files of one of these sorts do.
fn ends(name: &str, sorts: &[&str]) -> bool {
    let name = name.strip_suffix(".toml").or(name.strip_suffix(".json"));
    name.and_then(|name| name.rsplit_once('.')).is_some_and(|(_, sort)| sorts.contains(&sort))
}
