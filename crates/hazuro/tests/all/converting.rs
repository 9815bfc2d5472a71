//! Entities that are converted to a kind while they are played, and are themselves again.

use hazuro::geometry::{Pose, Shape};
use hazuro::scene::{
    Action, Admit, Body, Carry, Entity, Facts, Kind, Limits, Part, Prompt, Reaction, SceneBuilder,
    Sight, Trigger, Zone,
};
use hazuro::{Chance, Entry, Happening, Play, Refusal, Scene, Time};
use proptest::prelude::*;

use super::driver::world::{may, one, place};
use super::support::{ball, block, cube, person, play_until, words};

/// A yard with a pad of 2 m, somebody 3 m from its middle, and a wide pad to convert to.
fn pad() -> SceneBuilder {
    Scene::builder("Yard")
        .kind(Kind::new("wide").zone(cube(8.0)))
        .entity(Entity::new("pad").zone(cube(2.0)))
        .entity(Entity::new("ada").tags(["red"]).at([3.0, 0.0, 0.0]).body(ball(0.2)))
}

/// What happens from now on until a time, after an action.
fn after(play: &mut Play, action: Action, until: f64) -> Vec<String> {
    play.act(action).unwrap();
    let entries = play_until(play, until);
    play.state().assert_consistent(play.scene());
    words(play, &entries)
}

#[test]
fn a_zone_that_grows_is_entered_and_one_that_shrinks_is_left() {
    let mut play = Play::new(pad().build().unwrap());
    play_until(&mut play, 0.5);
    assert_eq!(after(&mut play, Action::convert("pad", "wide"), 1.0), ["enter pad ada convert"]);
    let pad = play.scene().find("pad").unwrap();
    assert_eq!(play.facts().converted_to(pad), Some("wide"));
    assert!(play.scene().zone_of(pad).unwrap() == &cube(8.0));
    // Who stays inside is told of nothing.
    assert!(after(&mut play, Action::convert("pad", "wide"), 1.5).is_empty());
    assert_eq!(after(&mut play, Action::revert("pad"), 2.0), ["exit pad ada convert"]);
    assert_eq!(play.facts().converted_to(pad), None);
    after(&mut play, Action::convert("pad", "wide"), 2.5);
    assert_eq!(
        after(&mut play, Action::reset("pad"), 3.0).last().unwrap(),
        "exit pad ada teleport"
    );
    // A scene that is played anew is as it was described.
    let mut again = Play::new(play.scene().clone());
    play_until(&mut again, 0.5);
    assert!(again.occupants("pad").unwrap().is_empty());
}

#[test]
fn rules_layers_and_limits_change() {
    let scene = pad()
        .kind(Kind::new("red only").admit(Admit::tags(["red"])))
        .kind(Kind::new("ghost").layers(["ghosts"]))
        .kind(Kind::new("once").limits(Limits { limit: Some(1), ..Limits::default() }))
        .entity(Entity::new("bo").body(ball(0.2)))
        .entity(Entity::new("dog").layers(["dogs"]).body(ball(0.2)))
        .entity(Entity::new("kennel").zone(cube(2.0)).admit(Admit::layers(["dogs"])));
    let mut play = Play::new(scene.build().unwrap());
    play_until(&mut play, 0.5);
    let left = ["exit pad bo convert", "exit pad dog convert"];
    assert_eq!(after(&mut play, Action::convert("pad", "red only"), 1.0), left);
    let left = ["exit kennel dog convert"];
    assert_eq!(after(&mut play, Action::convert("dog", "ghost"), 1.5), left);
    let back = ["enter kennel dog convert"];
    assert_eq!(after(&mut play, Action::revert("dog"), 2.0), back);
    after(&mut play, Action::convert("kennel", "once"), 2.5);
    let mut told = Vec::new();
    for (tick, at) in [9.0, 0.0, 9.0, 0.0].into_iter().enumerate() {
        play.place("dog", [at, 0.0, at]).unwrap();
        told.extend(play_until(&mut play, 3.0 + tick as f64));
    }
    let told = words(&play, &told);
    assert_eq!(told.iter().filter(|it| it.starts_with("enter kennel")).count(), 1, "{told:?}");
}

#[test]
fn who_crouches_gets_below_a_beam_and_keeps_their_legs() {
    let low = Body::new(Shape::Capsule { radius: 0.3, height: 0.9 });
    let scene = Scene::builder("Yard")
        .kind(Kind::new("crouching").body(low))
        .entity(Entity::new("ada").player(true).body(person().walk(3.0)))
        .entity(block("beam", [0.0, 1.7, -3.0], [9.0, 1.0, 0.5]));
    let mut play = Play::new(scene.build().unwrap());
    let beyond = Entity::new("beyond").at([0.0, 0.0, -6.0]);
    play.add(beyond).unwrap();
    play_until(&mut play, 0.1);
    play.act(Action::convert("ada", "crouching")).unwrap();
    play.act(Action::walk("ada", "beyond")).unwrap();
    let entries = play_until(&mut play, 4.0);
    assert!(!entries.iter().any(|it| matches!(it.what, Happening::Halted { .. })));
    assert!(play.pose("ada").unwrap().position.z < -5.9);
    let ada = play.scene().find("ada").unwrap();
    let bounds = play.scene().body_bounds(ada, &Pose::IDENTITY).unwrap();
    assert!((bounds.max.y - 0.9).abs() < 1e-9, "it stands on its feet");
    assert_eq!(play.scene().walking_speed(ada), Some(3.0));
}

