//! Checking detectors and looking up what they name.

use glam::DVec3;

use crate::describe::{
    Camera, Detector, Detectors, Drag, Fault, Features, Field, Footing, Layers, Lens, Limits,
    Pointer, Probe, Prompt, Seeker, Sight, TagId, Touch, range,
};
use crate::geometry::{Aabb, Form, ShapeError};
use crate::model::{
    Admission, CameraSpec, DragSpec, FootingSpec, LimitsSpec, PlacedPart, PointerSpec, ProbeSpec,
    PromptSpec, SeekerSpec, Senses, SightSpec, TouchSpec, eyes,
};

use super::resolver::Resolver;
use super::shapes::Use;

impl Resolver {
    /// The detectors of an entity; none if it has none and no limits either.
    pub(crate) fn senses(
        &mut self,
        features: &Features,
        admission: &Admission,
        scale: f64,
        field: &Field,
    ) -> Option<Box<Senses>> {
        let Features { camera, limits, .. } = features;
        let detectors = features.detectors();
        if detectors.is_none() && camera.is_none() && limits.is_none() {
            return None;
        }
        let Detectors { touch, pointer, prompt, probe, footing, sight, seeker } = detectors;
        let cameras = camera.as_ref().map(|camera| self.camera(camera, &field.key("camera")));
        Some(Box::new(Senses {
            admission: admission.clone(),
            limits: self.limits(limits.unwrap_or_default(), field),
            touch: touch.as_ref().and_then(|touch| self.touch(touch, features, scale, field)),
            pointer: pointer.as_ref().map(|config| self.pointer(config, &field.key("pointer"))),
            prompt: prompt.as_ref().map(|config| {
                self.prompt(config, &field.key(if config.quiet { "interact" } else { "prompt" }))
            }),
            probe: probe.as_ref().map(|config| self.probe(config, &field.key("probe"))),
            footing: footing.as_ref().map(|config| self.footing(config, &field.key("footing"))),
            sight: sight
                .as_ref()
                .map(|config| self.sight(config, features, scale, &field.key("sight"))),
            seeker: seeker.as_ref().map(|config| self.seeker(config, &field.key("seeker"))),
            camera: cameras,
        }))
    }

    /// Reports what is wrong with the detectors of one description.
    pub(crate) fn check_senses(&mut self, features: &Features, scale: f64, field: &Field) {
        if features.detectors.is_none() && features.camera.is_none() && features.limits.is_none() {
            return;
        }
        let mut alone = features.clone();
        // Whether there is anything to touch is known of the whole entity only.
        alone.detectors_mut().touch = None;
        self.senses(&alone, &Admission::default(), scale, field);
        if let Some(touch) = &features.detectors().touch {
            self.check_touch(touch, scale, &field.key("touch"));
        }
    }

    fn limits(&mut self, limits: Limits, field: &Field) -> LimitsSpec {
        if let Err((key, fault)) = range::limits(&limits) {
            self.error(field.key(key), fault);
        }
        limits.into()
    }

    /// The layers of these names, or all if there are none.
    fn layers_or_all(&mut self, names: &[String], field: &Field, key: &str) -> Layers {
        let mut layers = Layers::NONE;
        for (index, name) in names.iter().enumerate() {
            match self.layers.find(name) {
                Ok(layer) => layers = layers.and(layer),
                Err(fault) => self.error(field.key(key).item(index), fault),
            }
        }
        if names.is_empty() { Layers::ALL } else { layers }
    }

    fn check_touch(&mut self, touch: &Touch, scale: f64, field: &Field) {
        self.range(field.key("margin"), touch.margin, &range::TOUCH_MARGIN);
        self.range(field.key("at_least"), touch.at_least, &range::TOUCH_SPEED);
        if let Some(shape) = &touch.shape {
            self.shape(field, shape, scale, Use::Zone);
        }
    }

    fn touch(
        &mut self,
        touch: &Touch,
        features: &Features,
        scale: f64,
        field: &Field,
    ) -> Option<TouchSpec> {
        let field = &field.key("touch");
        let Features { solid, zone, body, .. } = features;
        let shape =
            touch.shape.as_ref().or(solid.as_deref()).or(zone.as_ref().map(|zone| zone.shape()));
        let form = if let Some(shape) = shape {
            let form = self.shape(field, shape, scale, Use::Solid)?;
            if form.is_ground() {
                self.error(field.clone(), ShapeError::NotConvex(shape.word()).into());
                return None;
            }
            form
        } else if let Some(body) = body {
            let parts = self.body(body, scale, field);
            Form::of_pieces(parts.iter().flat_map(PlacedPart::pieces))
        } else {
            let fault = Fault::NothingThere { detector: Detector::Touch };
            self.error(field.clone(), fault);
            return None;
        };
        Some(TouchSpec { form: form.grown(touch.margin), config: touch.clone() })
    }

