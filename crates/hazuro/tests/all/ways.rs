//! Routes, being led, teleports and spawners.

use crate::support;

use hazuro::geometry::{Pose, Shape};
use hazuro::glam::DVec3;
use hazuro::scene::{
    Action, Blocked, Body, Choose, Entity, EventKind, Kind, Pace, Reaction, Route, SceneBuilder,
    Spawner, Then, Trigger, Zone,
};
use hazuro::{Happening, Play, Refusal, Scene, Time};
use proptest::prelude::*;
use support::{at, block, cube, events, person, play_until, story, words};

fn close(one: DVec3, other: [f64; 3]) -> bool {
    one.distance(other.into()) < 2e-3
}

/// A hoist of 6 m, with a miller on it.
fn hoist(route: Route) -> SceneBuilder {
    Scene::builder("Mill")
        .entity(block("hoist", [0.0, -0.1, 0.0], [2.0, 0.2, 2.0]).route(route))
        .entity(Entity::new("half").at([0.0, 2.9, 0.0]))
        .entity(Entity::new("loft").at([0.0, 5.9, 0.0]))
        .entity(Entity::new("miller").body(person()).footing(hazuro::scene::Footing::default()))
}

fn stops() -> Route {
    Route { pace: Pace::Rate(6.0), ..Route::through(["home", "half", "loft"]) }
}

#[test]
fn a_route_waits_turns_back_halts_and_goes_on_from_where_it_is() {
    let route = Route { then: Then::Back, wait: 0.5, ..stops() };
    let mut play = Play::new(hoist(route).build().unwrap());
    play.step();
    play.act(Action::run("hoist")).unwrap();
    let entries = play_until(&mut play, 4.02);
    let told: Vec<_> = story(&play, &entries)
        .into_iter()
        .filter(|(words, _)| words.starts_with("reach"))
        .map(|(words, time)| (words, ((time - 1.0 / 60.0) * 1e6).round() / 1e6))
        .collect();
    let expected = [
        ("reach hoist half", 0.5),
        ("reach hoist loft", 1.5),
        ("reach hoist half", 2.5),
        ("reach hoist -", 3.5),
    ];
    assert_eq!(told, expected.map(|(words, time)| (words.to_owned(), time)));
    play.advance(Time::from_secs(4.25));
    play.act(Action::halt("hoist")).unwrap();
    play.advance(Time::from_secs(6.0));
    let held = at(&play, "hoist");
    assert!(held.y > 0.5 && held.y < 2.9, "{held}");
    play.act(Action::reverse("hoist")).unwrap();
    play.advance(play.now() + Time::from_secs(0.05));
    assert!(at(&play, "hoist").y < held.y, "it goes back from where it is");
    play.act(Action::run("hoist")).unwrap();
    play.advance(Time::from_secs(20.0));
    assert!(play.state().fingerprint() > 0);
}

#[test]
fn riding_at_six_metres_a_second_keeps_the_feet_on_the_floor() {
    for (rate, ease) in [(10, "linear"), (60, "ease-in-out"), (240, "ease")] {
        let route = Route {
            then: Then::Back,
            pace: Pace::Over(0.5),
            ease: ease.parse().unwrap(),
            ..stops()
        };
        let mut play = Play::new(hoist(route).build().unwrap());
        play.set_rate(rate).unwrap();
        let first = play_until(&mut play, 0.1);
        assert_eq!(words(&play, &first), ["land miller hoist appear"]);
        play.act(Action::run("hoist")).unwrap();
        let mut entries = Vec::new();
        for _ in 0..500 {
            entries.extend_from_slice(play.advance(play.now() + Time::from_secs(0.01)));
            let gap = at(&play, "miller").y - at(&play, "hoist").y - 0.1;
            assert!(gap.abs() < 1e-3, "{gap} at {:?}", play.now());
        }
        assert!(words(&play, &entries).iter().all(|line| line.starts_with("reach")));
    }
}

