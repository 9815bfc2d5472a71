//! One scene for each detector, played as a playtest: the normal case, the trap, and the thing
//! beside it that must not fire.

use crate::support;

use hazuro::Play;
use hazuro_format::{Source, write_log};
use hazuro_verify::{read_playtest, run_playtest};

use support::scene;

/// Runs a playtest of a scene; every expectation must be met.
#[track_caller]
fn holds(scene_text: &str, playtest: &str) {
    let scene = scene(scene_text);
    let text = format!("scene = \"yard.scene.toml\"\n{playtest}");
    let playtest = read_playtest(&Source::new("t.playtest.toml", text), scene);
    let playtest = playtest.unwrap_or_else(|found| panic!("{found:#?}"));
    for rate in [None, Some(9)] {
        let report = run_playtest(&playtest, rate);
        let missed: Vec<_> = report.outcomes.iter().filter(|outcome| !outcome.met).collect();
        assert!(missed.is_empty(), "{missed:#?}");
        assert!(!report.outcomes.is_empty());
    }
}

#[test]
fn a_plank_is_touched_once_by_whoever_may() {
    holds(
        r#"
[[entity]]
name = "plank"
solid = { box = [2, 0.1, 1] }
touch = { margin = 0.02 }
admit = { players = true }
once = true
[[entity]]
name = "pot"
at = [5, 0, 0]
touch = { sphere = { radius = 0.3 }, at_least = 4 }
[[entity]]
name = "rail"
at = [2, 0, 0]
solid = { box = [0.1, 1, 9] }
touch = {}
"#,
        r#"
seconds = 20
tape = [
  { at = 0, who = "miller", walk_to = [0, 0, -6] },
  { at = 7, who = "miller", walk_to = [0, 0, 6] },
  { at = 0, who = "heron", drive_to = [0, 0, 0], over = 5 },
  { at = 14, who = "heron", drive_to = [5, 0, 0], over = 5 },
  { at = 19.2, who = "heron", place_at = [15, 0, 0] },
  { at = 19.5, who = "heron", drive_to = [4, 0, 0], over = 0.4 },
]
expect = [
  { event = "touch", on = "plank", who = "miller", times = 1 },
  { event = "untouch", on = "plank", who = "miller", times = 1 },
  { event = "touch", on = "plank", who = "heron", never = true },
  { event = "touch", on = "rail", who = "heron", times = 2 },
  { event = "touch", on = "rail", who = "miller", never = true },
  { event = "touch", on = "pot", who = "heron", after = 19, times = 1 },
]"#,
    );
}

#[test]
fn a_probe_hits_those_it_looks_for() {
    holds(
        r#"
[[entity]]
name = "ray"
at = [-3, 1, 0]
probe = { to = [6, 0, 0], of = ["bodies"], every = 0.05 }
admit = { tags = ["person"] }
[[entity]]
name = "curtain"
at = [0, 1, 1]
solid = { box = [6, 2, 0.1] }
[[entity]]
name = "high_ray"
at = [-3, 5, 0]
probe = { to = [6, 0, 0], of = ["bodies", "solids"] }
"#,
        r#"
seconds = 10
tape = [
  { at = 0, who = "miller", walk_to = [0, 0, -6] },
  { at = 0, who = "heron", drive_to = [0, 1, 0], over = 8 },
]
expect = [
  { event = "hit", on = "ray", who = "miller", by = 4.0, times = 1 },
  { event = "clear", on = "ray", who = "miller", times = 1 },
  { event = "hit", on = "ray", who = "heron", never = true },
  { event = "hit", on = "high_ray", never = true },
]"#,
    );
}

#[test]
fn a_hook_knows_its_height_and_a_step_is_no_fall() {
    holds(
        r#"
[[entity]]
name = "floor"
at = [0, -0.5, 0]
solid = { box = [40, 1, 40] }
[[entity]]
name = "step"
at = [0, -0.46, 0]
solid = { box = [40, 1, 2] }
[[entity]]
name = "hook"
at = [3, 5, 3]
body = { capsule = { radius = 0.1, height = 1 } }
footing = { margin = 0.05, grace = 0 }
[[entity]]
name = "walker"
kind = "person"
at = [0, 0, 5]
footing = { slope = 40, layers = ["default"] }
"#,
        r#"
seconds = 8
tape = [
  { at = 0, who = "walker", walk_to = [0, 0, -5] },
  { at = 1, who = "hook", drive_to = [3, 0.5, 3], over = 1.5 },
  { at = 4, who = "hook", drive_to = [3, 2.5, 3], over = 1 },
]
expect = [
  { event = "land", on = "walker", times = 1 },
  { event = "lift_off", on = "walker", never = true },
  { value = "who.height", who = "hook", is = 4.5, at = 0.5 },
  { event = "land", on = "hook", who = "floor", after = 2.4, by = 2.6 },
  { value = "who.grounded && who.ground == \"floor\"", who = "hook", is = true, at = 3 },
  { event = "lift_off", on = "hook", after = 4, by = 4.2 },
  { value = "who.height", who = "hook", is = 2.0 },
]"#,
    );
}

