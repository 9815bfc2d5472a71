//! Going back in time gives exactly what was.

use crate::support;

use std::collections::BTreeMap;

use hazuro::scene::Action;
use hazuro::{EntityId, Input, Play, Time};
use hazuro_view::Rewind;
use proptest::prelude::*;
use support::{YARD, demo, scene};

fn input(who: EntityId, (sort, x, z): (u8, f64, f64)) -> Input {
    match sort {
        0 => Input::Walk { who, to: [x, 0.0, z].into() },
        1 => Input::Act(Action::Jump(who)),
        2 => Input::Press { who, key: "KeyE".into() },
        3 => Input::Act(Action::Cue { name: "open".into(), on: None, who: None }),
        4 => Input::Act(Action::Cue { name: "cellar".into(), on: None, who: None }),
        _ => Input::Place { who, at: [x, 0.0, z].into() },
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, ..ProptestConfig::default() })]

    /// Somebody acts at random and looks back at random; each moment is always the same state, and
    /// the same as in a play to which all was done from the start.
    #[test]
    fn each_moment_is_always_the_same(
        acts in prop::collection::vec((0_u8..6, -8.0..8.0, -8.0..8.0, 0_u32..90), 1..10),
        visits in prop::collection::vec(0.0..1.0, 1..12),
    ) {
        let yard = scene(YARD);
        let miller = yard.scene.find("miller").unwrap();
        let mut rewind = Rewind::new(Play::new(yard.scene.clone()));
        let mut known: BTreeMap<Time, u64> = BTreeMap::new();
        for (sort, x, z, ticks) in acts {
            rewind.input(input(miller, (sort, x, z))).unwrap();
            // What is done at a moment belongs to it.
            known.insert(rewind.now(), rewind.play().state().fingerprint());
            for _ in 0..ticks {
                let next = Time::of_tick(rewind.now().tick(60) + 1, 60);
                rewind.go(next);
                known.insert(next, rewind.play().state().fingerprint());
            }
        }
        let (tape, end, entries) = (rewind.tape().to_vec(), rewind.end(), rewind.entries().to_vec());
        let times: Vec<Time> = known.keys().copied().collect();
        for share in visits {
            let time = times[(share * (times.len() - 1) as f64) as usize];
            rewind.go(time);
            prop_assert_eq!(rewind.play().state().fingerprint(), known[&time]);
            prop_assert_eq!(rewind.end(), end);
        }
        rewind.go(end);
        prop_assert_eq!(rewind.entries(), &entries[..]);
        let mut play = Play::new(yard.scene.clone());
        for (time, input) in tape {
            play.schedule(time, input).unwrap();
        }
        let straight = play.advance(end).to_vec();
        prop_assert_eq!(straight, entries);
    }
}

#[test]
fn each_second_of_the_demo_can_be_gone_back_to() {
    for name in ["gate", "yard", "mill", "granary"] {
        let loaded = demo(&format!("{name}.playtest.toml"));
        let tape = loaded.playtest.as_ref().unwrap().tape().to_vec();
        let mut rewind = Rewind::with_tape(loaded.play(), tape).unwrap();
        let mut known = Vec::new();
        for second in 1..=40 {
            rewind.go(Time::from_secs(f64::from(second)));
            known.push(rewind.play().state().clone());
        }
        for state in known.iter().rev() {
            rewind.go(state.now());
            if rewind.play().state() != state {
                let (a, b) = (format!("{:#?}", rewind.play().state()), format!("{state:#?}"));
                for (x, y) in a.lines().zip(b.lines()).filter(|(x, y)| x != y).take(12) {
                    println!("{x} | {y}");
                }
                panic!("{name} at {}", state.now());
            }
        }
    }
}

#[test]
fn old_states_are_thinned_out() {
    let mut rewind = Rewind::new(Play::new(scene(YARD).scene));
    let kept: Vec<usize> = [60.0, 600.0, 3600.0]
        .map(|seconds| {
            rewind.go(Time::from_secs(seconds));
            rewind.kept()
        })
        .into();
    assert!(kept[0] > 20 && kept[2] < kept[0] + 160, "{kept:?}");
}

#[test]
fn another_deed_after_going_back_makes_another_story() {
    let yard = scene(YARD);
    let who = yard.scene.find("miller").unwrap();
    let seconds = Time::from_secs;
    let mut rewind = Rewind::new(Play::new(yard.scene.clone()));
    rewind.go(seconds(1.0));
    rewind.input(Input::Walk { who, to: [0.0, 0.0, -4.0].into() }).unwrap();
    rewind
        .later(seconds(9.0), Input::Act(Action::Cue { name: "open".into(), on: None, who: None }))
        .unwrap();
    rewind.go(seconds(5.0));
    assert_eq!(rewind.play().count("visits"), 1);
    // Only looking back changes nothing.
    rewind.go(seconds(0.5));
    assert_eq!((rewind.tape().len(), rewind.ahead().len(), rewind.end()), (0, 2, seconds(5.0)));
    rewind.go(seconds(5.0));
    assert_eq!(rewind.play().count("visits"), 1);
    // Something else does: what was done is forgotten, what was planned is not.
    rewind.go(seconds(0.5));
    rewind.input(Input::Walk { who, to: [3.0, 0.0, 0.0].into() }).unwrap();
    assert_eq!((rewind.tape().len(), rewind.ahead().len(), rewind.end()), (1, 1, seconds(0.5)));
    rewind.go(seconds(10.0));
    assert_eq!(rewind.play().count("visits"), 0);
    assert!(rewind.play().pose("gate").unwrap().position.y > 1.5, "the planned cue was sent");
}

#[test]
fn events_are_gone_through_one_by_one() {
    let loaded = demo("gate.playtest.toml");
    let tape = loaded.playtest.as_ref().unwrap().tape().to_vec();
    let mut rewind = Rewind::with_tape(loaded.play(), tape).unwrap();
    let mut moments = Vec::new();
    while rewind.now() < Time::from_secs(12.0) {
        rewind.go_moment(Time::from_secs(12.0));
        moments.push(rewind.now());
    }
    let mut all =
        Rewind::with_tape(loaded.play(), loaded.playtest.as_ref().unwrap().tape().to_vec())
            .unwrap();
    all.go(Time::from_secs(12.0));
    assert_eq!(rewind.entries(), all.entries());
    let mut times: Vec<Time> =
        all.entries().iter().filter_map(|entry| Some(entry.event()?.time)).collect();
    times.dedup();
    assert_eq!(moments.len(), times.len() + 1, "one stop each, and the end");
}
