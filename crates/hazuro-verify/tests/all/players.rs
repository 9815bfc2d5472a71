//! Playtests of several players, each at a desk of their own, over lines that may be bad.

use std::sync::Arc;

use hazuro::{Entry, Scene};
use hazuro_format::{Finding, Source};
use hazuro_script::read_scene;
use hazuro_verify::{
    Playtest, Question, Report, Run, check_playtest, differences, explain, jitter, read_playtest,
    run_playtest, run_playtest_as,
};
use proptest::prelude::*;

use crate::support::told;

/// Two players and somebody who is none, a sack that belongs to whoever takes it, a pad that counts, and a
/// letter for ada alone.
const QUAY: &str = r#"
[scene]
name = "Quay"
counts = { visits = 0 }

[kind.player]
player = true
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 3 }

[[entity]]
name = "floor"
at = [0, -0.5, 0]
solid = { box = [40, 1, 40] }

[[entity]]
name = "ada"
kind = "player"

[[entity]]
name = "bob"
kind = "player"
at = [2, 0, 0]

[[entity]]
name = "crane"
at = [0, 6, 9]
body = { sphere = { radius = 0.2 } }

[[entity]]
name = "sack"
at = [0, 0.3, -1]
body = { box = [0.6, 0.6, 0.6] }
carry = { reach = 4 }
ownership = {}

[[entity]]
name = "pad"
at = [2, 1, -4]
zone = { box = [2, 2, 2] }
admit = { players = true }

[[reaction]]
on = { enter = "pad" }
do = [{ count = "visits", add = 1 }]
"#;

fn scene(text: &str) -> Arc<Scene> {
    let source = Source::new("quay.toml", text);
    Arc::new(read_scene(&source).unwrap_or_else(|found| panic!("{found:#?}")))
}

fn read(scene: &Arc<Scene>, text: &str) -> Result<Playtest, Vec<Finding>> {
    let text = format!("scene = \"quay.toml\"\n{text}");
    read_playtest(&Source::new("quay.playtest.toml", text), Arc::clone(scene))
}

fn playtest(text: &str) -> Playtest {
    read(&scene(QUAY), text).unwrap_or_else(|found| panic!("{found:#?}"))
}

fn passes(text: &str) -> Report {
    let report = run_playtest(&playtest(text), None);
    assert!(report.passed(), "{:#?}\n{:#?}", report.outcomes, report.lines);
    report
}

/// What was seen of the first expectation and why it was not met.
fn why(text: &str) -> String {
    let report = run_playtest(&playtest(text), None);
    let outcome = &report.outcomes[0];
    assert!(!outcome.met, "{outcome:?}");
    format!("{} / {} / {}", outcome.expected, outcome.seen, outcome.why.join("; "))
}

#[test]
fn a_sack_thrown_by_one_is_seen_by_the_other_who_gets_it_only_when_it_lies_still() {
    passes(
        r#"
seconds = 8
players.ada = { delay = 0.05 }
players.bob = { delay = 0.2 }
tape = [
  { at = 1, who = "ada", grab = "sack" },
  { at = 2, who = "ada", throw = [0, 4, -2] },
  { at = 2.3, who = "bob", grab = "sack" },
  { at = 5, who = "bob", walk_to = [0, 0, -3] },
  { at = 6.5, who = "bob", grab = "sack" },
]
expect = [
  # The delay of ada's line, and a tick or two.
  { event = "grab", on = "sack", who = "ada", between = [1.0, 1.1] },
  { event = "grab", on = "sack", who = "ada", seen_by = "bob", between = [1.2, 1.34] },
  { event = "drop", on = "sack", who = "ada", seen_by = "bob", between = [2.2, 2.34] },
  { value = "who.owner", who = "sack", is = "", at = 1.1, seen_by = "bob" },
  { value = "who.owner", who = "sack", is = "ada", at = 1.1 },
  { value = "who.owner", who = "sack", is = "ada", at = 1.4, seen_by = "bob" },
  { kept = "sack", who = "bob", why = "belongs to ada", times = 1 },
  { in_order = [
    { event = "disown", on = "sack", who = "ada", cause = "rest" },
    { event = "own", on = "sack", who = "bob" },
  ], seen_by = "ada" },
  { value = "who.owner", who = "sack", is = "bob", at = 7.5, seen_by = "ada" },
  { place = [0, 0, 0], who = "ada", seen_by = "bob" },
]
"#,
    );
}

