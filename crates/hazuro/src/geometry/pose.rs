//! Where something is and how it is turned.

use std::hash::{Hash, Hasher};
use std::ops::Mul;

use glam::{DQuat, DVec2, DVec3};

use super::ROUNDING;

/// A position in metres and a rotation (a unit quaternion).
///
/// Poses compose like transforms: `parent * child` is the child's pose in the parent's frame.
///
/// ```
/// use hazuro::geometry::Pose;
/// use glam::DVec3;
/// let mill = Pose::at(DVec3::new(10.0, 0.0, 0.0)).turned(std::f64::consts::FRAC_PI_2);
/// let door = mill * Pose::at(DVec3::new(0.0, 0.0, -2.0));
/// // A quarter turn counter-clockwise takes -Z to -X.
/// assert!(door.position.distance(DVec3::new(8.0, 0.0, 0.0)) < 1e-12);
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Pose {
    /// Metres from the origin of the frame it is given in.
    pub position: DVec3,
    /// A unit quaternion.
    pub rotation: DQuat,
}

impl Pose {
    /// At the origin, not turned.
    pub const IDENTITY: Self = Self { position: DVec3::ZERO, rotation: DQuat::IDENTITY };

    /// At `position`, not turned.
    pub const fn at(position: DVec3) -> Self {
        Self { position, rotation: DQuat::IDENTITY }
    }

    /// The same place, turned by `radians` about Y, counter-clockwise seen from above.
    #[must_use]
    pub fn turned(self, radians: f64) -> Self {
        Self { rotation: DQuat::from_rotation_y(radians), ..self }
    }

    /// The same place, turned about Y so that -Z points along `way`; unturned if that is straight up
    /// or down.
    #[must_use]
    pub(crate) fn facing(self, way: DVec3) -> Self {
        if way.x == 0.0 && way.z == 0.0 {
            self
        } else {
            self.turned(DVec2::new(-way.z, -way.x).to_angle())
        }
    }

    /// A point given in this pose's frame, in the frame the pose is given in.
    pub fn point(&self, local: DVec3) -> DVec3 {
        self.position + self.rotation * local
    }

    /// The pose that undoes this one.
    #[must_use]
    pub fn inverse(&self) -> Self {
        let rotation = self.rotation.conjugate();
        Self { position: rotation * -self.position, rotation }
    }

    /// The pose `fraction` of the way to `to`: positions in a straight line, rotations at an even
    /// rate the short way round.
    #[must_use]
    pub fn towards(&self, to: &Self, fraction: f64) -> Self {
        // At the very start nothing is lost to rounding.
        let rotation = if self.rotation == to.rotation || fraction == 0.0 {
            self.rotation
        } else {
            self.rotation.slerp(to.rotation, fraction)
        };
        Self { position: self.position.lerp(to.position, fraction), rotation }
    }

    /// The angle in radians between the two rotations, exactly 0 if they are the same.
    pub fn angle_to(&self, other: &Self) -> f64 {
        if self.rotation == other.rotation {
            0.0
        } else {
            self.rotation.angle_between(other.rotation)
        }
    }

    /// Whether all seven numbers are finite and the rotation is a unit quaternion, to 1e-9.
    pub fn is_valid(&self) -> bool {
        self.position.is_finite() && is_rotation(self.rotation)
    }
}

/// Whether a quaternion is one of length 1, which turns and does nothing else.
pub(crate) fn is_rotation(turned: DQuat) -> bool {
    (turned.length_squared() - 1.0).abs() < ROUNDING
}

impl Default for Pose {
    fn default() -> Self {
        Self::IDENTITY
    }
}

impl Mul for Pose {
    type Output = Self;
    fn mul(self, child: Self) -> Self {
        // Skipping the product keeps rotations bit for bit the same where nothing is turned.
        let rotation = if child.rotation == DQuat::IDENTITY {
            self.rotation
        } else if self.rotation == DQuat::IDENTITY {
            child.rotation
        } else {
            (self.rotation * child.rotation).normalize()
        };
        Self { position: self.point(child.position), rotation }
    }
}

impl Hash for Pose {
    fn hash<H: Hasher>(&self, state: &mut H) {
        bits(self.position).hash(state);
        let [x, y, z, w] = self.rotation.to_array().map(|number| (number + 0.0).to_bits());
        (x, y, z, w).hash(state);
    }
}

/// The bits of three numbers for hashing, with 0 and -0 as one. No array: those are hashed in the
/// byte order of the machine.
pub(crate) fn bits(vector: DVec3) -> (u64, u64, u64) {
    let [x, y, z] = vector.to_array().map(|number| (number + 0.0).to_bits());
    (x, y, z)
}
