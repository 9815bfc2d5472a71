//! The demo with one mistake each, of those that users make: the first finding of a check, or the
//! answer to why, names its cause. On the unbroken demo nothing is found.

use std::path::Path;
use std::sync::Arc;

use hazuro::Scene;
use hazuro_format::{Finding, Source};
use hazuro_script::{Scripts, read_scene_with};
use hazuro_verify::{Playtest, Question, check_playtest, check_scene_with, explain, read_playtest};

const DEMO: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/tidemill/");

fn file(name: &str) -> String {
    std::fs::read_to_string(format!("{DEMO}{name}")).unwrap()
}

fn replaced(mut text: String, replacements: &[(&str, &str)]) -> String {
    for (part, other) in replacements {
        assert_eq!(text.matches(part).count(), 1, "{part}");
        text = text.replace(part, other);
    }
    text
}

/// The demo's scene with parts replaced and reactions added.
fn read(
    replacements: &[(&str, &str)],
    added: &str,
) -> Result<(Source, Arc<Scene>, Scripts), Vec<Finding>> {
    let mut text = replaced(file("tidemill.scene.toml"), replacements);
    text.insert_str(text.find("\n[texts]").unwrap(), added);
    let source = Source::new("tidemill.scene.toml", text);
    let script = |path: &Path| Ok(Source::new(path.to_string_lossy(), file("mill.rhai")));
    let (scene, scripts) = read_scene_with(&source, &script)?;
    Ok((source, scene.into(), scripts))
}

/// The first finding about a broken demo: its code, the text it points at, and what it says.
#[track_caller]
fn finds(replacements: &[(&str, &str)], added: &str, code: &str, at: &str, says: &str) {
    let findings = match read(replacements, added) {
        Ok((source, scene, scripts)) => check_scene_with(&source, &scene, &scripts),
        Err(findings) => findings,
    };
    let first = findings.first().unwrap_or_else(|| panic!("nothing found: {says}"));
    let told = hazuro_verify::findings_json(&findings);
    let text = told[0]["text"].as_str().unwrap_or_default();
    assert_eq!(first.code(), code, "{findings:?}");
    assert!(text.contains(at), "{text:?} has no {at:?}");
    let message = format!("{} {}", first.message(), first.help().unwrap_or_default());
    assert!(message.contains(says), "{message:?} has no {says:?}");
}

fn playtest(name: &str, scene: &Arc<Scene>, scripts: Scripts) -> Playtest {
    let source = Source::new(name, file(name));
    read_playtest(&source, scene.clone()).unwrap().with_scripts(scripts)
}

/// The first gate that stopped an event of a playtest of a broken demo, and what it says with the
/// cure; or the first note if nothing was tried.
#[track_caller]
fn tells(
    replacements: &[(&str, &str)],
    (name, event, on, who): (&str, &str, &str, Option<&str>),
    gate: &str,
    says: &str,
) {
    let (_, scene, scripts) = read(replacements, "").unwrap();
    let playtest = playtest(name, &scene, scripts);
    let question = Question::new(&scene, event, Some(on), who).unwrap();
    let answer = explain(&playtest, &question);
    assert!(answer.fired.is_empty(), "{answer:?}");
    let first = answer.nearest().and_then(|candidate| candidate.miss.as_ref());
    let (stopped, told) = match first {
        Some(miss) if gate != "note" => {
            (miss.gate, format!("{} {}", miss.line(), miss.cure.clone().unwrap_or_default()))
        }
        _ => ("note", answer.notes.first().cloned().unwrap_or_default()),
    };
    assert_eq!(stopped, gate, "{told}");
    assert!(told.contains(says), "{told:?} has no {says:?}");
}

#[test]
fn nothing_is_found_on_the_unbroken_demo() {
    let (source, scene, scripts) = read(&[], "").unwrap();
    assert_eq!(check_scene_with(&source, &scene, &scripts).len(), 0);
    for name in ["gate", "yard", "mill", "granary"] {
        let playtest = playtest(&format!("{name}.playtest.toml"), &scene, scripts.clone());
        assert_eq!(check_playtest(&playtest).len(), 0, "{name}");
    }
}