#[test]
fn an_owl_spots_who_steps_out_and_forgets() {
    holds(
        r#"
[[entity]]
name = "owl"
at = [0, 1, -8]
turn = 180
sight = { range = 20, angle = 70, rise = 40, notice = 0.5, forget = 1, every = 0.1, hides = ["stone"], points = 7, fraction = 0.3, eye = [0, 0.5, 0], near = 1 }
admit = { tags = ["person"] }
[[entity]]
name = "wall"
layers = ["stone"]
at = [0, 1, 0]
solid = { box = [4, 4, 0.01] }
[[entity]]
name = "fence"
at = [0, 1, -4]
solid = { box = [20, 4, 0.1] }
"#,
        r#"
seconds = 20
tape = [
  { at = 2, who = "miller", walk_to = [6, 0, 6] },
  { at = 7, who = "miller", walk_to = [0, 0, 6] },
  { at = 2, who = "heron", place_at = [5, 1, -2] },
]
expect = [
  { event = "spot", on = "owl", who = "miller", after = 4, by = 6, times = 1 },
  { event = "lose", on = "owl", who = "miller", after = 8, times = 1 },
  { event = "spot", on = "owl", who = "heron", never = true },
  { value = "who.sees.len()", who = "owl", is = 0, at = 1 },
]"#,
    );
}