#[test]
fn what_one_was_not_told_in_time_says_why() {
    let tape = "seconds = 4\nplayers.ada = {}\nplayers.bob = { delay = 0.3 }\ntape = [\n  \
                { at = 0.5, who = \"ada\", walk_to = \"pad\" },\n  { at = 2.5, who = \"bob\", join = true },\n]\n";
    let why = |expected: &str| why(&format!("{tape}expect = [{{ {expected} }}]\n"));
    assert_eq!(
        why("event = \"enter\", on = \"pad\", seen_by = \"ada\", by = 0.9"),
        "enter pad, by 0.9 s, seen by ada / never; instead at 1.650000 s (ada) / it happened at 1.630108 s, \
         and ada was told of it at 1.65 s"
    );
    let late = why("event = \"enter\", on = \"pad\", who = \"ada\", seen_by = \"bob\"");
    assert!(late.contains("before bob was in, at 3.1"), "{late}");
    assert!(late.ends_with("whoever comes is told what is so, not what has happened"), "{late}");
    let absent = why("value = \"count.visits\", is = 1, at = 2, seen_by = \"bob\"");
    assert_eq!(absent, "count.visits is 1 at 2 s, seen by bob / bob was not in the play then / ");
    let never = why("event = \"exit\", on = \"pad\", seen_by = \"ada\"");
    assert!(never.starts_with("exit pad, seen by ada / never / "), "{never}");
    assert!(never.len() > 40, "the play itself says why: {never}");
}

#[test]
fn every_tool_asks_the_play_as_the_host_heard_it() {
    let playtest = playtest(
        "seconds = 4\nplayers.ada = { delay = 0.25 }\n\ntape = [\n  { at = 1, who = \"ada\", walk_to = \"pad\" },\n  \
         { at = 1, who = \"bob\", walk_to = [4, 0, 0] },\n]\n",
    );
    let report = run_playtest(&playtest, None);
    let entered =
        report.entries.iter().filter_map(Entry::event).find(|it| it.on.is_some()).unwrap();
    // Over a line with a delay, the walk begins later than it was meant; who is at the host's desk walks at once.
    let begun: Vec<f64> = playtest.tape().iter().map(|(at, _)| at.secs()).collect();
    assert!(begun.contains(&1.0) && begun.iter().any(|at| *at > 1.2), "{begun:?}");
    assert!(entered.time.secs() > 2.1, "{entered:?}");
    let question = Question::new(playtest.scene(), "enter", Some("pad"), Some("ada")).unwrap();
    let firing = &explain(&playtest, &question).fired[0];
    let last = firing.came_of.last().unwrap();
    assert_eq!(
        last.place.as_deref(),
        Some("quay.playtest.toml:6"),
        "the line of the tape: {last:?}"
    );
    // A play of it by hand gives the same.
    let mut play = playtest.play();
    assert_eq!(play.advance(playtest.length()).to_vec(), report.entries);
    for rate in [15, 240] {
        let other = run_playtest(&playtest, Some(rate));
        let different = differences(&playtest.play(), &report.entries, &other.entries);
        assert!(different.is_empty(), "at {rate}: {}", different[0]);
    }
}

#[test]
fn players_come_leave_and_are_cut_off() {
    let report = passes(
        r#"
seconds = 20
players.ada = { delay = 0.02 }
players.bob = { delay = 0.02, cut = [4, 16] }
tape = [
  { at = 0.5, who = "bob", walk_to = "pad" },
  { at = 1, who = "ada", leave = true },
  { at = 2, who = "ada", join = true },
  { at = 2.5, who = "ada", walk_to = [2, 0, 3] },
  # What is wanted while the line is cut is done as soon as it may be, or too late.
  { at = 17, who = "bob", walk_to = [2, 0, 0] },
]
expect = [
  { value = "count.visits", is = 1, at = 3, seen_by = "ada" },
  { event = "exit", on = "pad", who = "bob", after = 17, seen_by = "ada" },
  { event = "exit", on = "pad", who = "bob", after = 17, seen_by = "bob" },
  { place = [2, 0, 3], who = "ada", at = 19, seen_by = "bob" },
  { place = [2, 0, 0], who = "bob", at = 19, seen_by = "ada" },
]
"#,
    );
    let said = report.lines.join("\n");
    assert!(said.contains("bob was cut off at 14."), "after ten seconds of silence: {said}");
    assert!(said.contains("bob was back at 16."), "{said}");
}

