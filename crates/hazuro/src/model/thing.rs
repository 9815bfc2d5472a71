//! Entities and reactions with everything looked up.

use crate::Time;
use crate::describe::{
    Action, Carry, Detector, EntityId, Features, Filling, KindId, Layers, Legs, Need, Owners,
    Pickup, Quantity, Route, SlotId, SlotSort, SlotValue, Stat, StatId, TagId,
};
use crate::geometry::{Aabb, Convex, Form, Pose};
use crate::motion::Path;

use super::admission::Admission;
use super::senses::Senses;

/// Who an action means, once its words are looked up.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum TargetRef {
    /// The subject of the event.
    Who,
    /// The detector of the event.
    On,
    Entity(EntityId),
    /// All of a kind.
    Kind(KindId),
    /// All that have a tag then.
    Tag(TagId),
    /// What is in a slot.
    Slot(Role, SlotId),
}

/// Whose slot it is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Role {
    /// The subject's of the event.
    Who,
    /// The detector's of the event.
    On,
    Entity(EntityId),
}

/// A kind with all that it builds on.
#[derive(Clone, Debug)]
pub(crate) struct KindSpec {
    /// Itself and the kinds that it builds on, in the order in which their words count.
    pub line: Box<[KindId]>,
    /// What it gives, with what they give.
    pub features: Features,
}

/// An entity with everything looked up.
#[derive(Clone, Debug)]
#[expect(clippy::struct_excessive_bools, reason = "each is a switch of its own")]
pub(crate) struct Thing {
    pub parent: Option<EntityId>,
    pub children: Vec<EntityId>,
    /// In the order in which their words count.
    pub kinds: Box<[KindId]>,
    pub tags: Box<[TagId]>,
    pub layers: Layers,
    pub zone: Option<Box<ZoneSpec>>,
    pub body: Option<BodySpec>,
    pub solid: Option<Box<SolidSpec>>,
    /// How it moves by itself, if it does.
    pub mover: Option<Box<Mover>>,
    pub senses: Option<Box<Senses>>,
    /// In the order of the stats.
    pub stats: Box<[(StatId, Stat)]>,
    /// Those with something in them, in the order of the names of slots.
    pub slots: Box<[(SlotId, SlotValue<EntityId>)]>,
    /// What those are for that can be filled, empty or not.
    pub slot_sorts: Box<[(SlotId, SlotSort)]>,
    pub pickup: Option<Box<Pickup>>,
    pub carry: Option<Box<Carry>>,
    pub ownership: Option<Box<OwnershipSpec>>,
    pub route: Option<Box<RouteSpec>>,
    pub spawner: Option<Box<SpawnerSpec>>,
    /// The nearest of it and its ancestors that has a body: whose body it is a part of.
    pub bearer: Option<EntityId>,
    pub player: bool,
    pub highlight: bool,
    /// Whether it waits in its kind's stock to be spawned.
    pub stocked: bool,
    pub enabled: bool,
    pub visible: bool,
}

