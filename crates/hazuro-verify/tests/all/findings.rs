//! Where findings point, whatever the text looks like.

use hazuro_format::{Code, Finding, Severity, Source, with_edits, write_scene};
use hazuro_script::read_scene;
use hazuro_verify::{findings_json, findings_sarif};

use crate::checks::{PAD, found, mends};

fn places(text: &str) -> Vec<String> {
    let found = read_scene(&Source::new("f", text)).expect_err("a bad scene");
    found.iter().map(|finding| finding.place().unwrap()).collect()
}

#[test]
fn columns_count_characters_and_lines_any_ending() {
    assert_eq!(places("[[entity]]\r\nname = \"a\"\r\nkind = \"b\""), ["f:3:8"]);
    assert_eq!(places("[[entity]]\nname = \"Mühlenläufer 🐎\"\nkind = \"ä\""), ["f:3:8"]);
    let same_line = "entity = [{ name = \"Müller\", kind = \"none\" }]";
    assert_eq!(places(same_line), ["f:1:37"]);
    assert_eq!(places("[[entity]]\n\tname = \"a\"\n\tkind = \"b\""), ["f:3:9"]);
}

#[test]
fn inside_an_expression_the_word_itself_is_meant() {
    let scene = |condition: &str| {
        format!("[[reaction]]\non = {{ cue = \"x\" }}\nif = {condition}\ndo = [{{ cue = \"y\" }}]")
    };
    assert_eq!(places(&scene("\"time > 1 && cuont.a > 1\"")), ["f:3:19"]);
    assert_eq!(places(&scene("'who.naem == \"a\"'")), ["f:3:11"]);
    // With an escape in it the text of the file is not the expression; the whole of it is meant.
    assert_eq!(places(&scene("\"who.naem == \\\"a\\\"\"")), ["f:3:6"]);
}

#[test]
fn findings_come_in_the_order_of_the_text() {
    let text = "[[reaction]]\non = { enter = \"b\" }\ndo = [{ show = \"c\" }]\n\
                [[entity]]\nname = \"a\"\nkind = \"d\"\n[kind.x]\nzone = { box = [0, 1, 1] }\n";
    assert_eq!(places(text), ["f:2:16", "f:3:16", "f:6:8", "f:8:16"]);
}

#[test]
fn a_rendered_finding_has_its_code_place_line_and_cure() {
    let found = read_scene(&Source::new(
        "yard.toml",
        "[[entity]]\nname = \"gate\"\n[[entity]]\nname = \"leaf\"\nparent = \"gat\"\n",
    ))
    .expect_err("a bad scene");
    let plain = found[0].render(80, false);
    for part in [
        "unknown-name",
        "there is no entity named `gat`",
        "yard.toml:5:10",
        "parent = \"gat\"",
        "did you mean `gate`?",
    ] {
        assert!(plain.contains(part), "{part} in\n{plain}");
    }
    assert!(!plain.contains('\u{1b}'));
    assert!(found[0].render(80, true).contains('\u{1b}'));
    let bare = Finding::new(Severity::Warning, Code::NeverSetOff, "something is odd")
        .with_help("look again");
    assert_eq!(bare.place(), None);
    assert_eq!(
        (bare.code(), bare.message(), bare.help()),
        (Code::NeverSetOff, "something is odd", Some("look again"))
    );
    assert!(bare.render(80, false).contains("something is odd"));
}

#[test]
fn a_source_knows_its_lines() {
    let source = Source::new("s", "ab\ncöd\n");
    assert_eq!(source.line_and_column(0), (1, 1));
    assert_eq!(source.line_and_column(3), (2, 1));
    assert_eq!(source.line_and_column(5), (2, 2), "within the ö, at the ö");
    assert_eq!(source.line_and_column(6), (2, 3));
    assert_eq!(source.line_and_column(99), (3, 1));
}

#[test]
fn the_demo_is_written_as_it_was_read() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/tidemill/tidemill.scene.toml");
    let scene = hazuro_verify::load_scene(path.as_ref()).unwrap();
    let text = write_scene(&scene);
    for line in [
        "[kind.person]",
        "name = \"sluice_pad\"",
        "ease = \"ease-in-out\"",
        "last = true",
        "after = 2.0",
    ] {
        assert!(text.contains(line), "{line} in\n{text}");
    }
    assert_eq!(read_scene(&Source::new("../../demo/tidemill/again.toml", text)).unwrap(), scene);
}

#[test]
fn what_is_written_and_never_asked_for() {
    let raise = "[[reaction]]\non = { exit = \"pad\" }\ndo = [{ flag = \"door_opn\" }]\n";
    let ask = "[scene]\nflags = { door_open = false }\n[[reaction]]\non = { enter = \"pad\" }\nif = \"flag.door_open\"\ndo = [{ cue = \"in\" }]\n";
    let scene = format!("{PAD}{raise}{ask}");
    let findings = found(&scene);
    assert_eq!(findings.iter().map(Finding::code).collect::<Vec<_>>(), ["never-written"]);
    assert_eq!(findings[0].help(), Some("did you mean `door_opn`?"));
    let mended = with_edits(findings[0].at_text().unwrap().0.text(), &findings[0].edits());
    assert!(mended.contains("if = \"flag.door_opn\""), "{mended}");
    assert!(found(&scene.replace("flag.door_open", "flag.door_opn")).is_empty());
    // What nobody writes may be the host's, and what is far from it, too.
    let other = scene.replace("door_opn", "lamp");
    assert!(found(&other).is_empty(), "{:?}", found(&other));
}

