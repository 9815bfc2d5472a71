//! Playtests: every verb of a tape, every word of an expectation, and what the log says.

use std::sync::Arc;

use hazuro::{Happening, Play, Scene, Time};
use hazuro_format::{Source, write_log};
use hazuro_script::read_scene;
use hazuro_verify::{Outcome, Playtest, read_playtest, run_playtest};

/// A miller, a cart, a pad with beats and a bell in a corner of the mill's yard.
const YARD: &str = r#"
[scene]
name = "Yard"
rate = 20
seed = 5
counts = { sacks = 3 }

[[entity]]
name = "miller"
tags = ["player"]
at = [0, 0, 6]
body = { capsule = { radius = 0.5, height = 2 }, walk = 2 }

[[entity]]
name = "cart"
at = [9, 0, 0]
body = { parts = [
  { name = "shaft", sphere = { radius = 0.5 }, at = [-1, 0, 0] },
  { name = "bed", box = [1, 1, 1], at = [1, 0, 0], turn = 90 },
] }

[[entity]]
name = "pad"
zone = { box = [3, 4, 3], inside_every = 1 }

[[entity]]
name = "bell"
at = [0, 0, -20]
zone = { cylinder = { radius = 2, height = 4 } }

[[reaction]]
on = { enter = "bell" }
if = 'who.name == "miller" && count.sacks > 0'
cooldown = 3
do = [{ say = "rung" }, { count = "sacks", add = -1 }]

[[reaction]]
on = { cue = "close" }
do = [{ disable = "pad" }, { hide = "bell" }]

[[reaction]]
on = { cue = "open" }
once = true
do = [{ toggle = "pad" }, { show = "bell" }, { count = "sacks", set = 9 }]

[texts]
rung = "{who} rings the {on}."
"#;

fn yard() -> Arc<Scene> {
    Arc::new(
        read_scene(&Source::new("yard.scene.toml", YARD))
            .unwrap_or_else(|found| panic!("{found:?}")),
    )
}

fn playtest(text: &str) -> Playtest {
    let text = format!("scene = \"yard.scene.toml\"\n{text}");
    read_playtest(&Source::new("yard.playtest.toml", text), yard())
        .unwrap_or_else(|found| panic!("{found:?}"))
}

fn outcomes(text: &str) -> Vec<Outcome> {
    run_playtest(&playtest(text), None).outcomes
}

/// Asserts that each expectation has this outcome.
#[track_caller]
fn judged(tape: &str, expectations: &[(&str, bool)]) {
    let list: Vec<&str> = expectations.iter().map(|(text, _)| *text).collect();
    let text = format!("seconds = 12\ntape = [{tape}]\nexpect = [\n{}\n]", list.join(",\n"));
    for (outcome, (text, met)) in outcomes(&text).iter().zip(expectations) {
        assert_eq!(outcome.met, *met, "{text}: {}", outcome.seen);
    }
}