    fn probe(&mut self, config: &Probe, field: &Field) -> ProbeSpec {
        self.coordinates(&field.key("from"), config.from);
        self.coordinates(&field.key("to"), config.to);
        if config.from == config.to {
            self.error(field.key("to"), Fault::NoLength);
        }
        let nothing = !(config.among.solids || config.among.bodies || config.among.zones);
        if nothing {
            self.error(field.key("of"), Fault::LooksForNothing);
        }
        ProbeSpec {
            form: config.shape.as_ref().and_then(|shape| self.shape(field, shape, 1.0, Use::Body)),
            every: config.every.map(|seconds| self.interval(field.key("every"), seconds)),
            layers: self.layers_or_all(&config.layers, field, "layers"),
            config: config.clone(),
        }
    }

    fn footing(&mut self, config: &Footing, field: &Field) -> FootingSpec {
        self.range(field.key("margin"), config.margin, &range::FOOTING_MARGIN);
        self.range(field.key("reach"), config.reach, &range::LENGTH);
        self.angle(field.key("slope"), config.slope, &range::SLOPE);
        FootingSpec {
            grace: self.seconds(field.key("grace"), config.grace),
            layers: self.layers_or_all(&config.layers, field, "layers"),
            config: config.clone(),
        }
    }

    fn sight(
        &mut self,
        config: &Sight,
        features: &Features,
        scale: f64,
        field: &Field,
    ) -> SightSpec {
        let parts = features.body.as_ref().map(|body| self.body(body, scale, &Field::ROOT));
        let eyes = parts.map(|parts| {
            let bounds = parts.iter().map(|part| part.form.bounds(&part.pose));
            eyes(&bounds.fold(Aabb::EMPTY, |all, part| all.join(&part)))
        });
        self.range(field.key("range"), config.range, &range::LENGTH);
        self.range(field.key("near"), config.near, &range::LENGTH_OR_NONE);
        self.angle(field.key("angle"), config.angle, &range::ANGLE);
        self.angle(field.key("rise"), config.rise, &range::ANGLE);
        if let Some(eye) = config.eye {
            self.coordinates(&field.key("eye"), eye);
        }
        self.range(field.key("points"), f64::from(config.points), &range::POINTS);
        self.range(field.key("fraction"), config.fraction, &range::SOME_SHARE);
        self.seconds(field.key("notice"), config.notice);
        self.seconds(field.key("forget"), config.forget);
        SightSpec {
            eye: config.eye.map(DVec3::from_array).or(eyes).unwrap_or_default(),
            every: self.interval(field.key("every"), config.every),
            hides: self.layers_or_all(&config.hides, field, "hides"),
            config: config.clone(),
        }
    }

    fn seeker(&mut self, config: &Seeker, field: &Field) -> SeekerSpec {
        self.range(field.key("range"), config.range, &range::LENGTH);
        self.range(field.key("margin"), config.margin, &range::MARGIN);
        if !(config.among.solids || config.among.bodies || config.among.zones) {
            self.error(field.key("of"), Fault::LooksForNothing);
        }
        SeekerSpec {
            every: self.interval(field.key("every"), config.every),
            hides: self.layers_or_all(&config.hides, field, "hides"),
            config: config.clone(),
        }
    }

    fn prompt(&mut self, config: &Prompt, field: &Field) -> PromptSpec {
        self.range(field.key("reach"), config.reach, &range::LENGTH);
        self.range(field.key("margin"), config.margin, &range::LENGTH_OR_NONE);
        self.angle(field.key("angle"), config.angle, &range::ANGLE);
        self.name(&config.key, &field.key("key"));
        let needs = field.key("needs");
        let tags = config.needs.tags.iter().enumerate();
        let tags = tags.filter_map(|(index, tag)| self.tag(tag, &needs.key("tags").item(index)));
        let tags: Vec<TagId> = tags.collect();
        for (key, counts) in
            [("counts", &config.needs.counts), ("own_counts", &config.needs.own_counts)]
        {
            for name in counts.keys() {
                self.name(name, &needs.key(key).key(name));
            }
        }
        for (name, least) in &config.needs.stats {
            let field = needs.key("stats").key(name);
            self.range(field.clone(), *least, &range::AMOUNT);
            self.stat(name, &field);
        }
        PromptSpec {
            hold: self.seconds(field.key("hold"), config.hold),
            tags: tags.into(),
            config: config.clone(),
        }
    }

    fn pointer(&mut self, config: &Pointer, field: &Field) -> PointerSpec {
        self.range(field.key("reach"), config.reach, &range::LENGTH);
        let drag = match &config.drag {
            None => None,
            Some(Drag::Surface(name)) => {
                self.entity(name, &field.key("drag").key("surface")).map(DragSpec::Surface)
            }
            Some(Drag::Plane(way)) => {
                self.way(*way, &field.key("drag").key("plane")).map(DragSpec::Plane)
            }
            Some(Drag::Axis(way)) => {
                self.way(*way, &field.key("drag").key("axis")).map(DragSpec::Axis)
            }
        };
        PointerSpec { drag, config: config.clone() }
    }

    /// A direction as a unit vector.
    fn way(&mut self, way: [f64; 3], field: &Field) -> Option<DVec3> {
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
