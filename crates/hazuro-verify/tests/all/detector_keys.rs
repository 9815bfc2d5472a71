//! The keys of detectors: what is wrong with each, what is suspicious, and that they are written as
//! they were read.

use crate::support;

use std::sync::Arc;

use hazuro::Scene;
use hazuro::geometry::Shape;
use hazuro::scene::{
    Action, Admit, Among, Camera, Drag, Entity, EventKind, Footing, Lens, Limits, Needs, Pointer,
    Probe, Prompt, Reaction, Seeker, Sight, Touch, Trigger,
};
use hazuro_format::{Source, write_scene};
use hazuro_script::read_scene;
use hazuro_verify::{check_scene, read_playtest};
use proptest::prelude::*;

use support::{scene, told};

/// Asserts that a line in an entity has exactly one finding, which starts like this.
#[track_caller]
fn bad(line: &str, expected: &str) {
    let text = format!("[[entity]]\nname = \"it\"\n{line}\n");
    let found = read_scene(&Source::new("bad.toml", text)).expect_err(line);
    assert_eq!(found.len(), 1, "{found:#?}");
    assert!(told(&found[0]).starts_with(expected), "{}\nfor {expected}", told(&found[0]));
}

#[test]
fn every_key_of_a_detector_is_checked() {
    bad("touch = {}", "3:9 nothing-there there is nothing here to touch");
    bad("touch = { box = [1, 1, 1], margin = 0 }", "3:37 bad-number 0 is not a margin");
    bad("touch = { box = [1, 1, 1], at_least = -1 }", "3:39 bad-number -1 is not a speed");
    bad("touch = { box = [1, 1, 0] }", "3:17 bad-shape");
    bad(
        "touch = { prats = true }",
        "3:11 unknown-key there is no key `prats` here / did you mean `parts`?",
    );
    bad("probe = { to = [0, 0, 0] }", "3:16 no-length this leads nowhere");
    bad("probe = { every = 0 }", "3:19 bad-number 0 is not a number of seconds");
    bad(
        "probe = { of = [\"body\"] }",
        "3:17 unknown-name there is no `body` to look for / did you mean `bodies`?",
    );
    bad("probe = { of = [] }", "3:16 looks-for-nothing");
    bad("probe = { layers = [\"stone\"] }", "3:21 unknown-name there is no layer named `stone`");
    bad("probe = { from = [0, nan, 0] }", "3:22 bad-number");
    bad("probe = { half_space = true }", "3:24 bad-shape");
    bad("footing = { margin = -1 }", "3:22 bad-number");
    bad("footing = { slope = 95 }", "3:21 bad-number 95 is not an angle from 0 to 89 degrees");
    bad("footing = { reach = 0 }", "3:21 bad-number");
    bad("footing = { grace = -1 }", "3:21 bad-number");
    bad("footing = { layers = [\"x\"] }", "3:23 unknown-name");
    bad("sight = { range = 0 }", "3:19 bad-number");
    bad("sight = { angle = 400 }", "3:19 bad-number 400 is not an angle above 0, to 360 degrees");
    bad("sight = { rise = 0 }", "3:18 bad-number");
    bad("sight = { near = -1 }", "3:18 bad-number");
    bad("sight = { points = 65 }", "3:20 bad-number");
    bad("sight = { fraction = 0 }", "3:22 bad-number 0 is not a share above 0, to 1");
    bad("sight = { notice = -1 }", "3:20 bad-number");
    bad("sight = { forget = inf }", "3:20 bad-number");
    bad("sight = { every = 0 }", "3:19 bad-number");
    bad("sight = { hides = [\"x\"] }", "3:20 unknown-name");
    bad("sight = { eye = [0, 0, 1e9] }", "3:24 bad-number");
    bad("seeker = { range = -2 }", "3:20 bad-number");
    bad("seeker = { margin = nan }", "3:21 bad-number");
    bad(
        "seeker = { score = \"who.hieght\" }",
        "3:25 bad-expression `who` has no `hieght` / did you mean `height`?",
    );
    bad("seeker = { of = [\"markers\"] }", "3:18 unknown-name");
    bad("prompt = { reach = 0 }", "3:20 bad-number");
    bad("prompt = { margin = -1 }", "3:21 bad-number");
    bad("prompt = { key = \"\" }", "3:18 bad-name");
    bad("prompt = { hold = -1 }", "3:19 bad-number");
    bad("prompt = { angle = -1 }", "3:20 bad-number");
    bad(
        "prompt = { needs = { tags = [\"strong\"] } }",
        "3:30 unknown-name there is no tag named `strong`",
    );
    bad("interact = { reach = 0 }", "3:22 bad-number");
    bad("interact = { rech = 1 }", "3:14 unknown-key");
    bad("prompt = {}\ninteract = {}", "4:12 two-prompts");
    bad("pointer = { reach = 0 }", "3:21 bad-number");
    bad("pointer = { drag = {} }", "3:20 one-drag");
    bad("pointer = { drag = { axis = [0, 0, 0] } }", "3:29 no-length");
    bad(
        "pointer = { drag = { surface = \"table\" } }",
        "3:32 unknown-name there is no entity named `table`",
    );
    bad("camera = { fov = 180 }", "3:18 bad-number");
    bad("camera = { fov = 50, orthographic = 3 }", "3:18 two-lenses");
    bad("camera = { orthographic = 0 }", "3:27 bad-number");
    bad("camera = { viewport = [0, 100] }", "3:24 bad-number");
    bad("camera = { layers = [\"x\"] }", "3:22 unknown-name");
    bad("camera = { look_at = \"moon\" }", "3:22 unknown-name");
    bad("cooldown = -1", "3:12 bad-number");
    bad("cooldown_shared = true", "3:19 no-partner");
    bad("limit = 0", "3:9 bad-number 0 is not at least 1");
    bad("once = true\nlimit = 2", "4:9 two-counts");
    bad("player = 1", "3:10 wrong-type");
    bad("zone = { box = [1, 1, 1] }\nadmit = { if = \"cuont.a > 1\" }", "4:17 bad-expression");
}

