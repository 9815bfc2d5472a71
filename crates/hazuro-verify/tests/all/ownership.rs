//! Whose things are, as files say it: rules, actions, deeds of a tape, expectations, findings, why.

use hazuro_format::Source;
use hazuro_script::read_scene;
use hazuro_verify::{Question, check_scene, explain, read_playtest, run_playtest};

use crate::slots::passes;

/// A boat that whoever pulls its oar first owns, with a lid that belongs to it, and a crate.
const JETTY: &str = r#"
[kind.player]
player = true
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 4 }

[[entity]]
name = "floor"
at = [0, -0.5, 0]
solid = { box = [40, 1, 40] }

[[entity]]
name = "ada"
kind = "player"

[[entity]]
name = "bo"
kind = "player"
at = [2, 0, 0]

[[entity]]
name = "boat"
at = [0, 0.5, -3]
ownership = { by = "host", keep = 5 }
prompt = { reach = 9 }

[[entity]]
name = "lid"
parent = "boat"
interact = { reach = 9 }

[[entity]]
name = "crate"
at = [1, 0.3, 1]
body = { box = [0.6, 0.6, 0.6] }
carry = { reach = 3 }
ownership = {}

[[reaction]]
on = { accept = "boat" }
do = [{ own = "boat", to = "who" }]

[[reaction]]
on = { own = "boat" }
do = [{ count = "rides", add = 1 }]

[[reaction]]
on = { disown = "boat" }
do = [{ count = "back", add = 1 }]
"#;

const TAPE: &str = r#"
seconds = 12
tape = [
  { at = 1, who = "ada", interact = "boat" },
  { at = 2, who = "bo", interact = "boat" },
  { at = 2, who = "bo", interact = "lid" },
  { at = 2, who = "ada", interact = "lid" },
  { at = 2.5, who = "ada", grab = "crate" },
  { at = 3, who = "bo", grab = "crate" },
  { at = 3.5, who = "ada", throw = [0, 2, 0] },
  { at = 7, who = "bo", interact = "boat" },
  { at = 8, who = "bo", leave = true },
  { at = 9, who = "bo", join = true },
  { at = 10, who = "bo", own = "crate" },
  { at = 11, disown = "crate" },
]
expect = [
  { event = "own", on = "boat", who = "ada", between = [1, 1] },
  { event = "disown", on = "boat", who = "ada", cause = "expire", between = [6, 6] },
  { event = "own", on = "boat", who = "bo", between = [7, 7] },
  { event = "disown", on = "boat", who = "bo", cause = "remove", between = [8, 8] },
  { event = "interact", on = "lid", who = "bo", never = true },
  { event = "interact", on = "lid", who = "ada", times = 1 },
  { in_order = [
    { event = "own", on = "crate", who = "ada" },
    { event = "grab", on = "crate", who = "ada" },
    { event = "drop", on = "crate", who = "ada" },
    { event = "settle", on = "crate", who = "ada" },
    { event = "disown", on = "crate", who = "ada", cause = "rest" },
    { event = "own", on = "crate", who = "bo" },
    { event = "disown", on = "crate", who = "bo", cause = "action" },
  ] },
  { event = "grab", on = "crate", who = "bo", never = true },
  { kept = "crate", who = "bo", why = "it belongs to ada since 2.500 s", between = [3, 3] },
  { kept = "crate", times = 1 },
  { kept = "crate", who = "ada", never = true },
  { value = "who.owner", who = "boat", is = "", at = 0.5 },
  { value = "who.owner", who = "boat", is = "ada", at = 1.5 },
  { value = "count.rides", is = 2 },
  { value = "count.back", is = 2 },
  { place = [2, 0, 0], who = "bo", at = 9.5 },
]
"#;

/// The findings of a scene, as `code message / help`.
fn found(text: &str) -> Vec<String> {
    let source = Source::new("jetty.toml", text);
    let scene = read_scene(&source).unwrap_or_else(|findings| panic!("{findings:#?}"));
    let findings = check_scene(&source, &scene.into());
    findings.iter().map(crate::support::told).collect()
}

#[test]
fn what_is_owned_is_so_in_files_and_expectations() {
    passes(JETTY, TAPE);
    assert_eq!(found(JETTY), [""; 0]);
}

#[test]
fn why_says_to_whom_it_belongs_and_since_when() {
    let scene = read_scene(&Source::new("jetty.toml", JETTY)).unwrap();
    let text = format!("scene = \"jetty.toml\"\n{TAPE}");
    let playtest = read_playtest(&Source::new("jetty.playtest.toml", text), scene.into()).unwrap();
    let ask = |event: &str, on: &str| {
        explain(&playtest, &Question::new(playtest.scene(), event, Some(on), Some("bo")).unwrap())
    };
    let lid = ask("interact", "lid");
    let miss = lid.candidates[0].miss.as_ref().unwrap();
    assert_eq!((miss.gate, miss.saw.as_str()), ("own", "it belongs to `ada` since 1.000 s"));
    let cure = miss.cure.as_deref().unwrap();
    assert!(cure.contains("wait until `lid` belongs to nobody"), "{cure}");
    let grab = ask("grab", "crate");
    let refused = "at 3.000000 s `grab crate for bo` was refused: it belongs to ada since 2.500 s";
    assert!(grab.notes.iter().any(|note| note == refused), "{:?}", grab.notes);
}

