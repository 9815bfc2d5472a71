//! A state holds all that matters: putting it back at any moment, as often as one likes, changes
//! nothing of what comes: the same events, of the same cause, at the same nanosecond.

use crate::support;

use std::sync::Arc;

use hazuro::geometry::Shape;
use hazuro::scene::{
    Action, Admit, Body, Carry, Entity, EventKind, Footing, Limits, Prompt, Reaction, Seeker,
    Sight, Touch, Trigger,
};
use hazuro::{Entry, Happening, Input, Play, Scene, Time};
use proptest::prelude::*;
use support::{ball, cube, person};

/// One of everything: watchers, seekers, prompts, things to touch and to carry, feet, a door.
fn mill() -> Arc<Scene> {
    let sight = Sight { range: 9.0, notice: 0.4, forget: 0.7, ..Sight::default() };
    let seeker = Seeker { range: 8.0, margin: 0.2, ..Seeker::default() };
    let prompt = Prompt { reach: 1.5, hold: 0.3, ..Prompt::default() };
    let limits = Limits { cooldown: 0.5, ..Limits::default() };
    let ramp = Shape::Box { size: [4.0, 0.2, 4.0] };
    let scene = Scene::builder("Mill")
        .entity(Entity::new("miller").player(true).body(person()).footing(Footing::default()))
        .entity(Entity::new("heron").at([3.0, 0.0, 2.0]).body(ball(0.3)).tags(["bird"]))
        .entity(Entity::new("owl").at([0.0, 1.5, 6.0]).sight(sight))
        .entity(
            Entity::new("cock").at([-3.0, 2.0, 0.0]).seeker(seeker).admit(Admit::tags(["bird"])),
        )
        .entity(Entity::new("lever").at([2.0, 1.0, -2.0]).prompt(prompt))
        .entity(Entity::new("pad").at([0.0, 1.0, -3.0]).zone(cube(2.0)).limits(limits))
        .entity(
            Entity::new("gong")
                .at([-3.0, 1.0, -3.0])
                .solid(Shape::Sphere { radius: 0.5 })
                .touch(Touch::default()),
        )
        .entity(Entity::new("step").at([4.0, 0.1, -4.0]).solid(ramp))
        .entity(
            Entity::new("sack")
                .at([1.0, 0.3, 1.0])
                .body(Body::new(Shape::Box { size: [0.4, 0.6, 0.4] }))
                .carry(Carry::default()),
        )
        .reaction(Reaction::on(Trigger::enter("pad")).then(Action::add("visits", 1)))
        .reaction(Reaction::on(Trigger::exit("pad")).after(0.3).then(Action::add("left", 1)));
    scene.build().unwrap().into()
}

/// Somebody does something: when, what, where.
type Deed = (f64, u8, [f64; 2]);

fn play(scene: &Arc<Scene>, deeds: &[Deed]) -> Play {
    let mut play = Play::new(scene.clone());
    let find = |name: &str| scene.find(name).unwrap();
    let [who, heron, sack] = ["miller", "heron", "sack"].map(find);
    for (at, sort, [x, z]) in deeds {
        let (at, to) = (Time::from_secs(*at), [*x, 0.0, *z]);
        let input = match sort {
            0 | 1 => Input::Walk { who, to: to.into() },
            2 => Input::Act(Action::Jump(who)),
            3 => Input::Drive { who: heron, to: to.into(), until: at + Time::from_secs(0.7) },
            4 => Input::Place { who: heron, at: to.into() },
            5 => Input::Press { who, key: "KeyE".into() },
            6 => Input::Release { who, key: "KeyE".into() },
            7 => Input::Act(Action::Grab { what: sack, to: who }),
            _ => Input::Act(Action::Drop(who)),
        };
        play.schedule(at, input).unwrap();
    }
    play
}

fn deeds() -> impl Strategy<Value = Vec<Deed>> {
    let deed = (0.0..4.0, 0_u8..9, [-5.0..5.0, -5.0..5.0_f64]);
    prop::collection::vec(deed, 1..10)
}