#[test]
fn names_that_do_not_exist() {
    let pad = "at = [0, 1, 0]\nzone = { box = [4, 2, 4] }\nadmit = { tags = [\"player\"] }";
    let misspelt = pad.replace("\"player\"", "\"playr\"");
    finds(&[(pad, &misspelt)], "", "unknown-name", "playr", "did you mean `player`?");
    let leaf =
        ("{ move = \"leaf_left\", to = \"left_open\"", "{ move = \"leaf_lft\", to = \"left_open\"");
    finds(&[leaf], "", "unknown-name", "leaf_lft", "did you mean `leaf_left`?");
    let kind = ("name = \"sack_rye\"\nkind = \"sack\"", "name = \"sack_rye\"\nkind = \"sak\"");
    finds(&[kind], "", "unknown-name", "sak", "did you mean `sack`?");
    let text = ("{ say = \"gate.opens\" }", "{ say = \"gate.open\" }");
    finds(&[text], "", "missing-text", "gate.open", "did you mean `gate.opens`?");
    let function = ("call = \"cut_reeds\"", "call = \"cut_reds\"");
    finds(&[function], "", "unknown-name", "cut_reds", "did you mean `cut_reeds`?");
    let layer = ("margin = 0.05, layers = [\"ground\"]", "margin = 0.05, layers = [\"grund\"]");
    finds(&[layer], "", "unknown-name", "grund", "did you mean `ground`?");
    let stat = ("of = \"health\" }", "of = \"helth\" }");
    finds(&[stat], "", "unknown-name", "helth", "did you mean `health`?");
}

#[test]
fn detectors_that_cannot_be_set_off() {
    let tag =
        ("tags = [\"person\", \"player\"]\nplayer = true", "tags = [\"person\"]\nplayer = true");
    let unasked = ("on = { empty = \"tag:player\",", "on = { empty = \"kind:person\",");
    finds(&[tag, unasked], "", "unknown-name", "player", "there is no tag named `player`");
    let off = (
        "zone = { box = [4, 2, 4] }\nadmit = { tags = [\"player\"] }",
        "zone = { box = [4, 2, 4] }\nenabled = false\nadmit = { tags = [\"player\"] }",
    );
    finds(&[off], "", "off-for-good", "false", "`sluice_pad`: it is off");
    let above = ("name = \"bell_post\"", "name = \"bell_post\"\nenabled = false");
    finds(&[above], "", "off-for-good", "reach = 12", "its ancestor `bell_post` is off");
    let wrong = ("name = \"bell_post\"", "name = \"bell_post\"\nadmit = { players = true }");
    finds(&[wrong], "", "admits-to-nothing", "players", "the detector is on its child `tide_bell`");
    let layer = (
        "probe = { to = [3, 0, 0], of = [\"bodies\"] }\nadmit = { tags = [\"person\"] }",
        "probe = { to = [3, 0, 0], of = [\"bodies\"] }\nadmit = { tags = [\"person\"], layers = [\"ground\"] }",
    );
    finds(&[layer], "", "never-set-off", "ground", "nothing can set off `path_ray`");
}

