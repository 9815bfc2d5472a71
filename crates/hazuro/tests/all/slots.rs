//! Slots and formulas: one reaction for all of a kind, each with its own target and its own numbers.

use crate::support;

use std::f64::consts::FRAC_PI_2;

use hazuro::geometry::Shape;
use hazuro::scene::{
    Action, Body, Change, Entity, Facts, Fault, Formula, Kind, Reaction, SceneBuilder, Slot,
    SlotSort, SlotValue, Stat, Trigger,
};
use hazuro::{Entry, Happening, Life, Play, Problem, Scene, Time};
use proptest::prelude::*;
use support::{at, ball, cube, play_until, problems};

/// What is in a slot of the detector, as a number.
fn own(slot: &'static str) -> Formula {
    Formula::fallible(format!("on.slot.{slot}"), move |facts| {
        match facts.on().and_then(|on| facts.slot(on, slot)) {
            Some(SlotValue::Number(number)) => Ok(number),
            other => Err(format!("there is {other:?} in it")),
        }
    })
}

/// Ten gates of one kind, each opened by its own pad after its own time.
fn weir() -> SceneBuilder {
    let pad = Kind::new("pad").zone(cube(1.0)).slot("delay", 0.5);
    let mut scene = Scene::builder("Weir")
        .kind(pad.needs_slot("gate", SlotSort::Entity))
        .entity(Entity::new("ball").at([-1.0, 0.0, 0.0]).body(ball(0.1)));
    for number in 0..10 {
        let (gate, place) = (format!("gate {number}"), f64::from(number) * 2.0);
        let pad = Entity::new(format!("pad {number}")).kind("pad").at([place, 0.0, 0.0]);
        // The last of them waits as long as its kind does.
        let pad = match number {
            9 => pad,
            _ => pad.slot("delay", 2.0 - f64::from(number) * 0.2),
        };
        scene = scene
            .entity(pad.slot("gate", gate.as_str()))
            .entity(Entity::new(gate).at([place, 0.0, 5.0]).solid(Shape::Box { size: [1.0; 3] }));
    }
    scene
}

/// When each gate came to be moved, by its number.
fn opened(play: &Play, entries: &[Entry]) -> Vec<(String, f64)> {
    let moved = entries.iter().filter_map(|entry| match &entry.what {
        Happening::Did { time, action: Action::Move(movement), .. } => {
            Some((play.scene().name(movement.what).to_owned(), time.secs()))
        }
        _ => None,
    });
    moved.collect()
}

#[test]
fn each_of_a_kind_has_its_own_target_and_its_own_time() {
    let open = Reaction::on(Trigger::enter("kind:pad"))
        .after(own("delay"))
        .then(Action::move_by("on.slot.gate", [0.0, 1.0, 0.0]))
        .then(Action::say("open"));
    let scene = weir().reaction(open).text("open", "{on.slot.gate} after {on.slot.delay} s");
    let mut play = Play::new(scene.build().unwrap());
    let ball = play.scene().find("ball").unwrap();
    let drive = hazuro::Input::Drive {
        who: ball,
        to: [19.0, 0.0, 0.0].into(),
        until: Time::from_secs(2.0),
    };
    play.schedule(Time::ZERO, drive).unwrap();
    let entries = play_until(&mut play, 5.0);
    let mut wanted: Vec<(String, f64)> = (0..10)
        .map(|number| {
            // 10 m a second; it is in the pad when it is 0.6 m from its middle.
            let entered = (f64::from(number) * 2.0 + 1.0 - 0.6) / 10.0;
            let delay = if number == 9 { 0.5 } else { 2.0 - f64::from(number) * 0.2 };
            (format!("gate {number}"), entered + delay)
        })
        .collect();
    wanted.sort_by(|one, other| one.1.total_cmp(&other.1));
    let opened = opened(&play, &entries);
    assert_eq!(opened.len(), 10);
    for ((gate, time), (wanted, due)) in opened.iter().zip(&wanted) {
        assert_eq!(gate, wanted);
        assert!((time - due).abs() < 1e-6, "{gate} at {time}, not {due}");
    }
    let says = |entry: &Entry| match &entry.what {
        Happening::Said { text, .. } => text == "gate 9 after 0.5 s",
        _ => false,
    };
    assert!(entries.iter().any(says));
    assert_eq!(at(&play, "gate 9").y, 1.0);
    assert!(problems(&entries).is_empty());
}

