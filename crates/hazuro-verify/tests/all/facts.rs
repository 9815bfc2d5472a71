//! What can be asked of entities and events, in conditions, scripts and expectations alike.

use hazuro_format::Source;
use hazuro_script::{read_scene, read_scene_with};
use hazuro_verify::{read_playtest, run_playtest};

use crate::support::told;

const YARD: &str = r#"
[scene]
floor = 0
scripts = ["yard.rhai"]

[[entity]]
name = "ada"
player = true
tags = ["player"]
body = { parts = [
  { name = "legs", box = [0.4, 1, 0.4], at = [0, 0.5, 0] },
  { name = "head", sphere = { radius = 0.15 }, at = [0, 1.5, 0] },
], walk = 4 }

[[entity]]
name = "sack"
at = [0, 0.3, -1]
body = { box = [0.4, 0.4, 0.4] }
carry = { mass = 3 }

[[entity]]
name = "stone"
at = [5, 0.3, 9]
body = { box = [0.4, 0.4, 0.4] }
carry = { mass = 2.5 }

[[entity]]
name = "room"
at = [0, 1, 0]
zone = { box = [3, 2, 3] }

[[entity]]
name = "hall"
at = [9, 1, 0]
zone = { box = [3, 2, 3] }
admit = { tags = ["player"] }

[[entity]]
name = "hoist"
at = [9, 1, 1]
turn = 90
highlight = true

[[entity]]
name = "lever"
parent = "hoist"
prompt = { reach = 1.5 }

[[entity]]
name = "bell"
at = [0, 1, 20]
prompt = { reach = 1.5 }

[[entity]]
name = "ray"
at = [6, 0.5, -3]
probe = { to = [0, 0, 6], of = ["bodies"] }

[[entity]]
name = "frame"
at = [20, 1, 0]

[[entity]]
name = "gate"
parent = "frame"
solid = { box = [1, 2, 0.2] }

[[entity]]
name = "ball"
at = [0, 5, 5]
body = { sphere = { radius = 0.25 } }

[[entity]]
name = "wall"
at = [4, 5, 5]
solid = { box = [0.5, 2, 2] }
touch = {}

[[reaction]]
on = { enter = "hall" }
if = 'event.part == "legs" || event.part == "head"'
do = [{ count = "by_part", add = 1 }, { call = "note" }]

[[reaction]]
on = { touch = "wall" }
if = "event.speed > 1.9 && event.normal.x < -0.99 && event.point.x > 3.7"
do = [{ count = "hard", add = 1 }, { call = "note" }]

[[reaction]]
on = { touch = "wall" }
if = "event.speed > 2.1"
do = [{ count = "harder", add = 1 }]
"#;

const SCRIPT: &str = r#"
fn note(event) {
    if event.kind == "touch" {
        print(`${event.speed} ${event.normal[0]} ${event.point[1]}`);
    } else {
        print(event.part + " " + event.who.holds + " " + event.who.inside);
    }
}
"#;