impl Thing {
    /// Its zone or what of it can be touched.
    pub fn region(&self, detector: Detector) -> Option<Region<'_>> {
        if detector == Detector::Zone {
            let ZoneSpec { form, admission, .. } = self.zone.as_deref()?;
            let (parts, solids, tells_contact) = (false, false, false);
            return Some(Region { form, admission, parts, solids, tells_contact });
        }
        let senses = self.senses.as_ref()?;
        let touch = senses.touch.as_ref().filter(|_| detector == Detector::Touch)?;
        Some(Region {
            form: &touch.form,
            admission: &senses.admission,
            parts: touch.config.parts,
            solids: touch.config.solids,
            tells_contact: true,
        })
    }

    /// Whether it sets out along its route by itself.
    pub fn route_starts(&self) -> bool {
        self.route.as_ref().is_some_and(|route| route.config.starts)
    }

    /// Whether it does anything by itself from the start.
    pub fn goes_by_itself(&self) -> bool {
        self.spawner.is_some() || self.route_starts()
    }

    /// How far its body reaches from its origin, in metres.
    pub fn body_reach(&self) -> f64 {
        self.body.as_ref().map_or(0.0, BodySpec::reach)
    }

    /// What a stat of it is like, if it has it.
    pub fn stat(&self, stat: StatId) -> Option<&Stat> {
        let found = self.stats.binary_search_by_key(&stat, |(id, _)| *id).ok()?;
        Some(&self.stats[found].1)
    }

    /// What is in a slot of it.
    pub fn slot(&self, slot: SlotId) -> Option<&SlotValue<EntityId>> {
        let found = self.slots.binary_search_by_key(&slot, |(id, _)| *id).ok()?;
        Some(&self.slots[found].1)
    }

    /// What a slot of it is for, if it has such a slot that can be filled.
    pub fn slot_sort(&self, slot: SlotId) -> Option<SlotSort> {
        let found = self.slot_sorts.binary_search_by_key(&slot, |(id, _)| *id).ok()?;
        Some(self.slot_sorts[found].1)
    }

    /// What it needs so that something can be put into a slot of it; none if that can be done.
    pub fn lacks_for_slot<T, N>(
        &self,
        (name, slot): (&str, SlotId),
        with: &Filling<T, N>,
    ) -> Option<Need> {
        match (self.slot_sort(slot), with.sort()) {
            (None, _) => Some(Need::Slot(name.into())),
            (Some(is), Some(sort)) if !with.fits(is) => Some(Need::SlotFor(name.into(), sort)),
            _ => None,
        }
    }

    /// What it needs so that it can be converted to a kind that gives this; none if it can.
    pub fn lacks_for(&self, given: &Features) -> Option<Need> {
        let detectors = Detector::ALL.iter().filter(|it| it.opens().is_some());
        let camera = [Detector::Camera];
        let mut given_detectors = detectors.chain(&camera).filter(|it| given.describes(**it));
        if given.solid.is_some() && self.solid.is_none() {
            return Some(Need::Solid);
        }
        if let Some(body) = &given.body {
            let Some(own) = &self.body else { return Some(Need::Body) };
            let number = body.parts().len().max(1);
            if own.parts.len() != number {
                return Some(Need::Parts(number));
            }
            if body.walk.is_some() && !self.mover.as_ref().is_some_and(|it| it.walks) {
                return Some(Need::Walking);
            }
        }
        given_detectors.find(|it| !self.has(**it)).map(|it| Need::Detector(*it))
    }

    /// Whether it has a detector of this sort.
    pub fn has(&self, detector: Detector) -> bool {
        match detector {
            Detector::Zone => self.zone.is_some(),
            Detector::Pickup => self.pickup.is_some(),
            Detector::Stats => !self.stats.is_empty(),
            Detector::Carry => self.carry.is_some(),
            Detector::Ownership => self.ownership.is_some(),
            Detector::Camera => self.senses.as_ref().is_some_and(|senses| senses.camera.is_some()),
            Detector::Route | Detector::Teleport => true,
            other => self.senses.as_ref().is_some_and(|senses| senses.has(other)),
        }
    }
}

/// The shape of a zone or of a touch detector, and what else is to be known of it.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Region<'a> {
    pub form: &'a Form,
    pub admission: &'a Admission,
    /// Whether each part of a body is detected for itself.
    pub parts: bool,
    /// Whether solids that belong to no body are detected.
    pub solids: bool,
    /// Whether events say where and how fast they met.
    pub tells_contact: bool,
}

impl Region<'_> {
    /// The bounds of all it sweeps, or touches, along a path.
    pub fn bounds(&self, path: &Path) -> Aabb {
        path.bounds(&std::iter::once((self.form, Pose::IDENTITY)))
    }
}

/// Whose child an entity is, and whether it has any.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Kin {
    pub parent: Option<EntityId>,
    pub childless: bool,
}

/// A zone with everything looked up.
#[derive(Clone, Debug)]
pub(crate) struct ZoneSpec {
    pub form: Form,
    pub admission: Admission,
    pub inside_every: Option<Time>,
}

/// A part of a body with its shape checked.
#[derive(Clone, Debug)]
pub(crate) struct PlacedPart {
    pub name: String,
    pub form: Form,
    pub pose: Pose,
}

impl ZoneSpec {
    /// The bounds of all it sweeps, or touches, along a path.
    pub fn bounds(&self, path: &Path) -> Aabb {
        path.bounds(&std::iter::once((&self.form, Pose::IDENTITY)))
    }
}

/// A solid with everything looked up.
#[derive(Clone, Debug)]
pub(crate) struct SolidSpec {
    pub form: Form,
}

