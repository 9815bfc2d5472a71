//! The cores of convex shapes, around their own origin: what distance and sweeps run on.

use std::sync::Arc;

use glam::{DVec2, DVec3};

use super::gjk::search;
use super::simplex::Corner;

/// A convex set of points without rounding.
#[derive(Clone, Debug, PartialEq)]
pub(super) enum Core {
    /// The origin.
    Point,
    /// Along Y, this far up and down.
    Segment(f64),
    /// This far along each axis.
    Box(DVec3),
    /// Along Y.
    Cylinder { radius: f64, half: f64 },
    /// Along Y, its tip up.
    Cone { radius: f64, half: f64 },
    /// The convex hull of these.
    Hull(Arc<[DVec3]>),
    /// From the origin downwards. Where it must have an end, it ends [`FAR`] away.
    HalfSpace,
}

/// Where what has no end ends, in metres.
const FAR: f64 = 1e9;

impl Core {
    /// The point farthest along `direction`.
    pub fn support(&self, direction: DVec3) -> DVec3 {
        match *self {
            Self::Point => DVec3::ZERO,
            Self::Segment(half) => DVec3::new(0.0, half.copysign(direction.y), 0.0),
            Self::Box(half) => DVec3::new(
                half.x.copysign(direction.x),
                half.y.copysign(direction.y),
                half.z.copysign(direction.z),
            ),
            Self::Cylinder { radius, half } => rim(direction, radius, half.copysign(direction.y)),
            Self::Cone { radius, half } => {
                let (tip, rim) = (DVec3::Y * half, rim(direction, radius, -half));
                if tip.dot(direction) > rim.dot(direction) { tip } else { rim }
            }
            Self::Hull(ref points) => {
                let mut best = (f64::NEG_INFINITY, DVec3::ZERO);
                for point in points.iter() {
                    let along = point.dot(direction);
                    if along > best.0 {
                        best = (along, *point);
                    }
                }
                best.1
            }
            Self::HalfSpace => DVec3::new(
                FAR.copysign(direction.x) * f64::from(u8::from(direction.x != 0.0)),
                if direction.y < 0.0 { -FAR } else { 0.0 },
                FAR.copysign(direction.z) * f64::from(u8::from(direction.z != 0.0)),
            ),
        }
    }

    /// The point nearest to `point`, which is `point` itself if it lies inside.
    pub fn nearest(&self, point: DVec3) -> DVec3 {
        match *self {
            Self::Point => DVec3::ZERO,
            Self::Segment(half) => DVec3::new(0.0, point.y.clamp(-half, half), 0.0),
            Self::Box(half) => point.clamp(-half, half),
            Self::Cylinder { radius, half } => {
                let away = DVec2::new(point.x, point.z).clamp_length_max(radius);
                DVec3::new(away.x, point.y.clamp(-half, half), away.y)
            }
            Self::Cone { radius, half } => nearest_to_cone(point, radius, half),
            Self::Hull(_) => nearest_to_hull(self, point),
            Self::HalfSpace => DVec3 { y: point.y.min(0.0), ..point },
        }
    }

    /// How deep a point lies inside: no more than its distance to the surface, and 0 outside.
    pub fn depth(&self, point: DVec3) -> f64 {
        let away = || DVec2::new(point.x, point.z).length();
        let depth = match *self {
            // What is nearest to a point inside a hull is not worked out.
            Self::Point | Self::Segment(_) | Self::Hull(_) => 0.0,
            Self::Box(half) => (half - point.abs()).min_element(),
            Self::Cylinder { radius, half } => (radius - away()).min(half - point.y.abs()),
            Self::Cone { radius, half } => {
                let slope = DVec2::new(2.0 * half, radius).normalize();
                let side = -slope.dot(DVec2::new(away(), point.y - half));
                side.min(point.y + half)
            }
            Self::HalfSpace => -point.y,
        };
        depth.max(0.0)
    }

    /// The farthest any point lies from the origin.
    pub fn reach(&self) -> f64 {
        match *self {
            Self::Point => 0.0,
            Self::Segment(half) => half,
            Self::Box(half) => half.length(),
            Self::Cylinder { radius, half } | Self::Cone { radius, half } => radius.hypot(half),
            Self::Hull(ref points) => points.iter().map(|point| point.length()).fold(0.0, f64::max),
            Self::HalfSpace => FAR,
        }
    }

    /// The farthest any point is carried by a turn about `axis`, a unit vector through the origin, in metres
    /// for each radian; of what is round, by how the turn moves its own axis.
    pub fn reach_across(&self, axis: DVec3) -> f64 {
        let across = |point: DVec3| point.cross(axis).length_squared();
        let farthest = match *self {
            Self::Box(half) => {
                let corners = [[1.0, 1.0], [1.0, -1.0], [-1.0, 1.0], [-1.0, -1.0]];
                let across = corners.map(|[y, z]| across(half * DVec3::new(1.0, y, z)));
                across.into_iter().fold(0.0, f64::max)
            }
            Self::Hull(ref points) => points.iter().copied().map(across).fold(0.0, f64::max),
            Self::HalfSpace => self.reach() * self.reach(),
            Self::Point | Self::Segment(_) | Self::Cylinder { .. } | Self::Cone { .. } => {
                self.reach() * self.reach() * across(DVec3::Y).min(1.0)
            }
        };
        farthest.sqrt()
    }
}

/// The point of a circle around Y, at this height, farthest along `direction`.
fn rim(direction: DVec3, radius: f64, y: f64) -> DVec3 {
    // Straight up or down all of the rim is as far.
    let away = DVec2::new(direction.x, direction.z).normalize_or(DVec2::X) * radius;
    DVec3::new(away.x, y, away.y)
}

/// The nearest point of a cone, worked out in the plane through its axis and the point.
fn nearest_to_cone(point: DVec3, radius: f64, half: f64) -> DVec3 {
    let away = DVec2::new(point.x, point.z);
    let flat = DVec2::new(away.length(), point.y);
    let (tip, edge) = (DVec2::new(0.0, half), DVec2::new(radius, -half));
    let side = edge - tip;
    let outward = DVec2::new(-side.y, side.x);
    let above = outward.dot(flat - tip) > 0.0;
    if !above && flat.y >= -half {
        return point;
    }
    let on_side = tip + side * ((flat - tip).dot(side) / side.length_squared()).clamp(0.0, 1.0);
    let on_face = DVec2::new(flat.x.min(radius), -half);
    let near = |one: DVec2| one.distance_squared(flat);
    let best = if near(on_side) < near(on_face) { on_side } else { on_face };
    let away = away.normalize_or_zero() * best.x;
    DVec3::new(away.x, best.y, away.y)
}

/// The point of a hull nearest to a point.
fn nearest_to_hull(hull: &Core, point: DVec3) -> DVec3 {
    let found = search(point, |direction| {
        let on_a = hull.support(direction);
        Corner { difference: on_a - point, on_a, on_b: point }
    });
    if found.gap == 0.0 { point } else { found.on_a }
}