#[test]
fn what_a_tape_cannot_do_is_located() {
    let found = |line: &str, cameras: &str| {
        let scene = scene(&format!("{cameras}[[entity]]\nname = \"lever\"\nprompt = {{}}\n"));
        let source = Source::new("t", format!("scene = \"s\"\nseconds = 5\ntape = [\n{line}\n]"));
        read_playtest(&source, scene).expect_err(line).iter().map(told).collect::<Vec<_>>()
    };
    let one = |line: &str, expected: &str| {
        let found = found(line, "[[entity]]\nname = \"eye\"\ncamera = {}\n");
        assert_eq!(found.len(), 1, "{found:#?}");
        assert!(found[0].starts_with(expected), "{}\nfor {expected}", found[0]);
    };
    one("{ at = 1, who = \"heron\", press = \"KeyE\" }", "4:17 no-player `heron` is no player");
    one("{ at = 1, who = \"miller\", hold = \"KeyE\" }", "4:1 missing-key `hold` needs to know");
    one("{ at = 1, who = \"miller\", interact = \"heron\" }", "4:38 no-detector");
    one("{ at = 1, who = \"miller\", click = \"bell\" }", "4:35 unknown-name");
    one("{ at = 1, who = \"miller\", pointer = [nan, 0] }", "4:37 bad-number");
    one("{ at = 1, who = \"miller\", press = \"KeyE\", over = 2 }", "4:50 no-partner");
    let blind = found("{ at = 1, who = \"miller\", click = \"lever\" }", "");
    assert!(blind[0].starts_with("4:35 no-camera `miller` has no camera"), "{blind:?}");
}