#[test]
fn a_weathercock_turns_to_the_best_it_admits() {
    let cock = r#"
[[entity]]
name = "cock"
seeker = { range = 20, margin = 1, every = 0.1, KEYS }
admit = { tags = ["person", "bird"] }
[[entity]]
name = "cart"
at = [0, 0, 1]
body = { box = [1, 1, 1] }
[[reaction]]
on = { retarget = "cock" }
if = 'on.target != ""'
do = [{ face = "cock", to = "who" }]
"#;
    let tape = r#"
seconds = 9
tape = [{ at = 1, who = "heron", drive_to = [2, 0, 0], over = 4 }]
"#;
    holds(
        &cock.replace("KEYS", "of = [\"bodies\"], sight = true"),
        &format!(
            "{tape}expect = [
              {{ event = \"retarget\", on = \"cock\", who = \"miller\", by = 0.2, times = 1 }},
              {{ event = \"retarget\", on = \"cock\", who = \"heron\", after = 3, times = 1 }},
              {{ event = \"retarget\", on = \"cock\", who = \"cart\", never = true }},
              {{ value = \"who.target\", who = \"cock\", is = \"heron\" }},
            ]"
        ),
    );
    // The other way round: the one farthest away.
    holds(
        &cock.replace("KEYS", "score = \"distance\""),
        &format!(
            "{tape}expect = [
              {{ event = \"retarget\", on = \"cock\", who = \"heron\", by = 0.2, times = 1 }},
              {{ event = \"retarget\", on = \"cock\", who = \"miller\", after = 2, times = 1 }},
            ]"
        ),
    );
}

#[test]
fn a_lever_is_offered_held_and_refused() {
    holds(
        r#"
[[entity]]
name = "lever"
at = [0, 1, 0]
solid = { box = [0.1, 1, 0.1] }
prompt = { reach = 1, margin = 0.3, caption = "Pull", detail = "Hold it.", hold = 0.5, sight = true, angle = 120, priority = 2 }
[[entity]]
name = "chest"
at = [0, 0.5, 0]
prompt = { reach = 1, key = "KeyO", several = true, needs = { counts = { keys = 1 }, tags = ["person"] } }
[[entity]]
name = "button"
at = [0, 1, 0.5]
interact = { reach = 1.5, key = "KeyF" }
cooldown = 2
cooldown_shared = true
[[reaction]]
on = { accept = "lever" }
do = [{ count = "keys", add = 1 }]
"#,
        r#"
seconds = 12
tape = [
  { at = 0.5, who = "miller", press = "KeyE" },
  { at = 1, who = "miller", walk_to = [0, 0, 1] },
  { at = 4, who = "miller", press = "KeyO" },
  { at = 4.5, who = "miller", press = "KeyE" },
  { at = 4.8, who = "miller", release = "KeyE" },
  { at = 5, who = "miller", hold = "KeyE", over = 1 },
  { at = 6.5, who = "miller", press = "KeyO" },
  { at = 7, who = "miller", press = "KeyF" },
  { at = 8, who = "miller", interact = "button" },
  { at = 9.5, who = "miller", interact = "button" },
  { at = 10, who = "miller", walk_to = [0, 0, 6] },
]
expect = [
  { event = "offer", on = "lever", who = "miller", times = 1 },
  { event = "withdraw", on = "lever", who = "miller", after = 10, times = 1 },
  { event = "offer", on = "chest", times = 1 },
  { event = "refused", on = "chest", need = "keys", times = 1 },
  { event = "hold", on = "lever", times = 2 },
  { event = "cancel", on = "lever", times = 1 },
  { event = "accept", on = "lever", after = 5.4, by = 5.6, times = 1 },
  { event = "accept", on = "chest", after = 6, times = 1 },
  { event = "interact", on = "button", times = 2 },
  { event = "offer", on = "button", never = true },
]"#,
    );
}

#[test]
fn a_bell_is_clicked_and_a_brake_dragged() {
    holds(
        r#"
[[entity]]
name = "eye"
parent = "miller"
at = [0, 1.5, 0]
camera = { fov = 60, viewport = [800, 600], look_at = "tower" }
[[entity]]
name = "tower"
at = [0, 1.5, 0]
pointer = { reach = 20 }
[[entity]]
name = "bell"
parent = "tower"
solid = { cone = { radius = 0.3, height = 0.6 } }
[[entity]]
name = "brake"
at = [2, 1.5, 0]
solid = { box = [0.3, 0.3, 0.3] }
pointer = { drag = { axis = [1, 0, 0] } }
[[entity]]
name = "shutter"
at = [-2, 1.5, 1]
solid = { box = [1, 1, 0.1] }
[[entity]]
name = "hidden"
at = [-2, 1.5, 0]
solid = { box = [0.3, 0.3, 0.3] }
pointer = { children = false }
[[reaction]]
on = { drag = "brake" }
do = [{ move = "brake", to = "point" }]
[[reaction]]
on = { click = "bell_or_tower" }
do = [{ count = "rung", add = 1 }]
"#
        .replace("bell_or_tower", "tower")
        .as_str(),
        r#"
seconds = 9
tape = [
  { at = 1, who = "miller", click = "bell" },
  { at = 2, who = "miller", click = "hidden" },
  { at = 3, who = "miller", pointer_down = "brake" },
  { at = 3.5, who = "miller", pointer = [800, 300] },
  { at = 4, who = "miller", pointer_up = [800, 300] },
]
expect = [
  { event = "click", on = "tower", who = "miller", times = 1 },
  { value = "count.rung", is = 1 },
  { event = "click", on = "hidden", never = true },
  { event = "drag", on = "brake", times = 1 },
  { value = "who.x > 3.5 && who.y == 1.5", who = "brake", is = true, at = 5 },
]"#,
    );
}

#[test]
fn the_log_tells_where_how_fast_and_what_for() {
    let scene = scene(
        "[[entity]]\nname = \"post\"\nsolid = { box = [1, 4, 1] }\ntouch = {}\n\
         [[entity]]\nname = \"chest\"\nat = [0, 1, 5.5]\n\
         prompt = { needs = { counts = { keys = 1 } } }\n",
    );
    let miller = scene.find("miller").unwrap();
    let mut play = Play::new(scene);
    play.schedule(hazuro::Time::ZERO, hazuro::Input::Press { who: miller, key: "KeyE".into() })
        .unwrap();
    play.schedule(hazuro::Time::ZERO, hazuro::Input::Walk { who: miller, to: [0.0; 3].into() })
        .unwrap();
    let entries = play.advance(hazuro::Time::from_secs(4.0)).to_vec();
    let mut log = Vec::new();
    write_log(&mut log, &play, &entries, hazuro_format::Level::Events).unwrap();
    let log = String::from_utf8(log).unwrap();
    let line = |word: &str| log.lines().find(|line| line.contains(word)).unwrap().to_owned();
    assert!(line("refused").contains(r#""on":"chest","who":"miller","part":"body""#));
    assert!(line("refused").contains(r#""need":"keys""#));
    let touch = line("touch");
    for part in [r#""normal":[0.0,0.0,1.0]"#, r#""speed":2.0"#, r#""point":["#, r#""first":true"#] {
        assert!(touch.contains(part), "{part} in {touch}");
    }
}
