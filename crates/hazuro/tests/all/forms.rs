//! Half-spaces, ground, combinations, scale and volumes, against slow, obvious oracles.

use crate::support;

use hazuro::Scene;
use hazuro::geometry::{
    Aabb, Convex, Form, Glide, MAX_LENGTH, Pose, Posed, Ray, Shape, ShapeError, TOUCH, cast,
    distance, overlaps, sweep,
};
use hazuro::glam::DVec3;
use hazuro::scene::{Entity, Kind};
use proptest::prelude::*;
use support::{any_place, any_pose, any_shape};

fn form(shape: &Shape) -> Form {
    Form::new(shape).expect("a good shape")
}

fn convex(shape: &Shape) -> Convex {
    Convex::new(shape).expect("a good shape")
}

/// A ground of 5 by 4 points, 2 m apart.
fn any_ground() -> impl Strategy<Value = (f64, Vec<Vec<f64>>)> {
    let rows = prop::collection::vec(prop::collection::vec(-2.0..2.0_f64, 5), 4);
    (Just(2.0), rows)
}

/// The surface of a ground as triangles, written down anew: from the corner of least x and greatest
/// z to the opposite one.
fn surface(spacing: f64, rows: &[Vec<f64>]) -> Shape {
    let (across, along) = (rows[0].len(), rows.len());
    let half = |count: usize| (count - 1) as f64 * spacing / 2.0;
    let points = rows.iter().enumerate().flat_map(|(z, row)| {
        let place = move |x: usize| {
            [x as f64 * spacing - half(across), row[x], z as f64 * spacing - half(along)]
        };
        (0..across).map(place)
    });
    let mut triangles = Vec::new();
    for (x, z) in (0..along - 1).flat_map(|z| (0..across - 1).map(move |x| (x, z))) {
        let [a, b, c, d] =
            [(x, z), (x + 1, z), (x, z + 1), (x + 1, z + 1)].map(|(x, z)| (z * across + x) as u32);
        triangles.extend([[a, c, b], [b, c, d]]);
    }
    Shape::Mesh { points: points.collect(), triangles }
}

fn ray(from: DVec3, to: DVec3) -> Option<Ray> {
    Ray::between(from, to).ok()
}

