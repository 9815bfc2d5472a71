//! The command as its users meet it: what it prints, where, and how it ends.

mod support;

use std::path::Path;

use support::{DEMO, Folder, demo, hazuro, stderr, stdout};

/// The events of a log as `event on who cause`, without their times.
fn order(log: &str) -> Vec<String> {
    let told = log.lines().skip(1).map(|line| {
        let event: serde_json::Value = serde_json::from_str(line).expect("JSON");
        let word = |key: &str| event[key].as_str().unwrap_or("-").to_owned();
        ["event", "on", "who", "cause"].map(word).join(" ")
    });
    told.collect()
}

#[test]
fn the_demo_tells_one_story_and_names_the_others() {
    let output = hazuro(&["demo"]);
    assert_eq!(output.status.code(), Some(0), "{}", stderr(&output));
    let told = stdout(&output);
    assert!(told.lines().count() <= 30, "{told}");
    for line in [
        "2.400000  enter         sluice_pad        miller",
        "9.912414  “The gate shuts",
        "What did not happen: enter sluice_pad heron",
        "it has none of the tags asked for: player",
        "hazuro demo granary",
        "88 of 88 expectations met",
    ] {
        assert!(told.contains(line), "{line} in\n{told}");
    }
    // It needs nothing of where it is started.
    let elsewhere = Folder::new("elsewhere");
    let mut command = std::process::Command::new(env!("CARGO_BIN_EXE_hazuro"));
    let output = command.arg("demo").current_dir(&elsewhere.0).output().expect("it runs");
    assert_eq!(stdout(&output), told);
}

#[test]
fn each_play_of_the_demo_is_told_in_full() {
    for (play, lines) in [
        ("gate", &["hit           path_ray          miller"][..]),
        ("yard", &["refused       lever_toll        miller        for want of tokens"]),
        (
            "mill",
            &[
                "empty         apprentice        apprentice    health 100 → 0",
                "→ stat miller.strength +1",
                "→ call cut_reeds",
                "“3 reeds cut.”",
            ],
        ),
        (
            "granary",
            &[
                "reach         sack_hoist        hoist_top",
                "“1 down the chute.”",
                "✗ grab sack_bran for miller: the hands are full",
                "arrive        hatch_yard/below  miller        teleport",
            ],
        ),
    ] {
        let output = hazuro(&["demo", play]);
        assert_eq!(output.status.code(), Some(0), "{}", stderr(&output));
        let told = stdout(&output);
        let all = stdout(&hazuro(&["demo", "--all"]));
        for line in lines {
            assert!(told.contains(line), "{line} in\n{told}");
            assert!(all.contains(line), "{line} in all");
        }
    }
}

