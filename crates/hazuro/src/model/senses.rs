//! Checking detectors and looking up what they name.

use std::hash::Hash;

use glam::DVec3;

use crate::Time;
use crate::describe::{
    Camera, Detector, EntityId, Footing, Layers, Limits, Pointer, Probe, Prompt, Seeker, Sight,
    TagId, Touch,
};
use crate::geometry::{Aabb, Form};

use super::admission::Admission;

/// The detectors of an entity with everything looked up.
#[derive(Debug, Default)]
pub(crate) struct Senses {
    pub admission: Admission,
    pub limits: LimitsSpec,
    pub touch: Option<TouchSpec>,
    pub pointer: Option<PointerSpec>,
    pub prompt: Option<PromptSpec>,
    pub probe: Option<ProbeSpec>,
    pub footing: Option<FootingSpec>,
    pub sight: Option<SightSpec>,
    pub seeker: Option<SeekerSpec>,
    pub camera: Option<CameraSpec>,
}

/// How often the detectors of an entity may act.
#[derive(Clone, Copy, Debug, Default, PartialEq, Hash)]
pub(crate) struct LimitsSpec {
    pub cooldown: Time,
    pub shared: bool,
    pub limit: Option<u64>,
}

#[derive(Debug)]
pub(crate) struct TouchSpec {
    /// A little larger than what can be touched.
    pub form: Form,
    pub config: Touch,
}

#[derive(Debug)]
pub(crate) struct ProbeSpec {
    pub form: Option<Form>,
    pub every: Option<Time>,
    pub layers: Layers,
    pub config: Probe,
}

#[derive(Debug)]
pub(crate) struct FootingSpec {
    pub grace: Time,
    pub layers: Layers,
    pub config: Footing,
}

#[derive(Debug)]
pub(crate) struct SightSpec {
    /// From its owner's origin.
    pub eye: DVec3,
    pub every: Time,
    pub hides: Layers,
    pub config: Sight,
}

#[derive(Debug)]
pub(crate) struct SeekerSpec {
    pub every: Time,
    pub hides: Layers,
    pub config: Seeker,
}

#[derive(Debug)]
pub(crate) struct PromptSpec {
    pub hold: Time,
    pub tags: Box<[TagId]>,
    pub config: Prompt,
}

#[derive(Debug)]
pub(crate) struct PointerSpec {
    pub drag: Option<DragSpec>,
    pub config: Pointer,
}

#[derive(Clone, Copy, Debug)]
pub(crate) enum DragSpec {
    Plane(DVec3),
    Axis(DVec3),
    Surface(EntityId),
}

#[derive(Debug)]
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

impl Senses {
    /// Whether there is a detector of this sort other than a zone.
    pub fn has(&self, detector: Detector) -> bool {
        match detector {
            Detector::Touch => self.touch.is_some(),
            Detector::Pointer => self.pointer.is_some(),
            Detector::Prompt => self.prompt.is_some(),
            Detector::Probe => self.probe.is_some(),
            Detector::Footing => self.footing.is_some(),
            Detector::Sight => self.sight.is_some(),
            Detector::Seeker => self.seeker.is_some(),
            _ => false,
        }
    }
}

/// Where a body of these bounds looks from: nine tenths of the way up.
pub(crate) fn eyes(bounds: &Aabb) -> DVec3 {
    let middle = (bounds.min + bounds.max) / 2.0;
    DVec3 { y: bounds.min.y + (bounds.max.y - bounds.min.y) * 0.9, ..middle }
}
