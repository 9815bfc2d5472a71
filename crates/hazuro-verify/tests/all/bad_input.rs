//! Bad input: a located finding each, with its cause and cure.

use crate::support;

use std::sync::Arc;

use hazuro_format::{Severity, Source};
use hazuro_script::read_scene;
use hazuro_verify::{check_scene, load, read_playtest};

use support::told;

/// What is found in a scene: `line:column code message / help`.
fn findings(text: &str) -> Vec<String> {
    let found = read_scene(&Source::new("bad.toml", text)).expect_err("a bad scene");
    assert!(found.iter().all(|finding| finding.severity() == Severity::Error));
    found.iter().map(told).collect()
}

/// Asserts that a text has exactly one finding, which starts like this.
#[track_caller]
fn one(text: &str, expected: &str) {
    let found = findings(text);
    assert_eq!(found.len(), 1, "{found:#?}");
    assert!(found[0].starts_with(expected), "{}\nfor {expected}", found[0]);
}

const PAD: &str = "[[entity]]\nname = \"pad\"\nzone = { box = [1, 1, 1] }\n";

#[track_caller]
fn reaction(text: &str, expected: &str) {
    one(&format!("{PAD}[[reaction]]\n{text}"), expected);
}

#[test]
fn what_is_no_scene_at_all() {
    one("", "1:1 empty");
    one("   \n\n", "1:1 empty");
    one("hello there", "1:7 syntax this is not TOML");
    one("[scene]\nname = \"Yard", "2:13 syntax");
    one("{\"scene\": 1}", "1:1 syntax");
    let json = Source::new("bad.json", "{\"entity\": [{\"name\": \"a\", }]}");
    assert_eq!(read_scene(&json).unwrap_err()[0].code(), "syntax");
}

#[test]
fn keys_and_types() {
    one(
        "[[entity]]\nname = \"a\"\nzon = 1",
        "3:1 unknown-key there is no key `zon` here / did you mean `zone`?",
    );
    one("[[entity]]\nat = [0, 0, 0]", "1:1 missing-key the key `name` is missing here");
    one("[[entity]]\nname = 3", "2:8 wrong-type this is the number `3`, but should be a text");
    // As one would write it who takes entities for a table by name.
    one(
        "[entity.pad]",
        "1:2 wrong-type this is a table, but should be a list / write [[...]] with two brackets",
    );
    one("[[entity]]\nname = \"a\"\nat = [0, 0]", "3:6 wrong-type");
    one("[[entity]]\nname = \"a\"\nat = \"here\"", "3:6 wrong-type this is the text \"here\"");
    one("[scene]\nrate = 1.5", "2:8 wrong-type");
    one(
        "[[entity]]\nname = \"a\"\nzone = { bx = [1, 1, 1] }",
        "3:10 unknown-key there is no key `bx` here / did you mean `box`?",
    );
}

