//! Descriptions: what is looked up, what is refused, and who is told.

use crate::support;

use hazuro::geometry::{Pose, Posed, Shape, ShapeError};
use hazuro::glam::DQuat;
use hazuro::scene::{
    Action, Admit, Body, Condition, Entity, EventKind, Fault, Kind, Part, Reaction, SceneBuilder,
    SceneErrors, Selector, Trigger, Zone,
};
use hazuro::{Cause, Happening, Play, Problem, Refusal, Scene, Time};
use support::{ball, cube, events, play_until, words, yard};

/// The errors of a description, as text.
fn errors(scene: SceneBuilder) -> Vec<String> {
    let errors: SceneErrors = scene.build().expect_err("a bad scene");
    errors.iter().map(ToString::to_string).collect()
}

#[test]
fn every_name_is_looked_up() {
    let scene = yard()
        .entity(Entity::new("lost").kind("nothing").parent("nobody"))
        .entity(Entity::new("trap").zone(cube(1.0)).admit(
            Admit::tags(["tyo"]).and_kinds(["what"]).and_names(["bal"]).not(Admit::tags(["no"])),
        ))
        .reaction(
            Reaction::on(Trigger::enter("padd"))
                .then(Action::say("silence"))
                .then(Action::teleport("who", "nowhere"))
                .then(Action::move_to("paad", "home")),
        );
    let expected = [
        "entity[2].kind: there is no kind named `nothing`",
        "entity[2].parent: there is no entity named `nobody`",
        "entity[3].admit.tags[0]: there is no tag named `tyo`",
        "entity[3].admit.kinds[0]: there is no kind named `what`",
        "entity[3].admit.names[0]: there is no entity named `bal`",
        "entity[3].admit.not.tags[0]: there is no tag named `no`",
        "reaction[0].on.enter: there is no entity named `padd`",
        "reaction[0].do[1].to: there is no entity named `nowhere`",
        "reaction[0].do[2].move: there is no entity named `paad`",
        "reaction[0].do[2].to: there is no entity named `home`",
    ];
    assert_eq!(errors(scene), expected);
}

#[test]
fn faults_name_their_cure() {
    let cure = |scene: SceneBuilder| {
        let errors = scene.build().expect_err("a bad scene");
        let fault = errors.iter().next().unwrap().fault.clone();
        (fault.code(), fault.cure().unwrap_or_default())
    };
    let scene = || Scene::builder("Yard");
    let zone_child = scene()
        .entity(Entity::new("mill"))
        .entity(Entity::new("door").parent("mill").zone(cube(1.0)))
        .reaction(Reaction::on(Trigger::enter("mill")).then(Action::cue("x")));
    assert_eq!(
        cure(zone_child),
        ("no-detector", "`door` has one: wait for that instead".to_owned())
    );
    let zone_parent = scene()
        .entity(Entity::new("mill").zone(cube(1.0)))
        .entity(Entity::new("door").parent("mill"))
        .reaction(Reaction::on(Trigger::exit("door")).then(Action::cue("x")));
    assert_eq!(
        cure(zone_parent),
        ("no-detector", "`mill` has one: wait for that instead".to_owned())
    );
    let none = scene()
        .entity(Entity::new("mill"))
        .reaction(Reaction::on(Trigger::inside("mill")).then(Action::cue("x")));
    assert_eq!(cure(none), ("no-detector", "give `mill` a zone".to_owned()));
    let twice = scene().entity(Entity::new("a")).entity(Entity::new("a"));
    assert_eq!(cure(twice), ("duplicate-name", "the first one is at entity[0]".to_owned()));
    let start = scene().reaction(Reaction::on(Trigger::Start).then(Action::hide("on")));
    assert_eq!(cure(start), ("nobody-meant", "name the entity".to_owned()));
}

