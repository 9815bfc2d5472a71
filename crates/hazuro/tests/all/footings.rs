//! What is under the feet: how wide they are, what counts as ground and what does not, and until when one
//! stands that has left it.

use crate::support;

use hazuro::geometry::Shape;
use hazuro::scene::{Body, Entity, EventKind, Floor, Footing, Ground, Part, SceneBuilder};
use hazuro::why::Notebook;
use hazuro::{Play, Scene, Time};
use support::{ball, block, events, play_until, words};

#[test]
fn a_footing_is_as_wide_wherever_the_body_is() {
    // A plank of 20 cm: feet of 60 cm beside it by 25 cm still stand on it.
    for x in [0.0, 40.0, -300.0] {
        let scene = Scene::builder("Mill")
            .floor(Floor::Missing)
            .entity(block("plank", [x, 0.0, 0.0], [0.2, 0.2, 4.0]))
            .entity(
                Entity::new("miller")
                    .at([x + 0.25, 0.1, 0.0])
                    .body(ball(0.3))
                    .footing(Footing::default()),
            )
            .build()
            .unwrap();
        let mut play = Play::new(scene);
        // Driven bodies do not fall; the ball's middle is at its origin.
        play.place("miller", [x + 0.25, 0.38, 0.0]).unwrap();
        play.advance(Time::from_secs(0.2));
        let ground = play.ground("miller").unwrap().unwrap();
        assert_eq!(ground.under, play.scene().find("plank"), "at x = {x}");
        let narrow = 0.1 - (0.285_f64.powi(2) - 0.15_f64.powi(2)).sqrt();
        assert!(ground.height < 0.2 && ground.height > narrow - 0.2, "{}", ground.height);
    }
}

#[test]
fn a_footing_is_as_narrow_as_the_body() {
    // A sack, 20 cm by 1 m, hangs 20 cm beside a plank: to its narrow side only.
    let scene = |turned: bool| {
        let at = if turned { [0.0, 0.0, 0.3] } else { [0.3, 0.0, 0.0] };
        let plank = if turned { [4.0, 0.2, 0.2] } else { [0.2, 0.2, 4.0] };
        let size = if turned { [1.0, 1.0, 0.2] } else { [0.2, 1.0, 1.0] };
        Scene::builder("Mill")
            .floor(Floor::Missing)
            .entity(block("plank", at, plank))
            .entity(
                Entity::new("sack")
                    .at([0.0, 0.7, 0.0])
                    .body(Body::new(Shape::Box { size }))
                    .footing(Footing::default()),
            )
            .build()
            .unwrap()
    };
    for turned in [false, true] {
        let mut play = Play::new(scene(turned));
        play.advance(Time::from_secs(0.2));
        assert_eq!(play.ground("sack").unwrap().unwrap().under, None, "turned: {turned}");
    }
}

/// A body of this shape with a footing, put somewhere, among solids; what is under it.
fn under(
    solids: impl IntoIterator<Item = Entity>,
    body: Body,
    at: [f64; 3],
) -> (Option<String>, Ground) {
    let body = Entity::new("crate").at(at).body(body).footing(Footing::default());
    let scene = Scene::builder("Mill").floor(Floor::Missing).entity(body);
    let scene = solids.into_iter().fold(scene, SceneBuilder::entity);
    let mut play = Play::new(scene.build().unwrap());
    play.advance(Time::from_secs(0.1));
    let ground = play.ground("crate").unwrap().unwrap();
    (ground.under.map(|id| play.scene().name(id).to_owned()), ground)
}

#[test]
fn a_footing_is_that_of_the_lowest_part() {
    let cube = |size| Shape::Box { size: [size; 3] };
    let part = |name: &str, y: f64| Part::new(name, cube(0.4)).at([0.0, y, 0.0]);
    for parts in [[part("head", 2.0), part("feet", 0.0)], [part("feet", 0.0), part("head", 2.0)]] {
        let floor = [block("floor", [0.0, -0.5, 0.0], [9.0, 1.0, 9.0])];
        let (what, ground) = under(floor, Body::of_parts(parts), [0.0, 0.7, 0.0]);
        assert_eq!(what.as_deref(), Some("floor"));
        assert!((ground.height - 0.5).abs() < 1e-6, "{}", ground.height);
    }
}

