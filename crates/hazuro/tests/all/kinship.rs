//! Attaching and detaching at random, against a plain model; and what depends on who holds what.

use crate::support;

use hazuro::geometry::{Pose, Shape};
use hazuro::glam::{DQuat, DVec3};
use hazuro::scene::{
    Action, Alter, Effect, Entity, EventKind, Facts, Kind, Needs, Prompt, Reaction, Stat, Touch,
    Trigger,
};
use hazuro::{Cause, Entry, Happening, Input, Play, Scene, Time};
use proptest::prelude::*;
use support::{any_place, ball, cube, events, play_until, words, yard};

const COUNT: usize = 5;

#[derive(Clone, Debug)]
enum Deed {
    Attach(usize, usize),
    Detach(usize),
    Place(usize, DVec3, f64),
    Home(usize),
}

fn deeds() -> impl Strategy<Value = Vec<Deed>> {
    let deed = prop_oneof![
        3 => (0..COUNT, 0..COUNT).prop_map(|(what, to)| Deed::Attach(what, to)),
        1 => (0..COUNT).prop_map(Deed::Detach),
        2 => (0..COUNT, any_place(9.0), -3.0..3.0_f64)
            .prop_map(|(what, place, turn)| Deed::Place(what, place, turn)),
        1 => (0..COUNT).prop_map(Deed::Home),
    ];
    prop::collection::vec(deed, 1..60)
}

fn home(index: usize) -> Pose {
    Pose::from([index as f64 * 2.0, 0.0, 1.0])
}

/// The model: each one's parent, and its pose in the frame of that.
struct Model {
    parents: [Option<usize>; COUNT],
    poses: [Pose; COUNT],
}

impl Model {
    fn lineage(&self, of: usize) -> impl Iterator<Item = usize> {
        std::iter::successors(Some(of), |up| self.parents[*up])
    }

    fn world(&self, of: usize) -> Pose {
        let poses = self.lineage(of).map(|up| self.poses[up]);
        poses.fold(Pose::IDENTITY, |below, up| up * below)
    }

