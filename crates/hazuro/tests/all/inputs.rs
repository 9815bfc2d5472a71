//! What a host does between two steps, and when it takes effect.

use crate::support;

use hazuro::geometry::Shape;
use hazuro::scene::{Action, Body, Entity, Legs, Trigger};
use hazuro::{Input, Play, Scene, Time};
use proptest::prelude::*;
use support::{ball, play_until, words, yard};

#[test]
fn what_is_done_at_one_moment_happens_in_the_order_in_which_it_was_said() {
    let mut play = Play::new(yard().build().unwrap());
    let ball = play.scene().find("ball").unwrap();
    let at = |x: f64| Input::Place { who: ball, at: [x, 0.0, 0.0].into() };
    // Planned long before, then done on the spot: the later word counts.
    play.schedule(Time::from_secs(1.0), at(7.0)).unwrap();
    play.schedule(Time::from_secs(1.0), at(8.0)).unwrap();
    play.advance(Time::from_secs(1.0));
    assert_eq!(play.pose("ball").unwrap().position.x, -5.0, "nothing happens before time goes on");
    play.place("ball", [9.0, 0.0, 0.0]).unwrap();
    play.place("ball", [10.0, 0.0, 0.0]).unwrap();
    play.step();
    assert_eq!(play.pose("ball").unwrap().position.x, 10.0);
    // What should have happened already happens now.
    play.schedule(Time::ZERO, at(11.0)).unwrap();
    play.step();
    assert_eq!(play.pose("ball").unwrap().position.x, 11.0);
}

#[test]
fn what_waits_to_be_done_is_part_of_the_state() {
    let mut play = Play::new(yard().build().unwrap());
    play.step();
    play.drive("ball", [0.0, 0.0, 0.0]).unwrap();
    let waiting = play.state().clone();
    let first = play.step().to_vec();
    assert_eq!(words(&play, &first), ["enter pad ball move"]);
    let after = play.state().clone();
    play.restore(waiting.clone()).unwrap();
    assert_eq!(play.state(), &waiting);
    assert_eq!(play.step(), first.as_slice());
    assert_eq!(play.state().fingerprint(), after.fingerprint());
}

#[test]
fn inputs_come_before_what_is_detected_at_the_same_instant() {
    // The ball would come in at 0.875 s; at this very moment the pad is switched off.
    let mut play = Play::new(yard().build().unwrap());
    let ball = play.scene().find("ball").unwrap();
    let to = [5.0, 0.0, 0.0].into();
    play.schedule(Time::ZERO, Input::Drive { who: ball, to, until: Time::from_secs(2.5) }).unwrap();
    play.advance(Time::from_secs(0.875));
    play.act(Action::disable("pad")).unwrap();
    let entries = play_until(&mut play, 2.0);
    assert_eq!(words(&play, &entries), Vec::<String>::new());
    assert!(play.occupants("pad").unwrap().is_empty());
}

#[test]
fn acts_of_the_host_set_off_reactions_as_any_other() {
    let scene = yard().entity(Entity::new("cup").body(ball(0.1)).at([0.0, 5.0, 0.0]));
    let mut play = Play::new(scene.build().unwrap());
    play.on(Trigger::cue("fill"), |_, act| act.teleport("cup", "pad")).unwrap();
    play.on(Trigger::enter("pad"), |_, act| act.add("visits", 1)).unwrap();
    play.step();
    play.act(Action::cue("fill")).unwrap();
    play.drive("ball", [0.0, 0.0, 0.0]).unwrap();
    let entries = play.step().to_vec();
    assert_eq!(
        words(&play, &entries),
        [
            "cue fill -",
            "depart pad cup teleport",
            "arrive pad cup teleport",
            "enter pad cup teleport",
            "enter pad ball move"
        ]
    );
    assert_eq!(play.count("visits"), 2);
}

proptest! {
    /// Whole nanoseconds against plain arithmetic with room to spare.
    #[test]
    fn ticks_and_times_are_exact(tick in 0..1_000_000_000_u64, rate in 1..10_000_u32, off in 0..99_i64) {
        let start = Time::of_tick(tick, rate);
        let nanos = (u128::from(tick) * 1_000_000_000).div_ceil(u128::from(rate));
        prop_assert_eq!(start.nanos() as u128, nanos);
        prop_assert_eq!(start.tick(rate), tick);
        if nanos > 0 {
            prop_assert_eq!(Time::from_nanos(start.nanos() - 1).tick(rate), tick - 1);
        }
        let later = Time::from_nanos(start.nanos() + off);
        let expected = later.nanos() as u128 * u128::from(rate) / 1_000_000_000;
        prop_assert_eq!(u128::from(later.tick(rate)), expected);
    }
}

#[test]
fn inputs_of_one_instant_are_the_same_planned_or_given_then() {
    let legs = Legs { jump: 1.0, ..Legs::default() };
    let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0).legs(legs);
    let scene = Scene::builder("Yard").entity(Entity::new("miller").body(body));
    let scene = std::sync::Arc::new(scene.build().unwrap());
    let who = scene.find("miller").unwrap();
    let at = Time::from_secs(1.0);
    // Who sets out and jumps at once takes his speed with him.
    let inputs = [Input::Walk { who, to: [1.0, 0.0, 0.0].into() }, Input::Act(Action::Jump(who))];
    let places = [0, 1, 2].map(|given_then| {
        let mut play = Play::new(scene.clone());
        let (planned, then) = inputs.split_at(2 - given_then);
        for input in planned {
            play.schedule(at, input.clone()).unwrap();
        }
        play.advance(at);
        for input in then {
            play.schedule(at, input.clone()).unwrap();
        }
        play.advance(Time::from_secs(1.5));
        play.pose("miller").unwrap().position
    });
    assert!(places[0].x > 1.0 && places[0].y > 0.5, "{places:?}");
    assert_eq!([places[1], places[2]], [places[0]; 2]);
}
