//! Pointers: what a point of the screen is on, who hears of it, and how things are dragged.

use crate::support;

use hazuro::geometry::{Pose, Ray, Shape};
use hazuro::glam::DVec3;
use hazuro::scene::{
    Action, Admit, Camera, Drag, Entity, EventKind, Lens, Limits, Pointer, Reaction, SceneBuilder,
    Trigger,
};
use hazuro::{Button, Entry, Event, Happening, Input, Origin, Play, Scene, Spot};
use proptest::prelude::*;
use support::{ball, cube, events, play_until, words};

fn block(size: [f64; 3]) -> Shape {
    Shape::Box { size }
}

/// A player with a camera 10 m in front of a bell.
fn yard() -> SceneBuilder {
    let camera = Camera { viewport: [800.0, 600.0], ..Camera::default() };
    Scene::builder("Yard")
        .entity(Entity::new("miller").player(true).at([0.0, 0.0, 10.0]).body(ball(0.3)))
        .entity(Entity::new("eye").parent("miller").camera(camera))
        .entity(Entity::new("bell").solid(block([1.0; 3])).pointer(Pointer::default()))
}

fn start(scene: SceneBuilder) -> Play {
    Play::new(scene.build().unwrap())
}

fn point(play: &mut Play, at: impl Into<Spot>, button: Button) -> Vec<Event> {
    let who = play.scene().find("miller").unwrap();
    play.schedule(play.now(), Input::Point { who, at: at.into(), button }).unwrap();
    let until = play.now().secs() + 0.05;
    let told = events(&play_until(play, until));
    told.into_iter().filter(|event| event.kind != EventKind::Start).collect()
}

fn said(play: &Play, events: &[Event]) -> Vec<String> {
    let entry = |event: &Event| Entry {
        number: 1,
        origin: Origin::Start,
        step: None,
        what: Happening::Event(event.clone()),
    };
    let entries: Vec<Entry> = events.iter().map(entry).collect();
    words(play, &entries)
}

fn told(play: &mut Play, at: impl Into<Spot>, button: Button) -> Vec<String> {
    let events = point(play, at, button);
    said(play, &events)
}

const MIDDLE: [f64; 2] = [400.0, 300.0];

#[test]
fn a_click_is_down_and_up_on_the_same_thing() {
    let mut play = start(yard());
    assert_eq!(told(&mut play, MIDDLE, Button::Stays), ["hover bell miller move"]);
    assert_eq!(told(&mut play, MIDDLE, Button::Down), ["pointer_down bell miller"]);
    let click = ["pointer_up bell miller", "click bell miller"];
    assert_eq!(told(&mut play, MIDDLE, Button::Up), click);
    assert_eq!(told(&mut play, MIDDLE, Button::Up), [""; 0], "up without down");
    // Let go beside it.
    told(&mut play, MIDDLE, Button::Down);
    assert_eq!(told(&mut play, [0.0, 0.0], Button::Up), ["unhover bell miller move"]);
    let events = point(&mut play, MIDDLE, Button::Click);
    let click = events.last().unwrap();
    assert_eq!(click.kind, EventKind::Click);
    assert_eq!(click.meeting.unwrap().point.to_array(), [0.0, 0.0, 0.5]);
}

#[test]
fn a_click_on_nothing_is_told_with_what_was_there() {
    let wall = Entity::new("wall").at([3.0, 0.0, 0.0]).solid(block([1.0, 4.0, 1.0]));
    let mut play = start(yard().entity(wall));
    let (wall, eye) = (play.scene().find("wall"), play.scene().find("eye"));
    let on_wall = play.scene().find("wall").unwrap();
    let missed = point(&mut play, on_wall, Button::Click);
    assert_eq!(said(&play, &missed), ["miss eye miller"]);
    assert_eq!((missed[0].was, missed[0].on), (wall, eye));
    let there = missed[0].point().unwrap();
    assert!((there.z - 0.5).abs() < 1e-9 && (there.x - 3.0).abs() < 0.2, "its front: {there}");
    // Into the sky: there is nothing, and so no point.
    let sky = point(&mut play, [10.0, 10.0], Button::Click);
    assert_eq!((said(&play, &sky), sky[0].point()), (vec!["miss eye miller".to_owned()], None));
    // Neither half of a click on something is one on nothing.
    told(&mut play, MIDDLE, Button::Down);
    assert_eq!(told(&mut play, [10.0, 10.0], Button::Up), ["unhover bell miller move"]);
    told(&mut play, [10.0, 10.0], Button::Down);
    let up = told(&mut play, MIDDLE, Button::Up);
    assert_eq!(up, ["hover bell miller move", "pointer_up bell miller"]);
}

