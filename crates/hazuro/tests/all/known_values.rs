//! Distances, sweeps and rays whose answers can be worked out by hand.

use std::f64::consts::{FRAC_1_SQRT_2, FRAC_PI_4, SQRT_2};

use hazuro::geometry::{Contact, Convex, Glide, Pose, Ray, Shape, cast, distance, sweep};
use hazuro::glam::{DQuat, DVec3};

fn cube() -> Shape {
    Shape::Box { size: [2.0; 3] }
}

fn ball() -> Shape {
    Shape::Sphere { radius: 0.5 }
}

fn capsule() -> Shape {
    Shape::Capsule { radius: 0.5, height: 3.0 }
}

fn drum() -> Shape {
    Shape::Cylinder { radius: 1.0, height: 2.0 }
}

fn cone() -> Shape {
    Shape::Cone { radius: 1.0, height: 2.0 }
}

/// A pyramid on a square of 2 m, its tip 1 m up.
fn pyramid() -> Shape {
    let base = [[1.0, 0.0, 1.0], [1.0, 0.0, -1.0], [-1.0, 0.0, 1.0], [-1.0, 0.0, -1.0]];
    Shape::Hull { points: base.into_iter().chain([[0.0, 1.0, 0.0]]).collect() }
}

fn convex(shape: &Shape) -> Convex {
    Convex::new(shape).unwrap()
}

fn at(x: f64, y: f64, z: f64) -> Pose {
    Pose::from([x, y, z])
}

/// Turned by an eighth about Z, so that an edge of a cube points up.
fn on_edge(pose: Pose) -> Pose {
    Pose { rotation: DQuat::from_rotation_z(FRAC_PI_4), ..pose }
}

#[test]
fn gaps() {
    let level = on_edge(at(0.0, 0.0, 0.0));
    let cases = [
        (ball(), at(0.0, 0.0, 0.0), ball(), at(3.0, 0.0, 4.0), 4.0),
        (cube(), at(0.0, 0.0, 0.0), ball(), at(3.0, 0.0, 0.0), 1.5),
        (cube(), at(0.0, 0.0, 0.0), ball(), at(2.0, 2.0, 0.0), SQRT_2 - 0.5),
        (cube(), at(0.0, 0.0, 0.0), cube(), at(5.0, 0.5, 0.0), 3.0),
        (cube(), level, cube(), at(5.0, 0.0, 0.0), 4.0 - SQRT_2),
        (capsule(), at(0.0, 0.0, 0.0), capsule(), at(3.0, 1.0, 0.0), 2.0),
        (capsule(), at(0.0, 0.0, 0.0), ball(), at(0.0, 4.0, 0.0), 2.0),
        (drum(), at(0.0, 0.0, 0.0), ball(), at(3.0, 0.9, 0.0), 1.5),
        (drum(), at(0.0, 0.0, 0.0), ball(), at(0.3, 3.0, 0.3), 1.5),
        (drum(), at(0.0, 0.0, 0.0), cube(), at(4.0, 0.0, 0.0), 2.0),
        (cone(), at(0.0, 0.0, 0.0), ball(), at(0.0, 3.0, 0.0), 1.5),
        (cone(), at(0.0, 0.0, 0.0), ball(), at(0.0, -3.0, 0.2), 1.5),
        (cone(), at(0.0, 0.0, 0.0), ball(), at(3.0, -1.0, 0.0), 1.5),
        (pyramid(), at(0.0, 0.0, 0.0), ball(), at(0.0, 3.0, 0.0), 1.5),
        (pyramid(), at(0.0, 0.0, 0.0), cube(), at(0.3, -4.0, 0.2), 3.0),
        // From the slope of the pyramid, whose normal is (1, 1, 0) / sqrt 2.
        (pyramid(), at(0.0, 0.0, 0.0), ball(), at(2.5, 2.5, 0.0), 4.0 * FRAC_1_SQRT_2 - 0.5),
    ];
    for (a, pose_a, b, pose_b, expected) in cases {
        let found = distance(&convex(&a), &pose_a, &convex(&b), &pose_b);
        let name = format!("{} and {}", a.word(), b.word());
        assert!((found.gap - expected).abs() < 1e-9, "{name}: {} for {expected}", found.gap);
        let back = distance(&convex(&b), &pose_b, &convex(&a), &pose_a);
        assert!((back.gap - expected).abs() < 1e-9, "{name}, the other way: {}", back.gap);
        assert!((found.normal + back.normal).length() < 1e-6, "{name}: {}", found.normal);
    }
}

