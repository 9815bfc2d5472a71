//! A crowd that is told each tick where to be, while everything else is done to it: which of them are
//! looked at must never make a difference.

use crate::support;

use hazuro::geometry::{Form, Pose, Shape, distance};
use hazuro::glam::{DQuat, DVec3};
use hazuro::scene::{Action, Admit, Body, Entity, Kind, Limits, Part, Prompt, Touch, Zone};
use hazuro::{Entry, Input, Play, Scene, Time};
use proptest::prelude::*;
use support::{any_place, ball, block, cube};

/// What one of the crowd is, by its number.
fn body(number: usize) -> Body {
    match number % 5 {
        0 => ball(0.4),
        1 => Body::new(Shape::Capsule { radius: 0.3, height: 1.6 }),
        2 => Body::new(Shape::Box { size: [0.6, 1.6, 0.4] }),
        3 => Body::of_parts([
            Part::new("head", Shape::Sphere { radius: 0.2 }).at([0.1, 0.8, 0.0]),
            Part::new("trunk", Shape::Box { size: [0.5, 1.0, 0.3] }),
        ]),
        _ => Body::new(Shape::Cone { radius: 0.4, height: 1.2 }),
    }
}

/// Boxes along the axes and turned ones, what is round, and things to be touched.
fn yard(crowd: usize, origin: DVec3) -> Scene {
    let at = |x: f64, z: f64| (origin + DVec3::new(x, 0.0, z)).to_array();
    let size = |size: [f64; 3]| Zone::new(Shape::Box { size });
    let turned = Pose::from(at(-3.0, -2.0)).turned(0.6);
    let plate = block("plate", at(-3.0, 3.0), [1.0, 3.0, 1.0]);
    let post = block("post", at(0.0, 4.5), [0.5, 3.0, 0.5]);
    let parts = Touch { parts: true, margin: 0.05, ..Touch::default() };
    let mut scene = Scene::builder("Fair")
        .rate(30)
        .kind(Kind::new("wide").zone(cube(6.0)))
        .kind(Kind::new("free").admit(Admit::default()))
        .kind(Kind::new("flat").scale(0.5))
        .kind(Kind::new("fat").body(ball(1.1)))
        .entity(Entity::new("tent").at(at(2.0, 1.0)).zone(size([4.0, 3.0, 3.0])))
        .entity(Entity::new("stall").at(at(3.0, 2.0)).zone(size([2.0, 2.0, 4.0])))
        .entity(Entity::new("hay").at(turned).zone(size([3.0, 2.0, 2.0])))
        .entity(
            Entity::new("ring").at(at(0.0, -3.0)).zone(Zone::new(Shape::Sphere { radius: 1.5 })),
        )
        .entity(Entity::new("gate").at(at(-1.0, 0.0)).zone(cube(1.5)).admit(Admit::tags(["paid"])))
        .entity(plate.touch(Touch::default()))
        .entity(post.touch(parts))
        .entity(Entity::new("cart").at(at(5.0, -4.0)).zone(cube(2.0)));
    for number in 0..crowd {
        let tags = if number % 2 == 0 { vec!["paid"] } else { vec![] };
        let start = at(number as f64 - 2.0, 0.5);
        let one = Entity::new(format!("one{number}")).at(start).tags(tags).body(body(number));
        scene = scene.entity(one);
    }
    scene.build().unwrap()
}

/// Something done to the fair at a tick, beside telling everybody where to be.
#[derive(Clone, Copy, Debug)]
struct Deed {
    act: u8,
    which: usize,
    place: DVec3,
}

/// To what zones are converted.
const KINDS: [&str; 3] = ["wide", "free", "flat"];
const ZONES: [&str; 6] = ["tent", "stall", "hay", "ring", "gate", "cart"];

fn any_deed() -> impl Strategy<Value = Deed> {
    (0..40_u8, 0..30_usize, any_place(5.0)).prop_map(|(act, which, place)| Deed {
        act,
        which,
        place: place.with_y(0.0),
    })
}