#[test]
fn a_jump_off_something_that_moves_keeps_its_speed() {
    let scene = Scene::builder("Mill")
        .entity(block("cart", [0.0, -0.1, 0.0], [4.0, 0.2, 2.0]))
        .entity(Entity::new("miller").body(person()));
    let mut play = Play::new(scene.build().unwrap());
    play.act(Action::move_by("cart", [40.0, 0.0, 0.0]).over(10.0)).unwrap();
    play.advance(Time::from_secs(1.0));
    play.act(Action::jump("miller")).unwrap();
    play.advance(Time::from_secs(1.3));
    let (miller, cart) = (at(&play, "miller"), at(&play, "cart"));
    assert!((miller.x - cart.x).abs() < 1e-3 && miller.y > 0.5, "{miller} {cart}");
}

#[test]
fn a_jump_is_as_high_above_a_hoist_that_goes_down_or_up() {
    for way in [-12.0, 12.0] {
        let scene = Scene::builder("Mill")
            .entity(block("hoist", [0.0, 14.9, 0.0], [2.0, 0.2, 2.0]))
            .entity(Entity::new("miller").at([0.0, 15.0, 0.0]).body(person()));
        let mut play = Play::new(scene.build().unwrap());
        play.act(Action::move_by("hoist", [0.0, way, 0.0]).over(4.0)).unwrap();
        play.advance(Time::from_secs(0.5));
        play.act(Action::jump("miller")).unwrap();
        let above = |play: &Play| at(play, "miller").y - at(play, "hoist").y - 0.1;
        let rise = (2.0 / 9.81_f64).sqrt();
        play.advance(Time::from_secs(0.5 + rise));
        assert!((above(&play) - 1.0).abs() < 1e-3, "{} at its highest", above(&play));
        play.advance(Time::from_secs(0.5 + 2.0 * rise - 0.01));
        assert!(above(&play) > 0.03, "not yet down");
        for tick in 0..20 {
            play.advance(Time::from_secs(0.5 + 2.0 * rise + 0.001 + f64::from(tick) * 0.1));
            assert!(above(&play).abs() < 1e-3, "{} after landing", above(&play));
        }
    }
}

#[test]
fn somebody_on_a_route_is_led_by_it_and_what_is_told_to_move_leaves_its_route() {
    let route = Route { pace: Pace::Rate(2.0), ..Route::through(["home", "there"]) };
    let scene = Scene::builder("Mill")
        .entity(block("cart", [0.0, 0.5, 0.0], [1.0, 1.0, 1.0]).route(route))
        .entity(Entity::new("there").at([8.0, 0.5, 0.0]))
        .entity(Entity::new("aside").at([0.0, 0.5, 9.0]));
    let mut play = Play::new(scene.build().unwrap());
    play.act(Action::run("cart")).unwrap();
    play.advance(Time::from_secs(1.0));
    assert!((at(&play, "cart").x - 2.0).abs() < 1e-9);
    play.act(Action::move_to("cart", "aside").over(1.0)).unwrap();
    let entries = play_until(&mut play, 9.0);
    assert_eq!(words(&play, &entries), [""; 0], "it reaches no stop any more");
    assert_eq!(at(&play, "cart"), DVec3::new(0.0, 0.5, 9.0));
    // Set going again it goes to its first stop.
    play.act(Action::run("cart")).unwrap();
    let entries = play_until(&mut play, 20.0);
    assert_eq!(words(&play, &entries), ["reach cart -", "reach cart there"]);
    play.act(Action::halt("there")).unwrap();
    let why = play.step().iter().find_map(|entry| match &entry.what {
        Happening::Refused { why, .. } => Some(why.clone()),
        _ => None,
    });
    assert_eq!(why, Some(Refusal::Lacks("legs to walk with".into())));
}

