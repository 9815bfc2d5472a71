//! Witnesses: each gate of a zone and of a reaction, and what it says.

use crate::support;

use hazuro::Scene;
use hazuro::geometry::Shape;
use hazuro::scene::{
    Action, Admit, Camera, Condition, Detector, Entity, Kind, Pointer, Probe, Prompt, Reaction,
    Seeker, Sight, Trigger,
};
use hazuro::why::{Chain, Gate, Notebook, Verdict, Witness};
use hazuro::{EntityId, Play, Time};
use support::{ball, cube, yard};

fn id(play: &Play, name: &str) -> EntityId {
    play.scene().find(name).unwrap()
}

/// Plays and gives the gate that stopped `pad` from detecting `who`, with its reason.
fn stopped(play: &mut Play, who: &str) -> Option<(Gate, String)> {
    let mut notebook = Notebook::all();
    play.advance_witnessed(play.now() + Time::from_secs(1.0), &mut notebook);
    let verdict = notebook.stopped(id(play, "pad"), id(play, who))?;
    Some((verdict.gate, verdict.reason(play.scene())))
}

#[test]
fn each_gate_of_a_zone_says_what_stopped_it() {
    let scene = || {
        Scene::builder("Yard")
            .kind(Kind::new("toy"))
            .entity(Entity::new("mill"))
            .entity(
                Entity::new("pad")
                    .parent("mill")
                    .zone(cube(2.0))
                    .admit(Admit::kinds(["toy"]).not(Admit::names(["spare"]))),
            )
            .entity(Entity::new("ball").kind("toy").body(ball(0.5)))
            .entity(Entity::new("spare").kind("toy").body(ball(0.5)))
            .entity(Entity::new("stone").body(ball(0.5)))
            .entity(Entity::new("knob").parent("pad").kind("toy").body(ball(0.1)))
            .entity(Entity::new("far").kind("toy").at([0.0, 4.0, 0.0]).body(ball(0.5)))
            .build()
            .unwrap()
    };
    let mut play = Play::new(scene());
    assert_eq!(stopped(&mut play, "ball"), None, "it was detected");
    let reason = |play: &mut Play, who: &str| stopped(play, who).unwrap();
    assert_eq!(reason(&mut play, "spare"), (Gate::Admitted, "it is refused by `not`".into()));
    let kinds = "it is of none of the kinds asked for: toy".to_owned();
    assert_eq!(reason(&mut play, "stone"), (Gate::Admitted, kinds));
    assert_eq!(reason(&mut play, "knob").0, Gate::Apart);
    let (gate, words) = reason(&mut play, "far");
    assert_eq!(gate, Gate::InShape);
    assert!(words.starts_with("came within 2.500 m at"), "{words}");
    assert!(words.ends_with("it lay down (-Y)"), "{words}");

    let mut play = Play::new(scene());
    play.act(Action::disable("ball")).unwrap();
    play.step();
    assert_eq!(reason(&mut play, "ball"), (Gate::Present, "`ball` is off".into()));
    play.act(Action::disable("mill")).unwrap();
    play.step();
    assert_eq!(reason(&mut play, "ball"), (Gate::Enabled, "`mill` is off".into()));
}

/// The last verdict heard about each reaction.
#[derive(Default)]
struct Last(Vec<Verdict>);

impl Witness for Last {
    fn wants(&self, chain: &Chain) -> bool {
        matches!(chain, Chain::Reaction { .. })
    }
    fn hear(&mut self, verdict: Verdict) {
        self.0.push(verdict);
    }
}

#[test]
fn each_gate_of_a_reaction_says_what_stopped_it() {
    let on = || Trigger::enter("pad");
    let never = Condition::new("count.x > 0", |facts| facts.count("x") > 0);
    let act = |reaction: Reaction| reaction.then(Action::add("ran", 1));
    let scene = yard()
        .entity(Entity::new("dog").at([0.0, 0.0, 0.4]).body(ball(0.1)))
        .reaction(act(Reaction::on(on().of_subject("dog"))))
        .reaction(act(Reaction::on(Trigger::first_enter("pad"))))
        .reaction(act(Reaction::on(on()).once()))
        .reaction(act(Reaction::on(on()).cooldown(9.0)))
        .reaction(act(Reaction::on(on()).when(never)))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.step();
    assert_eq!(play.count("ran"), 4, "the dog is first, and the count is 0");
    play.place("ball", [0.0, 0.0, 0.0]).unwrap();
    let mut last = Last::default();
    play.advance_witnessed(Time::from_secs(1.0), &mut last);
    let told: Vec<(Gate, bool, String)> = last
        .0
        .iter()
        .filter(|verdict| !verdict.passed)
        .map(|verdict| (verdict.gate, verdict.passed, verdict.reason(play.scene())))
        .collect();
    let expected = [
        (Gate::Subject, ""),
        (Gate::OnlyOne, "`dog` is inside"),
        (Gate::Once, ""),
        (Gate::Cooldown, "ready at 9.000 s"),
        (Gate::Condition, "`count.x > 0`: count.x was 0"),
    ];
    assert_eq!(told, expected.map(|(gate, reason)| (gate, false, reason.to_owned())));
    assert_eq!(play.count("ran"), 4);
}

#[test]
fn a_last_that_did_not_stay_so_is_heard_of() {
    let scene = yard()
        .reaction(Reaction::on(Trigger::last_exit("pad")).after(1.0).then(Action::cue("shut")))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let mut last = Last::default();
    for (until, x) in [(0.2, 0.0), (0.4, -5.0), (0.6, 0.0)] {
        play.place("ball", [x, 0.0, 0.0]).unwrap();
        play.advance_witnessed(Time::from_secs(until), &mut last);
    }
    play.advance_witnessed(Time::from_secs(3.0), &mut last);
    let verdict = last.0.last().unwrap();
    assert_eq!((verdict.gate, verdict.passed), (Gate::StillSo, false));
    assert_eq!(verdict.to_string(), "1.200000 stopped: still so after waiting");
}

