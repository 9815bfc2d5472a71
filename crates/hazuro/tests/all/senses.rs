//! Probes, footing, sight and seekers: the normal case, the trap, and what is beside it.

use crate::support;

use hazuro::geometry::Shape;
use hazuro::glam::DVec3;
use hazuro::scene::{
    Action, Admit, Among, Body, Entity, EventKind, Floor, Footing, Formula, Part, Probe, Reaction,
    Seeker, Sight, Trigger, Zone,
};
use hazuro::why::{Gate, Notebook};
use hazuro::{Event, Play, Scene, Time};
use support::{ball, events, play_until, story, words};

fn block(size: [f64; 3]) -> Shape {
    Shape::Box { size }
}

fn drive(play: &mut Play, who: &str, to: [f64; 3], over: f64) {
    let who = play.scene().find(who).unwrap();
    let until = play.now() + Time::from_secs(over);
    play.schedule(play.now(), hazuro::Input::Drive { who, to: to.into(), until }).unwrap();
}

/// What is told from now on for so many seconds, at the scene's rate or another.
fn told(play: &mut Play, seconds: f64) -> Vec<String> {
    let until = play.now().secs() + seconds;
    let entries = play_until(play, until);
    words(play, &entries)
}

// Probes

fn feeler(probe: Probe) -> Entity {
    Entity::new("feeler").at([0.0, 0.0, 0.0]).probe(probe)
}

#[test]
fn a_probe_reports_hits_clears_and_changes_of_target() {
    let scene = Scene::builder("Yard")
        .entity(feeler(Probe { to: [0.0, 0.0, -10.0], ..Probe::default() }))
        .entity(Entity::new("wall").at([0.0, 0.0, -8.0]).solid(block([4.0, 4.0, 1.0])))
        .entity(Entity::new("beside").at([3.0, 0.0, -3.0]).solid(block([1.0; 3])))
        .entity(Entity::new("cat").at([-3.0, 0.0, -4.0]).body(ball(0.5)));
    let mut play = Play::new(scene.build().unwrap());
    assert_eq!(told(&mut play, 0.5), ["hit feeler wall appear"]);
    let ray = play.probe_ray("feeler").unwrap().unwrap();
    assert_eq!((ray.hit.unwrap().distance, ray.to.z), (7.5, -10.0));
    drive(&mut play, "cat", [3.0, 0.0, -4.0], 1.0);
    let change = ["clear feeler wall move", "hit feeler cat move"];
    let back = ["clear feeler cat move", "hit feeler wall move"];
    assert_eq!(told(&mut play, 2.0), [change, back].concat());
    play.act(Action::disable("wall")).unwrap();
    assert_eq!(told(&mut play, 1.0), ["clear feeler wall disable"]);
    play.act(Action::enable("wall")).unwrap();
    assert_eq!(told(&mut play, 1.0), ["hit feeler wall enable"]);
    play.act(Action::disable("feeler")).unwrap();
    assert_eq!(told(&mut play, 1.0), ["clear feeler wall disable"]);
}

#[test]
fn a_probe_leaves_out_whom_it_belongs_to_and_turns_with_it() {
    let scene = |own| {
        let probe = Probe { to: [0.0, 0.0, -3.0], own, ..Probe::default() };
        Scene::builder("Yard")
            .entity(Entity::new("dog").body(ball(0.5)))
            .entity(Entity::new("collar").parent("dog").at([0.0, 0.2, -0.3]).solid(block([0.1; 3])))
            .entity(Entity::new("nose").parent("dog").probe(probe))
            .entity(Entity::new("post").at([0.0, 0.0, -2.0]).solid(block([0.5; 3])))
    };
    let mut play = Play::new(scene(false).build().unwrap());
    assert_eq!(told(&mut play, 0.2), ["hit nose post appear"]);
    let (dog, post) = (play.scene().find("dog").unwrap(), [9.0, 0.0, 0.0]);
    play.schedule(play.now(), hazuro::Input::Face { who: dog, to: post.into() }).unwrap();
    assert_eq!(told(&mut play, 0.2), ["clear nose post move"]);
    let mut play = Play::new(scene(true).build().unwrap());
    assert_eq!(told(&mut play, 0.2), ["hit nose dog appear"], "the trap, where asked for");
}

