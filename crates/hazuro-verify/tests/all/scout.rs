//! Scouting: who sets off what, and planted faults that it must find by itself.

use std::path::Path;

use hazuro_format::{Finding, Source};
use hazuro_script::read_scene_with;
use hazuro_verify::{Scouted, Scouting, read_playtest, run_playtest, scout};

const DEMO: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/tidemill/");

/// The demo's scene with parts of its text replaced and reactions added, scouted.
fn broken(replaced: &[(&str, &str)], added: &str, minutes: f64) -> Scouted {
    let mut text = std::fs::read_to_string(format!("{DEMO}tidemill.scene.toml")).unwrap();
    for (part, other) in replaced {
        assert_eq!(text.matches(part).count(), 1, "{part}");
        text = text.replace(part, other);
    }
    let texts = text.find("\n[texts]").unwrap();
    text.insert_str(texts, added);
    let script = std::fs::read_to_string(format!("{DEMO}mill.rhai")).unwrap();
    let script = script + "\nfn stumble(event) { count(\"no such thing\" + 1 / 0) }\n";
    let read = |path: &Path| -> Result<Source, Finding> {
        Ok(Source::new(path.to_string_lossy(), script.as_str()))
    };
    let scene = Source::new("tidemill.scene.toml", text);
    let (scene, scripts) = read_scene_with(&scene, &read).unwrap();
    let scouting = Scouting { minutes, ..Scouting::new("tidemill.scene.toml") };
    let scene = scene.into();
    let scouted = scout(&scene, &scripts, &scouting, &mut |done, all| {
        assert!(done <= all);
        true
    });
    // Each finding comes with a playtest that can be played, and that shows it.
    for suspicion in &scouted.suspicions {
        let playtest = Source::new("found.playtest.toml", suspicion.playtest.as_str());
        let playtest = read_playtest(&playtest, scene.clone()).unwrap();
        let report = run_playtest(&playtest.with_scripts(scripts.clone()), None);
        let expects = !report.outcomes.is_empty();
        assert!(!expects || !report.passed(), "{}: {report:?}", suspicion.playtest);
    }
    scouted
}

fn codes(scouted: &Scouted) -> Vec<(String, &'static str)> {
    let code = |it: &hazuro_verify::Suspicion| {
        let on = it.name.trim_end_matches(it.code.word()).trim_end_matches('-');
        (on.to_owned(), it.code.word())
    };
    scouted.suspicions.iter().map(code).collect()
}

#[test]
fn the_demo_is_above_suspicion() {
    let scouted = broken(&[], "", 1.0);
    assert_eq!(codes(&scouted), []);
    let row = |on: &str| scouted.rows.iter().find(|row| row.on == on).unwrap();
    let column = |subject: &str| scouted.subjects.iter().position(|it| it == subject).unwrap();
    let cell = |on: &str, subject: &str| row(on).cells[column(subject)];
    assert_eq!(cell("sluice_pad", "person"), "yes");
    assert_eq!(cell("sluice_pad", "heron"), "", "it is not admitted");
    assert_eq!(cell("chute", "sack"), "yes");
    assert_eq!(cell("lever_low", "person"), "yes");
    assert_eq!(cell("tide_bell", "person"), "yes");
    assert!(scouted.visits > 300, "{}", scouted.visits);
}