fn done(play: &mut Play, crowd: usize, origin: DVec3, deed: &Deed) {
    let Deed { act, which, place } = *deed;
    let (zone, one) = (ZONES[which % ZONES.len()], format!("one{}", which % crowd));
    let other = format!("one{}", (which + 1) % crowd);
    let place = origin + place;
    let id = play.scene().find(&one).unwrap();
    let asked = match act {
        0 => play.place(zone, place),
        1 => play.act(Action::move_to(zone, other).over(0.2)),
        2 => play.act(Action::toggle(zone)),
        3 => play.act(Action::detect(zone, which % 3 == 0)),
        4 => play.place(one.as_str(), place),
        5 => play.act(Action::tag(one, "paid")),
        6 => play.act(Action::untag(one, "paid")),
        7 => play.act(Action::toggle(one)),
        8 => play.act(Action::attach("cart", one)),
        9 => play.act(Action::attach("cart", "tent")),
        10 => play.act(Action::attach(one, "cart")),
        11 => play.act(Action::detach(one)),
        12 => play.act(Action::detach("cart")),
        13 => play.act(Action::move_to(one, "ring").over(0.3)),
        14 => play.remove(one.as_str()),
        15 => {
            let booth = Entity::new(format!("booth{which}")).at(place).zone(cube(2.0));
            play.add(booth).map_or(Ok(()), |_| Ok(()))
        }
        16 => {
            let (to, until) = (place.into(), play.now() + Time::from_secs(0.5));
            play.schedule(play.now(), Input::Drive { who: id, to, until })
        }
        17 => play.schedule(play.now(), Input::Face { who: id, to: place.into() }),
        18 => play.limit(zone, Limits { cooldown: 0.2, ..Limits::default() }),
        // Told twice within one tick: the second counts.
        19 => play.drive(one.as_str(), place),
        20 => play.act(Action::convert(zone, KINDS[which % KINDS.len()])),
        21 => play.act(Action::revert(zone)),
        22 => play.act(Action::convert(one, if which % 2 == 0 { "fat" } else { "flat" })),
        23 => play.act(Action::revert(one)),
        _ => Ok(()),
    };
    // What is not in the play, or is there already, is refused by both alike.
    let _ = asked;
}

/// What comes of it, if what is known of everybody's surroundings is kept or forgotten each tick.
fn played(
    (crowd, origin): (usize, DVec3),
    ways: &[(DVec3, f64)],
    deeds: &[Deed],
    knows: bool,
) -> (Vec<Entry>, u64, Play) {
    let mut play = Play::new(yard(crowd, origin));
    let mut entries = Vec::new();
    for (tick, deed) in deeds.iter().enumerate() {
        if !knows {
            // Going back forgets all that is no state.
            let state = play.state().clone();
            play.restore(state).unwrap();
        }
        if tick % 2 == 0 {
            done(&mut play, crowd, origin, deed);
        }
        for number in 0..crowd {
            let one = format!("one{number}");
            let (way, turn) = ways[(tick / 6 + number) % ways.len()];
            let here = play.pose(one.as_str()).unwrap();
            let place = (here.position + way - origin).clamp(DVec3::splat(-6.0), DVec3::splat(6.0));
            let position = origin + place.with_y(0.0);
            let axis = if number % 7 == 6 { way.normalize_or(DVec3::X) } else { DVec3::Y };
            let rotation = (here.rotation * DQuat::from_axis_angle(axis, turn)).normalize();
            // Whoever is out of the play cannot be driven: both say so.
            let _ = match number % 3 {
                0 => play.drive(one.as_str(), position),
                _ => play.drive(one.as_str(), Pose { position, rotation }),
            };
        }
        if tick % 2 == 1 {
            done(&mut play, crowd, origin, deed);
        }
        entries.extend(play.step().to_vec());
        play.state().assert_consistent(play.scene());
    }
    (entries, play.state().fingerprint(), play)
}