#[test]
fn a_gate_pushes_or_stops_or_turns_back_and_says_so() {
    let gate = |blocked| {
        let route = Route { blocked, pace: Pace::Rate(1.0), ..Route::through(["home", "shut"]) };
        let scene = Scene::builder("Mill")
            .entity(block("gate", [2.0, 1.0, 0.0], [0.2, 2.0, 2.0]).route(route))
            .entity(Entity::new("shut").at([-2.0, 1.0, 0.0]))
            .entity(block("wall", [-3.0, 1.0, 0.0], [0.2, 2.0, 4.0]))
            .entity(Entity::new("miller").body(person()));
        let mut play = Play::new(scene.build().unwrap());
        play.step();
        play.act(Action::run("gate")).unwrap();
        let entries = play_until(&mut play, 10.0);
        let told = words(&play, &entries);
        let places = (at(&play, "gate").x, at(&play, "miller").x);
        (told, places)
    };
    let (told, (at_gate, miller)) = gate(Blocked::Push);
    assert_eq!(told, ["reach gate shut"]);
    assert!((at_gate + 2.0).abs() < 1e-9 && (miller + 2.4).abs() < 1e-3);
    let (told, (at_gate, miller)) = gate(Blocked::Stop);
    assert_eq!(told, ["blocked gate miller"], "once, however often it tries");
    assert!((at_gate - 0.4).abs() < 1e-3 && miller.abs() < 1e-3);
    let (told, (at_gate, _)) = gate(Blocked::Back);
    assert_eq!(told, ["blocked gate miller", "reach gate -"]);
    assert!((at_gate - 2.0).abs() < 1e-9);
}

#[test]
fn who_cannot_give_way_holds_up_a_gate_until_he_is_gone() {
    let scene = Scene::builder("Mill")
        .entity(block("gate", [2.0, 1.0, 0.0], [0.2, 2.0, 2.0]))
        .entity(block("wall", [-1.0, 1.0, 0.0], [0.2, 2.0, 4.0]))
        .entity(Entity::new("miller").body(person()))
        .entity(Entity::new("away").at([0.0, 0.0, 9.0]));
    let mut play = Play::new(scene.build().unwrap());
    play.step();
    play.act(Action::move_by("gate", [-2.8, 0.0, 0.0]).over(1.0)).unwrap();
    let entries = play_until(&mut play, 3.0);
    assert_eq!(words(&play, &entries), ["blocked gate miller"]);
    assert!((at(&play, "gate").x + 0.2).abs() < 1e-3, "{}", at(&play, "gate"));
    play.act(Action::teleport("miller", "away")).unwrap();
    play.advance(Time::from_secs(5.0));
    assert!((at(&play, "gate").x + 0.8).abs() < 1e-9);
}

#[test]
fn a_ladder_takes_along_gives_back_and_lets_go_on_a_jump() {
    let scene = Scene::builder("Mill")
        .entity(Entity::new("miller").body(person()))
        .entity(Entity::new("top").at([0.0, 4.0, 0.0]))
        .entity(Entity::new("loft").at([0.0, 4.0, -1.0]))
        .entity(block("floor", [0.0, 3.9, -2.0], [4.0, 0.2, 2.4]));
    let mut play = Play::new(scene.build().unwrap());
    play.step();
    play.act(Action::lead("miller", ["top", "loft"]).rate(2.0)).unwrap();
    let entries = play_until(&mut play, 2.05);
    assert_eq!(words(&play, &entries), ["reach miller top"]);
    assert!(at(&play, "miller").y > 3.9);
    play.advance(Time::from_secs(4.0));
    assert!(close(at(&play, "miller"), [0.0, 4.0, -1.0]), "{}", at(&play, "miller"));
    play.act(Action::walk("miller", "top")).unwrap();
    play.advance(Time::from_secs(6.0));
    assert!(at(&play, "miller").y < 0.01, "over the edge it falls: {}", at(&play, "miller"));
    play.act(Action::lead("miller", ["top", "loft"]).rate(2.0)).unwrap();
    play.advance(Time::from_secs(7.0));
    assert!(at(&play, "miller").y > 1.5);
    play.act(Action::jump("miller")).unwrap();
    play.advance(Time::from_secs(9.0));
    assert!(at(&play, "miller").y < 0.01);
}