#[test]
fn ten_planted_faults_are_found() {
    let replaced = [
        // A ray that meets only what is ground.
        (
            "probe = { to = [3, 0, 0], of = [\"bodies\"] }",
            "probe = { to = [3, 0, 0], of = [\"bodies\"], layers = [\"ground\"] }",
        ),
        // A plank that only a cannon ball could loosen.
        (
            "touch = {}\nadmit = { players = true }\nonce = true",
            "touch = { at_least = 500 }\nadmit = { players = true }\nonce = true",
        ),
        // A token out of reach.
        ("at = [8, 0.5, 14]", "at = [8, 4.5, 14]"),
        // Dust that tells of itself all the time.
        (
            "zone = { box = [2, 2, 2] }\nadmit = { players = true }\n",
            "zone = { box = [2, 2, 2], inside_every = 0.2 }\nadmit = { players = true }\n",
        ),
    ];
    let added = r#"
# A screen that hides a lever from the south.
[[entity]]
name = "screen"
at = [-3, 1, 10.6]
solid = { box = [3, 2, 0.1] }

[[entity]]
name = "sieve"
at = [2, 1, 17]
zone = { box = [2, 2, 2] }
admit = { players = true }

[[entity]]
name = "trap"
at = [-2, 1, 17]
zone = { box = [2, 2, 2] }
admit = { players = true }

[[reaction]]
on = { inside = "flour_dust" }
do = [{ hurt = "who", by = 1 }]

[[reaction]]
on = { enter = "sieve" }
do = [{ disable = "sieve" }, { wait = 0.1 }, { enable = "sieve" }]

[[reaction]]
on = { enter = "trap" }
do = [{ disable = "trap" }]

[[reaction]]
on = { enter = "poultice" }
do = [{ cue = "tick" }]

[[reaction]]
on = { cue = "tick" }
do = [{ cue = "tock" }]

[[reaction]]
on = { cue = "tock" }
do = [{ cue = "tick" }]

[[reaction]]
on = { touch = "firm_plank" }
do = [{ call = "stumble" }]

[[reaction]]
on = { enter = "sluice_pad" }
if = "count.openings > 99"
do = [{ say = "gate.opens" }]
"#;
    let scouted = broken(&replaced, added, 0.0);
    let found = codes(&scouted);
    for (on, code) in [
        ("path_ray", "never-fires"),
        ("loose_plank", "never-fires"),
        ("token_4", "not-on-foot"),
        ("sieve", "many-a-visit"),
        ("lever_low", "one-sided"),
        ("sieve", "flickers"),
        ("trap", "only-once"),
        ("poultice", "circle"),
        ("firm_plank", "goes-wrong"),
        ("sluice_pad", "never-acts"),
    ] {
        assert!(found.contains(&(on.to_owned(), code)), "{on}: {code} in {found:?}");
    }
    // Whoever waits for `inside` means each of them.
    assert!(!found.iter().any(|(on, _)| on == "flour_dust"), "{found:?}");
}

#[test]
fn what_is_off_is_switched_on_where_the_scene_does_it() {
    let pad = "zone = { box = [4, 2, 4] }\nadmit = { tags = [\"player\"] }";
    let off = pad.replace("\nadmit", "\nenabled = false\nadmit");
    let scouted = broken(&[(pad, &off)], "", 0.0);
    assert!(codes(&scouted).contains(&("sluice_pad".into(), "never-fires")));
    let rings =
        "\n[[reaction]]\non = { click = \"tide_bell\" }\ndo = [{ enable = \"sluice_pad\" }]\n";
    let scouted = broken(&[(pad, &off)], rings, 0.0);
    assert_eq!(codes(&scouted), []);
    let row = scouted.rows.iter().find(|row| row.on == "sluice_pad").unwrap();
    assert!(row.cells.contains(&"yes"), "{row:?}");
}

#[test]
fn the_same_seed_gives_the_same_findings() {
    let added = "\n[[reaction]]\non = { enter = \"sluice_pad\" }\ndo = [{ cue = \"a\" }]\n\
                 \n[[reaction]]\non = { cue = \"a\" }\ndo = [{ cue = \"a\" }]\n";
    let once = broken(&[], added, 0.5);
    let again = broken(&[], added, 0.5);
    assert_eq!((&once.rows, &once.suspicions), (&again.rows, &again.suspicions));
    assert!(codes(&once).contains(&("sluice_pad".into(), "circle")));
}

/// A scene of its own, scouted.
fn scouted(text: &str) -> Scouted {
    let (scene, scripts) = read_scene_with(&Source::new("yard.toml", text), &Source::read).unwrap();
    scout(&scene.into(), &scripts, &Scouting::new("yard.toml"), &mut |done, all| {
        assert!(done <= all);
        true
    })
}

/// Two people and three pads on a floor.
const PADS: &str = r#"
[scene]
floor = 0
counts = { rings = 0, inside = 0 }

[kind.person]
player = true
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 3 }

[kind.pad]
zone = { box = [2, 2, 2] }

[[entity]]
name = "ada"
kind = "person"
at = [-9, 0, 0]

[[entity]]
name = "joan"
kind = "person"
at = [-9, 0, 3]

[[entity]]
name = "bell_pad"
kind = "pad"
at = [0, 1, 0]

[[entity]]
name = "scale_pad"
kind = "pad"
at = [6, 1, 0]

[[entity]]
name = "gate_pad"
kind = "pad"
at = [12, 1, 0]

[[reaction]]
on = { enter = "bell_pad" }
do = [{ count = "rings", add = 1 }, { flag = "rung", of = "gate_pad" }]

[[reaction]]
on = { enter = "scale_pad" }
do = [{ count = "inside", add = 1 }]