#[test]
fn what_could_not_be_done_is_told() {
    let report = run_playtest(
        &playtest(
            "seconds = 3\nplayers.ada = {}\ntape = [\n  { at = 1, who = \"ada\", leave = true },\n  \
             { at = 2, who = \"ada\", grab = \"sack\" },\n]\n",
        ),
        None,
    );
    assert_eq!(
        report.lines,
        ["line 6 of the tape was not done, at 2 s: ada grabs sack: there is nobody at the desk"]
    );
    // Whoever leaves over a line on which much is lost has left for all that, and comes again.
    let again = "seconds = 6\nplayers.ada = { loss = 0.4 }\ntape = [\n  { at = 2, who = \"ada\", leave = true },\n  \
                 { at = 3, who = \"ada\", join = true },\n  { at = 3, who = \"ada\", join = true },\n]\nexpect = [\n  \
                 { visible = \"ada\", is = false, at = 2.9 },\n  \
                 { visible = \"ada\", at = 5 },\n]\n";
    assert!(passes(again).lines[0].ends_with("ada comes in: somebody is at the desk already"));
    let lines = |line: &str, tape: &str| {
        let text = format!("seconds = 3\nplayers.ada = {line}\ntape = [\n{tape}]\n");
        run_playtest(&playtest(&text), None).lines
    };
    // More than sixty a second are no player's doing.
    let many = "  { at = 1, who = \"ada\", face = \"pad\" },\n".repeat(70);
    let refused = lines("{}", &many);
    let last = "line 74 of the tape was not done, at 1 s: ada faces pad: there are more than 60 deeds a second";
    assert!(refused.iter().any(|it| it == last), "{refused:?}");
    assert_eq!(lines("{ delay = 5 }", ""), ["ada was never let in"]);
}

#[test]
fn nobody_is_told_of_anothers_secret() {
    let letter = "[[entity]]\nname = \"letter\"\nat = [0, 0.5, -3]\nzone = { sphere = { radius = 0.5 } }\n\
                  ownership = { by = \"host\", secret = true }\n";
    let text = "seconds = 4\nplayers.ada = {}\nplayers.bob = {}\ntape = [\n  \
                { at = 0.5, who = \"ada\", own = \"letter\" },\n  \
                { at = 1, who = \"ada\", walk_to = \"letter\" },\n  { at = 1, who = \"bob\", walk_to = \"pad\" },\n]\n\
                expect = [\n  { event = \"enter\", on = \"letter\", who = \"ada\", seen_by = \"ada\" },\n  \
                { event = \"enter\", on = \"letter\", seen_by = \"bob\", never = true },\n  \
                { event = \"enter\", on = \"pad\", who = \"bob\", seen_by = \"ada\" },\n  \
                { event = \"enter\", on = \"letter\", seen_by = \"bob\" },\n]\n";
    let playtest = read(&scene(&format!("{QUAY}{letter}")), text).unwrap();
    let report = run_playtest(&playtest, None);
    let met: Vec<bool> = report.outcomes.iter().map(|outcome| outcome.met).collect();
    assert_eq!(met, [true, true, true, false], "{:#?}", report.outcomes);
    assert!(
        report.outcomes[3].why[0].contains("or it is somebody's secret"),
        "{:?}",
        report.outcomes[3]
    );
}

#[test]
fn other_luck_with_the_lines_shows_what_is_fragile() {
    let fragile = |by: f64| {
        let text = format!(
            "seconds = 4\nplayers.ada = {{ delay = 0.1, jitter = 0.2, loss = 0.2 }}\ntape = [\n  \
             {{ at = 1, who = \"ada\", walk_to = \"pad\" }},\n]\nexpect = [\n  \
             {{ event = \"enter\", on = \"pad\", seen_by = \"ada\", by = {by} }},\n]\n"
        );
        jitter(&playtest(&text), None, 12).fragile.len()
    };
    assert_eq!((fragile(2.5), fragile(3.9)), (1, 0));
}

#[test]
fn what_is_wrong_with_players_is_located() {
    let scene = scene(QUAY);
    for (text, wanted) in [
        ("players.eve = {}", "3:15 unknown-name there is no entity named `eve`"),
        ("players.crane = {}", "3:17 no-player"),
        (
            "players.ada = { delay = -1 }",
            "3:25 bad-number `delay` is not from 0 to 10 / a good line has delay = 0",
        ),
        ("players.ada = { loss = 1 }", "3:24 bad-number `loss` is not from 0 to 0.9"),
        (
            "players.ada = { cut = [4, 2] }",
            "3:23 bad-number the line would be mended before it is cut",
        ),
        ("players.ada = { speed = 3 }", "3:17 unknown-key"),
        (
            "expect = [{ event = \"enter\", seen_by = \"ada\" }]",
            "3:40 no-line `ada` does not play from elsewhere, and is told of nothing / say how good the line is: \
             [players] ada = { delay = 0.1 }",
        ),
        (
            "players.ada = {}\nexpect = [{ said = \"x\", seen_by = \"ada\" }]",
            "4:35 no-partner `seen_by` goes with `event`, `in_order`, `value`, `place`, `offered`, `visible`",
        ),
        (
            "players.ada = {}\nexpect = [{ in_order = [{ event = \"enter\", seen_by = \"ada\" }, { event = \"exit\" }] }]",
            "4:54 no-partner `seen_by` says of a whole order who sees it / put it beside `in_order`",
        ),
    ] {
        let found = read(&scene, &format!("seconds = 1\n{text}")).unwrap_err();
        assert!(told(&found[0]).starts_with(wanted), "{}", told(&found[0]));
    }
    // Keys of the whole below the header of a table are read as part of it.
    let below = "seconds = 1\n[players]\nada = {}\ntape = [{ at = 0, who = \"ada\", halt = true }]";
    let found = told(&read(&scene, below).unwrap_err()[0]);
    assert_eq!(
        found,
        "5:8 stray-key `tape` stands below the header [players], and so is one of the players / put `tape` above \
         the first header, or write players.NAME = { ... } without one"
    );
    // Nobody is rehearsed for what is looked for without playing.
    let late = read(
        &scene,
        "seconds = 1\nplayers.ada = {}\ntape = [{ at = 5, who = \"ada\", halt = true }]",
    );
    assert_eq!(check_playtest(&late.unwrap()).len(), 1);
}

