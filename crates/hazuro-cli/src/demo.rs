//! `hazuro demo`: plays the shipped demo and shows what it detected.

use std::path::Path;
use std::sync::Arc;

use hazuro_files::{Finding, Source, read_playtest, read_scene_with, run_playtest};

use crate::Ending;
use crate::output::{Table, report, say};

const SCENE: &str = include_str!("../../../demo/tidemill/tidemill.scene.toml");
const SCRIPT: &str = include_str!("../../../demo/tidemill/mill.rhai");
/// What is played: its title, its file, and the text of that.
const PLAYS: [(&str, &str, &str); 4] = [
    (
        "The sluice gate opens when a player steps on its pad, and shuts two seconds after the last\n\
         player has left. A heron starts on the pad: it must not count.",
        "demo/tidemill/gate.playtest.toml",
        include_str!("../../../demo/tidemill/gate.playtest.toml"),
    ),
    (
        "In the yard: a bell to click, a brake to drag, a lever to hold, a toll nobody can pay, a\n\
         loose plank, an owl that watches and a weathercock that turns to the nearest sack.",
        "demo/tidemill/yard.playtest.toml",
        include_str!("../../../demo/tidemill/yard.playtest.toml"),
    ),
    (
        "In the mill: four tokens pay the toll, broth makes fast, dust hurts and herbs heal, a\n\
         millstone is lifted after some training, reeds are cut once the sickle is in hand.",
        "demo/tidemill/mill.playtest.toml",
        include_str!("../../../demo/tidemill/mill.playtest.toml"),
    ),
    (
        "At the granary: a hoist is ridden, a sack carried through a hatch and thrown down the chute,\n\
         a ladder climbed, a jump measured, and what drifts on the creek is topped up to nine.",
        "demo/tidemill/granary.playtest.toml",
        include_str!("../../../demo/tidemill/granary.playtest.toml"),
    ),
];

/// Plays the tide mill.
pub fn demo() -> Ending {
    match play() {
        Ok(ending) => ending,
        Err(findings) => report(&findings),
    }
}

fn play() -> Result<Ending, Vec<Finding>> {
    let scene = Source::new("demo/tidemill/tidemill.scene.toml", SCENE);
    let script = |path: &Path| Ok(Source::new(path.to_string_lossy(), SCRIPT));
    let (scene, scripts) = read_scene_with(&scene, &script)?;
    let scene = Arc::new(scene);
    let table = Table::new(&scene);
    let (mut met, mut all) = (0, 0);
    for (title, name, text) in PLAYS {
        let playtest = read_playtest(&Source::new(name, text), scene.clone())?;
        let playtest = playtest.with_scripts(scripts.clone());
        let outcome = run_playtest(&playtest, None);
        say!("{title}\n");
        say!("{}", table.head());
        for line in table.lines(&scene, playtest.tape(), &outcome.entries) {
            say!("{line}");
        }
        say!("");
        met += outcome.outcomes.iter().filter(|outcome| outcome.met).count();
        all += outcome.outcomes.len();
    }
    say!("{met} of {all} expectations met. The scene and the playtests are in demo/tidemill/;");
    say!("`hazuro test demo/tidemill` runs them, `hazuro run SCENE` plays a scene of your own.");
    Ok(if met == all { Ending::Fine } else { Ending::Findings })
}
