//! Scenes with their conditions and scripts.

use std::path::Path;

use hazuro::Scene;
use hazuro::scene::{Condition, Formula};
use hazuro_format::{
    BadExpression, FileAccess, Finding, Known, Language, Provided, Source, folder_of,
};

use crate::expression;
use crate::script::{Script, Scripts, parse};

/// The language of this crate, with the scripts of the scene that is being read.
#[derive(Debug, Default)]
struct Reading {
    parsed: Vec<Script>,
    scripts: Scripts,
}

impl Language for Reading {
    fn condition(&self, text: &str, known: &Known) -> Result<Condition, BadExpression> {
        expression::condition(text, known)
    }

    fn admission(&self, text: &str, known: &Known) -> Result<Condition, BadExpression> {
        expression::admission(text, known)
    }

    fn formula(&self, text: &str, known: &Known) -> Result<Formula, BadExpression> {
        expression::formula(text, known)
    }

    fn scripts(&mut self, sources: Vec<Source>) -> Result<Provided, Vec<Finding>> {
        self.parsed = parse(sources)?;
        let mut provided = Provided::default();
        for script in &self.parsed {
            script.provide(&mut provided);
        }
        Ok(provided)
    }

    fn complete(&mut self, scene: &Scene) -> Result<(), Vec<Finding>> {
        self.scripts = Scripts::of(std::mem::take(&mut self.parsed), scene)?;
        Ok(())
    }
}

/// Reads a scene, and the scripts it names from their files below its folder.
///
/// # Errors
/// Everything that is wrong with it, in the order of the text: at least one finding, all of
/// severity error.
pub fn read_scene(source: &Source) -> Result<Scene, Vec<Finding>> {
    let folder = folder_of(Path::new(source.name()));
    let read = |path: &Path| FileAccess::default().read(folder, path);
    read_scene_with(source, &read).map(|(scene, _)| scene)
}

/// Reads a scene and the scripts it names, which `file` reads from their paths.
///
/// # Errors
/// Everything that is wrong with them, the scripts first: at least one finding, all of severity
/// error.
pub fn read_scene_with(
    source: &Source,
    file: &dyn Fn(&Path) -> Result<Source, Finding>,
) -> Result<(Scene, Scripts), Vec<Finding>> {
    let mut reading = Reading::default();
    let scene = hazuro_format::read_scene_with(source, &mut reading, file)?;
    Ok((scene, reading.scripts))
}
