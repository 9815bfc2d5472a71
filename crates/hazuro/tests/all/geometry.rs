//! Distances and sweeps against slow, obvious oracles.

use crate::support;

use hazuro::geometry::distance_to_point;
use hazuro::geometry::{
    Aabb, Convex, Glide, Pose, Shape, TOUCH, TURNING_TOLERANCE, closest_approach, distance,
    overlaps, sweep,
};
use hazuro::glam::{DQuat, DVec3, EulerRot};
use hazuro::motion::Easing;
use proptest::prelude::*;
use support::{any_pose, any_shape};

fn convex(shape: &Shape) -> Convex {
    Convex::new(shape).expect("a good shape")
}

/// Many directions, evenly enough.
fn directions() -> impl Iterator<Item = DVec3> {
    (0..=24_u32).flat_map(|i| (0..48_u32).map(move |j| (i, j))).map(|(i, j)| {
        let step = std::f64::consts::PI / 24.0;
        let (u, v) = (f64::from(i) * step, f64::from(j) * step);
        DVec3::new(u.sin() * v.cos(), u.cos(), u.sin() * v.sin())
    })
}

/// How far apart two planes across `n` can be pushed between two shapes: never more than the
/// shapes' distance.
fn between(a: &Convex, at: &Pose, b: &Convex, bt: &Pose, n: DVec3) -> f64 {
    (b.support(bt, -n) - a.support(at, n)).dot(n)
}

fn holds(shape: &Convex, pose: &Pose, point: DVec3) -> bool {
    directions().all(|n| point.dot(n) <= shape.support(pose, n).dot(n) + 1e-9)
}

