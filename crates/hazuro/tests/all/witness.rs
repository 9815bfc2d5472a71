//! Witnesses that leave out what cannot get nearer hear the same; gates tried as they are now agree
//! with what is detected.

use crate::support;

use std::sync::Arc;

use hazuro::geometry::Shape;
use hazuro::scene::{
    Action, Admit, Body, Detector, Entity, Footing, Prompt, Seeker, Sight, Switch, Touch,
};
use hazuro::why::{Chain, Gate, Notebook, Verdict, Witness};
use hazuro::{Input, Play, Scene, Time};
use proptest::prelude::*;
use support::{ball, cube};

/// Hears everything, however far away.
struct Patient(Notebook);

impl Witness for Patient {
    fn wants(&self, chain: &Chain) -> bool {
        self.0.wants(chain)
    }
    fn hear(&mut self, verdict: Verdict) {
        self.0.hear(verdict);
    }
}

/// Hears nothing again that is as it was.
struct Brief(Notebook);

impl Witness for Brief {
    fn wants(&self, chain: &Chain) -> bool {
        self.0.wants(chain)
    }
    fn wants_within(&self, chain: &Chain) -> f64 {
        self.0.wants_within(chain)
    }
    fn hears_again(&self) -> bool {
        false
    }
    fn hear(&mut self, verdict: Verdict) {
        self.0.hear(verdict);
    }
}

/// Counts how often it is told something.
struct Counting<W>(W, usize);

impl<W: Witness> Witness for Counting<W> {
    fn wants(&self, chain: &Chain) -> bool {
        self.0.wants(chain)
    }
    fn wants_within(&self, chain: &Chain) -> f64 {
        self.0.wants_within(chain)
    }
    fn hear(&mut self, verdict: Verdict) {
        self.1 += 1;
        self.0.hear(verdict);
    }
}

type Way = (usize, [f64; 2], f64, f64);

/// Zones and things to touch, and bodies driven about; one zone may be off.
fn yard(zones: &[[f64; 3]], off: bool) -> Arc<Scene> {
    let mut builder = Scene::builder("Yard");
    for (index, [x, z, size]) in zones.iter().enumerate() {
        let entity = Entity::new(format!("zone{index}")).at([*x, 0.0, *z]).zone(cube(*size));
        let admit = if index % 2 == 0 { Admit::default() } else { Admit::tags(["red"]) };
        builder = builder.entity(entity.admit(admit).enabled(!(off && index == 0)));
        let wall = Entity::new(format!("wall{index}")).at([*x + 1.0, 0.0, *z]);
        let wall = wall.solid(Shape::Box { size: [*size, 1.0, 0.2] });
        builder = builder.entity(wall.touch(Touch::default()));
    }
    for index in 0..3 {
        let tags = if index == 1 { vec!["red"] } else { vec!["blue"] };
        let at = [f64::from(index) * 2.0 - 2.0, 0.0, 8.0];
        let body = Entity::new(format!("ball{index}")).at(at).body(ball(0.4)).tags(tags);
        builder = builder.entity(body);
    }
    builder.build().unwrap().into()
}

fn drive(play: &mut Play, ways: &[Way]) {
    for (who, [x, z], at, over) in ways {
        let who = play.scene().find(&format!("ball{}", who % 3)).unwrap();
        let (at, until) = (Time::from_secs(*at), Time::from_secs(at + over));
        play.schedule(at, Input::Drive { who, to: [*x, 0.0, *z].into(), until }).unwrap();
    }
}

/// Switches zones and bodies, and gives and takes tags.
fn switch(play: &mut Play, switches: &[(usize, f64)]) {
    for (what, at) in switches {
        let id = |name: &str| play.scene().find(name).unwrap();
        let toggled = |what| Action::Switch { what, switch: Switch::Enabled, to: None };
        let tag = "red".to_owned();
        let action = match what % 5 {
            0 => toggled(id("zone0")),
            1 => Action::Tag { tag, what: id("ball0") },
            2 => Action::Untag { tag, what: id("ball1") },
            3 => toggled(id("ball2")),
            _ => Action::Tag { tag, what: id("ball1") },
        };
        play.schedule(Time::from_secs(*at), Input::Act(action)).unwrap();
    }
}

