//! The gates that all detectors share, each held against each detector: it detects, and with one thing
//! changed it does not, and says by which gate.

use crate::support;

use hazuro::geometry::Shape;
use hazuro::scene::{
    Action, Admit, Body, Camera, Carry, Condition, Detector, Entity, Limits, Pointer, Probe,
    Prompt, Seeker, Sight, Touch, Zone,
};
use hazuro::why::{Chain, Evidence, Gate, Notebook};
use hazuro::{Button, Entry, Happening, Input, Play, Problem, Scene, Spot, Time};
use support::ball;

/// The detectors that have subjects, and so share gates. A footing's ground is no subject.
const ALL: [Detector; 7] = [
    Detector::Zone,
    Detector::Touch,
    Detector::Pointer,
    Detector::Prompt,
    Detector::Probe,
    Detector::Sight,
    Detector::Seeker,
];

/// An eye with one detector, that detects what is two metres before it.
fn eye(detector: Detector) -> Entity {
    let eye = Entity::new("eye");
    let near = Shape::Box { size: [1.0, 4.0, 5.0] };
    match detector {
        Detector::Zone => eye.zone(Zone::new(near)),
        Detector::Touch => eye.touch(Touch { shape: Some(near), ..Touch::default() }),
        Detector::Pointer => eye.solid(Shape::Sphere { radius: 0.4 }).pointer(Pointer::default()),
        Detector::Prompt => eye.prompt(Prompt { reach: 4.0, ..Prompt::default() }),
        Detector::Probe => eye.probe(Probe { to: [0.0, 0.0, -5.0], own: true, ..Probe::default() }),
        Detector::Sight => eye.sight(Sight { range: 5.0, ..Sight::default() }),
        _ => eye.seeker(Seeker { range: 5.0, ..Seeker::default() }),
    }
}

/// The eye, and a miller before it who points at it.
fn yard(detector: Detector, change: impl Fn(Entity, Entity) -> (Entity, Entity)) -> Play {
    let miller =
        Entity::new("miller").at([0.0, 0.0, -2.0]).player(true).tags(["red"]).body(ball(0.3));
    let (eye, miller) = change(eye(detector), miller);
    let camera = Entity::new("camera").at([0.0, 0.0, 6.0]).camera(Camera::default());
    let hands = Entity::new("hands").at([9.0, 0.0, 0.0]).body(ball(0.3));
    let scene = Scene::builder("Yard")
        .text("a", "a")
        .entity(hands)
        .entity(eye)
        .entity(miller)
        .entity(camera)
        .entity(
            Entity::new("giver")
                .at([20.0, 0.0, 0.0])
                .zone(Zone::new(Shape::Sphere { radius: 1.0 })),
        )
        .build()
        .unwrap_or_else(|errors| panic!("{detector}: {errors}"));
    let mut play = Play::new(scene);
    if detector == Detector::Pointer {
        let id = |name| play.scene().find(name).unwrap();
        let (who, at) = (id("miller"), Spot::Entity(id("eye")));
        play.schedule(Time::ZERO, Input::Point { who, at, button: Button::Stays }).unwrap();
    }
    play
}

/// Whether the eye detects the miller after a second, and the gate that stopped it if not.
fn detects(play: &mut Play, detector: Detector) -> (bool, Option<Gate>, Option<Evidence>) {
    let id = |name| play.scene().find(name).unwrap();
    let (on, who) = (id("eye"), id("miller"));
    let until = play.now() + Time::from_secs(1.0);
    play.advance(until);
    let found = play.detected(on, detector).unwrap().contains(&who);
    // What is so now, since an older run may have got farther.
    let mut now = Notebook::about(Some(on), Some(who));
    play.try_gates(on, who, &mut now).unwrap();
    let record = now.record(&Chain::Detector { on, detector, who });
    let stopped = record.and_then(|record| record.stopped());
    let (gate, saw) = (stopped.map(|it| it.gate), stopped.map(|it| it.evidence.clone()));
    (found, if found { None } else { gate }, saw)
}

#[test]
fn with_nothing_in_the_way_each_detects() {
    for detector in ALL {
        let mut play = yard(detector, |eye, miller| (eye, miller));
        assert!(detects(&mut play, detector).0, "{detector}");
    }
}

#[test]
fn enabled_and_present() {
    for detector in ALL {
        for (action, gate) in [
            (Action::disable("eye"), Gate::Enabled),
            (Action::detect("eye", false), Gate::Enabled),
            (Action::disable("miller"), Gate::Present),
            (Action::remove("miller"), Gate::Present),
        ] {
            let mut play = yard(detector, |eye, miller| (eye, miller));
            assert!(detects(&mut play, detector).0);
            let word = action.word();
            play.act(action).unwrap();
            let (found, stopped, _) = detects(&mut play, detector);
            assert!(!found, "{detector}, {word}");
            // What is off is not met by rays, so a pointer or probe is not asked about it at all.
            let hides = matches!(detector, Detector::Pointer | Detector::Probe);
            assert!(stopped == Some(gate) || hides, "{detector}, {word}: {stopped:?}");
        }
    }
}