fn pair() -> impl Strategy<Value = (Shape, Shape, Pose, Pose)> {
    (any_shape(), any_shape(), any_pose(4.0), any_pose(4.0))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(300))]

    #[test]
    fn distance_is_proved_by_its_points_and_its_planes((a, b, at, bt) in pair()) {
        let (a, b) = (convex(&a), convex(&b));
        let found = distance(&a, &at, &b, &bt);
        prop_assert_eq!(overlaps(&a, &at, &b, &bt), found.gap <= TOUCH);
        if found.gap > 1e-6 {
            // Two points of the shapes that near, and two planes between them that far apart.
            prop_assert!((found.on_a.distance(found.on_b) - found.gap).abs() < 1e-9);
            prop_assert!(holds(&a, &at, found.on_a) && holds(&b, &bt, found.on_b));
            prop_assert!((between(&a, &at, &b, &bt, found.normal) - found.gap).abs() < 1e-7);
        } else {
            // No plane fits between them unless one is moved by their depth at least, and the
            // plane they were found to part along needs no more.
            let widest = directions().map(|n| between(&a, &at, &b, &bt, n)).fold(-9.0, f64::max);
            prop_assert!(widest <= found.gap + 1e-3, "{} deep, but {}", found.gap, widest);
            prop_assert!((found.normal.length() - 1.0).abs() < 1e-9);
            let there = between(&a, &at, &b, &bt, found.normal);
            prop_assert!((there - found.gap).abs() < 1e-3, "{} deep, but {}", found.gap, there);
            // The points that lie deepest are that far apart along it, and each in its own shape.
            let apart = (found.on_a - found.on_b).distance(found.normal * -found.gap);
            prop_assert!(apart < 1e-3, "{} for {} deep", apart, found.gap);
            let inside = |shape: &Convex, at: &Pose, point| {
                distance_to_point(shape, at, point) < 1e-3
            };
            prop_assert!(inside(&a, &at, found.on_a) && inside(&b, &bt, found.on_b));
        }
    }

    #[test]
    fn distance_is_the_same_from_both_sides_and_anywhere(
        (a, b, at, bt) in pair(),
        moved in any_pose(100.0),
    ) {
        let (a, b) = (convex(&a), convex(&b));
        let here = distance(&a, &at, &b, &bt).gap;
        prop_assume!(here > 0.0);
        prop_assert!((here - distance(&b, &bt, &a, &at).gap).abs() < 1e-9);
        prop_assert!((here - distance(&a, &(moved * at), &b, &(moved * bt)).gap).abs() < 1e-9);
    }

    #[test]
    fn straight_sweeps_agree_with_dense_samples(
        (a, b, at, bt) in pair(),
        way in support::any_place(12.0),
    ) {
        let (a, b) = (convex(&a), convex(&b));
        let still = Glide { shape: &a, offset: Pose::IDENTITY, from: at, to: at };
        let to = Pose { position: bt.position + way, ..bt };
        let moving = Glide { shape: &b, offset: Pose::IDENTITY, from: bt, to };
        let spans = sweep(&still, &moving);
        prop_assert!(spans.len() <= 1);
        for i in 0..=400 {
            let s = f64::from(i) / 400.0;
            let there = distance(&a, &at, &b, &bt.towards(&to, s)).gap;
            let inside = spans.iter().any(|span| span.start <= s && s <= span.end);
            // Samples this near the surface may fall to either side.
            prop_assert!(there.abs() < 1e-6 || inside == (there <= 0.0), "{s}: gap {there}");
        }
        for span in &spans {
            for s in [span.start, span.end] {
                let gap = distance(&a, &at, &b, &bt.towards(&to, s)).gap;
                prop_assert!(gap <= 1e-6, "an end of the span at {s} is {gap} off");
                prop_assert!(s == 0.0 || s == 1.0 || gap > -1e-6, "{s} is {gap} deep");
            }
        }
    }

    /// However little two shapes overlap, they part when there is a gap between them and not before.
    #[test]
    fn what_barely_overlaps_parts_when_there_is_a_gap(
        (a, b, at, bt) in pair(), way in support::any_place(3.0), deep in -6.0..-1.0_f64,
    ) {
        let (a, b) = (convex(&a), convex(&b));
        let apart = distance(&a, &at, &b, &bt);
        prop_assume!(apart.gap > 0.01);
        let sunk = bt.position - apart.normal * (apart.gap + 10_f64.powf(deep));
        let from = Pose { position: sunk, ..bt };
        // Past a sharp corner it may be out again.
        prop_assume!(overlaps(&a, &at, &b, &from));
        let to = Pose { position: sunk + way + apart.normal, ..bt };
        let (still, gone) = (
            Glide { shape: &a, offset: Pose::IDENTITY, from: at, to: at },
            Glide { shape: &b, offset: Pose::IDENTITY, from, to },
        );
        let spans = sweep(&still, &gone);
        prop_assert_eq!(spans.len(), 1);
        prop_assert_eq!(spans[0].start, 0.0);
        let gap = |s: f64| distance(&a, &at, &b, &from.towards(&to, s)).gap;
        for part in 0..=20 {
            let share = f64::from(part) / 20.0;
            let (within, beyond) = (spans[0].end * share, spans[0].end + (1.0 - spans[0].end) * share);
            prop_assert!(gap(within) < 1e-6, "apart at {}, until {}", within, spans[0].end);
            prop_assert!(spans[0].end == 1.0 || gap(beyond) > -1e-6, "together at {}, until {}", beyond, spans[0].end);
        }
    }

    #[test]
    fn turning_sweeps_agree_with_dense_samples(
        (a, b, at, bt) in pair(),
        (to_a, to_b) in (any_pose(4.0), any_pose(4.0)),
        offset in any_pose(1.0),
    ) {
        let (a, b) = (convex(&a), convex(&b));
        let one = Glide { shape: &a, offset: Pose::IDENTITY, from: at, to: to_a };
        let other = Glide { shape: &b, offset, from: bt, to: to_b };
        let spans = sweep(&one, &other);
        for i in 0..=400 {
            let s = f64::from(i) / 400.0;
            let (pa, pb) = (at.towards(&to_a, s), bt.towards(&to_b, s) * offset);
            let there = distance(&a, &pa, &b, &pb).gap;
            let inside = spans.iter().any(|span| span.start <= s && s <= span.end);
            prop_assert!(there < TURNING_TOLERANCE || !inside, "{s}: inside with gap {there}");
            // Of overlapping cores only a lower bound of the depth is known.
            prop_assert!(there > -TURNING_TOLERANCE || inside, "{s}: outside with gap {there}");
        }
    }

    #[test]
    fn closest_approach_is_never_beaten_by_samples((a, b, at, bt) in pair(), way in support::any_place(12.0)) {
        let (a, b) = (convex(&a), convex(&b));
        let still = Glide { shape: &a, offset: Pose::IDENTITY, from: at, to: at };
        let to = Pose { position: bt.position + way, ..bt };
        let moving = Glide { shape: &b, offset: Pose::IDENTITY, from: bt, to };
        let (_, nearest) = closest_approach(&still, &moving);
        prop_assume!(nearest > TOUCH);
        for i in 0..=200 {
            let there = distance(&a, &at, &b, &bt.towards(&to, f64::from(i) / 200.0)).gap;
            prop_assert!(nearest <= there + 1e-6, "{nearest} for {there} at {i}");
        }
    }

    #[test]
    fn easings_are_read_as_they_are_written(
        [x1, x2] in [0.0..=1.0_f64, 0.0..=1.0],
        [y1, y2] in [-2.0..2.0_f64, -2.0..2.0],
    ) {
        let ease = Easing::CubicBezier { x1, y1, x2, y2 };
        prop_assert_eq!(ease.to_string().parse::<Easing>(), Ok(ease));
        prop_assert_eq!((ease.progress(0.0), ease.progress(1.0)), (0.0, 1.0));
    }
}

