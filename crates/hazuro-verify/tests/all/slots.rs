//! Slots and formulas in files: played, written, checked, and wherever they are wrong told.

use std::fmt::Write;
use std::sync::Arc;

use hazuro::Time;
use hazuro_format::{Finding, Source, write_scene};
use hazuro_script::{read_scene, read_scene_with};
use hazuro_verify::{Report, read_playtest, run_playtest};
use proptest::prelude::*;

use crate::checks::{found, mends};

/// Whether each expectation of a playtest is met; `tape` and `expect` are in TOML.
pub fn played(scene: &str, playtest: &str) -> Report {
    let (scene, scripts) = read_scene_with(&Source::new("weir.toml", scene), &Source::read)
        .unwrap_or_else(|findings| panic!("{findings:#?}"));
    let playtest = Source::new("weir.playtest.toml", format!("scene = \"weir.toml\"\n{playtest}"));
    let playtest =
        read_playtest(&playtest, scene.into()).unwrap_or_else(|findings| panic!("{findings:#?}"));
    run_playtest(&playtest.with_scripts(scripts), None)
}

#[track_caller]
pub fn passes(scene: &str, playtest: &str) {
    let report = played(scene, playtest);
    assert!(report.passed(), "{:#?}", report.outcomes);
}

/// Ten areas of one kind, each with its own gate and its own delay; one reaction for all of them.
fn weir() -> String {
    let mut scene = String::from(
        r#"
[scene]
floor = 0

[kind.boatman]
player = true
tags = ["player"]
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 4 }

[kind.gate_area]
zone = { box = [2, 2, 2] }
admit = { tags = ["player"] }
slots = { gate = { needs = "entity" }, delay = 0.5 }

[[entity]]
name = "ada"
kind = "boatman"
at = [-3, 0, 0]

[[entity]]
name = "heron"
at = [-3, 1, 0.5]
body = { sphere = { radius = 0.3 } }

[[reaction]]
on = { enter = "kind:gate_area" }
after = "on.slot.delay"
do = [
  { move = "on.slot.gate", by = [0, "1 + on.slot.delay", 0] },
  { count = "opened", of = "on.slot.gate", add = 1 },
  { wait = "on.slot.delay * 2" },
  { move = "on.slot.gate", to = "home" },
]
"#,
    );
    for number in 1..=10 {
        let _ = write!(
            scene,
            "\n[[entity]]\nname = \"gate_{number}\"\nat = [{x}, 1, -9]\nsolid = {{ box = [1, 1, 1] }}\n\
             \n[[entity]]\nname = \"area_{number}\"\nkind = \"gate_area\"\nat = [{x}, 1, 0]\n\
             slots = {{ gate = \"gate_{other}\", delay = {delay} }}\n",
            x = number * 3,
            // Each opens the gate of its neighbour, and they come to it out of order.
            other = number % 10 + 1,
            delay = f64::from((number * 7) % 10) * 0.25 + 0.25,
        );
    }
    scene
}

#[test]
fn ten_gates_of_one_kind_open_in_overlapping_order() {
    // 4 m a second from x = -3; the area is entered 1.3 m before its middle.
    let entered = |number: i32| (f64::from(number) * 3.0 + 3.0 - 1.3) / 4.0;
    let mut expect = String::from(
        "seconds = 20\n\
         tape = [\n  { at = 0, who = \"ada\", walk_to = [40, 0, 0] },\n  \
         { at = 0, who = \"heron\", drive_to = [40, 1, 0.5], over = 9 },\n]\nexpect = [\n",
    );
    for number in 1..=10 {
        let delay = f64::from((number * 7) % 10) * 0.25 + 0.25;
        let (gate, opens) = (number % 10 + 1, entered(number) + delay);
        let (shuts, up) = (opens + 2.0 * delay, 2.0 + delay);
        for (at, y) in
            [(opens - 0.02, 1.0), (opens + 0.02, up), (shuts - 0.02, up), (shuts + 0.02, 1.0)]
        {
            let _ = writeln!(
                expect,
                "  {{ value = \"who.y\", who = \"gate_{gate}\", is = {y}, at = {at:.3} }},"
            );
        }
        // Not by the heron, who goes through all of them, too.
        let _ = writeln!(
            expect,
            "  {{ event = \"enter\", on = \"area_{number}\", who = \"heron\", never = true }},"
        );
    }
    passes(&weir(), &(expect + "]\n"));
}