#[test]
fn depths() {
    let here = at(0.0, 0.0, 0.0);
    for (shape, point, expected) in [
        (cube(), DVec3::new(0.7, 0.0, 0.2), 0.3),
        (ball(), DVec3::new(0.1, 0.0, 0.0), 0.4),
        (capsule(), DVec3::new(0.1, 0.9, 0.0), 0.4),
        (drum(), DVec3::new(0.2, 0.9, 0.0), 0.1),
        (drum(), DVec3::new(0.0, 0.0, 0.95), 0.05),
        (cone(), DVec3::new(0.0, -0.9, 0.0), 0.1),
        (cone(), DVec3::new(0.0, 0.0, 0.0), 1.0 / 5.0_f64.sqrt()),
        (cube(), DVec3::new(1.5, 0.0, 0.0), 0.0),
        (cone(), DVec3::new(0.9, 0.5, 0.0), 0.0),
    ] {
        let depth = convex(&shape).depth(&here, point);
        assert!((depth - expected).abs() < 1e-9, "{} at {point}: {depth}", shape.word());
    }
}

/// What is small is measured as well as what is large, in proportion.
#[test]
fn depths_of_two_at_any_size() {
    for size in [1e-3, 1e-2, 1.0, 1e2, 1e4] {
        let drum = convex(&Shape::Cylinder { radius: size, height: 2.0 * size });
        let cone = convex(&Shape::Cone { radius: size, height: 2.0 * size });
        // Two drums side by side; and a cone whose tip has sunk into a drum.
        for (a, b, offset, expected) in [
            (&drum, &drum, [1.7, 0.0, 0.0], 0.3),
            (&drum, &drum, [0.8, 0.0, 1.2], 2.0 - 0.8_f64.hypot(1.2)),
            (&drum, &cone, [0.0, -1.9, 0.0], 0.1),
        ] {
            let there = Pose::from(offset.map(|part| part * size));
            let found = distance(a, &at(0.0, 0.0, 0.0), b, &there).gap / size;
            // Where round edges decide, within a thousandth.
            assert!((found + expected).abs() < 1e-3, "at size {size}: {found}, not -{expected}");
        }
    }
}

#[test]
fn sweeps() {
    let still = at(0.0, 0.0, 0.0);
    // Along X from -10 to 10: when it meets, when it parts.
    for (shape, other, y, expected) in [
        (cube(), ball(), 0.0, Some((8.5, 11.5))),
        (cube(), ball(), 1.5, Some((9.0, 11.0))),
        (cube(), ball(), 1.6, None),
        (ball(), ball(), 0.6, Some((9.2, 10.8))),
        (cube(), cube(), 1.9, Some((8.0, 12.0))),
        (capsule(), capsule(), 2.0, Some((9.0, 11.0))),
        (drum(), ball(), 0.5, Some((8.5, 11.5))),
        (cone(), cube(), 1.0, Some((8.5, 11.5))),
        (pyramid(), cube(), 1.5, Some((8.5, 11.5))),
    ] {
        let (shape, other) = (convex(&shape), convex(&other));
        let fixed = Glide { shape: &shape, offset: Pose::IDENTITY, from: still, to: still };
        let from = at(-10.0, y, 0.0);
        let moving = Glide { shape: &other, offset: Pose::IDENTITY, from, to: at(10.0, y, 0.0) };
        let found = sweep(&fixed, &moving);
        let found = found.first().map(|span| (span.start * 20.0, span.end * 20.0));
        match (found, expected) {
            (None, None) => {}
            (Some((start, end)), Some((enters, leaves))) => {
                assert!((start - enters).abs() < 1e-7 && (end - leaves).abs() < 1e-7, "{found:?}");
            }
            other => panic!("{other:?}"),
        }
    }
}

/// Where the tip of a cone leaves the flat side of a drum, the two are apart by less than rounding shows in
/// no certain direction.
#[test]
fn a_tip_that_has_just_sunk_in_leaves_when_it_is_out() {
    let drum = convex(&Shape::Cylinder {
        radius: 0.838_807_954_370_322_6,
        height: 0.541_516_264_373_182_6,
    });
    let cone =
        convex(&Shape::Cone { radius: 1.589_843_168_855_858_7, height: 1.661_168_411_144_228_4 });
    let still = at(0.0, 0.0, 0.0);
    let from =
        DVec3::new(0.723_996_625_886_167_9, -1.100_546_798_099_000_2, 0.422_387_934_381_235_8);
    let to =
        DVec3::new(-1.051_527_608_809_885_7, -2.990_926_215_159_450_7, -0.150_814_999_694_243_6);
    let [from, to] = [from, to].map(|place| Pose::from(place.to_array()));
    let drum = Glide { shape: &drum, offset: Pose::IDENTITY, from: still, to: still };
    let spans = sweep(&drum, &Glide { shape: &cone, from, to, ..drum });
    // It goes down by 1.89 m, from 0.8 mm inside.
    let sunk = 0.541_516_264_373_182_6 / 2.0 + 1.661_168_411_144_228_4 / 2.0 + from.position.y;
    let share = sunk / (from.position.y - to.position.y);
    assert!(spans[0].start == 0.0 && (spans[0].end - share).abs() < 1e-12, "{spans:?}, {share}");
}

