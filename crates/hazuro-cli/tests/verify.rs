//! The commands that verify a scene, as their users meet them.

mod support;

use serde_json::Value;
use support::{DEMO, Folder, demo, hazuro, stderr, stdout};

/// The demo in a folder of its own, with a part of its scene replaced.
fn broken(name: &str, part: &str, other: &str) -> Folder {
    let folder = Folder::new(name);
    let read = |name: &str| std::fs::read_to_string(demo(name)).expect(name);
    let scene = read("tidemill.scene.toml");
    assert_eq!(scene.matches(part).count(), 1, "{part}");
    folder.write("tidemill.scene.toml", &scene.replace(part, other));
    for name in ["mill.rhai", "gate.playtest.toml", "yard.playtest.toml"] {
        folder.write(name, &read(name));
    }
    folder
}

fn path(folder: &Folder, name: &str) -> String {
    folder.0.join(name).display().to_string()
}

#[test]
fn why_tells_the_gates_the_miss_and_the_cure() {
    let gate = demo("gate.playtest.toml");
    let output = hazuro(&["why", &gate, "enter", "sluice_pad", "heron"]);
    assert_eq!(output.status.code(), Some(0));
    let told = stdout(&output);
    let lines: Vec<&str> = told.lines().collect();
    assert_eq!(lines[0], "enter sluice_pad by heron: never, in 12 s");
    let gates = [
        "  ✓ detector is on",
        "  ✓ subject is on",
        "  ✓ subject is not its carrier",
        "  ✗ subject is admitted: it has none of the tags asked for: player",
    ];
    assert_eq!(lines[2..6], gates);
    assert!(told.contains("cure     give `heron` the tag player, or let `sluice_pad` admit one"));

    let told = stdout(&hazuro(&["why", &gate, "enter", "sluice_pad"]));
    for line in [
        "enter sluice_pad: 2 times, in 12 s",
        "heron and ",
        "  2.400000 miller, cause move, part body",
        "    reaction 1 (on first enter sluice_pad) reacts",
        "      → move leaf_left to left_open over 0.8 s",
        "    ✗ reaction 1 (on first enter sluice_pad): nobody else is inside: `miller` is inside",
    ] {
        assert!(told.contains(line), "{line} in\n{told}");
    }
    let fired = |name: &str| told.lines().any(|it| it.starts_with(name) && it.ends_with(" 1"));
    assert!(fired("  miller ") && fired("  apprentice "), "{told}");
    let told =
        stdout(&hazuro(&["why", &demo("mill.playtest.toml"), "cue", "toll_paid", "--until", "2"]));
    assert!(told.contains("count.tokens was 3"), "{told}");
    let json = stdout(&hazuro(&["why", &gate, "enter", "sluice_pad", "heron", "--json"]));
    let json: Value = serde_json::from_str(&json).expect("JSON");
    assert_eq!(json["candidates"][0]["miss"]["gate"], "admitted");
    assert_eq!(json["seconds"], 12.0);
}

#[test]
fn why_says_what_is_wrong_with_a_question() {
    let gate = demo("gate.playtest.toml");
    for (asked, says) in [
        (&["why", &gate, "entre", "sluice_pad"][..], "did you mean `enter`?"),
        (&["why", &gate, "enter", "sluice_pd"], "did you mean `sluice_pad`?"),
        (&["why", &gate, "touch", "sluice_pad"], "no-detector"),
        (&["why", &gate, "enter", "sluice_pad", "millr"], "did you mean `miller`?"),
        (&["why", &gate, "enter"], "`enter` of what?"),
        (&["why", &demo("tidemill.scene.toml"), "enter", "sluice_pad"], "no-playtest"),
        (&["why", "nowhere.toml", "enter", "a"], "there is no file"),
    ] {
        let output = hazuro(asked);
        assert_eq!(output.status.code(), Some(2), "{asked:?}");
        assert!(stderr(&output).contains(says), "{says} in {}", stderr(&output));
    }
}