#[test]
fn a_tape_walks_drives_places_faces_and_cues() {
    let text = "seconds = 12\ntape = [
      { at = 0, who = \"miller\", walk_to = \"pad\" },
      { at = 1, who = \"cart\", drive_to = [9, 0, 9], over = 3 },
      { at = 5, who = \"miller\", place_at = [0, 0, -20] },
      { at = 6, who = \"cart\", face = \"bell\" },
      { at = 7, cue = \"close\" },
    ]";
    let playtest = playtest(text);
    let mut play = Play::new(playtest.scene().clone());
    playtest.start(&mut play);
    play.advance(Time::from_secs(1.0));
    assert!((play.pose("miller").unwrap().position.z - 4.0).abs() < 1e-9, "two metres a second");
    play.advance(Time::from_secs(2.5));
    assert!((play.pose("cart").unwrap().position.z - 4.5).abs() < 1e-9, "halfway");
    play.advance(Time::from_secs(5.5));
    assert!((play.pose("miller").unwrap().position.z + 20.0).abs() < 1e-9);
    let entries = play.advance(Time::from_secs(12.0)).to_vec();
    let facing = play.pose("cart").unwrap().rotation * hazuro::glam::DVec3::NEG_Z;
    let wanted = hazuro::glam::DVec3::new(-9.0, 0.0, -29.0).normalize();
    assert!(facing.distance(wanted) < 1e-9, "{facing}");
    assert!(
        entries
            .iter()
            .any(|entry| entry.event().is_some_and(|event| event.cue.as_deref() == Some("close")))
    );
}

const VISIT: &str = r#"
  { at = 0.0, who = "miller", walk_to = "pad" },
  { at = 5.5, who = "miller", walk_to = [0, 0, -8] },
  { at = 6.0, cue = "close" },
  { at = 8.0, cue = "open" },
"#;

#[test]
fn expectations_about_events() {
    // In at 2 s (6 m to 2 m at 2 m/s), out when the pad is closed at 6 s; beats at 3, 4 and 5 s.
    judged(
        VISIT,
        &[
            (r#"{ event = "enter", on = "pad" }"#, true),
            (r#"{ event = "enter", on = "pad", by = 2.0 }"#, true),
            (r#"{ event = "enter", on = "pad", by = 1.999 }"#, false),
            (r#"{ event = "enter", on = "pad", after = 2.0 }"#, true),
            (r#"{ event = "enter", on = "pad", after = 2.1 }"#, false),
            (r#"{ event = "enter", on = "pad", who = "cart" }"#, false),
            (r#"{ event = "enter", who = "cart", never = true }"#, true),
            (r#"{ event = "inside", on = "pad", times = 3 }"#, true),
            (r#"{ event = "inside", on = "pad", times = 4 }"#, false),
            (r#"{ event = "inside", never = true }"#, false),
            (r#"{ event = "exit", on = "pad", cause = "disable" }"#, true),
            (r#"{ event = "exit", on = "pad", cause = "move" }"#, false),
            (r#"{ event = "cue", on = "open", times = 1 }"#, true),
            (r#"{ event = "cue", on = "shut" }"#, false),
            (r#"{ event = "start", times = 1 }"#, true),
        ],
    );
}

#[test]
fn expectations_about_values() {
    judged(
        VISIT,
        &[
            ("{ value = \"count.sacks\", is = 3, at = 0 }", true),
            ("{ value = \"count.sacks\", is = 9 }", true),
            ("{ value = \"count.sacks\", is = 9, at = 7.9 }", false),
            ("{ value = \"count.sacks * 2 > 17\", is = true }", true),
            ("{ value = \"time\", is = 4.05, at = 4.05 }", true),
            ("{ value = \"count.sacks\", is = 9.0 }", true),
            ("{ value = \"count.sacks\", is = \"nine\" }", false),
            ("{ value = \"\\\"a\\\" + \\\"b\\\"\", is = \"ab\" }", true),
            ("{ value = \"who.name\", is = \"miller\" }", false),
        ],
    );
}

#[test]
fn reactions_of_the_file_do_what_they_say() {
    let text = "seconds = 12\ntape = [
      { at = 1, who = \"miller\", place_at = \"bell\" },
      { at = 2, who = \"miller\", place_at = [0, 0, 0] },
      { at = 3, who = \"miller\", place_at = \"bell\" },
      { at = 4, who = \"miller\", place_at = [0, 0, 0] },
      { at = 5, who = \"miller\", place_at = \"bell\" },
      { at = 6, who = \"cart\", place_at = \"bell\" },
    ]";
    let report = run_playtest(&playtest(text), None);
    let said: Vec<(f64, &str)> = report
        .entries
        .iter()
        .filter_map(|entry| match &entry.what {
            Happening::Said { time, text, .. } => Some((time.secs(), text.as_str())),
            _ => None,
        })
        .collect();
    // Not at 3 s, within the cooldown; not for the cart.
    assert_eq!(said, [(1.0, "miller rings the bell."), (5.0, "miller rings the bell.")]);
}

#[test]
fn failures_say_what_happened_instead() {
    let text = format!(
        "seconds = 12\ntape = [{VISIT}]\nexpect = [
      {{ event = \"enter\", on = \"pad\", who = \"cart\" }},
      {{ event = \"enter\", on = \"pad\", by = 1 }},
      {{ event = \"inside\", on = \"pad\", never = true }},
      {{ event = \"enter\", on = \"bell\", who = \"miller\" }},
    ]"
    );
    let all = outcomes(&text);
    let seen: Vec<&str> = all.iter().map(|outcome| outcome.seen.as_str()).collect();
    assert_eq!(seen[0], "never; instead at 2.000000 s (miller)");
    assert!(all[0].why[0].starts_with("cart was stopped at"), "{:?}", all[0]);
    assert_eq!(seen[1], "never; instead at 2.000000 s (miller)");
    assert_eq!(
        seen[2],
        "3 times: at 3.000000 s (miller), at 4.000000 s (miller), at 5.000000 s (miller)"
    );
    // The bell's rim is 2 m from z = -20; the miller's own front comes to z = -8.5.
    assert!(all[3].why[0].contains("came within 9.500 m"), "{:?}", all[3]);
}

/// A creek that things fall into, a bridge of two planks, and a raft on a layer of its own.
const CREEK: &str = r#"
[[entity]]
name = "otter"
layers = ["swimmers"]
at = [-6, 0.5, 0]
body = { sphere = { radius = 0.25 } }

[[entity]]
name = "raft"
at = [-6, 0.5, 0]
body = { box = [1, 0.5, 1] }

[[entity]]
name = "creek"
zone = { half_space = true }
admit = { layers = ["swimmers"] }

[[entity]]
name = "bridge"
at = [0, 0.5, 0]
scale = 2
zone = { any = [{ box = [1, 0.1, 1], at = [-0.5, 0, 0] }, { box = [1, 0.1, 1], at = [0.5, 0, 0] }] }
admit = { not = { layers = ["default"] } }
"#;

#[test]
fn layers_scale_and_combined_shapes_in_play() {
    let scene = Arc::new(read_scene(&Source::new("creek.scene.toml", CREEK)).unwrap());
    let text = "scene = \"creek.scene.toml\"\nseconds = 9\ntape = [
      { at = 0, who = \"otter\", drive_to = [6, 0.5, 0], over = 4 },
      { at = 0, who = \"raft\", drive_to = [6, 0.5, 0], over = 4 },
      { at = 5, who = \"otter\", drive_to = [6, -0.5, 0], over = 1 },
      { at = 5, who = \"raft\", drive_to = [6, -0.5, 0], over = 1 },
    ]
    expect = [
      { event = \"enter\", on = \"bridge\", who = \"otter\", after = 1.24, by = 1.26, times = 1 },
      { event = \"exit\", on = \"bridge\", who = \"otter\", after = 2.74, by = 2.76, times = 1 },
      { event = \"enter\", on = \"creek\", who = \"otter\", after = 5.24, by = 5.26 },
      { event = \"enter\", on = \"creek\", who = \"raft\" },
      { event = \"enter\", on = \"bridge\", who = \"raft\" },
    ]";
    let playtest = read_playtest(&Source::new("creek.playtest.toml", text), scene).unwrap();
    for rate in [Some(1), Some(7), Some(1000)] {
        let report = run_playtest(&playtest, rate);
        let met: Vec<bool> = report.outcomes.iter().map(|outcome| outcome.met).collect();
        assert_eq!(met, [true, true, true, false, false], "{rate:?}: {report:?}");
        let seen = |index: usize| report.outcomes[index].why[0].as_str();
        assert!(seen(3).contains("it is in none of the layers asked for: swimmers"), "{}", seen(3));
        assert!(seen(4).contains("it is refused by `not`"), "{}", seen(4));
    }
}

#[test]
fn a_playtest_in_json_and_at_another_rate() {
    let json = r#"{"scene": "yard.scene.toml", "seconds": 4,
      "tape": [{"at": 0, "who": "miller", "walk_to": "pad"}],
      "expect": [{"event": "enter", "on": "pad", "who": "miller", "by": 2.0}]}"#;
    let source = Source::new("yard.playtest.json", json);
    assert!(hazuro_verify::is_playtest(&source));
    let playtest = read_playtest(&source, yard()).unwrap();
    assert_eq!(playtest.length(), Time::from_secs(4.0));
    for rate in [None, Some(1), Some(7), Some(1000)] {
        assert!(run_playtest(&playtest, rate).passed(), "{rate:?}");
    }
    assert!(!hazuro_verify::is_playtest(&Source::new("yard.scene.toml", YARD)));
}

#[test]
fn the_log_has_a_line_an_event_with_its_own_keys() {
    let text = format!("seconds = 12\ntape = [{VISIT}
      {{ at = 9, who = \"cart\", drive_to = [-9, 0, 0], over = 2 }}, {{ at = 8.5, cue = \"close\" }}, {{ at = 8.6, cue = \"open\" }}]");
    let playtest = playtest(&text);
    let mut play = Play::new(playtest.scene().clone());
    playtest.start(&mut play);
    let entries = play.advance(playtest.length()).to_vec();
    let mut log = Vec::new();
    write_log(&mut log, &play, &entries, hazuro_format::Level::Events).unwrap();
    let log = String::from_utf8(log).unwrap();
    let expected = [
        r#"{"hazuro_log":1,"scene":"Yard","rate":20,"seed":5}"#,
        r#"{"t":0.0,"tick":0,"event":"start","n":1,"of":"start"}"#,
        r#"{"t":2.0,"tick":40,"event":"enter","on":"pad","who":"miller","part":"body","cause":"move","at":[0.0,1.0,2.0],"first":true,"n":2,"of":"input 1"}"#,
        r#"{"t":3.0,"tick":60,"event":"inside","on":"pad","who":"miller","part":"body","at":[0.0,1.0,0.0],"n":3,"of":2}"#,
        r#"{"t":4.0,"tick":80,"event":"inside","on":"pad","who":"miller","part":"body","at":[0.0,1.0,0.0],"n":4,"of":2}"#,
        r#"{"t":5.0,"tick":100,"event":"inside","on":"pad","who":"miller","part":"body","at":[0.0,1.0,0.0],"n":5,"of":2}"#,
        r#"{"t":6.0,"tick":120,"event":"cue","cue":"close","n":7,"of":"input 3"}"#,
        r#"{"t":6.0,"tick":120,"event":"exit","on":"pad","who":"miller","part":"body","cause":"disable","at":[0.0,1.0,-1.0],"last":true,"n":10,"of":7}"#,
        r#"{"t":8.0,"tick":160,"event":"cue","cue":"open","n":12,"of":"input 4"}"#,
    ];
    for (line, expected) in log.lines().zip(expected) {
        assert_eq!(line, expected);
    }
    let rest: Vec<&str> = log.lines().skip(expected.len()).collect();
    assert!(rest.iter().all(|line| line.contains("\"cue\"")), "opened only once: {rest:?}");
    assert_eq!(rest.len(), 2);
}