#[test]
fn a_turning_box_comes_and_goes_with_its_corners() {
    // A beam of 4 m turns a half turn about Y beside a ball that its ends reach twice.
    let beam = convex(&Shape::Box { size: [4.0, 0.2, 0.2] });
    let dot = convex(&Shape::Sphere { radius: 0.1 });
    let from = at(0.0, 0.0, 0.0);
    let turning = |radians: f64| Glide {
        shape: &beam,
        offset: Pose::IDENTITY,
        from,
        to: from.turned(radians),
    };
    let place = at(0.0, 0.0, -1.9);
    let still = Glide { shape: &dot, offset: Pose::IDENTITY, from: place, to: place };
    let spans = sweep(&turning(3.0), &still);
    assert_eq!(spans.len(), 1);
    // The beam's side is 0.1 m from its middle line; the ball's surface 0.1 m from its centre.
    let half = (0.2_f64 / 1.9).asin();
    let quarter = std::f64::consts::FRAC_PI_2;
    assert!((spans[0].start * 3.0 - (quarter - half)).abs() < 1e-6, "{spans:?}");
    assert!((spans[0].end * 3.0 - (quarter + half)).abs() < 1e-6, "{spans:?}");
    assert!(sweep(&turning(1.0), &still).is_empty(), "it does not turn that far");
}

#[test]
fn rays() {
    let along = |y: f64| Ray::new(DVec3::new(-10.0, y, 0.0), DVec3::X, 100.0).unwrap();
    let slope = DVec3::new(-1.0, 1.0, 0.0).normalize();
    // A cone of 2 m by 1 m: its side rises two for one.
    let side = DVec3::new(-2.0, 1.0, 0.0).normalize();
    for (shape, y, distance, normal) in [
        (cube(), 0.3, 9.0, DVec3::NEG_X),
        (ball(), 0.0, 9.5, DVec3::NEG_X),
        (ball(), 0.3, 9.6, DVec3::new(-0.8, 0.6, 0.0)),
        (capsule(), 0.9, 9.5, DVec3::NEG_X),
        (drum(), -0.2, 9.0, DVec3::NEG_X),
        (cone(), 0.0, 9.5, side),
        (pyramid(), 0.5, 9.5, slope),
    ] {
        let contact = cast(&along(y), &convex(&shape), &Pose::IDENTITY);
        let contact = contact.unwrap_or_else(|| panic!("{} is missed", shape.word()));
        let Contact { distance: found, normal: out, inside } = contact;
        assert!((found - distance).abs() < 1e-8, "{}: {found}", shape.word());
        assert!(out.distance(normal) < 1e-6, "{}: {out}", shape.word());
        assert!(!inside);
        assert!(cast(&along(2.0), &convex(&shape), &Pose::IDENTITY).is_none(), "{}", shape.word());
    }
    let short = Ray::new(DVec3::X * -10.0, DVec3::X, 8.9).unwrap();
    assert!(cast(&short, &convex(&cube()), &Pose::IDENTITY).is_none(), "it ends before the wall");
    let inside = Ray::new(DVec3::ZERO, DVec3::Y, 1.0).unwrap();
    let contact = cast(&inside, &convex(&cube()), &Pose::IDENTITY).unwrap();
    assert_eq!((contact.distance, contact.inside, contact.normal), (0.0, true, DVec3::NEG_Y));
    let away = Ray::new(DVec3::X * 5.0, DVec3::X, 100.0).unwrap();
    assert!(cast(&away, &convex(&cube()), &Pose::IDENTITY).is_none(), "it leads away");
}

#[test]
fn lengths_that_cannot_be() {
    for shape in [
        Shape::Sphere { radius: f64::NAN },
        Shape::Sphere { radius: 1e-7 },
        Shape::Box { size: [1.0, 1.0, 1.1e6] },
        Shape::Capsule { radius: 1.0, height: 1.9 },
        Shape::Cylinder { radius: 0.0, height: 1.0 },
        Shape::Cone { radius: 1.0, height: -1.0 },
        Shape::Hull { points: vec![[0.0; 3]; 4] },
        Shape::Hull { points: vec![[0.0; 3]; 257] },
    ] {
        let refused = Convex::new(&shape);
        assert!(refused.is_err(), "{shape:?}");
    }
}