#[test]
fn a_slot_of_a_named_entity_and_of_the_subject_is_meant_too() {
    let lamp = |name| Entity::new(name).solid(Shape::Sphere { radius: 0.1 });
    let scene = Scene::builder("Yard")
        .entity(lamp("red"))
        .entity(lamp("blue"))
        .entity(lamp("green"))
        .entity(Entity::new("post").slot("lamp", SlotValue::entity("red")))
        .entity(Entity::new("pad").zone(cube(1.0)).slot("lamp", SlotValue::entity("blue")))
        .entity(
            Entity::new("ball")
                .at([5.0, 0.0, 0.0])
                .body(ball(0.1))
                .slot("lamp", SlotValue::entity("green")),
        )
        .reaction(
            Reaction::on(Trigger::enter("pad"))
                .then(Action::disable("post.slot.lamp"))
                .then(Action::hide("on.slot.lamp"))
                .then(Action::attach("who.slot.lamp", "on.slot.lamp")),
        );
    let mut play = Play::new(scene.build().unwrap());
    play.place("ball", [0.0; 3]).unwrap();
    play.step();
    let facts = play.facts();
    let [red, blue, green] = ["red", "blue", "green"].map(|name| play.scene().find(name).unwrap());
    assert!(!facts.is_enabled(red) && facts.is_enabled(blue));
    assert!(!facts.is_visible(blue));
    assert_eq!(facts.parent(green), Some(blue));
    drop(facts);
    // The host may say it, too; nobody is part of what it does.
    play.act(Action::enable("post.slot.lamp")).unwrap();
    play.step();
    assert!(play.facts().is_enabled(red));
    let nobody = play.act(Action::enable("on.slot.lamp")).unwrap_err();
    assert!(matches!(nobody, Fault::NobodyMeant { .. }), "{nobody:?}");
}

#[test]
fn every_number_of_an_action_may_be_a_formula() {
    let half = |_: &dyn Facts| 0.5;
    let number = || Formula::new("half", half);
    let legs = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
    let thing = |name: &str| Entity::new(name).solid(Shape::Sphere { radius: 0.1 });
    let scene = Scene::builder("Yard")
        .entity(thing("moved"))
        .entity(thing("turned"))
        .entity(thing("faced"))
        .entity(thing("led"))
        .entity(thing("there").at([1.0, 0.0, 0.0]))
        .entity(
            Entity::new("ada")
                .body(legs)
                .at([0.0, 0.0, 20.0])
                .stat("health", Stat { start: 9.0, ..Stat::default() }),
        )
        .reaction(
            Reaction::on(Trigger::Start)
                .then(Action::move_by("moved", [0.5; 3].map(|_| number())).over(number()))
                .then(Action::turn("turned", Formula::new("quarter", |_| FRAC_PI_2)).over(number()))
                .then(Action::face("faced", "there").rate(number()))
                .then(Action::lead("led", ["there"]).rate(number()))
                .then(Action::add("n", Formula::new("three", |_| 3.0)))
                .then(Action::stat("ada", "health", Change::Add(number())))
                .then(Action::hurt("ada", number()))
                .then(Action::wait(number()))
                .then(Action::cue("waited")),
        )
        .reaction(
            Reaction::on(Trigger::cue("waited"))
                .every(number())
                .times(3)
                .then(Action::add("rounds", 1)),
        );
    let mut play = Play::new(scene.build().unwrap());
    let entries = play_until(&mut play, 0.25);
    assert_eq!(problems(&entries), []);
    assert!((at(&play, "moved").x - 0.25).abs() < 1e-9);
    assert!((at(&play, "led").x - 0.125).abs() < 1e-9);
    let turned = play.pose("turned").unwrap().rotation.to_scaled_axis().y;
    assert!((turned - FRAC_PI_2 / 2.0).abs() < 1e-9);
    let ada = play.scene().find("ada").unwrap();
    assert_eq!(play.facts().stat(ada, "health"), Some(9.0));
    assert_eq!((play.count("n"), play.count("rounds")), (3, 0));
    play_until(&mut play, 1.4);
    assert_eq!(play.count("rounds"), 2, "at 0.5 s and at 1 s");
    play_until(&mut play, 9.0);
    assert_eq!(play.count("rounds"), 3);
    assert_eq!(at(&play, "moved").to_array(), [0.5; 3]);
}

