//! Keys of legs, carrying, routes, teleports, spawners, and of tapes with legs and hands: what is
//! wrong with them is located, and what is right is played.

use crate::support;

use hazuro_format::Source;
use hazuro_script::read_scene;
use hazuro_verify::{check_scene, read_playtest, run_playtest};

use support::{scene, told};

const BEFORE: &str = r#"
[kind.sack]
stock = 2
body = { box = [0.5, 0.7, 0.4] }
carry = {}
[[entity]]
name = "hoist"
at = [5, -0.1, 0]
solid = { box = [2, 0.2, 2] }
route = { through = ["home", "loft"], rate = 2 }
[[entity]]
name = "loft"
at = [5, 3.9, 0]
[[entity]]
name = "post"
solid = { box = [0.2, 2, 0.2] }
at = [0, 1, 0]
[[entity]]
name = "rye"
kind = "sack"
at = [0, 0.35, 5]
"#;

/// The first finding about a scene, without its line.
fn about(text: &str) -> String {
    let text = format!("{}{BEFORE}{text}", support::PEOPLE);
    let found = read_scene(&Source::new("yard", text)).err().unwrap_or_default();
    let first = found.first().map(told).unwrap_or_default();
    first.split_once(' ').map_or(first.clone(), |(_, rest)| rest.to_owned())
}

fn entity(keys: &str) -> String {
    about(&format!("[[entity]]\nname = \"it\"\n{keys}\n"))
}

fn action(action: &str) -> String {
    about(&format!("[[reaction]]\non = {{ start = true }}\ndo = [{action}]\n"))
}

#[test]
fn each_wrong_key_of_what_moves_has_a_finding_and_a_cure() {
    let body = "body = { box = [1, 1, 1], walk = 1";
    for (found, expected) in [
        (
            entity("body = { box = [1, 1, 1], jump = 1 }"),
            "no-partner `jump` is for a body that walks",
        ),
        (entity(&format!("{body}, jump = -1 }}")), "bad-number -1 is not a height"),
        (entity(&format!("{body}, slope = 95 }}")), "bad-number 95 is not an angle"),
        (entity(&format!("{body}, stepp = 1 }}")), "unknown-key"),
        (entity("carry = {}"), "nothing-there there is nothing here to carry"),
        (
            entity("body = { box = [1, 1, 1] }\ncarry = { bounce = 2 }"),
            "bad-number 2 is not a share from 0 to 1",
        ),
        (entity("route = { through = [\"loft\"] }"), "nowhere there are too few places"),
        (
            entity("route = { through = [\"home\", \"lof\"] }"),
            "unknown-name there is no entity named `lof` / did you mean `loft`?",
        ),
        (
            entity("route = { through = [\"home\", \"loft\"], then = \"bak\" }"),
            "bad-value `bak` is none of the words that can be here / did you mean `back`?",
        ),
        (
            entity("route = { through = [\"home\", \"loft\"], over = 1, rate = 1 }"),
            "no-partner `over` and `rate`",
        ),
        (
            entity("route = { through = [\"home\", \"loft\"], ease = \"eas\" }"),
            "bad-easing `eas` is no easing",
        ),
        (entity("spawner = { keep = 3 }"), "missing-key the key `kind` is missing here"),
        (
            entity("zone = { box = [1, 1, 1] }\nspawner = { kind = \"sack\", keep = 3 }"),
            "small-stock `keep` is 3, but the kind `sack` has a stock of 2",
        ),
        (entity("spawner = { kind = \"sack\", keep = 1 }"), "no-area `it` has no zone"),
        (action("{ grab = \"post\", to = \"miller\" }"), "unable `grab` needs a `carry`"),
        (action("{ grab = \"rye\" }"), "missing-key the key `to` is missing here"),
        (action("{ throw = \"rye\" }"), "missing-key the key `speed` is missing here"),
        (action("{ run = \"post\" }"), "unable `run` needs a `route`, and `post` has none"),
        (action("{ walk = \"post\", to = \"loft\" }"), "unable `walk` needs legs to walk with"),
        (action("{ jump = \"miller\" }"), "unable `jump` needs legs to jump with"),
        (action("{ lead = \"miller\" }"), "missing-key the key `through` is missing here"),
        (
            action("{ teleport = \"miller\", to = [\"loft\", \"lof\"] }"),
            "unknown-name there is no entity named `lof`",
        ),
        (
            action("{ teleport = \"miller\", to = \"loft\", choose = \"rendom\" }"),
            "bad-value `rendom` is no way to choose / did you mean `random`?",
        ),
        (
            action("{ teleport = \"miller\", to = \"loft\", keep = [\"hat\"] }"),
            "bad-value a teleport does not keep `hat`",
        ),
        (
            action("{ walk = \"miller\", to = [\"loft\", \"post\"] }"),
            "only-one `to` is one entity here",
        ),
        (action("{ halt = \"miller\", free = true }"), "no-partner `free` does not go with `halt`"),
        (about("[scene]\ngravity = -1\n"), "bad-number -1 is not from 0"),
    ] {
        assert!(found.starts_with(expected), "{found}\n  expected {expected}");
    }
}

