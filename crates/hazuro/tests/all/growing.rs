//! Entities that come into a play while it runs: as if they had been built in.

use hazuro::geometry::Shape;
use hazuro::scene::{
    Action, Admit, Body, Entity, EventKind, Fault, Footing, Grant, Kind, Pickup, Pointer, Probe,
    Prompt, Reaction, SceneBuilder, Seeker, Selector, Sight, Stat, Touch, Trigger, Zone,
};
use hazuro::{Button, Chance, EntityId, Entry, Happening, Input, Play, Problem, Scene, Spot, Time};
use proptest::prelude::*;

use super::driver::world::{may, place, within};
use super::support::{ball, cube, person, play_until, story, words, yard};

/// A yard with somebody in it, and reactions for what is of a kind, has a tag or is in a layer.
fn early(c: &mut Chance) -> SceneBuilder {
    let owl = Kind::new("owl").sight(Sight { notice: 0.1, ..Sight::default() });
    Scene::builder("Yard")
        .kind(Kind::new("pad").tags(["wet"]).layers(["ground"]).zone(cube(2.0).inside_every(0.3)))
        .kind(Kind::new("ball").body(ball(0.3)))
        .kind(owl.admit(Admit::tags(["person"])))
        .kind(Kind::new("lever").prompt(Prompt::default()))
        .kind(Kind::new("person").tags(["person"]).player(true).body(person()))
        .entity(Entity::new("ada").kind("person").at(place(c)).footing(Footing::default()))
        .entity(Entity::new("cart").kind("ball").at(place(c)))
        .entity(Entity::new("mat").kind("pad").at(place(c)))
        .entity(Entity::new("wall").at(place(c)).solid(Shape::Box { size: [2.0, 1.0, 0.2] }))
        .entity(Entity::new("handle").kind("lever").at(place(c)))
        .reaction(Reaction::on(Trigger::enter("kind:pad")).then(Action::add("entered", 1)))
        .reaction(
            Reaction::on(Trigger::enter("tag:wet"))
                .named("drip")
                .after(0.2)
                .then(Action::cue("drip"))
                .until(Trigger::exit("layer:ground")),
        )
        .reaction(
            Reaction::on(Trigger::of(EventKind::Enter, Selector::Any))
                .instead_of("drip")
                .when(hazuro::scene::Condition::new("count.entered > 3", |facts| {
                    facts.count("entered") > 3
                }))
                .then(Action::add("all", 1)),
        )
        .reaction(Reaction::on(Trigger::of(EventKind::Spot, "kind:owl")).then(Action::cue("spot")))
        .reaction(Reaction::on(Trigger::interact("kind:lever")).then(Action::toggle("wall")))
}

/// What comes later: some of everything that detects or is detected.
fn late(c: &mut Chance) -> Vec<Entity> {
    let hold = Prompt { hold: 0.1, reach: 9.0, ..Prompt::default() };
    let probe = Probe { to: [0.0, 0.2, -4.0], ..Probe::default() };
    let health = Stat { start: 9.0, least: 0.0, most: 10.0 };
    let mut all = vec![
        Entity::new("bo").kind("person").tags(["red"]),
        Entity::new("eye").parent("bo").at([0.0, 1.5, 0.0]).probe(probe),
        Entity::new("roof").parent("cart").at([0.0, 0.5, 0.0]).solid(Shape::Sphere { radius: 0.4 }),
        Entity::new("rug").kind("pad").layers(["air"]),
        Entity::new("pool").kind("pad").admit(Admit::tags(["red"])),
        Entity::new("gong")
            .touch(Touch { shape: Some(Shape::Sphere { radius: 1.0 }), ..Touch::default() }),
        Entity::new("watch").kind("owl"),
        Entity::new("cock").seeker(Seeker::default()).stat("health", health),
        Entity::new("wheel").prompt(hold),
        Entity::new("bell").solid(Shape::Box { size: [0.5; 3] }).pointer(Pointer::default()),
        Entity::new("apple").zone(cube(1.0)).pickup(Pickup {
            grant: Grant::default().count("apples", 1),
            back_after: Some(0.4),
            ..Pickup::default()
        }),
        Entity::new("stone").kind("ball").tags(["wet"]),
        Entity::new("mesh").body(Body::new(Shape::Hull {
            points: vec![[0.0; 3], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]],
        })),
    ];
    for entity in &mut all {
        if entity.parent_name().is_none() {
            *entity = entity.clone().at(place(c));
        }
    }
    all
}

