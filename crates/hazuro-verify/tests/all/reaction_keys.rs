//! Keys of reactions, actions, stats, effects and pickups: what is wrong with them is located.

use std::sync::Arc;

use hazuro::scene::Facts;
use hazuro::{Happening, Play, Time};
use hazuro_format::{Source, write_scene};
use hazuro_script::read_scene;
use hazuro_verify::check_scene;

/// A scene with everything that the lines under test may name, which start on line 28.
const BEFORE: &str = r#"
[scene]
counts = { tokens = 0 }

[kind.person]
tags = ["person"]
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 3 }
stats = { health = { start = 50, max = 100 } }

[kind.sack]
stock = 2

[[entity]]
name = "miller"
kind = "person"

[[entity]]
name = "pad"
zone = { box = [1, 1, 1] }

[[entity]]
name = "post"

[effect.warm]
stats = { walk = { times = 2 } }

[[reaction]]
"#;

fn found(lines: &str) -> Vec<String> {
    match read_scene(&Source::new("f", format!("{BEFORE}{lines}"))) {
        Ok(_) => Vec::new(),
        Err(found) => {
            let told = found.iter().map(|finding| {
                let place = finding.place().unwrap();
                let place = place.strip_prefix("f:").unwrap().to_owned();
                format!("{place} {} {}", finding.code(), finding.message())
            });
            told.collect()
        }
    }
}

fn bad(lines: &str, expected: &str) {
    let found = found(lines);
    assert!(found.first().is_some_and(|first| first.starts_with(expected)), "{lines}: {found:?}");
}

/// An action that is wrong, and what is said of it; columns count from the start of the action.
fn bad_action(action: &str, expected: &str) {
    let (column, expected) = expected.split_once(' ').unwrap();
    let column = column.parse::<usize>().unwrap() + 6;
    bad(
        &format!("on = {{ enter = \"pad\" }}\ndo = [{action}]"),
        &format!("29:{column} {expected}"),
    );
}

#[test]
fn actions_say_what_goes_with_them() {
    for (action, expected) in [
        ("{}", "1 one-action no action is named here"),
        ("{ show = \"pad\", hide = \"pad\" }", "1 one-action one action too many"),
        ("{ move = \"pad\" }", "1 missing-key the key `to`"),
        ("{ move = \"pad\", by = 3 }", "22 bad-value with `move`, `by` is a way"),
        ("{ move = \"pad\", to = \"home\", by = [0, 1, 0] }", "35 no-partner"),
        ("{ move = \"pad\", by = [0, 1e9, 0] }", "26 bad-number"),
        ("{ turn = \"pad\" }", "1 missing-key `by` how many degrees"),
        ("{ turn = \"pad\", by = 270 }", "22 bad-number"),
        ("{ turn = \"pad\", by = 9, over = 1, rate = 2 }", "42 no-partner"),
        ("{ turn = \"pad\", by = 9, rate = 0 }", "32 bad-number"),
        ("{ aim = \"pad\" }", "1 missing-key the key `to`"),
        ("{ aim = \"pad\", to = \"pad\", pitch = [-95, 0] }", "37 bad-number"),
        ("{ face = \"pad\", to = \"kind:person\" }", "22 only-one"),
        ("{ face = \"pad\" }", "1 missing-key"),
        ("{ solid = \"pad\", set = false }", "11 unable `solid` needs a solid"),
        ("{ detect = \"post\", set = false }", "12 unable `detect` needs a detector"),
        ("{ detect = \"pad\", set = 3 }", "25 bad-value"),
        ("{ tag = \"who\" }", "1 missing-key the key `with`"),
        ("{ untag = \"who\", with = \"persn\" }", "25 unknown-name there is no tag named `persn`"),
        ("{ count = \"n\", add = 1.5 }", "1 one-change"),
        ("{ count = \"n\", add = 1, set = 2 }", "1 one-change"),
        ("{ flag = \"lit\", set = 1 }", "23 bad-value"),
        ("{ stat = \"health\", add = 1 }", "1 missing-key the key `of`"),
        ("{ stat = \"helth\", of = \"who\", add = 1 }", "10 unknown-name there is no stat named"),
        ("{ stat = \"health\", of = \"post\", add = 1 }", "25 unable"),
        ("{ hurt = \"post\", by = 1 }", "1 unable `stat` needs the stat `health`"),
        ("{ hurt = \"miller\" }", "1 missing-key"),
        ("{ effect = \"wram\", of = \"who\" }", "12 unknown-name there is no effect named `wram`"),
        ("{ effect = \"warm\", of = \"post\" }", "25 unable"),
        ("{ grant = {}, to = \"who\" }", "11 gives-nothing"),
        ("{ grant = { stats = { x = 1 } }, to = \"who\" }", "27 unknown-name"),
        ("{ grant = { effects = [\"x\"] }, to = \"who\" }", "24 unknown-name"),
        ("{ collect = \"post\", to = \"who\" }", "13 unable `collect` needs a pickup"),
        ("{ send = \"entre\", on = \"pad\" }", "10 unknown-name there is no event `entre`"),
        ("{ send = \"enter\", on = \"post\" }", "24 unable `send` needs a zone"),
        ("{ send = \"cue\", on = \"pad\" }", "10 never-detected"),
        ("{ spawn = \"person\", at = \"pad\" }", "11 unable `spawn` needs a kind with"),
        ("{ spawn = \"sakc\", at = \"pad\" }", "11 unknown-name there is no kind named"),
        ("{ spawn = \"sack\" }", "1 missing-key"),
        ("{ call = \"nothing\" }", "10 unknown-name there is no function named"),
        ("{ stop = \"nothing\" }", "10 unknown-name there is no reaction named"),
        ("{ wait = true }", "10 bad-value"),
        ("{ wait = -1 }", "10 bad-number"),
        ("{ wait = \"nobody\" }", "10 unknown-name there is no entity named `nobody`"),
        ("{ show = \"kind:persn\" }", "10 unknown-name there is no kind named `persn`"),
        ("{ attach = \"pad\" }", "1 missing-key"),
        ("{ remove = \"pad\", to = \"post\" }", "24 no-partner `to` does not go with `remove`"),
    ] {
        bad_action(action, expected);
    }
}

