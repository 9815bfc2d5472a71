//! Scenes: written and read again, as TOML and JSON; conditions and their bounds; the schemas.

use std::sync::Arc;

use hazuro::geometry::{Pose, Posed, Shape};
use hazuro::glam::DQuat;
use hazuro::motion::Easing;
use hazuro::scene::{
    Action, Admit, Again, Alter, Blocked, Body, Carry, Change, Choose, Condition, Effect, Entity,
    EventKind, Grant, Kind, Legs, Pace, Part, Pickup, Reaction, Route, SceneBuilder, Selector,
    Stacking, Stat, Text, Then, Trigger, Zone,
};
use hazuro::{Happening, Play, Problem, Scene, Time};
use hazuro_format::{Source, write_scene};
use hazuro_script::{locate_problem, read_scene};
use hazuro_verify::{read_playtest, run_playtest};
use proptest::prelude::*;
use proptest::sample::select;

const NAMES: [&str; 4] = ["mill", "miller's cat", "weir.north", "Schütz 2"];

fn shape() -> impl Strategy<Value = Shape> {
    prop_oneof![
        [0.1..9.0_f64, 0.1..9.0, 0.1..9.0].prop_map(|size| Shape::Box { size }),
        (0.1..9.0_f64).prop_map(|radius| Shape::Sphere { radius }),
        (0.1..1.0_f64, 2.0..9.0_f64).prop_map(|(radius, height)| Shape::Capsule { radius, height }),
        (0.1..1.0_f64, 0.1..9.0_f64)
            .prop_map(|(radius, height)| Shape::Cylinder { radius, height }),
        (0.1..1.0_f64, 0.1..9.0_f64).prop_map(|(radius, height)| Shape::Cone { radius, height }),
        (0.1..9.0_f64).prop_map(|x| Shape::Hull {
            points: vec![[x, 0.0, 0.0], [0.0, x, 0.0], [0.0, 0.0, x], [-x, -x, -x]],
        }),
        (0.1..9.0_f64, pose(), pose()).prop_map(|(radius, one, other)| {
            let ball = |pose| Posed::new(Shape::Sphere { radius }).at(pose);
            let pair = Posed::new(Shape::Any { shapes: vec![ball(one)] }).at(other);
            Shape::Any { shapes: vec![ball(other), pair] }
        }),
    ]
}

/// Those that only solids, and zones, can have.
fn ground() -> impl Strategy<Value = Shape> {
    prop_oneof![
        Just(Shape::HalfSpace),
        [-9.0..9.0_f64, -9.0..9.0, -9.0..9.0].prop_map(|[a, b, c]| Shape::Heights {
            spacing: 0.5,
            rows: vec![vec![a, b, c], vec![c, a, b]],
        }),
        (0.1..9.0_f64).prop_map(|x| Shape::Mesh {
            points: vec![[x, 0.0, 0.0], [0.0, x, 0.0], [0.0, 0.0, x]],
            triangles: vec![[0, 1, 2], [2, 1, 0]],
        }),
    ]
}

fn pose() -> impl Strategy<Value = Pose> {
    let place = [-9.0..9.0_f64, -9.0..9.0, -9.0..9.0];
    let turned = prop_oneof![
        Just(DQuat::IDENTITY),
        (0..360_i32).prop_map(|degrees| DQuat::from_rotation_y(f64::from(degrees).to_radians())),
        [0.1..1.0_f64, 0.1..1.0, 0.1..1.0, 0.1..1.0].prop_map(|q| DQuat::from_array(q).normalize()),
    ];
    (place, turned).prop_map(|(place, rotation)| Pose { rotation, ..Pose::from(place) })
}

fn body() -> impl Strategy<Value = Body> {
    let whole = shape().prop_map(Body::new);
    let parts = (shape(), pose(), shape()).prop_map(|(head, at, hand)| {
        Body::of_parts([Part::new("head", head).at(at), Part::new("hand", hand)])
    });
    let legs = (0.1..9.0_f64, 0.0..2.0_f64, 1..89_i32).prop_map(|(walk, jump, slope)| {
        let slope = f64::from(slope).to_radians();
        (walk, Legs { jump, slope, ..Legs::default() })
    });
    (prop_oneof![whole, parts], prop::option::of(legs), any::<bool>()).prop_map(
        |(body, legs, blocks)| {
            let body = body.blocks(blocks);
            legs.map_or(body.clone(), |(speed, legs)| body.walk(speed).legs(legs))
        },
    )
}

