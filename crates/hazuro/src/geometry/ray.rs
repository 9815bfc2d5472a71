//! Rays, and where they meet a shape.

use glam::DVec3;
use thiserror::Error;

use super::core::Core;
use super::{Convex, Pose, TOUCH};

/// A straight line from a point, in one direction, of some length or without end.
///
/// ```
/// use hazuro::geometry::Ray;
/// use glam::DVec3;
/// let down = Ray::new(DVec3::Y * 5.0, DVec3::NEG_Y * 2.0, f64::INFINITY)?;
/// assert_eq!(down.at(5.0), DVec3::ZERO);
/// assert!(Ray::new(DVec3::ZERO, DVec3::ZERO, 1.0).is_err());
/// # Ok::<(), hazuro::geometry::RayError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Ray {
    origin: DVec3,
    direction: DVec3,
    length: f64,
}

/// Why a ray cannot be.
#[derive(Clone, Debug, PartialEq, Error)]
pub enum RayError {
    /// The start is not finite.
    #[error("a ray starts at a finite place, not at {0}")]
    Origin(DVec3),
    /// The direction is zero or not finite.
    #[error("a ray needs a direction of some finite length; {0} is none")]
    Direction(DVec3),
    /// The length is below zero or not a number.
    #[error("a ray's length is a number from 0, or infinite; {0} is not")]
    Length(f64),
}

impl Ray {
    /// From `origin` along `direction`, which need not be of length 1, for `length` metres.
    ///
    /// # Errors
    /// If the start or direction is not finite, the direction is zero, or the length is below
    /// zero or not a number.
    pub fn new(origin: DVec3, direction: DVec3, length: f64) -> Result<Self, RayError> {
        if !origin.is_finite() {
            return Err(RayError::Origin(origin));
        }
        let unit = direction.try_normalize().ok_or(RayError::Direction(direction))?;
        if length.is_nan() || length < 0.0 {
            return Err(RayError::Length(length));
        }
        Ok(Self { origin, direction: unit, length })
    }

    /// From one point to another.
    ///
    /// # Errors
    /// If one of them is not finite, or they are the same.
    pub fn between(from: DVec3, to: DVec3) -> Result<Self, RayError> {
        Self::new(from, to - from, from.distance(to))
    }

    /// Where it starts.
    pub fn origin(&self) -> DVec3 {
        self.origin
    }

    /// Which way it goes: a unit vector.
    pub fn direction(&self) -> DVec3 {
        self.direction
    }

    /// How long it is, in metres; may be infinite.
    pub fn length(&self) -> f64 {
        self.length
    }

    /// The point at this distance along it, in metres.
    pub fn at(&self, distance: f64) -> DVec3 {
        self.origin + self.direction * distance
    }
}

/// Where a ray meets a shape.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Contact {
    /// How far along the ray, in metres; 0 if it starts inside.
    pub distance: f64,
    /// The unit vector out of the surface; against the ray if it starts inside.
    pub normal: DVec3,
    /// Whether the ray starts inside the shape.
    pub inside: bool,
}

/// Where a ray first meets a placed shape, if it does within its length. Touching counts.
///
/// ```
/// use hazuro::geometry::{Convex, Pose, Ray, Shape, cast};
/// use glam::DVec3;
/// let wall = Convex::new(&Shape::Box { size: [1.0, 4.0, 4.0] })?;
/// let ray = Ray::new(DVec3::X * -5.0, DVec3::X, 10.0).unwrap();
/// let contact = cast(&ray, &wall, &Pose::IDENTITY).unwrap();
/// assert_eq!((contact.distance, contact.normal), (4.5, DVec3::NEG_X));
/// # Ok::<(), hazuro::geometry::ShapeError>(())
/// ```
pub fn cast(ray: &Ray, shape: &Convex, pose: &Pose) -> Option<Contact> {
    let unturn = pose.rotation.conjugate();
    let (start, along) = (unturn * (ray.origin - pose.position), unturn * ray.direction);
    let nearest = shape.nearest_on_core(start);
    let within = shape.radius() + TOUCH;
    if start.distance_squared(nearest) <= within * within {
        return Some(Contact { distance: 0.0, normal: -ray.direction, inside: true });
    }
    let (distance, normal) = match shape.core() {
        Core::Box(half) => slabs(start, along, *half)?,
        _ => approach(shape, start, along)?,
    };
    (distance <= ray.length).then(|| Contact {
        distance,
        normal: pose.rotation * normal,
        inside: false,
    })
}

/// Where a ray from outside enters a box around the origin.
fn slabs(start: DVec3, along: DVec3, half: DVec3) -> Option<(f64, DVec3)> {
    let (mut enter, mut leave, mut normal) = (f64::NEG_INFINITY, f64::INFINITY, DVec3::ZERO);
    for axis in 0..3 {
        let (start, along, half) = (start[axis], along[axis], half[axis]);
        if along.abs() < f64::MIN_POSITIVE {
            if start.abs() > half + TOUCH {
                return None;
            }
            continue;
        }
        let near = (-half.copysign(along) - start) / along;
        let far = (half.copysign(along) - start) / along;
        if near > enter {
            enter = near;
            normal = DVec3::ZERO;
            normal[axis] = -along.signum();
        }
        leave = leave.min(far);
    }
    (enter <= leave && enter >= 0.0).then_some((enter, normal))
}

/// Where a ray from outside enters a shape. The gap along the ray is a convex function, so
/// Newton's method from outside never steps over the surface.
fn approach(shape: &Convex, start: DVec3, along: DVec3) -> Option<(f64, DVec3)> {
    const MAX_STEPS: usize = 100;
    let (mut distance, mut normal) = (0.0, -along);
    for _ in 0..MAX_STEPS {
        let point = start + along * distance;
        let way = point - shape.nearest_on_core(point);
        let length = way.length();
        let gap = length - shape.radius();
        // On a surface without rounding no way is left; the one before still tells.
        if length > TOUCH {
            normal = way / length;
        }
        let slope = normal.dot(along);
        let next = distance - gap / slope;
        if gap <= f64::EPSILON * (shape.radius() + distance) || (slope < 0.0 && next <= distance) {
            return Some((distance, normal));
        }
        if slope >= 0.0 {
            return (gap <= TOUCH).then_some((distance, normal));
        }
        distance = next;
    }
    None
}

/// How far a point is from a placed shape: 0 inside.
pub fn distance_to_point(shape: &Convex, pose: &Pose, point: DVec3) -> f64 {
    let local = pose.rotation.conjugate() * (point - pose.position);
    (local.distance(shape.nearest_on_core(local)) - shape.radius()).max(0.0)
}
