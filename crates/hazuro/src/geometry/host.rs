//! Places and rotations as hosts have them: in single and double precision, as arrays, as the types of
//! `glam`, and by way of `mint`, the common types between maths libraries.

use glam::{DQuat, DVec3, Quat, Vec3};

use super::Pose;

/// A quaternion shorter than this has no direction: less than the rounding of one in single precision leaves over.
const NO_LENGTH: f64 = 1e-6;

/// A quaternion as hosts have it, made one of length 1; one without a length turns nothing. What is not
/// finite stays so, and is refused where it is given to a play.
fn rotation(turned: [f64; 4]) -> DQuat {
    let turned = DQuat::from_array(turned);
    let length = turned.length();
    if length <= NO_LENGTH {
        return DQuat::IDENTITY;
    }
    if length.is_finite() { turned * (1.0 / length) } else { turned }
}

/// Of each number: its mint types, and the types of glam that hold three and four of it.
macro_rules! of_hosts {
    ($($number:ty: $place:ty, $turned:ty;)*) => {
        $(
            impl From<[$number; 3]> for Pose {
                /// There, not turned.
                fn from(place: [$number; 3]) -> Self {
                    Self::at(DVec3::from_array(place.map(f64::from)))
                }
            }

            impl From<$place> for Pose {
                /// There, not turned.
                fn from(place: $place) -> Self {
                    Self::from(place.to_array())
                }
            }

            impl From<mint::Point3<$number>> for Pose {
                /// There, not turned.
                fn from(place: mint::Point3<$number>) -> Self {
                    Self::from([place.x, place.y, place.z])
                }
            }

            impl From<([$number; 3], [$number; 4])> for Pose {
                /// There, turned by the quaternion x, y, z, w. It is made one of length 1; one without a
                /// length turns nothing.
                fn from((place, turned): ([$number; 3], [$number; 4])) -> Self {
                    Self { rotation: rotation(turned.map(f64::from)), ..Self::from(place) }
                }
            }

            impl From<($place, $turned)> for Pose {
                /// There, turned so. The quaternion is made one of length 1; one without a length turns
                /// nothing.
                fn from((place, turned): ($place, $turned)) -> Self {
                    Self::from((place.to_array(), turned.to_array()))
                }
            }

            impl From<(mint::Point3<$number>, mint::Quaternion<$number>)> for Pose {
                /// There, turned so. The quaternion is made one of length 1; one without a length turns
                /// nothing.
                fn from((place, turned): (mint::Point3<$number>, mint::Quaternion<$number>)) -> Self {
                    let turned = [turned.v.x, turned.v.y, turned.v.z, turned.s];
                    Self::from(([place.x, place.y, place.z], turned))
                }
            }

            impl From<Pose> for (mint::Point3<$number>, mint::Quaternion<$number>) {
                fn from(pose: Pose) -> Self {
                    let [x, y, z] = pose.position.to_array().map(|it| it as $number);
                    let [i, j, k, s] = pose.rotation.to_array().map(|it| it as $number);
                    let v = mint::Vector3 { x: i, y: j, z: k };
                    (mint::Point3 { x, y, z }, mint::Quaternion { v, s })
                }
            }

            impl From<Pose> for ($place, $turned) {
                fn from(pose: Pose) -> Self {
                    let place = pose.position.to_array().map(|it| it as $number);
                    let turned = pose.rotation.to_array().map(|it| it as $number);
                    (<$place>::from_array(place), <$turned>::from_array(turned))
                }
            }

            impl From<Pose> for ([$number; 3], [$number; 4]) {
                fn from(pose: Pose) -> Self {
                    let (place, turned): ($place, $turned) = pose.into();
                    (place.to_array(), turned.to_array())
                }
            }
        )*
    };
}

of_hosts! {
    f64: DVec3, DQuat;
    f32: Vec3, Quat;
}
