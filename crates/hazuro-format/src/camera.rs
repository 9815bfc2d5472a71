//! The table of a camera.

use hazuro::scene::{Camera, Field, Lens};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::code::Code;
use crate::keys::optional::optional;
use crate::read::Reader;
use crate::table::{Degrees, Notation, Table};

optional! {
    /// Turns a point of a screen into a ray; looks along -Z.
    CameraKeys {
        /// The entity that it looks at, whichever way it is turned itself.
        look_at: String,
        /// The whole angle from bottom to top, in degrees. The default is 50.
        fov: f64,
        /// Without perspective: how many metres are seen from bottom to top.
        orthographic: f64,
        /// Width and height of the picture, in pixels. The default is 1280 by 720.
        viewport: [f64; 2],
        /// The layers a pointer can hit through this camera. The default is all layers.
        layers: Vec<String>,
    }
}

impl Table for Camera {
    type Keys = CameraKeys;

    fn keys(&self) -> CameraKeys {
        let usual = Self::default();
        let Self { look_at, lens, viewport, layers } = self;
        let (fov, orthographic) = match lens {
            lens if *lens == usual.lens => (None, None),
            Lens::Perspective { angle } => (Some(Degrees::write(angle)), None),
            Lens::Orthographic { height } => (None, Some(*height)),
        };
        CameraKeys {
            look_at: look_at.clone(),
            fov,
            orthographic,
            viewport: (*viewport != usual.viewport).then_some(*viewport),
            layers: (!layers.is_empty()).then(|| layers.clone()),
        }
    }

    fn read(keys: &CameraKeys, reader: &mut Reader<'_>, field: &Field) -> Option<Self> {
        let CameraKeys { look_at, fov, orthographic, viewport, layers } = keys.clone();
        let usual = Self::default();
        let lens = match (fov, orthographic) {
            (Some(_), Some(_)) => {
                let message = "`fov` and `orthographic` are two sorts of camera";
                reader.error(&field.key("fov"), Code::TwoLenses, message, "keep one of them");
                return None;
            }
            (Some(degrees), None) => Lens::Perspective { angle: degrees.to_radians() },
            (None, Some(height)) => Lens::Orthographic { height },
            (None, None) => usual.lens,
        };
        let viewport = viewport.unwrap_or(usual.viewport);
        Some(Self { look_at, lens, viewport, layers: layers.unwrap_or_default() })
    }
}