#[test]
fn everything_that_can_be_asked_for_is_as_it_is() {
    let read = |path: &std::path::Path| Ok(Source::new(path.to_string_lossy(), SCRIPT));
    let (scene, scripts) = read_scene_with(&Source::new("yard.toml", YARD), &read)
        .unwrap_or_else(|findings| panic!("{findings:#?}"));
    let playtest = r#"
scene = "yard.toml"
seconds = 5
tape = [
  { at = 0.5, who = "ada", grab = "sack" },
  { at = 1, who = "ada", walk_to = [9, 0, 0] },
  { at = 1, disable = "frame" },
  { at = 1, who = "ball", drive_to = [8, 5, 5], over = 4 },
]
expect = [
  { value = "who.holds", who = "ada", is = "", at = 0.4 },
  { value = "who.holder", who = "sack", is = "", at = 0.4 },
  { value = "who.holds", who = "ada", is = "sack", at = 1 },
  { value = "who.holder", who = "sack", is = "ada", at = 1 },
  { value = "who.holder", who = "stone", is = "", at = 1 },
  { value = "who.mass", who = "sack", is = 3 },
  { value = "who.mass", who = "stone", is = 2.5 },
  { value = '"room" in who.inside', who = "ada", is = true, at = 0.5 },
  { value = '"hall" in who.inside', who = "ada", is = false, at = 0.5 },
  { value = '"room" in who.inside', who = "ada", is = false },
  { value = '"hall" in who.inside', who = "ada", is = true },
  { value = "who.speed", who = "ada", is = 4, within = 0.001, at = 2 },
  { value = "who.velocity.x", who = "ada", is = 4.0005, within = 0.001, at = 2 },
  { value = "who.velocity.y", who = "ada", is = 0, at = 2 },
  { value = "who.speed", who = "ada", is = 0, at = 4.9 },
  { value = "who.facing", who = "ada", is = -90, within = 0.01, at = 2 },
  { value = "who.facing", who = "hoist", is = 90, within = 1e-9 },
  { value = "who.pitch", who = "hoist", is = 0 },
  { value = '"lever" in who.offered', who = "ada", is = true },
  { value = '"bell" in who.offered', who = "ada", is = false },
  { value = '"lever" in who.offered', who = "ada", is = false, at = 0.5 },
  { value = '"hoist" in who.highlighted', who = "ada", is = true },
  { value = '"lever" in who.highlighted', who = "ada", is = false },
  { value = "who.hit", who = "ray", is = "ada", at = 2.5 },
  { value = "who.hit", who = "ray", is = "", at = 4 },
  { value = "who.enabled", who = "gate", is = true, at = 0.9 },
  { value = "who.enabled", who = "gate", is = false },
  { value = "who.own.enabled", who = "gate", is = true },
  { value = "who.own.enabled", who = "frame", is = false },
  { value = "who.solid", who = "gate", is = true, at = 0.9 },
  { value = "count.by_part", is = 1 },
  { value = "count.hard", is = 1 },
  { value = "count.harder", is = 0 },
]
"#;
    let playtest = read_playtest(&Source::new("yard.playtest.toml", playtest), scene.into())
        .unwrap_or_else(|findings| panic!("{findings:#?}"));
    let report = run_playtest(&playtest.with_scripts(scripts), None);
    let failed: Vec<_> = report.outcomes.iter().filter(|outcome| !outcome.met).collect();
    assert!(report.passed(), "{failed:#?} {:#?}", report.failures);
    let printed: Vec<&str> = report
        .entries
        .iter()
        .filter_map(|entry| match &entry.what {
            hazuro::Happening::Printed { text, .. } => Some(text.as_str()),
            _ => None,
        })
        .collect();
    assert_eq!(printed, ["2.0 -1.0 5.0", "legs sack [\"hall\"]"]);
}

#[test]
fn what_there_is_not_to_ask_for_is_an_error() {
    for (condition, wanted) in [
        ("event.prat == 1", "an event has no `prat` here / did you mean `part`?"),
        (
            "who.switch == 1",
            "`switch` is a word of the language, and cannot be a name / a condition is an expression, as in count.tokens >= 4",
        ),
        ("who.hodls == 1", "`who` has no `hodls` / did you mean `holds`?"),
    ] {
        let text = format!(
            "[[entity]]\nname = \"pad\"\nzone = {{ box = [1, 1, 1] }}\n[[reaction]]\non = {{ enter = \"pad\" }}\n\
             if = '{condition}'\ndo = [{{ cue = \"in\" }}]\n"
        );
        let findings = read_scene(&Source::new("f", text)).unwrap_err();
        let told: Vec<String> = findings.iter().map(told).collect();
        assert!(told[0].ends_with(wanted), "{told:?}");
    }
    // What only the play knows is said when it is asked.
    let text = "[[entity]]\nname = \"pad\"\nzone = { box = [1, 1, 1] }\n[[entity]]\nname = \"ball\"\n\
                body = { sphere = { radius = 0.1 } }\n[[reaction]]\non = { enter = \"pad\" }\n\
                if = 'event.speed > 1'\ndo = [{ cue = \"in\" }]\n";
    let mut play = hazuro::Play::new(read_scene(&Source::new("f", text)).unwrap());
    let problems: Vec<String> = play
        .step()
        .iter()
        .filter_map(|entry| match &entry.what {
            hazuro::Happening::Problem { problem, .. } => Some(format!("{problem:?}")),
            _ => None,
        })
        .collect();
    assert_eq!(problems.len(), 1, "{problems:?}");
    assert!(problems[0].contains("this event has no `speed`"), "{problems:?}");
}