fn any_line() -> impl Strategy<Value = String> {
    (
        0.0..0.4f64,
        0.0..0.1f64,
        0.0..0.3f64,
        prop::option::of((1.0..3.0f64, 0.1..2.0f64)),
        -0.01..0.01f64,
    )
        .prop_map(|(delay, jitter, loss, cut, drift)| {
            let cut =
                cut.map_or(String::new(), |(at, long)| format!(", cut = [{at}, {}]", at + long));
            format!("{{ delay = {delay}, jitter = {jitter}, loss = {loss}, drift = {drift}{cut} }}")
        })
}

fn any_deed() -> impl Strategy<Value = String> {
    let place = (-4i32..5, -6i32..5);
    prop_oneof![
        place.prop_map(|(x, z)| format!("walk_to = [{x}, 0, {z}]")),
        Just("walk_to = \"pad\"".to_owned()),
        Just("grab = \"sack\"".to_owned()),
        Just("throw = [0, 3, -2]".to_owned()),
        Just("drop = true".to_owned()),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, max_shrink_iters: 64, ..ProptestConfig::default() })]

    #[test]
    fn after_the_line_is_quiet_everybody_agrees_and_was_told_of_all(
        lines in [any_line(), any_line()],
        deeds in prop::collection::vec((1.0..4.0f64, prop::bool::ANY, any_deed()), 1..8),
    ) {
        let [ada, bob] = &lines;
        let tape = deeds.iter().map(|(at, is_ada, deed)| {
            let who = if *is_ada { "ada" } else { "bob" };
            format!("  {{ at = {at}, who = \"{who}\", {deed} }},\n")
        });
        let tape: Vec<String> = tape.collect();
        let base = format!(
            "seconds = 12\nplayers.ada = {ada}\nplayers.bob = {bob}\ntape = [\n{}]\n",
            tape.concat()
        );
        let played = playtest(&base);
        let first = run_playtest(&played, None);
        prop_assert_eq!(&run_playtest(&playtest(&base), None).entries, &first.entries, "the same twice");
        let events: Vec<_> = first.entries.iter().filter_map(Entry::event).collect();
        prop_assert!(events.iter().all(|it| it.time.secs() < 11.0), "the line is quiet by then");

        // What is so in the end, and all that has happened since both are in.
        let mut play = played.play();
        play.advance(hazuro::Time::from_secs(11.9));
        let owner = play.owner("sack").unwrap().map_or("", |it| play.scene().name(it));
        let x = play.pose("sack").unwrap().position.x;
        let values = [
            ("count.visits", play.count("visits").to_string()),
            ("who.owner", format!("\"{owner}\"")),
            ("who.x", format!("{x:?}")),
        ];
        let mut expected = Vec::new();
        for player in ["ada", "bob"] {
            for (kind, on) in [
                ("enter", "pad"),
                ("exit", "pad"),
                ("own", "sack"),
                ("disown", "sack"),
                ("grab", "sack"),
                ("drop", "sack"),
            ] {
                let is = |it: &&&hazuro::Event| it.kind.word() == kind && it.time.secs() > 2.8;
                let times = events.iter().filter(is).count();
                expected.push(format!(
                    "  {{ event = \"{kind}\", on = \"{on}\", seen_by = \"{player}\", at_least = {times} }},\n"
                ));
            }
            expected.extend(values.iter().map(|(ask, is)| {
                format!("  {{ value = \"{ask}\", who = \"sack\", is = {is}, at = 11.9, seen_by = \"{player}\" }},\n")
            }));
        }
        let expected = expected.concat();
        let report = run_playtest_as(
            &playtest(&format!("{base}expect = [\n{expected}]\n")),
            Run { quick: true, ..Run::default() },
        );
        let unmet: Vec<_> = report.outcomes.iter().filter(|it| !it.met).collect();
        prop_assert!(unmet.is_empty(), "{:#?}\n{:#?}", unmet, report.lines);
        prop_assert_eq!(&report.entries, &first.entries);
    }
}
