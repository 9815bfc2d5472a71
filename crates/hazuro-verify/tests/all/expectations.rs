//! What playtests can expect, and what running them in other ways tells.

use std::sync::Arc;

use hazuro::{Scene, why::Coverage};
use hazuro_format::Source;
use hazuro_script::read_scene;
use hazuro_verify::{
    CoverageTable, Difference, Outcome, Playtest, Question, Report, Run, Watched, differences,
    differences_of_logs, explain, jitter, junit, read_playtest, run_playtest, run_playtest_as,
};

/// A miller on his way over a pad to a lever, and a lamp that the lever lights.
const YARD: &str = r#"
[scene]
name = "Yard"
counts = { visits = 0 }

[[entity]]
name = "miller"
kind = "person"
at = [0, 0, 4]

[kind.person]
player = true
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 2 }
stats = { health = { start = 10, max = 10 } }

[[entity]]
name = "pad"
at = [0, 1, 0]
zone = { box = [2, 2, 2] }
admit = { players = true }

[[entity]]
name = "far_pad"
at = [0, 1, -9]
zone = { box = [2, 2, 2] }
admit = { kinds = ["person"] }

[[entity]]
name = "lever"
at = [0, 1, -4]
prompt = { reach = 1, caption = "Pull" }

[[entity]]
name = "lamp"
at = [2, 1, -4]
visible = false

[[reaction]]
on = { enter = "pad" }
do = [{ count = "visits", add = 1 }]

[[reaction]]
name = "light"
on = { accept = "lever" }
if = "count.visits > 0"
do = [{ show = "lamp" }, { say = "light" }]
else = [{ say = "dark" }]

[texts]
light = "A light."
dark = "No light."
"#;

const TAPE: &str = r#"
  { at = 0, who = "miller", walk_to = [0, 0, -3.2] },
  { at = 4, who = "miller", press = "KeyE" },
"#;

fn yard() -> Arc<Scene> {
    Arc::new(read_scene(&Source::new("yard.scene.toml", YARD)).unwrap())
}

fn playtest(tape: &str, expect: &str) -> Playtest {
    let text = format!(
        "scene = \"yard.scene.toml\"\nseconds = 6\ntape = [{tape}]\nexpect = [\n{expect}\n]\n"
    );
    let read = read_playtest(&Source::new("yard.playtest.toml", text), yard());
    read.unwrap_or_else(|findings| panic!("{expect}: {findings:?}"))
}

fn outcomes(expect: &str) -> Vec<Outcome> {
    run_playtest(&playtest(TAPE, expect), None).outcomes
}

fn met(expect: &str) -> Vec<bool> {
    outcomes(expect).iter().map(|outcome| outcome.met).collect()
}

#[test]
fn events_are_counted_in_every_way() {
    let enter = "event = \"enter\", on = \"pad\"";
    let one = |rest: &str| met(&format!("{{ {enter}{rest} }}"))[0];
    for (rest, is_met) in [
        ("", true),
        (", times = 1", true),
        (", times = 2", false),
        (", at_least = 1", true),
        (", at_least = 2", false),
        (", at_most = 1", true),
        (", at_most = 0", false),
        (", at_least = 1, at_most = 3", true),
        (", never = true", false),
        (", between = [1.0, 2.0]", true),
        (", between = [2.0, 3.0]", false),
        (", after = 1.0, by = 2.0", true),
    ] {
        assert_eq!(one(rest), is_met, "{rest}");
    }
    let told = &outcomes(&format!("{{ {enter}, at_least = 2 }}"))[0];
    assert_eq!(told.expected, "enter pad, at least 2 times");
    let told = &outcomes(&format!("{{ {enter}, at_least = 3, at_most = 4 }}"))[0];
    assert_eq!(told.expected, "enter pad, 3 to 4 times");
}

