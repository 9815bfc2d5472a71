//! Touches: who meets what, where, how fast, and once for a whole body.

use crate::support;

use hazuro::geometry::{Pose, Posed, Shape};
use hazuro::scene::{
    Admit, Body, Condition, Detector, Entity, EventKind, Limits, Part, Touch, Trigger,
};
use hazuro::{Play, Scene, Time};
use proptest::prelude::*;
use support::{ball, cube, events, play_until, story, words};

fn block(size: [f64; 3]) -> Shape {
    Shape::Box { size }
}

/// A ball at x = -5 and a wall of 1 m at the origin.
fn wall(touch: Touch) -> hazuro::scene::SceneBuilder {
    Scene::builder("Yard")
        .entity(Entity::new("ball").at([-5.0, 0.0, 0.0]).body(ball(0.5)))
        .entity(Entity::new("wall").solid(block([1.0; 3])).touch(touch))
}

fn throw(scene: hazuro::scene::SceneBuilder, metres_a_second: f64) -> Play {
    let mut play = Play::new(scene.rate(1).build().unwrap());
    play.drive("ball", [-5.0 + metres_a_second, 0.0, 0.0]).unwrap();
    play
}

#[test]
fn a_touch_says_where_and_how_fast() {
    let mut play = throw(wall(Touch::default()), 8.0);
    let entries = play_until(&mut play, 2.0);
    let told = story(&play, &entries);
    // A centimetre before it meets the wall, 4 m away.
    assert_eq!(told[0], ("touch wall ball move".into(), 3.99 / 8.0));
    assert_eq!(told[1], ("untouch wall ball move".into(), 6.01 / 8.0), "nothing stops it");
    let touch = &events(&entries)[1];
    let meeting = touch.meeting.unwrap();
    assert_eq!(meeting.normal.to_array(), [-1.0, 0.0, 0.0]);
    assert!((meeting.speed - 8.0).abs() < 1e-6 && (meeting.point.x + 0.51).abs() < 1e-6);
    let mut play = throw(wall(Touch::default()), 5.0);
    play_until(&mut play, 2.0);
    play.place("ball", [-5.0, 0.0, 0.0]).unwrap();
    let entries = play_until(&mut play, 3.0);
    assert_eq!(words(&play, &entries), ["untouch wall ball teleport"]);
}

#[test]
fn only_a_hard_impact_counts_if_one_is_asked_for() {
    let pot = || Touch { at_least: 6.0, ..Touch::default() };
    let mut soft = throw(wall(pot()), 5.0);
    let entries = play_until(&mut soft, 2.0);
    assert_eq!(words(&soft, &entries), [""; 0], "too slow, and no lonely untouch later");
    soft.place("ball", [-5.0, 0.0, 0.0]).unwrap();
    let entries = play_until(&mut soft, 3.0);
    assert_eq!(words(&soft, &entries), [""; 0]);
    let mut hard = throw(wall(pot()), 8.0);
    let entries = play_until(&mut hard, 2.0);
    assert_eq!(words(&hard, &entries), ["touch wall ball move", "untouch wall ball move"]);
}

#[test]
fn what_blocks_nothing_can_be_touched_and_what_is_beside_it_is_not() {
    let scene = Scene::builder("Yard")
        .entity(Entity::new("ball").at([-5.0, 0.0, 0.0]).body(ball(0.5)))
        .entity(
            Entity::new("web").touch(Touch { shape: Some(block([0.1; 3])), ..Touch::default() }),
        )
        .entity(
            Entity::new("beside")
                .at([0.0, 0.0, 1.2])
                .solid(block([1.0; 3]))
                .touch(Touch::default()),
        )
        .rate(1);
    let mut play = Play::new(scene.build().unwrap());
    play.drive("ball", [5.0, 0.0, 0.0]).unwrap();
    let entries = play_until(&mut play, 2.0);
    assert_eq!(words(&play, &entries), ["touch web ball move", "untouch web ball move"]);
}

