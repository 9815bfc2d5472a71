//! Sight, seekers and probes held against slow, obvious ways to the same answer.

use crate::support;

use hazuro::geometry::Shape;
use hazuro::glam::DVec3;
use hazuro::scene::{Admit, Entity, Probe, Seeker, Sight};
use hazuro::{Play, Scene};
use proptest::prelude::*;
use support::{ball, play_until, words};

fn block(size: [f64; 3]) -> Shape {
    Shape::Box { size }
}

/// What is told in the first so many seconds.
fn told(play: &mut Play, seconds: f64) -> Vec<String> {
    let entries = play_until(play, seconds);
    words(play, &entries)
}

/// Whether a segment meets a box, by its slabs.
fn meets(from: DVec3, to: DVec3, (at, size): (DVec3, DVec3)) -> bool {
    let inverse = (to - from).recip();
    let [low, high] = [at - size / 2.0, at + size / 2.0].map(|corner| (corner - from) * inverse);
    low.min(high).max_element().max(0.0) <= low.max(high).min_element().min(1.0)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    /// Among any walls, a watcher spots what a dense set of its points shows to be in view, and
    /// never what shows none.
    #[test]
    fn sight_agrees_with_a_dense_set_of_points(
        walls in prop::collection::vec((support::any_place(5.0), [0.001..2.0_f64, 0.5..3.0, 0.001..2.0]), 0..8),
        at in support::any_place(8.0),
        eye in support::any_pose(4.0),
        angle in 0.5..3.0_f64,
    ) {
        let sight = Sight { range: 9.0, angle, rise: 2.0, points: 64, fraction: 0.01, ..Sight::default() };
        let mut scene = Scene::builder("Yard")
            .entity(Entity::new("owl").at(eye).sight(sight))
            .entity(Entity::new("mouse").at(at).body(ball(0.5)));
        for (index, (place, size)) in walls.iter().enumerate() {
            scene = scene.entity(Entity::new(format!("wall{index}")).at(*place).solid(block(*size)));
        }
        let mut play = Play::new(scene.build().unwrap());
        let spotted = !told(&mut play, 0.3).is_empty();
        let mut seen = 0;
        let inverse = eye.inverse();
        for x in -8..=8 {
            for y in -8..=8 {
                for z in -8..=8 {
                    let offset = DVec3::new(f64::from(x), f64::from(y), f64::from(z)) / 16.0;
                    if offset.length() > 0.5 {
                        continue;
                    }
                    let point = at + offset;
                    let way = inverse.point(point);
                    let aside = way.x.atan2(-way.z).abs();
                    let up = way.y.atan2(way.x.hypot(way.z)).abs();
                    let in_view = way.length() <= 9.0 && aside <= angle / 2.0 && up <= 1.0;
                    let hidden = walls.iter().any(|(place, size)| {
                        meets(eye.position, point, (*place, DVec3::from_array(*size)))
                    });
                    seen += usize::from(in_view && !hidden);
                }
            }
        }
        if seen == 0 {
            prop_assert!(!spotted, "nothing of it is in view");
        } else if seen > 1500 {
            prop_assert!(spotted, "{} of 2109 points are in view", seen);
        }
    }

    /// Whoever stands close behind a wall, however thin, is never seen at however flat an angle.
    #[test]
    fn nothing_is_seen_through_a_thin_wall(x in -30.0..30.0_f64, behind in 0.001..1.0_f64, thick in 1e-4..0.01_f64, eye in 0.001..3.0_f64) {
        let radius = 0.2;
        let sight = Sight { range: 100.0, angle: 6.0, rise: 3.0, points: 64, fraction: 0.01, ..Sight::default() };
        let scene = Scene::builder("Yard")
            .entity(Entity::new("owl").at([0.0, 0.0, eye + thick]).sight(sight))
            .entity(Entity::new("mouse").at([x, 0.0, -behind - radius - thick]).body(ball(radius)))
            .entity(Entity::new("wall").solid(block([200.0, 50.0, thick])));
        let mut play = Play::new(scene.build().unwrap());
        prop_assert_eq!(told(&mut play, 0.3), [""; 0]);
    }

    /// A seeker's target is the nearest of all, by looking at each; a probe's is what a ray meets.
    #[test]
    fn targets_are_those_that_looking_at_each_finds(
        sacks in prop::collection::vec(support::any_place(12.0), 1..20),
        way in support::any_place(9.0),
    ) {
        prop_assume!(way.length() > 1.0);
        let seeker = Seeker { margin: 0.0, ..Seeker::default() };
        let mut scene = Scene::builder("Yard")
            .entity(Entity::new("cock").seeker(seeker).admit(Admit::tags(["sack"])))
            .entity(Entity::new("feeler").probe(Probe { to: way.to_array(), ..Probe::default() }));
        for (index, at) in sacks.iter().enumerate() {
            let entity = Entity::new(format!("sack{index}")).tags(["sack"]).at(*at);
            scene = scene.entity(entity.body(ball(0.25)));
        }
        let mut play = Play::new(scene.build().unwrap());
        told(&mut play, 0.3);
        let distance = |at: &DVec3| (at.length() - 0.25).max(0.0);
        let nearest = sacks.iter().map(distance).fold(f64::INFINITY, f64::min);
        let target = play.target("cock").unwrap().map(|target| distance(&sacks[target.index() - 2]));
        if (nearest - 10.0).abs() > 1e-6 {
            prop_assert_eq!(target, (nearest <= 10.0).then_some(nearest));
        }
        // The nearest of the balls that the segment comes within reach of.
        let along = |at: &DVec3| (at.dot(way) / way.length_squared()).clamp(0.0, 1.0);
        let gaps = sacks.iter().map(|at| (way * along(at)).distance(*at));
        prop_assume!(gaps.clone().all(|gap| (gap - 0.25).abs() > 1e-6));
        let hit = play.probe_ray("feeler").unwrap().unwrap().hit;
        prop_assert_eq!(hit.is_some(), gaps.clone().any(|gap| gap < 0.25));
        if let Some(hit) = hit {
            let at = sacks[hit.entity.index() - 2];
            prop_assert!((hit.point.distance(at) - 0.25).abs() < 1e-6 || at.length() < 0.25);
        }
    }
}