#[test]
fn order_places_offers_and_what_is_visible() {
    let expect = r#"
      { in_order = [{ event = "enter", on = "pad" }, { event = "exit", on = "pad" }, { event = "accept", on = "lever", who = "miller" }] },
      { in_order = [{ event = "exit", on = "pad" }, { event = "enter", on = "pad" }] },
      { in_order = [{ event = "enter", on = "pad" }, { event = "enter", on = "far_pad" }] },
      { who = "miller", place = [0, 0, -3.2], at = 5 },
      { who = "miller", place = "lever", within = 1.4, at = 5 },
      { who = "miller", place = "far_pad", within = 2 },
      { offered = "lever", who = "miller", at = 3.9 },
      { offered = "lever", who = "miller", at = 1, is = false },
      { offered = "lever", who = "miller", at = 1 },
      { visible = "lamp", at = 3.9, is = false },
      { visible = "lamp" },
      { visible = "lamp", at = 2 },
    "#;
    let all = outcomes(expect);
    let met: Vec<bool> = all.iter().map(|outcome| outcome.met).collect();
    let should = [true, false, false, true, true, false, true, true, false, true, true, false];
    assert_eq!(met, should, "{all:#?}");
    let told = |index: usize| format!("{} | {}", all[index].expected, all[index].seen);
    assert_eq!(
        told(1),
        "exit pad, then enter pad | enter pad: not after 2.650000 s; but before, at 1.350000 s"
    );
    assert!(told(2).contains("enter far_pad: not after 1.350000 s"), "{}", told(2));
    assert!(
        all[2].why[0].contains("miller was stopped at \"subject is in the shape\""),
        "{:?}",
        all[2]
    );
    assert_eq!(
        told(3),
        "miller within 0.01 m of [0, 0, -3.2] at 5 s | 0.000 m off, at [0.0, 0.0, -3.2]"
    );
    assert!(told(5).contains("miller within 2 m of far_pad at 6 s | 5.886 m off"), "{}", told(5));
    assert_eq!(told(8), "lever is offered to miller at 1 s | it is not offered");
    assert!(all[8].why[0].contains("\"in range\""), "{:?}", all[8].why);
    assert_eq!(told(11), "lamp is visible at 2 s | it is not visible");
}

#[test]
fn what_is_wrong_with_an_expectation_is_located() {
    let bad = |expect: &str| {
        let text = format!("scene = \"yard.scene.toml\"\nseconds = 6\nexpect = [{expect}]\n");
        let findings = read_playtest(&Source::new("p.toml", text), yard()).unwrap_err();
        let finding = &findings[0];
        assert!(finding.help().is_some(), "{finding:?}");
        (finding.code(), finding.place().unwrap(), finding.message().to_owned())
    };
    let enter = "event = \"enter\", on = \"pad\"";
    for (expect, code, says) in [
        ("{ who = \"miller\" }".to_owned(), "one-expectation", "about one of"),
        (format!("{{ {enter}, visible = \"lamp\" }}"), "one-expectation", "about one of"),
        (format!("{{ {enter}, times = 1, never = true }}"), "two-counts", "both say how often"),
        (format!("{{ {enter}, at_least = 3, at_most = 2 }}"), "bad-number", "more at least"),
        (format!("{{ {enter}, between = [3, 2] }}"), "bad-number", "before it may"),
        (format!("{{ {enter}, between = [1, 2], by = 3 }}"), "two-spans", "`between` says both"),
        (format!("{{ {enter}, within = 2 }}"), "no-partner", "`within` goes with `value`, `place`"),
        (format!("{{ {enter}, at = 2 }}"), "no-partner", "goes with `value`, `place`"),
        ("{ place = [0, 0, 0] }".into(), "missing-key", "`who` is missing"),
        ("{ place = [0, 0, 0], who = \"miler\" }".into(), "unknown-name", "miler"),
        ("{ place = [0, 0, 0], who = \"miller\", at = 60 }".into(), "too-late", "over by then"),
        ("{ offered = \"pad\", who = \"miller\" }".into(), "no-detector", "has no prompt"),
        ("{ visible = \"lamp\", is = 3 }".into(), "bad-value", "neither true nor false"),
        (format!("{{ in_order = [{{ {enter} }}] }}"), "one-expectation", "several events"),
        (
            format!("{{ in_order = [{{ {enter} }}, {{ {enter}, times = 2 }}] }}"),
            "one-expectation",
            "each of which happens",
        ),
    ] {
        let (found, place, message) = bad(&expect);
        assert_eq!((found.word(), message.contains(says)), (code, true), "{expect}: {message}");
        assert!(place.starts_with("p.toml:3:"), "{place}");
    }
}