#[test]
fn numbers_are_checked() {
    let body = |body: Body| Scene::builder("Yard").entity(Entity::new("a").body(body));
    for (scene, expected) in [
        (Scene::builder("Yard").rate(0), "scene.rate: 0 is not a rate"),
        (Scene::builder("Yard").rate(10_001), "scene.rate: 10001 is not a rate"),
        (body(ball(0.0)), "entity[0].body.sphere: a sphere's radius is 0"),
        (body(ball(2e6)), "entity[0].body.sphere: a sphere's radius is 2000000"),
        (body(ball(1.0).walk(f64::INFINITY)), "entity[0].body.walk: inf is not a speed"),
        (body(Body::of_parts([])), "entity[0].body.parts: a body needs at least one part"),
        (
            body(Body::of_parts(
                ["a", "a"].map(|name| Part::new(name, Shape::Sphere { radius: 1.0 })),
            )),
            "entity[0].body.parts[1].name: there is already a part named `a`",
        ),
        (
            Scene::builder("Yard").entity(Entity::new("a").at([f64::NAN, 0.0, 0.0])),
            "entity[0].at[0]: NaN is not a coordinate",
        ),
        (
            Scene::builder("Yard").entity(
                Entity::new("a")
                    .at(Pose { rotation: DQuat::from_xyzw(0.0, 1.0, 0.0, 1.0), ..Pose::IDENTITY }),
            ),
            "entity[0].rotation: a rotation is a quaternion",
        ),
        (yard().text("a", "{where}"), "texts.a: the text has {where}"),
        (
            yard().reaction(Reaction::on(Trigger::enter("pad")).after(-1.0)),
            "reaction[0].after: -1 is not 0, or a number of seconds",
        ),
        (
            yard().reaction(Reaction::on(Trigger::enter("pad")).cooldown(f64::NAN)),
            "reaction[0].cooldown: NaN is not a number of seconds",
        ),
    ] {
        let found = errors(scene);
        assert_eq!(found.len(), 1, "{found:?}");
        assert!(found[0].starts_with(expected), "{} for {expected}", found[0]);
    }
    let flat =
        Shape::Hull { points: vec![[0.0; 3], [1.0, 0.0, 0.0], [2.0, 0.0, 0.0], [3.0, 0.0, 1e-9]] };
    assert_eq!(hazuro::geometry::Convex::new(&flat), Err(ShapeError::FlatHull));
}

#[test]
fn kinds_give_what_entities_do_not() {
    let scene = Scene::builder("Yard")
        .kind(
            Kind::new("lamp")
                .tags(["light"])
                .zone(cube(4.0))
                .enabled(false)
                .admit(Admit::tags(["moth"])),
        )
        .entity(Entity::new("moth").tags(["moth"]).body(ball(0.1)))
        .entity(Entity::new("dark").kind("lamp"))
        .entity(Entity::new("bright").kind("lamp").tags(["big"]).enabled(true))
        .entity(
            Entity::new("open").kind("lamp").enabled(true).admit(Admit::default()).zone(cube(1.0)),
        )
        .entity(Entity::new("stone").at([0.3, 0.0, 0.0]).body(ball(0.1)))
        .build()
        .unwrap();
    let bright = scene.find("bright").unwrap();
    assert_eq!(scene.tags_of(bright).collect::<Vec<_>>(), ["light", "big"]);
    assert!(scene.kinds_of(bright).map(Kind::name).eq(["lamp"]));
    assert_eq!(scene.select(&Selector::from("kind:lamp")).unwrap().len(), 3);
    assert_eq!(scene.select(&Selector::from("tag:big")).unwrap(), [bright]);
    let mut play = Play::new(scene);
    let entries = play_until(&mut play, 0.1);
    let expected =
        ["enter bright moth appear", "enter open moth appear", "enter open stone appear"];
    assert_eq!(words(&play, &entries), expected);
}

#[test]
fn one_reaction_serves_a_whole_kind() {
    let pad = |name: &str, x: f64| Entity::new(name).kind("pad").at([x, 0.0, 0.0]);
    let scene = Scene::builder("Yard")
        .kind(Kind::new("pad").zone(cube(1.0)))
        .entity(Entity::new("ball").at([-3.0, 0.0, 0.0]).body(ball(0.1)))
        .entity(pad("one", 0.0))
        .entity(pad("two", 2.0))
        .reaction(
            Reaction::on(Trigger::enter("kind:pad"))
                .when(Condition::new("on two", |facts| {
                    facts.on().is_some_and(|on| facts.name(on) == "two")
                }))
                .then(Action::add("twos", 1)),
        )
        .reaction(
            Reaction::on(Trigger::enter("kind:pad"))
                .then(Action::disable("on"))
                .then(Action::hide("who")),
        )
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let ball = play.scene().find("ball").unwrap();
    play.drive("ball", [5.0, 0.0, 0.0]).unwrap();
    let entries = play_until(&mut play, 0.5);
    let expected = [
        "enter one ball move",
        "exit one ball disable",
        "enter two ball move",
        "exit two ball disable",
    ];
    assert_eq!(words(&play, &entries), expected);
    assert_eq!(play.count("twos"), 1);
    assert!(!hazuro::scene::Facts::is_visible(&play.facts(), ball));
}

