//! Edits of files against the same change of the tree that the file stands for.

use hazuro::scene::Field;
use hazuro_format::{Edit, Editor, Format, Source, Spans, with_edits};
use serde_json::{Value, json};

/// All fields of a tree but the whole.
fn fields(tree: &Value, here: &Field, all: &mut Vec<Field>) {
    let mut below = |field: Field, value: &Value| {
        all.push(field.clone());
        fields(value, &field, all);
    };
    match tree {
        Value::Object(table) => table.iter().for_each(|(key, value)| below(here.key(key), value)),
        Value::Array(list) => {
            list.iter().enumerate().for_each(|(index, value)| below(here.item(index), value));
        }
        _ => {}
    }
}

/// The way to a field as a JSON pointer (RFC 6901).
fn pointer(field: &Field) -> String {
    use hazuro::scene::Step;
    let step = |step: &Step| match step {
        Step::Key(key) => format!("/{}", key.replace('~', "~0").replace('/', "~1")),
        Step::Item(index) => format!("/{index}"),
    };
    field.steps().iter().map(step).collect()
}

fn tree(source: &Source, text: &str) -> Value {
    let read = match source.format() {
        Format::Json => serde_json::from_str(text).map_err(|error| error.to_string()),
        Format::Toml => toml::from_str(text).map_err(|error| error.to_string()),
    };
    read.unwrap_or_else(|error| panic!("{error}\n{text}"))
}

/// A tree without what stands at a place.
fn without(mut tree: Value, at: &str) -> Value {
    let (above, last) = at.rsplit_once('/').unwrap();
    match tree.pointer_mut(above).unwrap() {
        Value::Object(table) => drop(table.remove(&last.replace("~1", "/").replace("~0", "~"))),
        Value::Array(list) => drop(list.remove(last.parse().unwrap())),
        _ => panic!("{above} holds nothing"),
    }
    tree
}

/// Does each edit to each field of a text. How many could be made of how many.
fn try_all(source: &Source) -> (usize, usize) {
    let spans = Spans::of(source).unwrap();
    let editor = Editor::new(source, &spans);
    let before = tree(source, source.text());
    let (mut all, mut made) = (Vec::new(), 0);
    fields(&before, &Field::ROOT, &mut all);
    let mut check = |edit: Option<Edit>, after: Value, what: &str| {
        let Some(edit) = edit else { return };
        let text = with_edits(source.text(), &[edit]);
        assert!(tree(source, &text) == after, "{what}\n{text}");
        made += 1;
    };
    for field in &all {
        let at = pointer(field);
        check(editor.remove(field), without(before.clone(), &at), &format!("remove {field}"));
        let value = before.pointer(&at).unwrap();
        let mut after = before.clone();
        if let Some(table) = after.pointer_mut(&at).unwrap().as_object_mut() {
            table.insert("margin".into(), json!(0.5));
            let what = format!("add to {field}");
            check(editor.set(field, "margin", &json!(0.5)), after, &what);
        }
        let (above, key) = at.rsplit_once('/').unwrap();
        let mut after = before.clone();
        if let Some(table) = after.pointer_mut(above).unwrap().as_object_mut() {
            table.insert(key.into(), json!(["new"]));
            let parent = field.steps()[..field.steps().len() - 1].iter();
            let parent = parent.fold(Field::ROOT, |field, step| match step {
                hazuro::scene::Step::Key(key) => field.key(key),
                hazuro::scene::Step::Item(index) => field.item(*index),
            });
            let what = format!("set {field}");
            check(editor.set(&parent, key, &json!(["new"])), after.clone(), &what);
            let table = after.pointer_mut(above).unwrap().as_object_mut().unwrap();
            table.remove(key);
            table.insert("renamed".into(), value.clone());
            check(editor.rename(field, "renamed"), after, &format!("rename {field}"));
        }
    }
    (made, all.len())
}

/// Each way to write a table.
const FORMS: &str = r#"seconds = 3 # how long
body.radius = 2
body.height = 1.5

[scene]
name = "x"

# The first.
[[entity]]
name = "a"
zone = { box = [1, 2, 3], inside_every = 2 }
"odd key" = 'it'
parts = [
  { box = [1, 1, 1] },
  { sphere = { radius = 1 } }, # with a comma
]

[entity.admit]
tags = ["a", "b"]

# The second.
[[entity]]
name = "b"
empty = {}

[kind.x]
player = true
"#;

#[test]
fn edits_change_what_they_should_and_nothing_else() {
    let forms = Source::new("forms.toml", FORMS);
    let (made, fields) = try_all(&forms);
    assert!(made > 2 * fields, "{made} edits of {fields} fields");
    let crlf = Source::new("forms.toml", FORMS.replace('\n', "\r\n"));
    assert_eq!(try_all(&crlf), (made, fields));
    let tree = tree(&forms, FORMS);
    for text in [tree.to_string(), format!("{tree:#}")] {
        let (made, of) = try_all(&Source::new("forms.json", text));
        assert_eq!(of, fields);
        assert!(made > 2 * fields, "{made} edits of {fields} fields");
    }
}

#[test]
fn edits_of_the_demo_change_what_they_should() {
    let demo = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/tidemill/tidemill.scene.toml");
    let text = std::fs::read_to_string(demo).unwrap();
    // The first entities and reactions will do.
    let short: String = text.lines().take(260).flat_map(|line| [line, "\n"]).collect();
    let (made, fields) = try_all(&Source::new("tidemill.scene.toml", short));
    assert!(made > fields, "{made} edits of {fields} fields");
}

#[test]
fn a_word_is_changed_where_it_stands_once_and_as_it_is() {
    let source = Source::new("a.toml", "on = { enter = \"pda\" }\nif = \"who.pda == 'pda2'\"\n");
    let word = |span: std::ops::Range<usize>, wrong, right| {
        let edit = Edit::word(&source, span, wrong, right)?;
        Some(with_edits(source.text(), &[edit]).lines().next().unwrap().to_owned())
    };
    assert_eq!(word(5..22, "pda", "the pad").unwrap(), "on = { enter = \"the pad\" }");
    assert_eq!(word(7..12, "enter", "exit").unwrap(), "on = { exit = \"pda\" }");
    // A bare key cannot be any text, and a quote would end the text.
    assert_eq!(word(7..12, "enter", "the pad"), None);
    assert_eq!(word(5..22, "pda", "pa\"d"), None);
    // Twice, or only as a part of another word.
    assert_eq!(word(0..source.text().len(), "pda", "pad"), None);
    assert_eq!(word(5..22, "pd", "pad"), None);
}