/// The twelve triangles of a box.
fn box_of_triangles(size: [f64; 3]) -> Shape {
    let [x, y, z] = size.map(|length| length / 2.0);
    let side = |bit: u32, half: f64| if bit == 1 { half } else { -half };
    let points = (0..8_u32).map(|n| [side(n & 1, x), side(n >> 1 & 1, y), side(n >> 2, z)]);
    let faces =
        [[0, 1, 3, 2], [4, 5, 7, 6], [0, 1, 5, 4], [2, 3, 7, 6], [0, 2, 6, 4], [1, 3, 7, 5]];
    let triangles = faces.iter().flat_map(|[a, b, c, d]| [[*a, *b, *c], [*a, *c, *d]]);
    Shape::Mesh { points: points.collect(), triangles: triangles.collect() }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(200))]

    #[test]
    fn a_half_space_is_as_far_as_the_lowest_point(
        shape in any_shape(),
        (at, ground) in (any_pose(4.0), any_pose(4.0)),
    ) {
        let (shape, half_space) = (convex(&shape), convex(&Shape::HalfSpace));
        let up = ground.rotation * DVec3::Y;
        let expected = (shape.support(&at, -up) - ground.position).dot(up);
        let found = distance(&half_space, &ground, &shape, &at);
        prop_assert!((found.gap - expected).abs() < 1e-9, "{} for {expected}", found.gap);
        prop_assert!(found.normal.distance(up) < 1e-9);
        prop_assert!((distance(&shape, &at, &half_space, &ground).gap - expected).abs() < 1e-9);
        prop_assert!(((found.on_b - ground.position).dot(up) - expected).abs() < 1e-9);
    }

    #[test]
    fn sweeps_through_half_spaces_agree_with_dense_samples(
        shape in any_shape(),
        (from, to) in (any_pose(4.0), any_pose(4.0)),
        (ground, turned) in (any_pose(4.0), any_pose(1.0)),
        turns in any::<bool>(),
    ) {
        let (shape, half_space) = (convex(&shape), convex(&Shape::HalfSpace));
        let ground_to = if turns { turned } else { ground };
        let still = Glide { shape: &half_space, offset: Pose::IDENTITY, from: ground, to: ground_to };
        let moving = Glide { shape: &shape, offset: Pose::IDENTITY, from, to };
        let spans = sweep(&still, &moving);
        for i in 0..=300 {
            let s = f64::from(i) / 300.0;
            let (one, other) = (ground.towards(&ground_to, s), from.towards(&to, s));
            let gap = distance(&half_space, &one, &shape, &other).gap;
            let inside = spans.iter().any(|span| span.start <= s && s <= span.end);
            prop_assert!(gap < 1e-3 || !inside, "{s}: inside with gap {gap}");
            prop_assert!(gap > -1e-3 || inside, "{s}: outside with gap {gap}");
        }
    }

    #[test]
    fn a_ray_hits_a_combination_where_it_first_hits_a_piece(
        pieces in prop::collection::vec((any_shape(), any_pose(3.0)), 1..5),
        pose in any_pose(5.0),
        (from, to) in (any_place(9.0), any_place(9.0)),
    ) {
        let Some(ray) = ray(from, to) else { return Ok(()) };
        let shapes = pieces.iter().map(|(shape, at)| Posed::new(shape.clone()).at(*at)).collect();
        let any = form(&Shape::Any { shapes });
        let found = any.cast(&ray, &pose).map(|contact| contact.distance);
        let each = pieces.iter().filter_map(|(shape, at)| cast(&ray, &convex(shape), &(pose * *at)));
        let expected = each.map(|contact| contact.distance).min_by(f64::total_cmp);
        prop_assert_eq!(found, expected);
        let near = |(shape, at): &(Shape, Pose)| form(shape).distance_to_point(&(pose * *at), from);
        let nearest = pieces.iter().map(near).fold(f64::INFINITY, f64::min);
        prop_assert!((any.distance_to_point(&pose, from) - nearest).abs() < 1e-9);
        // No point of it lies outside its bounds, nor farther than its reach.
        let bounds = any.bounds(&pose);
        if let Some(distance) = found {
            let hit = ray.at(distance);
            prop_assert!(bounds.grown(1e-6).meets(&Aabb::around(hit, DVec3::ZERO)));
            prop_assert!(hit.distance(pose.position) <= any.reach() + 1e-6);
        }
    }

    #[test]
    fn a_mesh_of_a_box_is_hit_as_the_box_is(
        size in [0.2..3.0_f64, 0.2..3.0, 0.2..3.0],
        pose in any_pose(3.0),
        (from, to) in (any_place(6.0), any_place(6.0)),
    ) {
        let Some(ray) = ray(from, to) else { return Ok(()) };
        let (whole, mesh) = (form(&Shape::Box { size }), form(&box_of_triangles(size)));
        let expected = whole.cast(&ray, &pose);
        prop_assume!(expected.is_none_or(|contact| !contact.inside));
        let found = mesh.cast(&ray, &pose);
        prop_assert_eq!(found.is_some(), expected.is_some());
        if let (Some(found), Some(expected)) = (found, expected) {
            prop_assert!((found.distance - expected.distance).abs() < 1e-7);
            prop_assert!(found.normal.distance(expected.normal) < 1e-6);
        }
        let (one, other) = (mesh.distance_to_point(&pose, from), whole.distance_to_point(&pose, from));
        prop_assert!((one - other).abs() < 1e-7 || other == 0.0);
    }

    #[test]
    fn ground_is_hit_as_its_triangles_are_and_solid_below(
        (spacing, rows) in any_ground(),
        pose in any_pose(3.0),
        (from, to) in (any_place(9.0), any_place(9.0)),
    ) {
        let Some(ray) = ray(from, to) else { return Ok(()) };
        let (ground, mesh) =
            (form(&Shape::Heights { spacing, rows: rows.clone() }), form(&surface(spacing, &rows)));
        let local = pose.inverse().point(from);
        let below = {
            let up = Ray::new(local, DVec3::Y, 99.0).expect("a ray");
            let low = rows.iter().flatten().copied().fold(f64::INFINITY, f64::min) - 1.0;
            local.y >= low && mesh.cast(&up, &Pose::IDENTITY).is_some()
        };
        let found = ground.cast(&ray, &pose);
        if below {
            prop_assert!(found.is_some_and(|contact| contact.inside));
            prop_assert_eq!(ground.distance_to_point(&pose, from), 0.0);
            return Ok(());
        }
        prop_assert!(found.is_none_or(|contact| !contact.inside));
        // From above, over the field, the surface is all there is to hit.
        let expected = mesh.cast(&ray, &pose);
        let over = local.x.abs() < 4.0 && local.z.abs() < 3.0 && local.y > 0.0;
        if over && expected.is_some() {
            let (found, expected) = (found.unwrap().distance, expected.unwrap().distance);
            prop_assert!((found - expected).abs() < 1e-6, "{found} for {expected}");
        }
        // Wherever the surface is hit, the ground is hit no later.
        if let Some(expected) = expected {
            prop_assert!(found.is_some_and(|found| found.distance <= expected.distance + 1e-6));
        }
        if let Some(found) = found {
            let hit = ray.at(found.distance);
            prop_assert!(ground.distance_to_point(&pose, hit) < 1e-6);
        }
    }

    #[test]
    fn what_meets_ground_meets_a_piece_of_it_that_is_near(
        (spacing, rows) in any_ground(),
        (shape, at) in (any_shape(), any_pose(6.0)),
        pose in any_pose(2.0),
    ) {
        let (shape, ground) = (convex(&shape), form(&Shape::Heights { spacing, rows }));
        let meets = |near: &Aabb| {
            let mut meets = false;
            ground.near(&pose, near, |piece, at_piece| {
                meets |= overlaps(piece, at_piece, &shape, &at);
            });
            meets
        };
        let everywhere = Aabb::around(DVec3::ZERO, DVec3::splat(1e3));
        prop_assert_eq!(meets(&shape.bounds(&at)), meets(&everywhere));
    }

    #[test]
    fn a_shape_twice_as_large_is_twice_as_far_and_eight_times_as_much(
        (a, b) in (any_shape(), any_shape()),
        way in any_place(6.0),
    ) {
        let far = |factor: f64| {
            let (a, b) = (convex(&a.scaled(factor)), convex(&b.scaled(factor)));
            distance(&a, &Pose::IDENTITY, &b, &Pose::at(way * factor)).gap
        };
        prop_assume!(far(1.0) > 0.0);
        prop_assert!((far(2.0) - 2.0 * far(1.0)).abs() < 1e-7);
        let (one, eight) = (convex(&a).volume(), convex(&a.scaled(2.0)).volume());
        prop_assert!((eight - 8.0 * one).abs() < 1e-9 * eight);
    }

    #[test]
    fn a_volume_is_what_samples_fill_of_the_bounds(shape in any_shape()) {
        const STEPS: u32 = 24;
        let shape = convex(&shape);
        let Aabb { min, max } = shape.bounds(&Pose::IDENTITY);
        let step = (max - min) / f64::from(STEPS);
        let cells = (0..STEPS.pow(3)).map(|n| [n % STEPS, n / STEPS % STEPS, n / STEPS / STEPS]);
        let filled = cells.filter(|cell| {
            let place = min + step * (DVec3::from_array(cell.map(f64::from)) + 0.5);
            hazuro::geometry::distance_to_point(&shape, &Pose::IDENTITY, place) == 0.0
        });
        let (share, whole) = (filled.count() as f64 / f64::from(STEPS.pow(3)), step * f64::from(STEPS));
        let sampled = share * whole.x * whole.y * whole.z;
        let volume = shape.volume();
        prop_assert!((volume - sampled).abs() < 0.12 * volume, "{volume} for {sampled}");
    }
}