#[test]
fn switches_and_removal_reach_the_children() {
    let scene = Scene::builder("Yard")
        .entity(Entity::new("mill"))
        .entity(Entity::new("wheel").parent("mill"))
        .entity(Entity::new("race").parent("wheel").zone(cube(2.0)))
        .entity(Entity::new("duck").body(ball(0.2)))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.step();
    let mut causes = Vec::new();
    for action in [
        Action::disable("wheel"),
        Action::disable("mill"),
        Action::enable("wheel"),
        Action::enable("mill"),
    ] {
        play.act(action).unwrap();
        causes.extend(events(play.step()).into_iter().map(|event| event.cause));
    }
    assert_eq!(causes, [Some(Cause::Disable), Some(Cause::Enable)], "on only when all are on");
    play.remove("mill").unwrap();
    causes.extend(events(play.step()).into_iter().map(|event| event.cause));
    play.act(Action::enable("mill")).unwrap();
    causes.extend(events(play.step()).into_iter().map(|event| event.cause));
    assert_eq!(causes[2..], [Some(Cause::Remove)], "what is removed does not come back");
}

#[test]
fn cues_hand_on_who_and_on_and_say_fills_texts() {
    let scene = yard()
        .text("hi", "{who} at {on}")
        .reaction(Reaction::on(Trigger::enter("pad")).then(Action::cue("greet")))
        .reaction(
            Reaction::on(Trigger::cue("greet"))
                .then(Action::say("hi"))
                .then(Action::disable("who")),
        )
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.act(Action::cue("greet")).unwrap();
    play.place("ball", [0.0, 0.0, 0.0]).unwrap();
    let entries = play_until(&mut play, 0.5);
    let said: Vec<&str> = entries
        .iter()
        .filter_map(|entry| match &entry.what {
            Happening::Said { text, .. } => Some(text.as_str()),
            _ => None,
        })
        .collect();
    assert_eq!(said, ["nobody at nobody", "ball at pad"]);
    let problems = entries.iter().filter(|entry| {
        matches!(
            &entry.what,
            Happening::Problem { problem: Problem::NobodyMeant { word: "who", .. }, .. }
        )
    });
    assert_eq!(problems.count(), 1, "a cue from outside has no subject to disable");
}

#[test]
fn a_refused_teleport_is_reported() {
    let scene = yard()
        .entity(Entity::new("far").at([30.0, 0.0, 0.0]))
        .reaction(Reaction::on(Trigger::enter("pad")).then(Action::teleport("who", "far")))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    play.place("ball", [0.0, 0.0, 0.0]).unwrap();
    let entries = play_until(&mut play, 0.5);
    let refused = entries.iter().find_map(|entry| match &entry.what {
        Happening::Refused { why, .. } => Some(why.clone()),
        _ => None,
    });
    assert_eq!(refused, Some(Refusal::JustArrived));
    assert_eq!(play.pose("ball").unwrap().position.x, 0.0);
}

#[test]
fn a_condition_that_fails_is_a_problem_and_counts_as_not_holding() {
    let bad = Condition::fallible("bad", |_| Err("it cannot be known".into()));
    let scene = yard()
        .reaction(Reaction::on(Trigger::Start).when(bad).then(Action::add("ran", 1)))
        .build()
        .unwrap();
    let mut play = Play::new(scene);
    let entries = play_until(&mut play, 0.1);
    assert_eq!(play.count("ran"), 0);
    let problem = entries.iter().find_map(|entry| match &entry.what {
        Happening::Problem { by, problem, .. } => {
            Some(format!("{}: {}", by.describe(play.scene()), problem.describe(play.scene())))
        }
        _ => None,
    });
    let expected = "reaction 1 (on start): the condition could not be tested: it cannot be known";
    assert_eq!(problem.as_deref(), Some(expected));
}