/// Everybody walks, is driven, uses and points about, until a time; each play is told the same.
fn stir(play: &mut Play, c: &mut Chance) {
    let scene = play.scene();
    let who = |name: &str| scene.find(name);
    let mut inputs = Vec::new();
    for name in ["ada", "bo"] {
        let (what, to) = (c.next() * 4.0, place(c));
        let at = Spot::Pixel(within(c, 0.0, 1280.0), within(c, 0.0, 720.0));
        let Some(who) = who(name) else { continue };
        inputs.push(match what as u32 {
            0 => Input::Walk { who, to: to.into() },
            1 => Input::Press { who, key: "KeyE".into() },
            2 => Input::Point { who, at, button: Button::Click },
            _ => Input::Release { who, key: "KeyE".into() },
        });
    }
    for name in ["cart", "stone", "mesh", "rug", "watch"] {
        let (to, goes) = (place(c), may(c, 0.5));
        let Some(who) = who(name).filter(|_| goes) else { continue };
        let until = play.now() + Time::from_secs(0.3);
        inputs.push(Input::Drive { who, to: to.into(), until });
    }
    for input in inputs {
        play.schedule(play.now(), input).unwrap();
    }
}

/// What is the same in two plays that number things otherwise: events, and where all is. Of several
/// reasons at one instant, what is asked in rounds gives one of those that were near enough to matter,
/// which depends on how far ahead it knows the ways of others: so it is left out.
fn told(play: &Play, log: &[Entry], names: &[&str]) -> (Vec<(String, f64)>, Vec<String>, i64) {
    let poses = names.iter().map(|name| format!("{name} {:?}", play.pose(*name).unwrap()));
    let in_rounds = |words: &str| {
        !["enter", "exit", "touch", "untouch"].iter().any(|it| words.split(' ').next() == Some(it))
    };
    let events = story(play, log).into_iter().map(|(words, time)| {
        let bare = words.rsplit_once(' ').filter(|_| in_rounds(&words));
        (bare.map_or(words.clone(), |(bare, _)| bare.to_owned()), time)
    });
    (events.collect(), poses.collect(), play.count("entered"))
}

/// A play of a seed with all built in, one without those that come later, and these.
fn built_and_bare(c: &mut Chance) -> (Play, Play, Vec<Entity>) {
    let (scene, late) = (early(c), late(c));
    let built = late.iter().cloned().fold(scene.clone(), SceneBuilder::entity);
    let [built, bare] = [built, scene].map(|scene| Play::new(scene.build().unwrap()));
    (built, bare, late)
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::with_cases(60) })]

    #[test]
    fn what_is_added_before_the_start_is_as_built_in(seed in any::<u64>()) {
        let c = &mut Chance::new(seed);
        let (mut built, mut grown, late) = built_and_bare(c);
        grown.add_all(late).unwrap();
        prop_assert_eq!(grown.scene(), built.scene());
        let names: Vec<String> =
            built.scene().ids().map(|id| built.scene().name(id).to_owned()).collect();
        let names: Vec<&str> = names.iter().map(String::as_str).collect();
        for _ in 0..30 {
            let before = *c;
            stir(&mut built, c);
            stir(&mut grown, &mut before.clone());
            let until = built.now() + Time::from_secs(0.1);
            let logs = [&mut built, &mut grown].map(|play| play.advance(until).to_vec());
            prop_assert_eq!(told(&built, &logs[0], &names), told(&grown, &logs[1], &names));
            grown.state().assert_consistent(grown.scene());
        }
    }

    /// Built in, taken out before anything happens, and let in again when the others are added.
    #[test]
    fn what_is_added_and_removed_at_random_is_as_built_in(seed in any::<u64>()) {
        let c = &mut Chance::new(seed);
        let (mut built, mut grown, late) = built_and_bare(c);
        for entity in &late {
            built.remove(entity.name()).unwrap();
        }
        let until = Time::from_secs(0.05);
        let logs = [&mut built, &mut grown].map(|play| play.advance(until).to_vec());
        // Who stood in what was there for that instant has been pushed out of it.
        prop_assume!(["ada", "cart"].iter().all(|who| built.pose(*who) == grown.pose(*who)));
        prop_assert_eq!(story(&built, &logs[0]), story(&grown, &logs[1]));
        // In this order they get their numbers.
        let mut waiting = late.clone();
        waiting.reverse();
        let (mut there, mut out) = (Vec::<Entity>::new(), Vec::<Entity>::new());
        for _ in 0..40 {
            let mut coming = Vec::new();
            while may(c, 0.4) && let Some(entity) = waiting.pop() {
                coming.push(entity);
            }
            if may(c, 0.3) && !out.is_empty() {
                coming.push(out.remove((c.next() * out.len() as f64) as usize));
            }
            for entity in &coming {
                let what = built.scene().find(entity.name()).unwrap();
                built.schedule(built.now(), Input::Add { what, at: None }).unwrap();
            }
            grown.add_all(coming.clone()).unwrap();
            if may(c, 0.2) && !there.is_empty() {
                let goes = there.remove((c.next() * there.len() as f64) as usize);
                built.remove(goes.name()).unwrap();
                grown.remove(goes.name()).unwrap();
                out.push(goes);
            }
            there.extend(coming);
            let before = *c;
            stir(&mut built, c);
            // Those who are not there yet are told nothing; of them the other play says so.
            stir(&mut grown, &mut before.clone());
            let until = built.now() + Time::from_secs(0.1);
            let logs = [&mut built, &mut grown].map(|play| play.advance(until).to_vec());
            let names: Vec<&str> =
                grown.scene().ids().map(|id| grown.scene().name(id)).collect();
            prop_assert_eq!(told(&built, &logs[0], &names), told(&grown, &logs[1], &names));
            grown.state().assert_consistent(grown.scene());
        }
    }
}