#[test]
fn a_number_is_met_within_what_is_allowed() {
    let scene = || {
        let text = "[scene]\ncounts = { n = 10 }\n[[entity]]\nname = \"post\"\nat = [1.5, 0, 0]\n";
        read_scene(&Source::new("f.toml", text)).unwrap().into()
    };
    let outcome = |keys: &str| {
        let text = format!("scene = \"f.toml\"\nseconds = 1\nexpect = [{{ {keys} }}]\n");
        let playtest = read_playtest(&Source::new("p.toml", text), scene());
        playtest
            .map(|playtest| run_playtest(&playtest, None).passed())
            .map_err(|findings| findings.iter().map(told).collect::<Vec<_>>().join("; "))
    };
    let place = "value = \"who.x\", who = \"post\"";
    assert_eq!(outcome(&format!("{place}, is = 1.5")), Ok(true));
    assert_eq!(outcome(&format!("{place}, is = 1.6")), Ok(false));
    assert_eq!(outcome(&format!("{place}, is = 1.6, within = 0.11")), Ok(true));
    assert_eq!(outcome(&format!("{place}, is = 2, within = 0.5")), Ok(true));
    assert_eq!(outcome("value = \"count.n\", is = 12, within = 2"), Ok(true));
    assert_eq!(outcome("value = \"count.n\", is = 13, within = 2"), Ok(false));
    assert_eq!(outcome("value = \"count.n\", is = 10.0"), Ok(true));
    let wrong = outcome(&format!("{place}, is = \"x\", within = 1"));
    assert!(
        wrong.as_ref().is_err_and(|it| it.contains("`within` goes with a number")),
        "{wrong:?}"
    );
    let wrong = outcome(&format!("{place}, is = 1, within = -1"));
    assert!(wrong.as_ref().is_err_and(|it| it.contains("a number from 0 to 1000000")), "{wrong:?}");
}

/// A tower between the ways of two beetles, the first of which it notices earlier; `margin` is its own.
fn targets(margin: f64, expected: [&str; 5]) -> bool {
    let scene = format!(
        "[scene]\nname = \"Tower\"\n[kind.beetle]\ntags = [\"enemy\"]\nbody = {{ sphere = {{ radius = 0.2 }} }}\n\
         [[entity]]\nname = \"one\"\nkind = \"beetle\"\nat = [-8, 0.2, 3]\n\
         [[entity]]\nname = \"two\"\nkind = \"beetle\"\nat = [-8, 0.2, 1]\n\
         [[entity]]\nname = \"tower\"\nseeker = {{ range = 5, margin = {margin}, every = 0.1 }}\nadmit = {{ tags = [\"enemy\"] }}\n"
    );
    let scene = read_scene(&Source::new("tower.toml", scene)).unwrap();
    let times = [1.5, 4.0, 5.5, 6.5, 10.0];
    let expect = times.iter().zip(expected).map(|(at, name)| {
        format!("  {{ value = \"who.target\", who = \"tower\", is = \"{name}\", at = {at} }},\n")
    });
    let playtest = format!(
        "scene = \"tower.toml\"\nseconds = 14\ntape = [\n\
         {{ at = 0, who = \"one\", drive_to = [8, 0.2, 3], over = 8 }},\n\
         {{ at = 1, who = \"two\", drive_to = [8, 0.2, 1], over = 8 }},\n]\nexpect = [\n{}]\n",
        expect.collect::<String>()
    );
    let playtest = read_playtest(&Source::new("p.toml", playtest), scene.into()).unwrap();
    run_playtest(&playtest, None).passed()
}

#[test]
fn a_seeker_keeps_its_first_target_until_that_is_out_of_range() {
    assert!(targets(1000.0, ["", "one", "one", "two", ""]));
    assert!(targets(0.1, ["", "two", "two", "two", ""]), "the nearer one");
}
