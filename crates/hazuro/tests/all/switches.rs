//! Switches, kinship, tags, spawning and resetting.

use crate::support;

use hazuro::geometry::{Ray, Shape};
use hazuro::glam::DVec3;
use hazuro::scene::{
    Action, Admit, Body, Entity, EventKind, Facts, Kind, Reaction, Switch, Trigger,
};
use hazuro::{Filter, Happening, Play, Scene};
use proptest::prelude::*;
use support::{ball, cube, events, play_until, words, yard};

/// Six zones around a ball, one below the other: 0 holds 1 and 2, 1 holds 3 and 4, 4 holds 5.
const PARENTS: [Option<usize>; 6] = [None, Some(0), Some(0), Some(1), Some(1), Some(4)];

fn nest() -> Play {
    let mut scene = Scene::builder("Nest").entity(Entity::new("ball").body(ball(0.2)));
    for (index, parent) in PARENTS.into_iter().enumerate() {
        let zone = Entity::new(format!("z{index}")).zone(cube(2.0)).enabled(index % 3 != 1);
        let zone = zone.solid(Shape::Box { size: [0.5; 3] });
        scene = scene.entity(match parent {
            Some(parent) => zone.parent(format!("z{parent}")),
            None => zone,
        });
    }
    Play::new(scene.build().unwrap())
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn what_is_off_takes_its_children_with_it_and_gives_them_back(
        deeds in prop::collection::vec((0..6_usize, 0..3_usize, prop::option::of(any::<bool>())), 1000),
    ) {
        let mut play = nest();
        // The model: the own switch of each, for each of three switches.
        let mut own = [[true; 6]; 3];
        own[0] = std::array::from_fn(|index| index % 3 != 1);
        let mut inside = [false; 6];
        let switches = [Switch::Enabled, Switch::Detect, Switch::Visible];
        for (step, (what, switch, to)) in deeds.into_iter().enumerate() {
            let action = Action::Switch { what: format!("z{what}"), switch: switches[switch], to };
            play.act(action).unwrap();
            own[switch][what] = to.unwrap_or(!own[switch][what]);
            for event in events(&play_until(&mut play, (step + 1) as f64 * 0.01)) {
                let Some(on) = event.on else { continue };
                let zone = on.index() - 1;
                // Always in pairs.
                prop_assert_eq!(inside[zone], event.kind == EventKind::Exit);
                inside[zone] = event.kind == EventKind::Enter;
            }
            let all_up = |switch: usize, zone: usize| {
                std::iter::successors(Some(zone), |zone| PARENTS[*zone]).all(|up| own[switch][up])
            };
            for (zone, inside) in inside.into_iter().enumerate() {
                let id = play.scene().find(&format!("z{zone}")).unwrap();
                prop_assert_eq!(play.facts().is_enabled(id), all_up(0, zone));
                prop_assert_eq!(play.facts().is_visible(id), all_up(2, zone));
                prop_assert_eq!(inside, all_up(0, zone) && all_up(1, zone));
            }
        }
    }
}

#[test]
fn a_solid_that_is_off_stops_no_rays_and_lets_its_children_be() {
    let wall = |name: &str, x: f64| {
        Entity::new(name).at([x, 0.0, 0.0]).solid(Shape::Box { size: [1.0, 4.0, 4.0] })
    };
    let scene = yard().entity(wall("gate", 4.0)).entity(wall("knob", 4.0).parent("gate"));
    let mut play = Play::new(scene.build().unwrap());
    let hit = |play: &Play| {
        let ray = Ray::between(DVec3::ZERO, DVec3::new(20.0, 0.0, 0.0)).unwrap();
        play.space()
            .ray(&ray, &Filter::solids())
            .map(|hit| play.scene().name(hit.entity).to_owned())
    };
    let mut look = |action: Action| {
        play.act(action).unwrap();
        play.step();
        hit(&play)
    };
    assert_eq!(look(Action::add("n", 1)).as_deref(), Some("gate"));
    assert_eq!(look(Action::solid("gate", false)), None);
    assert_eq!(look(Action::solid("knob", true)), None, "its parent is still off");
    assert_eq!(look(Action::solid("gate", true)).as_deref(), Some("gate"));
    assert_eq!(look(Action::disable("gate")), None);
    assert_eq!(look(Action::enable("gate")).as_deref(), Some("gate"));
}