/// Two pads that lead to each other, and a miller who is put on the first.
fn pads() -> Scene {
    let pad = |name: &str, x: f64| Entity::new(name).at([x, 1.0, 0.0]).zone(cube(2.0));
    Scene::builder("Mill")
        .entity(pad("here", 0.0))
        .entity(pad("there", 20.0))
        .entity(Entity::new("landing_here").at([0.0, 0.0, 0.0]))
        .entity(Entity::new("landing_there").at([20.0, 0.0, 0.0]))
        .entity(Entity::new("miller").at([0.0, 0.0, 6.0]).body(person()))
        .reaction(
            Reaction::on(Trigger::enter("here")).then(Action::teleport("who", "landing_there")),
        )
        .reaction(
            Reaction::on(Trigger::enter("there")).then(Action::teleport("who", "landing_here")),
        )
        .build()
        .unwrap()
}

#[test]
fn two_teleports_that_face_each_other_do_not_play_ping_pong() {
    let mut play = Play::new(pads());
    let miller = play.scene().find("miller").unwrap();
    let walk = |to: [f64; 3]| hazuro::Input::Walk { who: miller, to: to.into() };
    play.schedule(Time::ZERO, walk([0.0, 0.0, 0.0])).unwrap();
    play.schedule(Time::from_secs(5.0), walk([20.0, 0.0, 6.0])).unwrap();
    play.schedule(Time::from_secs(9.0), walk([20.0, 0.0, 0.0])).unwrap();
    let entries = play_until(&mut play, 20.0);
    let arrivals = events(&entries).into_iter().filter(|it| it.kind == EventKind::Arrive);
    let arrivals: Vec<f64> = arrivals.map(|event| event.time.secs()).collect();
    assert_eq!(arrivals.len(), 2, "{arrivals:?}");
    let told = words(&play, &entries);
    assert_eq!(
        told[..3],
        [
            "enter here miller move",
            "depart here miller teleport",
            "arrive landing_there miller teleport"
        ]
    );
}

#[test]
fn a_teleport_keeps_what_is_asked_and_finds_a_free_place() {
    let scene = Scene::builder("Mill")
        .entity(Entity::new("miller").at(Pose::from([1.0, 0.0, 0.0]).turned(1.0)).body(person()))
        .entity(Entity::new("full").at(Pose::from([10.0, 0.0, 0.0]).turned(2.0)))
        .entity(block("stone", [10.0, 0.5, 0.0], [1.0, 1.0, 1.0]))
        .entity(Entity::new("hole").at([30.0, 0.0, 0.0]))
        .entity(block("rock", [30.0, 0.0, 0.0], [20.0, 20.0, 20.0]))
        .entity(Entity::new("sky").at([0.0, 50.0, 0.0]));
    let mut play = Play::new(scene.build().unwrap());
    let mut go = |teleport: hazuro::scene::Teleport| {
        play.act(teleport).unwrap();
        let entries = play.step().to_vec();
        let why = entries.iter().find_map(|entry| match &entry.what {
            Happening::Refused { why, .. } => Some(why.clone()),
            _ => None,
        });
        (play.pose("miller").unwrap(), why)
    };
    let (pose, _) = go(Action::teleport("miller", "full").keep_facing().only_if_free());
    assert!(
        (pose.rotation * DVec3::NEG_Z).distance(DVec3::new(-1_f64.sin(), 0.0, -1_f64.cos())) < 1e-9
    );
    let away = (pose.position - DVec3::new(10.0, 0.0, 0.0)).length();
    assert!(away > 0.7 && away < 3.0, "beside it: {pose:?}");
    let (_, why) = go(Action::teleport("miller", "hole").only_if_free());
    assert_eq!(why, Some(Refusal::NoRoom));
    let (_, why) = go(Action::teleport("miller", "sky").only_on_ground());
    assert_eq!(why, Some(Refusal::NoGround));
    let (pose, why) = go(Action::teleport("miller", "hole").or_to("full").only_if_free());
    assert!(why.is_none() && pose.position.x < 13.0, "the next destination");
    let nearest = Action::teleport("miller", "sky").or_to("full").choose(Choose::Nearest);
    assert!(go(nearest).0.position.y < 1.0);
}