fn admit() -> impl Strategy<Value = Admit> {
    (any::<bool>(), any::<bool>(), select(&NAMES[..])).prop_map(|(tags, not, name)| {
        let rule = if tags { Admit::tags(["wet"]) } else { Admit::kinds(["thing"]) };
        if not {
            rule.not(Admit::names([name]).and_layers(["reeds"]))
        } else {
            rule.and_names([name]).and_layers(["default"])
        }
    })
}

fn entity(name: &'static str) -> impl Strategy<Value = Entity> {
    let zone = (shape(), prop::option::of(0.1..9.0_f64));
    let parts = (
        pose(),
        any::<bool>(),
        prop::option::of(zone),
        prop::option::of(admit()),
        prop::option::of(body()),
        prop::option::of(any::<bool>()),
        prop::option::of(prop_oneof![shape(), ground()]),
        prop::option::of(0.5..2.0_f64),
    );
    parts.prop_map(move |(pose, of_kind, zone, admit, body, enabled, solid, scale)| {
        let mut entity = Entity::new(name).at(pose).tags(["wet"]).layers(["reeds"]);
        if let Some(scale) = scale {
            entity = entity.scale(scale);
        }
        if of_kind {
            entity = entity.kind("thing");
        }
        if let Some((shape, every)) = zone {
            let zone = Zone::new(shape);
            entity = entity.zone(every.map_or(zone.clone(), |seconds| zone.inside_every(seconds)));
        }
        if let Some(admit) = admit {
            entity = entity.admit(admit);
        }
        if let Some(body) = body {
            let carry = Carry { mass: 3.0, bounce: 0.5, gravity: false, ..Carry::default() };
            let route = Route {
                pace: Pace::Rate(2.0),
                then: Then::Back,
                blocked: Blocked::Stop,
                wait: 0.5,
                ..Route::through(["home", "mill"])
            };
            entity = entity.body(body).carry(carry).route(route);
        }
        if let Some(enabled) = enabled {
            entity = entity.enabled(enabled).visible(!enabled);
        }
        if let Some(solid) = solid {
            entity = entity.solid(solid);
        }
        entity
    })
}

fn action() -> impl Strategy<Value = Action> {
    let name = || select(&NAMES[..]);
    prop_oneof![
        (name(), name(), 0.0..9.0_f64).prop_map(|(what, to, over)| {
            Action::move_to(what, to).over(over).ease(Easing::EASE_OUT).into()
        }),
        name().prop_map(|what| Action::move_home(what).into()),
        name().prop_map(|to| Action::teleport("who", to).into()),
        moving_actions(),
        name().prop_map(Action::toggle),
        Just(Action::hide("on")),
        any::<i32>().prop_map(|amount| Action::add("tokens", i64::from(amount))),
        Just(Action::say("hello")),
        Just(Action::cue("opened")),
        more_actions(),
    ]
}

fn moving_actions() -> impl Strategy<Value = Action> {
    let name = || select(&NAMES[..]);
    prop_oneof![
        (name(), name(), select(Choose::ALL)).prop_map(|(one, other, choose)| {
            let teleport = Action::teleport("who", one).or_to(other).choose(choose);
            teleport.keep_facing().keep_offset().only_if_free().into()
        }),
        name().prop_map(|to| Action::teleport("who", to).keep_speed().only_on_ground().into()),
        name().prop_map(|to| Action::walk("who", to)),
        Just(Action::halt("who")),
        Just(Action::jump("who")),
        Just(Action::run("kind:thing")),
        Just(Action::reverse("kind:thing")),
        (name(), any::<bool>()).prop_map(|(to, rate)| {
            let lead = Action::lead("who", [to, "mill"]);
            if rate { lead.rate(1.5) } else { lead.over(2.5).ease(Easing::EASE) }.into()
        }),
        (name(), -80..0_i32, 1..80_i32).prop_map(|(to, down, up)| {
            let [down, up] = [down, up].map(|it| f64::from(it).to_radians());
            Action::aim("on", to).rate(2_f64.to_radians()).pitch(down, up).into()
        }),
        name().prop_map(|to| Action::aim("who", to).into()),
        Just(Action::grab("kind:thing", "who")),
        Just(Action::drop("who")),
        (-90..90_i32).prop_map(|spin| {
            Action::throw("on", [0.5, 3.0, -6.0]).spin(f64::from(spin).to_radians()).into()
        }),
    ]
}

