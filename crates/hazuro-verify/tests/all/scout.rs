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
        let on = it.name.trim_end_matches(it.code).trim_end_matches('-');
        (on.to_owned(), it.code)
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