#[test]
fn detectors_that_see_the_wrong_thing() {
    let net = [
        ("touch = {}\nadmit = { players = true }\nonce = true", "touch = {}\nonce = true"),
        ("name = \"net_down\"\nat = [6, 1, 9]", "name = \"net_down\"\nat = [6, 0.05, 9]"),
    ];
    finds(
        &net,
        "",
        "sets-itself-off",
        "net",
        "`loose_plank` moves `net`, which sets `loose_plank` off",
    );
    let ray =
        ("name = \"path_ray\"\nat = [-1.5, 0.5, 4]", "name = \"path_ray\"\nat = [-1.8, 0.5, -3]");
    let solids = ("of = [\"bodies\"] }", "of = [\"bodies\", \"solids\"] }");
    finds(&[ray, solids], "", "starts-inside", "to", "begins inside `gate_frame`");
    let margin = ("margin = 0.05,", "margin = 0,");
    finds(&[margin], "", "no-margin", "0", "flickers on uneven ground");
    let height = "\n[[reaction]]\non = { land = \"hoist_hook\" }\nif = \"on.y < 0.5\"\ndo = [{ say = \"hoist.creaks\" }]\n";
    finds(&[], height, "height-of-centre", "on.y", "is `height`");
    let parts = (
        "touch = {}\nadmit = { players = true }\nonce = true",
        "touch = { parts = true }\nadmit = { players = true }",
    );
    finds(&[parts], "", "once-per-part", "loose_plank", "once for each");
    let all = (
        "zone = { box = [1.4, 2, 2] }\nadmit = { kinds = [\"sack\"] }",
        "zone = { box = [1.4, 2, 2] }",
    );
    finds(&[all], "", "for-everyone", "chute", "admits everybody");
    let camera = (", camera = { fov = 60, viewport = [1280, 720] }", "");
    finds(&[camera], "", "no-camera", "reach = 12", "`miller` has no camera");
}

#[test]
fn actions_that_cannot_be_done() {
    let collect = "\n[[reaction]]\non = { enter = \"sluice_pad\" }\ndo = [{ collect = \"sickbed\", to = \"who\" }]\n";
    finds(&[], collect, "unable", "sickbed", "needs a pickup");
    let run = ("{ run = \"sack_hoist\" }", "{ run = \"granary_loft\" }");
    finds(&[run], "", "unable", "granary_loft", "route");
    let hatch = ("leads_to = \"hatch_loft/below\"", "leads_to = \"sickbed\"");
    finds(
        &[hatch],
        "",
        "teleports-into-zone",
        "on.slot.leads_to",
        "`hatch_yard/below` lies in `hatch_yard`",
    );
    let bed = ("name = \"sickbed\"\nat = [-9, 0, 12]", "name = \"sickbed\"\nat = [8, 3.5, -11]");
    finds(&[bed], "", "teleports-into-solid", "sickbed", "inside `granary_loft`");
    let nowhere =
        ("{ teleport = \"who\", to = \"sickbed\" }", "{ teleport = \"who\", to = \"sick_bed\" }");
    finds(&[nowhere], "", "unknown-name", "sick_bed", "did you mean `sickbed`?");
    let opening = [
        (
            "  { move = \"leaf_left\", to = \"left_open\", over = 0.8, ease = \"ease-in-out\" },\n",
            "",
        ),
        (
            "  { move = \"leaf_right\", to = \"right_open\", over = 0.8, ease = \"ease-in-out\" },\n",
            "",
        ),
    ];
    let script = ("do = [{ call = \"cut_reeds\" }]", "do = [{ say = \"reeds.cut\" }]");
    finds(
        &[opening[0], opening[1], script],
        "",
        "never-left-home",
        "home",
        "nothing ever moves it away",
    );
    let sickle =
        "do = [{ attach = \"sickle\", to = \"who\" }, { tag = \"who\", with = \"reaper\" }]";
    let restores = sickle.replace(" }]", " }, { stat = \"walk\", of = \"who\", set = 6 }, { wait = 5 }, { stat = \"walk\", of = \"who\", set = 3 }]");
    finds(&[(sickle, &restores)], "", "restores-a-number", "walk", "use an effect");
    let hides = sickle.replace(" }]", " }, { hide = \"sickle\" }]");
    finds(&[(sickle, &hides)], "", "hides-only", "sickle", "hidden, but still detects");
    let early = [("pickup = { counts = { tokens = 1 } }", "pickup = { flags = [\"found\"] }")];
    let raise = "\n[[reaction]]\non = { collect = \"kind:token\" }\ndo = [{ count = \"tokens\", add = 1 }]\n";
    finds(&early, raise, "tested-too-early", "count.tokens", "before reaction");
}

