//! The stats that legs go by: what changes them changes the walk, and gives it back exactly.

use crate::support;

use hazuro::scene::{
    Action, Alter, Change, Effect, Entity, Facts, JUMP, Reaction, SceneBuilder, Stat, Trigger,
};
use hazuro::{Happening, Play, Scene};
use support::{at, block, person, play_until};

const GRAVITY: f64 = 9.81;

/// A floor whose top is at 0, somebody who jumps 1 m high, and an effect for two seconds.
fn hall(stat: &str, alter: Alter) -> SceneBuilder {
    Scene::builder("Hall")
        .gravity(GRAVITY)
        .entity(block("floor", [0.0, -0.5, 0.0], [80.0, 1.0, 80.0]))
        .entity(Entity::new("ada").body(person()))
        .effect(Effect::new("tonic").alter(stat, alter).seconds(2.0))
        .reaction(Reaction::on(Trigger::cue("drink")).then(Action::effect("tonic", "ada")))
        .reaction(Reaction::on(Trigger::cue("jump")).then(Action::jump("ada")))
}

fn cue(play: &mut Play, name: &str) {
    play.act(Action::cue(name)).unwrap();
}

/// How high somebody gets in the next second and a half.
fn highest(play: &mut Play) -> f64 {
    let now = play.now().secs();
    let heights = (1..=150).map(|step| {
        play_until(play, now + f64::from(step) * 0.01);
        at(play, "ada").y
    });
    heights.fold(0.0, f64::max)
}

#[test]
fn a_jump_is_as_high_as_the_stat_at_its_moment_and_then_as_before() {
    let double = Alter { times: 2.0, ..Alter::default() };
    let mut play = Play::new(hall(JUMP, double).build().unwrap());
    play_until(&mut play, 0.1);
    cue(&mut play, "jump");
    assert!((highest(&mut play) - 1.0).abs() < 1e-3);
    cue(&mut play, "drink");
    cue(&mut play, "jump");
    assert!((highest(&mut play) - 2.0).abs() < 1e-3);
    let ada = play.scene().find("ada").unwrap();
    assert_eq!(play.facts().stat(ada, JUMP), Some(2.0));
    play_until(&mut play, 6.0);
    assert_eq!(play.facts().stat(ada, JUMP), Some(1.0), "given back to the last bit");
    cue(&mut play, "jump");
    assert!((highest(&mut play) - 1.0).abs() < 1e-3);
}

#[test]
fn who_falls_falls_on_as_the_stat_says() {
    let light = Alter { times: 0.25, ..Alter::default() };
    let mut play = Play::new(hall("gravity", light).build().unwrap());
    play.place("ada", [0.0, 20.0, 0.0]).unwrap();
    play_until(&mut play, 1.0);
    // Half a second of the effect, then as before: the way is in closed form.
    cue(&mut play, "drink");
    let fallen = 0.5 * GRAVITY;
    let y = at(&play, "ada").y;
    assert!((y - (20.0 - fallen)).abs() < 1e-4, "{y}");
    play_until(&mut play, 1.5);
    let (speed, slow) = (GRAVITY, GRAVITY * 0.25);
    let y = 20.0 - fallen - (speed * 0.5 + 0.5 * slow * 0.25);
    assert!((at(&play, "ada").y - y).abs() < 1e-4, "{} {y}", at(&play, "ada").y);
}

#[test]
fn a_step_is_taken_as_high_as_the_stat_says() {
    let tall = Alter { add: 0.4, ..Alter::default() };
    let wall = block("sill", [4.0, 0.25, 0.0], [1.0, 0.5, 80.0]);
    let scene = hall("step", tall).entity(wall).entity(Entity::new("there").at([8.0, 0.0, 0.0]));
    let walk = Reaction::on(Trigger::cue("walk")).then(Action::walk("ada", "there"));
    let mut play = Play::new(scene.reaction(walk).build().unwrap());
    cue(&mut play, "walk");
    play_until(&mut play, 3.0);
    assert!(at(&play, "ada").x < 3.5, "a step of 0.3 m is not enough");
    cue(&mut play, "drink");
    cue(&mut play, "walk");
    play_until(&mut play, 4.9);
    assert!((at(&play, "ada").x - 8.0).abs() < 0.01, "{}", at(&play, "ada"));
}

#[test]
fn legs_without_such_a_stat_go_by_what_is_described() {
    let slow = Alter { times: 0.5, ..Alter::default() };
    let play = Play::new(hall("walk", slow).build().unwrap());
    let ada = play.scene().find("ada").unwrap();
    assert_eq!(play.facts().stat(ada, "walk"), Some(3.0));
    for name in ["jump", "step", "gravity"] {
        assert_eq!(play.facts().stat(ada, name), None, "nothing changes `{name}` in this scene");
    }
}

#[test]
fn who_cannot_jump_may_be_given_the_stat() {
    let legs = hazuro::scene::Legs { jump: 0.0, ..hazuro::scene::Legs::default() };
    let scene = Scene::builder("Hall")
        .entity(block("floor", [0.0, -0.5, 0.0], [80.0, 1.0, 80.0]))
        .entity(
            Entity::new("ada")
                .body(person().legs(legs))
                .stat(JUMP, Stat { start: 0.0, ..Stat::default() }),
        )
        .reaction(Reaction::on(Trigger::cue("jump")).then(Action::jump("ada")))
        .reaction(Reaction::on(Trigger::cue("learn")).then(Action::stat(
            "ada",
            JUMP,
            Change::Set(0.5),
        )));
    let mut play = Play::new(scene.build().unwrap());
    play_until(&mut play, 0.1);
    cue(&mut play, "jump");
    let refused = |entry: &hazuro::Entry| matches!(entry.what, Happening::Refused { .. });
    assert!(play_until(&mut play, 0.2).iter().any(refused));
    cue(&mut play, "learn");
    cue(&mut play, "jump");
    assert!((highest(&mut play) - 0.5).abs() < 1e-3);
}