#[test]
fn what_is_suspicious_about_a_detector_is_said() {
    let warned = |text: &str| {
        let source = Source::new("s", text);
        let scene = read_scene(&source).unwrap_or_else(|found| panic!("{found:#?}"));
        check_scene(&source, &Arc::new(scene)).iter().map(told).collect::<Vec<_>>()
    };
    let one = |text: &str, expected: &str| {
        let found = warned(text);
        assert_eq!(found.len(), 1, "{found:#?}");
        assert!(found[0].starts_with(expected), "{}\nfor {expected}", found[0]);
    };
    let body = "[[entity]]\nname = \"b\"\nbody = { sphere = { radius = 1 } }\n";
    let solid = "[[entity]]\nname = \"s\"\nsolid = { box = [1, 1, 1] }\n";
    let it = "[[entity]]\nname = \"it\"\n";
    one(
        &format!("{it}prompt = {{}}\n{body}"),
        "3:10 never-set-off nothing can set off `it`: no entity in the scene is a player",
    );
    one(
        &format!("{it}sight = {{}}"),
        "3:9 never-set-off nothing can set off `it`: no entity in the scene has a body",
    );
    one(&format!("{it}seeker = {{ of = [\"zones\"] }}\n{body}"), "3:10 never-set-off");
    one(
        &format!("{it}probe = {{}}\nadmit = {{ names = [\"it\"] }}\n{body}"),
        "4:9 never-set-off nothing can set off `it`: it admits no entity",
    );
    one(
        &format!("{it}touch = {{ box = [1, 1, 1] }}\nenabled = false\n{body}"),
        "4:11 off-for-good",
    );
    let footing = "body = { sphere = { radius = 1 } }\nfooting = { margin = 0 }\n";
    one(&format!("{it}{footing}{solid}"), "4:22 no-margin without a margin `it` flickers");
    one(&format!("{it}{footing}").replace("0 }\n", "0.1 }\n"), "4:11 never-set-off");
    let nose = "[[entity]]\nname = \"nose\"\nparent = \"b\"\nprobe = { own = true }\n";
    one(&format!("{body}{nose}{solid}"), "7:17 hits-itself");
    let player = format!("{body}player = true\n");
    one(
        &format!("{player}{solid}pointer = {{}}\n"),
        "8:11 no-camera nobody can point at `s`: `b` has no camera",
    );
    one(
        &format!("{player}{it}prompt = {{ needs = {{ counts = {{ keys = 1 }} }} }}"),
        "7:40 never-met `it` needs `keys`, which nothing counts",
    );
    let rival = "[[entity]]\nname = \"rival\"\nprompt = {}\n";
    one(
        &format!("{player}{it}prompt = {{}}\n{rival}"),
        "10:10 always-competes `rival` always competes with `it`",
    );
    let mended = rival.replace("{}", "{ key = \"KeyR\" }");
    assert_eq!(warned(&format!("{player}{it}prompt = {{}}\n{mended}")), [""; 0]);
    // A kind's detector is pointed at where it stands.
    let kind = format!(
        "[kind.cat]\nsight = {{}}\nadmit = {{ tags = [\"cat\"] }}\ntags = [\"cat\"]\n{it}kind = \"cat\"\n{body}"
    );
    one(&kind, "2:9 never-set-off");
}

