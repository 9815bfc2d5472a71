//! The state is one value: cloned, compared, hashed, restored.

use crate::support;

use hazuro::glam::DVec3;
use hazuro::scene::{Action, Entity, Reaction, Trigger};
use hazuro::why::{Chain, Evidence, Gate, Notebook};
use hazuro::{Input, Play, State, Time};
use proptest::prelude::*;
use support::{ball, cube, events, yard};

fn busy() -> Play {
    let scene = yard()
        .entity(Entity::new("gate").at([0.0, 0.0, -3.0]))
        .entity(Entity::new("raised").at([0.0, 3.0, -3.0]))
        .entity(Entity::new("dog").at([3.0, 0.0, 0.0]).body(ball(0.3)))
        .entity(Entity::new("lamp").parent("dog").zone(cube(3.0).inside_every(0.1)))
        .reaction(
            Reaction::on(Trigger::enter("pad"))
                .cooldown(0.3)
                .then(
                    Action::move_to("gate", "raised").over(0.7).ease(hazuro::motion::Easing::EASE),
                )
                .then(Action::add("visits", 1)),
        )
        .reaction(
            Reaction::on(Trigger::last_exit("pad"))
                .after(0.25)
                .then(Action::move_home("gate").over(0.2)),
        )
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let [ball, dog] = ["ball", "dog"].map(|name| play.scene().find(name).unwrap());
    for step in 0..6 {
        let (at, until) = (Time::from_secs(f64::from(step) * 0.5), f64::from(step) * 0.5 + 0.4);
        let until = Time::from_secs(until);
        let x = if step % 2 == 0 { 4.0 } else { -4.0 };
        play.schedule(at, Input::Drive { who: ball, to: [x, 0.0, 0.0].into(), until }).unwrap();
        play.schedule(at, Input::Drive { who: dog, to: [-x, 0.1, 0.0].into(), until }).unwrap();
    }
    play
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn going_back_and_on_again_gives_the_same(back in 0..180_usize, rate in 20..120_u32) {
        let mut play = busy();
        play.set_rate(rate).unwrap();
        let mut past: Vec<State> = Vec::new();
        let mut told = Vec::new();
        for _ in 0..180 {
            past.push(play.state().clone());
            told.push(play.step().to_vec());
        }
        let end = play.state().clone();
        play.restore(past[back].clone()).unwrap();
        prop_assert_eq!(play.state().fingerprint(), past[back].fingerprint());
        for (tick, entries) in told.iter().enumerate().skip(back) {
            prop_assert_eq!(play.state(), &past[tick]);
            prop_assert_eq!(play.step(), entries.as_slice());
        }
        prop_assert_eq!(play.state().fingerprint(), end.fingerprint());
        prop_assert_eq!(play.state(), &end);
    }

    #[test]
    fn ticks_can_be_cut_anywhere(cuts in prop::collection::vec(0.0..3.0_f64, 0..30)) {
        let mut whole = busy();
        let expected = events(whole.advance(Time::from_secs(3.0)));
        let mut play = busy();
        let mut cuts: Vec<Time> = cuts.into_iter().map(Time::from_secs).collect();
        cuts.sort_unstable();
        cuts.push(Time::from_secs(3.0));
        let told: Vec<_> = cuts.into_iter().flat_map(|cut| events(play.advance(cut))).collect();
        prop_assert_eq!(told.len(), expected.len());
        for (one, other) in told.iter().zip(&expected) {
            prop_assert_eq!((one.kind, one.on, one.who, one.cause), (other.kind, other.on, other.who, other.cause));
            prop_assert!((one.time.secs() - other.time.secs()).abs() < 1e-6);
        }
    }
}

#[test]
fn a_witness_hears_every_gate_and_changes_nothing() {
    let mut alone = busy();
    let mut heard = busy();
    let mut notebook = Notebook::all();
    let until = Time::from_secs(3.0);
    let expected = alone.advance(until).to_vec();
    assert_eq!(heard.advance_witnessed(until, &mut notebook), expected.as_slice());
    assert_eq!(alone.state(), heard.state());
    let [pad, ball, dog, lamp] =
        ["pad", "ball", "dog", "lamp"].map(|name| heard.scene().find(name).unwrap());
    assert!(notebook.stopped(pad, ball).is_none(), "the ball was detected");
    assert_eq!(notebook.stopped(lamp, dog).unwrap().gate, Gate::Apart);
    assert!(notebook.records().any(|record| matches!(record.chain(), Chain::Reaction { .. })));
}

#[test]
fn a_witness_measures_a_near_miss() {
    let mut play = Play::new(yard().build().unwrap());
    let [pad, ball] = ["pad", "ball"].map(|name| play.scene().find(name).unwrap());
    let until = Time::from_secs(1.0);
    // Passes the zone's corner at (-1, 1).
    play.schedule(Time::ZERO, Input::Drive { who: ball, to: [1.5, 0.0, 3.5].into(), until })
        .unwrap();
    let mut notebook = Notebook::about(Some(pad), Some(ball));
    play.advance_witnessed(Time::from_secs(2.0), &mut notebook);
    let verdict = notebook.stopped(pad, ball).unwrap();
    let Evidence::Gap { metres, .. } = verdict.evidence else { panic!("{verdict:?}") };
    assert_eq!(verdict.gate, Gate::InShape);
    // Nudged that much towards the zone it is detected; a millimetre less and it is not.
    for (nudge, expected) in [(metres + 1e-3, 3), (metres - 1e-3, 1)] {
        let mut play = Play::new(yard().build().unwrap());
        let way = DVec3::new(3.5, 0.0, -6.5).normalize() * nudge;
        play.place("ball", DVec3::new(-5.0, 0.0, 0.0) + way).unwrap();
        let to = (DVec3::new(1.5, 0.0, 3.5) + way).into();
        play.schedule(Time::ZERO, Input::Drive { who: ball, to, until }).unwrap();
        let entries = play.advance(Time::from_secs(2.0)).to_vec();
        assert_eq!(events(&entries).len(), expected, "start, and enter and exit if it is near");
    }
}