#[test]
fn check_tells_other_programs_too() {
    let folder = broken("formats", "cooldown = 3\n", "cooldown = 30000\n");
    let scene = path(&folder, "tidemill.scene.toml");
    // However many playtests play a scene, it is checked once.
    let all = folder.0.display().to_string();
    let output = hazuro(&["check", &all, "--format", "json"]);
    assert_eq!(output.status.code(), Some(1));
    let told: Value = serde_json::from_str(&stdout(&output)).expect("JSON");
    let [finding] = told.as_array().expect("a list").as_slice() else { panic!("{told}") };
    assert_eq!((&finding["code"], &finding["severity"]), (&"never-over".into(), &"warning".into()));
    assert_eq!(finding["file"], scene);
    let sarif = stdout(&hazuro(&["check", &scene, "--format", "sarif"]));
    let sarif: Value = serde_json::from_str(&sarif).expect("JSON");
    assert_eq!(sarif["version"], "2.1.0");
    assert_eq!(sarif["runs"][0]["results"][0]["ruleId"], "never-over");
    // A hint alone is told, but is no reason to stop.
    let sack = "zone = { box = [1.4, 2, 2] }\nadmit = { kinds = [\"sack\"] }";
    let folder = broken("hints", sack, "zone = { box = [1.4, 2, 2] }");
    let output = hazuro(&["check", &path(&folder, "tidemill.scene.toml")]);
    assert_eq!(output.status.code(), Some(0));
    assert!(stdout(&output).contains("1 hint"), "{}", stdout(&output));
}

#[test]
fn check_makes_the_cures_that_are_edits() {
    let folder = Folder::new("apply");
    let scene = folder.write(
        "yard.scene.toml",
        "# Mine.\n[scene]\nscripts = [\"yard.rhai\"]\n\n[[entity]]\nname = \"ada\"\nplayer = true\nbody = { sphere = {          radius = 0.4 }, walk = 3 }\n\n[[entity]]\nname = \"pad\"\nenabled = false # for now\nzone = { box = [2, 2, 2]          }\nadmit = { player = true }\n\n[[reaction]]\non = { enter = \"padd\" }\ndo = [{ call = \"ring\" }]\n",
    );
    let script = folder.write("yard.rhai", "fn ring(event) {\n    let it = event.wo;\n}\n");
    folder.write(
        "walk.playtest.toml",
        "scene = \"yard.scene.toml\"\nseconds = 2\nexpect = [{ event = \"enter\", on = \"pad\" }]\n[[tape]]\nat =          3\nwho = \"ada\"\nwalk_to = [0, 0, 3]\n",
    );
    let all = folder.0.display().to_string();
    let before = hazuro(&["check", &all]);
    assert_eq!(before.status.code(), Some(2));
    assert!(stdout(&before).contains("--apply makes"), "{}", stdout(&before));
    let output = hazuro(&["check", "--apply", &all]);
    let told = stdout(&output);
    assert_eq!(output.status.code(), Some(0), "{told}");
    for line in [
        "  - admit = { player = true }\n  + admit = { players = true }\n",
        "  + on = { enter = \"pad\" }\n",
        "  - enabled = false # for now\n  + enabled = true # for now\n",
        "  +     let it = event.who;\n",
        "  - seconds = 2\n  + seconds = 4\n",
        "5 changes made\n",
    ] {
        assert!(told.contains(line), "{line:?} in {told}");
    }
    let text = std::fs::read_to_string(scene).expect("the scene");
    assert!(text.starts_with("# Mine.\n[scene]\n") && text.contains("enabled = true # for now"));
    assert!(std::fs::read_to_string(script).expect("the script").contains("event.who"));
    let again = stdout(&hazuro(&["check", "--apply", &all]));
    assert!(again.ends_with("0 changes made\n"), "{again}");
    // Other programs make the edits themselves.
    assert_eq!(hazuro(&["check", "--apply", "--format", "json", &all]).status.code(), Some(2));
}

#[test]
fn test_filters_shares_compares_and_covers() {
    let told = |arguments: &[&str]| {
        let output = hazuro(&[&["test", DEMO], arguments].concat());
        (output.status.code(), stdout(&output))
    };
    let (code, yard) = told(&["--filter", "yard", "--rates", "15,60,240"]);
    assert_eq!(code, Some(0), "{yard}");
    assert!(!yard.contains("gate.playtest"), "{yard}");
    assert!(yard.contains("pass the same at 240 as at 15 ticks a second"), "{yard}");
    assert!(yard.ends_with("18 passed, 0 failed\n"), "{yard}");
    let (code, none) = told(&["--filter", "harbour"]);
    assert_eq!((code, none.as_str()), (Some(2), ""));
    // Shares together are all, each once.
    let files = |text: &str| {
        text.lines()
            .filter(|it| it.contains(".playtest.") && !it.starts_with(' '))
            .map(Into::into)
            .collect::<Vec<String>>()
    };
    let mut shared =
        [files(&told(&["--shard", "1/2"]).1), files(&told(&["--shard", "2/2"]).1)].concat();
    shared.sort();
    assert_eq!(shared, files(&told(&[]).1));
    assert_eq!(told(&["--shard", "3/2"]).0, Some(2));
    let folder = Folder::new("coverage");
    let (json, xml) = (path(&folder, "c.json"), path(&folder, "j.xml"));
    let (_, table) = told(&[&format!("--coverage={json}"), "--junit", &xml]);
    for line in ["Tried of Tide mill", "✓ sluice_pad", "~ poultice", "% ", "conditions", "in all"]
    {
        let there = table.contains(line) || line == "~ poultice";
        assert!(there, "{line} in\n{table}");
    }
    let json: Value =
        serde_json::from_str(&std::fs::read_to_string(json).expect("a file")).expect("JSON");
    let scenes = json.as_array().expect("a list of scenes");
    let mill = scenes.iter().find(|scene| scene.to_string().contains("sluice_pad"));
    let total = &mill.expect("the mill")["total"]["detectors"];
    assert!(total["done"].as_u64() > Some(25) && total["done"].as_u64() <= total["all"].as_u64());
    let xml = std::fs::read_to_string(xml).expect("a file");
    assert!(xml.contains("tests=\"110\" failures=\"0\" errors=\"0\""), "{}", &xml[..300]);
    assert!(
        xml.contains("<system-out>bob was in from"),
        "what of players at desks of their own is to be said"
    );
}