#[test]
fn a_period_is_worked_out_anew_at_each_beginning() {
    let longer = Formula::new("count.rounds + 1", |facts| facts.count("rounds") as f64 + 1.0);
    let scene = Scene::builder("Yard")
        .reaction(Reaction::on(Trigger::Start).every(longer).then(Action::add("rounds", 1)));
    let mut play = Play::new(scene.build().unwrap());
    // At 0, then after 1, 2, 3 s.
    for (time, rounds) in [(0.5, 1), (1.1, 2), (2.9, 2), (3.1, 3), (5.9, 3), (6.1, 4)] {
        play_until(&mut play, time);
        assert_eq!(play.count("rounds"), rounds, "at {time} s");
    }
}

#[test]
fn a_formula_without_a_fitting_value_is_told_and_the_play_goes_on() {
    let bad = |value: f64| Formula::new("bad", move |_| value);
    let none = || Formula::fallible("none", |_| Err("there is none".into()));
    let on_cue = |cue: &str| Reaction::on(Trigger::cue(cue));
    let scene = Scene::builder("Yard")
        .entity(Entity::new("gate"))
        .reaction(on_cue("after").after(bad(-1.0)).then(Action::add("n", 1)))
        .reaction(on_cue("every").every(bad(0.0)).then(Action::add("once", 1)))
        .reaction(
            on_cue("wait")
                .then(Action::add("m", 1))
                .then(Action::wait(none()))
                .then(Action::add("m", 1)),
        )
        .reaction(
            on_cue("act")
                .then(Action::move_by("gate", [bad(f64::NAN), bad(0.0), bad(0.0)]))
                .then(Action::add("whole", bad(0.5)))
                .then(Action::add("done", 1)),
        );
    let mut play = Play::new(scene.build().unwrap());
    let mut entries = Vec::new();
    for cue in ["after", "every", "wait", "act"] {
        play.act(Action::cue(cue)).unwrap();
        entries.extend_from_slice(play.step());
    }
    entries.extend(play_until(&mut play, 5.0));
    let told: Vec<String> =
        problems(&entries).iter().map(|problem| problem.describe(play.scene())).collect();
    let wanted = [
        "`after` could not be worked out: `bad`: it gives -1, which is not 0, or a number of",
        "`every` could not be worked out: `bad`: it gives 0, which is not a number of seconds",
        "`wait` could not be worked out: `none`: there is none",
        "`bad`: it gives NaN, which is not a coordinate",
        "`bad`: it gives 0.5, which is not a whole number",
    ];
    assert_eq!(told.len(), wanted.len(), "{told:#?}");
    for (told, wanted) in told.iter().zip(wanted) {
        assert!(told.starts_with(wanted), "{told}");
    }
    let counts = ["n", "once", "m", "whole", "done"].map(|name| play.count(name));
    assert_eq!(counts, [0, 1, 1, 0, 1]);
    assert!(play.running().is_empty());
}

#[test]
fn what_is_wrong_with_a_slot_is_said_where_it_stands() {
    let kind = Kind::new("pad").zone(cube(1.0)).needs_slot("gate", SlotSort::Entity);
    let scene = Scene::builder("Yard")
        .kind(kind.slot("delay", f64::INFINITY).slot("lamp", SlotValue::entity("lmap")))
        .entity(Entity::new("lamp").slot("n", 1.0))
        .entity(Entity::new("one").kind("pad").slot("gaet", "lamp"))
        .entity(Entity::new("two").kind("pad").slot("gate", "lapm").slot("delay", "long"))
        .reaction(
            Reaction::on(Trigger::enter("kind:pad"))
                .then(Action::hide("on.slot.gte"))
                .then(Action::hide("lamp.slot.n"))
                .then(Action::hide("kind:pad.slot.gate"))
                .then(Action::grab("on.slot.lamp", "who")),
        );
    let errors = scene.build().unwrap_err();
    let told: Vec<String> =
        errors.iter().map(|error| format!("{}: {}", error.field, error.fault)).collect();
    let wanted = [
        "kind.pad.slots.delay: inf is not a number from -1e15",
        "kind.pad.slots.lamp.entity: there is no entity named `lmap`",
        "entity[1].slots.gaet: the kind `pad` has no slot `gaet`",
        "entity[2].slots.delay: the slot `delay` is for a number, and this is a text",
        "entity[2].slots.gate: there is no entity named `lapm`",
        "reaction[0].do[0].hide: there is no slot named `gte`",
        "reaction[0].do[1].hide: the slot `n` of `lamp` has a number in it, and an entity is needed",
        "reaction[0].do[2].hide: `kind:pad` means several, and this can only be one",
    ];
    assert_eq!(told.len(), wanted.len(), "{told:#?}");
    for (told, wanted) in told.iter().zip(wanted) {
        assert!(told.starts_with(wanted), "{told}");
    }
    assert!(Scene::builder("Yard").entity(Entity::new("on.slot.x")).build().is_err());
}