/// No time at all, or no less than may be waited.
fn delay() -> impl Strategy<Value = f64> {
    prop_oneof![Just(0.0), 0.001..9.0_f64]
}

fn more_actions() -> impl Strategy<Value = Action> {
    let name = || select(&NAMES[..]);
    let whole = || (-90..90_i32).prop_map(f64::from);
    prop_oneof![
        (name(), [whole(), whole(), whole()])
            .prop_map(|(what, way)| Action::move_by(what, way).over(1.5).into()),
        (whole(), any::<bool>()).prop_map(|(by, rate)| {
            let turn = Action::turn("who", by.to_radians());
            if rate { turn.rate(2_f64.to_radians()) } else { turn.over(0.5) }.into()
        }),
        name().prop_map(|to| Action::face("on", to).ease(Easing::EASE).into()),
        (any::<bool>(), any::<bool>()).prop_map(|(up, own)| {
            if own { Action::flag_of("who", "lit", up) } else { Action::flag("lit", up) }
        }),
        any::<bool>().prop_map(|on| Action::detect("who", on)),
        any::<bool>().prop_map(|on| Action::solid("kind:thing", on)),
        (whole(), any::<bool>()).prop_map(|(by, set)| {
            let change = if set { Change::Set(by) } else { Change::Add(by) };
            Action::stat("who", if set { "might" } else { "health" }, change)
        }),
        Just(Action::effect("tired", "who")),
        Just(Action::end_effect("tired", "tag:wet")),
        Just(Action::tag("who", "dry")),
        Just(Action::untag("who", "wet")),
        Just(Action::grant(
            Grant::default().count("tokens", 2).tag("rich").effect("tired").hands("mill"),
            "who"
        )),
        Just(Action::send(EventKind::Enter, "on", "who")),
        Just(Action::spawn("thing", "mill")),
        name().prop_map(Action::reset),
        name().prop_map(Action::remove),
        name().prop_map(|what| Action::attach(what, "who")),
        name().prop_map(Action::detach),
        Just(Action::stop("named")),
        delay().prop_map(Action::wait),
        name().prop_map(Action::wait_for),
    ]
}

fn reaction() -> impl Strategy<Value = Reaction> {
    let trigger = prop_oneof![
        any::<bool>().prop_map(|first| Trigger::Detected {
            event: EventKind::Enter,
            on: Selector::from("kind:thing"),
            edge: first,
            of: None,
            who: first.then(|| Selector::from("tag:wet")),
        }),
        any::<bool>().prop_map(|last| Trigger::Detected {
            event: EventKind::Exit,
            on: Selector::from("tag:wet"),
            edge: last,
            of: None,
            who: None,
        }),
        Just(Trigger::inside("mill")),
        Just(Trigger::cue("opened")),
    ];
    (trigger, delay(), any::<bool>(), prop::collection::vec(action(), 1..4)).prop_map(
        |(trigger, after, once, actions)| {
            let mut reaction = Reaction::on(trigger.clone()).after(after).cooldown(after / 2.0);
            if after > 5.0 {
                let condition = Condition::new("true", |_| true);
                reaction = reaction
                    .or(Trigger::cue("also"))
                    .until(trigger)
                    .until(Trigger::empty("kind:thing", "might"))
                    .every(after)
                    .times(3)
                    .order(-2)
                    .per(hazuro::scene::Per::Both)
                    .again(Again::Queue)
                    .when(condition)
                    .otherwise(actions[0].clone())
                    .then(Action::cue("first"))
                    .meanwhile();
            }
            if once {
                reaction = reaction.once();
            }
            actions.into_iter().fold(reaction, Reaction::then)
        },
    )
}