#[test]
fn what_never_belongs_to_anybody_is_found() {
    let told = |rule: &str, more: &str| -> Vec<String> {
        let body = "body = { sphere = { radius = 0.2 } }";
        let cup = format!("[[entity]]\nname = \"cup\"\n{body}\nownership = {rule}\n{more}");
        found(&cup).into_iter().filter(|finding| finding.contains("never-owned")).collect()
    };
    let [first] = &told("{}", "")[..] else { panic!("nobody can take it") };
    assert!(first.contains("`cup` never belongs to anybody"), "{first}");
    assert!(first.contains("give it a `carry` or a `drag`"), "{first}");
    assert_eq!(told("{}", "carry = {}"), [""; 0]);
    assert_eq!(told("{ by = \"host\" }", "carry = {}").len(), 1);
    let gives = "[[reaction]]\non = { cue = \"a\" }\ndo = [{ own = \"cup\", to = \"cup\" }]";
    assert_eq!(told("{ by = \"host\" }", gives), [""; 0]);
    assert_eq!(told("{ by = \"creator\" }", "").len(), 1);
}

#[test]
fn why_somebody_was_not_kept_from_a_thing_is_said() {
    let scene = std::sync::Arc::new(read_scene(&Source::new("jetty.toml", JETTY)).unwrap());
    let run = |expected: &str| {
        let tape = TAPE.split("expect").next().unwrap();
        let text = format!("scene = \"jetty.toml\"\n{tape}expect = [{{ {expected} }}]\n");
        read_playtest(&Source::new("jetty.playtest.toml", text), scene.clone())
    };
    for (expected, seen, why) in [
        (
            "kept = \"crate\", who = \"ada\"",
            "never; instead at 3.000000 s (bo: it belongs to ada since 2.500 s)",
            "ada got it at 2.5 s `grab crate for ada`, by line 9 of the tape",
        ),
        ("kept = \"boat\", who = \"bo\"", "never", "bo got it at 7 s `own boat"),
        ("kept = \"boat\", by = 0.5", "never", "nobody wanted to take boat by then"),
        (
            "kept = \"crate\", who = \"bo\", by = 2.9",
            "never; instead",
            "bo did not want to take crate",
        ),
        ("kept = \"crate\", why = \"heavy\"", "never; instead at 3", "bo got it at 10 s"),
        (
            "kept = \"crate\", never = true",
            "at 3.000000 s (bo:",
            "at 3 s `grab crate for bo` was refused",
        ),
    ] {
        let report = run_playtest(&run(expected).unwrap_or_else(|it| panic!("{it:#?}")), None);
        let outcome = &report.outcomes[0];
        assert!(!outcome.met && outcome.seen.starts_with(seen), "{expected}: {outcome:#?}");
        assert!(outcome.why[0].starts_with(why), "{expected}: {:?}", outcome.why);
    }
    let wrong = |expected| crate::support::told(&run(expected).unwrap_err()[0]);
    let no_thing = wrong("kept = \"floor\"");
    assert!(no_thing.contains("no-detector `floor` can be taken by nobody"), "{no_thing}");
    let no_word = wrong("event = \"own\", why = \"late\"");
    assert!(no_word.contains("no-partner `why` goes with `kept`"), "{no_word}");
}

#[test]
fn what_is_wrong_with_an_ownership_is_located() {
    let told = |text: &str| -> Vec<String> {
        let before = "[[entity]]\nname = \"cup\"\ntags = [\"red\"]\n";
        let source = Source::new("f", format!("{before}{text}"));
        read_scene(&source).err().unwrap_or_default().iter().map(crate::support::told).collect()
    };
    for (text, wanted) in [
        (
            "ownership = { by = \"frist\" }",
            "4:20 bad-value `frist` is none of the words that can be here / did you mean `first`?",
        ),
        (
            "ownership = { by = [] }",
            "4:20 no-team there is no team that may own it / name the tags of the teams: by = [\"red\", \"blue\"]",
        ),
        (
            "ownership = { by = [\"rde\"] }",
            "4:21 unknown-name there is no tag named `rde` / did you mean `red`?",
        ),
        (
            "ownership = { keep = -1 }",
            "4:22 bad-number -1 is not a number of seconds from 0 to 3000000",
        ),
        ("route = { through = [\"cup\"] }", "4:21 nowhere there are too few places here to go to"),
        (
            "[[reaction]]\non = { start = true }\ndo = [{ own = \"cup\", to = \"cup\" }]",
            "6:15 unable `own` needs an `ownership`, and `cup` has none / give `cup` an `ownership`",
        ),
        (
            "[[reaction]]\non = { start = true }\ndo = [{ disown = \"cup\", to = \"cup\" }]",
            "6:30 no-partner `to` does not go with `disown`",
        ),
    ] {
        let told = told(text);
        assert!(told.len() == 1 && told[0].starts_with(wanted), "{text}: {told:?}");
    }
}
