//! Saving and loading: a play goes on as if it had never been saved, in a scene that may have grown.

use crate::driver::world;
use crate::support;

use std::sync::Arc;

use hazuro::glam::DVec3;
use hazuro::scene::{
    Action, Admit, Alter, Effect, Entity, Facts, Kind, Limits, Reaction, SceneBuilder, Stat,
    Trigger,
};
use hazuro::{Chance, Entry, Input, LoadError, Play, Scene, Time};
use proptest::prelude::*;
use support::{ball, cube, play_until, words};

/// A play of a world of its seed in which somebody is sent somewhere now and then.
fn busy(scene: &Arc<Scene>, seed: u64) -> Play {
    let mut play = Play::new(scene.clone());
    let mut chance = Chance::new(seed);
    for quarter in 0..12 {
        let place = DVec3::from_array([0; 3].map(|_: i32| chance.around(4.0)));
        let who = world::NAMES[(chance.next() * 5.0) as usize];
        let who = scene.entity_id(who).unwrap();
        let time = Time::from_secs(f64::from(quarter) * 0.25);
        let until = time + Time::from_secs(0.2);
        play.schedule(time, Input::Drive { who, to: place.into(), until }).unwrap();
    }
    play
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn loading_is_putting_back_the_state(seed in any::<u64>(), at in 0.0..3.0_f64) {
        let scene = world::world(seed);
        let until = Time::from_secs(3.0);
        let mut play = busy(&scene, seed);
        play.advance(Time::from_secs(at));
        let saved = play.save();
        let mut put_back = Play::new(scene.clone());
        prop_assert_eq!(put_back.restore(play.state().clone()), Ok(()));
        let mut later = Play::new(scene);
        prop_assert_eq!(later.load(&saved), Ok(()));
        prop_assert_eq!(later.save(), saved, "what is loaded is what was saved");
        prop_assert_eq!(later.advance(until), put_back.advance(until));
        prop_assert_eq!(later.state(), put_back.state());
    }

    #[test]
    fn a_saved_play_goes_on_as_if_it_had_never_been_saved(seed in any::<u64>(), at in 0.0..4.0_f64) {
        let until = Time::from_secs(4.0);
        let mut never = Play::new(crowd());
        let mut chance = Chance::new(seed);
        for step in 0..40 {
            let who = never.scene().entity_id(["ball", "cub", "hen"][step % 3]).unwrap();
            let place = DVec3::from_array([0; 3].map(|_: i32| chance.around(3.0)));
            let time = Time::from_secs(step as f64 * 0.1);
            let until = time + Time::from_secs(0.25);
            let drive = Input::Drive { who, to: place.into(), until };
            never.schedule(time, drive).unwrap();
        }
        never.advance(Time::from_secs(at));
        let mut later = Play::new(crowd());
        prop_assert_eq!(later.load(&never.save()), Ok(()));
        let wanted: Vec<Entry> = never.advance(until).to_vec();
        prop_assert_eq!(later.advance(until), wanted);
        prop_assert_eq!(later.state(), never.state());
    }

    #[test]
    fn what_is_damaged_is_refused_and_changes_nothing(
        seed in any::<u64>(),
        at in any::<prop::sample::Index>(),
        bit in 0..8_u32,
    ) {
        let scene = world::world(seed);
        let mut play = busy(&scene, seed);
        play.advance(Time::from_secs(1.0));
        let saved = play.save();
        let mut other = Play::new(scene);
        let before = other.state().clone();
        let place = at.index(saved.len());
        prop_assert!(other.load(&saved[..place]).is_err(), "cut off at {place}");
        let mut damaged = saved.clone();
        damaged[place] ^= 1 << bit;
        // Another form of the same number, at most, is taken.
        let taken = other.load(&damaged).is_ok();
        prop_assert_eq!(other.state(), if taken { play.state() } else { &before });
        let longer = [&saved[..], &[0]].concat();
        prop_assert!(matches!(other.load(&longer), Err(LoadError::Damaged(_))));
    }
}