[[reaction]]
on = { exit = "scale_pad" }
do = [{ count = "inside", add = -1 }]
"#;

#[test]
fn a_condition_is_tried_again_with_others_and_after_other_visits() {
    let added = |condition: &str, on: &str| {
        let reaction =
            format!("\n[[reaction]]\non = {on}\nif = {condition:?}\ndo = [{{ cue = \"x\" }}]\n");
        codes(&scouted(&format!("{PADS}{reaction}")))
    };
    // Needs five visits; two people at once; a visit to another pad before.
    assert_eq!(added("count.rings == 5", "{ enter = \"bell_pad\" }"), []);
    assert_eq!(added("count.inside == 2", "{ enter = \"scale_pad\" }"), []);
    assert_eq!(added("on.flag.rung", "{ enter = \"gate_pad\" }"), []);
    assert_eq!(added("count.inside == 1", "{ exit = \"scale_pad\" }"), []);
    // Nobody ever brings about these.
    let never = |on: &str| vec![(on.to_owned(), "never-acts")];
    assert_eq!(added("count.rings < 0", "{ enter = \"bell_pad\" }"), never("bell_pad"));
    assert_eq!(added("count.inside > 99", "{ exit = \"scale_pad\" }"), never("scale_pad"));
}

#[test]
fn one_comes_on_foot_from_whichever_side_is_open() {
    let wall = |name: &str, at: &str, size: &str| {
        format!("\n[[entity]]\nname = \"{name}\"\nat = {at}\nsolid = {{ box = {size} }}\n")
    };
    let walls = [
        wall("west", "[-1.6, 1.5, 0]", "[0.2, 3, 4.4]"),
        wall("east", "[1.6, 1.5, 0]", "[0.2, 3, 4.4]"),
        wall("south", "[0, 1.5, 2]", "[3.4, 3, 0.2]"),
    ];
    let niche = format!("{PADS}{}", walls.concat());
    let codes_of = |text: &str| codes(&scouted(text));
    assert!(!codes_of(&niche).iter().any(|(_, code)| *code == "not-on-foot"), "from the north");
    let closed = format!("{niche}{}", wall("north", "[0, 1.5, -2]", "[3.4, 3, 0.2]"));
    let shut = ("bell_pad".to_owned(), "not-on-foot");
    assert!(codes_of(&closed).contains(&shut), "{:?}", codes_of(&closed));
}

#[test]
fn a_player_without_a_body_points_in_each_way() {
    let text = r#"
[scene]
counts = { looks = 0 }

[[entity]]
name = "eye"
player = true
camera = {}

[[entity]]
name = "lamp"
at = [0, 0, -5]
solid = { box = [1, 1, 1] }
pointer = { drag = { axis = [1, 0, 0] } }

[[reaction]]
on = { drag = "lamp" }
do = [{ count = "looks", add = 1 }]

[[reaction]]
on = { unhover = "lamp" }
if = "count.looks > 0"
do = [{ cue = "seen" }]
"#;
    let found = scouted(text);
    assert_eq!(found.subjects, ["eye"]);
    assert_eq!(found.rows[0].cells, ["yes"]);
    assert_eq!(codes(&found), [], "once it was pulled, before it is left again");
    let far = scouted(&text.replace("at = [0, 0, -5]", "at = [0, 0, -5000]"));
    assert_eq!(codes(&far), [("lamp".to_owned(), "never-fires")]);
}

#[test]
fn what_is_not_tried_is_named_with_its_reason() {
    let text = PADS.to_owned()
        + r#"
[kind.crate]
stock = 3
body = { box = [1, 1, 1] }

[[entity]]
name = "basket"
parent = "ada"
body = { sphere = { radius = 0.2 } }
carry = {}

[[entity]]
name = "bolt"
pointer = {}
solid = { box = [1, 1, 1] }
"#;
    let found = scouted(&text);
    let why = |what: &str| {
        let has = |it: &&hazuro_verify::Untried| it.what.iter().any(|it| it == what);
        found.untried.iter().find(has).map(|it| it.why.as_str()).unwrap_or_default()
    };
    assert!(why("kind crate").starts_with("comes only by spawning"), "{:?}", found.untried);
    assert!(why("basket").starts_with("goes where its carrier goes"));
    assert!(why("carry basket").starts_with("was not grabbed"));
    assert_eq!(why("pointer bolt"), "no player has a camera to point through");
    assert_eq!(why("zone bell_pad"), "");
}
