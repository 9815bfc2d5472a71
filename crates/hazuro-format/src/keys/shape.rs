//! The keys of a scene file that give a shape.

use hazuro::geometry::{Pose, Posed, Shape};
use hazuro::glam::DQuat;
use schemars::JsonSchema;
use serde::ser::SerializeMap;
use serde::{Deserialize, Serialize};

/// A table with some keys of its own and one of the keys that give a shape.
macro_rules! shaped {
    ($(#[$about:meta])* $name:ident { $($(#[$doc:meta])* $field:ident: $type:ty,)* }) => {
        #[derive(Clone, Debug, PartialEq, serde::Deserialize, schemars::JsonSchema)]
        #[serde(deny_unknown_fields)]
        $(#[$about])*
        pub(crate) struct $name {
            /// A box, by its full edge lengths along x, y and z, in metres.
            #[serde(rename = "box", skip_serializing_if = "Option::is_none")]
            pub cuboid: Option<[f64; 3]>,
            /// A ball.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub sphere: Option<$crate::keys::shape::SphereKeys>,
            /// A cylinder along Y with a half ball at either end.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub capsule: Option<$crate::keys::shape::CapsuleKeys>,
            /// A cylinder along Y.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub cylinder: Option<$crate::keys::shape::RoundKeys>,
            /// A cone along Y, its tip up.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub cone: Option<$crate::keys::shape::RoundKeys>,
            /// The convex hull of points.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub hull: Option<Vec<[f64; 3]>>,
            /// `true`: everything below the origin. For zones and solids.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub half_space: Option<bool>,
            /// Ground, by its heights on a grid. For solids.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub heights: Option<$crate::keys::shape::HeightsKeys>,
            /// Triangles, solid from both sides. For solids.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub mesh: Option<$crate::keys::shape::MeshKeys>,
            /// All of several shapes together.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub any: Option<Vec<$crate::keys::shape::PosedKeys>>,
            $($(#[$doc])* pub $field: $type,)*
        }

        impl $name {
            /// What is given of a shape.
            pub fn given(&self) -> $crate::keys::shape::Given<'_> {
                $crate::keys::shape::Given {
                    cuboid: self.cuboid.as_ref(),
                    sphere: self.sphere.as_ref(),
                    capsule: self.capsule.as_ref(),
                    cylinder: self.cylinder.as_ref(),
                    cone: self.cone.as_ref(),
                    hull: self.hull.as_ref(),
                    half_space: self.half_space,
                    heights: self.heights.as_ref(),
                    mesh: self.mesh.as_ref(),
                    any: self.any.as_ref(),
                }
            }

            /// These keys, which give no shape, with the keys of this one.
            pub fn shaped(self, shape: &hazuro::geometry::Shape) -> Self {
                use hazuro::geometry::Shape;
                use $crate::keys::shape::{
                    CapsuleKeys, HeightsKeys, MeshKeys, PosedKeys, RoundKeys, SphereKeys,
                };
                let none = self;
                match shape.clone() {
                    Shape::Box { size } => Self { cuboid: Some(size), ..none },
                    Shape::Sphere { radius } => Self { sphere: Some(SphereKeys { radius }), ..none },
                    Shape::Capsule { radius, height } => {
                        Self { capsule: Some(CapsuleKeys { radius, height }), ..none }
                    }
                    Shape::Cylinder { radius, height } => {
                        Self { cylinder: Some(RoundKeys { radius, height }), ..none }
                    }
                    Shape::Cone { radius, height } => {
                        Self { cone: Some(RoundKeys { radius, height }), ..none }
                    }
                    Shape::Hull { points } => Self { hull: Some(points), ..none },
                    Shape::HalfSpace => Self { half_space: Some(true), ..none },
                    Shape::Heights { spacing, rows } => {
                        Self { heights: Some(HeightsKeys { spacing, rows }), ..none }
                    }
                    Shape::Mesh { points, triangles } => {
                        Self { mesh: Some(MeshKeys { points, triangles }), ..none }
                    }
                    Shape::Any { shapes } => {
                        Self { any: Some(shapes.iter().map(PosedKeys::of).collect()), ..none }
                    }
                }
            }
        }
    };
}

/// As [`shaped`], with the keys of its pose in what it is a part of.
macro_rules! posed {
    ($(#[$about:meta])* $name:ident { $($own:tt)* }) => {
        $crate::keys::shape::shaped! {
            $(#[$about])*
            #[derive(Default, serde::Serialize)]
            $name {
                $($own)*
                /// Its centre, from the origin of what it is a part of.
                #[serde(skip_serializing_if = "Option::is_none")]
                at: Option<[f64; 3]>,
                /// Degrees about Y, counter-clockwise from above.
                #[serde(skip_serializing_if = "Option::is_none")]
                turn: Option<f64>,
                /// A quaternion, as in glTF.
                #[serde(skip_serializing_if = "Option::is_none")]
                rotation: Option<[f64; 4]>,
            }
        }

        impl $name {
            /// What gives its pose.
            pub fn pose(&self) -> $crate::keys::shape::PoseKeys {
                (self.at, self.turn, self.rotation)
            }
        }
    };
}
pub(crate) use {posed, shaped};

/// Where something is: `at`, `turn` and `rotation`.
pub(crate) type PoseKeys = (Option<[f64; 3]>, Option<f64>, Option<[f64; 4]>);

/// A ball.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct SphereKeys {
    /// From its centre to its surface, in metres.
    pub radius: f64,
}

/// A cylinder along Y with a half ball at either end.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct CapsuleKeys {
    /// Of the cylinder and of both half balls, in metres.
    pub radius: f64,
    /// The whole height, half balls included, in metres.
    pub height: f64,
}

/// A cylinder or a cone, along Y.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct RoundKeys {
    /// Of its round face, in metres.
    pub radius: f64,
    /// The whole height, in metres.
    pub height: f64,
}

/// Ground, centred in x and z, solid down to 1 m below its lowest point.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct HeightsKeys {
    /// Between two points of the grid, in metres.
    pub spacing: f64,
    /// Heights in metres: rows along x, one after another along z.
    pub rows: Vec<Vec<f64>>,
}

/// Triangles, solid from both sides.
#[derive(Clone, Debug, PartialEq, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct MeshKeys {
    /// The corners, in metres.
    pub points: Vec<[f64; 3]>,
    /// Three corners each, by their places in `points`, from 0.
    pub triangles: Vec<[u32; 3]>,
}

