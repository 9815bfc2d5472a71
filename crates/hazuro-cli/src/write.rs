//! Files that commands write: complete, or not at all, and never over what was read.

use std::fs::{self, File};
use std::io::{self, BufWriter, Write};
use std::path::{Path, PathBuf};

use hazuro_format::{Code, Finding, Severity};

/// Writes a file. What was there is replaced once the new file is complete; if anything goes wrong,
/// it stays as it was. `inputs` are the files that the same command has read.
///
/// # Errors
/// If it is one of the inputs, is no regular file, or cannot be written.
pub fn write(
    path: &Path,
    inputs: &[PathBuf],
    content: impl FnOnce(&mut dyn Write) -> io::Result<()>,
) -> Result<(), Finding> {
    let unwritable = |error: &io::Error| {
        let message = format!("`{}` cannot be written: {error}", path.display());
        Finding::new(Severity::Error, Code::Unwritable, message)
    };
    // Where a link leads to is written, not over the link.
    let target = path.canonicalize().unwrap_or_else(|_| path.to_owned());
    if inputs.iter().any(|input| input.canonicalize().is_ok_and(|input| input == target)) {
        let message = format!("`{}` is read by this command", path.display());
        let finding = Finding::new(Severity::Error, Code::OverInput, message);
        return Err(finding.with_help("write to another file"));
    }
    let before = target.metadata().ok();
    if before.as_ref().is_some_and(|before| !before.is_file()) {
        let message = format!("`{}` is a folder, a pipe or a device, not a file", path.display());
        let finding = Finding::new(Severity::Error, Code::NoRegularFile, message);
        return Err(finding.with_help("name a file"));
    }
    let mut name = target.file_name().unwrap_or_default().to_owned();
    name.push(format!(".{}.part", std::process::id()));
    let part = target.with_file_name(name);
    let written = (|| {
        let mut file = BufWriter::new(File::create(&part)?);
        content(&mut file)?;
        let file = file.into_inner().map_err(io::IntoInnerError::into_error)?;
        if let Some(before) = before {
            file.set_permissions(before.permissions())?;
        }
        file.sync_all()?;
        fs::rename(&part, &target)
    })();
    written.map_err(|error| {
        // It is incomplete; if it cannot be taken away either, the first error says more.
        let _ = fs::remove_file(&part);
        unwritable(&error)
    })
}

/// As [`write()`], of a text.
///
/// # Errors
/// As [`write()`].
pub fn write_text(path: &Path, inputs: &[PathBuf], text: &str) -> Result<(), Finding> {
    write(path, inputs, |file| file.write_all(text.as_bytes()))
}