#[test]
fn detectors_are_poked_by_hand() {
    let poked = |poke: &str| {
        let tape = format!("{{ at = 1, who = \"miller\", {poke} }}");
        let expect = "{ event = \"enter\", on = \"far_pad\", who = \"miller\", cause = \"hand\" },
                      { event = \"exit\", on = \"far_pad\", cause = \"hand\" }, { value = \"count.visits\", is = 0 }";
        let report = run_playtest(&playtest(&tape, expect), None);
        report.outcomes.iter().map(|outcome| outcome.met).collect::<Vec<bool>>()
    };
    assert_eq!(poked("poke = \"far_pad\""), [true, false, true]);
    assert_eq!(poked("poke = \"far_pad\", event = \"exit\""), [false, true, true]);
    assert_eq!(poked("poke = \"pad\""), [false, false, false], "reactions hear of it");
    for (poke, code) in [
        ("poke = \"lamp\"", "no-detector"),
        ("poke = \"pad\", event = \"touch\"", "no-detector"),
        ("poke = \"pad\", event = \"entr\"", "unknown-name"),
        ("jump = true, event = \"enter\"", "no-partner"),
    ] {
        let text =
            format!("scene = \"y\"\nseconds = 6\ntape = [{{ at = 1, who = \"miller\", {poke} }}]");
        let findings = read_playtest(&Source::new("p.toml", text), yard()).unwrap_err();
        assert_eq!(findings[0].code(), code, "{findings:?}");
    }
}

#[test]
fn tapes_switch_things_on_and_off() {
    let tape = "{ at = 0, disable = \"pad\" }, { at = 1, who = \"miller\", place_at = [0, 0, 0] },
                { at = 2, enable = \"pad\" }, { at = 3, disable = \"pad\" }";
    let expect = r#"{ event = "enter", on = "pad", between = [2, 2], cause = "enable", times = 1 },
                    { event = "exit", on = "pad", between = [3, 3], cause = "disable" }"#;
    let report = run_playtest(&playtest(tape, expect), None);
    assert!(report.passed(), "{:?}", report.outcomes);
    let text = "scene = \"y\"\nseconds = 6\ntape = [{ at = 1, disable = \"pd\" }]";
    let findings = read_playtest(&Source::new("p.toml", text), yard()).unwrap_err();
    assert_eq!(findings[0].code(), "unknown-name");
}

#[test]
fn failures_say_why_unasked() {
    let all = outcomes(
        r#"{ event = "enter", on = "far_pad", who = "miller" },
           { event = "cue", on = "dawn" },
           { event = "enter", on = "pad", never = true }"#,
    );
    assert_eq!(all[0].line, 8);
    assert_eq!(
        all[0].why,
        [
            "miller was stopped at \"subject is in the shape\": came within 4.500 m at 3.600 s; it lay \
             north (-Z)",
            "cure: bring `miller` 4.500 m north (-Z), or make the shape of `far_pad` so much larger on \
             that side"
        ]
    );
    assert_eq!(all[1].why, ["no action sends `dawn`: a script, a host or the tape would have to"]);
    assert_eq!(all[2].seen, "at 1.350000 s (miller)");
    let quick = Run { quick: true, ..Run::default() };
    let report = run_playtest_as(&playtest(TAPE, "{ event = \"cue\", on = \"dawn\" }"), quick);
    assert!(report.outcomes[0].why.is_empty());
}

#[test]
fn values_are_watched_as_they_change() {
    let scene = yard();
    let watched: Vec<Watched> = ["count.visits", "lamp: who.visible", "miller: who.z < 0"]
        .iter()
        .map(|text| Watched::new(text, &scene).unwrap())
        .collect();
    let run = Run { watched: &watched, ..Run::default() };
    let report = run_playtest_as(&playtest(TAPE, ""), run);
    let told: Vec<String> = report
        .changed
        .iter()
        .map(|it| format!("{} {} {}→{} {}", it.time, it.text, it.was, it.is, it.event.is_some()))
        .collect();
    let should = [
        "0.000000 count.visits →0 false",
        "0.000000 lamp: who.visible →false false",
        "0.000000 miller: who.z < 0 →false false",
        "1.350000 count.visits 0→1 true",
        "2.100000 miller: who.z < 0 false→true false",
        "4.000000 lamp: who.visible false→true true",
    ];
    assert_eq!(told, should);
    // Watching changes nothing.
    assert_eq!(report.entries, run_playtest(&playtest(TAPE, ""), None).entries);
    for (text, code) in [
        ("count.vists", "bad-expression"),
        ("miler: who.x", "unknown-name"),
        ("who.x", "missing-key"),
        ("1 +", "bad-expression"),
    ] {
        assert_eq!(Watched::new(text, &scene).unwrap_err().code(), code, "{text}");
    }
}

#[test]
fn what_is_fragile_is_found_by_starting_a_little_otherwise() {
    // The pad is entered at 1.35 s, give or take a few milliseconds.
    let sturdy = playtest(TAPE, "{ event = \"enter\", on = \"pad\", between = [1.2, 1.5] }");
    assert!(jitter(&sturdy, None, 20).fragile.is_empty());
    let fragile = playtest(TAPE, "{ event = \"enter\", on = \"pad\", by = 1.35 }");
    let found = jitter(&fragile, None, 20);
    let [only] = found.fragile.as_slice() else { panic!("{found:?}") };
    assert!((1..20).contains(&only.missed), "{only:?}");
    assert_eq!((only.line, only.expected.as_str()), (8, "enter pad, by 1.35 s"));
    assert!(only.seen.starts_with("never; instead at 1.35"), "{only:?}");
    let again = jitter(&fragile, None, 20);
    assert_eq!(format!("{found:?}"), format!("{again:?}"));
}

#[test]
fn differences_are_told_as_events() {
    let first = playtest(TAPE, "");
    let play = first.play();
    let report = |test: &Playtest, rate| run_playtest(test, Some(rate)).entries;
    let was = report(&first, 60);
    assert!(differences(&play, &was, &report(&first, 7)).is_empty());
    let later = TAPE.replace("at = 4,", "at = 4.5,");
    let told: Vec<String> = differences(&play, &was, &report(&playtest(&later, ""), 60))
        .iter()
        .map(ToString::to_string)
        .collect();
    assert_eq!(told[0], "changed              accept lever miller: t 4.0 → 4.5");
    let without = report(&playtest("{ at = 0, who = \"miller\", walk_to = [0, 0, -3.2] }", ""), 60);
    let missing: Vec<Difference> = differences(&play, &was, &without);
    assert!(
        missing.iter().any(|it| it.to_string() == "missing    4.000000  accept lever miller"),
        "{missing:?}"
    );
    let extra = differences(&play, &without, &was);
    assert_eq!(extra.len(), missing.len());
    assert!(matches!(&extra[0], Difference::Extra { t, .. } if *t == 4.0), "{extra:?}");
    assert!(differences_of_logs("", "not json\n").is_empty());
}

#[test]
fn results_for_build_servers() {
    let report = run_playtest(
        &playtest(TAPE, "{ event = \"enter\", on = \"pad\" }, { event = \"cue\", on = \"a<b\" }"),
        None,
    );
    let unread = read_scene(&Source::new("bad.toml", "[[entity]]\n")).unwrap_err();
    let xml = junit(&[("yard".into(), Ok(report)), ("bad".into(), Err(unread))]).unwrap();
    for part in [
        "<testsuites name=\"hazuro\" tests=\"3\" failures=\"1\" errors=\"1\"",
        "<testsuite name=\"yard\" tests=\"2\"",
        "<testcase name=\"enter pad\"",
        "<testcase name=\"cue a&lt;b\"",
        "message=\"line 8: not met\"",
        "bad.toml:",
    ] {
        assert!(xml.contains(part), "{part} in\n{xml}");
    }
}

#[test]
fn coverage_tells_what_was_tried() {
    let scene = yard();
    let mut coverage = Coverage::default();
    let mut run = |tape: &str| -> Report {
        run_playtest_as(
            &playtest(tape, ""),
            Run { coverage: Some(&mut coverage), ..Run::default() },
        )
    };
    run(TAPE);
    let table = CoverageTable::of(&scene, &coverage);
    let row = |table: &CoverageTable, on: &str| {
        table.detectors.iter().find(|row| row.on == on).unwrap().clone()
    };
    let pad = row(&table, "pad");
    assert_eq!((pad.detector, pad.fired, pad.by), ("zone", 1, vec![("person".into(), 1)]));
    let nearly = row(&table, "far_pad").nearly.unwrap();
    assert_eq!((nearly.gate, nearly.amount, nearly.unit), ("in-shape", Some(4.5), Some("m")));
    let light = &table.reactions[1];
    assert_eq!((light.ran, light.condition), (1, Some((1, 0))));
    assert_eq!(light.actions, [("show", 1, 0), ("say", 1, 0), ("say", 0, 0)]);
    let total = table.total;
    assert_eq!((total.detectors.done, total.detectors.all), (2, 3));
    assert_eq!((total.reactions.done, total.conditions.done, total.conditions.all), (2, 1, 2));
    // What other playtests try is added.
    let mut run = |tape: &str| {
        run_playtest_as(
            &playtest(tape, ""),
            Run { coverage: Some(&mut coverage), ..Run::default() },
        )
    };
    run(
        "{ at = 0, who = \"miller\", place_at = [0, 0, -3.2] }, { at = 1, who = \"miller\", press = \"KeyE\" }, { at = 2, who = \"miller\", place_at = [0, 0, -9] }",
    );
    let table = CoverageTable::of(&scene, &coverage);
    assert_eq!(row(&table, "far_pad").fired, 1);
    assert_eq!(table.reactions[1].condition, Some((1, 1)));
    assert_eq!(table.reactions[1].actions[2], ("say", 1, 0));
    let sum = table.total.sum();
    assert_eq!(sum.done, sum.all, "{table:#?}");
}

#[test]
fn an_answer_tells_gates_firings_and_notes() {
    let scene = yard();
    let test = playtest(TAPE, "");
    let ask = |event: &str, on: &str, who: Option<&str>| {
        explain(&test, &Question::new(&scene, event, Some(on), who).unwrap())
    };
    let enter = ask("enter", "pad", Some("miller"));
    assert_eq!(enter.question, "enter pad by miller");
    let [firing] = enter.fired.as_slice() else { panic!("{enter:?}") };
    assert_eq!(
        (firing.t, firing.cause, firing.part.as_deref()),
        (1.35, Some("move"), Some("body"))
    );
    let [reacted] = firing.reactions.as_slice() else { panic!("{enter:?}") };
    assert_eq!(reacted.reaction, "reaction 1 (on enter pad)");
    assert_eq!(reacted.did, [(1.35, "→ count visits +1".to_owned())]);
    let gates: Vec<&str> = enter.candidates[0].gates.iter().map(|gate| gate.gate).collect();
    let all = [
        "enabled",
        "present",
        "apart",
        "admitted",
        "in-shape",
        "edge",
        "once",
        "cooldown",
        "condition",
    ];
    assert_eq!(gates, all);
    let accept = ask("accept", "lever", None);
    assert_eq!(accept.fired[0].reactions[0].did.len(), 2);
    assert!(ask("exit", "far_pad", None).notes[0].starts_with("no reaction waits for `exit`"));
    assert!(ask("inside", "pad", None).notes[0].contains("tells no `inside`"));
    let json = serde_json::to_value(ask("enter", "far_pad", None)).unwrap();
    assert_eq!(json["candidates"][0]["miss"]["gate"], "in-shape");
    assert_eq!(json["candidates"][0]["miss"]["amount"], 4.5);
    assert_eq!(json["fired"].as_array().unwrap().len(), 0);
    for (event, on, code) in [
        ("entr", "pad", "unknown-name"),
        ("enter", "pd", "unknown-name"),
        ("enter", "lever", "no-detector"),
    ] {
        let fault = Question::new(&scene, event, Some(on), None).unwrap_err();
        assert_eq!(fault.code(), code);
    }
    // Asked about a span, only that counts.
    let late = Question {
        from: hazuro::Time::from_secs(2.0),
        ..Question::new(&scene, "enter", Some("pad"), None).unwrap()
    };
    assert!(explain(&test, &late).fired.is_empty());
}

#[test]
fn what_happens_again_and_again_comes_with_advice() {
    let scene = yard();
    let tape: Vec<String> = (0..4)
        .map(|visit| {
            let at = f64::from(visit);
            format!("{{ at = {at:?}, who = \"miller\", place_at = [0, 0, 0] }}, {{ at = {:?}, who = \"miller\", place_at = [0, 0, 4] }}", at + 0.4)
        })
        .collect();
    let test = playtest(&tape.join(", "), "");
    let question = Question::new(&scene, "enter", Some("pad"), Some("miller")).unwrap();
    let answer = explain(&test, &question);
    assert_eq!(answer.fired.len(), 4);
    assert!(answer.notes[0].contains("`cooldown` longer than 1.000 s"), "{:?}", answer.notes);
    let stays = playtest("{ at = 0, who = \"miller\", place_at = [0, 0, 0] }", "");
    let exit = Question::new(&scene, "exit", Some("pad"), Some("miller")).unwrap();
    let notes = explain(&stays, &exit).notes;
    assert!(notes[0].contains("still is at the end"), "{notes:?}");
    let refused = Question::new(&scene, "accept", Some("lever"), Some("miller")).unwrap();
    let notes = explain(&stays, &refused).notes;
    assert_eq!(notes[0], "`miller` never pressed KeyE, which `lever` answers to");
}