#[test]
fn tags_are_given_and_taken_and_admit_at_once() {
    let scene = yard()
        .entity(Entity::new("door").zone(cube(4.0)).admit(Admit::tags(["guest"])))
        .entity(
            Entity::new("hall").zone(cube(5.0)).admit(Admit::default().not(Admit::tags(["toy"]))),
        )
        .reaction(Reaction::on(Trigger::cue("invite")).then(Action::tag("ball", "guest")))
        .reaction(Reaction::on(Trigger::enter("tag:open")).then(Action::add("opened", 1)))
        .reaction(Reaction::on(Trigger::cue("open")).then(Action::tag("pad", "open")));
    let mut play = Play::new(scene.build().unwrap());
    play.place("ball", [0.0; 3]).unwrap();
    let mut told = |actions: &[Action], until: f64| {
        for action in actions {
            play.act(action.clone()).unwrap();
        }
        let entries = play_until(&mut play, until);
        let told = words(&play, &entries).into_iter().filter(|word| !word.starts_with("cue"));
        told.collect::<Vec<_>>()
    };
    assert_eq!(told(&[], 1.0), ["enter pad ball teleport"]);
    assert_eq!(told(&[Action::cue("invite")], 2.0), ["enter door ball admit"]);
    assert_eq!(told(&[Action::untag("ball", "toy")], 3.0), ["enter hall ball admit"]);
    assert_eq!(told(&[Action::tag("ball", "toy")], 4.0), ["exit hall ball admit"]);
    assert_eq!(told(&[Action::untag("ball", "guest")], 5.0), ["exit door ball admit"]);
    told(&[Action::cue("open"), Action::disable("pad")], 6.0);
    told(&[Action::enable("pad")], 7.0);
    assert_eq!(play.count("opened"), 1, "a reaction to a tag hears of whoever has it now");
}

#[test]
fn what_is_attached_moves_along_and_is_let_go_where_it_is() {
    let scene = yard()
        .entity(Entity::new("sack").at([0.0, 0.0, 3.0]).body(ball(0.2)))
        .entity(Entity::new("floor").at([0.0, 0.0, 3.0]).zone(cube(1.0)));
    let mut play = Play::new(scene.build().unwrap());
    play.step();
    assert!(play.act(Action::attach("sack", "nobody")).is_err());
    play.act(Action::attach("sack", "ball")).unwrap();
    play.step();
    play.act(Action::attach("ball", "sack")).unwrap();
    let refused = play.step().iter().any(|entry| matches!(&entry.what, Happening::Refused { .. }));
    assert!(refused, "nobody is his own ancestor");
    play.place("ball", [5.0, 0.0, 0.0]).unwrap();
    let entries = play_until(&mut play, 1.0);
    assert_eq!(words(&play, &entries), ["exit floor sack teleport"]);
    assert_eq!(play.pose("sack").unwrap().position, DVec3::new(10.0, 0.0, 3.0));
    play.act(Action::disable("ball")).unwrap();
    play.step();
    assert!(!play.facts().is_enabled(play.scene().find("sack").unwrap()), "off with its holder");
    play.act(Action::detach("sack")).unwrap();
    play.act(Action::move_home("sack").over(1.0)).unwrap();
    let entries = play_until(&mut play, 3.0);
    assert_eq!(words(&play, &entries), ["enter floor sack move"]);
    assert_eq!(play.pose("sack").unwrap().position, DVec3::new(0.0, 0.0, 3.0));
}

