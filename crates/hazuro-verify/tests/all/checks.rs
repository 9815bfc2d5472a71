//! Each finding of a check: a smallest scene that has it, and the same scene mended.

use std::sync::Arc;

use hazuro_format::{Finding, Severity, Source, with_edits, write_scene};
use hazuro_script::read_scene;
use hazuro_verify::{check_scene, findings_json};

/// A player who walks, and a dog.
const FOLK: &str = r#"
[[entity]]
name = "miller"
player = true
tags = ["player"]
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 3, jump = 1 }

[[entity]]
name = "dog"
at = [20, 0, 0]
body = { sphere = { radius = 0.3 } }
"#;

pub(crate) fn scene(text: &str) -> (Source, Arc<hazuro::Scene>) {
    let source = Source::new("yard.scene.toml", format!("{FOLK}{text}"));
    let scene = read_scene(&source).unwrap_or_else(|findings| panic!("{text}\n{findings:?}"));
    (source, scene.into())
}

pub(crate) fn found(text: &str) -> Vec<Finding> {
    let (source, scene) = scene(text);
    check_scene(&source, &scene)
}

/// A scene that has a finding at some text, and what of it is replaced to mend it.
#[track_caller]
pub(crate) fn mends(code: &str, at: &str, broken: &str, replaced: &[(&str, &str)]) {
    let findings = found(broken);
    let codes: Vec<&str> = findings.iter().map(|it| it.code().word()).collect();
    assert_eq!(codes, [code], "{findings:?}");
    let finding = &findings[0];
    assert!(finding.help().is_some_and(|help| !help.is_empty()), "{finding:?}");
    // It points at what it is about.
    let told = findings_json(&findings);
    let text = told[0]["text"].as_str().unwrap();
    assert!(text.starts_with(at), "{text:?} is not {at:?}");
    let mut mended = broken.to_owned();
    for (part, other) in replaced {
        assert_eq!(mended.matches(part).count(), 1, "{part}");
        mended = mended.replace(part, other);
    }
    assert_eq!(found(&mended).iter().map(Finding::line).collect::<Vec<_>>(), [""; 0], "{mended}");
    // Its own edits mend it, too.
    let edits = finding.edits();
    if let Some(edit) = edits.first() {
        let edited = with_edits(edit.source().text(), &edits);
        let edited = edited.strip_prefix(FOLK).unwrap();
        assert_eq!(
            found(edited).iter().map(Finding::line).collect::<Vec<_>>(),
            [""; 0],
            "{edited}"
        );
    }
    // What is allowed with a reason is not told.
    let (source, scene) =
        scene(&format!("\n[scene]\nallow = {{ {code} = \"so be it\" }}\n{broken}"));
    assert_eq!(check_scene(&source, &scene).len(), 0);
}

pub(crate) const PAD: &str = "\n[[entity]]\nname = \"pad\"\nat = [5, 1, 0]\nzone = { box = [2, 2, 2] }\nadmit = { players = true }\n";

#[test]
fn detectors_that_nothing_can_set_off() {
    let pad = |rest: &str| {
        format!("\n[[entity]]\nname = \"pad\"\nzone = {{ box = [2, 2, 2] }}\n{rest}\n")
    };
    mends(
        "never-set-off",
        "{ tags = [\"otter\"]",
        &pad("admit = { tags = [\"otter\"] }\n[[entity]]\nname = \"raft\"\ntags = [\"otter\"]"),
        &[("name = \"raft\"", "name = \"raft\"\nbody = { sphere = { radius = 1 } }")],
    );
    mends(
        "never-set-off",
        "{ layers",
        &pad("layers = [\"deep\"]\nadmit = { layers = [\"deep\"] }"),
        &[("admit = { layers = [\"deep\"] }", "admit = { layers = [\"default\"] }")],
    );
    mends("off-for-good", "false", &pad("enabled = false"), &[("enabled = false", "")]);
    mends(
        "off-for-good",
        "{ box",
        &pad("parent = \"hut\"\n[[entity]]\nname = \"hut\"\nenabled = false"),
        &[("enabled = false", "")],
    );
    let nested = |zone: &str, admit: &str| {
        format!(
            "\n[[entity]]\nname = \"hut\"\n{admit}\n[[entity]]\nname = \"door\"\nparent = \"hut\"\n\
             zone = {{ box = [2, 2, 2] }}\n{zone}"
        )
    };
    let wrong = nested("", "admit = { players = true }");
    mends(
        "admits-to-nothing",
        "{ players",
        &wrong,
        &[
            ("admit = { players = true }\n", ""),
            ("zone = {", "admit = { players = true }\nzone = {"),
        ],
    );
    let help = found(&wrong)[0].help().unwrap().to_owned();
    assert_eq!(help, "move `admit` to `door`, or the detector to `hut`");
    let carried = "\n[[entity]]\nname = \"aura\"\nparent = \"miller\"\nzone = { sphere = { radius = 2 } }\n\
                   admit = { players = true }";
    mends("never-set-off", "{ players", carried, &[("admit = { players = true }", "")]);
}