/// A walker of fifteen parts.
fn centipede(name: &str) -> Entity {
    let parts = (0..15).map(|index| {
        Part::new(format!("leg{index}"), Shape::Sphere { radius: 0.1 }).at([
            0.0,
            0.1,
            f64::from(index) * 0.15,
        ])
    });
    Entity::new(name).at([0.0, 0.0, 5.0]).body(Body::of_parts(parts))
}

fn plank(touch: Touch) -> Entity {
    Entity::new("plank").at([0.0, -0.05, 0.0]).solid(block([2.0, 0.1, 1.0])).touch(touch)
}

#[test]
fn a_body_of_fifteen_parts_is_one_subject() {
    let scene = |touch| {
        let zone = Entity::new("pad").at([0.0, 0.5, 0.0]).zone(cube(1.0));
        Scene::builder("Yard").entity(centipede("it")).entity(zone).entity(plank(touch)).rate(1)
    };
    let mut play = Play::new(scene(Touch::default()).build().unwrap());
    play.drive("it", [0.0, 0.0, -10.0]).unwrap();
    let entries = play_until(&mut play, 2.0);
    let mut told = words(&play, &entries);
    told.sort();
    let once =
        ["enter pad it move", "exit pad it move", "touch plank it move", "untouch plank it move"];
    assert_eq!(told, once);

    // On request each part for itself.
    let by_part = Touch { parts: true, ..Touch::default() };
    let mut play = Play::new(scene(by_part).build().unwrap());
    play.drive("it", [0.0, 0.0, -10.0]).unwrap();
    let entries = play_until(&mut play, 2.0);
    let touches: Vec<_> =
        events(&entries).into_iter().filter(|event| event.kind == EventKind::Touch).collect();
    let parts: Vec<_> = touches.iter().map(|event| event.part.unwrap()).collect();
    assert_eq!(parts, (0..15).collect::<Vec<_>>(), "the one in front first");
    assert!(touches[0].edge && !touches[1].edge);
    let untouches =
        events(&entries).iter().filter(|event| event.kind == EventKind::Untouch).count();
    assert_eq!(untouches, 15);
}

#[test]
fn what_belongs_to_a_body_touches_for_it_and_what_is_loose_for_itself() {
    // A hook on a pole in a hand, all children of the miller; and a loose crate.
    let scene = |touch| {
        Scene::builder("Yard")
            .entity(Entity::new("miller").at([-9.0, 0.0, 0.0]).body(ball(0.5)))
            .entity(Entity::new("hand").parent("miller").at([0.5, 0.0, 0.0]))
            .entity(
                Entity::new("pole")
                    .parent("hand")
                    .at([1.0, 0.0, 0.0])
                    .solid(block([2.0, 0.1, 0.1])),
            )
            .entity(Entity::new("bell").solid(block([1.0; 3])).touch(touch))
            .entity(Entity::new("crate").at([0.0, 9.0, 0.0]).solid(block([1.0; 3])))
            .rate(1)
    };
    let mut play = Play::new(scene(Touch::default()).build().unwrap());
    play.drive("miller", [-2.0, 0.0, 0.0]).unwrap();
    play.drive("crate", [0.0, 0.0, 0.0]).unwrap();
    let entries = play_until(&mut play, 2.0);
    assert_eq!(words(&play, &entries), ["touch bell miller move"]);
    let touch = &events(&entries)[1];
    assert_eq!(play.scene().part_name(touch.who.unwrap(), touch.part.unwrap()), Some("pole"));
    // The pole alone swings away and back, at another depth of the family.
    play.place("hand", [-9.0, 5.0, 0.0]).unwrap();
    let entries = play_until(&mut play, 3.0);
    assert_eq!(words(&play, &entries), ["untouch bell miller move"]);

    let loose = Touch { solids: true, ..Touch::default() };
    let mut play = Play::new(scene(loose).build().unwrap());
    play.drive("crate", [0.0, 0.0, 0.0]).unwrap();
    let entries = play_until(&mut play, 2.0);
    assert_eq!(words(&play, &entries), ["touch bell crate move"]);
    assert_eq!(play.scene().bearer(play.scene().find("crate").unwrap()), None);
}

