//! Convex polytopes that grow point by point: volumes of hulls, and how deep shapes overlap.
//!
//! The hull grows as in C. B. Barber, D. P. Dobkin, H. Huhdanpaa, "The quickhull algorithm for
//! convex hulls", ACM Transactions on Mathematical Software 22(4), 1996: the faces that a new point
//! sees go, and a cone from their horizon to the point comes. Depths are found as in G. van den
//! Bergen, "Proximity queries and penetration depth computation on 3D game objects", 2001: the
//! difference of both shapes is grown where it is nearest to the origin.

use glam::DVec3;

use super::simplex::Corner;

/// A bound on the growth of a difference; shapes with round edges get to it at last.
const MAX_ROUNDS: usize = 64;
/// What a new point must add, relative to the size, to be worth adding: to a hull, and to a
/// difference.
const GAIN: f64 = 1e-10;
const DEPTH_GAIN: f64 = 1e-5;

/// A triangle, its corners counter-clockwise from outside.
#[derive(Clone, Copy, Debug)]
struct Face {
    corners: [usize; 3],
    /// A unit vector outwards.
    normal: DVec3,
    /// How far the plane lies from the origin, along the normal.
    offset: f64,
}

/// A convex polytope.
#[derive(Debug)]
pub(super) struct Polytope {
    corners: Vec<Corner>,
    faces: Vec<Face>,
    size: f64,
}

impl Polytope {
    /// The hull of points; none if it is flat.
    pub fn hull(points: &[DVec3]) -> Option<Self> {
        let farthest = |way: DVec3| {
            let along = |point: &&DVec3| point.dot(way);
            let best = points.iter().max_by(|one, other| along(one).total_cmp(&along(other)));
            corner(best.copied().unwrap_or_default())
        };
        let mut hull = Self::start(farthest)?;
        for point in points {
            hull.add(corner(*point), GAIN);
        }
        Some(hull)
    }

    /// A tetrahedron of points that are farthest in some directions; none if all lie in a plane.
    fn start(farthest: impl Fn(DVec3) -> Corner) -> Option<Self> {
        let axes = [DVec3::X, DVec3::Y, DVec3::Z];
        let pairs = axes.map(|axis| (farthest(-axis), farthest(axis)));
        let length = |pair: &(Corner, Corner)| pair.0.difference.distance(pair.1.difference);
        let (a, b) =
            pairs.into_iter().max_by(|one, other| length(one).total_cmp(&length(other)))?;
        let size = a.difference.distance(b.difference);
        let along = (b.difference - a.difference) / size;
        // Among several directions across, the one in which it is widest.
        let one = along.any_orthonormal_vector();
        let other = along.cross(one);
        let ways = [one, -one, other, -other];
        let away = |c: &Corner| (c.difference - a.difference).cross(along).length();
        let c = ways.map(&farthest).into_iter().max_by(|c, d| away(c).total_cmp(&away(d)))?;
        let across = (b.difference - a.difference).cross(c.difference - a.difference);
        let normal = across.try_normalize()?;
        let off = |d: &Corner| (d.difference - a.difference).dot(normal).abs();
        let d = [normal, -normal]
            .map(&farthest)
            .into_iter()
            .max_by(|d, e| off(d).total_cmp(&off(e)))?;
        let flat = size * 1e-9;
        if !size.is_finite() || away(&c) <= flat || off(&d) <= flat {
            return None;
        }
        let (b, c) = if (d.difference - a.difference).dot(normal) > 0.0 { (c, b) } else { (b, c) };
        let mut tetrahedron = Self { corners: vec![a, b, c, d], faces: Vec::new(), size };
        for corners in [[0, 1, 2], [0, 3, 1], [1, 3, 2], [2, 3, 0]] {
            tetrahedron.faces.extend(tetrahedron.face(corners));
        }
        (tetrahedron.faces.len() == 4).then_some(tetrahedron)
    }

    fn point(&self, corner: usize) -> DVec3 {
        self.corners[corner].difference
    }

