//! Checking detectors and looking up what they name: what all of them need. Each does the rest in its
//! own file in `detect/`.

use glam::DVec3;

use crate::describe::{
    Among, Camera, Described, Fault, Features, Field, Layers, Lens, Limits, range,
};
use crate::model::{Admission, CameraSpec, LimitsSpec, Senses};

use super::resolver::Resolver;

/// Whose detector it is that is resolved.
#[derive(Clone, Copy)]
pub(crate) struct Owner<'a> {
    pub features: &'a Features,
    /// How many times as large its shapes are.
    pub scale: f64,
    /// Whether the features are all that the entity has, and not only what is described in one
    /// place.
    pub is_whole: bool,
}

/// Makes of a detector's description what a play reads.
pub(crate) trait Resolve: Described {
    /// The key of its table.
    fn key(&self) -> &'static str {
        Self::DETECTOR.word()
    }

    /// Checks its numbers and looks up its names, and reports what is wrong below `field`, its
    /// table. None only if something is wrong, or can be told of the whole entity only.
    fn resolve(
        &self,
        resolver: &mut Resolver,
        owner: Owner<'_>,
        field: &Field,
    ) -> Option<Self::Spec>;
}

macro_rules! detectors {
    ($($(#[$about:meta])* $name:ident $key:ident $of:ident $set:literal;)*) => {
        impl Resolver {
            /// The detectors of an entity; none if it has none and no limits either.
            pub(crate) fn senses(
                &mut self,
                owner: Owner<'_>,
                admission: &Admission,
                field: &Field,
            ) -> Option<Box<Senses>> {
                let Features { detectors, camera, limits, .. } = owner.features;
                if detectors.is_none() && camera.is_none() && limits.is_none() {
                    return None;
                }
                let detectors = owner.features.detectors();
                let camera = camera.as_ref();
                Some(Box::new(Senses {
                    admission: admission.clone(),
                    camera: camera.map(|camera| self.camera(camera, &field.key("camera"))),
                    limits: self.limits(limits.unwrap_or_default(), field),
                    $($key: detectors.$key.as_ref().and_then(|detector| {
                        detector.resolve(self, owner, &field.key(detector.key()))
                    }),)*
                }))
            }
        }
    };
}

crate::for_each_detector!(detectors);

impl Resolver {
    fn limits(&mut self, limits: Limits, field: &Field) -> LimitsSpec {
        if let Err((key, fault)) = range::limits(&limits) {
            self.error(field.key(key), fault);
        }
        limits.into()
    }

    /// The layers of these names, or all if there are none.
    pub(crate) fn layers_or_all(&mut self, names: &[String], field: &Field, key: &str) -> Layers {
        let mut layers = Layers::NONE;
        for (index, name) in names.iter().enumerate() {
            match self.layers.find(name) {
                Ok(layer) => layers = layers.and(layer),
                Err(fault) => self.error(field.key(key).item(index), fault),
            }
        }
        if names.is_empty() { Layers::ALL } else { layers }
    }

    /// Reports a detector that looks for nothing.
    pub(crate) fn something(&mut self, among: Among, field: &Field) {
        if !(among.solids || among.bodies || among.zones) {
            self.error(field.key("of"), Fault::LooksForNothing);
        }
    }

    /// A direction as a unit vector.
    pub(crate) fn way(&mut self, way: [f64; 3], field: &Field) -> Option<DVec3> {
        let unit = DVec3::from_array(way).try_normalize();
        if unit.is_none() {
            self.error(field.clone(), Fault::NoLength);
        }
        unit
    }

    fn camera(&mut self, config: &Camera, field: &Field) -> CameraSpec {
        for (axis, pixels) in config.viewport.into_iter().enumerate() {
            self.range(field.key("viewport").item(axis), pixels, &range::PIXELS);
        }
        match config.lens {
            Lens::Perspective { angle } => {
                self.angle(field.key("fov"), angle, &range::LENS_ANGLE);
            }
            Lens::Orthographic { height } => {
                self.range(field.key("orthographic"), height, &range::LENGTH);
            }
        }
        let look_at = config.look_at.as_ref();
        let look_at = look_at.and_then(|name| self.entity(name, &field.key("look_at")));
        let layers = self.layers_or_all(&config.layers, field, "layers");
        CameraSpec { look_at, layers, config: config.clone() }
    }
}
