//! The point of a simplex nearest to the origin: the inner step of the distance algorithm.
//!
//! A simplex is a point, segment, triangle or tetrahedron. Each case tries its own interior first
//! and falls back on the best of its faces, so flat and needle-thin simplices need no special
//! case. Source: C. Ericson, *Real-Time Collision Detection*, Morgan Kaufmann 2005, section 5.1.

use glam::DVec3;

/// A corner of the simplex: the difference of a point of A and a point of B.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Corner {
    pub difference: DVec3,
    pub on_a: DVec3,
    pub on_b: DVec3,
}

/// At most four corners and the weights that give the nearest point.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Simplex {
    corners: [Corner; 4],
    weights: [f64; 4],
    len: usize,
}

impl Simplex {
    pub fn of(corner: Corner) -> Self {
        let mut simplex = Self { len: 1, ..Self::default() };
        simplex.corners[0] = corner;
        simplex.weights[0] = 1.0;
        simplex
    }

    fn corners(&self) -> &[Corner] {
        &self.corners[..self.len]
    }

    pub fn holds(&self, difference: DVec3) -> bool {
        self.corners().iter().any(|corner| corner.difference == difference)
    }

    fn weighted(&self, of: impl Fn(&Corner) -> DVec3) -> DVec3 {
        self.corners().iter().zip(self.weights).map(|(corner, weight)| of(corner) * weight).sum()
    }

    /// The point nearest to the origin.
    pub fn nearest(&self) -> DVec3 {
        self.weighted(|corner| corner.difference)
    }

    /// The points of A and of B whose difference that is.
    pub fn witnesses(&self) -> (DVec3, DVec3) {
        (self.weighted(|corner| corner.on_a), self.weighted(|corner| corner.on_b))
    }

    /// Adds a corner and reduces to the smallest face that still holds the nearest point.
    /// Gives `true` if the origin lies inside.
    pub fn extend(&mut self, corner: Corner) -> bool {
        self.corners[self.len] = corner;
        self.len += 1;
        let points = self.corners.map(|corner| corner.difference);
        let mut best = Best::default();
        let inside = match self.len {
            2 => best.segment(&points, 0, 1),
            3 => best.triangle(&points, 0, 1, 2),
            _ => {
                if let Some(weights) = inside_tetrahedron(&points) {
                    self.weights = weights;
                    return true;
                }
                best.triangle(&points, 0, 1, 2);
                best.triangle(&points, 0, 1, 3);
                best.triangle(&points, 0, 2, 3);
                best.triangle(&points, 1, 2, 3)
            }
        };
        debug_assert!(!inside || self.len < 4);
        let mut kept = 0;
        for index in 0..self.len {
            if best.weights[index] > 0.0 {
                self.corners[kept] = self.corners[index];
                self.weights[kept] = best.weights[index];
                kept += 1;
            }
        }
        self.len = kept;
        false
    }
}

/// The nearest point found so far, as weights of the corners.
struct Best {
    distance_squared: f64,
    weights: [f64; 4],
}

impl Default for Best {
    fn default() -> Self {
        Self { distance_squared: f64::INFINITY, weights: [0.0; 4] }
    }
}

impl Best {
    fn offer(&mut self, points: &[DVec3; 4], weights: [f64; 4]) {
        let nearest: DVec3 =
            points.iter().zip(weights).map(|(point, weight)| *point * weight).sum();
        let distance_squared = nearest.length_squared();
        if distance_squared < self.distance_squared {
            *self = Self { distance_squared, weights };
        }
    }

    fn segment(&mut self, points: &[DVec3; 4], i: usize, j: usize) -> bool {
        let (a, b) = (points[i], points[j]);
        let along = b - a;
        let length_squared = along.length_squared();
        let t = if length_squared > 0.0 {
            (-a.dot(along) / length_squared).clamp(0.0, 1.0)
        } else {
            0.0
        };
        let mut weights = [0.0; 4];
        weights[i] = 1.0 - t;
        weights[j] = t;
        self.offer(points, weights);
        false
    }

    fn triangle(&mut self, points: &[DVec3; 4], i: usize, j: usize, k: usize) -> bool {
        let (a, b, c) = (points[i], points[j], points[k]);
        let normal = (b - a).cross(c - a);
        let area_squared = normal.length_squared();
        if area_squared > 0.0 {
            // Barycentric coordinates of the origin's foot on the triangle's plane.
            let u = normal.dot(b.cross(c)) / area_squared;
            let v = normal.dot(c.cross(a)) / area_squared;
            let w = 1.0 - u - v;
            if u > 0.0 && v > 0.0 && w > 0.0 {
                let mut weights = [0.0; 4];
                weights[i] = u;
                weights[j] = v;
                weights[k] = w;
                self.offer(points, weights);
                return false;
            }
        }
        self.segment(points, i, j);
        self.segment(points, i, k);
        self.segment(points, j, k)
    }
}

/// The weights of the origin in the tetrahedron, if it lies inside.
fn inside_tetrahedron(points: &[DVec3; 4]) -> Option<[f64; 4]> {
    let [a, b, c, d] = *points;
    let volume = (b - a).dot((c - a).cross(d - a));
    let parts = [b.dot(c.cross(d)), -a.dot(c.cross(d)), a.dot(b.cross(d)), -a.dot(b.cross(c))];
    // A flat tetrahedron has no inside; its faces answer.
    let scale = points.iter().map(|point| point.abs().max_element()).fold(0.0, f64::max);
    if volume.abs() <= 1e-14 * scale * scale * scale {
        return None;
    }
    let weights = parts.map(|part| part / volume);
    weights.iter().all(|weight| *weight >= 0.0).then_some(weights)
}
