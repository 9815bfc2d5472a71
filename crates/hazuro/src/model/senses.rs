//! Checking detectors and looking up what they name.

use std::hash::Hash;

use glam::DVec3;

use crate::Time;
use crate::describe::{self, Camera, Described, Detector, EntityId, Layers, Limits};
use crate::geometry::Aabb;

use super::admission::Admission;

macro_rules! detectors {
    ($($(#[$about:meta])* $name:ident $key:ident $of:ident $set:literal;)*) => {
        /// The detectors of an entity with everything looked up.
        #[derive(Clone, Debug, Default)]
        pub(crate) struct Senses {
            pub admission: Admission,
            pub limits: LimitsSpec,
            pub camera: Option<CameraSpec>,
            $($(#[$about])* pub $key: Option<<describe::$name as Described>::Spec>,)*
        }

        impl Senses {
            /// Whether there is a detector of this sort other than a zone.
            pub fn has(&self, detector: Detector) -> bool {
                match detector {
                    $(Detector::$name => self.$key.is_some(),)*
                    _ => false,
                }
            }
        }
    };
}

crate::for_each_detector!(detectors);

/// How often the detectors of an entity may act.
#[derive(Clone, Copy, Debug, Default, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct LimitsSpec {
    pub cooldown: Time,
    pub shared: bool,
    pub limit: Option<u64>,
}

#[derive(Clone, Debug)]
pub(crate) struct CameraSpec {
    pub look_at: Option<EntityId>,
    pub layers: Layers,
    pub config: Camera,
}

impl From<Limits> for LimitsSpec {
    fn from(config: Limits) -> Self {
        let Limits { cooldown, shared, limit } = config;
        Self { cooldown: Time::from_secs(cooldown), shared, limit }
    }
}

/// Where a body of these bounds looks from: nine tenths of the way up.
pub(crate) fn eyes(bounds: &Aabb) -> DVec3 {
    let middle = (bounds.min + bounds.max) / 2.0;
    DVec3 { y: bounds.min.y + (bounds.max.y - bounds.min.y) * 0.9, ..middle }
}
