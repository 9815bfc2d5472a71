//! A game that is saved, ended, and gone on with after an update: the host keeps a score of its own,
//! which its handlers are lent; the play is saved as bytes beside it, and read into a scene that has
//! one more bell by then.
//!
//! Run it with `cargo run --release --example save_and_load --features serde`.

use std::error::Error;

use hazuro::geometry::Shape;
use hazuro::scene::{Action, Body, Entity, Reaction, Selector, Trigger, Zone};
use hazuro::{Play, Scene};

/// What the host keeps itself.
#[derive(Debug, Default)]
struct Game {
    score: u32,
    heard: Vec<String>,
}

/// A quay with so many bells, which a lamplighter passes; each bell rings once more a second later.
fn quay(bells: u32) -> Result<Scene, Box<dyn Error>> {
    let lamplighter = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 });
    let mut scene = Scene::builder("Quay").entity(Entity::new("lamplighter").body(lamplighter));
    for bell in 1..=bells {
        let zone = Zone::new(Shape::Box { size: [1.0, 2.0, 4.0] });
        let at = [f64::from(bell) * 4.0, 1.0, 0.0];
        scene = scene.entity(Entity::new(format!("bell {bell}")).at(at).zone(zone));
    }
    let echo = Reaction::on(Trigger::enter("*")).named("echo").after(1.0);
    Ok(scene.reaction(echo.then(Action::add("echoes", 1))).build()?)
}

/// A play with its handlers. They are the host's, so it adds them again after loading.
fn begin(bells: u32) -> Result<Play, Box<dyn Error>> {
    let mut play = Play::new(quay(bells)?);
    play.on_with(Trigger::enter(Selector::Any), |event, act, game: &mut Game| {
        game.score += 10;
        let bell = event.on.map_or("", |bell| act.scene().name(bell));
        game.heard.push(format!("{bell} at {:.2} s", event.time.secs()));
    })?;
    Ok(play)
}

/// Lets the lamplighter walk on to the east, from tick to tick.
fn walk(
    play: &mut Play,
    ticks: std::ops::Range<u32>,
    game: &mut Game,
) -> Result<(), Box<dyn Error>> {
    for tick in ticks {
        play.drive("lamplighter", [f64::from(tick) * 0.05, 0.0, 0.0])?;
        play.step_with(game);
    }
    Ok(())
}

fn main() -> Result<(), Box<dyn Error>> {
    let mut game = Game::default();
    let mut play = begin(2)?;
    walk(&mut play, 1..80, &mut game)?;
    // The first bell has just been passed, and its echo is still to come.
    let saved = play.save();
    println!("saved at {} s: {} bytes, score {}", play.now(), saved.len(), game.score);
    drop(play);

    let mut play = begin(3)?;
    play.load(&saved)?;
    walk(&mut play, 80..300, &mut game)?;
    println!("ended at {} s: score {}, {} echoes", play.now(), game.score, play.count("echoes"));
    println!("{}", game.heard.join("\n"));
    assert_eq!((game.score, play.count("echoes")), (30, 3));

    // What a scene lacks is named, and nothing is changed.
    let refused = begin(1)?.load(&saved).unwrap_err();
    println!("with one bell: {refused}");
    Ok(())
}