    /// None if it has no area.
    fn face(&self, corners: [usize; 3]) -> Option<Face> {
        let [a, b, c] = corners.map(|corner| self.point(corner));
        let normal = (b - a).cross(c - a).try_normalize()?;
        Some(Face { corners, normal, offset: normal.dot(a) })
    }

    /// Grows it by a point. `false` if the point lies inside, or adds next to nothing.
    fn add(&mut self, new: Corner, gain: f64) -> bool {
        let above = |face: &Face| new.difference.dot(face.normal) - face.offset;
        let slack = gain * self.size;
        if !self.faces.iter().any(|face| above(face) > slack) {
            return false;
        }
        // Faces in one plane with the point go, too, so that it makes no triangle without area.
        let sees = |face: &Face| above(face) > -slack;
        let seen: Vec<Face> = self.faces.iter().filter(|face| sees(face)).copied().collect();
        // An edge of the horizon belongs to one seen face only, once each way round.
        let edges = || seen.iter().flat_map(|face| edges_of(face.corners));
        let horizon: Vec<[usize; 2]> =
            edges().filter(|[from, to]| !edges().any(|edge| edge == [*to, *from])).collect();
        self.faces.retain(|face| !sees(face));
        self.corners.push(new);
        let tip = self.corners.len() - 1;
        for [from, to] in horizon {
            self.faces.extend(self.face([from, to, tip]));
        }
        true
    }

    /// The face whose plane is nearest to the origin.
    fn nearest(&self) -> Option<&Face> {
        self.faces.iter().min_by(|one, other| one.offset.total_cmp(&other.offset))
    }

    /// The volume, as the sum of the tetrahedra between its faces and one of its corners.
    pub fn volume(&self) -> f64 {
        let tip = self.point(0);
        let six_fold = self.faces.iter().map(|face| {
            let [a, b, c] = face.corners.map(|corner| self.point(corner) - tip);
            a.dot(b.cross(c))
        });
        six_fold.sum::<f64>() / 6.0
    }
}

fn edges_of([a, b, c]: [usize; 3]) -> [[usize; 2]; 3] {
    [[a, b], [b, c], [c, a]]
}

fn corner(point: DVec3) -> Corner {
    Corner { difference: point, on_a: point, on_b: DVec3::ZERO }
}

/// How deep two overlapping sets lie in one another.
#[derive(Clone, Copy, Debug)]
pub(super) struct Depth {
    /// How far the second must at least be moved.
    pub metres: f64,
    /// Which way: a unit vector.
    pub normal: DVec3,
    /// The point of the first that is deepest in the second.
    pub on_a: DVec3,
    /// The point of the second that is deepest in the first.
    pub on_b: DVec3,
}

/// How far the second of two overlapping convex sets must be moved, and which way, to part them.
/// `farthest` gives the points farthest along a direction: the first set's, less the second's.
/// None if their difference is flat, so that they hardly overlap at all.
pub(super) fn depth(farthest: impl Fn(DVec3) -> Corner) -> Option<Depth> {
    let mut difference = Polytope::start(&farthest)?;
    for _ in 0..MAX_ROUNDS {
        let face = *difference.nearest()?;
        let next = farthest(face.normal);
        let gain = next.difference.dot(face.normal) - face.offset;
        if gain <= DEPTH_GAIN * difference.size || !difference.add(next, GAIN) {
            break;
        }
    }
    let face = difference.nearest()?;
    let [a, b, c] = face.corners.map(|corner| difference.corners[corner]);
    // The foot of the origin on the face, as shares of its corners.
    let foot = face.normal * face.offset;
    let area = (b.difference - a.difference).cross(c.difference - a.difference);
    let share = |one: DVec3, other: DVec3| {
        (one - foot).cross(other - foot).dot(area) / area.length_squared()
    };
    let (u, v) = (share(b.difference, c.difference), share(c.difference, a.difference));
    let blend =
        |one: DVec3, other: DVec3, third: DVec3| one * u + other * v + third * (1.0 - u - v);
    Some(Depth {
        metres: face.offset.max(0.0),
        normal: face.normal,
        on_a: blend(a.on_a, b.on_a, c.on_a),
        on_b: blend(a.on_b, b.on_b, c.on_b),
    })
}
