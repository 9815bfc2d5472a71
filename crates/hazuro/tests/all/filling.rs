//! Slots that are filled and emptied while playing, against a plain model.

use crate::support;

use hazuro::scene::{Action, Entity, Facts, Filling, Kind, SlotSort, SlotValue};
use hazuro::{Happening, Play, Scene};
use proptest::prelude::*;
use support::ball;

/// What a play puts into slots, told apart from what is there at the start.
fn filled() -> Play {
    let pad = Kind::new("pad").needs_slot("owner", SlotSort::Entity).slot("n", 1.0);
    let scene = Scene::builder("Weir")
        .kind(pad.slot("label", "free").slot("open", false))
        .entity(Entity::new("ada").body(ball(0.1)))
        .entity(Entity::new("one").kind("pad").slot("n", 2.0))
        .entity(Entity::new("two").kind("pad").slot("owner", "ada"));
    Play::new(scene.build().unwrap())
}

/// What is in the slots of an entity, in words.
fn in_slots(play: &Play, of: &str) -> Vec<String> {
    let of = play.scene().find(of).unwrap();
    let facts = play.facts();
    let words = |name: &&str| match facts.slot(of, name) {
        None => "-".to_owned(),
        Some(SlotValue::Entity(id)) => play.scene().name(id).to_owned(),
        Some(SlotValue::Number(number)) => number.to_string(),
        Some(SlotValue::Text(text)) => text,
        Some(SlotValue::Flag(up)) => up.to_string(),
    };
    ["owner", "n", "label", "open"].iter().map(words).collect()
}

#[test]
fn what_cannot_be_put_into_a_slot_is_refused() {
    let mut play = filled();
    let refused = |play: &mut Play, action: Action| -> String {
        if let Err(fault) = play.act(action) {
            return fault.to_string();
        }
        let entries = play.step().to_vec();
        let words = entries.iter().find_map(|entry| match &entry.what {
            Happening::Refused { why, .. } => Some(why.words(play.scene())),
            _ => None,
        });
        words.unwrap_or_default()
    };
    for (action, wanted) in [
        (Action::fill("one", "owner", "nobody"), "it has not got an entity named `nobody`"),
        (Action::fill("ada", "n", 2.0), "it has not got a slot `n`"),
        (Action::fill("one", "n", "much"), "it has not got a slot `n` for a text"),
        (
            Action::fill("one", "open", Filling::entity("ada")),
            "it has not got a slot `open` for an entity",
        ),
        (Action::fill("one", "n", f64::NAN), "not a number"),
        (Action::unfill("one", "m"), "there is no slot named `m`"),
        // A text is the name of an entity where one is wanted; all of a kind are told.
        (Action::fill("kind:pad", "owner", "ada"), ""),
    ] {
        let told = refused(&mut play, action.clone());
        assert!(
            told.contains(wanted) && told.is_empty() == wanted.is_empty(),
            "{action:?}: {told}"
        );
    }
    assert_eq!(in_slots(&play, "one"), ["ada", "2", "free", "false"]);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    /// Whatever is put into slots stands there until something else is, through saving and going back; a
    /// reset makes it what it was at the start.
    #[test]
    fn slots_hold_what_was_put_there_last(
        deeds in prop::collection::vec((0..3_usize, 0..5_usize, 0..7_u32), 1..40)
    ) {
        let mut play = filled();
        let start = play.state().fingerprint();
        let names = ["ada", "one", "two"];
        let at_start = |of: &str| -> Vec<String> {
            let all = if of == "one" { ["-", "2", "free", "false"] } else { ["ada", "1", "free", "false"] };
            all.iter().map(ToString::to_string).collect()
        };
        let mut model = [at_start("one"), at_start("two")];
        for (whose, slot, value) in deeds {
            let of = ["one", "two"][whose % 2];
            let place = &mut model[whose % 2];
            let (action, is) = match (slot, value) {
                (4, _) => {
                    *place = at_start(of);
                    (Action::Reset(of.into()), None)
                }
                (0, 6) => (Action::unfill(of, "owner"), Some("-".to_owned())),
                (0, _) => {
                    let name = names[value as usize % 3];
                    (Action::fill(of, "owner", Filling::entity(name)), Some(name.to_owned()))
                }
                (1, _) => (Action::fill(of, "n", f64::from(value)), Some(value.to_string())),
                (2, 6) => (Action::fill(of, "label", "free"), Some("free".to_owned())),
                (2, _) => (Action::fill(of, "label", value.to_string()), Some(value.to_string())),
                _ => (Action::fill(of, "open", value > 3), Some((value > 3).to_string())),
            };
            if let Some(is) = is {
                place[slot] = is;
            }
            play.act(action).unwrap();
            play.step();
            prop_assert_eq!(&in_slots(&play, of), &model[whose % 2]);
        }
        let mut loaded = filled();
        loaded.load(&play.save()).unwrap();
        prop_assert_eq!(loaded.state(), play.state());
        for (number, of) in ["one", "two"].into_iter().enumerate() {
            prop_assert_eq!(in_slots(&loaded, of), model[number].clone());
        }
        play.restore(filled().state().clone()).unwrap();
        prop_assert_eq!(in_slots(&play, "two"), at_start("two"));
        prop_assert_eq!(play.state().fingerprint(), start);
    }
}