#[test]
fn destinations_are_taken_in_turn_or_by_a_chance_that_repeats() {
    let places = |choose| {
        let mut scene = Scene::builder("Mill").seed(7).entity(Entity::new("cart"));
        for number in 0..4 {
            let at = [f64::from(number), 0.0, 0.0];
            scene = scene.entity(Entity::new(format!("p{number}")).at(at));
        }
        let mut play = Play::new(scene.build().unwrap());
        let mut places = Vec::new();
        for _ in 0..12 {
            let to = Action::teleport("cart", "p0").or_to("p1").or_to("p2").or_to("p3");
            play.act(to.choose(choose)).unwrap();
            play.step();
            places.push(at(&play, "cart").x as u32);
        }
        places
    };
    assert_eq!(places(Choose::InTurn), [0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3]);
    let random = places(Choose::Random);
    assert_eq!(random, places(Choose::Random));
    assert!((0..4).all(|place| random.contains(&place)), "{random:?}");
}

#[test]
fn who_falls_through_a_window_keeps_speed_and_place() {
    let scene = Scene::builder("Mill")
        .entity(Entity::new("window").at([0.0, 2.0, 0.0]).zone(cube(2.0)))
        .entity(Entity::new("other").at(Pose::from([50.0, 12.0, 0.0])))
        .entity(Entity::new("miller").at([0.4, 8.0, 0.2]).body(person()))
        .reaction(
            Reaction::on(Trigger::enter("window"))
                .then(Action::teleport("who", "other").keep_speed().keep_offset()),
        );
    let mut play = Play::new(scene.build().unwrap());
    let entries = play_until(&mut play, 1.2);
    let fall = events(&entries).iter().find(|it| it.kind == EventKind::Depart).unwrap().time;
    let since = 1.2 - fall.secs();
    let start = 13.0 - 9.81 * fall.secs() * since - 9.81 * since * since / 2.0;
    let miller = at(&play, "miller");
    assert!(miller.distance(DVec3::new(50.4, start, 0.2)) < 2e-3, "{miller} {start}");
}

#[test]
fn a_rider_is_put_elsewhere_off_a_moving_hoist() {
    let scene = hoist(stops()).entity(Entity::new("yard").at([9.0, 0.0, 0.0]));
    let mut play = Play::new(scene.build().unwrap());
    play.step();
    play.act(Action::run("hoist")).unwrap();
    play.advance(Time::from_secs(0.5));
    play.act(Action::teleport("miller", "yard")).unwrap();
    play.advance(Time::from_secs(2.0));
    assert!(close(at(&play, "miller"), [9.0, 0.0, 0.0]), "{}", at(&play, "miller"));
}

#[test]
fn a_spawner_begins_with_as_many_as_are_to_be_first() {
    for (first, expected) in
        [(None, [4, 4, 4]), (Some(1), [1, 2, 4]), (Some(0), [0, 1, 4]), (Some(9), [4, 4, 4])]
    {
        let reed = Kind::new("reed").stock(4).body(Body::new(Shape::Sphere { radius: 0.1 }));
        let spawner = Spawner { first, every: 0.5, ..Spawner::of("reed", 4) };
        let zone = Zone::new(Shape::Box { size: [4.0; 3] });
        let scene = Scene::builder("Creek")
            .kind(reed)
            .entity(Entity::new("creek").zone(zone).spawner(spawner));
        let mut play = Play::new(scene.build().unwrap());
        let about = [0.2, 0.7, 3.0].map(|until| {
            play_until(&mut play, until);
            play.occupants("creek").unwrap().len()
        });
        assert_eq!(about, expected, "{first:?}");
    }
}