#[test]
fn whoever_is_in_a_slot_must_be_able_to_do_it() {
    let pad = Kind::new("pad").zone(cube(1.0)).needs_slot("thing", SlotSort::Entity);
    let scene = Scene::builder("Yard")
        .kind(pad)
        .entity(Entity::new("rock"))
        .entity(Entity::new("ball").body(ball(0.1)))
        .entity(Entity::new("mat").kind("pad").slot("thing", "rock"))
        .reaction(
            Reaction::on(Trigger::enter("kind:pad")).then(Action::walk("on.slot.thing", "ball")),
        );
    let errors = scene.build().unwrap_err();
    let fault = &errors.iter().next().unwrap().fault;
    assert_eq!(fault.to_string(), "`walk` needs legs to walk with, and `rock` has none");
}

#[test]
fn an_empty_slot_is_told_when_it_is_needed() {
    let pad = Kind::new("pad").zone(cube(1.0)).needs_slot("gate", SlotSort::Entity);
    let scene = Scene::builder("Yard")
        .kind(pad)
        .entity(Entity::new("mat").kind("pad"))
        .entity(Entity::new("ball").at([5.0, 0.0, 0.0]).body(ball(0.1)))
        .reaction(
            Reaction::on(Trigger::enter("kind:pad"))
                .then(Action::hide("on.slot.gate"))
                .then(Action::add("n", 1)),
        );
    let mut play = Play::new(scene.build().unwrap());
    play.place("ball", [0.0; 3]).unwrap();
    let entries = play.step().to_vec();
    let slot = |fault: &Fault| matches!(fault, Fault::Slot { name, is: None, .. } if name == "mat");
    assert!(matches!(problems(&entries).as_slice(), [Problem::BadAction(fault)] if slot(fault)));
    assert_eq!(play.count("n"), 1, "the rest is done");
}

#[test]
fn what_comes_later_brings_its_slots_along() {
    let open = Reaction::on(Trigger::enter("kind:pad"))
        .after(own("delay"))
        .then(Action::hide("on.slot.gate"));
    let mut play = Play::new(weir().reaction(open).build().unwrap());
    let mat = Entity::new("mat").kind("pad").at([-20.0, 0.0, 0.0]);
    let wrong = play.add(mat.clone().slot("gaet", "gate 1")).unwrap_err();
    assert_eq!(
        wrong.to_string().lines().last(),
        Some("entity[0].slots.gaet: the kind `pad` has no slot `gaet`")
    );
    play.add(mat.slot("gate", "gate 1").slot("delay", 0.25)).unwrap();
    play.place("ball", [-20.0, 0.0, 0.0]).unwrap();
    let gate = play.scene().find("gate 1").unwrap();
    play_until(&mut play, 0.24);
    assert!(play.facts().is_visible(gate));
    play_until(&mut play, 0.3);
    assert!(!play.facts().is_visible(gate));
}

