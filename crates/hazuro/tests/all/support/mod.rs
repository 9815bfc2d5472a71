//! What the tests of the core share.
#![allow(dead_code, reason = "each test file uses its own share")]

use hazuro::geometry::{Pose, Shape};
use hazuro::glam::{DQuat, DVec3};
use hazuro::scene::{Body, Entity, EventKind, Legs, Zone};
use hazuro::{Entry, Event, Happening, Play, Problem, Scene, Time};
use proptest::prelude::*;

pub fn ball(radius: f64) -> Body {
    Body::new(Shape::Sphere { radius })
}

pub fn cube(edge: f64) -> Zone {
    Zone::new(Shape::Box { size: [edge; 3] })
}

/// A ball at x = -5 and a zone of 2 m at the origin.
pub fn yard() -> hazuro::scene::SceneBuilder {
    Scene::builder("Yard")
        .entity(Entity::new("ball").tags(["toy"]).at([-5.0, 0.0, 0.0]).body(ball(0.5)))
        .entity(Entity::new("pad").zone(cube(2.0)))
}

/// A walker of 3 m a second that jumps 1 m high.
pub fn person() -> Body {
    let legs = Legs { jump: 1.0, ..Legs::default() };
    Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0).legs(legs)
}

pub fn block(name: &str, at: [f64; 3], size: [f64; 3]) -> Entity {
    Entity::new(name).at(at).solid(Shape::Box { size })
}

/// Where an entity is.
pub fn at(play: &Play, name: &str) -> DVec3 {
    play.pose(name).unwrap().position
}

/// What went wrong.
pub fn problems(entries: &[Entry]) -> Vec<Problem> {
    let problem = |entry: &Entry| match &entry.what {
        Happening::Problem { problem, .. } => Some(problem.clone()),
        _ => None,
    };
    entries.iter().filter_map(problem).collect()
}

/// All entries from now until `seconds`.
pub fn play_until(play: &mut Play, seconds: f64) -> Vec<Entry> {
    play.advance(Time::from_secs(seconds)).to_vec()
}

pub fn events(entries: &[Entry]) -> Vec<Event> {
    entries.iter().filter_map(Entry::event).cloned().collect()
}

/// Events as `enter pad ball` and their seconds, without the start.
pub fn story(play: &Play, entries: &[Entry]) -> Vec<(String, f64)> {
    let scene = play.scene();
    let name = |id: Option<hazuro::EntityId>| id.map_or("-", |id| scene.name(id)).to_owned();
    let told = events(entries).into_iter().filter(|event| event.kind != EventKind::Start);
    told.map(|event| {
        let on = event.cue.clone().unwrap_or_else(|| name(event.on));
        let cause = event.cause.map_or(String::new(), |cause| format!(" {cause}"));
        (format!("{} {on} {}{cause}", event.kind, name(event.who)), event.time.secs())
    })
    .collect()
}

pub fn words(play: &Play, entries: &[Entry]) -> Vec<String> {
    story(play, entries).into_iter().map(|(words, _)| words).collect()
}

pub fn any_shape() -> impl Strategy<Value = Shape> {
    let length = 0.2..4.0_f64;
    prop_oneof![
        [length.clone(), length.clone(), length.clone()].prop_map(|size| Shape::Box { size }),
        (0.1..2.0_f64).prop_map(|radius| Shape::Sphere { radius }),
        (0.1..1.0_f64, 0.0..3.0_f64)
            .prop_map(|(radius, more)| Shape::Capsule { radius, height: 2.0 * radius + more }),
        (0.1..2.0_f64, 0.2..4.0_f64)
            .prop_map(|(radius, height)| Shape::Cylinder { radius, height }),
        (0.1..2.0_f64, 0.2..4.0_f64).prop_map(|(radius, height)| Shape::Cone { radius, height }),
        any_hull(),
    ]
}

/// A box with a corner pulled out and some points in and around it.
fn any_hull() -> impl Strategy<Value = Shape> {
    let more = prop::collection::vec([-1.0..1.0_f64, -1.0..1.0, -1.0..1.0], 0..12);
    ([0.2..2.0_f64, 0.2..2.0, 0.2..2.0], more).prop_map(|([x, y, z], more)| {
        let corners = [[x, 0.0, 0.0], [-x, 0.1, 0.0], [0.0, y, 0.1], [0.0, 0.0, z], [0.1, -y, -z]];
        Shape::Hull { points: corners.into_iter().chain(more).collect() }
    })
}

pub fn any_rotation() -> impl Strategy<Value = DQuat> {
    let number = -1.0..1.0_f64;
    [number.clone(), number.clone(), number.clone(), number]
        .prop_filter("too short to normalize", |q| q.iter().map(|n| n * n).sum::<f64>() > 0.01)
        .prop_map(|q| DQuat::from_array(q).normalize())
}

pub fn any_place(reach: f64) -> impl Strategy<Value = DVec3> {
    let number = -reach..reach;
    [number.clone(), number.clone(), number].prop_map(DVec3::from_array)
}

pub fn any_pose(reach: f64) -> impl Strategy<Value = Pose> {
    (any_place(reach), any_rotation()).prop_map(|(position, rotation)| Pose { position, rotation })
}