#[test]
fn what_is_no_shape_says_why() {
    let error = |shape: Shape| Form::new(&shape).unwrap_err().to_string();
    let points = vec![[0.0, 0.0, 0.0], [1.0, 0.0, 0.0], [2.0, 0.0, 0.0], [0.0, 1.0, 0.0]];
    let mesh = |triangles| Shape::Mesh { points: points.clone(), triangles };
    assert_eq!(error(mesh(vec![])), "a mesh needs at least one triangle");
    assert_eq!(
        error(mesh(vec![[0, 1, 3], [0, 1, 4]])),
        "triangle 1 names point 4, but there are 4, counted from 0"
    );
    assert_eq!(error(mesh(vec![[0, 1, 2]])), "triangle 0 has no area: its corners lie on one line");
    let rows = |rows: Vec<Vec<f64>>| Shape::Heights { spacing: 1.0, rows };
    assert_eq!(
        error(rows(vec![vec![0.0, 1.0]])),
        "a ground needs at least two rows of at least two heights"
    );
    assert_eq!(
        error(rows(vec![vec![0.0, 1.0], vec![0.0]])),
        "all rows of a ground are equally long: row 1, counted from 0, has 1 heights, the first has 2"
    );
    assert_eq!(
        error(rows(vec![vec![0.0, 1.0], vec![0.0, f64::NAN]])),
        format!("a height is NaN, but must be from -{MAX_LENGTH} to {MAX_LENGTH} metres")
    );
    assert_eq!(error(Shape::Any { shapes: vec![] }), "`any` needs at least one shape");
    let nested = Shape::Any { shapes: vec![Posed::new(mesh(vec![[0, 1, 3]]))] };
    assert_eq!(Form::new(&nested).unwrap_err(), ShapeError::NotConvex("mesh"));
}