fn added(play: &Play, log: &[Entry]) -> Vec<String> {
    let name = |id: EntityId| play.scene().name(id);
    let told = log.iter().filter_map(|entry| match entry.what {
        Happening::Added { what, .. } => Some(format!("+{}", name(what))),
        Happening::Removed { what, .. } => Some(format!("-{}", name(what))),
        _ => None,
    });
    told.collect()
}

#[test]
fn it_comes_in_with_the_next_step_and_can_be_told_at_once_where_to_go() {
    let mut play = Play::new(yard().build().unwrap());
    play.step();
    let stone = play.add(Entity::new("stone").at([-9.0, 0.0, 0.0]).body(ball(0.1))).unwrap();
    assert!(play.drive(stone, [0.0, 0.0, 0.0]).is_ok());
    let log = play_until(&mut play, 1.0);
    assert_eq!(added(&play, &log), ["+stone"]);
    assert_eq!(words(&play, &log), ["enter pad stone move"]);
    play.remove(stone).unwrap();
    let log = play_until(&mut play, 2.0);
    assert_eq!(added(&play, &log), ["-stone"]);
    assert_eq!(words(&play, &log), ["exit pad stone remove"]);
    assert!(matches!(play.drive(stone, [1.0; 3]), Err(Fault::NotInPlay { .. })));
}

#[test]
fn what_was_removed_comes_back_as_the_same_and_nothing_else_gets_its_name() {
    let mut play = Play::new(yard().build().unwrap());
    play.step();
    let stone = || Entity::new("stone").body(ball(0.1));
    let first = play.add(stone()).unwrap();
    let twice = play.add(stone()).unwrap_err();
    assert_eq!(twice.to_string(), "entity[0].name: there is already an entity named `stone`");
    play.step();
    assert_eq!(play.occupants("pad").unwrap(), [first]);
    assert!(play.add(stone()).is_err(), "it is in the play");
    play.remove("stone").unwrap();
    play.step();
    assert!(play.occupants("pad").unwrap().is_empty());
    let other = play.add(stone().at([0.1, 0.0, 0.0])).unwrap_err();
    assert!(matches!(other.iter().next().unwrap().fault, Fault::DescribedOtherwise { .. }));
    assert_eq!(play.add(stone()), Ok(first));
    assert_eq!(play.scene().len(), 3);
    play.step();
    assert_eq!(play.occupants("pad").unwrap(), [first]);
}

#[test]
fn what_is_wrong_with_several_adds_none_of_them() {
    let mut play = Play::new(yard().build().unwrap());
    play.step();
    let (before, state) = (play.scene().clone(), play.state().clone());
    let wrong = [
        Entity::new("one").tags(["new"]).layers(["new"]).stat("new", Stat::default()),
        Entity::new("two").kind("nothing"),
        Entity::new("three").parent("baal"),
        Entity::new("one"),
        Entity::new("four").parent("five"),
        Entity::new("five").parent("four"),
        Entity::new("six").zone(Zone::new(Shape::Sphere { radius: -1.0 })),
        Entity::new("seven").at([f64::NAN, 0.0, 0.0]),
    ];
    let errors = play.add_all(wrong).unwrap_err().to_string();
    let expected = [
        "entity[3].name: there is already an entity named `one`",
        "entity[1].kind: there is no kind named `nothing`",
        "entity[2].parent: there is no entity named `baal`",
        "entity[6].zone.sphere: a sphere's radius is -1",
        "entity[7].at[0]: NaN is not a coordinate",
    ];
    for (line, start) in errors.lines().zip(expected) {
        assert!(line.starts_with(start), "{line}");
    }
    assert_eq!(errors.lines().count(), expected.len(), "{errors}");
    assert_eq!((play.scene(), play.state()), (&before, &state));
    assert!(play.scene().find("one").is_none() && play.scene().layers(["new"]).is_err());
    let circle = [Entity::new("four").parent("five"), Entity::new("five").parent("four")];
    let errors = play.add_all(circle).unwrap_err().to_string();
    assert!(errors.starts_with("entity[0].parent: these are each other's parents"), "{errors}");
    // And all is as it would have been.
    assert!(play.add_all([Entity::new("one").tags(["new"])]).is_ok());
    play.act(Action::tag("ball", "new")).unwrap();
}

