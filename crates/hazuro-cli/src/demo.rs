//! `hazuro demo`: plays the shipped demo and shows what it detected.

use std::sync::Arc;

use hazuro_files::{Finding, Source, read_playtest, read_scene, run_playtest};

use crate::Ending;
use crate::output::{Table, report, say};

const SCENE: &str = include_str!("../../../demo/tidemill/tidemill.scene.toml");
const PLAYTEST: &str = include_str!("../../../demo/tidemill/gate.playtest.toml");

/// Plays the sluice gate of the tide mill.
pub fn demo() -> Ending {
    match play() {
        Ok(ending) => ending,
        Err(findings) => report(&findings),
    }
}

fn play() -> Result<Ending, Vec<Finding>> {
    let scene = Source::new("demo/tidemill/tidemill.scene.toml", SCENE);
    let scene = Arc::new(read_scene(&scene)?);
    let source = Source::new("demo/tidemill/gate.playtest.toml", PLAYTEST);
    let playtest = read_playtest(&source, scene.clone())?;
    let outcome = run_playtest(&playtest, None);

    say!("The sluice gate of a tide mill opens when a player steps on its pad, and shuts two");
    say!("seconds after the last player has left. A heron starts on the pad: it must not count.\n");
    let table = Table::new(&scene);
    say!("{}", table.head());
    for line in table.lines(&scene, playtest.tape(), &outcome.entries) {
        say!("{line}");
    }
    let met = outcome.outcomes.iter().filter(|outcome| outcome.met).count();
    say!(
        "\n{met} of {} expectations met. The scene and the playtest are in demo/tidemill/;",
        outcome.outcomes.len()
    );
    say!("`hazuro test demo/tidemill` runs them, `hazuro run SCENE` plays a scene of your own.");
    Ok(if outcome.passed() { Ending::Fine } else { Ending::Findings })
}