#[test]
fn a_probe_stops_at_whom_it_does_not_admit() {
    let probe =
        Probe { among: Among { bodies: true, solids: true, zones: false }, ..Probe::default() };
    let scene = Scene::builder("Yard")
        .entity(feeler(probe).admit(Admit::tags(["mouse"])))
        .entity(Entity::new("glass").at([0.0, 0.0, -2.0]).solid(block([1.0, 1.0, 0.01])))
        .entity(Entity::new("mouse").tags(["mouse"]).at([0.0, 0.0, -4.0]).body(ball(0.2)));
    let mut play = Play::new(scene.build().unwrap());
    assert_eq!(told(&mut play, 0.5), [""; 0]);
    play.act(Action::disable("glass")).unwrap();
    assert_eq!(told(&mut play, 0.5), ["hit feeler mouse disable"]);
}

#[test]
fn a_swept_probe_meets_what_a_ray_misses() {
    let scene = |shape| {
        let probe = Probe { shape, every: Some(0.25), ..Probe::default() };
        let post = Entity::new("post").at([0.4, 0.0, -5.0]).solid(block([0.2; 3]));
        Scene::builder("Yard").entity(feeler(probe)).entity(post)
    };
    let mut ray = Play::new(scene(None).build().unwrap());
    assert_eq!(told(&mut ray, 0.5), [""; 0]);
    let mut wide = Play::new(scene(Some(Shape::Sphere { radius: 0.5 })).build().unwrap());
    let entries = play_until(&mut wide, 0.5);
    assert_eq!(words(&wide, &entries), ["hit feeler post appear"]);
}

// Footing

fn person(footing: Footing) -> Entity {
    let body = Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0);
    Entity::new("miller").body(body).footing(footing)
}

fn floor() -> Entity {
    Entity::new("floor").tags(["stone"]).at([0.0, -0.5, 0.0]).solid(block([100.0, 1.0, 100.0]))
}

#[test]
fn height_is_counted_from_the_feet_and_a_fall_lands_with_its_speed() {
    let scene = Scene::builder("Yard").gravity(0.0);
    let scene = scene.entity(person(Footing::default()).at([0.0, 6.0, 0.0]));
    let mut play = Play::new(scene.entity(floor()).build().unwrap());
    assert_eq!(told(&mut play, 0.5), [""; 0]);
    let ground = play.ground("miller").unwrap().unwrap();
    assert!((ground.height - 6.0).abs() < 1e-6 && !ground.grounded);
    drive(&mut play, "miller", [0.0, 0.0, 0.0], 1.0);
    let entries = play_until(&mut play, 3.0);
    assert_eq!(words(&play, &entries), ["land miller floor move"]);
    assert!((events(&entries)[0].meeting.unwrap().speed - 6.0).abs() < 1e-6);
    drive(&mut play, "miller", [0.0, 1.0, 0.0], 0.5);
    assert_eq!(told(&mut play, 1.0), ["lift_off miller floor move"]);
}

/// Walks over so many bumps, each a solid of its own, up to 8 cm high.
fn walk_over_bumps(margin: f64) -> Vec<Event> {
    let mut scene =
        Scene::builder("Yard").entity(person(Footing { margin, grace: 0.0, ..Footing::default() }));
    let mut seed = 7_u64;
    let mut random = move || {
        seed = seed.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
        (seed >> 33) as f64 / f64::from(1_u32 << 31)
    };
    for bump in 0..200 {
        let (height, width) = (0.08 * random(), 0.2 + 0.3 * random());
        let at = [0.0, -0.5 + height / 2.0 - 0.04, -f64::from(bump) * 0.3];
        scene = scene.entity(Entity::new(format!("bump{bump}")).at(at).solid(block([
            2.0,
            1.0 + height,
            width,
        ])));
    }
    let mut play = Play::new(scene.build().unwrap());
    drive(&mut play, "miller", [0.0, 0.0, -59.0], 20.0);
    events(&play_until(&mut play, 21.0))
}

