//! What a probe hits and where, which parts are detected, and which zones cover a place.

use std::fmt::Write;

use crate::slots::passes;

/// A robot with arms under a sheet, a feeler that reaches out, and a place below two zones.
const SHED: &str = r#"
[[entity]]
name = "robot"
at = [0, 0, -4]
body = { parts = [
  { name = "trunk", box = [0.6, 1, 0.6], at = [0, 0.5, 0] },
  { name = "arm", box = [1, 0.2, 0.2], at = [0.8, 0.9, 0] },
  { name = "head", sphere = { radius = 0.2 }, at = [0, 1.2, 0] },
] }

[[entity]]
name = "feeler"
at = [0, 0.5, 0]
probe = { to = [0, 0, -6], of = ["bodies"] }

[[entity]]
name = "roller"
at = [0, 1.3, 0]
probe = { to = [0, 0, -6], sphere = { radius = 0.1 }, of = ["bodies"] }

[[entity]]
name = "stall"
at = [1, 1, -4]
zone = { box = [0.8, 2, 2] }

[[entity]]
name = "bell"
at = [0, 1.5, -4]
touch = {}
solid = { box = [1, 0.2, 1] }

[[entity]]
name = "spot"
at = [1, 1, -4.5]

[[entity]]
name = "cellar"
at = [1, 0, -4.5]
zone = { box = [1, 3, 0.5] }

[[reaction]]
on = { cue = "shut" }
do = [{ disable = "cellar" }]
"#;

#[test]
fn where_a_probe_hits_which_parts_are_there_and_what_covers_a_place() {
    let mut playtest = String::from(
        "seconds = 4\ntape = [\n  { at = 1, who = \"robot\", drive_to = [0, 0, -3], over = 1 },\n  \
         { at = 2.5, cue = \"shut\" },\n  { at = 3, who = \"robot\", place_at = [0, 0, -30] },\n]\nexpect = [\n",
    );
    for (value, who, is, at) in [
        ("who.hit_part", "feeler", "\"trunk\"", 0.5),
        ("who.hit_distance", "feeler", "3.7", 0.5),
        ("who.hit_point.z", "feeler", "-3.7", 0.5),
        ("who.hit_point.y", "feeler", "0.5", 0.5),
        ("who.hit_normal.z", "feeler", "1", 0.5),
        ("who.hit_part", "roller", "\"head\"", 0.5),
        // A ball of 0.1 m meets one of 0.2 m, 0.1 m above its middle.
        ("who.hit_distance", "roller", "3.717157287525", 0.5),
        ("who.hit_normal.y", "roller", "0.333333333333", 0.5),
        // Between two looks it is where it is.
        ("who.hit_distance", "feeler", "3.19", 1.51),
        ("who.hit_distance < 1e300", "feeler", "false", 3.5),
        ("who.hit_part", "feeler", "\"\"", 3.5),
        ("who.parts_inside.len()", "stall", "1", 0.5),
        ("\"arm\" in who.parts_inside", "stall", "true", 0.5),
        ("who.parts_inside.len()", "stall", "0", 3.5),
        ("who.parts_touching.len()", "bell", "1", 0.5),
        ("\"head\" in who.parts_touching", "bell", "true", 0.5),
        ("who.covered_by.len()", "spot", "2", 0.5),
        ("\"stall\" in who.covered_by && \"cellar\" in who.covered_by", "spot", "true", 0.5),
        ("\"cellar\" in who.covered_by", "spot", "false", 2.6),
        ("\"stall\" in who.covered_by", "robot", "false", 0.5),
    ] {
        let _ =
            writeln!(playtest, "  {{ value = '{value}', who = \"{who}\", is = {is}, at = {at} }},");
    }
    passes(SHED, &(playtest + "]\n"));
}