#[test]
fn a_value_of_another_sort_says_what_to_write() {
    let entity = |line: &str, help: &str| {
        let found = findings(&format!("[[entity]]\nname = \"a\"\n{line}"));
        assert_eq!(found.len(), 1, "{found:#?}");
        assert!(found[0].starts_with("3:"), "{}", found[0]);
        let cure = found[0].split_once(" / ").map_or("", |(_, cure)| cure);
        assert_eq!(cure, help, "for {line}");
    };
    entity("body = { sphere = 0.3 }", "write { radius = 0.3 }");
    entity(
        "body = { capsule = 1 }",
        "write { KEY = ... }; its keys are height, radius; needed: radius, height",
    );
    entity(
        "carry = true",
        "write { KEY = ... }; its keys are bounce, friction, gravity, hold, mass, reach, snatch",
    );
    entity("admit = { tags = \"person\" }", "write [\"person\"]");
    entity("at = 3", "write [x, y, z]");
    entity("stats = 3", "write a table with names as its keys: { NAME = ... }");
    // A list of its values in order is no table.
    entity("body = { sphere = [0.3] }", "");
    entity("zone = [[1, 1, 1]]", "");
    // What is wanted says enough.
    entity("at = \"here\"", "");
    entity("enabled = \"no\"", "");
    let begins = |text: &str, expected: &str| reaction(text, &format!("5:{expected}"));
    begins(
        "on = \"start\"\ndo = []",
        "6 wrong-type this is the text \"start\", but should be a table or a list of tables / \
         write { start = true }; its keys are accept, ",
    );
    begins(
        "on = \"entr\"\ndo = []",
        "6 wrong-type this is the text \"entr\", but should be a table or a list of tables / write { enter = ... }; ",
    );
    let of = |deed: &str, expected: &str| {
        reaction(&format!("on = {{ enter = \"pad\" }}\ndo = {deed}"), &format!("6:{expected}"));
    };
    of(
        "{ count = \"n\" }",
        "6 wrong-type this is a table, but should be a list / write [{ count = \"n\" }]",
    );
    of(
        "\"say\"",
        "6 wrong-type this is the text \"say\", but should be a list / write [{ say = ... }]; ",
    );

    let json = "{\"entity\": [{\"name\": \"a\", \"body\": {\"sphere\": 0.3}}]}";
    let found = read_scene(&Source::new("bad.json", json)).expect_err("a bad scene");
    assert_eq!(found[0].help().unwrap().to_string(), "write { \"radius\": 0.3 }");
}

#[test]
fn texts_without_end_are_told_by_their_beginning() {
    let (word, words) = ("x".repeat(200_000), "ab ".repeat(60_000));
    let scenes = [
        format!("[[entity]]\nname = \"a\"\nbody = {{ sphere = \"{word}\" }}"),
        format!("[[entity]]\nname = \"a\"\n{word} = 3"),
        format!("{PAD}[[reaction]]\non = {{ enter = \"pad\" }}\nif = \"{word}\"\ndo = []"),
        format!("{PAD}[[reaction]]\non = {{ enter = \"pad\" }}\nagain = \"{words}\"\ndo = []"),
        // Beside what is wrong.
        format!("# {words}\n[[entity]]\n# {word}\nnam = \"a\"\n# {words}"),
        format!("[[entity]]\nname = \"a\"\ntags = [\n\"{word}\",\n3]"),
    ];
    for scene in scenes {
        let found = read_scene(&Source::new("bad.toml", &scene)).expect_err("a bad scene");
        for finding in found {
            assert!(finding.message().len() < 4100, "{}", finding.message().len());
            let shown = finding.render(100, false);
            assert!(shown.len() < 6000, "{} bytes: {}", shown.len(), &shown[..800]);
            assert!(shown.contains("bad.toml:"), "{shown}");
        }
    }
}

#[test]
fn combinations_ground_layers_and_scale() {
    let entity = |keys: &str| format!("[[entity]]\nname = \"a\"\n{keys}");
    one(
        &entity("solid = { any = [{ box = [1, 1, 1] }, { sphere = { radius = -1 } }] }"),
        "3:50 bad-shape a sphere's radius is -1",
    );
    one(
        &entity("solid = { any = [{ at = [0, 0, 0] }] }"),
        "3:18 one-shape a shape is missing here / give one of: box",
    );
    one(
        &entity("solid = { any = [{ box = [1, 1, 1], turn = inf }] }"),
        "3:44 bad-number this is no angle",
    );
    one(&entity("solid = { any = [] }"), "3:17 bad-shape `any` needs at least one shape");
    one(
        &entity("zone = { mesh = { points = [[0, 0, 0]], triangles = [] } }"),
        "3:17 bad-shape a mesh needs at least one triangle",
    );
    one(
        &entity("zone = { heights = { spacing = 1, rows = [[0, 0], [0, 0]] } }"),
        "3:20 bad-shape a `heights` cannot be here, only convex shapes can: box, sphere, capsule, \
         cylinder, cone, hull / ground can only be a `solid` by itself",
    );
    one(
        &entity("solid = { heights = { spacing = 1, rows = [[0, 0], [0, 0, 0]] } }"),
        "3:52 bad-shape all rows of a ground are equally long: row 1, counted from 0, has 3",
    );
    one(
        &entity("solid = { mesh = { points = [[0, 0, 0]], triangles = [[0, 0, 1]] } }"),
        "3:55 bad-shape triangle 0 names point 1, but there are 1, counted from 0",
    );
    one(
        &entity("body = { half_space = true }"),
        "3:23 bad-shape a `half_space` has no end, so it cannot be here / use a large box",
    );
    one(&entity("zone = { half_space = false }"), "3:8 one-shape a shape is missing here");
    one(&entity("scale = 0"), "3:9 bad-number 0 is not a factor from 0.001 to 1000");
    one(
        &entity(
            "layers = [\"stone\"]\nzone = { half_space = true }\nadmit = { layers = [\"stoen\"] }",
        ),
        "5:21 unknown-name there is no layer named `stoen` / did you mean `stone`?",
    );
}