#[test]
fn a_cooldown_a_limit_and_a_condition_hold_for_a_touch_too() {
    let there_and_back = |limits: Limits, times: usize| {
        let scene = wall(Touch::default()).rate(10);
        let scene = scene.entity(
            Entity::new("gong").solid(block([1.0; 3])).touch(Touch::default()).limits(limits),
        );
        let mut play = Play::new(scene.build().unwrap());
        let mut all = Vec::new();
        for visit in 0..times {
            play.place("ball", [0.0, 0.0, 0.0]).unwrap();
            all.extend(play_until(&mut play, visit as f64 + 0.5));
            play.place("ball", [-5.0, 0.0, 0.0]).unwrap();
            all.extend(play_until(&mut play, visit as f64 + 1.0));
        }
        let of_gong = |word: &&String| word.contains("gong");
        words(&play, &all).iter().filter(of_gong).count()
    };
    assert_eq!(there_and_back(Limits::default(), 5), 10);
    assert_eq!(there_and_back(Limits { limit: Some(2), ..Limits::default() }, 5), 4);
    // Every other visit comes too early, and is never told of.
    assert_eq!(there_and_back(Limits { cooldown: 1.5, ..Limits::default() }, 5), 6);
}

#[test]
fn a_cooldown_is_each_subjects_own_unless_it_is_shared() {
    let count = |shared| {
        let gong = Entity::new("gong").solid(block([1.0; 3])).touch(Touch::default());
        let limits = Limits { cooldown: 9.0, shared, ..Limits::default() };
        let far = |name: &str| Entity::new(name).at([-5.0, 0.0, 0.0]).body(ball(0.5));
        let scene = Scene::builder("Yard").entity(far("one")).entity(far("two"));
        let mut play = Play::new(scene.entity(gong.limits(limits)).build().unwrap());
        play.place("one", [0.0; 3]).unwrap();
        play.place("two", [0.0; 3]).unwrap();
        let entries = play_until(&mut play, 1.0);
        assert_eq!(
            play.detected("gong", Detector::Touch).unwrap().len(),
            words(&play, &entries).len(),
        );
        words(&play, &entries).len()
    };
    assert_eq!((count(false), count(true)), (2, 1));
}

#[test]
fn limits_can_be_changed_while_playing() {
    let gong = Entity::new("gong").solid(block([1.0; 3])).touch(Touch::default());
    let once = Limits { limit: Some(1), ..Limits::default() };
    let ball = Entity::new("ball").at([-5.0, 0.0, 0.0]).body(ball(0.5));
    let scene = Scene::builder("Yard").entity(ball).entity(gong.limits(once));
    let mut play = Play::new(scene.build().unwrap());
    let mut visit = |change: fn(&mut Play)| {
        change(&mut play);
        play.place("ball", [0.0; 3]).unwrap();
        let until = play.now().secs() + 0.1;
        let there = play_until(&mut play, until);
        play.place("ball", [-5.0, 0.0, 0.0]).unwrap();
        let back = play_until(&mut play, until + 0.1);
        (words(&play, &there).len(), words(&play, &back).len())
    };
    assert_eq!(visit(|_| {}), (1, 1));
    assert_eq!(visit(|_| {}), (0, 0), "used up");
    assert_eq!(visit(|play| play.renew("gong").unwrap()), (1, 1));
    let thrice = |play: &mut Play| {
        play.limit("gong", Limits { limit: Some(3), ..Limits::default() }).unwrap();
    };
    assert_eq!((visit(thrice), visit(|_| {}), visit(|_| {})), ((1, 1), (1, 1), (0, 0)));
    let mut play = Play::new(Scene::builder("Yard").entity(Entity::new("it")).build().unwrap());
    assert!(play.limit("it", Limits { cooldown: f64::NAN, ..Limits::default() }).is_err());
    assert!(play.renew("nobody").is_err());
}