#[test]
fn reactions_say_what_goes_with_them() {
    let ends = "\ndo = [{ cue = \"x\" }]";
    for (lines, expected) in [
        ("on = []", "28:6 one-event no event is named here"),
        ("on = { enter = [] }", "28:6 one-event no detector is named here"),
        ("on = [{ enter = \"pad\" }, { exit = \"pda\" }]", "28:35 unknown-name"),
        ("on = { enter = \"pad\", exit = \"pad\" }", "28:6 one-event one event too many"),
        ("on = { stat = \"pad\" }", "28:15 no-detector `pad` has no stats"),
        ("on = { empty = \"miller\", of = \"helth\" }", "28:31 unknown-name there is no stat"),
        ("on = { enter = \"pad\", of = \"health\" }", "28:28 no-stat"),
        ("on = { collect = \"pad\" }", "28:18 no-detector `pad` has no pickup"),
        ("on = { cue = \"a\" }\ntimes = 3", "29:9 no-partner `times` goes with `every`"),
        ("on = { cue = \"a\" }\nevery = 0", "29:9 bad-number"),
        ("on = { cue = \"a\" }\nelse = [{ cue = \"b\" }]", "29:8 no-partner `else` goes with `if`"),
        ("on = { cue = \"a\" }\nagain = \"restrat\"", "29:9 unknown-name `restrat` means nothing"),
        ("on = { cue = \"a\" }\ninstead_of = \"b\"", "29:14 unknown-name there is no reaction"),
        ("on = { cue = \"a\" }\nuntil = { exit = \"pda\" }", "29:18 unknown-name"),
        ("on = { cue = \"a\" }\nuntil_if = \"count.tokns > 3\"", "29:19 bad-expression"),
        (
            "on = { cue = \"a\" }\nif = \"who.stat.helth > 3\"",
            "29:16 bad-expression there is no stat",
        ),
        ("on = { cue = \"a\" }\nif = \"flag.lti\"", "29:12 bad-expression there is no flag"),
        ("on = { cue = \"a\" }\nif = \"who.count.tokns > 3\"", "29:17 bad-expression"),
        ("on = { cue = \"a\" }\nname = \"who\"", "29:8 bad-name"),
    ] {
        bad(&format!("{lines}{ends}"), expected);
    }
    let mixed = "on = { cue = \"a\" }\ndo = [{ cue = \"b\" }, [{ cue = \"c\" }]]";
    bad(mixed, "29:6 mixed-sequences");
    let deep =
        "on = { cue = \"a\" }\ndo = [[{ cue = \"b\" }], [{ cue = \"c\" }, { show = \"pda\" }]]";
    bad(deep, "29:49 unknown-name");
    let odd = "on = { cue = \"a\" }\ndo = [3]";
    assert!(found(odd)[0].contains("a table or a list of tables"), "{:?}", found(odd));
    let twice = "name = \"a\"\non = { cue = \"a\" }\ndo = [{ cue = \"b\" }]\n[[reaction]]\n\
                 name = \"a\"\non = { cue = \"b\" }\ndo = [{ cue = \"c\" }]";
    bad(twice, "32:8 duplicate-name");
}