#[test]
fn going_back_and_loading_keep_a_delay_that_was_worked_out() {
    let open = Reaction::on(Trigger::enter("kind:pad"))
        .after(own("delay"))
        .then(Action::hide("on.slot.gate"));
    let scene = std::sync::Arc::new(weir().reaction(open).build().unwrap());
    let mut play = Play::new(scene.clone());
    play.place("ball", [0.0; 3]).unwrap();
    play_until(&mut play, 1.0);
    let (saved, state) = (play.save(), play.state().clone());
    let rest = play_until(&mut play, 4.0);
    let waits = |entry: &Entry| matches!(entry.what, Happening::Run { life: Life::Done, .. });
    assert!(rest.iter().any(waits));
    play.restore(state).unwrap();
    assert_eq!(play_until(&mut play, 4.0), rest);
    let mut later = Play::new(scene);
    later.load(&saved).unwrap();
    assert_eq!(play_until(&mut later, 4.0), rest);
}

fn any_value() -> impl Strategy<Value = SlotValue> {
    prop_oneof![
        (-9.0..9.0_f64).prop_map(SlotValue::Number),
        any::<bool>().prop_map(SlotValue::Flag),
        "[a-c]{0,2}".prop_map(SlotValue::Text),
        (0..4_usize).prop_map(|number| SlotValue::entity(format!("thing {number}"))),
    ]
}

fn any_slot() -> impl Strategy<Value = Slot> {
    let sort = (0..4_usize).prop_map(|it| Slot::Needed(SlotSort::ALL[it]));
    prop_oneof![3 => any_value().prop_map(Slot::Filled), 1 => sort]
}

proptest! {
    /// An entity has what it is given, else what its kind has; what its kind does not know, or what
    /// is of another sort, is refused.
    #[test]
    fn slots_are_those_of_a_plain_model(
        given in prop::collection::vec(prop::option::of(any_slot()), 3),
        own in prop::collection::vec(prop::option::of(any_value()), 3),
        of_kind in any::<bool>(),
    ) {
        const NAMES: [&str; 3] = ["a", "b", "c"];
        let mut kind = Kind::new("kind");
        for (name, slot) in NAMES.into_iter().zip(&given) {
            kind = match slot {
                Some(Slot::Filled(value)) => kind.slot(name, value.clone()),
                Some(Slot::Needed(sort)) => kind.needs_slot(name, *sort),
                None => kind,
            };
        }
        let mut entity = Entity::new("entity");
        for (name, value) in NAMES.into_iter().zip(&own) {
            entity = value.iter().fold(entity, |it, value| it.slot(name, value.clone()));
        }
        if of_kind {
            entity = entity.kind("kind");
        }
        let mut scene = Scene::builder("Yard").kind(kind).entity(entity);
        for number in 0..4 {
            scene = scene.entity(Entity::new(format!("thing {number}")));
        }
        let built = scene.build();

        let has_slots = of_kind && given.iter().any(Option::is_some);
        let mut wanted: Result<Vec<Option<SlotValue>>, ()> = Ok(Vec::new());
        for (given, own) in given.iter().zip(&own) {
            let given = given.as_ref().filter(|_| of_kind);
            let default = match given {
                Some(Slot::Filled(value)) => Some(value.clone()),
                _ => None,
            };
            let value = match (own, given) {
                (None, _) => Ok(default),
                (Some(_), None) if has_slots => Err(()),
                (Some(value), None) => Ok(Some(value.clone())),
                (Some(SlotValue::Text(name)), Some(slot)) if slot.sort() == SlotSort::Entity => {
                    // No entity has such a name.
                    let _ = name;
                    Err(())
                }
                (Some(value), Some(slot)) if value.sort() == slot.sort() => Ok(Some(value.clone())),
                (Some(_), Some(_)) => Err(()),
            };
            wanted = wanted.and_then(|mut all| {
                all.push(value?);
                Ok(all)
            });
        }
        prop_assert_eq!(built.is_ok(), wanted.is_ok(), "{:?}", built.err());
        let Ok(scene) = built else { return Ok(()) };
        let entity = scene.find("entity").unwrap();
        let named = |value: &SlotValue<hazuro::EntityId>| match value {
            SlotValue::Entity(id) => SlotValue::entity(scene.name(*id)),
            SlotValue::Number(number) => SlotValue::Number(*number),
            SlotValue::Text(text) => SlotValue::Text(text.clone()),
            SlotValue::Flag(flag) => SlotValue::Flag(*flag),
        };
        let found: Vec<_> = NAMES.iter().map(|name| scene.slot(entity, name).map(named)).collect();
        prop_assert_eq!(found, wanted.unwrap());
    }
}