#[test]
fn a_spawner_keeps_so_many_about_the_same_ones_each_time() {
    let scene = || {
        let kind = Kind::new("reed")
            .stock(12)
            .zone(Zone::new(Shape::Sphere { radius: 0.2 }))
            .body(Body::new(Shape::Sphere { radius: 0.1 }));
        let spawner = Spawner {
            every: 0.5,
            oldest: Some(20.0),
            bounds: Some("creek".into()),
            ..Spawner::of("reed", 9)
        };
        let zone = Zone::new(Shape::Cylinder { radius: 3.0, height: 1.0 });
        Scene::builder("Creek")
            .kind(kind)
            .entity(Entity::new("creek").at([5.0, 0.0, 0.0]).zone(zone).spawner(spawner))
            .build()
            .unwrap()
    };
    let about = |play: &Play| {
        let reeds = (1..=12).map(|number| format!("reed#{number}"));
        let inside = play.occupants("creek").unwrap();
        let names: Vec<String> = inside.iter().map(|id| play.scene().name(*id).into()).collect();
        reeds.filter(|name| names.contains(name)).collect::<Vec<_>>()
    };
    let mut play = Play::new(scene());
    play.step();
    assert_eq!(about(&play).len(), 9);
    play.act(Action::Remove("reed#3".into())).unwrap();
    play.step();
    assert_eq!(about(&play).len(), 8);
    play.advance(Time::from_secs(0.6));
    assert_eq!(about(&play).len(), 9);
    play.place("reed#5", [90.0, 0.0, 0.0]).unwrap();
    play.advance(Time::from_secs(2.0));
    assert_eq!(about(&play).len(), 9, "what has strayed is taken back, and another brought out");
    let mut again = Play::new(scene());
    again.step();
    again.act(Action::Remove("reed#3".into())).unwrap();
    again.step();
    again.advance(Time::from_secs(0.6));
    again.place("reed#5", [90.0, 0.0, 0.0]).unwrap();
    again.advance(Time::from_secs(2.0));
    assert_eq!(play.state().fingerprint(), again.state().fingerprint());
    play.advance(Time::from_secs(60.0));
    assert_eq!(about(&play).len(), 9, "the old are replaced");
}

proptest! {
    #[test]
    fn routes_driven_at_random_end_at_their_ends(
        orders in prop::collection::vec((0..3_u32, 0.0..1.5_f64), 0..12),
        then in prop::sample::select(Then::ALL),
        wait in prop_oneof![Just(0.0), 0.0..0.5_f64],
    ) {
        let route = Route { then, wait, pace: Pace::Over(0.4), ..stops() };
        let mut play = Play::new(hoist(route).build().unwrap());
        play.step();
        for (order, seconds) in orders {
            let action = match order {
                0 => Action::run("hoist"),
                1 => Action::reverse("hoist"),
                _ => Action::halt("hoist"),
            };
            play.act(action).unwrap();
            play.advance(play.now() + Time::from_secs(seconds));
            let y = at(&play, "hoist").y;
            prop_assert!((-0.1 - 1e-9..=5.9 + 1e-9).contains(&y), "{y}");
        }
        play.act(Action::run("hoist")).unwrap();
        play.advance(play.now() + Time::from_secs(5.0));
        let y = at(&play, "hoist").y;
        if then == Then::Stop {
            prop_assert!((y + 0.1).abs() < 1e-9 || (y - 5.9).abs() < 1e-9, "{y}");
        }
        let gap = at(&play, "miller").y - y - 0.1;
        prop_assert!(gap.abs() < 1e-3, "the rider is {gap} off");
    }
}