#[test]
fn numbers_and_shapes() {
    let zone = |shape: &str| format!("[[entity]]\nname = \"a\"\nzone = {{ {shape} }}");
    one(&zone("box = [1, 0, 1]"), "3:16 bad-shape a box's length along y is 0");
    one(&zone("box = [1, nan, 1]"), "3:16 bad-shape a box's length along y is NaN");
    one(&zone("box = [inf, 1, 1]"), "3:16 bad-shape a box's length along x is inf");
    one(&zone("box = [1, 1, -2]"), "3:16 bad-shape a box's length along z is -2");
    one(&zone("sphere = { radius = -1 }"), "3:19 bad-shape a sphere's radius is -1");
    one(
        &zone("capsule = { radius = 1, height = 1 }"),
        "3:20 bad-shape a capsule's height is its whole",
    );
    one(&zone("cone = { radius = 1, height = 0 }"), "3:17 bad-shape a cone's height is 0");
    one(
        &zone("cylinder = { radius = inf, height = 1 }"),
        "3:21 bad-shape a cylinder's radius is inf",
    );
    one(
        &zone("hull = [[0, 0, 0], [1, 0, 0], [0, 1, 0]]"),
        "3:17 bad-shape a hull has from 4 to 256",
    );
    one(
        &zone("hull = [[0, 0, 0], [1, 0, 0], [0, 1, 0], [1, 1, 0]]"),
        "3:17 bad-shape a hull needs four",
    );
    one(
        &zone("hull = [[0, 0, 0], [1, 0, 0], [0, 1, 0], [1, 1, nan]]"),
        "3:17 bad-shape a hull's coordinate",
    );
    one(&zone(""), "3:8 one-shape a shape is missing here");
    one(&zone("box = [1, 1, 1], sphere = { radius = 1 }"), "3:8 one-shape one shape too many");
    one(&zone("box = [1, 1, 1], inside_every = 0"), "3:42 bad-number 0 is not");
    one("[[entity]]\nname = \"a\"\nat = [0, nan, 0]", "3:10 bad-number NaN is not a coordinate");
    one("[[entity]]\nname = \"a\"\nat = [0, 0, 1e9]", "3:13 bad-number 1000000000 is not");
    one("[[entity]]\nname = \"a\"\nrotation = [0, 0, 0, 0]", "3:12 bad-rotation");
    one("[[entity]]\nname = \"a\"\nturn = 1\nrotation = [0, 0, 0, 1]", "4:12 two-rotations");
    one(
        "[[entity]]\nname = \"a\"\nbody = { sphere = { radius = 1 }, walk = -1 }",
        "3:42 bad-number",
    );
    one("[[entity]]\nname = \"a\"\nbody = { parts = [] }", "3:18 no-parts");
    one("[scene]\nrate = 0", "2:8 bad-number 0 is not a rate from 1 to 10000");
}