#[test]
fn three_buttons_toggle_two_lamps() {
    let scene = r#"
[kind.button]
interact = { reach = 2 }
slots = { lamp = { needs = "entity" } }

[[entity]]
name = "ada"
player = true
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 4 }

[[entity]]
name = "red"
solid = { sphere = { radius = 0.1 } }
at = [0, 5, 0]
enabled = false

[[entity]]
name = "blue"
solid = { sphere = { radius = 0.1 } }
at = [1, 5, 0]
enabled = false

[[entity]]
name = "one"
kind = "button"
at = [1, 1, 0]
slots = { lamp = "red" }

[[entity]]
name = "two"
kind = "button"
at = [0, 1, 1]
slots = { lamp = "blue" }

[[entity]]
name = "three"
kind = "button"
at = [0, 1, -1]
slots = { lamp = { entity = "red" } }

[[reaction]]
on = { interact = "kind:button" }
do = [{ toggle = "on.slot.lamp" }]
"#;
    let seen = |name: &str, at: f64, is: bool| {
        format!("  {{ value = \"who.enabled\", who = \"{name}\", is = {is}, at = {at} }},\n")
    };
    let mut playtest = String::from("seconds = 4\ntape = [\n");
    for (at, button) in [(0.5, "one"), (1.5, "two"), (2.5, "three")] {
        let _ = writeln!(playtest, "  {{ at = {at}, who = \"ada\", interact = \"{button}\" }},");
    }
    playtest += "]\nexpect = [\n";
    for (at, red, blue) in
        [(0.4, false, false), (0.6, true, false), (1.6, true, true), (2.6, false, true)]
    {
        playtest += &seen("red", at, red);
        playtest += &seen("blue", at, blue);
    }
    passes(scene, &(playtest + "]\n"));
}