/// Where one goes in a tick and how it turns: strides, or steps of a centimetre, which end near to
/// what is only just allowed.
fn any_way() -> impl Strategy<Value = (DVec3, f64)> {
    let turn = prop_oneof![Just(0.0), -0.3..0.3_f64];
    let scale = prop_oneof![Just(1.0), Just(0.05)];
    (any_place(0.25), turn, scale)
        .prop_map(|(way, turn, scale)| (way.with_y(0.0) * scale, turn * scale))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn a_crowd_is_detected_as_if_each_of_them_were_looked_at(
        crowd in 1..8_usize,
        far in any::<bool>(),
        ways in prop::collection::vec(any_way(), 4..10),
        (moves, deeds) in (any::<bool>(), prop::collection::vec(any_deed(), 20..90)),
    ) {
        let stays = |deed: &Deed| moves || !matches!(deed.act, 1 | 13 | 16);
        let deeds: Vec<Deed> = deeds.into_iter().filter(stays).collect();
        // Far out single precision is coarse.
        let origin = if far { DVec3::new(7e5, 0.0, -6e5) } else { DVec3::ZERO };
        let [knows, forgets] =
            [true, false].map(|knows| played((crowd, origin), &ways, &deeds, knows));
        // What is followed over several ticks is met at the same time but for some nanoseconds,
        // wherever one begins to look.
        if !moves {
            for (one, other) in knows.0.iter().zip(&forgets.0) {
                prop_assert_eq!(one, other);
            }
            let lasts = [knows.0.last(), forgets.0.last()];
            prop_assert_eq!(knows.0.len(), forgets.0.len(), "{:?}", lasts);
            prop_assert_eq!(knows.1, forgets.1);
        }
        // And whoever is inside is where the shapes meet, if nothing but that matters.
        if deeds.iter().any(|deed| matches!(deed.act, 3 | 8..=10)) {
            return Ok(());
        }
        let play = &knows.2;
        let moment = play.snapshot();
        for (name, shape) in [
            ("tent", Shape::Box { size: [4.0, 3.0, 3.0] }),
            ("stall", Shape::Box { size: [2.0, 2.0, 4.0] }),
            ("ring", Shape::Sphere { radius: 1.5 }),
        ] {
            let zone = play.scene().find(name).unwrap();
            for number in 0..crowd {
                let one = play.scene().find(&format!("one{number}")).unwrap();
                let apart = gap((&shape, moment.pose(zone)), &body(number), moment.pose(one));
                // What turns may touch as deep as the tolerance and go unseen.
                if apart.abs() > 2e-3 && [zone, one].iter().all(|it| moment.is_enabled(*it)) {
                    let inside = moment.occupants(zone).any(|who| who == one);
                    prop_assert_eq!(inside, apart < 0.0, "{} and one{}: {} m", name, number, apart);
                }
            }
        }
    }
}

/// How far a zone and a body are apart; less than nothing if they overlap.
fn gap((zone, at): (&Shape, Pose), body: &Body, pose: Pose) -> f64 {
    let zone = Form::new(zone).unwrap();
    let mut least = f64::INFINITY;
    let whole = body.shape().map(|shape| (shape, Pose::IDENTITY));
    let parts = body.parts().iter().map(|part| (part.shape(), part.pose()));
    for (shape, at_body) in whole.into_iter().chain(parts) {
        let own = Form::new(shape).unwrap();
        for ((offset, piece), (own_offset, own)) in
            zone.pieces().flat_map(|piece| own.pieces().map(move |own| (piece, own)))
        {
            let own_at = pose * at_body * own_offset;
            least = least.min(distance(piece, &(at * offset), own, &own_at).gap);
        }
    }
    least
}

#[test]
fn what_is_hung_on_one_who_is_free_to_go_goes_along() {
    let scene = Scene::builder("Fair")
        .entity(Entity::new("crier").body(ball(0.3)))
        .entity(Entity::new("lantern").at([30.0, 0.0, 0.0]).zone(cube(2.0)))
        .entity(Entity::new("moth").at([36.0, 0.0, 0.0]).body(ball(0.1)));
    let mut play = Play::new(scene.build().unwrap());
    let mut entries = Vec::new();
    for tick in 1..=200 {
        if tick == 50 {
            play.act(Action::attach("lantern", "crier")).unwrap();
        }
        play.drive("crier", [f64::from(tick) * 0.05, 0.0, 0.0]).unwrap();
        entries.extend(play.step().to_vec());
    }
    // From 2.5 m on the lantern goes along, and reaches the moth after 4.9 m more.
    let enter = support::events(&entries).into_iter().nth(1).unwrap();
    assert_eq!(support::words(&play, &entries)[0], "enter lantern moth move");
    assert!((enter.time.secs() - (49.0 + 98.0) / 60.0).abs() < 1e-6, "{}", enter.time);
}

