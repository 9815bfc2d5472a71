//! Triangles, solid from both sides.

use glam::DVec3;

use super::convex::coordinate;
use super::tree::{Beam, Bounds, Item, Tree};
use super::{Aabb, Contact, Convex, Pose, ShapeError, TOUCH, distance_to_point};

/// The layer that all triangles are in.
const ALL: u64 = 1;

/// A checked mesh, in its own frame.
#[derive(Clone, Debug)]
pub(super) struct Mesh {
    points: Vec<DVec3>,
    triangles: Vec<[u32; 3]>,
    tree: Tree,
}

/// Meshes are alike if their triangles are.
impl PartialEq for Mesh {
    fn eq(&self, other: &Self) -> bool {
        self.points == other.points && self.triangles == other.triangles
    }
}

impl Mesh {
    pub fn new(points: &[[f64; 3]], triangles: &[[u32; 3]]) -> Result<Self, ShapeError> {
        if triangles.is_empty() {
            return Err(ShapeError::NoTriangles);
        }
        for value in points.iter().flatten() {
            coordinate("a mesh's coordinate", *value)?;
        }
        let points: Vec<DVec3> = points.iter().copied().map(DVec3::from_array).collect();
        for (triangle, corners) in triangles.iter().enumerate() {
            let missing = corners.iter().find(|point| **point as usize >= points.len());
            if let Some(&point) = missing {
                return Err(ShapeError::NoPoint { triangle, point, points: points.len() });
            }
            let [a, b, c] = corners.map(|corner| points[corner as usize]);
            if (b - a).cross(c - a).try_normalize().is_none() {
                return Err(ShapeError::FlatTriangle(triangle));
            }
        }
        let mut mesh = Self { points, triangles: triangles.to_vec(), tree: Tree::default() };
        let items: Vec<Item> = (0..triangles.len() as u32)
            .map(|number| {
                let bounds = Aabb::of(mesh.corners(number));
                Item { number, bounds: Bounds::from(&bounds), layers: ALL }
            })
            .collect();
        mesh.tree = Tree::build(&items);
        Ok(mesh)
    }

    fn corners(&self, triangle: u32) -> [DVec3; 3] {
        self.triangles[triangle as usize].map(|point| self.points[point as usize])
    }

    pub fn bounds(&self) -> Aabb {
        Aabb::of(self.triangles.iter().flatten().map(|point| self.points[*point as usize]))
    }

    /// Calls `visit` with the triangles that may meet `near`.
    pub fn near(&self, near: &Aabb, mut visit: impl FnMut(&Convex)) {
        let mut triangle = Convex::of_points(&[DVec3::ZERO; 3]);
        self.tree.meeting(&Bounds::from(near), ALL, |number| {
            triangle.set_points(&self.corners(number));
            visit(&triangle);
        });
    }

    /// Where a ray along a unit vector first meets a triangle.
    pub fn cast(&self, from: DVec3, along: DVec3, length: f64) -> Option<Contact> {
        let mut first: Option<(f64, u32, DVec3)> = None;
        self.tree.along(&Beam::new(from, along, DVec3::ZERO), ALL, length, |number, until| {
            let Some((distance, normal)) = meet_triangle(from, along, self.corners(number)) else {
                return until;
            };
            // Of two triangles that share an edge, the first listed.
            let nearer = first.is_none_or(|(d, n, _)| (distance, number) < (d, n));
            if distance <= length && nearer {
                first = Some((distance, number, normal));
            }
            first.map_or(until, |(distance, ..)| distance)
        });
        first.map(|(distance, _, normal)| Contact { distance, normal, inside: false })
    }

    pub fn distance_to(&self, point: DVec3) -> f64 {
        let mut triangle = Convex::of_points(&[DVec3::ZERO; 3]);
        let mut nearest = f64::INFINITY;
        self.tree.around(point, ALL, f64::INFINITY, |number, _| {
            triangle.set_points(&self.corners(number));
            nearest = nearest.min(distance_to_point(&triangle, &Pose::IDENTITY, point));
            nearest
        });
        nearest
    }
}

/// Where a ray meets a triangle, and the normal on the side it comes from. Source: T. Möller,
/// B. Trumbore, "Fast, minimum storage ray/triangle intersection", Journal of Graphics Tools 2(1),
/// 1997.
pub(super) fn meet_triangle(
    from: DVec3,
    along: DVec3,
    [a, b, c]: [DVec3; 3],
) -> Option<(f64, DVec3)> {
    let (ab, ac) = (b - a, c - a);
    let across = along.cross(ac);
    let det = ab.dot(across);
    if det == 0.0 {
        return None;
    }
    let (start, inverse) = (from - a, 1.0 / det);
    let u = start.dot(across) * inverse;
    let other = start.cross(ab);
    let v = along.dot(other) * inverse;
    // A little over the edge, so that no ray slips through between two triangles.
    let slack = TOUCH / ab.length().min(ac.length()).max(TOUCH);
    if u < -slack || v < -slack || u + v > 1.0 + slack {
        return None;
    }
    let distance = ac.dot(other) * inverse;
    let normal = ab.cross(ac).try_normalize()?;
    let normal = if normal.dot(along) > 0.0 { -normal } else { normal };
    (distance >= -TOUCH).then(|| (distance.max(0.0), normal))
}