#[test]
fn a_handler_for_a_kind_hears_of_what_comes_later() {
    let pad = Kind::new("pad").tags(["wet"]).zone(cube(2.0));
    let mut play = Play::new(yard().kind(pad).build().unwrap());
    for (trigger, count) in [("kind:pad", "kind"), ("tag:wet", "tag"), ("*", "any")] {
        play.on(Trigger::enter(trigger), move |_, act| act.add(count, 1)).unwrap();
    }
    play.step();
    play.add(Entity::new("puddle").kind("pad").at([-5.0, 0.0, 0.0])).unwrap();
    play.step();
    assert_eq!(["kind", "tag", "any"].map(|count| play.count(count)), [1, 1, 1]);
    assert!(play.on(Trigger::of(EventKind::Spot, "kind:pad"), |_, _| {}).is_err());
}

#[test]
fn going_back_takes_out_what_came_later_and_it_may_come_again() {
    let mut play = Play::new(yard().build().unwrap());
    play.step();
    let before = play.state().clone();
    let stone = Entity::new("stone").body(ball(0.1));
    let id = play.add(stone.clone()).unwrap();
    let log = play_until(&mut play, 1.0);
    assert_eq!(words(&play, &log), ["enter pad stone appear"]);
    let with = play.state().clone();

    play.restore(before.clone()).unwrap();
    play.state().assert_consistent(play.scene());
    assert!(play.occupants("pad").unwrap().is_empty());
    play.act(Action::reset("stone")).unwrap();
    let log = play_until(&mut play, 0.5);
    assert_eq!(words(&play, &log), [""; 0], "what is not there yet is not brought in by a reset");
    assert_eq!(play.add(stone), Ok(id));
    let log = play_until(&mut play, 1.0);
    assert_eq!(words(&play, &log), ["enter pad stone appear"]);

    play.restore(with.clone()).unwrap();
    assert_eq!(play.state(), &with);
    // A state with it is of no use where it has never been.
    let mut other = Play::new(yard().build().unwrap());
    assert_eq!(other.restore(with), Err(Fault::OtherScene));
    assert_eq!(other.restore(before), Ok(()));
}

#[test]
fn spawning_takes_from_the_stock_and_then_makes_more() {
    let leaf = Kind::new("leaf").body(ball(0.1)).stock(2);
    let mut play = Play::new(yard().kind(leaf).build().unwrap());
    play.step();
    let leaves: Vec<EntityId> =
        (0..4).map(|_| play.spawn("leaf", [0.0, 0.0, 0.0]).unwrap()).collect();
    assert_eq!(
        leaves.iter().map(|leaf| play.scene().name(*leaf)).collect::<Vec<_>>(),
        ["leaf#1", "leaf#2", "leaf#3", "leaf#4"]
    );
    play.step();
    assert_eq!(play.occupants("pad").unwrap(), leaves);
    play.remove(leaves[1]).unwrap();
    play.remove(leaves[3]).unwrap();
    play.step();
    play.state().assert_consistent(play.scene());
    // An action takes what is there, whoever made it.
    play.act(Action::spawn("leaf", "ball")).unwrap();
    assert_eq!(play.spawn("leaf", [0.0; 3]), Ok(leaves[1]), "the action has not happened yet");
    play.step();
    assert_eq!(play.occupants("pad").unwrap(), [leaves[0], leaves[1], leaves[2]]);
    assert_eq!(play.pose(leaves[3]).unwrap().position.x, -5.0);
    assert!(matches!(play.spawn("leef", [0.0; 3]), Err(Fault::Unknown { .. })));
    assert!(matches!(play.spawn("leaf", [f64::NAN; 3]), Err(Fault::Number { .. })));
}

#[test]
fn what_is_there_is_not_let_in_again() {
    let mut play = Play::new(yard().build().unwrap());
    let ball = play.scene().find("ball").unwrap();
    play.step();
    play.schedule(play.now(), Input::Add { what: ball, at: None }).unwrap();
    let log = play_until(&mut play, 1.0);
    let problem = log.iter().find_map(|entry| match &entry.what {
        Happening::Problem { problem, .. } => Some(problem.clone()),
        _ => None,
    });
    assert_eq!(problem, Some(Problem::InPlay(ball)));
    play.state().assert_consistent(play.scene());
}