#[test]
fn going_slowly_out_of_a_box_or_a_corner_the_boundary_is_met_to_the_micrometre() {
    // Which way it goes, and when its surface leaves the boundary of the zone of 2 m.
    for (way, turned) in [([1.0, 0.0], false), ([1.0, 1.0], false), ([0.3, 1.0], true)] {
        let way = DVec3::new(way[0], 0.0, way[1]).normalize();
        let mut play = Play::new(
            Scene::builder("Fair")
                .entity(Entity::new("crier").body(ball(0.4)))
                .entity(Entity::new("pad").zone(Zone::new(Shape::Box { size: [2.0, 2.0, 2.0] })))
                .build()
                .unwrap(),
        );
        let mut entries = Vec::new();
        for tick in 1..=1000_u32 {
            let place = Pose::at(way * f64::from(tick) * 0.003);
            let turn = if turned { f64::from(tick) * 0.02 } else { 0.0 };
            play.drive("crier", place.turned(turn)).unwrap();
            entries.extend(play.step().to_vec());
        }
        let events = support::events(&entries);
        let exit = events.last().unwrap();
        let (ticks, place) = (exit.time.secs() * 60.0, way * exit.time.secs() * 0.18);
        let away = (place.abs() - 1.0).max(DVec3::ZERO).length();
        assert_eq!(support::words(&play, &entries).last().unwrap(), "exit pad crier move");
        assert!((away - 0.4).abs() < 1e-6, "{way}: after {ticks} ticks, {away} m away");
    }
}

#[test]
fn a_cart_that_a_host_pushes_is_offered_where_it_is() {
    let cart = Entity::new("cart").at([10.0, 0.0, 0.0]).body(ball(0.3));
    let prompt = Prompt { reach: 2.0, ..Prompt::default() };
    let scene = Scene::builder("Fair")
        .entity(Entity::new("ada").player(true).body(ball(0.3)))
        .entity(cart.prompt(prompt));
    let mut play = Play::new(scene.build().unwrap());
    let mut offered = Vec::new();
    for tick in 0..300 {
        let x = 10.0 - f64::from(tick) * 0.05;
        play.drive("cart", [x, 0.0, 0.0]).unwrap();
        play.step();
        if !play.offers("ada").unwrap().is_empty() {
            offered.push(x);
        }
    }
    // From body to body it is offered on both sides, and nowhere between it is not.
    let (first, last) = (offered[0], offered[offered.len() - 1]);
    assert!(first > 2.0 && (first + last).abs() < 0.5, "from {first} to {last}");
    assert_eq!(offered.len(), ((first - last) / 0.05).round() as usize + 1);
}

#[test]
fn what_turns_on_the_spot_or_creeps_meets_a_wall_with_its_corners() {
    for creeps in [0.0, 1e-5] {
        let wall = Zone::new(Shape::Box { size: [1.0, 4.0, 4.0] });
        let scene = Scene::builder("Fair")
            .entity(Entity::new("crate").body(Body::new(Shape::Box { size: [0.6, 1.0, 0.4] })))
            .entity(Entity::new("wall").at([0.83, 0.0, 0.0]).zone(wall));
        let mut play = Play::new(scene.build().unwrap());
        let mut entries = Vec::new();
        for tick in 1..=700_u32 {
            let at = Pose::from([creeps * f64::from(tick), 0.0, 0.0]);
            play.drive("crate", at.turned(0.01 * f64::from(tick))).unwrap();
            entries.extend(play.step().to_vec());
        }
        let events = support::events(&entries);
        // Each of four corners comes in and goes out; the first once more after a whole turn.
        assert_eq!(events.len() - 1, 9, "{:?}", support::words(&play, &entries));
        for event in &events[1..] {
            let ticks = event.time.secs() * 60.0;
            let (sine, cosine) = (0.01 * ticks).sin_cos();
            let reach = 0.3 * cosine.abs() + 0.2 * sine.abs() + creeps * ticks;
            assert!((reach - 0.33).abs() < 2e-4, "at {}: {reach}", event.time);
        }
    }
}