fn scene() -> impl Strategy<Value = SceneBuilder> {
    let entities = NAMES.map(entity);
    (entities, prop::collection::vec(reaction(), 0..4), 1..1000_u32).prop_map(
        |(entities, reactions, rate)| {
            let might = Stat { start: 2.0, least: -1.0, most: 9.5 };
            let grant = Grant::default().stat("might", 1.5).flag("lit").own_count("purse", 3);
            let thing = Kind::new("thing")
                .tags(["dry"])
                .zone(Zone::new(Shape::Sphere { radius: 1.0 }))
                .solid(Shape::Sphere { radius: 1.0 })
                .stat("might", might)
                .stat("health", Stat::default())
                .pickup(Pickup { grant, back_after: Some(2.5), limit: Some(1) })
                .stock(2);
            let tired = Effect::new("tired")
                .alter("might", Alter { add: -1.0, times: 0.5, rate: 0.25 })
                .seconds(4.0)
                .while_detected()
                .again(Stacking::Extend);
            let scene = Scene::builder("Round \"trip\"").rate(rate).seed(7).kind(thing);
            let scene = scene
                .text("hello", "Hello {who}\n— \\ok")
                .effect(tired)
                .flag("lit", true)
                .count("tokens", -3);
            let mut entities = entities.to_vec();
            entities[1] = entities[1].clone().parent("mill");
            // Something for each trigger to wait for.
            entities[0] = entities[0].clone().kind("thing");
            let scene = scene.text("gate", Text::new("en", "Gate").and("de", "Tor")).language("en");
            let named = Reaction::on(Trigger::Start).named("named").then(Action::wait(1.0));
            let scene = entities.into_iter().fold(scene.reaction(named), SceneBuilder::entity);
            reactions.into_iter().fold(scene, SceneBuilder::reaction)
        },
    )
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(128))]

    #[test]
    fn a_scene_written_and_read_again_is_the_same(scene in scene()) {
        let scene = scene.build().unwrap();
        let text = write_scene(&scene);
        let again = read_scene(&Source::new("again.toml", text.clone()));
        prop_assert!(again.is_ok(), "{:?}\n{text}", again);
        prop_assert_eq!(again.unwrap(), scene);
    }

    #[test]
    fn no_text_makes_the_reader_panic(text in "[\\[\\]{}=\"'a-z0-9., \n#-]{0,200}") {
        let _ = read_scene(&Source::new("any.toml", text.clone()));
        let _ = read_scene(&Source::new("any.json", text));
    }

    #[test]
    fn no_condition_makes_the_reader_panic(text in "[a-z0-9.,()\\[\\]<>=!&|+*/ \"-]{0,60}") {
        let scene = format!("[[reaction]]\non = {{ cue = \"x\" }}\nif = '''{text}'''\ndo = [{{ cue = \"y\" }}]");
        if let Ok(scene) = read_scene(&Source::new("any.toml", scene)) {
            let mut play = Play::new(scene);
            play.act(Action::cue("x")).unwrap();
            play.step();
        }
    }
}

#[test]
fn the_same_scene_in_json() {
    let json =
        r#"{"scene": {"name": "Yard"}, "entity": [{"name": "pad", "zone": {"box": [1, 2, 3]}}]}"#;
    let toml = "[scene]\nname = \"Yard\"\n[[entity]]\nname = \"pad\"\nzone = { box = [1, 2, 3] }";
    let json = read_scene(&Source::new("yard.json", json)).unwrap();
    assert_eq!(json, read_scene(&Source::new("yard.toml", toml)).unwrap());
    let bad =
        Source::new("bad.json", "{\"entity\": [\n  {\"name\": \"pad\", \"parent\": \"gate\"}\n]}");
    assert_eq!(read_scene(&bad).unwrap_err()[0].place().unwrap(), "bad.json:2:29");
}