/// A yard with a ball in a pad, an effect of its stay, and something that waits.
fn yard(more: impl FnOnce(SceneBuilder) -> SceneBuilder) -> Scene {
    let health = Stat { start: 5.0, least: 0.0, most: 9.0 };
    let start = Scene::builder("Yard").kind(Kind::new("reed").stock(3).body(ball(0.2)));
    let ball = Entity::new("ball").tags(["red"]).stat("health", health).body(ball(0.5));
    let pad = Entity::new("pad").zone(cube(2.0)).admit(Admit::tags(["red"]));
    let later = Reaction::on(Trigger::enter("pad"))
        .named("later")
        .after(1.0)
        .then(Action::add("visits", 1))
        .then(Action::spawn("reed", "pad"));
    more(start.entity(ball).entity(pad)).reaction(later).build().unwrap()
}

/// The yard with more that comes and goes.
fn crowd() -> Scene {
    yard(|scene| {
        let hall = Entity::new("hall")
            .at([2.0, 0.0, 0.0])
            .zone(cube(3.0))
            .limits(Limits { cooldown: 0.3, ..Limits::default() });
        let gate = Entity::new("gate").at([-2.0, 0.0, 0.0]).zone(cube(1.0));
        let stroll = Reaction::on(Trigger::enter("hall")).then(Action::hurt("ball", 0.5));
        let bleed = Effect::new("bleed").alter("health", Alter::rate(-0.3)).seconds(0.7);
        let slide = Action::move_by("gate", [0.0, 1.0, 0.0]).over(0.6);
        let open = Reaction::on(Trigger::enter("gate")).then(slide);
        let bite = Reaction::on(Trigger::exit("hall")).then(Action::effect("bleed", "ball"));
        let scene = scene.entity(hall).entity(gate);
        let scene = scene.entity(Entity::new("cub").tags(["red"]).body(ball(0.3)));
        let scene = scene.entity(Entity::new("hen").at([4.0, 0.0, 0.0]).body(ball(0.2)));
        scene.effect(bleed).reaction(stroll).reaction(open).reaction(bite)
    })
}

#[test]
fn a_scene_that_has_grown_goes_on_from_what_was_saved() {
    let mut play = Play::new(yard(|scene| scene));
    play.act(Action::spawn("reed", "ball")).unwrap();
    play.act(Action::hurt("ball", 2.0)).unwrap();
    play_until(&mut play, 0.5);
    let saved = play.save();
    let rest = play_until(&mut play, 2.0);
    let wanted = words(&play, &rest);

    // Something before all others, with a tag, a stat and a reaction of its own, and another kind.
    let grown = || {
        let health = Stat { start: 1.0, least: 0.0, most: 9.0 };
        let moth = Entity::new("aaa_moth").tags(["blue"]).stat("wings", health);
        let moth = moth.at([9.0, 0.0, 0.0]).body(ball(0.1));
        let tell = Reaction::on(Trigger::exit("pad")).named("tell").then(Action::add("left", 1));
        let first = Scene::builder("Yard").kind(Kind::new("aaa").stock(2)).entity(moth);
        let whole = yard(|scene| scene);
        let of = |name: &str| whole.entity(whole.entity_id(name).unwrap()).clone();
        let scene = first.kind(whole.kinds()[0].clone().stock(5));
        let scene = scene.entity(of("pad")).entity(of("ball")).reaction(tell);
        scene.reaction(whole.reactions()[0].clone()).build().unwrap()
    };
    let mut later = Play::new(grown());
    later.load(&saved).unwrap();
    assert_eq!(later.now(), Time::from_secs(0.5));
    let rest = play_until(&mut later, 2.0);
    assert_eq!(words(&later, &rest), wanted);
    assert_eq!((later.count("visits"), play.count("visits")), (1, 1));
    let health = |play: &Play| play.facts().stat(play.scene().entity_id("ball").unwrap(), "health");
    assert_eq!((health(&later), health(&play)), (Some(3.0), Some(3.0)));
    // What comes next works on both: the stock is known, and so is who is inside.
    later.act(Action::spawn("reed", "pad")).unwrap();
    later.place("ball", [9.0, 0.0, 0.0]).unwrap();
    play_until(&mut later, 3.0);
    assert_eq!(later.count("left"), 1);
    later.state().assert_consistent(later.scene());
}