#[test]
fn uneven_ground_flickers_without_a_margin_and_not_with_one() {
    let count = |events: &[Event], kind| events.iter().filter(|event| event.kind == kind).count();
    let with = walk_over_bumps(0.1);
    assert_eq!((count(&with, EventKind::Land), count(&with, EventKind::LiftOff)), (1, 0));
    let without = walk_over_bumps(0.0);
    assert!(count(&without, EventKind::LiftOff) > 20, "{}", count(&without, EventKind::LiftOff));
}

#[test]
fn grace_bridges_a_gap_and_a_steep_slope_is_no_ground() {
    let scene = |grace, slope: f64| {
        let plank =
            |name: &str, z| Entity::new(name).at([0.0, -0.5, z]).solid(block([9.0, 1.0, 4.0]));
        let footing = Footing { grace, slope: slope.to_radians(), ..Footing::default() };
        let ramp = hazuro::geometry::Pose {
            position: DVec3::new(30.0, 0.0, 0.0),
            rotation: glam::DQuat::from_rotation_z(0.7),
        };
        Scene::builder("Yard")
            .floor(Floor::Missing)
            .entity(person(footing))
            .entity(plank("near", 0.0))
            .entity(plank("far", -5.0))
            .entity(Entity::new("ramp").at(ramp).solid(block([8.0, 0.2, 8.0])))
    };
    let cross = |grace| {
        let mut play = Play::new(scene(grace, 50.0).build().unwrap());
        drive(&mut play, "miller", [0.0, 0.0, -5.0], 2.0);
        told(&mut play, 3.0)
    };
    let landed = "land miller near appear";
    assert_eq!(cross(0.5), [landed]);
    assert_eq!(cross(0.0), [landed, "lift_off miller near move", "land miller far move"]);
    // 40 degrees steep.
    for (limit, expected) in [(45.0, 1), (35.0, 0)] {
        let mut play = Play::new(scene(0.0, limit).build().unwrap());
        play_until(&mut play, 0.1);
        play.place("miller", [30.0, 9.0, 0.0]).unwrap();
        told(&mut play, 1.0);
        play.place("miller", [30.0, 0.2, 0.0]).unwrap();
        let landed = told(&mut play, 1.0);
        assert_eq!(landed.len(), expected, "{landed:?} {limit}");
        let slope = play.ground("miller").unwrap().unwrap().slope;
        assert!((slope - 0.7).abs() < 1e-6, "{slope}");
    }
}

// Sight

fn owl(sight: Sight) -> Entity {
    Entity::new("owl").at([0.0, 2.0, 0.0]).sight(sight)
}

fn mouse(at: [f64; 3]) -> Entity {
    Entity::new("mouse").at(at).body(ball(0.2))
}