    fn put(&mut self, what: usize, world: Pose) {
        let parent = self.parents[what].map_or(Pose::IDENTITY, |parent| self.world(parent));
        self.poses[what] = parent.inverse() * world;
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn whoever_is_attached_goes_where_his_holder_goes(deeds in deeds()) {
        let mut scene = Scene::builder("Yard");
        for index in 0..COUNT {
            scene = scene.entity(Entity::new(format!("e{index}")).at(home(index)).body(ball(0.1)));
        }
        let scene = scene.entity(Entity::new("zone").zone(cube(6.0))).build().unwrap();
        let mut play = Play::new(scene);
        let mut model = Model { parents: [None; COUNT], poses: std::array::from_fn(home) };
        let mut inside = [false; COUNT];
        for (step, deed) in deeds.into_iter().enumerate() {
            match deed {
                Deed::Attach(what, to) => {
                    play.act(Action::attach(format!("e{what}"), format!("e{to}"))).unwrap();
                    if !model.lineage(to).any(|up| up == what) {
                        let world = model.world(what);
                        model.parents[what] = Some(to);
                        model.put(what, world);
                    }
                }
                Deed::Detach(what) => {
                    play.act(Action::detach(format!("e{what}"))).unwrap();
                    let world = model.world(what);
                    model.parents[what] = None;
                    model.put(what, world);
                }
                Deed::Place(what, position, turn) => {
                    let pose = Pose { position, rotation: DQuat::from_rotation_y(turn) };
                    play.place(format!("e{what}"), pose).unwrap();
                    model.put(what, pose);
                }
                Deed::Home(what) => {
                    play.act(Action::move_home(format!("e{what}"))).unwrap();
                    model.put(what, home(what));
                }
            }
            for event in events(&play_until(&mut play, (step + 1) as f64 * 0.01)) {
                if let Some(who) = event.who {
                    prop_assert_eq!(inside[who.index()], event.kind == EventKind::Exit);
                    inside[who.index()] = !inside[who.index()];
                }
            }
            for (index, inside) in inside.into_iter().enumerate() {
                let (got, expected) = (play.pose(format!("e{index}")).unwrap(), model.world(index));
                prop_assert!(got.position.distance(expected.position) < 1e-9);
                let depth = 3.0 - expected.position.abs().max_element();
                // Near the border rounding decides.
                prop_assert!(inside == (depth > -0.1) || depth.abs() < 0.1001, "{} {}", index, depth);
            }
        }
    }
}

#[test]
fn who_holds_something_is_not_touched_by_it() {
    let plate = Entity::new("plate").at([0.0, 0.0, 5.0]).solid(Shape::Box { size: [1.0; 3] });
    let scene = yard().entity(plate.touch(Touch::default())).build().unwrap();
    let mut play = Play::new(scene);
    play.place("ball", [0.0, 0.0, 5.0]).unwrap();
    let entries = play_until(&mut play, 1.0);
    assert_eq!(words(&play, &entries), ["touch plate ball teleport"]);
    play.act(Action::attach("plate", "ball")).unwrap();
    let entries = play_until(&mut play, 2.0);
    assert_eq!(words(&play, &entries), ["untouch plate ball enable"]);
    play.act(Action::detach("plate")).unwrap();
    let entries = play_until(&mut play, 3.0);
    assert_eq!(words(&play, &entries), ["touch plate ball enable"]);
}

/// A ball with a stat in a zone that changes it while it is detected there.
fn aura() -> Play {
    let scene = yard()
        .entity(
            Entity::new("guest")
                .body(ball(0.1))
                .stat("might", Stat { start: 4.0, ..Stat::default() }),
        )
        .effect(Effect::new("aura").alter("might", Alter::times(3.0)).while_detected())
        .reaction(Reaction::on(Trigger::enter("pad")).then(Action::effect("aura", "who")))
        .build()
        .unwrap();
    Play::new(scene)
}

fn might(play: &Play) -> f64 {
    play.facts().stat(play.scene().find("guest").unwrap(), "might").unwrap()
}

#[test]
fn what_lasts_while_detected_ends_however_the_detection_ends() {
    let end = |end: &dyn Fn(&mut Play)| {
        let mut play = aura();
        play_until(&mut play, 1.0);
        assert_eq!(might(&play), 12.0);
        end(&mut play);
        play_until(&mut play, 2.0);
        might(&play)
    };
    assert_eq!(end(&|play| play.place("guest", [9.0; 3]).unwrap()), 4.0);
    assert_eq!(end(&|play| play.act(Action::disable("pad")).unwrap()), 4.0);
    assert_eq!(end(&|play| play.act(Action::detect("pad", false)).unwrap()), 4.0);
    assert_eq!(end(&|play| play.act(Action::disable("guest")).unwrap()), 4.0);
    assert_eq!(end(&|play| play.remove("guest").unwrap()), 4.0);
    assert_eq!(end(&|play| play.remove("pad").unwrap()), 4.0);
    assert_eq!(end(&|play| play.act(Action::hide("pad")).unwrap()), 12.0, "hidden is not gone");
}

#[test]
fn what_ends_with_a_detection_cannot_begin_without_one() {
    let scene = yard()
        .entity(Entity::new("guest").stat("might", Stat::default()))
        .effect(Effect::new("aura").alter("might", Alter::add(3.0)).while_detected())
        .reaction(Reaction::on(Trigger::cue("go")).then(Action::effect("aura", "guest")))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.act(Action::cue("go")).unwrap();
    let entries = play_until(&mut play, 1.0);
    let refused = entries.iter().filter_map(|entry| match &entry.what {
        Happening::Refused { why, .. } => Some(why.is_mistake()),
        _ => None,
    });
    assert_eq!(refused.collect::<Vec<_>>(), [true]);
}

#[test]
fn prompts_need_stats_and_counts_of_whoever_uses_them() {
    let needs = Needs {
        stats: [("might".into(), 3.0)].into(),
        own_counts: [("keys".into(), 1)].into(),
        ..Needs::default()
    };
    let player = Entity::new("miller").player(true).body(ball(0.3));
    let scene = yard()
        .entity(player.at([0.0, 0.0, 20.0]).stat("might", Stat { start: 2.0, ..Stat::default() }))
        .entity(
            Entity::new("stone").at([0.0, 0.0, 21.0]).prompt(Prompt { needs, ..Prompt::default() }),
        )
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play_until(&mut play, 0.5);
    let who = play.scene().find("miller").unwrap();
    let mut press = |until: f64| {
        play.schedule(play.now(), Input::Press { who, key: "KeyE".into() }).unwrap();
        let entries = play.advance(Time::from_secs(until)).to_vec();
        play.schedule(play.now(), Input::Release { who, key: "KeyE".into() }).unwrap();
        let events = events(&entries);
        let prompt = Some(hazuro::scene::Detector::Prompt);
        let used = events
            .into_iter()
            .find(|event| event.kind.detector() == prompt && !event.kind.is_opening());
        let next = if used.as_ref().is_some_and(|it| it.need.as_deref() == Some("keys")) {
            Action::add_to("miller", "keys", 1)
        } else {
            Action::stat("miller", "might", hazuro::scene::Change::Add(1.0))
        };
        play.act(next).unwrap();
        used.map(|event| (event.kind.word(), event.need))
    };
    assert_eq!(press(1.0), Some(("refused", Some("keys".into()))));
    assert_eq!(press(2.0), Some(("refused", Some("might".into()))));
    assert_eq!(press(3.0), Some(("accept", None)));
}

#[test]
fn what_was_attached_leaves_when_a_reset_puts_it_back_into_stock() {
    let scene = Scene::builder("Yard")
        .kind(Kind::new("leaf").body(ball(0.3)).stock(1))
        .entity(Entity::new("slot").zone(cube(2.0)))
        .entity(Entity::new("cart").at([9.0, 0.0, 0.0]))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.act(Action::spawn("leaf", "slot")).unwrap();
    play.act(Action::attach("leaf#1", "cart")).unwrap();
    play.advance(Time::from_secs(1.0));
    let leaf = play.scene().entity_id("leaf#1").unwrap();
    assert_eq!(play.occupants("slot").unwrap(), [leaf]);
    play.act(Action::reset("cart")).unwrap();
    let left = play.advance(Time::from_secs(2.0)).iter().filter_map(Entry::event);
    let left: Vec<_> = left.map(|event| (event.kind, event.who, event.cause)).collect();
    assert_eq!(left, [(EventKind::Exit, Some(leaf), Some(Cause::Remove))]);
    play.state().assert_consistent(play.scene());
}
