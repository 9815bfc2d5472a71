//! What a failed value is said to have been kept from: for random scenes each reaction that is blamed
//! would have changed it, once the gate that is named is opened, and no other is blamed.

use std::fmt::Write;

use hazuro_format::Source;
use hazuro_script::read_scene_with;
use hazuro_verify::{Report, read_playtest, run_playtest};
use proptest::prelude::*;

/// What keeps a reaction from acting.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Obstacle {
    Nothing,
    PadOff,
    ParentOff,
    NotAdmitted,
    Aside,
    Condition,
    Late,
    UsedUp,
    NoCue,
}

use Obstacle::{Aside, Condition, Late, NoCue, NotAdmitted, Nothing, PadOff, ParentOff, UsedUp};

/// Keys of the pad and of the reaction that make an obstacle, and what is said of it.
fn keys(obstacle: Obstacle) -> (&'static str, &'static str, &'static str) {
    match obstacle {
        Nothing => ("", "", ""),
        PadOff => ("enabled = false\n", "", "is off"),
        ParentOff => ("parent = \"shed\"\n", "", "`shed` is off"),
        NotAdmitted => ("admit = { tags = [\"red\"] }\n", "", "subject is admitted"),
        Aside => ("", "", "subject is in the shape"),
        Condition => ("", "if = \"flag.open\"\n", "flag.open was false"),
        Late => ("", "after = 90\n", "waits until"),
        UsedUp => ("", "limit = 0\n", "not used up"),
        NoCue => ("", "", "`cue never` never happened"),
    }
}

/// A walk over a row of pads; each has a reaction that adds another power of two, and its obstacle.
fn walked(obstacles: &[Obstacle], expected: i64) -> Report {
    let mut scene = String::from(
        "[scene]\nfloor = 0\n\n[[entity]]\nname = \"ada\"\nplayer = true\ntags = [\"player\"]\n\
         body = { capsule = { radius = 0.3, height = 1.8 }, walk = 3 }\n\n\
         [[entity]]\nname = \"shed\"\nenabled = false\n\n[[entity]]\nname = \"mark\"\ntags = [\"red\"]\n",
    );
    for (number, obstacle) in obstacles.iter().enumerate() {
        let (pad, reaction, _) = keys(*obstacle);
        let (x, z) = ((number + 1) * 3, if *obstacle == Aside { 5 } else { 0 });
        let on = if *obstacle == NoCue {
            "cue = \"never\"".into()
        } else {
            format!("enter = \"pad_{number}\"")
        };
        let _ = write!(
            scene,
            "\n[[entity]]\nname = \"pad_{number}\"\nat = [{x}, 1, {z}]\nzone = {{ box = [1, 2, 2] }}\n{pad}\
             \n[[reaction]]\non = {{ {on} }}\n{reaction}do = [{{ count = \"sum\", add = {} }}]\n",
            1 << number
        );
    }
    // A flag that something would set, so that it can be asked for.
    scene += "\n[[reaction]]\non = { cue = \"unlock\" }\ndo = [{ flag = \"open\" }]\n";
    let scene = Source::new("row.toml", scene);
    let (scene, scripts) = read_scene_with(&scene, &Source::read).unwrap();
    let far = obstacles.len() * 3 + 3;
    let playtest = format!(
        "scene = \"row.toml\"\nseconds = 9\ntape = [{{ at = 0, who = \"ada\", walk_to = [{far}, 0, 0] }}]\n\
         expect = [{{ value = \"count.sum\", is = {expected} }}]\n"
    );
    let playtest =
        read_playtest(&Source::new("row.playtest.toml", playtest), scene.into()).unwrap();
    run_playtest(&playtest.with_scripts(scripts), None)
}

/// What the free ones add.
fn sum(obstacles: &[Obstacle]) -> i64 {
    let free = obstacles.iter().enumerate().filter(|(_, it)| **it == Nothing);
    free.map(|(number, _)| 1 << number).sum()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    #[test]
    fn who_is_blamed_for_a_value_would_have_changed_it(
        obstacles in prop::collection::vec(prop::sample::select(vec![
            Nothing, PadOff, ParentOff, NotAdmitted, Aside, Condition, Late, UsedUp, NoCue,
        ]), 1..6),
    ) {
        let whole = (1 << obstacles.len()) - 1;
        let report = walked(&obstacles, whole);
        let is = sum(&obstacles);
        prop_assert_eq!(report.passed(), is == whole);
        let why = report.outcomes[0].why.clone();
        for (number, obstacle) in obstacles.iter().enumerate() {
            let name = format!("reaction {} ", number + 1);
            let blamed = why.iter().find(|line| line.starts_with(&name));
            if *obstacle == Nothing {
                prop_assert_eq!(blamed, None, "{:?}", obstacles);
                continue;
            }
            let (.., said) = keys(*obstacle);
            let told = blamed.is_some_and(|line| line.contains(said));
            prop_assert!(told, "{number} of {obstacles:?}: {why:#?}");
            // With that gate open, and no other, it does change it.
            let mut opened = obstacles.clone();
            opened[number] = Nothing;
            prop_assert!(walked(&opened, is + (1 << number)).passed(), "{number} of {obstacles:?}");
        }
    }
}
