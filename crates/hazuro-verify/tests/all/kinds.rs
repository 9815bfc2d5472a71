//! Kinds on kinds, entities of several, and children, in files: read, written, played, explained.

use std::fmt::Write;

use hazuro::Scene;
use hazuro::scene::Limits;
use hazuro_format::{Source, origins, write_scene};
use hazuro_script::read_scene;
use proptest::prelude::*;

use crate::checks::{found, mends};
use crate::slots::passes;
use crate::support::told;

fn read(text: &str) -> Scene {
    let source = Source::new("yard.toml", text);
    read_scene(&source).unwrap_or_else(|findings| panic!("{text}\n{findings:#?}"))
}

/// Two gates of two leaves each, opened by whoever comes before them.
const GATES: &str = r#"
[scene]
floor = 0

[kind.guest]
player = true
tags = ["guest"]
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 4 }

[kind.leaf]
solid = { box = [1, 2, 0.2] }
slots = { way = 1 }

[kind.gate]
slots = { delay = 0.5 }

[kind.gate.children]
left = { kind = "leaf", at = [-0.5, 1, 0], slots = { way = -1 } }
right = { kind = "leaf", at = [0.5, 1, 0] }
pad = { at = [0, 1, 2], zone = { box = [2, 2, 2] }, admit = { tags = ["guest"] } }

[kind.lit]
for = ["tag:guest", "north*"]
highlight = true

[[entity]]
name = "ada"
kind = ["guest"]
at = [0, 0, 6]

[[entity]]
name = "northgate"
kind = "gate"

[[entity]]
name = "southgate"
kind = "gate"
at = [0, 0, -12]
slots = { delay = 1.5 }
children = { pad = { at = [0, 1, 5] } }

[[reaction]]
on = { enter = "kind:gate/pad" }
after = "on.slot.delay"
per = "detector"
do = [
  { move = "on.slot.left", by = ["on.slot.left.slot.way", 0, 0], over = 0.5 },
  { move = "on.slot.right", by = ["on.slot.right.slot.way", 0, 0], over = 0.5 },
  { wait = "on.slot.right" },
  { disable = "on.slot.parent" },
]
"#;

#[test]
fn one_reaction_opens_the_leaves_of_every_gate() {
    passes(
        GATES,
        r#"seconds = 9
        tape = [{ at = 0, who = "ada", walk_to = [0, 0, 2] }, { at = 3, who = "ada", walk_to = [0, 0, -7] }]
        expect = [
            { event = "enter", on = "northgate/pad", who = "ada", by = 1 },
            { event = "enter", on = "southgate/pad", who = "ada", by = 6 },
            { value = "who.x", who = "northgate/left", is = -0.5, at = 1 },
            { value = "who.x", who = "northgate/left", is = -1.5, at = 2.5 },
            { value = "who.enabled", who = "northgate/pad", is = false, at = 2.5 },
            { value = "who.kinds.contains(\"leaf\")", who = "southgate/right", is = true, at = 2 },
            { value = "who.x", who = "southgate/right", is = 0.5, at = 5.5 },
            { value = "who.x", who = "southgate/right", is = 1.5, at = 8.5 },
        ]"#,
    );
    assert!(found(GATES).is_empty(), "{:#?}", found(GATES));
}

#[test]
fn what_is_written_reads_as_the_same() {
    let scene = read(GATES);
    let written = write_scene(&scene);
    let again = read(&written);
    assert_eq!(again, scene, "{written}");
    let allowed = GATES.replace("[0, 1, 5] }", "[0, 1, 5], allow = { nobody-yet = \"for now\" } }");
    let allowed = read(&allowed);
    assert_eq!(read(&write_scene(&allowed)), allowed);
    assert!(!written.contains("northgate/"), "{written}");
}

#[test]
fn what_is_wrong_is_told_where_it_stands() {
    for (right, wrong, expected) in [
        (
            "[kind.leaf]",
            "[kind.leaf]\nkind = \"laef\"",
            "11:8 unknown-name there is no kind named `laef` / did you mean `leaf`?",
        ),
        (
            "[kind.leaf]",
            "[kind.leaf]\nkind = [\"gate\", \"leaf\"]",
            "11:8 kind-circle these kinds build on each other, in a circle: leaf → leaf / \
             let one of them not build on the next",
        ),
        (
            "kind = \"leaf\", at = [-0.5",
            "kind = \"leef\", at = [-0.5",
            "18:17 unknown-name there is no kind named `leef` / did you mean `leaf`?",
        ),
        (
            "slots = { way = -1 }",
            "slots = { wya = -1 }",
            "18:60 no-slot the kind `leaf` has no slot `wya` / did you mean `way`?",
        ),
        (
            "children = { pad = { at = [0, 1, 5] }",
            "children = { pad = { at = [0, 1e9, 5] }",
            "40:31 bad-number 1000000000 is not a coordinate from -1000000 to 1000000 metres",
        ),
        (
            "name = \"northgate\"",
            "name = \"north/gate\"",
            "32:8 bad-name `north/gate` cannot be a name: `/` is between what has a child and the child",
        ),
        (
            "for = [\"tag:guest\", \"north*\"]",
            "for = \"kind:gate\"",
            "23:7 not-taken a kind is for a tag, for names or for all, not for `kind:gate` / \
             `tag:lamp`, `gate_*` or `*`; a kind that builds on it names it itself",
        ),
        (
            "enter = \"kind:gate/pad\"",
            "enter = \"kind:gate/pat\"",
            "43:16 unknown-name there is no kind named `gate/pat` / did you mean `gate/pad`?",
        ),
        ("kind = \"gate\"\nat", "kind = \"gate\"\nparent = \"ada\"\nat", ""),
        (
            "children = { pad = { at = [0, 1, 5] }",
            "children = { pad = { at = [0, 1, 5], parent = \"ada\" }",
            "40:38 unknown-key there is no key `parent` here",
        ),
    ] {
        assert_eq!(GATES.matches(right).count(), 1, "{right}");
        let text = GATES.replace(right, wrong);
        let findings = read_scene(&Source::new("a.toml", &*text)).err().unwrap_or_default();
        let first = findings.first().map(told).unwrap_or_default();
        assert!(first.starts_with(expected) && first.is_empty() == expected.is_empty(), "{first}");
    }
}