#[test]
fn a_stock_is_brought_out_taken_back_and_reset() {
    let sack = Kind::new("sack").tags(["goods"]).body(ball(0.2)).stock(2);
    let scene = yard().kind(sack).entity(Entity::new("chute").at([0.0, 0.0, 0.5]));
    let mut play = Play::new(scene.build().unwrap());
    let mut told = |action: Action, until: f64| {
        play.act(action).unwrap();
        let entries = play_until(&mut play, until);
        let refused =
            entries.iter().filter(|entry| matches!(&entry.what, Happening::Refused { .. })).count();
        (words(&play, &entries), refused)
    };
    let spawn = || Action::spawn("sack", "chute");
    assert_eq!(told(spawn(), 1.0), (vec!["enter pad sack#1 appear".into()], 0));
    assert_eq!(told(spawn(), 2.0), (vec!["enter pad sack#2 appear".into()], 0));
    assert_eq!(told(spawn(), 3.0), (vec![], 1), "all are out");
    assert_eq!(told(Action::remove("sack#1"), 4.0), (vec!["exit pad sack#1 remove".into()], 0));
    assert_eq!(told(spawn(), 5.0), (vec!["enter pad sack#1 appear".into()], 0));
    let all = vec!["exit pad sack#1 remove".to_owned(), "exit pad sack#2 remove".into()];
    assert_eq!(told(Action::reset("kind:sack"), 6.0), (all, 0));
    told(Action::move_by("pad", [0.0, 9.0, 0.0]).into(), 7.0);
    told(Action::disable("pad"), 8.0);
    told(Action::add_to("pad", "n", 3), 9.0);
    told(Action::reset("pad"), 10.0);
    let pad = play.scene().find("pad").unwrap();
    assert_eq!(play.pose("pad").unwrap().position, DVec3::ZERO);
    assert_eq!((play.facts().is_enabled(pad), play.facts().count_of(pad, "n")), (true, 0));
}

#[test]
fn things_turn_by_angles_and_towards_others_at_their_rate() {
    let scene = yard().entity(Entity::new("east").at([9.0, 0.0, 0.0]));
    let mut play = Play::new(scene.build().unwrap());
    let heading = |play: &Play| {
        let ahead = play.pose("pad").unwrap().rotation * DVec3::NEG_Z;
        ahead.x.atan2(-ahead.z).to_degrees().round()
    };
    play.act(Action::turn("pad", -std::f64::consts::FRAC_PI_4).over(1.0)).unwrap();
    play_until(&mut play, 0.5);
    assert!((heading(&play) - 22.0).abs() <= 1.0);
    play_until(&mut play, 1.5);
    assert_eq!(heading(&play), 45.0);
    // Another 45 degrees at 30 degrees per second.
    play.act(Action::face("pad", "east").rate(30_f64.to_radians())).unwrap();
    play_until(&mut play, 2.9);
    assert!(heading(&play) < 90.0);
    play_until(&mut play, 3.1);
    assert_eq!(heading(&play), 90.0);
    assert!(play.act(Action::turn("pad", 1.0).rate(0.0)).is_err());
}

#[test]
fn events_can_be_sent_by_hand() {
    let scene = yard().reaction(Reaction::on(Trigger::enter("pad")).then(Action::add("in", 1)));
    let mut play = Play::new(scene.build().unwrap());
    play.act(Action::send(EventKind::Enter, "pad", "ball")).unwrap();
    let entries = play_until(&mut play, 1.0);
    assert_eq!(words(&play, &entries), ["enter pad ball hand"]);
    assert_eq!(play.count("in"), 1);
    assert!(play.occupants("pad").unwrap().is_empty(), "nobody is inside for that");
    assert!(play.act(Action::send(EventKind::Cue, "pad", "ball")).is_err());
    let body = Body::new(Shape::Sphere { radius: 1.0 });
    let odd = yard().entity(Entity::new("kind:x").body(body)).build();
    assert!(odd.is_err(), "a name that looks like a kind is none");
}