#[test]
fn detectors_that_act_otherwise_than_meant() {
    let drone = |footing: &str| {
        format!(
            "\n[[entity]]\nname = \"drone\"\nat = [0, 3, 0]\nbody = {{ sphere = {{ radius = 0.2 }} }}\nfooting = {footing}\n[[entity]]\nname = \"rock\"\nat = [0, -3, 9]\nsolid = {{ box = [9, 1, 9] }}\n"
        )
    };
    mends("no-margin", "0", &drone("{ margin = 0 }"), &[("margin = 0", "margin = 0.1")]);
    let feet = drone("{ margin = 0.1 }")
        + "[[reaction]]\non = { land = \"drone\" }\nif = \"on.y < 1\"\ndo = [{ cue = \"down\" }]\n";
    mends("height-of-centre", "\"on.y", &feet, &[("on.y < 1", "on.height < 1")]);
    mends(
        "hits-itself",
        "true",
        "\n[[entity]]\nname = \"nose\"\nparent = \"dog\"\nprobe = { to = [0, 0, -3], own = true }\n",
        &[(", own = true", "")],
    );
    let ray = "\n[[entity]]\nname = \"ray\"\nat = [0, 1, 0]\nprobe = { to = [0, 0, -3] }\n[[entity]]\nname = \"post\"\nat = [0, 1, 0]\nsolid = { box = [0.2, 1, 0.2] }\n";
    mends("starts-inside", "{ to", ray, &[("{ to", "{ from = [0, 0, -0.2], to")]);
    let bell = |camera: &str| {
        format!(
            "\n[[entity]]\nname = \"bell\"\nat = [0, 1, -4]\nsolid = {{ sphere = {{ radius = 1 }} }}\npointer = {{}}\n[[entity]]\nname = \"eye\"\nparent = \"miller\"\n{camera}"
        )
    };
    mends(
        "no-camera",
        "{}",
        &bell(""),
        &[("parent = \"miller\"\n", "parent = \"miller\"\ncamera = {}\n")],
    );
    mends(
        "smaller-than-view",
        "{ box",
        &(bell("camera = {}\n")
            + "[[entity]]\nname = \"sky\"\nparent = \"eye\"\nat = [0, 0, -9]\nzone = { box = [2, 2, 0.1] }\npointer = {}\nadmit = { not = { names = [\"dog\", \"miller\"] } }\nallow = { never-set-off = \"for clicks only\" }\n"),
        &[("[2, 2, 0.1]", "[40, 40, 0.1]")],
    );
    mends("never-over", "86400", &format!("{PAD}cooldown = 86400\n"), &[("86400", "8.64")]);
}