#[test]
fn round_edges_that_part_while_they_turn_are_seen_to_part() {
    // How deep cylinders and cones lie in one another is only nearly known; that they no longer do is.
    let shapes = [
        convex(&Shape::Cylinder { radius: 0.3, height: 1.8 }),
        convex(&Shape::Cone { radius: 0.3, height: 1.8 }),
    ];
    let mut chance = hazuro::Chance::new(1);
    let mut number = move |reach: f64| (chance.next() - 0.5) * reach;
    let mut pose = move |reach: f64| Pose {
        position: DVec3::new(number(reach), number(reach), number(reach)),
        rotation: DQuat::from_euler(EulerRot::XYZ, number(6.0), number(6.0), number(6.0)),
    };
    for pair in 0..1500 {
        let mut glide = |index: usize| Glide {
            shape: &shapes[index],
            offset: pose(1.0),
            from: pose(3.0),
            to: pose(3.0),
        };
        let (one, other) = (glide(pair % 2), glide(pair / 2 % 2));
        let spans = sweep(&one, &other);
        for step in 0..=20 {
            let s = f64::from(step) / 20.0;
            let at = |it: &Glide<'_>| it.from.towards(&it.to, s) * it.offset;
            let there = distance(one.shape, &at(&one), other.shape, &at(&other)).gap;
            let inside = spans.iter().any(|span| span.start <= s && s <= span.end);
            assert!(
                there < TURNING_TOLERANCE || !inside,
                "pair {pair} at {s}: inside with {there}"
            );
            assert!(there > -5e-3 || inside, "pair {pair} at {s}: outside with {there}");
        }
    }
}

#[test]
fn extreme_shapes_give_finite_answers() {
    let shapes = [
        Shape::Box { size: [1e6, 1e-6, 1e6] },
        Shape::Box { size: [1e-6, 1e6, 1e-6] },
        Shape::Sphere { radius: 1e-6 },
        Shape::Sphere { radius: 1e6 },
        Shape::Capsule { radius: 1e-6, height: 1e6 },
    ];
    let places = [0.0, 1e-9, 1.0, 1e6].map(|x| Pose::from([x, x, 0.0]));
    for (a, b) in shapes.iter().flat_map(|a| shapes.iter().map(move |b| (a, b))) {
        let (a, b) = (convex(a), convex(b));
        for (from, to) in places.iter().flat_map(|from| places.iter().map(move |to| (from, to))) {
            assert!(distance(&a, from, &b, to).gap.is_finite());
            let still = Glide { shape: &a, offset: Pose::IDENTITY, from: *from, to: *from };
            let moving = Glide { shape: &b, offset: Pose::IDENTITY, from: *from, to: *to };
            for span in sweep(&still, &moving) {
                assert!(0.0 <= span.start && span.start <= span.end && span.end <= 1.0);
            }
        }
    }
}