#[test]
fn names() {
    one("[[entity]]\nname = \"a\"\n[[entity]]\nname = \"a\"", "4:8 duplicate-name");
    one("[[entity]]\nname = \"\"", "2:8 bad-name");
    one("[[entity]]\nname = \"who\"", "2:8 bad-name");
    one("[[entity]]\nname = \"kind:a\"", "2:8 bad-name");
    one(
        "[[entity]]\nname = \"gate\"\n[[entity]]\nname = \"leaf\"\nparent = \"gat\"",
        "5:10 unknown-name there is no entity named `gat` / did you mean `gate`?",
    );
    one(
        "[[entity]]\nname = \"a\"\nkind = \"person\"",
        "3:8 unknown-name there is no kind named `person`",
    );
    one(
        "[[entity]]\nname = \"a\"\nparent = \"b\"\n[[entity]]\nname = \"b\"\nparent = \"c\"\n[[entity]]\nname = \"c\"\nparent = \"b\"",
        "6:10 parent-circle these are each other's parents, in a circle: b → c → b",
    );
    one("[[entity]]\nname = \"a\"\nparent = \"a\"", "3:10 parent-circle");
    for (key, what) in [("tags", "tag"), ("kinds", "kind"), ("names", "entity")] {
        let rule = format!("{PAD}admit = {{ {key} = [\"tag\"] }}");
        let column = 10 + key.len() + 5;
        one(&rule, &format!("4:{column} unknown-name there is no {what} named `tag`"));
        let not = format!("{PAD}admit = {{ not = {{ {key} = [\"tag\"] }} }}");
        one(&not, &format!("4:{} unknown-name there is no {what} named `tag`", column + 8));
    }
}

#[test]
fn reactions() {
    reaction(
        "on = { enter = \"pda\" }\ndo = [{ cue = \"x\" }]",
        "5:16 unknown-name there is no entity named `pda` / did you mean `pad`?",
    );
    reaction(
        "on = { enter = \"kind:token\" }\ndo = [{ cue = \"x\" }]",
        "5:16 unknown-name there is no kind",
    );
    reaction(
        "on = { enter = \"tag:token\" }\ndo = [{ cue = \"x\" }]",
        "5:16 unknown-name there is no tag",
    );
    reaction("on = { exit = \"pad\", first = true }\ndo = [{ cue = \"x\" }]", "5:30 no-partner");
    reaction(
        "on = { enter = \"pad\", cue = \"y\" }\ndo = [{ cue = \"x\" }]",
        "5:6 one-event one event too many",
    );
    reaction("on = {}\ndo = [{ cue = \"x\" }]", "5:6 one-event no event is named here");
    reaction("on = { enter = \"pad\" }\ndo = []", "6:6 does-nothing");
    reaction("on = { enter = \"pad\" }\ndo = [{ enable = \"pda\" }]", "6:18 unknown-name");
    reaction(
        "on = { enter = \"pad\" }\ndo = [{ move = \"pad\", to = \"hme\" }]",
        "6:28 unknown-name",
    );
    reaction("on = { enter = \"pad\" }\ndo = [{ move = \"pad\" }]", "6:7 missing-key the key `to`");
    reaction(
        "on = { enter = \"pad\" }\ndo = [{ move = \"pad\", to = \"home\", ease = \"bouncy\" }]",
        "6:43 bad-easing",
    );
    reaction(
        "on = { enter = \"pad\" }\ndo = [{ move = \"pad\", to = \"home\", over = -1 }]",
        "6:43 bad-number -1 is not a number of seconds",
    );
    reaction(
        "on = { enter = \"pad\" }\ndo = [{ enable = \"pad\", over = 1 }]",
        "6:32 no-partner `over` does not go with `enable`",
    );
    reaction("on = { enter = \"pad\" }\ndo = [{ count = \"a\" }]", "6:7 one-change");
    reaction("on = { start = true }\ndo = [{ hide = \"who\" }]", "6:16 nobody-meant");
    reaction("on = { enter = \"pad\" }\nafter = nan\ndo = [{ cue = \"x\" }]", "6:9 bad-number");
    one(
        "[[entity]]\nname = \"a\"\n[[reaction]]\non = { enter = \"a\" }\ndo = [{ cue = \"x\" }]",
        "4:16 no-detector",
    );
    one("[texts]\nhi = \"Hello {whom}\"", "2:6 bad-placeholder");
}