#[test]
fn what_is_beside_the_feet_is_no_ground() {
    let body = || Body::new(Shape::Box { size: [1.0, 2.0, 1.0] });
    let floor = || block("floor", [0.0, -1.5, 0.0], [9.0, 1.0, 9.0]);
    // Its edge would be met by the side of the feet, not by their sole; and a wall that the body is
    // stuck in does not carry it.
    let ledge = block("ledge", [2.4746, -0.6, 0.0], [4.0, 0.8, 4.0]);
    let wall = block("wall", [2.3, 1.0, 0.0], [4.0, 6.0, 4.0]);
    for beside in [ledge, wall] {
        let (what, ground) = under([beside, floor()], body(), [0.0, 1.0, 0.0]);
        assert_eq!(what.as_deref(), Some("floor"));
        assert!((ground.height - 1.0).abs() < 1e-6, "{}", ground.height);
    }
}

#[test]
fn at_the_edge_of_something_level_the_ground_is_level() {
    let ledge = block("ledge", [2.3, -0.5, 0.0], [4.0, 1.0, 4.0]);
    let body = Body::new(Shape::Box { size: [1.0, 2.0, 1.0] });
    let (what, ground) = under([ledge], body, [0.0, 1.0, 0.0]);
    assert_eq!(what.as_deref(), Some("ledge"));
    assert!(ground.slope < 1e-6, "{}", ground.slope.to_degrees());
}

#[test]
fn a_footing_has_its_grace_from_where_it_left_the_ground() {
    let grace = Footing { grace: 0.5, ..Footing::default() };
    let cart = Entity::new("cart").at([-3.0, 0.25, 0.0]).body(ball(0.25)).footing(grace);
    let scene = Scene::builder("Mill")
        .floor(Floor::Missing)
        .entity(block("road", [-5.0, -0.5, 0.0], [10.0, 1.0, 4.0]))
        .entity(cart);
    let mut play = Play::new(scene.build().unwrap());
    let mut told = Vec::new();
    for tick in 1..=240 {
        play.drive("cart", [-3.0 + f64::from(tick) * 0.02, 0.25, 0.0]).unwrap();
        told.extend(events(play.step()));
    }
    // The feet are as wide as the ball, nearly: they leave the edge after some 3.1 m at 1.2 m a second.
    let left = told.iter().find(|event| event.kind == EventKind::LiftOff).unwrap();
    let after = left.time.secs() - 3.0 / 1.2;
    assert!(after > 0.5 && after < 0.8, "{after} s after its middle left the edge");
}

#[test]
fn what_moves_along_level_ground_has_its_grace_from_where_it_is_taken_away() {
    let grace = Footing { grace: 0.5, ..Footing::default() };
    let cart = Entity::new("cart").at([-3.0, 0.25, 0.0]).body(ball(0.25)).footing(grace);
    let road = block("road", [0.0, -0.5, 0.0], [20.0, 1.0, 4.0]);
    let scene = Scene::builder("Mill").floor(Floor::Missing);
    let mut play = Play::new(scene.entity(road).entity(cart).build().unwrap());
    for tick in 1..=60 {
        play.drive("cart", [-3.0 + f64::from(tick) * 0.02, 0.25, 0.0]).unwrap();
        play.step();
    }
    play.place("cart", [0.0, 9.0, 0.0]).unwrap();
    let told = play_until(&mut play, 3.0);
    assert_eq!(words(&play, &told), ["lift_off cart road move"]);
    let after = events(&told)[0].time.secs() - 1.0;
    assert!(after > 0.49 && after < 0.55, "{after} s after it was taken away");
}

#[test]
fn a_witness_makes_no_difference_to_who_stands_still() {
    let scene = || {
        Scene::builder("Mill")
            .entity(block("road", [0.0, -0.5, 0.0], [10.0, 1.0, 4.0]))
            .entity(
                Entity::new("cart")
                    .at([0.0, 0.25, 0.0])
                    .body(ball(0.25))
                    .footing(Footing::default()),
            )
            .build()
            .unwrap()
    };
    let (mut heard, mut alone) = (Play::new(scene()), Play::new(scene()));
    for tick in 1..=30 {
        let until = Time::of_tick(tick, 60);
        heard.advance_witnessed(until, &mut Notebook::all());
        alone.advance(until);
    }
    assert_eq!(heard.state(), alone.state());
}