#[test]
fn css_easings_have_the_values_of_the_standard() {
    let at = |text: &str, time: f64| text.parse::<Easing>().expect(text).progress(time);
    assert_eq!(at("linear", 0.25), 0.25);
    assert!((at("ease", 0.5) - 0.802_403).abs() < 1e-5);
    assert_eq!([0.0, 0.5, 0.99].map(|t| at("steps(2)", t)), [0.0, 0.5, 0.5]);
    assert_eq!([0.0, 0.5, 0.99].map(|t| at("steps(2, start)", t)), [0.5, 1.0, 1.0]);
    assert_eq!([0.0, 0.5, 0.99].map(|t| at("steps(2, jump-none)", t)), [0.0, 1.0, 1.0]);
    for bad in [
        "",
        "eas",
        "steps(0)",
        "steps(1, jump-none)",
        "cubic-bezier(2, 0, 0, 1)",
        "cubic-bezier(nan,0,0,1)",
    ] {
        assert!(bad.parse::<Easing>().is_err(), "{bad}");
    }
}

proptest! {
    /// The distance of two boxes along the axes is that of their nearest points.
    #[test]
    fn boxes_are_as_far_apart_as_their_nearest_points(
        a in [-9.0..9.0, -9.0..9.0, -9.0..9.0_f64],
        b in [-9.0..9.0, -9.0..9.0, -9.0..9.0_f64],
        half in [0.1..3.0, 0.1..3.0, 0.1..3.0_f64],
        other in [0.1..3.0, 0.1..3.0, 0.1..3.0_f64],
    ) {
        let one = Aabb::around(a.into(), half.into());
        let two = Aabb::around(b.into(), other.into());
        // The point of one that is nearest to the other is found by turns.
        let mut point = DVec3::from_array(a);
        let mut there = point;
        for _ in 0..64 {
            there = point.clamp(two.min, two.max);
            point = there.clamp(one.min, one.max);
        }
        let apart = point.distance(there);
        prop_assert!((one.distance(&two) - apart).abs() < 1e-9, "{apart}");
        prop_assert_eq!(one.distance(&two), two.distance(&one));
        prop_assert_eq!(one.distance(&two) == 0.0, one.meets(&two));
        prop_assert_eq!(one.distance(&Aabb::EMPTY), f64::INFINITY);
    }
}

#[test]
fn what_turns_is_nearest_when_it_points_at_the_other() {
    // A pole that turns a quarter about its middle, from upright, and a ball that it points at on
    // the way: where the tip comes nearest is known.
    let pole = convex(&Shape::Capsule { radius: 0.25, height: 4.5 });
    let ball = convex(&Shape::Sphere { radius: 0.5 });
    let quarter = std::f64::consts::FRAC_PI_2;
    let turned = Pose { rotation: DQuat::from_rotation_z(-quarter), ..Pose::IDENTITY };
    let turning = Glide { shape: &pole, offset: Pose::IDENTITY, from: Pose::IDENTITY, to: turned };
    for share in [0.013, 0.11, 0.27, 0.4999, 0.618, 0.81, 0.977] {
        let (sin, cos) = (share * quarter).sin_cos();
        let at = Pose::at(DVec3::new(sin, cos, 0.0) * 5.0);
        let still = Glide { shape: &ball, offset: Pose::IDENTITY, from: at, to: at };
        for (fraction, gap) in
            [closest_approach(&turning, &still), closest_approach(&still, &turning)]
        {
            assert!((fraction - share).abs() < 1e-6, "{fraction} for {share}");
            assert!((gap - (5.0 - 2.25 - 0.5)).abs() < 1e-12, "{gap} at {share}");
        }
    }
}
