//! Texts for one player and for all, cues of somebody, and whether a playtest sees who was told what.

use hazuro_format::{Source, write_scene};
use hazuro_script::read_scene;
use hazuro_verify::{Report, read_playtest};

use crate::slots::{passes, played};

/// A toll that tells whoever comes how much it is, and everybody when it is paid.
const TOLL: &str = r#"
[kind.player]
player = true
tags = ["player"]
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 4 }

[[entity]]
name = "ada"
kind = "player"
at = [-4, 0, 0]

[[entity]]
name = "bo"
kind = "player"
at = [-4, 0, 3]

[[entity]]
name = "toll"
zone = { box = [2, 2, 1] }
at = [0, 1, 0]

[[reaction]]
on = { enter = "toll" }
do = [{ say = "price", to = "who" }, { cue = "came", on = "toll", who = "bo" }]

[[reaction]]
on = { cue = "paid" }
if = "who == \"ada\""
do = [{ say = "open" }, { say = "thanks", to = "kind:player" }]

[[reaction]]
on = { cue = "came" }
do = [{ count = "of_bo", add = 'if who == "bo" && on == "toll" { 1 } else { 0 }' }]

[texts]
price = "Two pennies, {who}."
open = "The way is open."
thanks = "Go on."
"#;

const TAPE: &str = r#"
seconds = 4
tape = [
  { at = 0, who = "ada", walk_to = [0, 0, 0] },
  { at = 2, cue = "paid", who = "bo" },
  { at = 3, cue = "paid", who = "ada" },
]
"#;

fn expecting(expect: &str) -> Report {
    played(TOLL, &format!("{TAPE}expect = [{{ {expect} }}]"))
}

#[test]
fn a_text_is_shown_to_one_to_some_or_to_all() {
    let expect = r#"expect = [
  { said = "price", who = "ada", times = 1, between = [0.5, 1] },
  { said = "price", who = "bo", never = true },
  { said = "open", who = "bo", after = 3 },
  { said = "open", times = 1, by = 3 },
  { said = "thanks", times = 2 },
  { said = "thanks", who = "bo", times = 1 },
  { value = "count.of_bo", is = 1 },
  { event = "cue", on = "paid", who = "bo", times = 1 },
]"#;
    passes(TOLL, &format!("{TAPE}{expect}"));
    let entries = played(TOLL, &format!("{TAPE}{expect}")).entries;
    let told = entries.iter().filter_map(|entry| match &entry.what {
        hazuro::Happening::Said { text, to, .. } => Some((text.as_str(), to.is_some())),
        _ => None,
    });
    let wanted = [
        ("Two pennies, ada.", true),
        ("The way is open.", false),
        ("Go on.", true),
        ("Go on.", true),
    ];
    assert!(told.eq(wanted));
}

#[test]
fn a_text_that_was_not_shown_says_why() {
    for (expect, seen, why) in [
        (
            "said = \"price\", who = \"bo\"",
            "never; instead at 0.675000 s (to ada)",
            "it was shown last at 0.675 s",
        ),
        (
            "said = \"open\", by = 2.5",
            "never; instead at 3.000000 s",
            "was stopped for bo at \"condition holds\": `who == \"ada\"`",
        ),
        (
            "said = \"thanks\", times = 3",
            "2 times: at 3.000000 s (to ada), at 3.000000 s (to bo)",
            "was stopped",
        ),
        ("said = \"open\", never = true", "at 3.000000 s", "it was shown at 3 s"),
    ] {
        let report = expecting(expect);
        let outcome = &report.outcomes[0];
        assert!(!outcome.met);
        assert_eq!(outcome.seen, seen, "{expect}");
        assert!(outcome.why.join("; ").contains(why), "{expect}: {:?}", outcome.why);
    }
}

