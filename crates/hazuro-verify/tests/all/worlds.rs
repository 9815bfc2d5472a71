//! Jobs of scripters from end to end, as files: each usual case with the thing next to it that must not happen.

use std::fmt::Write;

use crate::slots::passes;

#[test]
fn a_turret_follows_what_falls_and_marks_exactly_it() {
    let scene = r#"
[scene]
floor = -60

[kind.stone]
tags = ["stone"]
body = { sphere = { radius = 0.2 } }
carry = {}

[[entity]]
name = "turret"
at = [0, 5, 0]
seeker = { range = 80, every = 0.1 }
admit = { tags = ["stone"] }
children.muzzle = { at = [0, 0, -1] }

[[entity]]
name = "mark"
visible = false

[[entity]]
name = "stone"
kind = "stone"
at = [0, 30, -9]

[[entity]]
name = "feather"
at = [5, 30, -9]
body = { sphere = { radius = 0.1 } }
carry = {}

[[reaction]]
on = { retarget = "turret" }
if = 'on.target != ""'
do = [
  { aim = "turret", to = "who", rate = 90, pitch = [-80, 80] },
  { teleport = "mark", to = "who" },
  { attach = "mark", to = "who" },
  { show = "mark" },
]

[[reaction]]
on = { retarget = "turret" }
if = 'on.target == ""'
do = [{ halt = "turret" }, { detach = "mark" }, { hide = "mark" }]
"#;
    passes(
        scene,
        r#"seconds = 6
        tape = [{ at = 5, disable = "stone" }]
        expect = [
            { event = "retarget", on = "turret", who = "stone", by = 0.2 },
            { event = "retarget", on = "turret", who = "feather", never = true },
            { who = "mark", place = "stone", within = 0.001, at = 2 },
            { who = "mark", place = "stone", within = 0.001, at = 3.5 },
            { visible = "mark", is = true, at = 3 },
            { visible = "mark", is = false, at = 5.5 },
            { value = "who.pitch < -50 && who.pitch > -80.01", who = "turret", is = true, at = 4 },
            { value = "who.facing", who = "turret", is = 0, within = 0.01, at = 4 },
        ]"#,
    );
}

#[test]
fn a_pole_fits_under_no_roof_and_through_a_door_only_lengthwise() {
    let scene = |turned: i32| {
        format!(
            r#"
[kind.carrier]
player = true
body = {{ capsule = {{ radius = 0.3, height = 1.8 }}, walk = 3 }}

[kind.wall]
solid = {{ box = [40, 3, 0.4] }}

[[entity]]
name = "ada"
kind = "carrier"

[[entity]]
name = "bo"
kind = "carrier"
at = [30, 0, 0]

[[entity]]
name = "long"
at = [0, 0.1, -1.6]
body = {{ box = [0.1, 0.1, 2.4] }}
carry = {{ hold = [0, 1, -1.6] }}

[[entity]]
name = "tall"
at = [30, 1.2, -0.6]
body = {{ box = [0.1, 2.4, 0.1] }}
carry = {{ hold = [0, 1.25, -0.6] }}

[[entity]]
name = "west"
kind = "wall"
at = [-20.6, 1.5, -6]

[[entity]]
name = "east"
solid = {{ box = [20, 3, 0.4] }}
at = [10.6, 1.5, -6]

[[entity]]
name = "roof"
at = [30, 2.1, -6]
solid = {{ box = [9, 0.2, 6] }}

[[reaction]]
on = {{ grab = "long" }}
do = [{{ turn = "long", by = {turned} }}]
"#
        )
    };
    let tape = r#"seconds = 9
        tape = [
            { at = 0.1, who = "ada", grab = "long" },
            { at = 0.1, who = "bo", grab = "tall" },
            { at = 0.2, who = "ada", walk_to = [0, 0, -12] },
            { at = 0.2, who = "bo", walk_to = [30, 0, -6] },
        ]
        expect = [
            { value = "who.holds", who = "bo", is = "tall", at = 8.5 },
            { value = "who.z > -3.1", who = "bo", is = true, at = 8.5 },
            { value = "who.holds", who = "ada", is = "long", at = 8.5 },"#;
    passes(&scene(0), &format!("{tape}\n{{ who = \"ada\", place = [0, 0, -12], at = 8.5 }},\n]"));
    passes(
        &scene(90),
        &format!("{tape}\n{{ value = \"who.z > -6\", who = \"ada\", is = true, at = 8.5 }},\n]"),
    );
}

#[test]
fn places_with_a_glow_and_a_stand_are_collected_and_filled_again() {
    let mut scene = String::from(
        r#"
[kind.guest]
player = true
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 3 }

[kind.place.children.token]
at = [0, 1, 0]
zone = { sphere = { radius = 0.4 } }
admit = { players = true }
pickup = { counts = { tokens = 1 }, back_after = 3 }
children.glow = { at = [0, 0.3, 0], zone = { sphere = { radius = 0.2 } } }

[kind.place.children.stand]
at = [0, 0.1, 0]
solid = { cylinder = { radius = 0.2, height = 0.2 } }

[[entity]]
name = "ada"
kind = "guest"

[[entity]]
name = "owl"
at = [2, 1, 9]
body = { sphere = { radius = 0.2 } }

[[reaction]]
on = { cue = "clear" }
do = [{ reset = "kind:place" }]
"#,
    );
    for number in 0..50 {
        let (x, z) = (number % 10, 2 + number / 10 * 2);
        writeln!(scene, "[[entity]]\nname = \"p{number}\"\nkind = \"place\"\nat = [{x}, 0, -{z}]")
            .unwrap();
    }
    passes(
        &scene,
        r#"seconds = 8
        tape = [
            { at = 0, who = "owl", drive_to = [2, 1, -11], over = 1 },
            { at = 1, who = "ada", walk_to = [0.6, 0, -2] },
            { at = 3, who = "ada", walk_to = [0.6, 0, 3] },
            { at = 6, cue = "clear" },
        ]
        expect = [
            { event = "collect", on = "p2/token", who = "owl", never = true },
            { event = "collect", on = "p0/token", who = "ada", by = 2 },
            { value = "who.enabled", who = "p0/token/glow", is = false, at = 2.5 },
            { value = "who.enabled", who = "p0/stand", is = true, at = 2.5 },
            { value = "who.enabled", who = "p7/token/glow", is = true, at = 2.5 },
            { event = "respawn", on = "p0/token", after = 4, by = 5 },
            { value = "who.enabled", who = "p0/token/glow", is = true, at = 5.5 },
            { value = "count.tokens >= 2", is = true, at = 5.5 },
        ]"#,
    );
}