#[test]
fn a_stat_that_only_looks_as_if_legs_went_by_it() {
    let runner = "[[entity]]\nname = \"runner\"\nat = [30, 0, 0]\nbody = { capsule = { radius = 0.3, height = 1.8 }, walk = 3 }\n\
                  stats = { jump_height = { start = 2 } }\n";
    mends("unread-stat", "{ start", runner, &[("jump_height", "jump")]);
    assert!(found(&runner.replace("jump_height", "luck")).is_empty());
    let asked =
        "[[reaction]]\non = { stat = \"runner\", of = \"jump_height\" }\ndo = [{ cue = \"in\" }]\n";
    assert!(found(&format!("{runner}{asked}")).is_empty());
}

#[test]
fn a_kind_that_nothing_is_of() {
    let kind = "[kind.mat]\nzone = { box = [2, 2, 2] }\nadmit = { players = true }\n[[reaction]]\non = { enter = \"kind:mat\" }\ndo = [{ cue = \"in\" }]\n";
    let scene = format!("{PAD}{kind}");
    mends("nobody-yet", "\"kind:mat\"", &scene, &[("true }\n[[reac", "true }\nstock = 1\n[[reac")]);
    mends("nobody-yet", "\"kind:mat\"", &scene, &[("kind:mat", "pad")]);
    let because = "allow = { nobody-yet = \"the program lays them out\" }\ndo =";
    mends("nobody-yet", "\"kind:mat\"", &scene, &[("do =", because)]);
    let tag = scene.replace("true }\n[[reac", "true }\ntags = [\"soft\"]\n[[reac");
    let tag = tag.replace("kind:mat", "tag:soft");
    mends(
        "nobody-yet",
        "\"tag:soft\"",
        &tag,
        &[("cue = \"in\"", "tag = \"pad\", with = \"soft\"")],
    );
}

#[test]
fn what_ends_elsewhere_or_where_nothing_can_be_told() {
    let second = PAD.replace("\"pad\"", "\"mat\"").replace("[5, 1, 0]", "[9, 1, 0]");
    let until = "[[reaction]]\non = { enter = \"pad\" }\nevery = 1\nuntil = { exit = \"mat\" }\ndo = [{ cue = \"tick\" }]\n";
    let scene = format!("{PAD}{second}{until}");
    mends("ends-elsewhere", "{ exit", &scene, &[("exit = \"mat\"", "exit = \"pad\"")]);
    let inside = PAD.replace("[2, 2, 2]", "[2, 2, 2], inside_every = 0.5");
    mends("unheard-inside", "0.5", &inside, &[(", inside_every = 0.5", "")]);
    let same = PAD.replace("\"pad\"", "\"mat\"");
    let both = "[[reaction]]\non = { enter = [\"pad\", \"mat\"] }\ndo = [{ cue = \"in\" }]\n";
    mends(
        "same-spot",
        "[5, 1, 0]",
        &format!("{PAD}{same}{both}"),
        &[("enter = [\"pad\", \"mat\"]", "enter = \"pad\"")],
    );
    let ray = "\n[[entity]]\nname = \"crate\"\nat = [0, 5, 0]\nbody = { box = [1, 2, 1] }\nprobe = { to = [0, -1, 0] }\n[[entity]]\nname = \"floor\"\nsolid = { box = [9, 1, 9] }\n";
    mends("ends-at-feet", "[0, -1, 0]", ray, &[("[0, -1, 0]", "[0, -1.1, 0]")]);
}

#[test]
fn findings_for_other_programs() {
    let findings = found(&PAD.replace("admit = { players = true }", "enabled = false"));
    let told = findings_json(&findings);
    assert_eq!(told[0]["code"], "off-for-good");
    assert_eq!((&told[0]["line"], &told[0]["column"]), (&17.into(), &11.into()));
    let sarif = findings_sarif(&findings);
    assert_eq!(sarif["version"], "2.1.0");
    let run = &sarif["runs"][0];
    assert_eq!(run["tool"]["driver"]["rules"][0]["id"], "off-for-good");
    let result = &run["results"][0];
    assert_eq!((&result["level"], &result["ruleIndex"]), (&"warning".into(), &0.into()));
    let place = &result["locations"][0]["physicalLocation"];
    assert_eq!(place["artifactLocation"]["uri"], "yard.scene.toml");
    let region = [("startLine", 17), ("startColumn", 11), ("endLine", 17), ("endColumn", 16)];
    for (key, value) in region {
        assert_eq!(place["region"][key], value, "{key}");
    }
    assert!(result["message"]["text"].as_str().unwrap().contains("nothing switches it on. let it"));
    let changed = &result["fixes"][0]["artifactChanges"][0];
    let replaced = &changed["replacements"][0];
    assert_eq!(changed["artifactLocation"]["uri"], "yard.scene.toml");
    assert_eq!(replaced["deletedRegion"], place["region"]);
    assert_eq!(replaced["insertedContent"]["text"], "true");
    let edit = &told[0]["edits"][0];
    assert_eq!((&edit["old"], &edit["new"]), (&"false".into(), &"true".into()));
    assert_eq!(findings_sarif(&[])["runs"][0]["results"].as_array().unwrap().len(), 0);
}
