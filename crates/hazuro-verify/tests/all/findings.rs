//! Where findings point, whatever the text looks like.

use hazuro_format::{Finding, Severity, Source, write_scene};
use hazuro_script::read_scene;

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
    let bare = Finding::new(Severity::Warning, "odd", "something is odd").with_help("look again");
    assert_eq!(bare.place(), None);
    assert_eq!(
        (bare.code(), bare.message(), bare.help()),
        ("odd", "something is odd", Some("look again"))
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