#[test]
fn a_watcher_sees_farther_and_a_prompt_reaches_farther() {
    let near = Sight { range: 2.0, notice: 0.0, ..Sight::default() };
    let alert = Sight { range: 9.0, ..near.clone() };
    let scene = Scene::builder("Yard")
        .kind(Kind::new("alert").sight(alert))
        .kind(Kind::new("handy").prompt(Prompt { reach: 8.0, ..Prompt::default() }))
        .entity(Entity::new("owl").at([0.0, 0.5, 6.0]).sight(near))
        .entity(Entity::new("lever").at([4.0, 0.0, 0.0]).prompt(Prompt::default()))
        .entity(Entity::new("ada").player(true).at([0.0, 0.5, 0.0]).body(ball(0.3)));
    let mut play = Play::new(scene.build().unwrap());
    assert!(
        play_until(&mut play, 0.5).iter().all(|it| it.event().is_none_or(|it| it.on.is_none()))
    );
    assert_eq!(after(&mut play, Action::convert("owl", "alert"), 1.0), ["spot owl ada convert"]);
    assert_eq!(
        after(&mut play, Action::convert("lever", "handy"), 1.5),
        ["offer lever ada convert"]
    );
    assert_eq!(after(&mut play, Action::revert("owl"), 2.0), ["lose owl ada convert"]);
    assert_eq!(after(&mut play, Action::revert("lever"), 2.5), ["withdraw lever ada convert"]);
}

#[test]
fn nobody_gets_what_they_have_not_got() {
    let parts = Body::of_parts([
        Part::new("head", Shape::Sphere { radius: 0.1 }),
        Part::new("trunk", Shape::Sphere { radius: 0.2 }),
    ]);
    let scene = pad()
        .kind(Kind::new("hard").solid(Shape::Sphere { radius: 1.0 }))
        .kind(Kind::new("heron").body(parts))
        .kind(Kind::new("walking").body(ball(0.2).walk(1.0)))
        .kind(Kind::new("huge").scale(1000.0))
        .kind(Kind::new("vast").zone(Zone::new(Shape::Box { size: [100_000.0; 3] })))
        .entity(Entity::new("both").scale(1000.0).zone(cube(1.0)));
    let mut play = Play::new(scene.build().unwrap());
    play.step();
    let mut why = |what: &str, to: &str| {
        play.act(Action::convert(what, to)).unwrap();
        let refused = play.step().iter().find_map(|entry| match &entry.what {
            Happening::Refused { why, .. } => Some(why.clone()),
            _ => None,
        });
        refused.unwrap_or_else(|| panic!("{what} became {to}"))
    };
    assert_eq!(why("pad", "hard"), Refusal::Lacks("a solid".into()));
    assert_eq!(why("ada", "heron"), Refusal::Lacks("a body of 2 parts".into()));
    assert_eq!(why("ada", "walking"), Refusal::Lacks("legs to walk with".into()));
    assert_eq!(why("ada", "wide"), Refusal::Lacks("a zone".into()));
    assert!(matches!(why("both", "vast"), Refusal::Unfit(_)));
}

#[test]
fn a_kind_that_gives_what_stays_is_no_kind_to_convert_to() {
    let wrong = |kind: Kind| {
        let reaction = Reaction::on(Trigger::Start).then(Action::convert("pad", kind.name()));
        let errors = pad().kind(kind).reaction(reaction).build().unwrap_err();
        errors.iter().next().unwrap().to_string()
    };
    let place = "reaction[0].do[0].to: ";
    let said = wrong(Kind::new("wet").tags(["wet"]));
    assert_eq!(said, format!("{place}nothing can be converted to `wet`, which gives `tags`"));
    let said = wrong(Kind::new("load").carry(Carry::default()));
    assert_eq!(said, format!("{place}nothing can be converted to `load`, which gives `carry`"));
    let said = wrong(Kind::new("tall").body(ball(1.0)));
    assert_eq!(said, "reaction[0].do[0].convert: `convert` needs a body, and `pad` has none");
    let unknown = Reaction::on(Trigger::Start).then(Action::convert("pad", "wid"));
    let errors = pad().reaction(unknown).build().unwrap_err();
    assert_eq!(errors.to_string(), format!("{place}there is no kind named `wid`"));
}

