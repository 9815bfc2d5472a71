//! What the tests of this crate share.

#![allow(dead_code, reason = "each test uses some of it")]

use std::path::Path;

use hazuro_format::Source;
use hazuro_script::read_scene;
use hazuro_verify::{Loaded, load};

const DEMO: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/tidemill/");

/// A file of the demo.
pub fn demo(name: &str) -> Loaded {
    load(Path::new(&format!("{DEMO}{name}"))).unwrap()
}

/// A scene by itself.
pub fn scene(text: &str) -> Loaded {
    let source = Source::new("yard.toml", text);
    let scene = read_scene(&source).unwrap();
    Loaded {
        scene: scene.into(),
        source,
        scripts: hazuro_script::Scripts::default(),
        playtest: None,
    }
}

/// A pad, a ball that can be driven, a miller who walks, a lever to hold, a gate to be cued.
pub const YARD: &str = r#"
[scene]
name = "Yard"
counts = { visits = 0 }

[[entity]]
name = "miller"
player = true
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 3.0, jump = 1.0 }

[[entity]]
name = "mate"
player = true
at = [-4, 0, 3]
body = { capsule = { radius = 0.3, height = 1.8 }, walk = 2.0 }

[[entity]]
name = "eye"
parent = "miller"
at = [0, 1.6, 0]
camera = {}

[[entity]]
name = "pad"
at = [0, 1, -4]
zone = { box = [2, 2, 2] }
admit = { players = true }

[[entity]]
name = "cellar"
at = [6, 1, -4]
zone = { box = [2, 2, 2] }
enabled = false

[[entity]]
name = "lever"
at = [2, 1, 0]
prompt = { reach = 3, caption = "Pull", hold = 0.5 }

[[entity]]
name = "bell"
at = [0, 1.6, -6]
solid = { sphere = { radius = 0.4 } }
pointer = { reach = 20 }

[[entity]]
name = "gate"
at = [5, 1, 4]
solid = { box = [2, 2, 0.2] }

[[entity]]
name = "sack"
at = [-1, 0.3, 0]
body = { box = [0.4, 0.6, 0.4] }
carry = { mass = 1 }

[[reaction]]
on = { enter = "pad" }
do = [{ say = "hello" }, { count = "visits", add = 1 }]

[[reaction]]
on = { cue = "open" }
do = [{ move = "gate", by = [0, 3, 0], over = 1 }]

[[reaction]]
on = { cue = "cellar" }
do = [{ enable = "cellar" }]

[texts]
hello = "{who} has come."
"#;
