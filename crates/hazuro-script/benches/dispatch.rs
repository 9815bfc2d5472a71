//! What it costs to tell somebody of an event, beside a bare call of a function.
//!
//! Events are sent by hand to a thousand zones, one each, and the cost of sending them to nobody
//! is taken off. `cargo bench -p hazuro-script --bench dispatch`.

use std::hint::black_box;
use std::time::Instant;

use hazuro::geometry::Shape;
use hazuro::scene::{Action, Entity, EventKind, Kind, Reaction, SceneBuilder, Trigger, Zone};
use hazuro::{Input, Play, Scene, Time};
use hazuro_format::Source;
use hazuro_script::Scripts;

const ZONES: usize = 1000;
const ROUNDS: u32 = 300;

fn zones() -> SceneBuilder {
    let sphere = Zone::new(Shape::Sphere { radius: 0.1 });
    let mut scene = Scene::builder("Bench").kind(Kind::new("pad").zone(sphere.clone()));
    for number in 0..ZONES {
        let at = [number as f64, 0.0, 0.0];
        scene = scene.entity(Entity::new(format!("pad{number}")).kind("pad").at(at));
    }
    scene.entity(Entity::new("other").at([0.0, 50.0, 0.0]).zone(sphere))
}

/// Mean seconds of an event.
fn event(play: &mut Play) -> f64 {
    let pads: Vec<_> = play.scene().ids().take(ZONES).collect();
    let mut spent = 0.0;
    for round in 0..ROUNDS {
        for pad in &pads {
            let send = Action::Send { event: EventKind::Enter, on: *pad, who: None };
            play.schedule(play.now(), Input::Act(send)).unwrap();
        }
        let until = Time::from_secs(f64::from(round + 1) * 0.01);
        let start = Instant::now();
        play.advance(until);
        spent += start.elapsed().as_secs_f64();
    }
    spent / f64::from(ROUNDS) / ZONES as f64
}

/// The best of several runs, since others use the machine too.
fn best(mut run: impl FnMut() -> f64) -> f64 {
    (0..5).map(|_| run()).fold(f64::INFINITY, f64::min)
}

fn main() {
    let plain = || Play::new(zones().build().expect("a scene"));
    let nobody = best(|| event(&mut plain()));
    let others = best(|| {
        let other = || Reaction::on(Trigger::enter("other")).then(Action::add("n", 1));
        let scene = (0..10_000).fold(zones(), |scene, _| scene.reaction(other()));
        event(&mut Play::new(scene.build().expect("a scene")))
    });
    let handler = best(|| {
        let mut play = plain();
        let mut number = 0_u64;
        let count =
            move |_: &hazuro::Event, _: &mut hazuro::Act<'_>| number = black_box(number + 1);
        play.on(Trigger::enter("kind:pad"), count).expect("a trigger");
        event(&mut play)
    });
    let reaction = best(|| {
        let count = Reaction::on(Trigger::enter("kind:pad")).then(Action::add("n", 1));
        event(&mut Play::new(zones().reaction(count).build().expect("a scene")))
    });
    let script = best(|| {
        let scene = zones().count("n", 0).build().expect("a scene");
        let text = "on(#{ enter: \"kind:pad\" }, |event| add(\"n\", 1));";
        let scripts = Scripts::compile(vec![Source::new("n.rhai", text)], &scene);
        let mut play = Play::new(scene);
        scripts.expect("a script").attach(&mut play).expect("its own scene");
        event(&mut play)
    });
    let bare = best(|| {
        let mut number = 0_u64;
        let mut count: Box<dyn FnMut()> = Box::new(move || number = black_box(number + 1));
        let start = Instant::now();
        (0..1_000_000).for_each(|_| black_box(&mut count)());
        start.elapsed().as_secs_f64() / 1e6
    });
    let bare_script = best(|| {
        let mut engine = rhai::Engine::new();
        engine.register_fn("add", |_: &str, amount: i64| black_box(amount));
        let tree = engine.compile("fn f(event) { add(\"n\", 1) }").expect("a script");
        let mut scope = rhai::Scope::new();
        let start = Instant::now();
        for _ in 0..100_000 {
            let _: i64 = engine.call_fn(&mut scope, &tree, "f", (1_i64,)).expect("a call");
        }
        start.elapsed().as_secs_f64() / 1e5
    });
    let ns = |seconds: f64| format!("{:>8.0} ns", seconds * 1e9);
    println!("an event nobody waits for             {}", ns(nobody));
    println!("  with 10,000 reactions to others     {}  {:.2}x", ns(others), others / nobody);
    println!("a Rust handler adds                   {}", ns(handler - nobody));
    println!("a declared reaction (a count) adds    {}", ns(reaction - nobody));
    println!("a script handler (a count) adds       {}", ns(script - nobody));
    println!("beside: a bare call of a closure      {}", ns(bare));
    println!("beside: a bare call of a script       {}", ns(bare_script));
}