#[test]
fn a_drink_for_players_and_one_for_anybody() {
    let scene = r#"
[kind.drink]
zone = { sphere = { radius = 0.5 } }

[effect.springs]
stats = { jump = { times = 2 } }
seconds = 2

[[entity]]
name = "ada"
player = true
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 3, jump = 0.5 }

[[entity]]
name = "goat"
at = [0, 0, 4]
body = { capsule = { radius = 0.3, height = 1 }, walk = 3, jump = 0.5 }

[[entity]]
name = "trough"
kind = "drink"
at = [3, 0.5, 2]
pickup = { effects = ["springs"], back_after = 1 }

[[entity]]
name = "flask"
kind = "drink"
at = [-3, 0.5, 2]
admit = { players = true }
pickup = { effects = ["springs"], back_after = 60 }
"#;
    passes(
        scene,
        r#"seconds = 9
        tape = [
            { at = 0, who = "goat", walk_along = [[-3, 0, 2], [3, 0, 2]] },
            { at = 0, who = "ada", walk_along = [[3, 0, 1.4], [0, 0, 0], [-3, 0, 2]] },
            { at = 4.6, who = "ada", jump = true },
            { at = 7.5, who = "ada", jump = true },
        ]
        expect = [
            { event = "collect", on = "flask", who = "goat", never = true },
            { event = "collect", on = "flask", who = "ada", by = 4 },
            { event = "collect", on = "trough", who = "goat", by = 5 },
            { event = "collect", on = "trough", who = "ada", by = 2 },
            { value = "who.stat.jump", who = "ada", is = 0.5, at = 7 },
        ]"#,
    );
}

#[test]
fn a_paddle_goes_where_the_finger_taps_but_only_along_its_rail() {
    let scene = r#"
[scene]
name = "Rink"

[[entity]]
name = "ada"
player = true
at = [0, 20, 0]
children.eye = { camera = { fov = 60, viewport = [800, 600], look_at = "rink" } }

[[entity]]
name = "rink"
solid = { box = [12, 0.2, 8] }
pointer = {}

[[entity]]
name = "paddle"
at = [0, 0.3, 3.5]
solid = { box = [2, 0.4, 0.4] }

[[entity]]
name = "puck"
at = [0, 0.3, 0]
solid = { sphere = { radius = 0.1 } }

[[reaction]]
on = { click = "rink" }
do = [
  { move = "paddle", to = "point", axis = [1, 0, 0], over = 0.1 },
  { move = "puck", to = "point", over = 0.1 },
]

[[reaction]]
on = { miss = "ada/eye" }
do = [{ count = "missed", add = 1 }]
"#;
    // 20 m above, 600 pixels high at 60 degrees: 100 pixels are some 3.8 m.
    passes(
        scene,
        r#"seconds = 3
        tape = [
            { at = 1, who = "ada", click = [480, 260] },
            { at = 2, who = "ada", click = [20, 20] },
        ]
        expect = [
            { event = "click", on = "rink", by = 1 },
            { value = "who.x > 2.5 && who.x < 3.5", who = "paddle", is = true, at = 1.5 },
            { value = "who.z", who = "paddle", is = 3.5, within = 0.000001, at = 1.5 },
            { value = "who.y", who = "paddle", is = 0.3, within = 0.000001, at = 1.5 },
            { value = "who.z < -1 && who.y > 0.05", who = "puck", is = true, at = 1.5 },
            { value = "count.missed", is = 0, at = 1.9 },
            { event = "miss", on = "ada/eye", who = "ada", by = 2 },
            { value = "count.missed", is = 1, at = 2.5 },
            { value = "who.x > 2.5 && who.x < 3.5", who = "paddle", is = true, at = 2.5 },
        ]"#,
    );
}