#[test]
fn each_wrong_deed_of_a_tape_has_a_finding_and_a_cure() {
    let scene = scene(BEFORE);
    for (deed, expected) in [
        (
            "who = \"miller\", jump = true",
            "cannot-jump `miller` cannot jump / give its body a jump",
        ),
        ("who = \"heron\", halt = true", "cannot-walk `heron` cannot walk"),
        ("who = \"heron\", follow = \"miller\"", "cannot-walk `heron` cannot walk"),
        ("who = \"miller\", follow = \"heron\", near = -1", "bad-number -1 is not a length from 0"),
        ("who = \"miller\", walk_to = \"post\", near = 1", "no-partner `near` goes with `follow`"),
        ("who = \"miller\", walk_along = [\"post\", \"pst\"]", "unknown-name there is no entity"),
        ("who = \"miller\", grab = \"post\"", "no-detector `post` cannot be carried"),
        ("who = \"miller\", throw = [0, 5000, 0]", "bad-number 5000 is not a speed up to 1000"),
        ("who = \"miller\", drop = false", "bad-value `drop = false` does nothing"),
        ("who = \"miller\", drop = true, halt = true", "one-action an entry of a tape does one"),
    ] {
        let text = format!("scene = \"yard.toml\"\nseconds = 1\ntape = [{{ at = 0, {deed} }}]\n");
        let found = read_playtest(&Source::new("t", text), scene.clone()).unwrap_err();
        let first = told(&found[0]);
        let first = first.split_once(' ').unwrap().1;
        assert!(first.starts_with(expected), "{deed}: {first}");
    }
}

#[test]
fn legs_and_hands_of_a_tape_do_what_they_say() {
    let scene = scene(
        &(BEFORE.to_owned()
            + "[[entity]]\nname = \"fence\"\nat = [0, 1, -6]\nsolid = { box = [60, 2, 0.2] }\n\
               [[reaction]]\non = { reach = \"hoist\" }\ndo = [{ cue = \"up\" }]\n\
               [[reaction]]\non = { start = true }\ndo = [{ run = \"hoist\" }]\n"),
    );
    assert!(check_scene(&Source::new("yard", ""), &scene).is_empty());
    let text = r#"
scene = "yard.toml"
seconds = 12
tape = [
  { at = 0.0, who = "miller", grab = "rye" },
  { at = 0.1, who = "miller", walk_along = [[3, 0, 6], "hoist"] },
  { at = 7.0, who = "miller", throw = [0, 2, -2] },
  { at = 8.0, who = "miller", walk_to = [0, 0, -30] },
]
expect = [
  { event = "reach", on = "hoist", who = "loft", times = 1 },
  { event = "cue", on = "up", times = 1 },
  { event = "grab", on = "rye", who = "miller", times = 1 },
  { event = "drop", on = "rye", who = "miller", times = 1, after = 6.9 },
  { event = "settle", on = "rye", who = "miller", times = 1 },
  { event = "blocked", on = "hoist", never = true },
  { event = "enter", on = "loft", times = 0 },
]
"#;
    let found = read_playtest(&Source::new("t", text), scene.clone()).unwrap_err();
    assert!(told(&found[0]).contains("`loft` has no zone"), "{}", told(&found[0]));
    let text = text.replace("  { event = \"enter\", on = \"loft\", times = 0 },\n", "");
    let playtest = read_playtest(&Source::new("t", text), scene).unwrap();
    let report = run_playtest(&playtest, None);
    assert!(report.passed(), "{:#?}", report.outcomes);
    // At the fence there is no way on, and the report says so.
    let last = report.halts.last().expect("he gets no further");
    assert!(last.ends_with("fence is in the way"), "{last}");
}