posed! {
    /// A shape somewhere in a bigger one.
    PosedKeys {}
}

impl PosedKeys {
    pub fn of(posed: &Posed) -> Self {
        let (at, turn, rotation) = pose_keys(&posed.pose);
        Self { at, turn, rotation, ..Self::default() }.shaped(&posed.shape)
    }
}

/// The keys of a shape as they were given: there should be one.
#[derive(Clone, Copy)]
pub(crate) struct Given<'a> {
    pub cuboid: Option<&'a [f64; 3]>,
    pub sphere: Option<&'a SphereKeys>,
    pub capsule: Option<&'a CapsuleKeys>,
    pub cylinder: Option<&'a RoundKeys>,
    pub cone: Option<&'a RoundKeys>,
    pub hull: Option<&'a Vec<[f64; 3]>>,
    pub half_space: Option<bool>,
    pub heights: Option<&'a HeightsKeys>,
    pub mesh: Option<&'a MeshKeys>,
    pub any: Option<&'a Vec<PosedKeys>>,
}

impl Given<'_> {
    /// Writes the keys that are given.
    pub fn write<M: SerializeMap>(&self, map: &mut M) -> Result<(), M::Error> {
        let Self { cuboid, sphere, capsule, cylinder, cone, hull, half_space, heights, mesh, any } =
            self;
        entry(map, "box", *cuboid)?;
        entry(map, "sphere", *sphere)?;
        entry(map, "capsule", *capsule)?;
        entry(map, "cylinder", *cylinder)?;
        entry(map, "cone", *cone)?;
        entry(map, "hull", *hull)?;
        entry(map, "half_space", half_space.as_ref())?;
        entry(map, "heights", *heights)?;
        entry(map, "mesh", *mesh)?;
        entry(map, "any", *any)
    }

    /// Whether any shape is given.
    pub fn is_any(&self) -> bool {
        self.any.is_some() || self.simple().next().is_some()
    }

    /// The shapes given, but for combinations.
    pub fn simple(&self) -> impl Iterator<Item = Shape> {
        let cylinder =
            |keys: &RoundKeys| Shape::Cylinder { radius: keys.radius, height: keys.height };
        let heights =
            |keys: &HeightsKeys| Shape::Heights { spacing: keys.spacing, rows: keys.rows.clone() };
        let mesh = |keys: &MeshKeys| Shape::Mesh {
            points: keys.points.clone(),
            triangles: keys.triangles.clone(),
        };
        [
            self.cuboid.map(|size| Shape::Box { size: *size }),
            self.sphere.map(|keys| Shape::Sphere { radius: keys.radius }),
            self.capsule.map(|keys| Shape::Capsule { radius: keys.radius, height: keys.height }),
            self.cylinder.map(cylinder),
            self.cone.map(|keys| Shape::Cone { radius: keys.radius, height: keys.height }),
            self.hull.map(|points| Shape::Hull { points: points.clone() }),
            (self.half_space == Some(true)).then_some(Shape::HalfSpace),
            self.heights.map(heights),
            self.mesh.map(mesh),
        ]
        .into_iter()
        .flatten()
    }
}

/// Degrees where they give back the same rotation to the last bit, else the quaternion.
pub(crate) fn pose_keys(pose: &Pose) -> PoseKeys {
    let at = (pose.position != hazuro::glam::DVec3::ZERO).then(|| pose.position.to_array());
    if pose.rotation == DQuat::IDENTITY {
        return (at, None, None);
    }
    let degrees = 2.0 * pose.rotation.y.atan2(pose.rotation.w).to_degrees();
    let degrees = (degrees * 1e6).round() / 1e6;
    if Pose::IDENTITY.turned(degrees.to_radians()).rotation == pose.rotation {
        (at, Some(degrees), None)
    } else {
        (at, None, Some(pose.rotation.to_array()))
    }
}

/// Writes a key, if it is given.
fn entry<M: SerializeMap, T: Serialize>(
    map: &mut M,
    key: &str,
    value: Option<&T>,
) -> Result<(), M::Error> {
    value.map_or(Ok(()), |value| map.serialize_entry(key, value))
}
