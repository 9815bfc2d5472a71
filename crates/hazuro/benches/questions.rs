//! Rays and nearest things, as ratios to yardsticks measured in the same run.
//!
//! Run it with `cargo bench -p hazuro --bench questions`.

mod common;

use std::cell::Cell;
use std::hint::black_box;

use bvh::aabb::{Aabb, Bounded, IntersectsAabb};
use bvh::bounding_hierarchy::BHShape;
use bvh::bvh::Bvh;
use common::{Chance, seconds_of, shown};
use hazuro::geometry::{Convex, Pose, Ray, Shape, cast};
use hazuro::glam::{DQuat, DVec3};
use hazuro::scene::{Body, Entity};
use hazuro::{Filter, Input, Play, Scene, Time};
use nalgebra::{Point3, Vector3};
use rstar::RTree;

const RAY: f64 = 50.0;
const RAYS: usize = 1000;
const RANGE: f64 = 15.0;
const SEEKERS: usize = 1000;

/// A solid, for us and for the yardstick.
struct Solid {
    shape: Shape,
    convex: Convex,
    pose: Pose,
    node: usize,
}

impl Solid {
    fn new(shape: Shape, pose: Pose) -> Self {
        let convex = Convex::new(&shape).expect("a good shape");
        Self { shape, convex, pose, node: 0 }
    }
}

impl Bounded<f32, 3> for Solid {
    fn aabb(&self) -> Aabb<f32, 3> {
        let bounds = self.convex.bounds(&self.pose);
        let point = |corner: DVec3| Point3::new(corner.x as f32, corner.y as f32, corner.z as f32);
        Aabb::with_bounds(point(bounds.min), point(bounds.max))
    }
}

impl BHShape<f32, 3> for Solid {
    fn set_bh_node_index(&mut self, index: usize) {
        self.node = index;
    }
    fn bh_node_index(&self) -> usize {
        self.node
    }
}

/// Boxes of 2 to 6 m, half a box per point of ground; or all sorts of shapes, turned.
fn solids(count: usize, mixed: bool) -> Vec<Solid> {
    let mut chance = Chance::new(5);
    let side = (count as f64 * 32.0).sqrt();
    let made = (0..count).map(|index| {
        let size = [0; 3].map(|_| chance.between(2.0, 6.0));
        let place = DVec3::new(chance.unit() * side, size[1] / 2.0, chance.unit() * side);
        if !mixed {
            return Solid::new(Shape::Box { size }, Pose::at(place));
        }
        let (radius, height) = (size[0] / 2.0, size[0] + size[1]);
        let shape = match index % 5 {
            0 => Shape::Box { size },
            1 => Shape::Sphere { radius },
            2 => Shape::Capsule { radius, height },
            3 => Shape::Cylinder { radius, height },
            _ => Shape::Cone { radius, height },
        };
        let turn = [0; 4].map(|_| chance.between(-1.0, 1.0));
        let rotation = DQuat::from_array(turn).normalize();
        Solid::new(shape, Pose { position: place, rotation })
    });
    made.collect()
}

fn rays(count: usize) -> Vec<Ray> {
    let mut chance = Chance::new(9);
    let side = (count as f64 * 32.0).sqrt();
    let made = (0..RAYS).map(|_| {
        let from = DVec3::new(chance.unit() * side, chance.between(0.5, 8.0), chance.unit() * side);
        let way = DVec3::from_array([0; 3].map(|_| chance.between(-1.0, 1.0)));
        Ray::new(from, way * DVec3::new(1.0, 0.3, 1.0), RAY).expect("a good ray")
    });
    made.collect()
}

/// A ray that forgets what lies beyond the nearest hit so far.
struct Shrinking {
    origin: [f32; 3],
    inverse: [f32; 3],
    limit: Cell<f32>,
}

impl IntersectsAabb<f32, 3> for Shrinking {
    fn intersects_aabb(&self, aabb: &Aabb<f32, 3>) -> bool {
        let (mut near, mut far) = (0.0_f32, self.limit.get());
        for axis in 0..3 {
            let low = (aabb.min[axis] - self.origin[axis]) * self.inverse[axis];
            let high = (aabb.max[axis] - self.origin[axis]) * self.inverse[axis];
            near = near.max(low.min(high));
            far = far.min(low.max(high));
        }
        near <= far
    }
}

fn shrinking(ray: &Ray) -> Shrinking {
    let single = |vector: DVec3| vector.to_array().map(|number| number as f32);
    let inverse = single(ray.direction()).map(|number| 1.0 / number);
    Shrinking { origin: single(ray.origin()), inverse, limit: Cell::new(RAY as f32) }
}