#[test]
fn prompts_that_cannot_be_used() {
    let lever = |name: &str, at: &str, rest: &str| {
        format!("\n[[entity]]\nname = \"{name}\"\nat = {at}\nprompt = {{ reach = 1.5{rest} }}\n")
    };
    let two = lever("low", "[0, 1, 0]", "") + lever("high", "[0, 1, 0]", "").as_str();
    mends(
        "always-competes",
        "{ reach",
        &two,
        &[("name = \"high\"\nat = [0, 1, 0]", "name = \"high\"\nat = [0, 2, 0]")],
    );
    let needs = lever("toll", "[0, 1, 0]", ", needs = { counts = { tokns = 1 } }");
    mends(
        "never-met",
        "1",
        &("\n[[reaction]]\non = { start = true }\ndo = [{ count = \"tokens\", add = 3 }]\n"
            .to_owned()
            + needs.as_str()),
        &[("tokns", "tokens")],
    );
    mends(
        "out-of-reach",
        "{ reach",
        &lever("high", "[0, 9, 0]", ""),
        &[("[0, 9, 0]", "[0, 2, 0]")],
    );
    // On a loft it can be reached, and where something carries one up nobody can tell.
    let loft = "\n[[entity]]\nname = \"loft\"\nat = [0, 7, 0]\nsolid = { box = [3, 0.2, 3] }\n";
    assert!(found(&(lever("high", "[0, 8, 0]", "") + loft)).is_empty());
}

#[test]
fn reactions_to_what_never_comes() {
    let react =
        |on: &str| format!("{PAD}\n[[reaction]]\non = {{ {on} }}\ndo = [{{ cue = \"it\" }}]\n");
    let inside = react("inside = \"pad\"");
    mends("never-happens", "\"pad\"", &inside, &[("[2, 2, 2] }", "[2, 2, 2], inside_every = 1 }")]);
    let lever = |keys: &str, on: &str| {
        format!(
            "\n[[entity]]\nname = \"lever\"\nat = [0, 1, 0]\n{keys}\n[[reaction]]\non = {{ {on} = \"lever\" }}\ndo = [{{ cue = \"it\" }}]\n"
        )
    };
    for (keys, on, part, other) in [
        ("interact = {}", "accept", "interact", "prompt"),
        ("prompt = {}", "interact", "prompt", "interact"),
        ("prompt = {}", "hold", "prompt = {}", "prompt = { hold = 1 }"),
        ("prompt = {}", "refused", "prompt = {}", "prompt = { needs = { tags = [\"player\"] } }"),
    ] {
        let broken = lever(keys, on);
        let mended = if on == "interact" {
            broken.replacen(part, other, 1)
        } else {
            broken.replace(part, other)
        };
        assert_eq!(found(&broken)[0].code(), "never-happens", "{broken}");
        assert!(found(&mended).is_empty(), "{mended}: {:?}", found(&mended));
    }
    let cues = format!(
        "{PAD}\n[[reaction]]\non = {{ enter = \"pad\" }}\ndo = [{{ cue = \"tol_paid\" }}]\n[[reaction]]\non = {{ cue = \"toll_paid\" }}\ndo = [{{ count = \"tolls\", add = 1 }}]\n"
    );
    mends("unsent-cue", "", &cues, &[("tol_paid", "toll_paid")]);
    mends(
        "never-over",
        "90000",
        &(react("enter = \"pad\"") + "cooldown = 90000\n"),
        &[("90000", "9")],
    );
    mends(
        "used-up",
        "0",
        &(react("enter = \"pad\"") + "limit = 0\n"),
        &[("limit = 0", "limit = 2")],
    );
}