#[test]
fn a_notebook_about_one_pair_keeps_to_it() {
    let scene = yard().entity(Entity::new("dog").body(ball(0.1))).build().unwrap();
    let mut play = Play::new(scene);
    let (pad, dog) = (id(&play, "pad"), id(&play, "dog"));
    let mut notebook = Notebook::about(Some(pad), Some(dog));
    play.advance_witnessed(Time::from_secs(1.0), &mut notebook);
    let chains: Vec<Chain> = notebook.records().map(hazuro::why::Record::chain).collect();
    assert_eq!(chains, [Chain::Detector { on: pad, detector: Detector::Zone, who: dog }]);
}

/// An owl, a ray, a lever and a bell in front of a player with an eye, and a cat where it is put.
fn yard_of_senses(cat: [f64; 3]) -> Play {
    let block = |size| Shape::Box { size };
    let sight = Sight { notice: 1.0, ..Sight::default() };
    let lever = Prompt { reach: 2.0, angle: 1.0, sight: true, ..Prompt::default() };
    let scene = Scene::builder("Yard")
        .entity(Entity::new("owl").sight(sight).admit(Admit::tags(["cat"])))
        .entity(Entity::new("ray").probe(Probe::default()).admit(Admit::tags(["cat"])))
        .entity(Entity::new("cock").seeker(Seeker::default()).admit(Admit::tags(["cat"])))
        .entity(Entity::new("cat").tags(["cat"]).player(true).at(cat).body(ball(0.3)))
        .entity(Entity::new("dog").at([0.0, 0.0, -9.0]).body(ball(0.3)))
        .entity(Entity::new("mouse").tags(["cat"]).at([1.0, 0.0, -2.5]).body(ball(0.3)))
        .entity(Entity::new("wall").at([0.0, 0.0, -6.0]).solid(block([2.0, 2.0, 0.1])))
        .entity(Entity::new("lever").prompt(lever))
        .entity(Entity::new("eye").at([0.0, 0.0, 20.0]).camera(Camera::default()))
        .entity(
            Entity::new("bell")
                .at([0.0, 0.0, -7.0])
                .solid(block([1.0; 3]))
                .pointer(Pointer::default()),
        );
    Play::new(scene.build().unwrap())
}

#[test]
fn detectors_that_are_asked_again_and_again_say_why_not() {
    let gate = |cat: [f64; 3], on: &str, who: &str| {
        let mut play = yard_of_senses(cat);
        let player = id(&play, "cat");
        let at = hazuro::Spot::Pixel(640.0, 360.0);
        let button = hazuro::Button::Stays;
        play.schedule(Time::ZERO, hazuro::Input::Point { who: player, at, button }).unwrap();
        let mut notebook = Notebook::about(Some(id(&play, on)), Some(id(&play, who)));
        play.advance_witnessed(Time::from_secs(0.5), &mut notebook);
        let verdict = notebook.stopped(id(&play, on), id(&play, who)).cloned();
        verdict.map(|verdict| (verdict.gate, verdict.reason(play.scene())))
    };
    let is = |got: Option<(Gate, String)>, gate: Gate, reason: &str| {
        let (stopped, why) = got.expect("it is stopped");
        assert_eq!((stopped, why.contains(reason)), (gate, true), "{why} for {reason}");
    };
    let far = [0.0, 0.0, -40.0];
    is(gate(far, "owl", "cat"), Gate::InRange, "40.000 m away; at most 10 m");
    is(gate([6.0, 0.0, -6.0], "owl", "cat"), Gate::InAngle, "degrees off; at most 30.0");
    is(gate([0.0, 0.0, -8.0], "owl", "cat"), Gate::InView, "`wall` hides it");
    is(gate([0.0, 0.0, -3.0], "owl", "cat"), Gate::Noticed, "");
    is(gate(far, "owl", "dog"), Gate::Admitted, "none of the tags asked for: cat");
    is(gate(far, "ray", "cat"), Gate::InRange, "");
    is(gate([0.0, 0.0, -8.0], "ray", "cat"), Gate::InView, "`wall` hides it");
    is(gate(far, "cock", "cat"), Gate::InRange, "at most 10 m");
    is(gate([0.0, 0.0, -8.0], "cock", "cat"), Gate::Best, "`mouse` was chosen instead");
    is(gate(far, "lever", "cat"), Gate::InRange, "at most 2 m");
    is(gate([0.0, 0.0, -1.5], "lever", "cat"), Gate::InAngle, "180.0 degrees off");
    is(gate(far, "bell", "cat"), Gate::InView, "`wall` hides it");
    assert_eq!(gate([0.0, 0.0, 1.5], "lever", "cat"), None, "it is offered");
}

#[test]
fn a_witness_changes_nothing() {
    let play = |witnessed: bool| {
        let mut play = yard_of_senses([0.0, 0.0, -3.0]);
        let who = id(&play, "cat");
        let until = Time::from_secs(2.0);
        play.schedule(Time::ZERO, hazuro::Input::Drive { who, to: [3.0, 0.0, 3.0].into(), until })
            .unwrap();
        let until = Time::from_secs(4.0);
        let entries = if witnessed {
            play.advance_witnessed(until, &mut Notebook::all()).to_vec()
        } else {
            play.advance(until).to_vec()
        };
        (entries, play.state().fingerprint())
    };
    assert_eq!(play(true), play(false));
}