#[test]
fn the_log_of_the_demo_is_the_same_each_time_and_its_order_at_each_rate() {
    let playtest = demo("gate.playtest.toml");
    let first = hazuro(&["run", &playtest, "--log", "-"]).stdout;
    for _ in 1..20 {
        assert_eq!(hazuro(&["run", &playtest, "--log", "-"]).stdout, first);
    }
    let first = String::from_utf8(first).expect("UTF-8");
    let mut lines = first.lines();
    assert_eq!(lines.next(), Some(r#"{"hazuro_log":1,"scene":"Tide mill","rate":60,"seed":1}"#));
    assert_eq!(lines.next(), Some(r#"{"t":0.0,"tick":0,"event":"start","n":1,"of":"start"}"#));
    let enter = r#"{"t":2.4,"tick":144,"event":"enter","on":"sluice_pad","who":"miller","part":"body","cause":"move","at":[0.0,0.9,2.3],"first":true,"#;
    let enter = lines.find(|line| line.starts_with(enter)).expect("an enter");
    assert!(enter.ends_with(r#","of":"input 1"}"#), "{enter}");
    for rate in ["10", "60", "240"] {
        let log = stdout(&hazuro(&["run", &playtest, "--rate", rate, "--log", "-"]));
        assert_eq!(order(&log), order(&first), "at {rate} Hz");
    }
}

#[test]
fn run_prints_a_table_and_writes_the_log_beside_it() {
    let folder = Folder::new("run");
    let log = folder.0.join("play.jsonl");
    let scene = demo("tidemill.scene.toml");
    let output = hazuro(&["run", &scene, "--seconds", "1", "--log", log.to_str().expect("a path")]);
    assert_eq!(output.status.code(), Some(0));
    let told = stdout(&output);
    assert!(told.starts_with("Tide mill: 1 s at 60 ticks a second"), "{told}");
    assert!(told.ends_with("6 events\n"), "{told}");
    assert!(!told.contains('\u{1b}'), "no colour in a pipe");
    assert_eq!(std::fs::read_to_string(log).expect("a log").lines().count(), 7);
    let unwritable = hazuro(&["run", &scene, "--log", "/no/such/folder/log"]);
    assert_eq!(unwritable.status.code(), Some(2));
    assert!(stderr(&unwritable).contains("cannot be written"));
}

#[test]
fn test_passes_and_fails_with_what_was_seen_instead() {
    let output = hazuro(&["test", DEMO]);
    assert_eq!(output.status.code(), Some(0));
    let told = stdout(&output);
    assert!(told.ends_with("110 passed, 0 failed\n"), "{told}");

    let folder = Folder::new("test");
    folder.write(
        "tidemill.scene.toml",
        &std::fs::read_to_string(demo("tidemill.scene.toml")).expect("a scene"),
    );
    folder.write("mill.rhai", &std::fs::read_to_string(demo("mill.rhai")).expect("a script"));
    let tape = "scene = \"tidemill.scene.toml\"\nseconds = 4\n\
                tape = [{ at = 0.0, who = \"heron\", walk_to = \"sluice_pad\" }]\n\
                expect = [{ event = \"enter\", on = \"sluice_pad\", who = \"heron\" }]\n";
    let bad = folder.write("heron.playtest.toml", tape);
    let output = hazuro(&["test", &bad]);
    assert_eq!(output.status.code(), Some(1));
    let told = stdout(&output);
    for line in [
        "FAIL enter sluice_pad: heron",
        "line 4; seen: never",
        "heron was stopped at \"subject is admitted\": it has none of the tags asked for: player",
        "0 passed, 1 failed",
    ] {
        assert!(told.contains(line), "{line} in\n{told}");
    }
    assert_eq!(hazuro(&["test", &demo("tidemill.scene.toml")]).status.code(), Some(2));
}

#[test]
fn check_lists_findings_with_their_place() {
    let fine = hazuro(&["check", &demo("tidemill.scene.toml"), &demo("gate.playtest.toml")]);
    assert_eq!(fine.status.code(), Some(0));
    assert_eq!(stdout(&fine).matches("nothing to complain about").count(), 2);

    let folder = Folder::new("check");
    let odd = folder.write("odd.toml", "[[entity]]\nname = \"pad\"\nzone = { box = [1, 1, 1] }\n");
    let output = hazuro(&["check", &odd]);
    assert_eq!(output.status.code(), Some(1));
    assert!(stdout(&output).contains("odd.toml:3:8"), "{}", stdout(&output));
    assert!(stdout(&output).contains("1 warning"));

    let wrong = folder.write("wrong.toml", "[[entity]]\nname = \"pad\"\nparent = \"pda\"\n");
    let output = hazuro(&["check", &wrong]);
    assert_eq!(output.status.code(), Some(2));
    for part in ["unknown-name", "wrong.toml:3:10", "did you mean `pad`?"] {
        assert!(stdout(&output).contains(part), "{part} in\n{}", stdout(&output));
    }
}

#[test]
fn bad_usage_and_unreadable_input_end_with_2_and_say_so_on_standard_error() {
    let folder = Folder::new("usage");
    let bell = "[[reaction]]\non = { start = true }\nif = '{ loop {} }'\ndo = [{ cue = \"x\" }]\n";
    let endless = folder.write("endless.toml", bell);
    let garbage = folder.write("garbage.toml", &"\u{1}x".repeat(100_000));
    for arguments in [
        &["fly"][..],
        &["run"],
        &["run", "nowhere.toml"],
        &["run", DEMO],
        &["run", &endless],
        &["run", &garbage],
        &["run", &demo("tidemill.scene.toml"), "--rate", "0"],
        &["run", &demo("tidemill.scene.toml"), "--seconds", "nan"],
        &["test", folder.0.to_str().expect("a path")],
    ] {
        let output = hazuro(arguments);
        assert_eq!(output.status.code(), Some(2), "{arguments:?}");
        assert!(!stderr(&output).is_empty(), "{arguments:?}");
        assert!(!stderr(&output).contains("panicked"), "{}", stderr(&output));
    }
    assert_eq!(hazuro(&["--help"]).status.code(), Some(0));
}

#[test]
fn every_scene_in_the_documents_can_be_played() {
    let root = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    let folder = Folder::new("docs");
    let mut played = 0;
    let pages = ["guide", "files", "detectors", "reactions", "motion", "verify"];
    let pages = pages.map(|page| format!("docs/{page}.md"));
    for name in std::iter::once("README.md").chain(pages.iter().map(String::as_str)) {
        let text = std::fs::read_to_string(root.join(name)).expect(name);
        for block in text.split("```toml\n").skip(1).filter_map(|rest| rest.split("```").next()) {
            let is_playtest = block.starts_with("scene = ");
            if is_playtest {
                continue;
            }
            let path = folder.write("block.toml", block);
            let output = hazuro(&["run", &path, "--seconds", "1"]);
            assert_eq!(output.status.code(), Some(0), "in {name}:\n{block}\n{}", stderr(&output));
            played += 1;
        }
    }
    assert!(played >= 3, "{played} scenes found");
}

/// A scene that does one of everything, and what `run` says about it.
const ONE_OF_EACH: &str = r#"
[[entity]]
name = "ball"
body = { sphere = { radius = 0.5 } }

[[entity]]
name = "pad"
zone = { box = [2, 2, 2] }

[[entity]]
name = "away"
at = [9, 0, 0]

[[reaction]]
on = { start = true }
do = [
  { move = "away", to = "pad", over = 0.5, ease = "ease" },
  { move = "away", to = "home" },
  { hide = "pad" },
  { show = "pad" },
  { count = "a", add = -2 },
  { count = "a", set = 7 },
  { cue = "go" },
]

[[reaction]]
on = { cue = "go" }
do = [{ teleport = "ball", to = "away" }, { toggle = "pad" }, { enable = "pad" }, { disable = "pad" }]

[[reaction]]
on = { exit = "pad" }
after = 0.25
do = [{ say = "gone" }]

[[reaction]]
on = { cue = "go" }
if = "count.a / 0 > 1"
do = [{ count = "a", add = 1 }]

[texts]
gone = "The {who} is gone."
"#;

#[test]
fn run_tells_every_action_in_words() {
    let folder = Folder::new("actions");
    let scene = folder.write("each.toml", ONE_OF_EACH);
    let output = hazuro(&["run", &scene, "--seconds", "1"]);
    let told = stdout(&output);
    for line in [
        "→ move away to pad over 0.5 s",
        "→ move away to home\n",
        "→ hide pad",
        "→ show pad",
        "→ count a -2",
        "→ count a = 7",
        "→ cue go",
        "cue     go",
        "→ teleport ball to away",
        "→ toggle pad",
        "→ enable pad",
        "→ disable pad",
        "! reaction 4 (on cue go): the condition could not be tested",
    ] {
        assert!(told.contains(line), "{line} in\n{told}");
    }
    // The condition that failed is shown at its place, once.
    assert_eq!(output.status.code(), Some(2));
    let told = stderr(&output);
    assert_eq!(told.matches("condition-failed").count(), 1, "{told}");
    assert!(told.contains("each.toml:37:6"), "{told}");
}

#[test]
fn test_looks_for_playtests_in_folders_at_any_depth() {
    let folder = Folder::new("depth");
    std::fs::create_dir_all(folder.0.join("deep/er")).expect("a folder");
    folder.write("yard.toml", "[[entity]]\nname = \"a\"\n");
    folder.write(
        "deep/er/two.playtest.toml",
        "scene = \"../../yard.toml\"\nseconds = 1\nexpect = [{ event = \"start\" }]\n",
    );
    folder.write("deep/one.playtest.json", "{\"scene\": \"../yard.toml\", \"seconds\": 1}");
    folder.write("deep/notes.toml", "not a playtest");
    let output = hazuro(&["test", folder.0.to_str().expect("a path")]);
    assert_eq!(output.status.code(), Some(0), "{}", stderr(&output));
    let told = stdout(&output);
    let (one, two) = (told.find("one.playtest.json"), told.find("two.playtest.toml"));
    assert!(two < one && two.is_some(), "in the order of their paths:\n{told}");
    assert!(
        told.contains("it expects nothing") && told.ends_with("1 passed, 0 failed\n"),
        "{told}"
    );

    folder.write("deep/bad.playtest.toml", "scene = \"../yard.toml\"\nseconds = 1\nexpct = []\n");
    let output = hazuro(&["test", folder.0.to_str().expect("a path")]);
    assert_eq!(output.status.code(), Some(2), "the others are run all the same");
    assert!(
        stdout(&output).ends_with("1 passed, 0 failed, 1 not readable\n"),
        "{}",
        stdout(&output)
    );
    assert!(stderr(&output).contains("did you mean `expect`?"), "{}", stderr(&output));
}

#[test]
fn the_log_tells_as_much_as_it_is_asked_to() {
    let playtest = demo("mill.playtest.toml");
    let lines = |level: &[&str]| -> Vec<serde_json::Value> {
        let arguments = [&["run", &playtest, "--log", "-"], level].concat();
        let log = stdout(&hazuro(&arguments));
        log.lines().map(|line| serde_json::from_str(line).expect("JSON")).collect()
    };
    let events = lines(&[]);
    let actions = lines(&["--log-level", "actions"]);
    let all = lines(&["--log-level", "all"]);
    let having = |lines: &[serde_json::Value], key: &str| {
        lines.iter().filter(|line| line.get(key).is_some()).count()
    };
    assert_eq!(having(&events, "event") + 1, events.len());
    assert_eq!(having(&events, "event"), having(&all, "event"));
    assert!(having(&actions, "did") > 20 && having(&actions, "said") > 8);
    assert_eq!((having(&actions, "refused"), having(&actions, "did")), (0, having(&all, "did")));
    let left = |line: &&serde_json::Value| {
        line["refused"] == "collect" && line["what"] == "poultice" && line["with"] == "miller"
    };
    let left = all.iter().find(left).expect("the poultice is left lying");
    assert_eq!(left["why"], "it would give nothing: health is 100 already");
    let empty = all.iter().find(|line| line["event"] == "empty").expect("somebody is worn out");
    assert_eq!((&empty["stat"], &empty["value"]), (&"health".into(), &0.0.into()));
    let runs = lines(&["--log-level", "runs"]);
    assert!(having(&all, "run") == 0 && having(&runs, "run") > 5 && having(&runs, "expired") > 1);
    // Each line comes of one before it, and of none that the log does not tell.
    for log in [&events, &actions, &all, &runs] {
        let mut told = std::collections::BTreeSet::new();
        for line in &log[1..] {
            let of = &line["of"];
            assert!(of.is_string() || told.contains(&of.as_u64()), "{line}");
            told.insert(line["n"].as_u64());
        }
    }
    let alone = hazuro(&["run", &playtest, "--log-level", "all"]);
    assert_eq!(alone.status.code(), Some(2), "a level without a log");
}

#[test]
fn a_script_that_fails_is_shown_where_it_does() {
    let folder = Folder::new("script");
    let script = "fn f(event) {\n  say(\"x\");\n  let a = event; let b = a.whoo;\n}\n";
    folder.write("yard.rhai", script);
    let scene = "[scene]\nscripts = [\"yard.rhai\"]\n[[reaction]]\non = { cue = \"go\" }\n\
                 do = [{ call = \"f\" }]\n[[reaction]]\non = { start = true }\n\
                 do = [{ cue = \"go\" }]\n";
    let scene = folder.write("yard.scene.toml", scene);
    let output = hazuro(&["run", &scene, "--seconds", "1"]);
    assert_eq!(output.status.code(), Some(2));
    let told = stderr(&output);
    for part in ["yard.rhai:3:28", "let b = a.whoo;", "reaction 1 (on cue go)", "`cue go`"] {
        assert!(told.contains(part), "{part} in\n{told}");
    }
    folder.write("yard.rhai", "fn g() { }");
    let output = hazuro(&["check", &scene]);
    assert_eq!(output.status.code(), Some(2));
    assert!(stdout(&output).contains("there is no function named `f` to call"));
}

#[test]
fn the_mill_and_the_yard_tell_the_same_story_at_any_rate() {
    for name in ["mill", "yard", "granary", "quay"].map(|play| format!("{play}.playtest.toml")) {
        let name = name.as_str();
        let playtest = demo(name);
        let log = |rate: &str| {
            let log =
                hazuro(&["run", &playtest, "--rate", rate, "--log", "-", "--log-level", "all"]);
            let lines = stdout(&log);
            let told = lines.lines().skip(1).map(|line| {
                let mut line: serde_json::Value = serde_json::from_str(line).expect("JSON");
                // In which tick it was is all that may differ.
                line["tick"].take();
                line.to_string()
            });
            told.collect::<Vec<_>>()
        };
        let first = log("60");
        assert!(first.len() > 30);
        for rate in ["7", "240"] {
            assert_eq!(log(rate), first, "{name} at {rate} Hz");
        }
    }
}
