//! Places and rotations as other maths libraries have them, by way of `mint`, the common types between
//! them.

use glam::{DQuat, DVec3};

use super::Pose;

macro_rules! from_mint {
    ($number:ty) => {
        impl From<mint::Point3<$number>> for Pose {
            /// There, not turned.
            fn from(place: mint::Point3<$number>) -> Self {
                Self::at(DVec3::new(place.x.into(), place.y.into(), place.z.into()))
            }
        }

        impl From<(mint::Point3<$number>, mint::Quaternion<$number>)> for Pose {
            /// There, turned so. The quaternion is made one of length 1; one without a length turns
            /// nothing.
            fn from((place, turned): (mint::Point3<$number>, mint::Quaternion<$number>)) -> Self {
                let v = turned.v;
                let turned = DQuat::from_xyzw(v.x.into(), v.y.into(), v.z.into(), turned.s.into());
                let length = turned.length();
                let rotation = if length > 1e-6 && length.is_finite() {
                    turned * (1.0 / length)
                } else {
                    DQuat::IDENTITY
                };
                Self { rotation, ..Self::from(place) }
            }
        }
    };
}

from_mint!(f64);
from_mint!(f32);

impl From<Pose> for (mint::Point3<f64>, mint::Quaternion<f64>) {
    fn from(pose: Pose) -> Self {
        let [x, y, z] = pose.position.to_array();
        let DQuat { x: i, y: j, z: k, w } = pose.rotation;
        let v = mint::Vector3 { x: i, y: j, z: k };
        (mint::Point3 { x, y, z }, mint::Quaternion { v, s: w })
    }
}