#[test]
fn a_thing_goes_to_the_point_that_was_tapped_or_as_far_as_its_line_goes() {
    let tapped = |movement: hazuro::scene::Move, at: [f64; 2]| {
        let court =
            Entity::new("court").solid(block([20.0, 20.0, 0.1])).pointer(Pointer::default());
        let camera = Camera { viewport: [800.0, 600.0], ..Camera::default() };
        let scene = Scene::builder("Court")
            .entity(Entity::new("miller").player(true).at([0.0, 0.0, 10.0]).body(ball(0.3)))
            .entity(Entity::new("eye").parent("miller").camera(camera))
            .entity(court)
            .entity(Entity::new("rail").at(Pose::from([0.0, -1.0, 0.0]).turned(1.0)))
            .entity(Entity::new("paddle").parent("rail").at([0.0, 0.0, 0.5]))
            .reaction(Reaction::on(Trigger::click("court")).then(movement));
        let mut play = start(scene);
        let before = play.pose("paddle").unwrap();
        let entries = point(&mut play, at, Button::Click);
        let click = entries.iter().find(|event| event.kind == EventKind::Click).unwrap();
        (before, play.pose("paddle").unwrap(), click.point().unwrap())
    };
    let paddle = || Action::move_to_point("paddle");
    let (_, there, point) = tapped(paddle(), [500.0, 200.0]);
    assert!(there.position.distance(point) < 1e-9, "{there:?} is where it was tapped: {point}");
    // Along the world's X, whatever carries it and however that is turned, and not turned itself.
    for axis in [[1.0, 0.0, 0.0], [-7.0, 0.0, 0.0]] {
        let (before, there, point) = tapped(paddle().along(axis), [500.0, 200.0]);
        let (from, to) = (before.position, there.position);
        assert!(to.distance(from.with_x(point.x)) < 1e-9, "from {from} to {to}, tapped {point}");
        assert!(there.rotation.angle_between(before.rotation) < 1e-9);
    }
    let (before, there, _) = tapped(paddle().along([0.0; 3]), [500.0, 200.0]);
    assert_eq!(before, there, "a line without a direction leads nowhere");
}

#[test]
fn where_nothing_is_under_the_pointer_nothing_goes_to_its_point() {
    let to_point = Reaction::on(Trigger::of(EventKind::Miss, "eye"));
    let mut play = start(yard().reaction(to_point.then(Action::move_to_point("bell"))));
    let who = play.scene().find("miller").unwrap();
    let (at, button) = (Spot::Pixel(10.0, 10.0), Button::Click);
    play.schedule(play.now(), Input::Point { who, at, button }).unwrap();
    let entries = play_until(&mut play, 0.1);
    assert_eq!(support::problems(&entries), [hazuro::Problem::NoPoint]);
    assert_eq!(play.pose("bell").unwrap(), Pose::IDENTITY);
}

#[test]
fn what_lies_in_front_wins_and_what_is_too_far_is_not_reached() {
    let wall = || Entity::new("wall").at([0.0, 0.0, 4.0]).solid(block([3.0, 3.0, 0.01]));
    let mut play = start(yard().entity(wall()));
    assert_eq!(told(&mut play, MIDDLE, Button::Click), ["miss eye miller"]);
    play.act(Action::disable("wall")).unwrap();
    let until = play.now().secs() + 0.1;
    let entries = play_until(&mut play, until);
    assert_eq!(words(&play, &entries), ["hover bell miller disable"]);
    // A zone that nobody sees catches it only if it is there for pointers.
    for (pointer, caught) in [(None, "bell"), (Some(Pointer::default()), "veil")] {
        let veil = Entity::new("veil").at([0.0, 0.0, 4.0]).zone(cube(3.0));
        let veil = pointer.into_iter().fold(veil, Entity::pointer);
        let mut play = start(yard().entity(veil));
        assert_eq!(told(&mut play, MIDDLE, Button::Stays), [format!("hover {caught} miller move")]);
    }
    let near = Entity::new("gong").at([3.0, 0.0, 0.0]).solid(block([1.0; 3]));
    let near = near.pointer(Pointer { reach: 5.0, ..Pointer::default() });
    let mut play = start(yard().entity(near));
    let gong = play.scene().find("gong").unwrap();
    assert_eq!(told(&mut play, gong, Button::Click), ["miss eye miller"], "it is 10 m away");
}

