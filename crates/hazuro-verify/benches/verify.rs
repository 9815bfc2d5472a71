//! What it costs to check a large scene, to play the demo, and to be told why.
//!
//! Each is held against a yardstick measured in the same run. `cargo bench -p hazuro-verify --bench
//! verify`.

use std::fmt::Write;
use std::hint::black_box;
use std::path::Path;
use std::time::Instant;

use hazuro_format::Source;
use hazuro_script::read_scene_with;
use hazuro_verify::{Question, Scouting, check_scene_with, explain, load, run_playtest, scout};

const DEMO: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/tidemill/");
const ENTITIES: usize = 10_000;

/// The best of five, in milliseconds.
fn best<T>(mut run: impl FnMut() -> T) -> f64 {
    let once = |run: &mut dyn FnMut() -> T| {
        let start = Instant::now();
        black_box(run());
        start.elapsed().as_secs_f64() * 1e3
    };
    (0..5).map(|_| once(&mut run)).fold(f64::INFINITY, f64::min)
}

/// Half of them zones for one kind in ten, half of them bodies.
fn yard() -> Source {
    let mut text = String::new();
    for number in 0..10 {
        let _ = write!(text, "[kind.k{number}]\ntags = [\"t{number}\"]\n");
    }
    for number in 0..ENTITIES {
        let (x, z, kind) = (number % 100 * 3, number / 100 * 3, number / 2 % 10);
        let what = if number % 2 == 0 {
            format!("zone = {{ box = [1, 1, 1] }}\nadmit = {{ tags = [\"t{kind}\"] }}")
        } else {
            format!("kind = \"k{kind}\"\nbody = {{ sphere = {{ radius = 0.3 }} }}")
        };
        let _ = write!(text, "[[entity]]\nname = \"e{number}\"\nat = [{x}, 0, {z}]\n{what}\n");
    }
    for number in 0..1000 {
        let on = number * 2;
        let _ = write!(
            text,
            "[[reaction]]\non = {{ enter = \"e{on}\" }}\ndo = [{{ cue = \"c{number}\" }}]\n"
        );
    }
    Source::new("yard.scene.toml", text)
}

fn main() {
    let source = yard();
    let text = source.text().to_owned();
    let parsed = best(|| toml::from_str::<toml::Table>(&text).is_ok());
    let (scene, scripts) = read_scene_with(&source, &Source::read).expect("a scene");
    let scene = scene.into();
    let read = best(|| read_scene_with(&source, &Source::read).is_ok());
    let checked = best(|| check_scene_with(&source, &scene, &scripts).len());
    println!("a scene of {ENTITIES} entities and 1000 reactions, {} kB", text.len() / 1000);
    println!("  parsed as plain TOML   {parsed:8.2} ms");
    println!("  read                   {read:8.2} ms   {:.2} x", read / parsed);
    println!("  checked                {checked:8.2} ms   {:.2} x", checked / parsed);

    let loaded = load(Path::new(&format!("{DEMO}mill.playtest.toml"))).expect("a playtest");
    let playtest = loaded.playtest.as_ref().expect("a playtest");
    let plain = best(|| playtest.play().advance(playtest.length()).len());
    let tested = best(|| run_playtest(playtest, None).outcomes.len());
    let question = Question::new(&loaded.scene, "enter", Some("flour_dust"), Some("miller"));
    let question = question.expect("a question");
    let asked = best(|| explain(playtest, &question).fired.len());
    println!("a minute of the demo");
    println!("  played                 {plain:8.2} ms");
    println!("  tested                 {tested:8.2} ms   {:.2} x", tested / plain);
    println!("  why, of one pair       {asked:8.2} ms   {:.2} x", asked / plain);

    let scouting = Scouting::new("tidemill.scene.toml");
    let mut seconds = 0.0;
    let scouted = best(|| {
        let found = scout(&loaded.scene, &loaded.scripts, &scouting, &mut |_, _| true);
        seconds = found.seconds;
        found.visits
    });
    let each = plain / playtest.length().secs();
    println!("scouting the demo, {seconds:.0} s played");
    println!("  scouted                {scouted:8.0} ms   {:.2} x", scouted / (each * seconds));
}