#[cfg(feature = "serde")]
#[test]
fn conversions_are_saved() {
    let mut play = Play::new(pad().build().unwrap());
    after(&mut play, Action::convert("pad", "wide"), 1.0);
    let saved = play.save();
    let mut later = Play::new(pad().build().unwrap());
    later.load(&saved).unwrap();
    assert_eq!(later.state(), play.state());
    assert_eq!(after(&mut later, Action::revert("pad"), 2.0), ["exit pad ada convert"]);
    let bare = || {
        let ada = Entity::new("ada").tags(["red"]).at([3.0, 0.0, 0.0]).body(ball(0.2));
        Scene::builder("Yard").entity(Entity::new("pad").zone(cube(2.0))).entity(ada)
    };
    let why = Play::new(bare().build().unwrap()).load(&saved).unwrap_err();
    assert_eq!(why.to_string(), "the scene has not got what was saved: the kind `wide`");
    let no_zone = bare().kind(Kind::new("wide").solid(Shape::Sphere { radius: 1.0 }));
    let why = Play::new(no_zone.build().unwrap()).load(&saved).unwrap_err();
    assert_eq!(why.to_string(), "`pad` is another than when it was saved");
    let tagged = bare().kind(Kind::new("wide").tags(["wet"]));
    let why = Play::new(tagged.build().unwrap()).load(&saved).unwrap_err();
    assert!(why.to_string().contains("wide"), "{why}");
}

const ZONES: [&str; 3] = ["pool", "mat", "ring"];
const CROWD: [&str; 4] = ["one0", "one1", "one2", "one3"];
const KINDS: [&str; 5] = ["small", "large", "round", "picky", "dim"];

/// Zones and a crowd, and kinds for each of them.
fn fair(c: &mut Chance) -> Scene {
    let sizes = [Shape::Box { size: [0.5; 3] }, Shape::Capsule { radius: 0.3, height: 1.6 }];
    let mut scene = Scene::builder("Fair")
        .kind(Kind::new("small").zone(cube(0.7)))
        .kind(Kind::new("large").zone(cube(5.0)))
        .kind(Kind::new("round").zone(Zone::new(Shape::Sphere { radius: 1.5 })).scale(1.3))
        .kind(Kind::new("picky").admit(Admit::tags(["red"])))
        .kind(Kind::new("dim").layers(["dim"]))
        .kind(Kind::new("fat").body(ball(1.0)));
    for zone in ZONES {
        scene = scene.entity(Entity::new(zone).at(place(c)).zone(cube(2.0)));
    }
    for (number, who) in CROWD.into_iter().enumerate() {
        let tags = if number % 2 == 0 { vec!["red"] } else { vec![] };
        let body = Body::new(sizes[number % 2].clone());
        scene = scene.entity(Entity::new(who).at(place(c)).tags(tags).body(body));
    }
    scene.build().unwrap()
}

/// Something that a host does with the fair.
fn stir(play: &mut Play, c: &mut Chance) {
    for who in CROWD {
        let to = place(c);
        if may(c, 0.6) {
            play.drive(who, to).unwrap();
        }
    }
    let zone = one(c, &ZONES);
    let action = match (c.next() * 6.0) as u32 {
        0 | 1 => Action::convert(zone, one(c, &KINDS)),
        2 => Action::revert(zone),
        3 => Action::convert(one(c, &CROWD), one(c, &["fat", "dim"])),
        4 => Action::revert(one(c, &CROWD)),
        _ => Action::move_to(zone, one(c, &CROWD)).over(0.1).into(),
    };
    play.act(action).unwrap();
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 60, ..ProptestConfig::default() })]

    /// After each step those are inside whom the shapes, as they are then, meet; and going back, or saving
    /// and loading, at any moment changes nothing.
    #[test]
    fn whoever_is_inside_is_so_by_what_all_are_now(seed in any::<u64>()) {
        let scene = fair(&mut Chance::new(seed));
        let (mut one, mut other) = (Play::new(scene.clone()), Play::new(scene));
        let (mut c, mut same) = (Chance::new(seed ^ 1), Chance::new(seed ^ 1));
        for tick in 0..60 {
            stir(&mut one, &mut c);
            stir(&mut other, &mut same);
            if tick % 3 == 0 {
                let state = other.state().clone();
                let fresh = other.scene().clone();
                if tick % 2 == 0 {
                    other = Play::new(fresh);
                }
                other.restore(state).unwrap();
            }
            let told: Vec<Entry> = one.step().to_vec();
            let again: Vec<Entry> = other.step().to_vec();
            prop_assert_eq!(words(&other, &again), words(&one, &told));
            one.state().assert_consistent(one.scene());
            // What happens at the very end of a step is told by the next: look a moment later.
            one.advance(one.now() + Time::from_nanos(1));
            other.advance(other.now() + Time::from_nanos(1));
            for zone in ZONES {
                let on = one.scene().find(zone).unwrap();
                for who in CROWD {
                    let id = one.scene().find(who).unwrap();
                    let (here, there) = (one.pose(on).unwrap(), one.pose(id).unwrap());
                    let sort = hazuro::scene::Detector::Zone;
                    let meets = one.scene().would_meet((on, sort, &here), (id, &there));
                    let inside = one.occupants(zone).unwrap().contains(&id);
                    prop_assert_eq!(inside, meets && one.scene().admits(on, id), "{} {}", zone, who);
                }
            }
        }
    }
}