#[test]
fn actions_that_undo_what_nobody_did() {
    let gate = "\n[[entity]]\nname = \"gate\"\nsolid = { box = [1, 2, 0.1] }\n[[entity]]\nname = \"open\"\nat = [0, 3, 0]\n";
    let shut = |more: &str| {
        format!(
            "{PAD}{gate}\n[[reaction]]\non = {{ exit = \"pad\" }}\ndo = [{{ move = \"gate\", to = \"home\", over = 1 }}]\n{more}"
        )
    };
    mends(
        "never-left-home",
        "\"home\"",
        &shut("[[reaction]]\non = { enter = \"pad\" }\ndo = [{ cue = \"it\" }]\n"),
        &[("do = [{ cue = \"it\" }]", "do = [{ move = \"gate\", to = \"open\", over = 1 }]")],
    );
    let broth = |action: &str| {
        format!(
            "{PAD}\n[effect.broth]\nseconds = 8\nstats = {{ walk = {{ times = 2 }} }}\n[[reaction]]\non = {{ exit = \"pad\" }}\ndo = [{{ end_effect = \"broth\", of = \"who\" }}]\n[[reaction]]\non = {{ enter = \"pad\" }}\ndo = [{action}]\n"
        )
    };
    mends(
        "never-given",
        "\"broth\"",
        &broth("{ cue = \"it\" }"),
        &[("{ cue = \"it\" }", "{ effect = \"broth\", of = \"who\" }")],
    );
    let fast = format!(
        "{PAD}\n[[reaction]]\non = {{ enter = \"pad\" }}\ndo = [{{ stat = \"walk\", of = \"who\", set = 6 }}, {{ wait = 8 }}, {{ stat = \"walk\", of = \"who\", set = 3 }}]\n"
    );
    mends(
        "restores-a-number",
        "\"walk\"",
        &fast,
        &[
            (
                "{ stat = \"walk\", of = \"who\", set = 6 }",
                "{ stat = \"walk\", of = \"who\", add = 3 }",
            ),
            (
                "{ stat = \"walk\", of = \"who\", set = 3 }",
                "{ stat = \"walk\", of = \"who\", add = -3 }",
            ),
        ],
    );
    let hide = format!(
        "{PAD}{gate}\n[[reaction]]\non = {{ enter = \"pad\" }}\ndo = [{{ hide = \"gate\" }}]\n"
    );
    mends("hides-only", "\"gate\"", &hide, &[("hide = \"gate\"", "disable = \"gate\"")]);
    assert_eq!(found(&hide)[0].severity(), Severity::Hint);
}

#[test]
fn reactions_that_act_too_often_or_too_early() {
    let plank = "\n[[entity]]\nname = \"plank\"\nat = [3, 0, 0]\nsolid = { box = [2, 0.1, 1] }\ntouch = { parts = true }\nadmit = { players = true }\n[[reaction]]\non = { touch = \"plank\" }\ndo = [{ cue = \"snap\" }]\n";
    mends("once-per-part", "\"plank\"", plank, &[("{ parts = true }", "{}")]);
    let beat = "\n[[entity]]\nname = \"dust\"\nzone = { box = [2, 2, 2], inside_every = 0.01 }\nadmit = { players = true }\n[[reaction]]\non = { inside = \"dust\" }\ndo = [{ cue = \"cough\" }]\n";
    mends("each-tick", "\"dust\"", beat, &[("0.01", "0.5")]);
    let all = PAD.replace("admit = { players = true }\n", "")
        + "\n[[reaction]]\non = { enter = \"pad\" }\ndo = [{ count = \"visits\", add = 1 }]\n";
    mends("for-everyone", "\"pad\"", &all, &[("zone = {", "admit = { players = true }\nzone = {")]);
    mends("for-everyone", "\"pad\"", &all, &[("\"pad\" }", "\"pad\", who = \"miller\" }")]);
    let raise = "[[reaction]]\non = { enter = \"pad\" }\ndo = [{ count = \"steps\", add = 1 }]\n";
    let test = "[[reaction]]\non = { enter = \"pad\" }\nif = \"count.steps >= 3\"\ndo = [{ cue = \"third\" }]\n";
    let early = format!("{PAD}{test}{raise}");
    let late = format!("{PAD}{raise}{test}");
    let findings = found(&early);
    assert_eq!(
        (findings.len(), findings[0].code().word()),
        (1, "tested-too-early"),
        "{findings:?}"
    );
    assert!(found(&late).is_empty(), "{:?}", found(&late));
    let own = format!(
        "{PAD}[[reaction]]\non = {{ enter = \"pad\" }}\nif = \"count.steps >= 3\"\ndo = [{{ count = \"steps\", add = 1 }}]\n"
    );
    mends("tested-too-early", "\"count.steps", &own, &[("count.steps >= 3", "count.steps < 3")]);
    let twice = format!("{PAD}{raise}{raise}");
    assert_eq!(found(&twice)[0].code(), "twice-the-same");
    assert!(found(&format!("{PAD}{raise}")).is_empty());
}