#[test]
fn what_came_into_the_play_is_saved_with_it() {
    let late = || {
        let stone = Entity::new("stone").body(ball(0.1)).tags(["late"]);
        [stone, Entity::new("mat").at([9.0, 0.0, 0.0]).zone(cube(1.0))]
    };
    let mut play = Play::new(yard(|scene| scene));
    play.step();
    play.add_all(late()).unwrap();
    let reeds: Vec<_> = (0..5).map(|_| play.spawn("reed", [9.0, 0.0, 0.0]).unwrap()).collect();
    play_until(&mut play, 0.5);
    assert_eq!(play.occupants("mat").unwrap(), reeds);
    let saved = play.save();

    let mut later = Play::new(yard(|scene| scene));
    let missing = later.load(&saved).unwrap_err();
    let names = vec!["stone".into(), "mat".into()];
    assert_eq!(missing, LoadError::Missing { what: "entity", names });
    // One by one, and then the stock that was made larger: it is the same.
    for entity in late() {
        later.add(entity).unwrap();
    }
    assert_eq!(later.load(&saved), Ok(()));
    assert_eq!(later.state(), play.state());
    later.state().assert_consistent(later.scene());
    assert_eq!(play.spawn("reed", [0.0; 3]), later.spawn("reed", [0.0; 3]));
    assert_eq!(play_until(&mut play, 1.0), play_until(&mut later, 1.0));

    // After an update of the game they are built in.
    let built = |scene: SceneBuilder| late().into_iter().fold(scene, SceneBuilder::entity);
    let mut updated = Play::new(yard(built));
    assert_eq!(updated.load(&saved), Ok(()));
    updated.state().assert_consistent(updated.scene());
    let occupants = updated.occupants("mat").unwrap();
    let names: Vec<&str> = occupants.iter().map(|who| updated.scene().name(*who)).collect();
    assert_eq!(names, ["reed#1", "reed#2", "reed#3", "reed#4", "reed#5"]);
}

#[test]
fn what_the_scene_lacks_is_named() {
    let saved = Play::new(yard(|scene| scene)).save();
    let load = |scene: SceneBuilder| Play::new(scene.build().unwrap()).load(&saved);
    let missing = load(Scene::builder("Yard").entity(Entity::new("ball"))).unwrap_err();
    assert_eq!(
        missing.to_string(),
        "the scene has not got what was saved: the entity `pad`, `reed#1`, `reed#2` and 1 more"
    );
    // Reactions without names go by their order, so there must be as many.
    let nameless = |times: usize| {
        let one = || Reaction::on(Trigger::cue("go")).then(Action::add("n", 1));
        let scene = (0..times).fold(Scene::builder("Yard"), |scene, _| scene.reaction(one()));
        Play::new(scene.build().unwrap())
    };
    let saved = nameless(2).save();
    assert_eq!(nameless(2).load(&saved), Ok(()));
    let other = nameless(3).load(&saved);
    assert_eq!(other, Err(LoadError::Nameless { saved: 2, there: 3 }));
}

#[test]
fn any_format_of_serde_will_do() {
    let mut play = Play::new(yard(|scene| scene));
    play_until(&mut play, 0.5);
    let mut text = Vec::new();
    play.save_with(&mut serde_json::Serializer::new(&mut text)).unwrap();
    let mut later = Play::new(yard(|scene| scene));
    later.load_with(&mut serde_json::Deserializer::from_slice(&text)).unwrap();
    assert_eq!(later.state(), play.state());
    // Another version is told apart from damage.
    let mut value: serde_json::Value = serde_json::from_slice(&text).unwrap();
    value[0] = u32::MAX.into();
    assert_eq!(later.load_with(value), Err(LoadError::Version { found: u32::MAX }));
    let odd = later.load_with(serde_json::json!({ "a": 1 }));
    assert!(matches!(odd, Err(LoadError::Damaged(_))), "{odd:?}");
    // An id means nothing alone.
    let id = serde_json::from_str::<hazuro::EntityId>("0").unwrap_err();
    assert!(id.to_string().contains("only in a play that is loaded"), "{id}");
}
