//! What the tests of files share.
#![allow(dead_code, reason = "each test file uses its own share")]

use std::sync::Arc;

use hazuro::Scene;
use hazuro_format::{Finding, Source};
use hazuro_script::read_scene;

/// Two people, of whom one plays, and a floor.
pub const PEOPLE: &str = r#"
[kind.person]
tags = ["person"]
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 2 }

[[entity]]
name = "miller"
kind = "person"
player = true
at = [0, 0, 6]

[[entity]]
name = "heron"
tags = ["bird"]
at = [9, 0, 6]
body = { sphere = { radius = 0.3 } }
"#;

/// A scene with them in it.
pub fn scene(text: &str) -> Arc<Scene> {
    let source = Source::new("yard.scene.toml", format!("{PEOPLE}{text}"));
    Arc::new(read_scene(&source).unwrap_or_else(|found| panic!("{found:#?}")))
}

/// A finding as `line:column code message / help`.
pub fn told(finding: &Finding) -> String {
    let place = finding.place().unwrap_or_default();
    let place = place.split_once(':').map_or("", |(_, place)| place);
    let help = finding.help().map_or(String::new(), |help| format!(" / {help}"));
    format!("{place} {} {}{help}", finding.code(), finding.message())
}