impl SolidSpec {
    /// The bounds of all it sweeps, or touches, along a path.
    pub fn bounds(&self, path: &Path) -> Aabb {
        path.bounds(&std::iter::once((&self.form, Pose::IDENTITY)))
    }
}

/// A body with everything looked up.
#[derive(Clone, Debug)]
pub(crate) struct BodySpec {
    pub parts: Box<[PlacedPart]>,
    /// Whether it is in the way of others.
    pub blocks: bool,
}

/// A body that moves by itself.
#[derive(Clone, Debug)]
pub(crate) struct Mover {
    /// Its convex pieces and where they are, from its origin, rounded by [`Mover::SKIN`].
    pub pieces: Box<[(Pose, Convex)]>,
    /// The same in one.
    pub form: Form,
    /// Whether turning about Y makes no difference to its shape.
    pub round: bool,
    /// The least of its widths along x and z.
    pub width: f64,
    /// Whether it has legs; what has none is loose.
    pub walks: bool,
    /// What has no legs cannot jump or step.
    pub legs: Legs,
    /// Of what is loose: how it bounces and slides.
    pub carry: Carry,
}

/// Who may own a thing, with the teams looked up.
#[derive(Clone, Debug)]
pub(crate) struct OwnershipSpec {
    pub by: Owners<TagId>,
    pub keep: Option<Time>,
    pub secret: bool,
}

/// A route with everything looked up.
#[derive(Clone, Debug)]
pub(crate) struct RouteSpec {
    /// Its stops; none is where it was placed.
    pub stops: Box<[Option<EntityId>]>,
    pub config: Route,
}

/// A spawner with everything looked up.
#[derive(Clone, Debug)]
pub(crate) struct SpawnerSpec {
    pub kind: KindId,
    pub keep: usize,
    /// How many come at once to begin with.
    pub first: usize,
    pub every: Time,
    pub oldest: Option<Time>,
    pub bounds: Option<EntityId>,
}

impl Mover {
    /// How much its edges are rounded, in metres, so that where they touch something it is well known
    /// which way that faces.
    pub const SKIN: f64 = 1e-5;

    /// How near something must come to a body to matter to it, in metres.
    pub const REACH: f64 = 1e-3;

    /// A body with legs, or a loose one.
    pub fn of(body: &BodySpec, legs: Option<Legs>, carry: Option<&Carry>) -> Self {
        let walks = legs.is_some();
        let carry = carry.copied().unwrap_or_default();
        let rests = glam::DVec2::new(1.0, carry.friction).to_angle();
        let legs = legs.unwrap_or(Legs { jump: 0.0, step: 0.0, slope: rests });
        let pieces = || body.parts.iter().flat_map(PlacedPart::pieces);
        let pieces: Box<[(Pose, Convex)]> =
            pieces().map(|(pose, convex)| (pose, convex.rounded(Self::SKIN))).collect();
        let form = Form::of_pieces(pieces.iter().map(|(pose, convex)| (*pose, convex)));
        let size = form.bounds(&Pose::IDENTITY);
        let size = size.max - size.min;
        let round = body.is_round();
        Self { pieces, form, round, width: size.x.min(size.z), walks, legs, carry }
    }
}

impl PlacedPart {
    /// Its convex pieces and where they are, from the body's origin.
    pub fn pieces(&self) -> impl Iterator<Item = (Pose, &Convex)> {
        self.form.pieces().map(|(pose, convex)| (self.pose * pose, convex))
    }
}

impl BodySpec {
    /// The bounds of all its parts sweep, or touch, along a path.
    pub fn bounds(&self, path: &Path) -> Aabb {
        path.bounds(&self.parts.iter().map(|part| (&part.form, part.pose)))
    }
}

/// A reaction with everything looked up.
#[derive(Clone, Debug)]
pub(crate) struct Wire {
    pub after: Quantity<Time>,
    pub every: Option<Quantity<Time>>,
    pub cooldown: Time,
    pub sequences: Vec<Vec<Action<TargetRef>>>,
    pub otherwise: Vec<Action<TargetRef>>,
    /// Whether it has done everything as soon as it has begun.
    pub at_once: bool,
    /// Whether that is not so of what it does otherwise.
    pub otherwise_waits: bool,
}