#[test]
fn words_of_events_and_causes_are_each_others_inverse() {
    for kind in EventKind::ALL {
        assert_eq!(EventKind::from_word(kind.word()), Some(*kind));
    }
    assert_eq!(EventKind::from_word("explode"), None);
    let triggers = [Trigger::first_enter("pad"), Trigger::last_exit("kind:pad"), Trigger::cue("x")];
    assert_eq!(triggers.map(|t| t.to_string()), ["first enter pad", "last exit kind:pad", "cue x"]);
}

#[test]
fn what_a_host_names_wrongly_changes_nothing() {
    let mut play = Play::new(yard().build().unwrap());
    let before = play.state().clone();
    assert!(matches!(play.place("bull", [0.0; 3]), Err(Fault::Unknown { .. })));
    assert!(matches!(play.act(Action::enable("who")), Err(Fault::NobodyMeant { .. })));
    let endless = Action::move_home("pad").over(f64::NAN);
    assert!(matches!(play.act(endless), Err(Fault::Number { .. })));
    assert!(play.remove("bull").is_err() && play.occupants("bull").is_err());
    assert_eq!(play.state(), &before);
    assert!(play.advance(Time::ZERO).is_empty(), "no time, nothing happens");
}

#[test]
fn a_state_of_another_scene_cannot_be_restored() {
    let other = Play::new(
        Scene::builder("Other")
            .entity(Entity::new("a").zone(Zone::new(Shape::Sphere { radius: 1.0 })))
            .build()
            .unwrap(),
    );
    let refused = Play::new(yard().build().unwrap()).restore(other.state().clone());
    assert_eq!(refused, Err(Fault::OtherScene));
}

#[test]
fn layers_scale_and_shapes_that_cannot_be_are_found_where_they_stand() {
    let cube = || Shape::Box { size: [1.0; 3] };
    let told = |scene: SceneBuilder| -> Vec<String> {
        scene.build().unwrap_err().iter().map(ToString::to_string).collect()
    };
    let many = (0..64).map(|n| format!("layer{n}"));
    let crowd = Scene::builder("Yard").entity(Entity::new("gate").layers(many));
    assert_eq!(
        told(crowd),
        ["entity[0].layers[63]: the layer `layer63` is one too many: a scene has at most 64, \
          `default` included"]
    );
    let pad = Entity::new("pad").zone(Zone::new(cube())).admit(Admit::layers(["feet"]));
    assert_eq!(
        told(Scene::builder("Yard").entity(pad)),
        ["entity[0].admit.layers[0]: there is no layer named `feet`"]
    );
    let speck = Kind::new("speck").solid(Shape::Sphere { radius: 5e-4 });
    let scaled = Entity::new("dust").kind("speck").scale(0.001);
    assert_eq!(
        told(Scene::builder("Yard").kind(speck).entity(scaled)),
        ["entity[0].scale: a sphere's radius is 0.0000005, but must be from 0.000001 to 1000000 \
          metres"]
    );
    let shapes = vec![Posed::new(cube()), Posed::new(Shape::Sphere { radius: -1.0 })];
    let lump = Entity::new("lump").solid(Shape::Any { shapes });
    let pit = Entity::new("pit").body(Body::new(Shape::HalfSpace));
    let field = Shape::Heights { spacing: 1.0, rows: vec![vec![0.0; 2]; 2] };
    let hill = Entity::new("hill").zone(Zone::new(field));
    assert_eq!(
        told(Scene::builder("Yard").entity(lump).entity(pit).entity(hill)),
        [
            "entity[0].solid.any[1].sphere: a sphere's radius is -1, but must be from 0.000001 to \
             1000000 metres",
            "entity[1].body.half_space: a `half_space` has no end, so it cannot be here",
            "entity[2].zone.heights: a `heights` cannot be here, only convex shapes can: box, \
             sphere, capsule, cylinder, cone, hull",
        ]
    );
}