#[test]
fn a_kind_for_what_is_not_there() {
    let lamps =
        "[kind.lit]\nfor = \"lmap_*\"\nhighlight = true\n[[entity]]\nname = \"lamp_north\"\n";
    mends("takes-nobody", "\"lmap_*\"", lamps, &[("lmap_*", "lamp_*")]);
}

/// What a kind or an entity may say.
const LINES: [&str; 12] = [
    "zone = { box = [#, 2, 2] }",
    "solid = { sphere = { radius = # } }",
    "tags = [\"t#\"]",
    "cooldown = #",
    "limit = #",
    "visible = false",
    "admit = { tags = [\"t#\"] }",
    "prompt = { reach = # }",
    "interact = { reach = #.5 }",
    "stats = { a = { start = # } }",
    "slots = { n = # }",
    "scale = #",
];

/// The lines that are chosen, with a number for `#`; `all` tags are there.
fn lines(chosen: &[bool], number: usize) -> String {
    let both = chosen[7] && chosen[8];
    let mut text = String::new();
    for (index, (line, _)) in LINES.iter().zip(chosen).enumerate().filter(|(_, (_, it))| **it) {
        if !(both && index == 8) {
            writeln!(text, "{}", line.replace('#', &number.to_string())).unwrap();
        }
    }
    text
}

proptest! {
    #[test]
    fn what_is_explained_is_what_counts(
        chosen in proptest::collection::vec(any::<[bool; 12]>(), 4),
        order in Just([1, 2, 3]).prop_shuffle(),
        on_other in any::<bool>(),
    ) {
        let mut text = String::from("[[entity]]\nname = \"tags\"\ntags = [\"t1\", \"t2\", \"t3\", \"t4\"]\n");
        for (number, chosen) in chosen.iter().enumerate().skip(1) {
            let lines = lines(chosen, number);
            // The last of them builds on the first.
            let on = if on_other && number == 3 { "kind = \"k1\"\n" } else { "" };
            writeln!(text, "[kind.k{number}]\n{on}{lines}").unwrap();
        }
        let kinds = order.map(|it| format!("\"k{it}\"")).join(", ");
        writeln!(text, "[[entity]]\nname = \"it\"\nkind = [{kinds}]\n{}", lines(&chosen[0], 4)).unwrap();
        let scene = read(&text);
        let it = scene.find("it").unwrap();

        let all = origins(&scene, it);
        let mut flat = String::from("[[entity]]\nname = \"tags\"\ntags = [\"t1\", \"t2\", \"t3\", \"t4\"]\n");
        flat += "[[entity]]\nname = \"it\"\n";
        let tags: Vec<&str> =
            all.iter().filter(|it| it.key == "tags").map(|it| it.value.trim_matches(['[', ']'])).collect();
        writeln!(flat, "tags = [{}]", tags.join(", ")).unwrap();
        for origin in all.iter().filter(|it| it.counts && it.key != "tags") {
            writeln!(flat, "{} = {}", origin.key, origin.value).unwrap();
            let giver = origin.kind.as_deref().map_or(4, |kind| kind[1..].parse().unwrap());
            let chosen = if giver == 4 { &chosen[0] } else { &chosen[giver] };
            let said = lines(chosen, giver);
            let key = origin.key.split('.').next().unwrap();
            prop_assert!(said.lines().any(|line| line.starts_with(key)), "{key} by {giver}");
        }
        let flat = read(&flat);
        let same = flat.find("it").unwrap();
        prop_assert_eq!(scene.zone_of(it), flat.zone_of(same));
        prop_assert_eq!(scene.solid_of(it), flat.solid_of(same));
        prop_assert_eq!(scene.admit_of(it), flat.admit_of(same));
        prop_assert_eq!(scene.prompt_of(it), flat.prompt_of(same));
        let limits = |limits: Option<&Limits>| limits.map(|it| (it.cooldown.to_bits(), it.limit));
        prop_assert_eq!(limits(scene.limits_of(it)), limits(flat.limits_of(same)));
        prop_assert_eq!(scene.slot(it, "n"), flat.slot(same, "n"));
        let tags = |scene: &Scene, id| {
            let mut tags: Vec<String> = scene.tags_of(id).map(Into::into).collect();
            tags.sort();
            tags
        };
        prop_assert_eq!(tags(&scene, it), tags(&flat, same));
        let bounds = |scene: &Scene, id| scene.zone_form(id).map(|form| form.reach().to_bits());
        prop_assert_eq!(bounds(&scene, it), bounds(&flat, same));
    }
}

#[test]
fn the_place_of_a_child_is_explained_too() {
    let scene = read(GATES);
    let place = |name: &str| {
        let at = origins(&scene, scene.find(name).unwrap()).swap_remove(0);
        (at.key, at.value, at.kind, at.field.to_string())
    };
    let field = "kind.gate.children.left.at".to_owned();
    let at = || "at".to_owned();
    assert_eq!(
        place("northgate/left"),
        (at(), "[-0.5, 1.0, 0.0]".into(), Some("gate/left".into()), field)
    );
    let field = "entity[2].children.pad.at".to_owned();
    assert_eq!(place("southgate/pad"), (at(), "[0.0, 1.0, 5.0]".into(), None, field));
}