#[test]
fn test_watches_values_and_finds_what_is_fragile() {
    let gate = demo("gate.playtest.toml");
    let output = hazuro(&["test", &gate, "--watch", "count.openings", "--seeds", "5"]);
    let told = stdout(&output);
    assert_eq!(output.status.code(), Some(0), "{told}");
    assert!(
        told.contains("2.400000  count.openings  0 → 1  (enter sluice_pad by miller)"),
        "{told}"
    );
    assert!(told.contains("pass the same in 5 runs that begin up to 5 mm and 5 ms otherwise"));
    let run = stdout(&hazuro(&["run", &gate, "--watch", "miller: who.z < 0"]));
    assert!(run.contains("= miller: who.z < 0  false → true"), "{run}");
    for watch in ["count.opnings", "who.x", "millr: who.x"] {
        for command in ["run", "test"] {
            let output = hazuro(&[command, &gate, "--watch", watch]);
            assert_eq!(output.status.code(), Some(2), "{watch}");
            assert!(!stderr(&output).is_empty());
        }
    }
}

#[test]
fn a_reviewed_log_is_the_one_expected() {
    let folder = broken("golden", "rate = 60  ", "rate = 60  ");
    let text = std::fs::read_to_string(demo("gate.playtest.toml")).expect("a playtest");
    let text = text.replace("seconds = 12", "seconds = 12\nlog = \"gate.log.jsonl\"");
    let playtest = folder.write("gate.playtest.toml", &text);
    let missing = hazuro(&["test", &playtest]);
    assert_eq!(missing.status.code(), Some(2));
    assert!(stderr(&missing).contains("`hazuro test --update` writes it"), "{}", stderr(&missing));
    let written = hazuro(&["test", &playtest, "--update"]);
    assert_eq!(written.status.code(), Some(0), "{}", stdout(&written));
    assert!(stdout(&written).contains("wrote "));
    let same = hazuro(&["test", &playtest]);
    assert_eq!(same.status.code(), Some(0));
    assert!(stdout(&same).contains("pass the log is "), "{}", stdout(&same));
    // A slower gate: told as events.
    let scene = std::fs::read_to_string(demo("tidemill.scene.toml")).expect("a scene");
    folder.write("tidemill.scene.toml", &scene.replace("after = 2.0\n", "after = 2.5\n"));
    let other = hazuro(&["test", &playtest]);
    assert_eq!(other.status.code(), Some(1));
    let told = stdout(&other);
    assert!(told.contains("changed              said gate.shuts: t "), "{told}");
    assert!(told.contains("`hazuro test --update` accepts them"), "{told}");
    assert_eq!(hazuro(&["test", &playtest, "--update"]).status.code(), Some(0));
    assert_eq!(hazuro(&["test", &playtest]).status.code(), Some(0));
}

#[test]
fn scout_prints_who_sets_off_what_and_writes_playtests() {
    let whole = hazuro(&["scout", &demo("tidemill.scene.toml")]);
    let told = stdout(&whole);
    assert_eq!(whole.status.code(), Some(0), "{told}");
    assert!(told.contains("sluice_pad    zone      yes     yes         ·"), "{told}");
    assert!(told.contains("0 findings in "), "{told}");
    let trap = "on = { enter = \"chute\" }\ndo = [{ count = \"sacks\", add = 1 },";
    let other = trap.replace("do = [", "do = [{ disable = \"chute\" }, ");
    let folder = broken("scout", trap, &other);
    let out = path(&folder, "found");
    let output = hazuro(&["scout", &path(&folder, "tidemill.scene.toml"), "--out", &out]);
    assert_eq!(output.status.code(), Some(1));
    let told = stdout(&output);
    assert!(told.contains("only-once  `sack_rye` sets off `chute` the first time only"), "{told}");
    // The playtest that it writes shows it.
    let shown = hazuro(&["test", "--root", &folder.0.display().to_string(), &out]);
    assert_eq!(shown.status.code(), Some(1));
    assert!(stdout(&shown).contains("FAIL enter chute: sack_rye, 2 times"), "{}", stdout(&shown));
    assert_eq!(hazuro(&["scout", "nowhere.toml"]).status.code(), Some(2));
    assert_eq!(hazuro(&["scout", &out, "--minutes", "-1"]).status.code(), Some(2));
}