#[test]
fn apart_from_what_it_is_a_part_of() {
    // One's own things can be pointed at; whether a ray meets its own body is a key of the probe.
    let all = ALL.into_iter().filter(|it| !matches!(it, Detector::Pointer | Detector::Probe));
    for detector in all {
        let mut child =
            yard(detector, |eye, miller| (eye.parent("miller").at([0.0, 0.0, 2.0]), miller));
        let (found, stopped, _) = detects(&mut child, detector);
        assert!(!found && stopped == Some(Gate::Apart), "{detector}: {stopped:?}");
        let mut attached = yard(detector, |eye, miller| (eye, miller));
        assert!(detects(&mut attached, detector).0, "{detector}");
        attached.act(Action::attach("eye", "miller")).unwrap();
        let (found, stopped, _) = detects(&mut attached, detector);
        assert!(!found && stopped == Some(Gate::Apart), "{detector}: {stopped:?}");
        attached.act(Action::detach("eye")).unwrap();
        assert!(detects(&mut attached, detector).0, "{detector}: apart again");
    }
}

#[test]
fn what_is_in_somebodys_hands_is_a_part_of_them() {
    let all = ALL.into_iter().filter(|it| !matches!(it, Detector::Pointer | Detector::Probe));
    for detector in all {
        let mut play = yard(detector, |eye, miller| {
            let handle = Body::new(Shape::Sphere { radius: 0.05 });
            (
                eye.body(handle).carry(Carry { hold: Some([0.0, 0.0, 1.0]), ..Carry::default() }),
                miller,
            )
        });
        // Nobody lets it fall before it is taken.
        play.act(Action::Grab { what: "eye".into(), to: "miller".into() }).unwrap();
        let (found, stopped, _) = detects(&mut play, detector);
        assert!(!found && stopped == Some(Gate::Apart), "{detector}: {stopped:?}");
    }
}

#[test]
fn admitted_and_condition() {
    for detector in ALL {
        for (admit, gate) in [
            (Admit::tags(["blue"]), Gate::Admitted),
            (Admit::default().not(Admit::tags(["red"])), Gate::Admitted),
            (Admit::default().when(Condition::new("never", |_| false)), Gate::Condition),
        ] {
            let tagged = |eye: Entity| eye.admit(admit.clone()).tags(["blue"]);
            let mut play = yard(detector, |eye, miller| (tagged(eye), miller));
            let (found, stopped, _) = detects(&mut play, detector);
            // A zone and a touch test their condition once somebody comes in.
            let later = matches!(detector, Detector::Zone | Detector::Touch);
            let later = later && gate == Gate::Condition;
            assert!(
                !found && (stopped == Some(gate) || later),
                "{detector}, {gate:?}: {stopped:?}"
            );
        }
    }
}

#[test]
fn a_condition_that_fails_is_reported_by_each_once() {
    for detector in ALL {
        let fails = Condition::fallible("count.a / count.b", |facts| {
            if facts.count("b") == 0 { Err("divided by zero".into()) } else { Ok(true) }
        });
        let admit = Admit::default().when(fails);
        let mut play = yard(detector, |eye, miller| (eye.admit(admit.clone()), miller));
        let failures = |play: &mut Play, until: f64| {
            let entries = play.advance(Time::from_secs(until)).to_vec();
            let told = entries.iter().filter(|entry| {
                matches!(&entry.what, Happening::Problem { problem: Problem::Condition(why), .. }
                    if why.contains("divided by zero"))
            });
            told.count()
        };
        assert_eq!(failures(&mut play, 2.0), 1, "{detector}: once, not each time it is asked");
        // Once it can be told, all goes on.
        play.act(Action::set("b", 1)).unwrap();
        assert_eq!(failures(&mut play, 3.0), 0, "{detector}");
        let (found, ..) = detects(&mut play, detector);
        assert!(found, "{detector}");
        play.state().assert_consistent(play.scene());
    }
}

#[test]
fn once_and_cooldown() {
    // Those of prompts and pointers are about their use.
    let all = ALL.into_iter().filter(|it| !matches!(it, Detector::Pointer | Detector::Prompt));
    for detector in all {
        let openings = |limits: Limits| {
            let mut play = yard(detector, |eye, miller| (eye.limits(limits), miller));
            let mut times = Vec::new();
            for visit in 0..3 {
                for (part, place) in [[0.0, 0.0, -2.0], [30.0, 0.0, 0.0]].into_iter().enumerate() {
                    play.place("miller", place).unwrap();
                    let until = f64::from(visit) * 2.0 + part as f64 + 1.0;
                    let entries = play.advance(Time::from_secs(until)).to_vec();
                    let events = entries.iter().filter_map(Entry::event);
                    let opens = events.filter(|event| {
                        Some(event.kind) == detector.opens() && event.who.is_some()
                    });
                    times.extend(opens.map(|event| event.time));
                }
            }
            times.len()
        };
        assert_eq!(openings(Limits::default()), 3, "{detector}");
        assert_eq!(openings(Limits { limit: Some(1), ..Limits::default() }), 1, "{detector}");
        assert_eq!(openings(Limits { cooldown: 3.0, ..Limits::default() }), 2, "{detector}");
    }
}