#[test]
fn stats_effects_and_pickups_say_what_is_wrong_with_them() {
    let whole = |lines: &str, expected: &str| {
        let lines = format!("on = {{ cue = \"a\" }}\ndo = [{{ cue = \"x\" }}]\n{lines}");
        bad(&lines, expected);
    };
    for (lines, expected) in [
        ("[effect.e]\nseconds = 3", "30:1 gives-nothing"),
        ("[effect.e]\nstats = { x = { add = 1 } }", "31:15 unknown-name there is no stat named"),
        ("[effect.e]\nstats = { walk = { times = -1 } }", "31:28 bad-number"),
        ("[effect.e]\nstats = { walk = { add = inf } }", "31:26 bad-number"),
        ("[effect.e]\nstats = { walk = {} }\nseconds = -2", "32:11 bad-number"),
        ("[effect.e]\nstats = { walk = {} }\nagain = \"anew\"", "32:9 unknown-name"),
        ("[kind.k]\nstats = { s = { start = 5, max = 3 } }", "31:25 bad-number"),
        ("[kind.k]\nstats = { s = { min = 5, max = 3 } }", "31:15 bad-number"),
        ("[kind.k]\nstats = { s = { start = inf } }", "31:25 bad-number"),
        ("[kind.k]\npickup = {}", "31:10 gives-nothing"),
        ("[kind.k]\npickup = { stats = { x = 1 } }", "31:26 unknown-name"),
        ("[kind.k]\npickup = { tags = [\"a\"], back_after = 0 }", "31:39 bad-number"),
        ("[kind.k]\nstock = 9000000", "5:2 bad-number"),
        ("[texts]\nt = \"{whoo} is here\"", "31:5 bad-placeholder the text has {whoo}"),
        ("[texts]\nt = { en = \"a\", de = \"{no.way}\" }", "31:22 bad-placeholder"),
    ] {
        whole(lines, expected);
    }
}

/// What `check` says about a scene that can be played.
fn suspicious(text: &str) -> Vec<String> {
    let source = Source::new("f", text);
    let scene = read_scene(&source).unwrap_or_else(|found| panic!("{found:?}"));
    let found = check_scene(&source, &Arc::new(scene));
    let told = found.iter().map(|it| format!("{} {}", it.place().unwrap(), it.code()));
    told.collect()
}

#[test]
fn missing_texts_and_pickups_nobody_can_collect_are_found() {
    let texts = "[[reaction]]\non = { start = true }\n\
                 do = [[{ say = \"a\" }], [{ cue = \"x\" }, { say = \"bb\" }]]\n\
                 [texts]\na = { en = \"A\", de = \"B\" }\nb = \"B\"\nc = { de = \"C\" }\n";
    let expected = ["f:3:48 missing-text", "f:6:5 missing-language", "f:7:5 missing-language"];
    assert_eq!(suspicious(texts), expected);
    assert_eq!(
        suspicious(
            &texts
                .replace("\"bb\"", "\"b\"")
                .replace("c = { de", "c = { en = \"C\", de")
                .replace("b = \"B\"", "b = { en = \"B\", de = \"B\" }")
        ),
        [""; 0]
    );
    let pickup = "[[entity]]\nname = \"coin\"\npickup = { counts = { coins = 1 } }\n";
    assert_eq!(suspicious(pickup), ["f:3:10 never-set-off"]);
    let collected =
        "[[reaction]]\non = { cue = \"x\" }\ndo = [{ collect = \"coin\", to = \"coin\" }]\n";
    assert_eq!(suspicious(&format!("{pickup}{collected}")), [""; 0]);
    // A detector for a tag that is given later is no false alarm.
    let given = "[[entity]]\nname = \"a\"\nbody = { sphere = { radius = 1 } }\n\
                 [[entity]]\nname = \"door\"\nzone = { box = [1, 1, 1] }\nadmit = { tags = [\"guest\"] }\n\
                 [[reaction]]\non = { cue = \"x\" }\ndo = [{ tag = \"a\", with = \"guest\" }]\n";
    assert_eq!(suspicious(given), [""; 0]);
}

