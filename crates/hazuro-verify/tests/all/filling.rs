//! Slots that are filled and emptied while playing.

use hazuro_format::Source;
use hazuro_script::read_scene;

use crate::checks::found;
use crate::slots::{passes, played};

/// Chests that belong to whoever opens one first, until a bell gives them all back.
const CHESTS: &str = r#"
[kind.player]
player = true
tags = ["player"]
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 4 }
use = { reach = 4 }

[kind.chest]
interact = { reach = 4 }
slots = { owner = { needs = "entity" }, label = "free", opened = 0 }

[[entity]]
name = "ada"
kind = "player"

[[entity]]
name = "bo"
kind = "player"
at = [1, 0, 0]

[[entity]]
name = "oak"
kind = "chest"
at = [0, 1, -1]

[[entity]]
name = "elm"
kind = "chest"
at = [1, 1, -1]

[[reaction]]
on = { interact = "kind:chest" }
if = 'on.slot.owner == "" || on.slot.owner == who'
do = [
  { fill = "owner", of = "on", to = "who" },
  { fill = "label", of = "on", set = "taken" },
  { fill = "opened", of = "on", set = "on.slot.opened + 1" },
  { turn = "on.slot.owner", by = 90 },
]
else = [{ count = "refused", add = 1 }, { say = "whose" }]

[[reaction]]
on = { cue = "bell" }
do = [{ unfill = "owner", of = "kind:chest" }, { reset = "elm" }]

[texts]
whose = "{on} is {on.slot.label}: ask {on.slot.owner}"
"#;

#[test]
fn slots_are_filled_and_emptied_while_playing() {
    let scene = CHESTS.replace("use = { reach = 4 }\n", "");
    let playtest = r#"
seconds = 6
tape = [
  { at = 1, who = "ada", interact = "oak" },
  { at = 2, who = "bo", interact = "oak" },
  { at = 2, who = "bo", interact = "elm" },
  { at = 3, who = "ada", interact = "oak" },
  { at = 4, cue = "bell" },
  { at = 5, who = "bo", interact = "oak" },
]
expect = [
  { value = "who.slot.owner", who = "oak", is = "", at = 0.9 },
  { value = "who.slot.owner == \"ada\"", who = "oak", is = true, at = 1.1 },
  { value = "who.slot.owner == \"ada\"", who = "oak", is = true, at = 2.1 },
  { value = "who.slot.owner == \"bo\"", who = "elm", is = true, at = 2.1 },
  { value = "who.slot.label", who = "elm", is = "taken", at = 2.1 },
  { value = "count.refused", is = 1, at = 2.5 },
  { value = "who.slot.opened", who = "oak", is = 2, at = 3.1 },
  { value = "who.slot.owner", who = "oak", is = "", at = 4.1 },
  { value = "who.slot.label", who = "oak", is = "taken", at = 4.1 },
  { value = "who.slot.label", who = "elm", is = "free", at = 4.1 },
  { value = "who.slot.opened", who = "elm", is = 0, at = 4.1 },
  { value = "who.slot.owner == \"bo\"", who = "oak", is = true, at = 5.1 },
  { value = "who.facing", who = "bo", is = 180, within = 0.001, at = 5.1 },
]
"#;
    passes(&scene, playtest);
    let entries = played(&scene, playtest).entries;
    let said = entries.iter().find_map(|entry| match &entry.what {
        hazuro::Happening::Said { text, .. } => Some(text.as_str()),
        _ => None,
    });
    assert_eq!(said, Some("oak is taken: ask ada"));
    // Nobody has an empty chest, and no finding says so where it is filled while playing.
    assert!(found(&scene).is_empty());
}

#[test]
fn what_is_wrong_with_a_filling_is_located() {
    let before = "[kind.pad]\nzone = { box = [1, 1, 1] }\nslots = { gate = { needs = \"entity\" }, delay = 2 }\n\
                  [[entity]]\nname = \"gate\"\n[[entity]]\nname = \"mat\"\nkind = \"pad\"\n\
                  [[reaction]]\non = { enter = \"kind:pad\" }\n";
    let told = |text: &str| -> Vec<String> {
        let source = Source::new("f", format!("{before}do = [{{ {text} }}]"));
        read_scene(&source).err().unwrap_or_default().iter().map(crate::support::told).collect()
    };
    for (text, wanted) in [
        (
            "fill = \"gaet\", of = \"on\", to = \"gate\"",
            "11:16 unknown-name there is no slot named `gaet` / did you mean `gate`?",
        ),
        (
            "fill = \"gate\", of = \"on\"",
            "11:7 missing-key `fill` needs what is put into the slot: `to` or `set` / as in { fill = \"owner\", of = \"on\", to = \"who\" }, or set = 2.5",
        ),
        (
            "fill = \"gate\", to = \"gate\"",
            "11:7 missing-key the key `of` is missing here / add `of = \"who\"`, or whose it is",
        ),
        (
            "fill = \"gate\", of = \"on\", to = \"gate\", set = 1",
            "11:54 no-partner `to` and `set` are two fillings / keep the one that is meant",
        ),
        (
            "fill = \"delay\", of = \"mat\", to = \"gate\"",
            "11:30 unable `fill` needs a slot `delay` for an entity, and `mat` has none / give `mat` a slot `delay` for an entity",
        ),
        (
            "fill = \"delay\", of = \"gate\", set = 1",
            "11:30 unable `fill` needs a slot `delay`, and `gate` has none / give `gate` a slot `delay`",
        ),
        (
            "fill = \"delay\", of = \"mat\", set = 1e300",
            "11:43 bad-number 1e300 is not a number from -1e15 to 1e15",
        ),
        (
            "fill = \"delay\", of = \"mat\", set = \"on.slot.dely + 1\"",
            "11:52 bad-expression there is no slot named `dely` / did you mean `delay`?",
        ),
        (
            "fill = \"gate\", of = \"who\", set = \"gatte\"",
            "11:42 unknown-name there is no entity named `gatte` / did you mean `gate`?",
        ),
        (
            "unfill = \"gate\", of = \"mat\", set = 1",
            "11:44 no-partner `set` does not go with `unfill` / it goes with solid and detect and count and flag and fill and stat",
        ),
    ] {
        assert_eq!(told(text).first().map(String::as_str), Some(wanted), "{text}");
    }
}