/// Of a chain: how far it got, when it passed, and the miss.
type Known = (Chain, Option<Gate>, Vec<Time>, Option<(f64, Time)>);

/// What a notebook knows of each chain.
fn known(notebook: &Notebook) -> Vec<Known> {
    let about = |record: &hazuro::why::Record| {
        let stopped = record.stopped();
        let miss =
            stopped.and_then(|verdict| Some((verdict.missing()?.amount().0, verdict.nearest())));
        let miss = miss.map(|(amount, time)| ((amount * 1e6).round() / 1e6, time));
        (record.chain(), stopped.map(|it| it.gate), record.passed().to_vec(), miss)
    };
    notebook.records().map(about).collect()
}

fn ways() -> impl Strategy<Value = Vec<Way>> {
    let way = (0_usize..3, [-6.0..6.0, -6.0..9.0_f64], 0.0..3.0, 0.05..2.0);
    prop::collection::vec(way, 1..7)
}

fn zones() -> impl Strategy<Value = Vec<[f64; 3]>> {
    prop::collection::vec([-5.0..5.0, -5.0..5.0, 0.3..3.0_f64], 1..4)
}

proptest! {
    /// Leaving out what is farther away than before makes no difference to what is known in the end.
    #[test]
    fn what_cannot_get_nearer_need_not_be_heard(
        zones in zones(), ways in ways(), off in any::<bool>(),
        switches in prop::collection::vec((0_usize..5, 0.0..4.0), 0..5),
    ) {
        let scene = yard(&zones, off);
        let run = |witness: &mut dyn FnMut(&mut Play)| {
            let mut play = Play::new(scene.clone());
            drive(&mut play, &ways);
            switch(&mut play, &switches);
            witness(&mut play);
            play.state().fingerprint()
        };
        let (mut all, mut some) = (Patient(Notebook::all()), Notebook::all());
        let mut brief = Brief(Notebook::all());
        let until = Time::from_secs(5.0);
        let one = run(&mut |play| {
            play.advance_witnessed(until, &mut all);
        });
        let other = run(&mut |play| {
            play.advance_witnessed(until, &mut some);
        });
        let third = run(&mut |play| {
            play.advance_witnessed(until, &mut brief);
        });
        prop_assert_eq!((one, one), (other, third), "a witness changes nothing");
        // Of one detector the same is known as when all are listened to.
        let zone = scene.find("zone0").unwrap();
        let mut about = Notebook::about(Some(zone), None);
        run(&mut |play| {
            play.advance_witnessed(until, &mut about);
        });
        let of_zone = |known: &Known| known.0.pair().0 == Some(zone);
        prop_assert_eq!(known(&about), known(&some).into_iter().filter(of_zone).collect::<Vec<_>>());
        let all = known(&all.0);
        for some in [known(&some), known(&brief.0)] {
            prop_assert_eq!(all.len(), some.len());
            for (one, other) in all.iter().zip(&some) {
                prop_assert_eq!((&one.0, &one.1, &one.2), (&other.0, &other.1, &other.2));
                // Equally near at two times, either may be told.
                let amounts = (one.3.map(|it| it.0), other.3.map(|it| it.0));
                if let (Some(one), Some(other)) = amounts {
                    prop_assert!((one - other).abs() < 2e-3, "{one} {other}");
                } else {
                    prop_assert_eq!(amounts.0.is_some(), amounts.1.is_some());
                }
            }
        }
    }

    /// At any moment: the gates up to the shape pass exactly for whoever is inside, and for others the
    /// way that is missing is the distance.
    #[test]
    fn gates_as_they_are_now_agree_with_who_is_inside(
        zones in zones(), ways in ways(), at in 0.1..4.0,
    ) {
        let scene = yard(&zones, false);
        let mut play = Play::new(scene.clone());
        drive(&mut play, &ways);
        play.advance(Time::from_secs(at));
        let before = play.state().fingerprint();
        for on in scene.ids().filter(|id| scene.has_zone(*id)) {
            let inside = play.occupants(on).unwrap();
            for who in scene.ids().filter(|id| scene.has_body(*id)) {
                let mut notebook = Notebook::about(Some(on), Some(who));
                play.try_gates(on, who, &mut notebook).unwrap();
                let stopped = notebook.stopped(on, who).map(|verdict| verdict.gate);
                let admitted = scene.admits(on, who);
                if !admitted {
                    prop_assert_eq!(stopped, Some(Gate::Admitted));
                } else if inside.contains(&who) {
                    prop_assert_ne!(stopped, Some(Gate::InShape));
                } else {
                    prop_assert_eq!(stopped, Some(Gate::InShape));
                    let missing = notebook.stopped(on, who).unwrap().missing().unwrap().amount().0;
                    let form = scene.zone_form(on).unwrap();
                    let [zone, ball] = [on, who].map(|id| play.pose(id).unwrap());
                    let gap = form.distance_to_point(&zone, ball.position) - 0.4;
                    prop_assert!((missing - gap).abs() < 1e-4, "{missing} {gap}");
                }
            }
        }
        prop_assert_eq!(play.state().fingerprint(), before, "asking changes nothing");
    }
}