#[test]
fn texts_are_said_in_the_language_asked_for_and_filled() {
    let text = r#"
[scene]
language = "en"
counts = { tokens = 3 }
flags = { lit = true }
[[entity]]
name = "miller"
body = { sphere = { radius = 1 } }
stats = { health = { start = 12.5 } }
[[entity]]
name = "pad"
zone = { box = [1, 1, 1] }
[[reaction]]
on = { enter = "pad" }
do = [
  { count = "steps", add = 2, of = "who" },
  { say = "both" }, { say = "one" }, { say = "none" }, { say = "all" },
]
[texts]
both = { en = "{who} on {on}", de = "{who} auf {on}: {count.tokens}" }
one = "Only here, {part}."
all = "{flag.lit} {who.stat.health} {who.count.steps} {on.stat.health} {value} {need} {{x} {"
"#;
    let said = |language: Option<&str>| {
        let mut play = Play::new(read_scene(&Source::new("f", text.replace("{{x} ", ""))).unwrap());
        if let Some(language) = language {
            play.set_language(language);
        }
        let entries = play.advance(Time::from_secs(0.1)).to_vec();
        let said = entries.into_iter().filter_map(|entry| match entry.what {
            Happening::Said { text, .. } => Some(text),
            _ => None,
        });
        said.collect::<Vec<_>>()
    };
    let all = "true 12.5 2 nothing 0 nothing {";
    assert_eq!(said(None), ["miller on pad", "Only here, body.", "none", all]);
    assert_eq!(said(Some("de")), ["miller auf pad: 3", "Only here, body.", "none", all]);
    assert_eq!(said(Some("nl"))[0], "miller on pad");
}

#[test]
fn conditions_ask_for_stats_counts_flags_and_effects() {
    let holds = |condition: &str| {
        let lines = format!(
            "on = {{ cue = \"a\" }}\nif = '''{condition}'''\ndo = [{{ count = \"yes\", add = 1 }}]\n\
             [[reaction]]\non = {{ start = true }}\n\
             do = [{{ effect = \"warm\", of = \"miller\" }}, {{ flag = \"lit\" }}, \
             {{ count = \"purse\", add = 4, of = \"miller\" }}, {{ attach = \"post\", to = \"miller\" }}]\n\
             [[reaction]]\non = {{ enter = \"pad\" }}\ndo = [{{ cue = \"a\" }}]"
        );
        let scene = read_scene(&Source::new("f", format!("{BEFORE}{lines}")));
        let mut play = Play::new(scene.unwrap_or_else(|found| panic!("{condition}: {found:?}")));
        play.advance(Time::from_secs(0.1));
        play.facts().count("yes") == 1
    };
    for condition in [
        "who.stat.health == 50 && who.stat.walk == 6",
        "flag.lit && !who.flag.lit",
        "who.count.purse == 4 && count.purse == 0",
        "\"warm\" in who.effects",
        "who.parent == \"\" && on.parent == \"\"",
    ] {
        assert!(holds(condition), "{condition}");
    }
    assert!(!holds("on.stat.health > 1"), "a pad has none, which is a problem, not true");
}

#[test]
fn an_event_may_be_of_certain_subjects_only() {
    let done = "do = [{ count = \"tokens\", add = 1 }]";
    for who in ["\"miller\"", "\"kind:person\"", "[\"tag:person\", \"miller\"]"] {
        let lines = format!("on = {{ enter = \"pad\", who = {who} }}\n{done}");
        assert_eq!(found(&lines), [""; 0], "{who}");
        let scene = read_scene(&Source::new("f", format!("{BEFORE}{lines}"))).unwrap();
        let again = write_scene(&scene);
        assert_eq!(read_scene(&Source::new("g", again)).unwrap(), scene);
    }
    let who = |who: &str| format!("on = {{ enter = \"pad\", who = \"{who}\" }}\n{done}");
    bad(&who("mller"), "28:29 unknown-name there is no entity named `mller`");
    bad(&who("tag:persn"), "28:29 unknown-name there is no tag named `persn`");
    let cue = format!("on = {{ cue = \"go\", who = \"miller\" }}\n{done}");
    bad(&cue, "28:26 no-partner `who` goes with an event that has a detector and a subject");
}