#[test]
fn a_watcher_sees_what_is_in_range_and_angle_and_not_hidden() {
    let sees = |at, sight: Sight, wall: Option<Entity>| {
        let scene = Scene::builder("Yard").entity(owl(sight)).entity(mouse(at));
        let mut play = Play::new(
            wall.into_iter().fold(scene, hazuro::scene::SceneBuilder::entity).build().unwrap(),
        );
        !told(&mut play, 1.0).is_empty()
    };
    let sight = Sight::default;
    assert!(sees([0.0, 2.0, -9.0], sight(), None));
    assert!(!sees([0.0, 2.0, -11.0], sight(), None), "too far");
    assert!(!sees([0.0, 2.0, 5.0], sight(), None), "behind");
    assert!(!sees([5.0, 2.0, -5.0], sight(), None), "beside");
    assert!(!sees([0.0, 7.0, -5.0], sight(), None), "above");
    assert!(sees([0.0, 7.0, -5.0], Sight { rise: 2.0, ..sight() }, None));
    assert!(sees([0.0, 2.0, 1.0], Sight { near: 1.5, ..sight() }, None), "heard");
    let wall = |layer: &str| {
        Entity::new("wall").layers([layer]).at([0.0, 2.0, -3.0]).solid(block([3.0, 3.0, 0.001]))
    };
    assert!(!sees([0.0, 2.0, -6.0], sight(), Some(wall("stone"))));
    let through = Sight { hides: vec!["default".into()], ..sight() };
    assert!(sees([0.0, 2.0, -6.0], through, Some(wall("glass"))));
    // Half of it looks over the wall.
    let low = || Entity::new("wall").at([0.0, 0.85, -3.0]).solid(block([3.0, 2.2, 0.001]));
    assert!(sees([0.0, 2.0, -6.0], Sight { points: 7, ..sight() }, Some(low())));
    assert!(!sees([0.0, 2.0, -6.0], Sight { points: 7, fraction: 0.9, ..sight() }, Some(low())));
}

#[test]
fn a_guard_looks_from_its_eyes_and_stands_on_what_it_does_not_admit() {
    let guard = person(Footing::default()).sight(Sight::default()).admit(Admit::tags(["thief"]));
    let thief = mouse([0.0, 1.0, -5.0]).tags(["thief"]);
    let sill = Entity::new("sill").at([0.0, 0.5, -1.0]).solid(block([9.0, 1.0, 0.1]));
    let scene = Scene::builder("Yard").entity(guard).entity(thief).entity(sill).entity(floor());
    let mut play = Play::new(scene.build().unwrap());
    let mut told = told(&mut play, 0.5);
    told.sort();
    assert_eq!(told, ["land miller floor appear", "spot miller mouse appear"]);
}

#[test]
fn it_takes_time_to_notice_and_to_forget() {
    let sight = Sight { notice: 1.0, forget: 2.0, every: 0.125, ..Sight::default() };
    let scene = Scene::builder("Yard").entity(owl(sight)).entity(mouse([0.0, 2.0, -20.0]));
    let mut play = Play::new(scene.build().unwrap());
    assert_eq!(told(&mut play, 1.0), [""; 0]);
    play.place("mouse", [0.0, 2.0, -5.0]).unwrap();
    let entries = play_until(&mut play, 3.0);
    let spotted = story(&play, &entries);
    assert_eq!(spotted[0].0, "spot owl mouse move");
    assert!(spotted[0].1 >= 2.0 && spotted[0].1 < 2.2, "{spotted:?}");
    // Out of sight for a second: not forgotten, but less sure.
    play.place("mouse", [0.0, 2.0, -30.0]).unwrap();
    assert_eq!(told(&mut play, 1.0), [""; 0]);
    let sighting = play.sightings("owl").unwrap()[0];
    assert!(sighting.spotted && !sighting.in_view);
    assert!((0.4..0.6).contains(&sighting.awareness), "{}", sighting.awareness);
    assert_eq!(sighting.place.z, -5.0, "the last place it was seen at");
    let entries = play_until(&mut play, 6.0);
    let lost = story(&play, &entries);
    assert_eq!(lost[0].0, "lose owl mouse move");
    assert!(lost[0].1 >= 5.0 && lost[0].1 < 5.2, "{lost:?}");
    assert_eq!(play.sightings("owl").unwrap()[0].awareness, 0.0);
    // Off: at once.
    play.place("mouse", [0.0, 2.0, -5.0]).unwrap();
    assert_eq!(told(&mut play, 2.0).len(), 1);
    play.act(Action::disable("owl")).unwrap();
    assert_eq!(told(&mut play, 0.05), ["lose owl mouse disable"]);
}