#[test]
fn hostile_numbers_give_finite_answers() {
    let far = 1e6;
    let slope = vec![[-far, -far, -far], [far, 0.0, 0.0], [0.0, 1e-6, far]];
    let needle = Posed::new(Shape::Box { size: [1e-6, far, 1e-6] }).at([far, 0.0, -far]);
    let forms = [
        form(&Shape::HalfSpace),
        form(&Shape::Mesh { points: slope, triangles: vec![[0, 1, 2], [0, 1, 2]] }),
        form(&Shape::Heights { spacing: far, rows: vec![vec![-far, far], vec![1e-6, 0.0]] }),
        form(&Shape::Heights { spacing: 1e-6, rows: vec![vec![0.0, far], vec![far, 0.0]] }),
        form(&Shape::Any { shapes: vec![needle.clone(), needle] }),
    ];
    let places = [0.0, 1e-9, 1.0, -far, far].map(|x| DVec3::new(x, x / 2.0, -x));
    let poses = places.map(|place| Pose::at(place).turned(place.x));
    let ways = [DVec3::X, DVec3::NEG_Y, DVec3::new(1.0, 1e-300, -1e-9), DVec3::ONE];
    for (form, pose) in forms.iter().flat_map(|form| poses.iter().map(move |pose| (form, pose))) {
        let bounds = form.bounds(pose);
        assert!(bounds.min.is_finite() && bounds.max.is_finite() && form.reach().is_finite());
        for place in places {
            assert!(form.distance_to_point(pose, place).is_finite());
            for way in ways {
                for length in [0.0, 1e-6, 10.0, f64::INFINITY] {
                    let ray = Ray::new(place, way, length).unwrap();
                    let Some(contact) = form.cast(&ray, pose) else { continue };
                    assert!((0.0..=length).contains(&contact.distance), "{contact:?}");
                    assert!((contact.normal.length() - 1.0).abs() < 1e-9, "{contact:?}");
                }
            }
        }
    }
}