#[test]
fn conditions_texts_and_scripts_ask_for_slots() {
    let scene = r#"
[scene]
scripts = ["weir.rhai"]

[kind.pad]
zone = { box = [1, 1, 1] }
slots = { next = { needs = "entity" }, price = 2, note = "dry", open = true }

[[entity]]
name = "ball"
body = { sphere = { radius = 0.1 } }
at = [-5, 0, 0]

[[entity]]
name = "one"
kind = "pad"
slots = { next = "two", price = 1.5 }

[[entity]]
name = "two"
kind = "pad"
at = [3, 0, 0]
slots = { next = "one", note = "wet", open = false }

[[reaction]]
on = { enter = "kind:pad" }
if = 'on.slot.open && on.slot.next.slot.note == "wet" && on.slot.next == "two" && who != on.slot.next'
do = [{ count = "as_wished", add = 1 }, { say = "told" }, { call = "ring" }]
else = [{ count = "refused", add = "on.slot.price" }]

[texts]
told = "{on.slot.next}, {on.slot.price}, {on.slot.note}, {on.slot.open}"
"#;
    let script = r"
fn ring(event) {
    let next = event.on.slot.next;
    print(next.slot.note + event.on.slot.price);
    act(#{ move: next, by: [0, event.on.slot.price, 0] });
    act(#{ hide: `on.slot.next` });
}";
    let read =
        |path: &std::path::Path| Ok::<_, Finding>(Source::new(path.to_string_lossy(), script));
    let (scene, scripts) = read_scene_with(&Source::new("weir.toml", scene), &read)
        .unwrap_or_else(|findings| panic!("{findings:#?}"));
    let mut play = hazuro::Play::new(scene);
    scripts.attach(&mut play).unwrap();
    play.place("ball", [0.0; 3]).unwrap();
    let mut told = Vec::new();
    // The script moves the second pad up.
    for place in [[0.0; 3], [3.0, 1.5, 0.0]] {
        play.place("ball", place).unwrap();
        told.extend(play.step().iter().filter_map(|entry| match &entry.what {
            hazuro::Happening::Said { text, .. } | hazuro::Happening::Printed { text, .. } => {
                Some(text.clone())
            }
            hazuro::Happening::Problem { problem, .. } => Some(format!("{problem:?}")),
            _ => None,
        }));
    }
    assert_eq!(told, ["two, 1.5, dry, true", "wet1.5"]);
    assert_eq!((play.count("as_wished"), play.count("refused")), (1, 2));
    assert!((play.pose("two").unwrap().position.y - 1.5).abs() < 1e-9);
}

#[test]
fn what_is_wrong_with_a_slot_in_a_file_is_located() {
    let before = "[kind.pad]\nzone = { box = [1, 1, 1] }\nslots = { gate = { needs = \"entity\" }, delay = 2 }\n\
                  [[entity]]\nname = \"gate\"\n[[entity]]\nname = \"mat\"\nkind = \"pad\"\n";
    let reaction = "[[reaction]]\non = { enter = \"kind:pad\" }\n";
    let told = |text: &str| -> Vec<String> {
        let source = Source::new("f", format!("{before}{text}"));
        read_scene(&source).err().unwrap_or_default().iter().map(crate::support::told).collect()
    };
    for (text, wanted) in [
        (
            "slots = { gaet = \"gate\" }".to_owned(),
            "9:18 no-slot the kind `pad` has no slot `gaet` / did you mean `gate`?",
        ),
        (
            "slots = { delay = \"long\" }".to_owned(),
            "9:19 bad-slot the slot `delay` is for a number, and this is a text / give a number",
        ),
        (
            "slots = { gate = \"gatte\" }".to_owned(),
            "9:18 unknown-name there is no entity named `gatte` / did you mean `gate`?",
        ),
        (
            "slots = { gate = { needs = \"thing\" } }".to_owned(),
            "9:28 unknown-name `thing` is nothing that a slot can hold / it is one of entity, number, text, flag",
        ),
        (
            "slots = { gate = { entity = \"gate\", needs = \"entity\" } }".to_owned(),
            "9:18 one-slot `entity` and `needs` are two ways to say it / give one of { entity = \"...\" } and { needs = \"...\" }",
        ),
        (
            "slots = { gate = [] }".to_owned(),
            "9:18 wrong-type this should be a number, a text, true or false, { entity = \"...\" } or { needs = \"...\" }",
        ),
        (
            format!("{reaction}after = \"on.slot.dely\"\ndo = [{{ hide = \"gate\" }}]"),
            "11:18 bad-expression there is no slot named `dely` / did you mean `delay`?",
        ),
        (
            format!("{reaction}do = [{{ turn = \"gate\", by = 90, over = \"on.slto.delay\" }}]"),
            "11:44 bad-expression `on` has no `slto` / did you mean `slot`?",
        ),
        (
            format!("{reaction}do = [{{ hide = \"on.slot.gaet\" }}]"),
            "11:16 unknown-name there is no slot named `gaet` / did you mean `gate`?",
        ),
        (
            format!("{reaction}do = [{{ wait = \"on.slot.delay +\" }}]"),
            "11:17 bad-expression The expression is incomplete / a formula is an expression, as in on.slot.delay * 2",
        ),
        (
            format!("{reaction}if = \"on.slot\"\ndo = [{{ hide = \"gate\" }}]"),
            "11:10 bad-expression `slot` stands before the name of a slot / as in on.slot.NAME",
        ),
    ] {
        assert_eq!(told(&text).first().map(String::as_str), Some(wanted), "{text}");
    }
}

#[test]
fn a_scene_with_slots_and_formulas_is_written_as_it_was_read() {
    let text = r#"
[kind.pad]
zone = { box = [1, 1, 1] }
slots = { gate = { needs = "entity" }, delay = 2, note = "dry", open = true, lamp = { entity = "gate" } }

[[entity]]
name = "gate"
stats = { health = { start = 5 } }
route = { through = ["home", "mat"] }

[[entity]]
name = "mat"
kind = "pad"
slots = { gate = "gate", delay = 0.5, note = "wet", open = false }

[[reaction]]
on = { enter = "kind:pad" }
after = "on.slot.delay"
every = "on.slot.delay + 1"
times = 2
do = [
  { move = "on.slot.gate", by = [0, "on.slot.delay", 1], over = "on.slot.delay / 2" },
  { turn = "gate", by = "on.slot.delay * 10", rate = "on.slot.delay * 20" },
  { face = "gate", to = "on.slot.lamp", over = "on.slot.delay" },
  { lead = "gate", through = ["on.slot.lamp"], rate = "on.slot.delay" },
  { throw = "who", speed = [0, "on.slot.delay", -1], spin = "on.slot.delay" },
  { count = "n", add = "on.slot.delay * 2" },
  { stat = "health", of = "gate", set = "on.slot.delay" },
  { hurt = "gate", by = "on.slot.delay" },
  { heal = "gate", by = "on.slot.delay" },
  { wait = "on.slot.delay" },
  { wait = "on.slot.gate" },
  { wait = "gate" },
  { wait = "count.n * 0.5" },
  { fill = "delay", of = "mat", set = 3 },
  { fill = "delay", of = "mat", set = "on.slot.delay + 1" },
  { fill = "note", of = "mat", set = "damp" },
  { fill = "open", of = "who", set = true },
  { fill = "gate", of = "kind:pad", to = "on.slot.lamp" },
  { unfill = "gate", of = "on" },
  { teleport = "mat.slot.gate", to = "on.slot.lamp" },
]
"#;
    let scene = read_scene(&Source::new("a.toml", text)).unwrap_or_else(|it| panic!("{it:#?}"));
    let written = write_scene(&scene);
    let again = read_scene(&Source::new("b.toml", written.clone()));
    let again = again.unwrap_or_else(|findings| panic!("{written}\n{findings:#?}"));
    assert_eq!(again, scene, "{written}");
    let waits: Vec<bool> = scene.reactions()[0]
        .actions()
        .filter_map(|(.., action)| match action {
            hazuro::scene::Action::Wait(wait) => {
                Some(matches!(wait, hazuro::scene::Wait::Seconds(_)))
            }
            _ => None,
        })
        .collect();
    assert_eq!(waits, [true, false, false, true], "a slot is what is in it");
}

#[test]
fn slots_that_are_empty_lacking_or_unused() {
    let pad = "[kind.mat]\nzone = { box = [1, 1, 1] }\nadmit = { players = true }\nslots = { lamp = { needs = \"entity\" } }\n\
               [[entity]]\nname = \"lamp\"\nsolid = { box = [1, 1, 1] }\nat = [0, 9, 0]\n\
               [[entity]]\nname = \"rug\"\nkind = \"mat\"\nat = [4, 1, 0]\n";
    let toggle =
        "[[reaction]]\non = { enter = \"kind:mat\" }\ndo = [{ toggle = \"on.slot.lamp\" }]\n";
    let empty = format!("{pad}{toggle}");
    let filled = ("[4, 1, 0]\n", "[4, 1, 0]\nslots = { lamp = \"lamp\" }\n");
    mends("empty-slot", "\"rug\"", &empty, &[filled]);
    let empty = empty.replace(filled.0, filled.1);
    let stock = empty.replace("zone =", "stock = 1\nzone =");
    mends("empty-slot", "{ needs", &stock, &[("{ needs = \"entity\" }", "{ entity = \"lamp\" }")]);

    let other = "[[entity]]\nname = \"sill\"\nat = [9, 1, 0]\nzone = { box = [1, 1, 1] }\nadmit = { players = true }\n";
    let both =
        format!("{pad}{other}{}", toggle.replace("\"kind:mat\"", "[\"kind:mat\", \"sill\"]"));
    let both = both.replace(filled.0, filled.1);
    let own = ("at = [9, 1, 0]\n", "at = [9, 1, 0]\nslots = { lamp = { entity = \"lamp\" } }\n");
    mends("lacks-slot", "\"on.slot.lamp\"", &both, &[own]);
    // A text is no entity where no kind says that it is one.
    let text = both.replace(own.0, "at = [9, 1, 0]\nslots = { lamp = \"lamp\" }\n");
    mends(
        "lacks-slot",
        "\"on.slot.lamp\"",
        &text,
        &[("{ lamp = \"lamp\" }\nzone", "{ lamp = { entity = \"lamp\" } }\nzone")],
    );

    let unused = empty.replace("slots = { lamp = {", "slots = { glow = 1, lamp = {");
    mends("unused-slot", "1", &unused, &[("glow = 1, ", "")]);
    assert!(found(&unused.replace("do =", "after = \"on.slot.glow\"\ndo =")).is_empty());
}

#[test]
fn a_reaction_that_ends_what_another_of_its_kind_began() {
    let mats = "[kind.mat]\nzone = { box = [1, 1, 1] }\nadmit = { players = true }\n\
                slots = { lamp = { needs = \"entity\" } }\n\
                [[entity]]\nname = \"red\"\n[[entity]]\nname = \"blue\"\n\
                [[entity]]\nname = \"rug\"\nkind = \"mat\"\nat = [4, 1, 0]\nslots = { lamp = \"red\" }\n\
                [[entity]]\nname = \"sill\"\nkind = \"mat\"\nat = [9, 1, 0]\nslots = { lamp = \"blue\" }\n\
                [[reaction]]\non = { enter = \"kind:mat\" }\nafter = 1\nagain = \"restart\"\n\
                do = [{ hide = \"on.slot.lamp\" }]\n";
    mends("ends-others", "\"restart\"", mats, &[("after = 1", "after = 1\nper = \"detector\"")]);
    mends("ends-others", "\"restart\"", mats, &[("again = \"restart\"\n", "")]);
    // One thing for all of them is begun anew by any of them.
    assert!(
        found(&mats.replace(
            "on.slot.lamp\" }]",
            "red\" }, { say = \"a\" }]\n[texts]\na = \"{on.slot.lamp}\""
        ))
        .is_empty()
    );
}

/// Pieces of expressions, right and wrong.
const PIECES: [&str; 26] = [
    "on",
    "who",
    "count",
    ".slot",
    ".delay",
    ".gate",
    ".",
    "count.n",
    "on.slot.delay",
    "who.slot.delay",
    "on.slot.gate.slot.delay",
    "+",
    "-",
    "*",
    "/",
    "(",
    ")",
    "1",
    "0.001",
    "1e300",
    "time",
    "\"x\"",
    "true",
    ".name",
    "[0]",
    "on.slot.note",
];

fn any_expression() -> impl Strategy<Value = String> {
    prop::collection::vec(0..PIECES.len(), 1..6)
        .prop_map(|all| all.into_iter().map(|at| PIECES[at]).collect::<Vec<_>>().join(" "))
        .prop_map(|text| text.replace(" .", "."))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    /// Whatever stands there, a scene is read or refused, and one that is read can be played.
    #[test]
    fn random_slots_and_formulas_never_break_a_play(
        texts in prop::collection::vec(any_expression(), 6),
        delay in prop_oneof![Just("2".to_owned()), any::<f64>().prop_map(|it| format!("{it:?}")), Just("\"x\"".into())],
        gate in prop::sample::select(vec!["\"gate\"", "{ entity = \"mat\" }", "\"nobody\"", "3"]),
    ) {
        let [after, every, over, by, add, wait] = <[String; 6]>::try_from(texts).unwrap();
        let delay = delay.replace("NaN", "nan");
        let scene = format!(
            "[kind.pad]\nzone = {{ box = [1, 1, 1] }}\nslots = {{ gate = {{ needs = \"entity\" }}, delay = 0.01, note = \"dry\" }}\n\
             [[entity]]\nname = \"gate\"\n\
             [[entity]]\nname = \"ball\"\nat = [0, 5, 0]\nbody = {{ sphere = {{ radius = 0.1 }} }}\n\
             [[entity]]\nname = \"mat\"\nkind = \"pad\"\nslots = {{ gate = {gate}, delay = {delay} }}\n\
             [[reaction]]\non = {{ enter = \"mat\" }}\nafter = '{after}'\nevery = '{every}'\ntimes = 3\n\
             do = [{{ move = \"on.slot.gate\", by = [0, '{by}', 0], over = '{over}' }}, \
             {{ count = \"n\", add = '{add}' }}, {{ wait = '{wait}' }}]\n"
        );
        match read_scene(&Source::new("f", scene)) {
            Err(findings) => {
                prop_assert!(!findings.is_empty());
                prop_assert!(findings.iter().all(|finding| finding.place().is_some()));
            }
            Ok(scene) => {
                let mut play = hazuro::Play::new(Arc::new(scene));
                play.place("ball", [0.0; 3]).unwrap();
                play.advance(Time::from_secs(2.0));
                play.state().assert_consistent(play.scene());
            }
        }
    }
}