#[test]
fn a_hundred_watchers_do_not_look_at_once() {
    let mut scene = Scene::builder("Yard").entity(mouse([0.0, 2.0, -5.0]));
    for index in 0..100 {
        let sight = Sight { angle: 6.0, rise: 6.0, ..Sight::default() };
        scene = scene.entity(Entity::new(format!("owl{index}")).at([0.0, 2.0, 0.0]).sight(sight));
    }
    let mut play = Play::new(scene.build().unwrap());
    let spots = |events: Vec<Event>| events.iter().filter(|it| it.kind == EventKind::Spot).count();
    let ticks: Vec<usize> = (0..6).map(|_| spots(events(play.step()))).collect();
    assert_eq!(ticks.iter().sum::<usize>(), 100, "each within its tenth of a second");
    assert!(ticks.iter().all(|spots| (14..=20).contains(spots)), "{ticks:?}");
}

// Seekers

fn cock(seeker: Seeker) -> Entity {
    Entity::new("cock").seeker(seeker).admit(Admit::tags(["sack"]))
}

fn sack(name: &str, x: f64) -> Entity {
    Entity::new(name).tags(["sack"]).at([x, 0.0, 0.0]).body(ball(0.25))
}

#[test]
fn a_seeker_has_one_target_and_sticks_to_it() {
    let scene = Scene::builder("Yard")
        .entity(cock(Seeker { margin: 1.0, ..Seeker::default() }))
        .entity(sack("rye", 4.0))
        .entity(sack("oats", -5.0))
        .entity(Entity::new("cat").at([1.0, 0.0, 0.0]).body(ball(0.2)));
    let mut play = Play::new(scene.build().unwrap());
    assert_eq!(told(&mut play, 0.3), ["retarget cock rye appear"]);
    // A little nearer is not enough.
    play.place("oats", [-3.5, 0.0, 0.0]).unwrap();
    assert_eq!(told(&mut play, 0.3), [""; 0]);
    play.place("oats", [-2.0, 0.0, 0.0]).unwrap();
    let soon = play.now().secs() + 0.3;
    let entries = play_until(&mut play, soon);
    let change = &events(&entries)[0];
    assert_eq!(words(&play, &entries), ["retarget cock oats teleport"]);
    assert_eq!(play.scene().name(change.was.unwrap()), "rye");
    play.remove("oats").unwrap();
    assert_eq!(told(&mut play, 0.3), ["retarget cock rye remove"]);
    play.place("rye", [50.0, 0.0, 0.0]).unwrap();
    assert_eq!(told(&mut play, 0.3), ["retarget cock - teleport"]);
    assert_eq!(play.target("cock").unwrap(), None);
}

#[test]
fn whatever_a_seeker_looks_for_it_says_why_it_is_not_its_target() {
    let zones = Among { zones: true, ..Among::default() };
    let scene = Scene::builder("Yard")
        .entity(Entity::new("cock").seeker(Seeker {
            range: 5.0,
            among: zones,
            ..Seeker::default()
        }))
        .entity(Entity::new("pad").at([9.0, 0.0, 0.0]).zone(Zone::new(block([1.0, 1.0, 1.0]))))
        .entity(sack("rye", 2.0));
    let mut play = Play::new(scene.build().unwrap());
    let heard = |play: &mut Play, who: &str| {
        let ids = ["cock", who].map(|name| play.scene().find(name));
        let mut notebook = Notebook::about(ids[0], ids[1]);
        play.advance_witnessed(play.now() + Time::from_secs(0.3), &mut notebook);
        let [on, who] = ids.map(Option::unwrap);
        notebook.stopped(on, who).map(|verdict| verdict.gate)
    };
    assert_eq!(heard(&mut play, "pad"), Some(Gate::InRange));
    assert_eq!(heard(&mut play, "rye"), None, "it looks for no body");
}