/// Plays a scene of a ball in a pad whose `enter` has this condition. The count it raises, and
/// the problem, if there was one.
fn with_condition(condition: &str) -> (i64, Option<String>) {
    let text = format!(
        "[[entity]]\nname = \"ball\"\ntags = [\"toy\"]\nbody = {{ sphere = {{ radius = 1 }} }}\n\
         [[entity]]\nname = \"pad\"\nzone = {{ box = [1, 1, 1] }}\n\
         [[reaction]]\non = {{ enter = \"pad\" }}\nif = '''{condition}'''\ndo = [{{ count = \"hits\", add = 1 }}]"
    );
    let source = Source::new("yard.toml", text);
    let mut play = Play::new(read_scene(&source).unwrap_or_else(|found| panic!("{found:?}")));
    let entries = play.advance(Time::from_secs(0.1)).to_vec();
    let problem = entries.iter().find_map(|entry| match &entry.what {
        Happening::Problem { problem, .. } => {
            assert!(matches!(problem, Problem::Condition(_)));
            let scripts = hazuro_script::Scripts::default();
            let finding = locate_problem(&source, &scripts, play.scene(), entry).unwrap();
            assert_eq!(finding.place().as_deref(), Some("yard.toml:10:6"));
            Some(problem.describe(play.scene()))
        }
        _ => None,
    });
    (play.count("hits"), problem)
}

#[test]
fn conditions_ask_who_on_count_and_time() {
    for (condition, expected) in [
        ("true", 1),
        ("count.hits == 0 && time < 1", 1),
        ("count.hits > 0", 0),
        ("who.name == \"ball\" && \"toy\" in who.tags", 1),
        ("on.name == \"pad\" && on.occupied && who.kind == \"\"", 1),
        ("\"ball\" in on.occupants", 1),
        ("who.x > 0.5 || !who.enabled || !who.visible", 0),
    ] {
        assert_eq!(with_condition(condition), (expected, None), "{condition}");
    }
}

#[test]
fn conditions_are_bounded_and_their_failures_located() {
    for (condition, expected) in [
        ("count.hits", "it gives a number, not true or false"),
        ("1 / count.hits == 0", "Division by zero"),
        ("who.name + 1 > 2 - \"x\"", ""),
        ("[0, 1].map(|a| [0, 1].map(|b| a)).len() > 1", ""),
        ("range(0, 9000000000000000000).contains(3)", ""),
        ("{ let a = \"x\"; loop { a += a } }", "it takes more than"),
    ] {
        let Ok(found) = std::panic::catch_unwind(|| with_condition(condition)) else {
            continue; // Refused when it was read, which `bad_input` covers.
        };
        assert_eq!(found.0, 0, "{condition}");
        let problem = found.1.expect(condition);
        assert!(problem.contains(expected), "{condition}: {problem}");
    }
}

#[test]
fn a_failed_expectation_says_what_was_seen_and_what_stopped_it() {
    let scene = "[[entity]]\nname = \"ball\"\nat = [5, 0, 0]\nbody = { sphere = { radius = 1 } }\n\
                 [[entity]]\nname = \"pad\"\nzone = { box = [2, 2, 2] }";
    let scene = Arc::new(read_scene(&Source::new("yard.toml", scene)).unwrap());
    let text = "scene = \"yard.toml\"\nseconds = 3\n\
                tape = [{ at = 0, who = \"ball\", drive_to = [2.5, 0, 0], over = 1 }]\n\
                expect = [{ event = \"enter\", on = \"pad\", who = \"ball\" },\n\
                { event = \"enter\", never = true },\n\
                { value = \"time\", is = 2.0, at = 2.0 },\n\
                { value = \"time\", is = 9 }]";
    let playtest = read_playtest(&Source::new("yard.playtest.toml", text), scene).unwrap();
    let report = run_playtest(&playtest, None);
    let met: Vec<bool> = report.outcomes.iter().map(|outcome| outcome.met).collect();
    assert_eq!(met, [false, true, true, false]);
    assert_eq!(report.outcomes[0].line, 4);
    assert_eq!(report.outcomes[0].seen, "never");
    let why = [
        "ball was stopped at \"subject is in the shape\": came within 0.500 m at 1.000 s; it lay \
         west (-X)",
        "cure: bring `ball` 0.500 m west (-X), or make the shape of `pad` so much larger on that \
         side",
    ];
    assert_eq!(report.outcomes[0].why, why);
    assert_eq!(report.outcomes[3].seen, "it is 3.0");
}