#[test]
fn conditions() {
    let condition = |text: &str, expected: &str| {
        let text = format!(
            "on = {{ enter = \"pad\" }}\nif = '{text}'\ndo = [{{ count = \"tokens\", add = 1 }}]"
        );
        reaction(&text, expected);
    };
    condition("count.tokens >", "6:7 bad-expression");
    condition(
        "count.token >= 4",
        "6:13 bad-expression there is no count named `token` / did you mean `tokens`?",
    );
    condition("count.tokens >= 4 && whom.x > 0", "6:28 bad-expression");
    condition(
        "who.nmae == \"miller\"",
        "6:11 bad-expression `who` has no `nmae` / did you mean `name`?",
    );
    condition("while true {}", "6:7 bad-expression");
    condition("let x = 1", "6:7 bad-expression");
    condition("", "6:");
}

#[test]
fn every_error_is_found_at_once() {
    let text =
        "[[entity]]\nname = \"a\"\nkind = \"b\"\nparent = \"c\"\nzone = { box = [0, 1, 1] }\n";
    let codes: Vec<_> =
        findings(text).iter().map(|told| told.split(' ').nth(1).unwrap().to_owned()).collect();
    assert_eq!(codes, ["unknown-name", "unknown-name", "bad-shape"]);
}

#[test]
fn playtests() {
    let scene = "[[entity]]\nname = \"dog\"\nbody = { sphere = { radius = 1 } }\n[[entity]]\nname = \"pad\"\nzone = { box = [1, 1, 1] }";
    let scene = Arc::new(read_scene(&Source::new("yard.toml", scene)).unwrap());
    let one = |line: &str, expected: &str| {
        let text = format!("scene = \"yard.toml\"\nseconds = 5\n{line}");
        let source = Source::new("bad.toml", text);
        let found = read_playtest(&source, scene.clone()).expect_err(line);
        assert_eq!(found.len(), 1, "{found:#?}");
        assert!(told(&found[0]).starts_with(expected), "{}\nfor {expected}", told(&found[0]));
    };
    one("tape = [{ at = 1, who = \"dgo\", place_at = \"pad\" }]", "3:25 unknown-name");
    one("tape = [{ at = 1, who = \"dog\", place_at = \"pd\" }]", "3:43 unknown-name");
    one("tape = [{ at = 1, who = \"dog\", walk_to = \"pad\" }]", "3:42 cannot-walk");
    one("tape = [{ at = 1, who = \"dog\", drive_to = [1, 0, 0] }]", "3:9 missing-key");
    one("tape = [{ at = 1, who = \"dog\" }]", "3:9 one-action");
    one("tape = [{ at = -1, cue = \"x\" }]", "3:16 bad-number");
    one("tape = [{ at = 1, who = \"dog\", face = [nan, 0, 0] }]", "3:39 bad-number");
    one(
        "expect = [{ event = \"entre\", on = \"pad\" }]",
        "3:21 unknown-name there is no event named `entre` / did you mean `enter`?",
    );
    one("expect = [{ event = \"enter\", on = \"dog\" }]", "3:35 no-detector");
    one("expect = [{ event = \"enter\", cause = \"magic\" }]", "3:38 unknown-name");
    one("expect = [{ event = \"enter\", never = true, times = 2 }]", "3:52 two-counts");
    one(
        "expect = [{ value = \"count.x\", is = 1 }]",
        "3:28 bad-expression there is no count named `x`",
    );
    one("expect = [{ value = \"time\", is = 1, at = 9 }]", "3:42 too-late");
    one("expect = [{ value = \"time\", is = [1] }]", "3:");
    one("expect = [{ on = \"pad\" }]", "3:11 one-expectation");
}