#[test]
fn a_seeker_can_require_sight_and_go_by_a_score() {
    let wall = || Entity::new("wall").at([2.0, 0.0, 0.0]).solid(block([0.1, 4.0, 4.0]));
    let scene = |seeker| {
        let scene = Scene::builder("Yard").entity(cock(seeker)).entity(wall());
        scene.entity(sack("rye", 4.0)).entity(sack("oats", -6.0))
    };
    let target = |seeker| {
        let mut play = Play::new(scene(seeker).build().unwrap());
        play_until(&mut play, 0.3);
        play.scene().name(play.target("cock").unwrap().unwrap()).to_owned()
    };
    assert_eq!(target(Seeker::default()), "rye");
    assert_eq!(target(Seeker { sight: true, ..Seeker::default() }), "oats");
    let leftmost = Formula::new("leftmost", |facts| -facts.position(facts.who().unwrap()).x);
    assert_eq!(target(Seeker { score: Some(leftmost), ..Seeker::default() }), "oats");
    // What belongs to the same body is no target, however near.
    let solids = Among { solids: true, ..Among::default() };
    let nose =
        Entity::new("nose").parent("dog").seeker(Seeker { among: solids, ..Seeker::default() });
    let scene_of_dog = Scene::builder("Yard")
        .entity(Entity::new("dog").body(ball(0.3)))
        .entity(nose)
        .entity(Entity::new("tail").parent("dog").solid(block([0.1; 3])))
        .entity(Entity::new("post").at([5.0, 0.0, 0.0]).solid(block([1.0; 3])));
    let mut play = Play::new(scene_of_dog.build().unwrap());
    assert_eq!(told(&mut play, 0.3), ["retarget nose post appear"]);
    // A score that fails is reported, and nothing is chosen on its account.
    let broken = Formula::fallible("broken", |_| Err("no scales".into()));
    let mut play =
        Play::new(scene(Seeker { score: Some(broken), ..Seeker::default() }).build().unwrap());
    let entries = play_until(&mut play, 0.3);
    assert!(entries.iter().any(|entry| matches!(&entry.what, hazuro::Happening::Problem { .. })));
}

// All of them

/// A scene with one of each, in which things move.
fn busy() -> Scene {
    let parts = [Part::new("foot", block([0.3; 3])).at([0.0, 0.15, 0.0])];
    Scene::builder("Yard")
        .entity(floor())
        .entity(
            Entity::new("crab")
                .tags(["sack"])
                .at([6.0, 0.0, 0.0])
                .body(Body::of_parts(parts))
                .footing(Footing::default()),
        )
        .entity(owl(Sight { notice: 0.3, forget: 0.2, rise: 2.0, ..Sight::default() }))
        .entity(feeler(Probe { from: [0.0, 0.1, 0.0], to: [0.0, 0.1, -9.0], ..Probe::default() }))
        .entity(cock(Seeker { range: 4.0, ..Seeker::default() }))
        .reaction(Reaction::on(Trigger::spot("owl")).then(Action::add("seen", 1)))
        .build()
        .unwrap()
}

#[test]
fn the_same_happens_at_any_rate_and_after_going_back() {
    let mut logs = Vec::new();
    for rate in [7, 60, 1000] {
        let mut play = Play::new(busy());
        play.set_rate(rate).unwrap();
        drive(&mut play, "crab", [-6.0, 0.0, -4.0], 3.0);
        let mut entries = Vec::new();
        let mut middle = None;
        while play.now().secs() < 4.0 {
            entries.extend_from_slice(play.step());
            if middle.is_none() && play.now().secs() >= 1.4 {
                middle = Some((play.state().clone(), entries.len()));
            }
        }
        let told = story(&play, &entries);
        assert!(told.len() >= 6, "{told:?}");
        let (state, count) = middle.unwrap();
        play.restore(state).unwrap();
        let again = {
            let mut again = entries[..count].to_vec();
            while play.now().secs() < 4.0 {
                again.extend_from_slice(play.step());
            }
            story(&play, &again)
        };
        assert_eq!(told, again, "at {rate} Hz");
        logs.push(told);
    }
    assert_eq!(logs[0], logs[1]);
    assert_eq!(logs[1], logs[2]);
}
