//! By what an entity is found: each side of it has an index of its own.

use crate::describe::{Detector, EntityId, Layers, Switch};
use crate::geometry::{Aabb, Form, Pose};
use crate::model::{Admission, Scene, Thing};
use crate::motion::Path;
use crate::space::{Face, Index, Indices};
use crate::state::State;

/// The form of something, the layers by which it is found, and its bounds.
type Found = (Option<Form>, Layers, Aabb);

/// One side of the things that have it.
pub(super) struct Side {
    /// What lets it be found.
    pub switch: Switch,
    find: fn(&Thing, &Path) -> Option<Found>,
    pub index: fn(&mut Indices) -> &mut Index,
}

/// All of them.
pub(super) static SIDES: [Side; 5] = [
    Side {
        switch: Switch::Detect,
        find: |thing, path| {
            let zone = thing.zone.as_ref()?;
            Some((Some(zone.form.clone()), zone.admission.layers, zone.bounds(path)))
        },
        index: |indices| &mut indices.zones,
    },
    Side {
        switch: Switch::Enabled,
        find: |thing, path| {
            let body = thing.body.as_ref()?;
            // Of a body of one part where it stands itself, the part is all there is to know.
            let form = match &*body.parts {
                [part] if part.pose == Pose::IDENTITY => Some(part.form.clone()),
                _ => None,
            };
            Some((form, thing.layers, body.bounds(path)))
        },
        index: |indices| &mut indices.bodies,
    },
    Side {
        switch: Switch::Solid,
        find: |thing, path| {
            let solid = thing.solid.as_ref()?;
            Some((Some(solid.form.clone()), thing.layers, solid.bounds(path)))
        },
        index: |indices| &mut indices.solids,
    },
    Side {
        switch: Switch::Detect,
        find: |thing, path| {
            let touch = thing.region(Detector::Touch)?;
            Some((Some(touch.form.clone()), touch.admission.layers, touch.bounds(path)))
        },
        index: |indices| &mut indices.touches,
    },
    Side {
        switch: Switch::Detect,
        find: |thing, path| {
            let layers = thing.senses.as_ref()?.admission.layers;
            Some((None, layers, prompt_bounds(thing, path)?))
        },
        index: |indices| &mut indices.prompts,
    },
];

impl Side {
    /// What the index knows of an entity that has this side, and its bounds if it stands still.
    pub fn face(
        &self,
        scene: &Scene,
        state: &State,
        entity: EntityId,
    ) -> Option<(Face, Option<Aabb>)> {
        let pose = state.pose(scene, entity, state.now);
        let here = Path::still(state.now, state.now, pose);
        let (form, layers, bounds) = (self.find)(scene.thing(entity), &here)?;
        let off = state.off_by(scene, entity, self.switch).is_some();
        let is_picky = scene.admission(entity).is_some_and(Admission::is_picky);
        let still = !state.is_moving(scene, entity);
        let face = Face { entity, off, still, pose, form, layers: layers.0, is_picky };
        Some((face, still.then_some(bounds)))
    }
}

/// The bounds of all places from which a prompt may be offered, along a path.
pub(super) fn prompt_bounds(thing: &Thing, path: &Path) -> Option<Aabb> {
    let prompt = thing.senses.as_ref()?.prompt.as_ref()?;
    let form = thing.solid.as_ref().map(|solid| &solid.form);
    let form = form.or(thing.zone.as_ref().map(|zone| &zone.form));
    let bounds = match (form, &thing.body) {
        (Some(form), _) => path.bounds(&std::iter::once((form, Pose::IDENTITY))),
        (None, Some(body)) => body.bounds(path),
        (None, None) => {
            Aabb::of(path.segments().iter().flat_map(|it| [it.from.position, it.to.position]))
        }
    };
    Some(bounds.grown(prompt.config.reach + prompt.config.margin))
}