#[test]
fn limits_and_prompts_and_texts() {
    finds(&[("cooldown = 3\n", "cooldown = 30000\n")], "", "never-over", "30000", "`tide_bell`");
    let used =
        ("on = { accept = \"sickle\" }\nonce = true", "on = { accept = \"sickle\" }\nlimit = 0");
    finds(&[used], "", "used-up", "0", "never acts");
    let rack = ("name = \"sack_rack\"\nat = [-7, 0.8, 4]", "name = \"sack_rack\"\nat = [-7, 6, 4]");
    finds(&[rack], "", "out-of-reach", "reach", "no player can reach `sack_rack`");
    let toll = (
        "at = [0.8, 1.1, 0]\nprompt = { reach = 1.2, key = \"KeyT\", caption = \"Pay\", several = true,",
        "at = [0, 1.1, 0]\nprompt = { reach = 1.2, caption = \"Pay\",",
    );
    finds(&[toll], "", "always-competes", "Pay", "`lever_toll` always competes with `lever_low`");
    let french = (
        "\"hoist.creaks\" = \"The hoist creaks.\"",
        "\"hoist.creaks\" = { en = \"The hoist creaks.\", de = \"Der Aufzug knarrt.\" }",
    );
    finds(&[french], "", "missing-language", "{count.sacks}", "is missing in de");
    // Carried, but never marked as such.
    let (_, scene, _) = read(&[("carry = { mass = 1, bounce = 0.1 }\n", "")], "").unwrap();
    let source = Source::new("granary.playtest.toml", file("granary.playtest.toml"));
    let findings = read_playtest(&source, scene).unwrap_err();
    assert_eq!(
        (findings[0].code().word(), findings[0].help()),
        ("no-detector", Some("give it carry = {}"))
    );
}

#[test]
fn what_only_a_play_shows() {
    let yard = "yard.playtest.toml";
    let pad = (
        "at = [0, 1, 0]\nzone = { box = [4, 2, 4] }",
        "at = [0, 5, 0]\nzone = { box = [4, 2, 4] }",
    );
    let enter = ("gate.playtest.toml", "enter", "sluice_pad", Some("miller"));
    tells(&[pad], enter, "in-shape", "bring `miller` 2.200 m up (+Y)");
    let heron = ("gate.playtest.toml", "enter", "sluice_pad", Some("heron"));
    tells(&[], heron, "admitted", "let `sluice_pad` admit one it has: bird");
    let owl = ("turn = -35", "turn = 145");
    tells(&[owl], (yard, "spot", "owl", Some("miller")), "in-angle", "at most 45.0");
    let near = ("sight = { range = 16,", "sight = { range = 5,");
    tells(&[near], (yard, "spot", "owl", Some("miller")), "in-range", "raise the range of `owl`");
    let slow = ("notice = 0.5", "notice = 50");
    tells(&[slow], (yard, "spot", "owl", Some("miller")), "noticed", "lower `notice`");
    let short = ("probe = { to = [3, 0, 0]", "probe = { to = [0.2, 0, 0]");
    tells(
        &[short],
        ("gate.playtest.toml", "hit", "path_ray", Some("miller")),
        "in-range",
        "m west (-X)",
    );
    let key = ("caption = \"Pull\",", "caption = \"Pull\", key = \"KeyX\",");
    tells(&[key], (yard, "accept", "lever_low", Some("miller")), "note", "never pressed KeyX");
    let hold = ("hold = 0.6", "hold = 1.6");
    tells(&[hold], (yard, "accept", "lever_low", Some("miller")), "held", "hold it 0.600 s longer");
    let strong = ("strength = 3 } } }", "strength = 4 } } }");
    let lift = ("mill.playtest.toml", "accept", "millstone", Some("miller"));
    tells(&[strong], lift, "needs", "miller lacks strength");
    let toll = ("count.tokens >= 4", "count.tokens >= 5");
    let paid = ("mill.playtest.toml", "cue", "toll_paid", None);
    tells(&[toll], paid, "note", "`count.tokens >= 5`: count.tokens was 4");
    let hard = (
        "touch = {}\nadmit = { players = true }\nonce = true",
        "touch = { at_least = 9 }\nadmit = { players = true }\nonce = true",
    );
    tells(
        &[hard],
        (yard, "touch", "loose_plank", Some("miller")),
        "hard",
        "lower `at_least` of `loose_plank`",
    );
}