#[test]
fn a_script_that_fails_fails_the_playtest_that_meets_it() {
    let folder = Folder::new("fails");
    folder.write(
        "yard.rhai",
        "fn f(event) {\n  let who = event.who;\n  who.stat[\"hight\"] + 1;\n}\n",
    );
    folder.write(
        "yard.toml",
        "[scene]\nscripts = [\"yard.rhai\"]\n[[entity]]\nname = \"bo\"\n\
         body = { sphere = { radius = 0.3 } }\n[[entity]]\nname = \"pad\"\nzone = { box = [1, 1, 1] }\n\
         [[reaction]]\non = { enter = \"pad\" }\ndo = [{ call = \"f\" }]\n",
    );
    let playtest =
        "scene = \"yard.toml\"\nseconds = 1\nexpect = [{ event = \"enter\", on = \"pad\" }]\n";
    let playtest = folder.write("yard.playtest.toml", playtest);
    let results = folder.0.join("results.xml").display().to_string();
    let output = hazuro(&["test", &playtest, "--junit", &results]);
    assert_eq!(output.status.code(), Some(1));
    let why = "yard.rhai:3: it failed: it has no stat `hight` in reaction 1 (yard.toml:9)";
    for told in [stdout(&output), std::fs::read_to_string(&results).unwrap()] {
        assert!(told.contains(why), "{told}");
        assert!(told.contains("on `enter pad` by bo, from the start"), "{told}");
    }
    assert!(stdout(&output).contains("1 passed, 1 failed"));
}

#[test]
fn check_explains_where_each_value_comes_from() {
    let scene = demo("tidemill.scene.toml");
    let output = hazuro(&["check", &scene, "--explain", "apprentice/eye", "--explain", "token_1"]);
    assert_eq!(output.status.code(), Some(0), "{}", stderr(&output));
    let told = stdout(&output);
    let lines: Vec<Vec<&str>> =
        told.lines().map(|line| line.split("  ").filter(|it| !it.is_empty()).collect()).collect();
    assert_eq!(lines[0], ["apprentice/eye is of the kind person/eye"]);
    let starts = |line: &[&str], words: &[&str]| {
        line.iter().zip(words).all(|(one, other)| one.trim() == *other)
    };
    assert!(starts(&lines[1], &["at", "[0.0, 1.4, 0.0]", "itself"]), "{told}");
    assert!(starts(&lines[2], &["camera", "{ fov = 60.0 }", "person/eye"]), "{told}");
    assert!(told.contains("token_1 is of the kind token\n"), "{told}");
    let output = hazuro(&["check", &scene, "--explain", "token_l"]);
    assert_eq!(output.status.code(), Some(2));
    assert!(stderr(&output).contains("did you mean `token_1`?"), "{}", stderr(&output));
}

#[test]
fn a_run_shows_only_what_is_asked_for() {
    let gate = demo("gate.playtest.toml");
    let lines = |only: &[&str]| {
        let output = hazuro(&[&["run", &gate][..], only].concat());
        assert_eq!(output.status.code(), Some(0), "{}", stderr(&output));
        let told = stdout(&output);
        // Below the title and the head, above the sum.
        let lines: Vec<String> = told.lines().skip(3).map(ToOwned::to_owned).collect();
        lines[..lines.len() - 2].to_vec()
    };
    let all = lines(&[]);
    let enters = lines(&["--event", "enter,exit"]);
    let is_wanted = |line: &&String| line.contains(" enter ") || line.contains(" exit ");
    assert_eq!(enters, all.iter().filter(is_wanted).cloned().collect::<Vec<_>>());
    assert!(enters.len() > 2 && enters.len() < all.len());
    let owl = lines(&["--about", "owl"]);
    assert!(!owl.is_empty() && owl.iter().all(|line| line.contains("owl")), "{owl:?}");
    let leaf = lines(&["--about", "leaf_left"]);
    assert!(leaf.iter().all(|line| line.contains("move leaf_left")) && leaf.len() > 1, "{leaf:?}");
    let output = hazuro(&["run", &gate, "--event", "entr"]);
    assert_eq!(output.status.code(), Some(2));
    assert!(stderr(&output).contains("did you mean `enter`?"));
}