/// An entity with every detector.
#[expect(clippy::too_many_lines, reason = "there are many keys")]
fn detectors() -> impl Strategy<Value = Entity> {
    let shape = || Shape::Sphere { radius: 0.5 };
    let degrees = (1..720_i32).prop_map(|half| (f64::from(half) / 2.0).to_radians());
    let number = || (1..4000_i32).prop_map(|n| f64::from(n) / 16.0);
    (degrees, number(), number(), any::<[bool; 6]>(), 1..64_u32).prop_map(
        move |(angle, one, other, flags, points)| {
            let layers = || if flags[0] { vec!["stone".to_owned()] } else { Vec::new() };
            let among = Among { solids: flags[1], bodies: !flags[1], zones: flags[2] };
            let entity = Entity::new("it")
                .layers(["stone"])
                .tags(["wet"])
                .body(hazuro::scene::Body::new(shape()));
            let touch = Touch {
                shape: flags[3].then(shape),
                parts: flags[4],
                solids: flags[5],
                at_least: one,
                margin: 0.5,
            };
            let probe = Probe {
                to: [one, other, 1.0],
                every: flags[0].then_some(one),
                among,
                layers: layers(),
                shape: flags[1].then(shape),
                own: flags[2],
                from: [other, 0.0, 0.0],
            };
            let footing = Footing {
                margin: 0.25,
                grace: one,
                slope: angle.min(1.5),
                reach: other,
                layers: layers(),
            };
            let sight = Sight {
                range: one,
                angle,
                rise: angle,
                eye: Some([0.0, one, 0.0]),
                near: other,
                hides: layers(),
                points,
                fraction: 1.0 / f64::from(points),
                notice: one,
                forget: other,
                every: one,
            };
            let seeker = Seeker {
                range: one,
                margin: other,
                among,
                sight: flags[3],
                hides: layers(),
                score: None,
                every: other,
            };
            let needs = Needs {
                counts: [("keys".into(), i64::from(points))].into(),
                tags: vec!["wet".into()],
                ..Needs::default()
            };
            let prompt = Prompt {
                reach: one,
                margin: other,
                key: "KeyZ".into(),
                caption: "Öffnen \"jetzt\"".into(),
                detail: "\n".into(),
                hold: one,
                sight: flags[4],
                angle,
                priority: -3,
                several: flags[5],
                quiet: flags[0],
                needs,
            };
            let drag = [
                Drag::Plane([0.0, one, 0.0]),
                Drag::Axis([one, 0.0, other]),
                Drag::Surface("it".into()),
            ];
            let pointer = Pointer {
                reach: one,
                children: flags[1],
                drag: Some(drag[points as usize % 3].clone()),
            };
            let lens = if flags[2] {
                Lens::Orthographic { height: one }
            } else {
                Lens::Perspective { angle: angle.clamp(0.02, 2.5) }
            };
            let camera = Camera {
                look_at: flags[3].then(|| "it".into()),
                lens,
                viewport: [one + 1.0, 600.0],
                layers: layers(),
            };
            let limits = Limits { cooldown: one, shared: flags[4], limit: flags[5].then_some(3) };
            entity
                .touch(touch)
                .probe(probe)
                .footing(footing)
                .sight(sight)
                .seeker(seeker)
                .prompt(prompt)
                .pointer(pointer)
                .camera(camera)
                .limits(limits)
                .player(flags[0])
                .highlight(flags[1])
        },
    )
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

    #[test]
    fn detectors_written_and_read_again_are_the_same(entity in detectors(), event in 0..30_usize, pass in any::<bool>()) {
        let kind = EventKind::ALL[event % EventKind::ALL.len()];
        let mut scene = Scene::builder("Round trip").entity(entity.admit(Admit::tags(["wet"]).players()));
        if kind.detector().is_some_and(|sort| {
            use hazuro::scene::Detector;
            !matches!(sort, Detector::Zone | Detector::Pickup | Detector::Stats)
        }) {
            let reaction = Reaction::on(Trigger::of(kind, "it")).then(Action::move_to_point("it")).then(Action::face("it", "who"));
            scene = scene.reaction(if pass { reaction.pass_on() } else { reaction });
        }
        let scene = scene.build().unwrap();
        let text = write_scene(&scene);
        let again = read_scene(&Source::new("again.toml", text.clone()));
        prop_assert!(again.is_ok(), "{:?}\n{text}", again);
        prop_assert_eq!(again.unwrap(), scene);
    }
}