#[test]
fn who_is_admitted_and_how_often() {
    let scene = yard().entity(
        Entity::new("gong")
            .at([3.0, 0.0, 0.0])
            .solid(block([1.0; 3]))
            .pointer(Pointer::default())
            .admit(Admit::names(["bell"])),
    );
    let mut play = start(scene);
    let gong = play.scene().find("gong").unwrap();
    assert_eq!(told(&mut play, gong, Button::Click), ["miss eye miller"]);
    let bell = Entity::new("chime").at([3.0, 0.0, 0.0]).solid(block([1.0; 3]));
    let limits = Limits { cooldown: 0.12, ..Limits::default() };
    let mut play = start(yard().entity(bell.pointer(Pointer::default()).limits(limits)));
    let chime = play.scene().find("chime").unwrap();
    let clicks = (0..6).flat_map(|_| told(&mut play, chime, Button::Click));
    assert_eq!(clicks.filter(|word| word.starts_with("click")).count(), 2, "every 0.15 s");
}

/// A knob on a door in a frame, of which all three have a pointer, and the door is handled.
fn door(children: bool) -> SceneBuilder {
    let pointer = |children| Pointer { children, ..Pointer::default() };
    yard()
        .entity(Entity::new("frame").at([4.0, 0.0, 0.0]).pointer(pointer(true)))
        .entity(
            Entity::new("door")
                .parent("frame")
                .solid(block([2.0, 2.0, 0.1]))
                .pointer(pointer(children)),
        )
        .entity(
            Entity::new("knob")
                .parent("door")
                .at([0.5, 0.0, 0.2])
                .solid(block([0.3; 3]))
                .pointer(pointer(true)),
        )
        .entity(Entity::new("plate").parent("door").at([-0.5, 0.0, 0.2]).solid(block([0.3; 3])))
}

#[test]
fn what_nobody_handles_goes_up_to_the_ancestors() {
    let clicks = |scene: SceneBuilder, at: &str, pass: bool| {
        let mut play = start(scene);
        let at = play.scene().find(at).unwrap();
        play.on(Trigger::click("door"), move |_, act| {
            if pass {
                act.pass_on();
            }
        })
        .unwrap();
        let events = point(&mut play, at, Button::Click);
        let clicks: Vec<_> =
            events.into_iter().filter(|event| event.kind == EventKind::Click).collect();
        let on = clicks.iter().map(|event| play.scene().name(event.on.unwrap()).to_owned());
        (
            on.collect::<Vec<_>>(),
            clicks.last().and_then(|event| event.was).map(|was| play.scene().name(was).to_owned()),
        )
    };
    let knob = Some("knob".to_owned());
    assert_eq!(
        clicks(door(true), "knob", false),
        (vec!["knob".into(), "door".into()], knob.clone())
    );
    let all = vec!["knob".into(), "door".into(), "frame".into()];
    assert_eq!(clicks(door(true), "knob", true), (all, knob.clone()));
    // What has no pointer of its own counts for its parent, unless that is switched off.
    assert_eq!(clicks(door(true), "plate", false), (vec!["door".into()], Some("plate".into())));
    assert_eq!(clicks(door(false), "plate", false), (vec!["frame".into()], Some("plate".into())));
    // A reaction handles it too, and may pass it on.
    let reaction = |pass: bool| {
        let reaction = Reaction::on(Trigger::click("knob")).then(Action::add("clicks", 1));
        door(true).reaction(if pass { reaction.pass_on() } else { reaction })
    };
    assert_eq!(clicks(reaction(false), "knob", false).0, ["knob"]);
    assert_eq!(clicks(reaction(true), "knob", false).0, ["knob", "door"]);
}