/// What happened to whom, why, and when to the nanosecond.
fn story(entries: &[Entry]) -> Vec<String> {
    let words = |entry: &Entry| match &entry.what {
        Happening::Event(event) => {
            let (on, who) = (event.on, event.who);
            format!("{} {} {on:?} {who:?} {:?} {}", event.time, event.kind, event.cause, event.edge)
        }
        Happening::Did { time, action, .. } => format!("{time} did {}", action.word()),
        other => format!("{} {:?}", entry.time(), std::mem::discriminant(other)),
    };
    entries.iter().map(words).collect()
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 96, ..ProptestConfig::default() })]

    /// At random moments the state is put back into the play it came from, or into a fresh one.
    #[test]
    fn putting_back_a_state_changes_nothing(
        deeds in deeds(),
        mut moments in prop::collection::vec((0.0..5.0_f64, any::<bool>()), 1..8),
    ) {
        let scene = mill();
        let end = Time::from_secs(6.0);
        let mut straight = play(&scene, &deeds);
        let entries = straight.advance(end).to_vec();
        moments.sort_by(|one, other| one.0.total_cmp(&other.0));
        let mut broken = play(&scene, &deeds);
        let mut pieces: Vec<Entry> = Vec::new();
        for (at, fresh) in moments {
            pieces.extend_from_slice(broken.advance(Time::from_secs(at)));
            let state = broken.state().clone();
            if fresh {
                broken = Play::new(scene.clone());
            }
            broken.restore(state.clone()).unwrap();
            prop_assert_eq!(broken.state(), &state);
        }
        pieces.extend_from_slice(broken.advance(end));
        prop_assert_eq!(story(&pieces), story(&entries));
        // Where something is met is reckoned from where it is looked from: the last bits may differ, by as much
        // as one walks in a nanosecond.
        for (one, other) in pieces.iter().zip(&entries) {
            let place = |entry: &Entry| entry.event().and_then(|event| event.at);
            if let (Some(one), Some(other)) = (place(one), place(other)) {
                prop_assert!(one.distance(other) < 1e-8);
            }
        }
        for id in scene.ids() {
            let [one, other] = [&broken, &straight].map(|play| play.pose(id).unwrap().position);
            prop_assert!(one.distance(other) < 1e-9, "{}", scene.name(id));
        }
        prop_assert_eq!(broken.count("visits"), straight.count("visits"));
    }
}

#[test]
fn who_is_seen_was_last_seen_just_now() {
    let scene = mill();
    let mut play = Play::new(scene);
    play.place("miller", [0.0, 0.0, 3.0]).unwrap();
    play.advance(Time::from_secs(2.0));
    let seen = play.sightings("owl").unwrap();
    let miller = play.scene().find("miller").unwrap();
    let of = seen.iter().find(|it| it.who == miller).unwrap();
    assert!(of.spotted && of.in_view);
    assert_eq!(of.last_seen, play.now());
    // Out of sight: from then on it is a memory.
    play.place("miller", [0.0, 0.0, 30.0]).unwrap();
    play.advance(Time::from_secs(2.5));
    let seen = play.sightings("owl").unwrap();
    let of = seen.iter().find(|it| it.who == miller).unwrap();
    assert!(!of.in_view && of.last_seen <= Time::from_secs(2.0), "{of:?}");
}

#[test]
fn hands_tell_what_they_hold() {
    let scene = mill();
    let [miller, sack] = ["miller", "sack"].map(|name| scene.find(name).unwrap());
    let mut play = Play::new(scene);
    assert_eq!(play.in_hands("miller").unwrap(), []);
    play.schedule(Time::ZERO, Input::Act(Action::Grab { what: sack, to: miller })).unwrap();
    let entries = play.advance(Time::from_secs(0.5));
    assert!(entries.iter().filter_map(Entry::event).any(|event| event.kind == EventKind::Grab));
    assert_eq!(play.in_hands("miller").unwrap(), [sack]);
    assert!(play.in_hands("milner").is_err());
}

#[test]
fn what_was_just_taken_out_is_told_to_have_left_after_going_back_too() {
    for who in ["ball", "slot"] {
        let scene = Scene::builder("Yard")
            .entity(Entity::new("ball").body(ball(0.3)))
            .entity(Entity::new("slot").zone(cube(2.0)))
            .build()
            .unwrap();
        let mut play = Play::new(scene);
        play.advance(Time::from_secs(1.0));
        play.act(Action::remove(who)).unwrap();
        // Its leaving is seen, and not yet told.
        let state = play.state().clone();
        play.restore(state).unwrap();
        let left = play.advance(Time::from_secs(2.0)).iter().filter_map(Entry::event);
        let left: Vec<(EventKind, Time)> = left.map(|event| (event.kind, event.time)).collect();
        assert_eq!(left, [(EventKind::Exit, Time::from_secs(1.0))], "{who}");
        play.state().assert_consistent(play.scene());
    }
}