#[test]
fn places_that_lead_astray() {
    let cart = "\n[[entity]]\nname = \"cart\"\nat = [0, 1, 0]\nbody = { box = [1, 1, 1] }\n[[entity]]\nname = \"gate_zone\"\nat = [0, 1, 0]\nzone = { box = [4, 2, 4] }\n[[entity]]\nname = \"aside\"\nat = [9, 1, 0]\n[[reaction]]\non = { enter = \"gate_zone\", first = true }\ndo = [{ move = \"cart\", to = \"aside\", over = 1 }]\n";
    mends(
        "sets-itself-off",
        "\"cart\"",
        cart,
        &[("zone = {", "admit = { players = true }\nzone = {")],
    );
    let hatch = |name: &str, at: &str, to: &str| {
        format!(
            "\n[[entity]]\nname = \"{name}\"\nat = {at}\nzone = {{ box = [1, 2, 1] }}\nadmit = {{ players = true }}\n[[reaction]]\non = {{ enter = \"{name}\" }}\ndo = [{{ teleport = \"who\", to = \"{to}\" }}]\n"
        )
    };
    let spot = |name: &str, at: &str| format!("\n[[entity]]\nname = \"{name}\"\nat = {at}\n");
    mends(
        "teleports-in-place",
        "\"cellar\"",
        &(hatch("hatch", "[4, 1, 0]", "cellar") + spot("cellar", "[4, 0, 0.2]").as_str()),
        &[("[4, 0, 0.2]", "[4, 0, 8]")],
    );
    let chain = hatch("first", "[4, 1, 0]", "one")
        + hatch("second", "[8, 1, 0]", "two").as_str()
        + spot("one", "[8, 0, 0]").as_str()
        + spot("two", "[12, 0, 0]").as_str();
    mends("teleports-into-zone", "\"one\"", &chain, &[("at = [8, 0, 0]", "at = [8, 0, 5]")]);
    // Two that lead to each other are meant so.
    let pair = chain.replace("at = [12, 0, 0]", "at = [4, 0, 0]");
    assert!(found(&pair).is_empty(), "{:?}", found(&pair));
    let wall = hatch("hatch", "[4, 1, 0]", "cellar")
        + spot("cellar", "[0, 0, 9]").as_str()
        + "\n[[entity]]\nname = \"wall\"\nat = [0, 1, 9]\nsolid = { box = [3, 3, 3] }\n";
    mends(
        "teleports-into-solid",
        "\"cellar\"",
        &wall,
        &[("to = \"cellar\"", "to = \"cellar\", free = true")],
    );
}

#[test]
fn texts_that_are_missing() {
    let say = format!(
        "{PAD}[[reaction]]\non = {{ enter = \"pad\" }}\ndo = [{{ say = \"helo\" }}]\n[texts]\nhello = \"Hello.\"\n"
    );
    mends("missing-text", "\"helo\"", &say, &[("\"helo\"", "\"hello\"")]);
    let german = format!(
        "{PAD}[texts]\nhello = {{ en = \"Hello.\", de = \"Hallo.\" }}\nbye = {{ en = \"Bye.\" }}\n"
    );
    mends(
        "missing-language",
        "{ en",
        &german,
        &[("{ en = \"Bye.\" }", "{ en = \"Bye.\", de = \"Ade.\" }")],
    );
}

