//! Which parts are detected, where a probe hits, and which zones cover a place: worked out when it is asked.

use glam::DVec3;

use crate::describe::{Detector, EntityId, Struck};
use crate::geometry::{Convex, Form, Pose, Ray, each_met, overlaps, way_bounds};
use crate::model::{PlacedPart, Scene};

use super::State;

impl State {
    /// The names of the parts of a body that a zone or touch detector detects now; none unless it detects
    /// the body.
    pub(crate) fn parts_detected<'a>(
        &self,
        scene: &'a Scene,
        (on, detector): (EntityId, Detector),
        who: EntityId,
    ) -> Vec<&'a str> {
        let (Some(region), Some(body)) = (scene.thing(on).region(detector), &scene.thing(who).body)
        else {
            return Vec::new();
        };
        if !self.known(on, detector).contains(&who) {
            return Vec::new();
        }
        let [on, who] = [on, who].map(|id| self.pose(scene, id, self.now));
        let meets = |(offset, piece): (Pose, &Convex)| {
            let mut pieces = region.form.pieces();
            pieces.any(|(at, own)| overlaps(own, &(on * at), piece, &(who * offset)))
        };
        let found = body.parts.iter().filter(|part| part.pieces().any(meets));
        found.map(|part| part.name.as_str()).collect()
    }

    /// Where the ray or swept shape of a probe first meets what it hits.
    pub(crate) fn struck<'a>(&self, scene: &'a Scene, probe: EntityId) -> Option<Struck<'a>> {
        let spec = scene.thing(probe).senses.as_ref()?.probe.as_ref()?;
        let who = self.known(probe, Detector::Probe).first().copied()?;
        let pose = self.pose(scene, probe, self.now);
        let [from, to] = [spec.config.from, spec.config.to].map(|place| pose.point(place.into()));
        let mut first: Option<Struck<'a>> = None;
        let mut meet = |part, point, normal, distance: f64| {
            if first.is_none_or(|first| distance < first.distance) {
                first = Some(Struck { part, point, normal, distance });
            }
        };
        let mut look = |form: &Form, at: &Pose, part: Option<&'a str>| match &spec.form {
            None => {
                let Ok(ray) = Ray::between(from, to) else { return };
                if let Some(it) = form.cast(&ray, at) {
                    meet(part, ray.at(it.distance), it.normal, it.distance);
                }
            }
            Some(swept) => {
                let start = Pose { position: from, ..pose };
                let bounds = way_bounds(swept, start, to);
                each_met((swept, start, to), &bounds, (form, at), |met| {
                    meet(part, met.point, met.normal, from.distance(to) * met.share);
                });
            }
        };
        let (thing, there) = (scene.thing(who), self.pose(scene, who, self.now));
        if let Some(solid) = thing.solid.as_ref().filter(|_| spec.config.among.solids) {
            look(&solid.form, &there, None);
        }
        if let Some(zone) = thing.zone.as_ref().filter(|_| spec.config.among.zones) {
            look(&zone.form, &there, None);
        }
        let body = thing.body.as_ref().filter(|_| spec.config.among.bodies);
        for PlacedPart { name, form, pose, .. } in body.iter().flat_map(|body| &body.parts) {
            look(form, &(there * *pose), Some(name));
        }
        first
    }

    /// The zones that cover a place and are on, in the scene's order.
    pub(crate) fn zones_at(&self, scene: &Scene, place: DVec3) -> Vec<EntityId> {
        let covers = |id: &EntityId| {
            let Some(zone) = &scene.thing(*id).zone else { return false };
            let pose = self.pose(scene, *id, self.now);
            zone.form.distance_to_point(&pose, place) <= 0.0
                && self.switched_off_by(scene, *id).is_none()
        };
        scene.ids().filter(covers).collect()
    }
}