#[test]
fn files_that_cannot_be_read() {
    let folder = std::env::temp_dir().join(format!("hazuro-bad-input-{}", std::process::id()));
    std::fs::create_dir_all(&folder).unwrap();
    let write = |name: &str, bytes: &[u8]| {
        let path = folder.join(name);
        std::fs::write(&path, bytes).unwrap();
        path
    };
    let code = |path: &std::path::Path| {
        let found = load(path).expect_err("unreadable");
        assert_eq!(found.len(), 1);
        found[0].code()
    };
    assert_eq!(code(&folder), "directory");
    assert_eq!(code(&folder.join("nothing.toml")), "no-such-file");
    assert_eq!(code(&write("latin.toml", b"[scene]\nname = \"M\xfchle\"")), "not-utf8");
    assert_eq!(code(&write("large.toml", &vec![b'x'; 17 << 20])), "too-large");
    assert_eq!(
        code(&write("deep.toml", format!("a = {}", "[".repeat(100_000)).as_bytes())),
        "too-deep"
    );
    let lost = write("lost.playtest.toml", b"scene = \"none.toml\"\nseconds = 1\n");
    let found = load(&lost).unwrap_err();
    assert!(found[0].place().unwrap().ends_with("lost.playtest.toml:1:9"), "{found:?}");
    std::fs::remove_dir_all(&folder).unwrap();
}

#[test]
fn detectors_that_nothing_can_set_off_are_suspicious() {
    let check = |text: &str| -> Vec<String> {
        let source = Source::new("odd.toml", text);
        check_scene(&source, &Arc::new(read_scene(&source).unwrap())).iter().map(told).collect()
    };
    let ball =
        "[[entity]]\nname = \"ball\"\ntags = [\"toy\"]\nbody = { sphere = { radius = 1 } }\n";
    let crate_ = "[[entity]]\nname = \"crate\"\ntags = [\"tool\"]\n";
    let cases = [
        (
            PAD.to_owned(),
            "3:8 never-set-off nothing can set off `pad`: no entity in the scene has a body",
        ),
        (
            format!("{ball}{crate_}{PAD}admit = {{ tags = [\"tool\"] }}"),
            "11:9 never-set-off nothing can set off `pad`: it admits no",
        ),
        (
            format!("{ball}{PAD}enabled = false"),
            "8:11 off-for-good nothing can set off `pad`: it is off",
        ),
        (
            format!("{ball}[[entity]]\nname = \"mill\"\nenabled = false\n{PAD}parent = \"mill\""),
            "10:8 off-for-good nothing can set off `pad`: its ancestor `mill`",
        ),
        (
            format!("{ball}[[entity]]\nname = \"mill\"\nadmit = {{ tags = [\"toy\"] }}"),
            "7:9 admits-to-nothing",
        ),
    ];
    // What is converted may admit others then.
    let converted = format!(
        "[kind.open]\nadmit = {{}}\n{ball}{crate_}{PAD}admit = {{ tags = [\"tool\"] }}\n\
         [[reaction]]\non = {{ enter = \"pad\" }}\ndo = [{{ convert = \"pad\", to = \"open\" }}]"
    );
    let never = |found: Vec<String>| found.iter().any(|it| it.contains("never-set-off"));
    assert!(never(check(&converted.replace("convert = \"pad\", to = \"open\"", "hide = \"pad\""))));
    assert!(!never(check(&converted)));
    for (text, expected) in cases {
        let found = check(&text);
        assert_eq!(found.len(), 1, "{found:#?}");
        assert!(found[0].starts_with(expected), "{}\nfor {expected}", found[0]);
    }
    let mended = format!(
        "{ball}{PAD}enabled = false\n[[reaction]]\non = {{ cue = \"x\" }}\ndo = [{{ toggle = \"pad\" }}]"
    );
    assert_eq!(check(&mended), Vec::<String>::new());
}