#[test]
fn much_less_is_heard_of_a_long_walk() {
    let scene = yard(&[[0.0, 0.0, 1.0], [3.0, 3.0, 1.0]], false);
    let heard = |patient: bool| {
        let mut play = Play::new(scene.clone());
        // To and fro, never as near as the first time.
        let to = |round: u32| [0.0, if round == 0 { 5.0 } else { 7.0 + f64::from(round % 2) }];
        let ways: Vec<Way> = (0..20).map(|it| (0, to(it), f64::from(it), 0.9)).collect();
        drive(&mut play, &ways);
        let until = Time::from_secs(30.0);
        if patient {
            let mut witness = Counting(Patient(Notebook::all()), 0);
            play.advance_witnessed(until, &mut witness);
            witness.1
        } else {
            let mut witness = Counting(Notebook::all(), 0);
            play.advance_witnessed(until, &mut witness);
            witness.1
        }
    };
    assert!(heard(false) * 2 < heard(true), "{} {}", heard(false), heard(true));
}

#[test]
fn each_sort_of_detector_can_be_tried_at_once() {
    let sight = Sight { range: 5.0, ..Sight::default() };
    let scene = Scene::builder("Yard")
        .entity(Entity::new("miller").player(true).at([0.0, 0.0, -8.0]).body(ball(0.5)))
        .entity(Entity::new("owl").sight(sight))
        .entity(Entity::new("cock").seeker(Seeker { range: 3.0, ..Seeker::default() }))
        .entity(Entity::new("lever").prompt(Prompt { reach: 2.0, ..Prompt::default() }))
        .entity(
            Entity::new("foot")
                .at([0.0, 5.0, 0.0])
                .body(Body::new(Shape::Sphere { radius: 0.1 }))
                .footing(Footing::default()),
        )
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.advance(Time::from_secs(1.0));
    let find = |name: &str| play.scene().find(name).unwrap();
    let who = find("miller");
    let stopped = |name: &str, who| {
        let on = find(name);
        let mut notebook = Notebook::about(Some(on), Some(who));
        play.try_gates(on, who, &mut notebook).unwrap();
        let verdict = notebook.stopped(on, who).cloned();
        verdict.map(|verdict| (verdict.gate, verdict.missing().map(|it| it.amount().0)))
    };
    let metres = |found: Option<(Gate, Option<f64>)>| {
        found.map(|(gate, missing)| (gate, missing.map(|it| (it * 1e3).round() / 1e3)))
    };
    assert_eq!(metres(stopped("owl", who)).unwrap().0, Gate::InRange);
    assert_eq!(metres(stopped("cock", who)), Some((Gate::InRange, Some(4.5))));
    assert_eq!(metres(stopped("lever", who)), Some((Gate::InRange, Some(5.5))));
    assert_eq!(stopped("foot", find("foot")).unwrap().0, Gate::OnGround);
    assert_eq!(play.detected("owl", Detector::Sight).unwrap(), []);
}