#[test]
fn depths_of_shapes_that_lie_in_one_another() {
    let turned = Pose::at(DVec3::new(0.0, 0.3, 0.0)).turned(0.5);
    let tall = Shape::Capsule { radius: 0.5, height: 3.0 };
    let cases = [
        // A box in the middle of a box leaves through the nearest side.
        (Shape::Box { size: [4.0; 3] }, Shape::Box { size: [1.0; 3] }, 2.2),
        (Shape::Box { size: [4.0; 3] }, Shape::Sphere { radius: 1.0 }, 2.7),
        (Shape::Sphere { radius: 2.0 }, Shape::Sphere { radius: 1.0 }, 2.7),
        (Shape::HalfSpace, Shape::Sphere { radius: 1.0 }, 0.7),
        (Shape::Cylinder { radius: 3.0, height: 2.0 }, Shape::Sphere { radius: 0.5 }, 1.2),
        (tall.clone(), tall, 1.0),
    ];
    for (a, b, expected) in cases {
        let found = distance(&convex(&a), &Pose::IDENTITY, &convex(&b), &turned);
        let name = format!("{} in {}", b.word(), a.word());
        assert!((found.gap + expected).abs() < 1e-4, "{name}: {} for {expected}", found.gap);
        let (apart, near) = (expected + 1e-3, expected - 1e-3);
        let moved =
            |metres: f64| Pose { position: turned.position + found.normal * metres, ..turned };
        assert!(!overlaps(&convex(&a), &Pose::IDENTITY, &convex(&b), &moved(apart)), "{name}");
        assert!(overlaps(&convex(&a), &Pose::IDENTITY, &convex(&b), &moved(near)), "{name}");
    }
}

#[test]
fn what_is_of_one_kind_has_its_shape_at_its_own_scale() {
    let corners = [[0.0, 0.0, 0.0], [1.0, 0.0, 0.0], [0.0, 1.0, 0.0], [0.0, 0.0, 1.0]];
    let hull = Shape::Hull { points: corners.to_vec() };
    let both = Shape::Any { shapes: vec![Posed::new(hull.clone()), Posed::new(hull.clone())] };
    for shape in [hull, both] {
        let scene =
            Scene::builder("Quarry")
                .kind(Kind::new("rock").solid(shape.clone()))
                .entity(Entity::new("one").kind("rock"))
                .entity(Entity::new("large").kind("rock").scale(2.0))
                .entity(Entity::new("another").kind("rock"))
                .entity(Entity::new("flat").solid(Shape::Hull {
                    points: corners.map(|[x, y, z]| [x, y / 2.0, z]).to_vec(),
                }))
                .build()
                .unwrap();
        let heights = ["one", "large", "another", "flat"].map(|name| {
            let form = scene.solid_form(scene.find(name).unwrap()).unwrap();
            form.bounds(&Pose::IDENTITY).max.y
        });
        assert_eq!(heights, [1.0, 2.0, 1.0, 0.5]);
    }
}

#[test]
fn a_surface_reaches_a_hair_over_its_edge_however_large_it_is() {
    for half in [0.5, 50.0, 5e4] {
        let rows = vec![vec![0.0; 2]; 2];
        let ground = form(&Shape::Heights { spacing: 2.0 * half, rows });
        let points = [[-1.0, 0.0, -1.0], [-1.0, 0.0, 1.0], [1.0, 0.0, -1.0], [1.0, 0.0, 1.0]];
        let points = points.map(|point| point.map(|part| part * half)).to_vec();
        let sheet = form(&Shape::Mesh { points, triangles: vec![[0, 1, 2], [2, 1, 3]] });
        for along in [DVec3::X, DVec3::NEG_X, DVec3::Z, DVec3::NEG_Z] {
            for surface in [&ground, &sheet] {
                let met = |beyond: f64| {
                    let above = along * (half + beyond) + DVec3::Y;
                    let plumb = Ray::new(above, DVec3::NEG_Y, 3.0).expect("a ray");
                    surface.cast(&plumb, &Pose::IDENTITY).map(|contact| contact.distance)
                };
                let over = met(TOUCH / 2.0).expect("within a hair of the edge");
                assert!((over - 1.0).abs() < 1e-9, "{over} at {half} m");
                assert_eq!(met(4.0 * TOUCH), None, "beyond the edge at {half} m along {along}");
            }
        }
    }
}