#[test]
fn a_condition_is_tested_again_after_each_action() {
    let open = Condition::new("open", |facts| facts.count("open") > 0);
    let pad = Entity::new("pad").zone(cube(2.0)).admit(Admit::default().when(open));
    let scene = Scene::builder("Yard").entity(Entity::new("ball").body(ball(0.5))).entity(pad);
    let mut play = Play::new(scene.build().unwrap());
    play.on(Trigger::enter("pad"), |_, act| act.add("visits", 1)).unwrap();
    let entries = play_until(&mut play, 1.0);
    assert_eq!(words(&play, &entries), [""; 0]);
    let mut told = Vec::new();
    for open in [1, 1, 0, 1] {
        play.act(hazuro::scene::Action::set("open", open)).unwrap();
        let until = play.now().secs() + 1.0;
        let entries = play_until(&mut play, until);
        told.extend(words(&play, &entries));
    }
    assert_eq!(told, ["enter pad ball admit", "exit pad ball admit", "enter pad ball admit"]);
    assert_eq!(play.count("visits"), 2);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Touching is overlapping of what can be touched, a margin larger, whatever moves and turns,
    /// and events come in pairs.
    #[test]
    fn touches_agree_with_distances(
        way in prop::collection::vec((support::any_pose(2.0), 0.2..2.0_f64), 1..6),
        swing in support::any_pose(1.0),
        parts in any::<bool>(),
    ) {
        let dumbbell = Body::of_parts([
            Part::new("left", Shape::Sphere { radius: 0.3 }).at([-0.6, 0.0, 0.0]),
            Part::new("right", block([0.4, 0.3, 0.5])).at([0.6, 0.0, 0.0]),
        ]);
        let either = Shape::Any { shapes: vec![
            Posed::new(block([1.0, 0.2, 1.0])),
            Posed::new(Shape::Sphere { radius: 0.4 }).at([0.0, 0.9, 0.0]),
        ] };
        let touch = Touch { parts, margin: 0.05, ..Touch::default() };
        let scene = Scene::builder("Yard")
            .entity(Entity::new("it").at([3.0, 0.0, 0.0]).body(dumbbell))
            .entity(Entity::new("lid").solid(either).touch(touch))
            .rate(20)
            .build()
            .unwrap();
        let mut play = Play::new(scene);
        let (it, lid) = (play.scene().find("it").unwrap(), play.scene().find("lid").unwrap());
        let mut time = 0.0;
        for (pose, over) in way {
            let until = Time::from_secs(time + over);
            play.schedule(Time::from_secs(time), hazuro::Input::Drive { who: it, to: pose.into(), until }).unwrap();
            time += over;
        }
        play.schedule(Time::ZERO, hazuro::Input::Drive { who: lid, to: swing.into(), until: Time::from_secs(time) }).unwrap();
        let mut touching = [false; 2];
        while play.now().secs() < time {
            for event in events(play.step()) {
                let now = event.kind == EventKind::Touch;
                if event.kind != EventKind::Start {
                    let part = if parts { event.part.unwrap() } else { 0 };
                    prop_assert_ne!(touching[part], now, "in pairs");
                    touching[part] = now;
                }
            }
            let gap = |part: usize| {
                let gap = |at: [f64; 3], shape: &Shape| {
                    let shape = hazuro::geometry::Convex::new(shape).unwrap();
                    let own = play.pose("it").unwrap() * Pose::from(at);
                    let lid = play.pose("lid").unwrap();
                    [(block([1.0, 0.2, 1.0]), [0.0; 3]), (Shape::Sphere { radius: 0.4 }, [0.0, 0.9, 0.0])]
                        .map(|(other, offset)| {
                            let other = hazuro::geometry::Convex::new(&other).unwrap();
                            let there = lid * Pose::from(offset);
                            hazuro::geometry::distance(&other, &there, &shape, &own).gap
                        })
                        .into_iter()
                        .fold(f64::INFINITY, f64::min)
                };
                match part {
                    0 => gap([-0.6, 0.0, 0.0], &Shape::Sphere { radius: 0.3 }),
                    _ => gap([0.6, 0.0, 0.0], &block([0.4, 0.3, 0.5])),
                }
            };
            let gaps = if parts { vec![gap(0), gap(1)] } else { vec![gap(0).min(gap(1))] };
            for (part, gap) in gaps.into_iter().enumerate() {
                if (gap - 0.05).abs() > 1e-3 {
                    prop_assert_eq!(touching[part], gap < 0.05, "at {} with {}", play.now(), gap);
                }
            }
        }
    }
}