#[test]
fn things_are_dragged_along_an_axis_a_plane_or_a_surface_by_where_they_were_grabbed() {
    let along = |drag| {
        let brake = Entity::new("brake").at([0.0, 2.0, 0.0]).solid(block([1.0; 3]));
        let floor = Entity::new("floor")
            .at([0.0, 2.0, -0.5])
            .zone(hazuro::scene::Zone::new(block([9.0, 9.0, 1.0])));
        let drag = Pointer { drag: Some(drag), ..Pointer::default() };
        let scene = yard().entity(floor).entity(brake.pointer(drag));
        let mut play = start(
            scene.reaction(
                Reaction::on(Trigger::of(EventKind::Drag, "brake"))
                    .then(Action::move_to_point("brake")),
            ),
        );
        // Grabbed off its middle, then moved two metres to the right and one up, at its front.
        let pixel = |play: &mut Play, x: f64, y: f64| {
            let half = (50_f64.to_radians() / 2.0).tan() * 9.5;
            let spot = [(x / half * 300.0) + 400.0, 300.0 - y / half * 300.0];
            let ray = play.screen_ray("miller", spot).unwrap().unwrap();
            let there = ray.at(9.5 / -ray.direction().z);
            assert!((there.x - x).abs() < 1e-9 && (there.y - y).abs() < 1e-9);
            spot
        };
        let (grab, there) = (pixel(&mut play, 0.3, 2.2), pixel(&mut play, 2.3, 3.2));
        point(&mut play, grab, Button::Down);
        let events = point(&mut play, there, Button::Stays);
        assert!(events.iter().any(|event| event.kind == EventKind::Drag));
        play.pose("brake").unwrap().position.to_array().map(|x| (x * 1e6).round() / 1e6)
    };
    assert_eq!(along(Drag::Axis([1.0, 0.0, 0.0]))[1..], [2.0, 0.0]);
    assert_eq!(along(Drag::Plane([0.0, 0.0, 1.0])), [2.0, 3.0, 0.0]);
    // The surface is half a metre farther away, so the same screen point is farther out on it.
    let on_surface = along(Drag::Surface("floor".into()));
    assert!(on_surface[0] > 2.0 && (on_surface[2] + 0.5).abs() < 1e-9, "{on_surface:?}");
}

#[test]
fn an_orthographic_camera_and_one_that_looks_at_something() {
    let above = Camera {
        look_at: Some("bell".into()),
        lens: Lens::Orthographic { height: 12.0 },
        viewport: [800.0, 600.0],
        layers: vec!["default".into()],
    };
    let scene = Scene::builder("Yard")
        .entity(Entity::new("miller").player(true).at([0.0, 0.0, 10.0]).body(ball(0.3)))
        .entity(Entity::new("bell").solid(block([1.0; 3])).pointer(Pointer::default()))
        .entity(
            Entity::new("gong")
                .at([4.0, 0.0, 0.0])
                .solid(block([1.0; 3]))
                .pointer(Pointer::default()),
        )
        .entity(Entity::new("above").at([0.0, 20.0, 0.0]).camera(above))
        .entity(
            // What is in no layer that the camera knows is not in the way.
            Entity::new("mist").layers(["mist"]).at([0.0, 5.0, 0.0]).solid(block([20.0; 3])),
        );
    let mut play = start(scene);
    assert_eq!(told(&mut play, MIDDLE, Button::Stays), ["hover bell miller move"]);
    // 50 pixels a metre.
    let there = ["unhover bell miller move", "hover gong miller move"];
    assert_eq!(told(&mut play, [600.0, 300.0], Button::Stays), there);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Whatever is clicked by its name is where its middle is seen.
    #[test]
    fn the_screen_and_the_world_agree(
        place in support::any_place(4.0),
        camera in support::any_pose(8.0),
        orthographic in any::<bool>(),
    ) {
        prop_assume!(camera.position.distance(place) > 1.0);
        let lens = if orthographic { Lens::Orthographic { height: 20.0 } } else { Lens::Perspective { angle: 1.2 } };
        let scene = Scene::builder("Yard")
            .entity(Entity::new("miller").player(true).at([99.0, 0.0, 0.0]).body(ball(0.1)))
            .entity(Entity::new("eye").at(camera).camera(Camera { lens, ..Camera::default() }))
            .entity(Entity::new("moth").at(place).body(ball(0.1)).pointer(Pointer::default()));
        let mut play = start(scene);
        let moth = play.scene().find("moth").unwrap();
        let depth = camera.inverse().point(place).z;
        prop_assume!(depth.abs() > 0.2);
        let ahead = depth < 0.0;
        let hovers = point(&mut play, moth, Button::Stays).len();
        prop_assert_eq!(hovers, usize::from(ahead));
    }
}

