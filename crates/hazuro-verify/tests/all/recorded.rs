//! What was played, written as a playtest, does and gives the same again.

use std::path::Path;

use hazuro::scene::{Action, EventKind, Limits, Switch, Throw};
use hazuro::{Button, Input, Spot, Target, Time};
use hazuro_format::Source;
use hazuro_verify::{load, read_playtest, run_playtest, write_playtest};
use proptest::prelude::*;

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
    let scene = hazuro_script::read_scene(&Source::new(
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
        (at, Input::Act(Action::Cue { name: "say \"hi\"".into(), on: None, who: None })),
    ];
    play.advance(Time::from_secs(1.0));
    let text = write_playtest("a folder/odd.toml", &play, &tape, &[]);
    assert!(text.contains("# at 0.25: ") && text.contains("(no tape can do that)"), "{text}");
    let again = read_playtest(&Source::new("odd.playtest.toml", text), scene).unwrap();
    assert_eq!(again.tape(), [tape[0].clone(), tape[2].clone()]);
    assert_eq!(again.length(), Time::from_secs(1.0));
}

/// A yard in which everything can be done that a tape can do.
const YARD: &str = r#"
[[entity]]
name = "miller"
player = true
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 3.0, jump = 1.0 }

[[entity]]
name = "eye"
parent = "miller"
camera = {}

[[entity]]
name = "mate"
at = [3, 0, 0]
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 2.0 }

[[entity]]
name = "pad"
at = [0, 1, -3]
zone = { box = [2, 2, 2] }

[[entity]]
name = "lever"
at = [1, 1, 0]
prompt = { caption = "Pull" }

[[entity]]
name = "sack"
at = [-1, 0.3, 0]
body = { box = [0.4, 0.6, 0.4] }
carry = {}
"#;

fn inputs() -> impl Strategy<Value = Vec<(u32, u8, [f64; 3])>> {
    prop::collection::vec((0_u32..3000, 0_u8..19, [-9.0..9.0, 0.0..3.0, -9.0..9.0_f64]), 0..20)
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 64, ..ProptestConfig::default() })]

    /// Whatever is done is read again as it was, and the same comes of it.
    #[test]
    fn whatever_a_tape_can_do_is_written_and_read_again(inputs in inputs()) {
        let scene = std::sync::Arc::new(hazuro_script::read_scene(&Source::new("yard.toml", YARD)).unwrap());
        let find = |name: &str| scene.find(name).unwrap();
        let [who, mate, pad, lever, sack] = ["miller", "mate", "pad", "lever", "sack"].map(find);
        let mut tape: Vec<(Time, Input)> = inputs
            .into_iter()
            .map(|(millis, sort, place)| {
                let time = Time::from_secs(f64::from(millis) / 1e3);
                let to = || Target::from(place);
                let input = match sort {
                    0 => Input::Walk { who, to: to() },
                    1 => Input::Walk { who: mate, to: pad.into() },
                    2 => Input::WalkAlong { who, through: vec![to(), pad.into()] },
                    3 => Input::Follow { who: mate, whom: who, near: place[1] },
                    4 => Input::Drive { who: mate, to: to(), until: time + Time::from_secs(place[1]) },
                    5 => Input::Place { who, at: to() },
                    6 => Input::Face { who, to: to() },
                    7 => Input::Press { who, key: "KeyE".into() },
                    8 => Input::Release { who, key: "KeyE".into() },
                    9 => Input::Interact { who, with: lever },
                    10 => Input::Point { who, at: Spot::from([place[0].abs(), place[1]]), button: Button::Down },
                    11 => Input::Point { who, at: Spot::Entity(lever), button: Button::Up },
                    12 => Input::Act(Action::Jump(who)),
                    13 => Input::Act(Action::Halt(mate)),
                    14 => Input::Act(Action::Grab { what: sack, to: who }),
                    15 => Input::Act(Action::Drop(who)),
                    16 => Input::Act(Action::Throw(Throw { what: who, velocity: place, spin: 0.0 })),
                    17 => Input::Act(Action::Send { event: EventKind::Exit, on: pad, who: Some(who) }),
                    _ => Input::Act(Action::Switch { what: pad, switch: Switch::Enabled, to: Some(place[0] > 0.0) }),
                };
                (time, input)
            })
            .collect();
        tape.sort_by_key(|(time, _)| *time);
        let mut play = hazuro::Play::new(scene.clone());
        for (time, input) in &tape {
            play.schedule(*time, input.clone()).unwrap();
        }
        let entries = play.advance(Time::from_secs(4.0)).to_vec();
        let text = write_playtest("yard.toml", &play, &tape, &entries);
        let again = read_playtest(&Source::new("again.playtest.toml", text), scene.clone()).unwrap();
        prop_assert_eq!(again.tape(), &tape[..]);
        let report = run_playtest(&again, None);
        prop_assert_eq!(&report.entries, &entries);
        prop_assert!(report.passed(), "{:?}", report.outcomes);
    }
}