#[test]
fn what_is_wrong_about_a_text_is_located() {
    let scene = read_scene(&Source::new("f", TOLL)).unwrap_or_else(|it| panic!("{it:#?}"));
    let scene = std::sync::Arc::new(scene);
    for (expect, wanted) in [
        (
            "said = \"prise\"",
            "3:20 unknown-name there is no text named `prise` / did you mean `price`?",
        ),
        ("said = \"price\", who = \"cy\"", "3:35 unknown-name there is no entity named `cy`"),
        (
            "said = \"price\", at = 2",
            "3:34 no-partner `at` goes with `value`, `place`, `offered`, `visible` / here use after, by or between",
        ),
        (
            "said = \"price\", event = \"enter\"",
            "3:11 one-expectation an expectation is about one of: event, in_order, said, kept, value, place, offered, visible / as in",
        ),
    ] {
        let text = format!("scene = \"f\"\nseconds = 1\nexpect = [{{ {expect} }}]\n");
        let findings = read_playtest(&Source::new("p", text), scene.clone()).unwrap_err();
        let told = crate::support::told(&findings[0]);
        assert!(told.starts_with(wanted), "{told}");
    }
}

#[test]
fn texts_and_cues_of_somebody_are_written_as_they_were_read() {
    let scene = read_scene(&Source::new("a", TOLL)).unwrap_or_else(|it| panic!("{it:#?}"));
    let written = write_scene(&scene);
    let again = read_scene(&Source::new("b", written.clone()));
    assert_eq!(again.unwrap_or_else(|it| panic!("{written}\n{it:#?}")), scene, "{written}");
}

#[test]
fn who_lacks_the_stat_of_a_condition_is_not_admitted() {
    let scene = |condition: &str| {
        format!(
            r#"
[[entity]]
name = "ada"
at = [-4, 0.5, 0]
stats = {{ strength = {{ start = 5 }} }}
body = {{ sphere = {{ radius = 0.3 }} }}

[[entity]]
name = "weak"
at = [-4, 0.5, 1]
stats = {{ strength = {{ start = 1 }} }}
body = {{ sphere = {{ radius = 0.3 }} }}

[[entity]]
name = "leaf"
at = [-4, 0.5, 2]
body = {{ sphere = {{ radius = 0.3 }} }}

[[entity]]
name = "plate"
zone = {{ box = [2, 2, 9] }}
admit = {{ if = '{condition}' }}
"#
        )
    };
    let tape = r#"
seconds = 3
tape = [
  { at = 0, who = "ada", drive_to = [0, 0.5, 0], over = 2 },
  { at = 0, who = "weak", drive_to = [0, 0.5, 1], over = 2 },
  { at = 0, who = "leaf", drive_to = [0, 0.5, 2], over = 2 },
]
expect = [
  { event = "enter", on = "plate", who = "ada" },
  { event = "enter", on = "plate", who = "weak", never = true },
  { event = "enter", on = "plate", who = "leaf", LEAF },
]
"#;
    let problems = |report: &Report| {
        let is = |entry: &&hazuro::Entry| matches!(entry.what, hazuro::Happening::Problem { .. });
        report.entries.iter().filter(is).count()
    };
    let strong = scene("who.stat.strength > 3");
    let report = played(&strong, &tape.replace("LEAF", "never = true"));
    assert!(report.passed() && problems(&report) == 0, "{:#?}", report.outcomes);
    // What holds without the stat admits.
    let leaf = scene("who == \"leaf\" || who.stat.strength > 3");
    assert!(played(&leaf, &tape.replace("LEAF", "times = 1")).passed());
    // Why says what it lacks; any other failure is a problem as ever.
    let report = played(&strong, &tape.replace("LEAF", "times = 1"));
    let why = report.outcomes[2].why.join("; ");
    assert!(why.contains("who.stat.strength was not there"), "{why}");
    let broken = scene("who.tags[3] == 1");
    assert!(problems(&played(&broken, &tape.replace("LEAF", "never = true"))) > 0);
}
