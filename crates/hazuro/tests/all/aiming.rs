//! Following somebody with one's look, in both angles, at no more than so much a second.

use crate::support;

use hazuro::geometry::Shape;
use hazuro::glam::DVec3;
use hazuro::scene::{
    Action, Body, Carry, Entity, EventKind, Floor, Reaction, Seeker, Trigger, angles,
};
use hazuro::{Input, Play, Scene, Target};
use proptest::prelude::*;
use support::{at, ball, play_until};

/// Where a turret looks, in degrees about Y and above level.
fn look(play: &Play) -> [f64; 2] {
    angles(play.pose("turret").unwrap().rotation)
}

/// By how many degrees it looks past something.
fn off(play: &Play, what: &str) -> f64 {
    let pose = play.pose("turret").unwrap();
    (pose.rotation * DVec3::NEG_Z).angle_between(at(play, what) - pose.position).to_degrees()
}

fn yard() -> hazuro::scene::SceneBuilder {
    Scene::builder("Yard")
        .floor(Floor::At(-50.0))
        .entity(Entity::new("turret").at([0.0, 5.0, 0.0]))
        .entity(Entity::new("kite").at([10.0, 5.0, 0.0]).body(ball(0.2)))
}

#[test]
fn it_turns_no_faster_than_it_may_and_is_there_when_it_can_be() {
    let mut play = Play::new(yard().build().unwrap());
    play.act(Action::aim("turret", "kite").rate(90_f64.to_radians())).unwrap();
    // The kite is a quarter to the right.
    play_until(&mut play, 0.5);
    let [facing, pitch] = look(&play);
    assert!((facing + 45.0).abs() < 2.0 && pitch.abs() < 1e-9, "{facing} {pitch}");
    play_until(&mut play, 1.2);
    assert!(off(&play, "kite") < 1e-6);
    // Straight up it looks as far as it may.
    play.place("kite", [0.001, 90.0, 0.0]).unwrap();
    play_until(&mut play, 2.5);
    assert!((look(&play)[1] - 90.0).abs() < 0.1, "{:?}", look(&play));
    play.act(Action::aim("turret", "kite").rate(9.0).pitch(-0.2, 0.5)).unwrap();
    play_until(&mut play, 3.5);
    assert!((look(&play)[1] - 0.5_f64.to_degrees()).abs() < 1e-6, "{:?}", look(&play));
}

#[test]
fn it_follows_what_falls_until_it_is_told_otherwise() {
    let stone =
        Entity::new("stone").at([26.0, 40.0, -28.0]).body(Body::new(Shape::Sphere { radius: 0.2 }));
    let mut play = Play::new(yard().entity(stone.carry(Carry::default())).build().unwrap());
    play.act(Action::aim("turret", "stone").rate(90_f64.to_radians())).unwrap();
    play_until(&mut play, 1.0);
    // Ever faster, but never by more than 90 degrees a second as seen from there.
    while at(&play, "stone").y > -40.0 {
        let next = play.now().secs() + 0.05;
        play_until(&mut play, next);
        assert!(off(&play, "stone") < 0.3, "{} at {}", off(&play, "stone"), play.now());
    }
    play.act(Action::halt("turret")).unwrap();
    play.step();
    let before = look(&play);
    play.place("stone", [-9.0, 5.0, 0.0]).unwrap();
    let later = play.now().secs() + 0.5;
    play_until(&mut play, later);
    assert_eq!(look(&play), before);
    play.state().assert_consistent(play.scene());
}

#[test]
fn who_is_made_to_face_somebody_aims_no_more() {
    let mut play = Play::new(yard().build().unwrap());
    play.act(Action::aim("turret", "kite").rate(9.0)).unwrap();
    play_until(&mut play, 1.0);
    let turret = play.scene().find("turret").unwrap();
    let to = Target::Place([0.0, 5.0, 9.0].into());
    play.schedule(play.now(), Input::Face { who: turret, to }).unwrap();
    play_until(&mut play, 2.0);
    assert!((look(&play)[0].abs() - 180.0).abs() < 1e-6, "{:?}", look(&play));
}

#[test]
fn a_seeker_aims_at_whom_it_keeps() {
    let seeker =
        Entity::new("eye").parent("turret").seeker(Seeker { range: 30.0, ..Seeker::default() });
    let aim = Reaction::on(Trigger::of(EventKind::Retarget, "eye"))
        .then(Action::aim("turret", "who").rate(3.0));
    let mut play = Play::new(yard().entity(seeker).reaction(aim).build().unwrap());
    play_until(&mut play, 2.0);
    assert!(off(&play, "kite") < 1e-6, "{:?}", look(&play));
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 40, ..ProptestConfig::default() })]

    #[test]
    fn neither_angle_ever_turns_faster_and_no_tick_rate_matters(
        rate in 0.2..3.0_f64,
        places in proptest::collection::vec([-9.0..9.0_f64, 0.0..12.0, -9.0..9.0], 1..5),
    ) {
        let ends = [60, 25].map(|ticks| {
            let mut play = Play::new(yard().rate(ticks).build().unwrap());
            play.act(Action::aim("turret", "kite").rate(rate)).unwrap();
            for place in &places {
                play.place("kite", *place).unwrap();
                // Moments at which both have a tick.
                for _ in 0..4 {
                    let (before, from) = (look(&play), play.now().secs());
                    play_until(&mut play, from + 0.2);
                    let turned = [0, 1].map(|it| (look(&play)[it] - before[it]).abs());
                    let most = (rate * 0.2).to_degrees() + 1e-6;
                    let about = turned[0].min(360.0 - turned[0]);
                    // About Y nothing is turned by looking straight up.
                    let steep = before[1].abs().max(look(&play)[1].abs()) > 89.0;
                    assert!(steep || (about <= most && turned[1] <= most), "{turned:?} {most}");
                }
            }
            look(&play)
        });
        let apart = [0, 1].map(|it| (ends[0][it] - ends[1][it]).abs());
        prop_assert!(apart[0].min(360.0 - apart[0]) < 1e-6 && apart[1] < 1e-6, "{ends:?}");
    }
}
