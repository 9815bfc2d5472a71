//! What the tests of the command share.
#![allow(dead_code, reason = "each test file uses its own share")]

pub mod browser;
pub mod hosting;

use std::path::PathBuf;
use std::process::{Command, Output};

/// The demo's folder.
pub const DEMO: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/tidemill");

pub fn hazuro(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_hazuro")).args(arguments).output().expect("it runs")
}

pub fn demo(name: &str) -> String {
    format!("{DEMO}/{name}")
}

pub fn stdout(output: &Output) -> String {
    String::from_utf8(output.stdout.clone()).expect("UTF-8")
}

pub fn stderr(output: &Output) -> String {
    String::from_utf8(output.stderr.clone()).expect("UTF-8")
}

/// A folder of its own for one test, gone when the test is over.
pub struct Folder(pub PathBuf);

impl Folder {
    pub fn new(name: &str) -> Self {
        let path = std::env::temp_dir().join(format!("hazuro-{name}-{}", std::process::id()));
        std::fs::create_dir_all(&path).expect("a folder");
        Self(path)
    }

    pub fn write(&self, name: &str, text: &str) -> String {
        let path = self.0.join(name);
        std::fs::write(&path, text).expect("a file");
        path.display().to_string()
    }
}

impl Drop for Folder {
    fn drop(&mut self) {
        let _ = std::fs::remove_dir_all(&self.0);
    }
}