fn ray_row(count: usize, mixed: bool) {
    let mut solids = solids(count, mixed);
    let rays = rays(count);
    let mut scene = Scene::builder("Bench");
    for (index, solid) in solids.iter().enumerate() {
        let entity = Entity::new(format!("s{index}")).at(solid.pose).solid(solid.shape.clone());
        scene = scene.entity(entity);
    }
    let play = Play::new(scene.build().expect("a good scene"));
    let tree = Bvh::build(&mut solids);
    let exact = |ray: &Ray, solid: &Solid| {
        cast(ray, &solid.convex, &solid.pose).map(|contact| contact.distance)
    };

    let ours = || {
        rays.iter()
            .filter_map(|ray| play.space().ray(ray, &Filter::solids()).map(|hit| hit.distance))
            .sum::<f64>()
    };
    let plain = || {
        let found = rays.iter().map(|ray| {
            let query = shrinking(ray);
            let mut best = f64::INFINITY;
            for solid in tree.traverse_iterator(&query, &solids) {
                if let Some(distance) = exact(ray, solid).filter(|distance| *distance < best) {
                    best = distance;
                    query.limit.set(distance as f32 + 1e-3);
                }
            }
            if best.is_finite() { best } else { 0.0 }
        });
        found.sum::<f64>()
    };
    let ordered = || {
        let found = rays.iter().map(|ray| {
            let (o, d) = (ray.origin().as_vec3(), ray.direction().as_vec3());
            let query = bvh::ray::Ray::new(Point3::new(o.x, o.y, o.z), Vector3::new(d.x, d.y, d.z));
            let mut best = f64::INFINITY;
            for solid in tree.nearest_traverse_iterator(&query, &solids) {
                let bounds = solid.aabb();
                // Boxes come nearest first; once one starts beyond the best hit, all do.
                let start = query.intersection_slice_for_aabb(&bounds).map_or(0.0, |slice| slice.0);
                if f64::from(start) > best.min(RAY) {
                    break;
                }
                best = exact(ray, solid).map_or(best, |distance| best.min(distance));
            }
            if best.is_finite() { best } else { 0.0 }
        });
        found.sum::<f64>()
    };
    let brute = || {
        let few = rays.iter().take(20);
        few.filter_map(|ray| {
            solids.iter().filter_map(|solid| exact(ray, solid)).min_by(f64::total_cmp)
        })
        .sum::<f64>()
    };
    let (a, b, c) = (ours(), plain(), ordered());
    assert!((a - b).abs() < 1e-3 && (a - c).abs() < 1e-3, "{a} {b} {c}");

    let per_ray = |seconds: f64| seconds / RAYS as f64;
    let time = per_ray(seconds_of(|| {
        black_box(ours());
    }));
    let plain = per_ray(seconds_of(|| {
        black_box(plain());
    }));
    let ordered = per_ray(seconds_of(|| {
        black_box(ordered());
    }));
    let brute = seconds_of(|| {
        black_box(brute());
    }) / 20.0;
    let title = if mixed { "mixed turned shapes" } else { "boxes" };
    println!(
        "| {count} {title} | {} | {:.1}× | {:.1}× | {:.0}× |",
        shown(time),
        ordered / time,
        plain / time,
        brute / time
    );
}

/// Points that move, and where they are going.
fn points(count: usize, crowded: bool) -> Vec<(DVec3, DVec3)> {
    let mut chance = Chance::new(13);
    let side = (count as f64 * 32.0).sqrt();
    // One percent of the ground is a tenth of its side.
    let side = if crowded { side / 10.0 } else { side };
    let made = (0..count).map(|_| {
        let from = DVec3::new(chance.unit() * side, 0.0, chance.unit() * side);
        let angle = chance.unit() * std::f64::consts::TAU;
        (from, from + DVec3::new(angle.cos(), 0.0, angle.sin()) * 30.0)
    });
    made.collect()
}

/// A uniform grid of cells of 8 m, built anew.
struct Grid {
    width: i64,
    cells: Vec<Vec<u32>>,
}

impl Grid {
    const CELL: f64 = 8.0;

    fn cell(value: f64, width: i64) -> i64 {
        ((value / Self::CELL).floor() as i64).clamp(0, width - 1)
    }

    fn build(&mut self, points: &[DVec3]) {
        self.cells.iter_mut().for_each(Vec::clear);
        for (index, point) in points.iter().enumerate() {
            let [x, z] = [point.x, point.z].map(|value| Self::cell(value, self.width));
            self.cells[(z * self.width + x) as usize].push(index as u32);
        }
    }