#[test]
fn allowances_have_a_reason_and_a_use() {
    let pad = |allow: &str| {
        format!(
            "\n[[entity]]\nname = \"pad\"\nzone = {{ box = [2, 2, 2] }}\nenabled = false\n{allow}\n"
        )
    };
    let codes = |text: &str| found(text).iter().map(Finding::code).collect::<Vec<_>>();
    assert_eq!(codes(&pad("")), ["off-for-good"]);
    let allowed = pad("allow = { off-for-good = \"the host opens it\" }");
    assert_eq!(codes(&allowed), [""; 0]);
    assert_eq!(codes(&pad("allow = { off-for-good = \"\" }")), ["no-reason"]);
    let misspelt = found(&pad("allow = { of-for-good = \"the host opens it\" }"));
    assert_eq!(misspelt.len(), 2);
    let unused = misspelt.iter().find(|it| it.code() == "nothing-to-allow").unwrap();
    assert_eq!(
        (unused.severity(), unused.help()),
        (Severity::Hint, Some("did you mean `off-for-good`?"))
    );
    assert!(unused.place().unwrap().starts_with("yard.scene.toml:17:"), "{:?}", unused.place());
    let owned = found(&pad("allow = { never-ownd = \"the host gives it\" }"));
    assert!(owned.iter().any(|it| it.help() == Some("did you mean `never-owned`?")), "{owned:?}");
    // Elsewhere it is still found, and writing the scene keeps the allowance.
    let other = allowed.clone() + pad("").replace("pad", "mat").as_str();
    assert_eq!(codes(&other), ["off-for-good"]);
    let (_, kept) = scene(&allowed);
    assert_eq!(read_scene(&Source::new("again.toml", write_scene(&kept))).unwrap(), *kept);
    // A kind's allowance holds for what is of it, a reaction's for itself.
    let kind = "\n[kind.mat]\nzone = { box = [1, 1, 1] }\nenabled = false\nallow = { off-for-good = \"spare\" }\n[[entity]]\nname = \"mat\"\nkind = \"mat\"\n";
    assert_eq!(codes(kind), [""; 0]);
    let reaction = format!(
        "{PAD}[[reaction]]\non = {{ inside = \"pad\" }}\ndo = [{{ cue = \"it\" }}]\nallow = {{ never-happens = \"later\" }}\n"
    );
    assert_eq!(codes(&reaction), [""; 0]);
}

#[test]
fn values_that_are_never_what_is_asked_for() {
    let two = format!(
        "{PAD}[[reaction]]\non = {{ enter = \"pad\" }}\ndo = [{{ count = \"visits\", add = 2 }}]\n\
         [[reaction]]\non = {{ exit = \"pad\" }}\nif = \"count.visits == 5\"\ndo = [{{ cue = \"x\" }}]\n"
    );
    mends("passed-over", "\"count.visits == 5", &two, &[("== 5", "== 6")]);
    mends("passed-over", "\"count.visits == 5", &two, &[("== 5", ">= 5")]);
    let own = format!(
        "{PAD}[[reaction]]\non = {{ enter = \"pad\" }}\n\
         do = [{{ count = \"visits\", of = \"who\", add = 1 }}]\n\
         [[reaction]]\non = {{ exit = \"pad\" }}\nif = \"count.visits >= 2\"\ndo = [{{ cue = \"x\" }}]\n"
    );
    mends(
        "anothers-value",
        "\"count.visits",
        &own,
        &[("\"count.visits >=", "\"who.count.visits >=")],
    );
    mends("anothers-value", "\"count.visits", &own, &[(", of = \"who\"", "")]);
}

#[test]
fn reactions_and_spawned_things_that_never_are() {
    let replaced = format!(
        "{PAD}[[reaction]]\nname = \"greet\"\non = {{ enter = \"pad\" }}\ndo = [{{ cue = \"x\" }}]\n\
         [[reaction]]\ninstead_of = \"greet\"\non = {{ enter = \"pad\" }}\ndo = [{{ cue = \"y\" }}]\n"
    );
    let more = [(
        "\"greet\"\non = { enter = \"pad\" }\ndo = [{ cue = \"x\"",
        "\"greet\"\non = [{ enter = \"pad\" }, { exit = \"pad\" }]\ndo = [{ cue = \"x\"",
    )];
    mends("replaced-for-good", "\"greet\"", &replaced, &more);
    let moths = "\n[kind.moth]\nbody = { sphere = { radius = 0.1 } }\nstock = 2\n\
                 [[entity]]\nname = \"lamp\"\nzone = { box = [2, 2, 2] }\n\
                 spawner = { kind = \"moth\", keep = 1, bounds = \"room\" }\n\
                 [[entity]]\nname = \"room\"\nat = [9, 0, 0]\nzone = { box = [4, 4, 4] }\n";
    mends("bounds-elsewhere", "{ kind = \"moth\"", moths, &[("at = [9, 0, 0]", "at = [1, 0, 0]")]);
}
