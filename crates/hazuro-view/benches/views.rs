//! What it costs to draw: a frame of the terminal, a picture, a report; and to go back in time.
//!
//! Each is held against a yardstick measured in the same run. `cargo bench -p hazuro-view --bench
//! views`.

use std::fmt::Write;
use std::hint::black_box;
use std::path::Path;
use std::time::Instant;

use hazuro::{Input, Scene, Time};
use hazuro_format::Source;
use hazuro_script::{Scripts, read_scene};
use hazuro_verify::{Loaded, load, read_playtest};
use hazuro_view::ratatui::buffer::Buffer;
use hazuro_view::ratatui::layout::Rect;
use hazuro_view::ratatui::style::Style;
use hazuro_view::{Console, Firings, Picture, Recording, Report, Rewind, png};

const DEMO: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/tidemill/");
/// Three seconds.
const FRAMES: u32 = 90;
const SCREEN: Rect = Rect::new(0, 0, 200, 60);

/// The best of five, in milliseconds.
fn best<T>(mut run: impl FnMut() -> T) -> f64 {
    let once = |run: &mut dyn FnMut() -> T| {
        let start = Instant::now();
        black_box(run());
        start.elapsed().as_secs_f64() * 1e3
    };
    (0..5).map(|_| once(&mut run)).fold(f64::INFINITY, f64::min)
}

/// 1,000 bodies among 5,000 zones.
fn crowd() -> Loaded {
    let mut text = String::from("[scene]\nname = \"Crowd\"\n");
    for zone in 0..5000 {
        let (x, z) = (zone % 100 * 3, zone / 100 * 3);
        let _ = write!(text, "[[entity]]\nname = \"z{zone}\"\nat = [{x}, 0, {z}]\n");
        text.push_str("zone = { box = [2, 2, 2] }\n");
    }
    for body in 0..1000 {
        let (x, z) = (body % 40 * 7, body / 40 * 6);
        let _ = write!(text, "[[entity]]\nname = \"b{body}\"\nat = [{x}, 0, {z}]\n");
        text.push_str("body = { sphere = { radius = 0.3 } }\n");
    }
    let source = Source::new("crowd.toml", text);
    let scene = std::sync::Arc::new(read_scene(&source).expect("a scene"));
    Loaded { scene, source, scripts: Scripts::default(), playtest: None }
}

/// Where each of them is going.
fn drives(scene: &Scene) -> Vec<Input> {
    let drive = |body: u32| {
        let who = scene.find(&format!("b{body}")).expect("it is there");
        let to = [f64::from(body * 37 % 300), 0.0, f64::from(body * 53 % 150)].into();
        Input::Drive { who, to, until: Time::from_secs(100.0) }
    };
    (0..1000).map(drive).collect()
}

fn frames() {
    let loaded = crowd();
    let drives = drives(&loaded.scene);
    let mut play = loaded.play();
    let mut console = Console::new(Path::new("crowd.toml"), loaded, &[]).expect("no values");
    for input in drives {
        play.schedule(Time::ZERO, input.clone()).unwrap();
        console.give(input);
    }
    let mut at = 0.0;
    let mut buffer = Buffer::empty(SCREEN);
    let letters = "x".repeat(usize::from(SCREEN.width));
    let blank = best(|| {
        buffer.reset();
        for row in 0..SCREEN.height {
            buffer.set_string(0, row, &letters, Style::new());
        }
    });
    let step = best(|| {
        at += 1.0 / 30.0;
        play.advance(Time::from_secs(at));
    });
    console.pass(0.5);
    let mut slowest = 0.0_f64;
    let start = Instant::now();
    for _ in 0..FRAMES {
        let start = Instant::now();
        console.pass(1.0 / 30.0);
        buffer.reset();
        console.draw(&mut buffer);
        slowest = slowest.max(start.elapsed().as_secs_f64() * 1e3);
    }
    let frame = start.elapsed().as_secs_f64() * 1e3 / f64::from(FRAMES);
    println!("a frame of 200 by 60 cells with 1,000 bodies on their ways among 5,000 zones");
    println!("  the screen filled with letters  {blank:8.3} ms");
    println!("  played for a thirtieth          {step:8.3} ms");
    let rate = 1e3 / frame;
    println!("  played and drawn                {frame:8.3} ms   {rate:.0} a second");
    println!("  the slowest of {FRAMES}               {slowest:8.3} ms");
}

/// The demo's minute, and nine more in which the miller goes round and round.
fn ten_minutes() -> Loaded {
    let mut loaded = load(Path::new(&format!("{DEMO}mill.playtest.toml"))).expect("a playtest");
    let playtest = loaded.playtest.as_ref().expect("a playtest");
    let mut rounds = String::new();
    for second in (60..600).step_by(4) {
        let to = ["yard", "sluice_pad", "far_bank", "reeds"][second / 4 % 4];
        let _ = writeln!(rounds, "  {{ at = {second}, who = \"miller\", walk_to = \"{to}\" }},");
    }
    let text = playtest.source().text().replace("seconds = 60", "seconds = 600");
    let text = text.replacen("tape = [\n", &format!("tape = [\n{rounds}"), 1);
    let source = Source::new(playtest.source().name(), text);
    let long = read_playtest(&source, loaded.scene.clone()).expect("a playtest");
    loaded.playtest = Some(long.with_scripts(loaded.scripts.clone()));
    loaded
}

fn main() {
    frames();
    let loaded = ten_minutes();
    let playtest = loaded.playtest.as_ref().expect("a playtest");
    let length = playtest.length();
    let plain = best(|| playtest.play().advance(length).len());
    let start = Instant::now();
    let page = Report::of(&loaded, length).html();
    let made = start.elapsed().as_secs_f64() * 1e3;
    println!("ten minutes of the demo");
    println!("  played                          {plain:8.1} ms");
    println!("  report, {:7} bytes           {made:8.1} ms   {:.1} x", page.len(), made / plain);
    if let Some(file) = std::env::var_os("HAZURO_REPORT") {
        std::fs::write(file, &page).expect("a file");
    }
    let mut rewind = Rewind::with_tape(loaded.play(), playtest.tape().to_vec()).unwrap();
    let whole = best(|| {
        rewind = Rewind::with_tape(loaded.play(), playtest.tape().to_vec()).unwrap();
        rewind.go(length);
    });
    let kept = rewind.kept();
    let mut back = 0.0_f64;
    for second in [1.0, 60.0, 151.0, 299.0, 450.0, 590.0] {
        rewind.go(length);
        let start = Instant::now();
        rewind.go(Time::from_secs(second));
        back = back.max(start.elapsed().as_secs_f64() * 1e3);
    }
    println!(
        "  played, states kept             {whole:8.1} ms   {:.2} x, {} states",
        whole / plain,
        kept
    );
    println!("  back, the longest of six        {back:8.1} ms   {:.2} x", back / plain);
    let mut play = playtest.play();
    let recording = Recording::of(&mut play, Time::from_secs(60.0));
    let firings = Firings::default();
    let picture = Picture { recording: Some(&recording), ..Picture::new(&play, &firings) };
    let svg = picture.svg();
    println!("a picture of 1280 by 800 pixels");
    println!("  as SVG, {:7} bytes           {:8.1} ms", svg.len(), best(|| picture.svg().len()));
    println!(
        "  from there to PNG               {:8.1} ms",
        best(|| png(&svg).map(|it| it.len()).ok())
    );
}