    /// Looks at all cells that the range reaches, ring by ring until none can be nearer.
    fn nearest(&self, points: &[DVec3], seeker: DVec3) -> f64 {
        let (mut best, [x, z]) =
            (RANGE, [seeker.x, seeker.z].map(|value| Self::cell(value, self.width)));
        let rings = (RANGE / Self::CELL).ceil() as i64;
        for ring in 0..=rings {
            if (ring - 1) as f64 * Self::CELL > best {
                break;
            }
            for dz in -ring..=ring {
                for dx in -ring..=ring {
                    let (cx, cz) = (x + dx, z + dz);
                    let inside = (0..self.width).contains(&cx) && (0..self.width).contains(&cz);
                    if dx.abs().max(dz.abs()) == ring && inside {
                        for index in &self.cells[(cz * self.width + cx) as usize] {
                            best = best.min(points[*index as usize].distance(seeker));
                        }
                    }
                }
            }
        }
        best
    }
}

fn nearest_row(count: usize, crowded: bool) {
    const RADIUS: f64 = 1e-3;
    let points = points(count, crowded);
    let seekers: Vec<DVec3> =
        points.iter().step_by(count / SEEKERS).map(|(from, _)| *from + DVec3::Y).collect();
    let mut scene = Scene::builder("Bench").rate(60);
    for (index, (from, _)) in points.iter().enumerate() {
        let body = Body::new(Shape::Sphere { radius: RADIUS });
        scene = scene.entity(Entity::new(format!("p{index}")).at(from.to_array()).body(body));
    }
    let mut play = Play::new(scene.build().expect("a good scene"));
    let ids: Vec<_> = play.scene().ids().collect();
    for (who, (_, to)) in ids.iter().zip(&points) {
        let to = (*to).into();
        play.schedule(Time::ZERO, Input::Drive { who: *who, to, until: Time::from_secs(10.0) })
            .unwrap();
    }
    play.step();
    play.step();
    let at = |seconds: f64| -> Vec<DVec3> {
        points.iter().map(|(from, to)| from.lerp(*to, seconds / 10.0)).collect()
    };
    let now = at(play.now().secs());
    let gap =
        |found: Vec<hazuro::Found>| found.first().map_or(RANGE, |found| found.distance + RADIUS);
    let mut grid = {
        let high = now.iter().map(|point| point.max_element()).fold(0.0, f64::max);
        let width = (high / Grid::CELL) as i64 + 2;
        Grid { width, cells: vec![Vec::new(); (width * width) as usize] }
    };
    grid.build(&now);
    for seeker in seekers.iter().take(50) {
        let (ours, theirs) = (
            gap(play.space().nearest(*seeker, RANGE, 1, &Filter::bodies())),
            grid.nearest(&now, *seeker),
        );
        assert!((ours - theirs).abs() < 1e-6, "{ours} for {theirs}");
    }

    let ours = seconds_of(|| {
        play.step();
        for seeker in &seekers {
            black_box(play.space().nearest(*seeker, RANGE, 1, &Filter::bodies()));
        }
    });
    let mut tick = 0.0;
    let by_grid = seconds_of(|| {
        tick += 1.0 / 60.0;
        let now = at(tick);
        grid.build(&now);
        for seeker in &seekers {
            black_box(grid.nearest(&now, *seeker));
        }
    });
    let by_rstar = seconds_of(|| {
        tick += 1.0 / 60.0;
        let tree = RTree::bulk_load(at(tick).iter().map(DVec3::to_array).collect());
        for seeker in &seekers {
            black_box(tree.nearest_neighbor(seeker.to_array()));
        }
    });
    let title = if crowded { "crowded" } else { "even" };
    println!(
        "| {count} points, {title} | {} | {:.1}× | {:.1}× |",
        shown(ours),
        by_rstar / ours,
        by_grid / ours
    );
}

fn main() {
    println!(
        "| first hit of a 50 m ray | a ray | of bvh, nearest first | of bvh, shrinking | of brute force |"
    );
    println!("|---|---|---|---|---|");
    for count in [1_000, 10_000, 100_000] {
        ray_row(count, false);
    }
    ray_row(10_000, true);
    println!("\n| nearest of 1000 seekers, a tick | ours | of rstar, rebuilt | of grid, rebuilt |");
    println!("|---|---|---|---|");
    for count in [10_000, 100_000] {
        nearest_row(count, false);
        nearest_row(count, true);
    }
}
