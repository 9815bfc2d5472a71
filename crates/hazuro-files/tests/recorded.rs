//! What was played, written as a playtest, does and gives the same again.

use std::path::Path;

use hazuro::scene::{Action, Limits};
use hazuro::{Input, Time};
use hazuro_files::{Source, load, read_playtest, run_playtest, write_playtest};

const DEMO: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/tidemill/");

#[test]
fn each_tape_of_the_demo_is_written_as_it_was_read() {
    for name in ["gate", "yard", "mill", "granary"] {
        let loaded = load(Path::new(&format!("{DEMO}{name}.playtest.toml"))).unwrap();
        let playtest = loaded.playtest.as_ref().unwrap();
        let mut play = playtest.play();
        let entries = play.advance(playtest.length()).to_vec();
        let text = write_playtest("tidemill.scene.toml", &play, playtest.tape(), &entries);
        let source = Source::new("again.playtest.toml", text);
        let again = read_playtest(&source, loaded.scene.clone()).unwrap();
        let again = again.with_scripts(loaded.scripts.clone());
        assert_eq!(again.tape(), playtest.tape(), "{name}");
        let report = run_playtest(&again, None);
        assert!(report.passed(), "{name}: {:?}", report.outcomes);
        assert_eq!(report.entries, entries);
        assert!(report.outcomes.len() > 5);
    }
}

#[test]
fn names_are_quoted_and_what_no_tape_can_do_is_told() {
    let scene = hazuro_files::read_scene(&Source::new(
        "odd.toml",
        "[[entity]]\nname = 'a \"b\" \\ c'\nplayer = true\nbody = { sphere = { radius = 1 } }\n",
    ))
    .unwrap();
    let scene = std::sync::Arc::new(scene);
    let who = scene.ids().next().unwrap();
    let mut play = hazuro::Play::new(scene.clone());
    let at = Time::from_secs(0.25);
    let tape = [
        (at, Input::Place { who, at: [1.0, -0.5, 1e-7].into() }),
        (at, Input::Limit { what: who, limits: Limits::default() }),
        (at, Input::Act(Action::Cue("say \"hi\"".into()))),
    ];
    play.advance(Time::from_secs(1.0));
    let text = write_playtest("a folder/odd.toml", &play, &tape, &[]);
    assert!(text.contains("# at 0.25: ") && text.contains("(no tape can do that)"), "{text}");
    let again = read_playtest(&Source::new("odd.playtest.toml", text), scene).unwrap();
    assert_eq!(again.tape(), [tape[0].clone(), tape[2].clone()]);
    assert_eq!(again.length(), Time::from_secs(1.0));
}