#[test]
fn what_hangs_on_a_camera_to_be_pointed_at_is_met_and_the_rest_of_it_is_not() {
    let camera = Camera { viewport: [800.0, 600.0], ..Camera::default() };
    // Nearer hangs what is not there to be pointed at. A catcher may be solid, too.
    for solid in [false, true] {
        let pane = |name: &str, z: f64| {
            let pane = Entity::new(name).parent("eye").at([0.0, 0.0, z]);
            let shape = block([9.0, 9.0, 0.1]);
            if solid { pane.solid(shape) } else { pane.zone(hazuro::scene::Zone::new(shape)) }
        };
        let scene = Scene::builder("Yard")
            .entity(Entity::new("miller").player(true))
            .entity(Entity::new("eye").at([0.0, 2.0, 0.0]).camera(camera.clone()))
            .entity(Entity::new("hood").parent("eye").at([0.0, 0.0, -1.0]).solid(block([0.5; 3])))
            .entity(pane("mist", -2.0))
            .entity(pane("catcher", -5.0).pointer(Pointer::default()));
        let mut play = start(scene);
        let told = told(&mut play, MIDDLE, Button::Click);
        assert_eq!(told.last().map(String::as_str), Some("click catcher miller"));
    }
}

/// A point of the line through `grip` along an axis.
fn on_line(grip: DVec3, axis: DVec3, along: f64) -> DVec3 {
    grip + axis * along
}

/// Where on a line it comes nearest to a ray, found by trying.
fn nearest_along(grip: DVec3, axis: DVec3, ray: &Ray) -> f64 {
    let away = |along: f64| {
        let point = on_line(grip, axis, along);
        let on_ray = ray.at((point - ray.origin()).dot(ray.direction()));
        point.distance(on_ray)
    };
    let (mut low, mut high) = (-1000.0, 1000.0);
    for _ in 0..200 {
        let (one, other) = (low + (high - low) / 3.0, high - (high - low) / 3.0);
        if away(one) < away(other) { high = other } else { low = one }
    }
    f64::midpoint(low, high)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    /// Dragged along an axis a thing goes where that comes nearest to the pointer.
    #[test]
    fn along_an_axis_a_thing_follows_the_pointer_as_near_as_it_can(
        axis in [-1.0..1.0_f64, -1.0..1.0_f64, -0.7..0.7_f64],
        to in [320.0..480.0_f64, 220.0..380.0_f64],
    ) {
        let line = DVec3::from(axis);
        prop_assume!(line.length() > 0.3 && line.normalize().z.abs() < 0.7);
        let knob = Pointer { drag: Some(Drag::Axis(axis)), ..Pointer::default() };
        let knob = Entity::new("knob").at([0.0, 0.0, 3.0]).solid(block([1.0; 3])).pointer(knob);
        let mut play = start(yard().entity(knob));
        point(&mut play, [400.0, 300.0], Button::Down);
        let told = point(&mut play, to, Button::Stays);
        let drag = told.iter().find(|event| event.kind == EventKind::Drag).unwrap();
        let ray = play.screen_ray("miller", to).unwrap().unwrap();
        // Grabbed in the middle of its front.
        let grip = DVec3::new(0.0, 0.0, 3.5);
        let along = nearest_along(grip, line.normalize(), &ray);
        let wanted = on_line(DVec3::new(0.0, 0.0, 3.0), line.normalize(), along);
        let found = drag.at.unwrap();
        prop_assert!(found.distance(wanted) < 1e-4, "{found}, not {wanted}");
    }
}

#[test]
fn a_thing_and_a_zone_at_one_distance_are_met_as_the_thing() {
    let glass = hazuro::scene::Zone::new(block([1.0; 3]));
    let glass = Entity::new("glass").zone(glass).pointer(Pointer::default());
    let mut play = start(yard().entity(glass));
    assert_eq!(told(&mut play, MIDDLE, Button::Stays), ["hover bell miller move"]);
}
