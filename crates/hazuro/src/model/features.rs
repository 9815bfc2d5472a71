//! What an entity has been given: its own, or else its kind's.

use crate::describe::{
    Body, Camera, Carry, Detector, EntityId, Fault, Features, Limits, Named, Ownership, Pickup,
    ReactionId, Route, Spawner, Zone,
};
use crate::geometry::{Aabb, Convex, Form, Pose, Shape, overlaps};

use super::Scene;
use super::thing::PlacedPart;

macro_rules! given {
    ($($(#[$about:meta])* $name:ident: $type:ty, $own:expr;)*) => {
        impl Scene {
            $($(#[$about])*
            pub fn $name(&self, entity: EntityId) -> Option<&$type> {
                let of: fn(&Features) -> Option<&$type> = $own;
                let mut kinds = self.kinds_of(entity).map(|kind| &kind.features);
                of(&self.entity(entity).features).or_else(|| kinds.find_map(of))
            })*
        }
    };
}

given! {
    /// The zone of an entity, its own or its kind's, if it has one.
    zone_of: Zone, |features| features.zone.as_deref();
    /// The body of an entity, its own or its kind's, if it has one.
    body_of: Body, |features| features.body.as_deref();
    /// The solid shape of an entity, its own or its kind's, if it has one.
    solid_of: Shape, |features| features.solid.as_deref();
    /// The pickup that an entity is, by itself or by its kind, if it is one.
    pickup_of: Pickup, |features| features.pickup.as_deref();
    /// What makes an entity something to carry, its own or its kind's, if anything.
    carry_of: Carry, |features| features.carry.as_deref();
    /// Who may own an entity, as it or its kind says, if anybody may.
    ownership_of: Ownership, |features| features.ownership.as_deref();
    /// The route of an entity, its own or its kind's, if it has one.
    route_of: Route, |features| features.route.as_deref();
    /// The spawner of an entity, its own or its kind's, if it has one.
    spawner_of: Spawner, |features| features.spawner.as_deref();
    /// The limits of an entity's detectors, its own or its kind's, if there are any.
    limits_of: Limits, |features| features.limits.as_ref();
    /// The camera that an entity is, by itself or by its kind, if it is one.
    lens_of: Camera, |features| features.camera.as_deref();
}

macro_rules! detectors {
    ($($(#[$about:meta])* $name:ident $key:ident $of:ident $set:literal;)*) => {
        given! {
            $(#[doc = concat!(
                "The ", stringify!($key), " of an entity, its own or its kind's, if it has one."
            )]
            $of: crate::describe::$name, |features| features.detectors().$key.as_ref();)*
        }
    };
}

crate::for_each_detector!(detectors);

impl Scene {
    /// Whether a detector is described with the entity itself and not with its kind. What comes of
    /// stats is always the entity's own.
    pub fn is_own(&self, entity: EntityId, detector: Detector) -> bool {
        detector == Detector::Stats || self.entity(entity).features.describes(detector)
    }

    /// The numbers of all reactions, in order.
    pub fn reaction_ids(&self) -> impl Iterator<Item = ReactionId> + use<> {
        let numbering = self.numbering;
        (0..self.reactions.len()).map(move |index| numbering.reaction(index))
    }

    /// That a reaction is one of this scene's.
    pub(crate) fn own_reaction(&self, reaction: ReactionId) -> Result<(), Fault> {
        let number = reaction.index();
        let is_own = number < self.reactions.len() && reaction == self.numbering.reaction(number);
        is_own.then_some(()).ok_or(Fault::ForeignId { what: Named::Reaction, number })
    }

    /// How often, in seconds, the zone of an entity tells `inside`, if it does.
    pub fn inside_every(&self, entity: EntityId) -> Option<f64> {
        self.zone_of(entity)?.inside_interval()
    }

    /// The form of an entity's zone, in its own axes, with its scale.
    pub fn zone_form(&self, entity: EntityId) -> Option<&Form> {
        self.thing(entity).zone.as_ref().map(|zone| &zone.form)
    }

    /// The form of an entity's solid, in its own axes, with its scale.
    pub fn solid_form(&self, entity: EntityId) -> Option<&Form> {
        self.thing(entity).solid.as_ref().map(|solid| &solid.form)
    }

    /// The parts of an entity's body, in order: the name of each, its form, and where that is in
    /// the body, with its scale.
    pub fn parts(&self, entity: EntityId) -> impl Iterator<Item = (&str, &Form, Pose)> {
        let parts = self.thing(entity).body.iter().flat_map(|body| &body.parts);
        parts.map(|part| (part.name.as_str(), &part.form, part.pose))
    }

    /// The form of what a zone or touch detector of an entity detects with, in its own axes.
    pub fn region_form(&self, entity: EntityId, detector: Detector) -> Option<&Form> {
        self.thing(entity).region(detector).map(|region| region.form)
    }

    /// Whether a zone or touch detector of an entity at a pose would meet a body, or else a solid,
    /// at another, whether it admits it or not.
    pub fn would_meet(
        &self,
        (on, detector, at): (EntityId, Detector, &Pose),
        (who, there): (EntityId, &Pose),
    ) -> bool {
        let Some(region) = self.thing(on).region(detector) else { return false };
        let meets = |(offset, piece): (Pose, &Convex)| {
            let mut own = region.form.pieces();
            own.any(|(place, shape)| overlaps(shape, &(*at * place), piece, &(*there * offset)))
        };
        let thing = self.thing(who);
        let parts = thing.body.iter().flat_map(|body| &body.parts).flat_map(PlacedPart::pieces);
        match &thing.solid {
            Some(solid) if thing.body.is_none() => solid.form.pieces().any(meets),
            _ => parts.into_iter().any(meets),
        }
    }

    /// The bounds of an entity's body at a pose, in metres, if it has one.
    pub fn body_bounds(&self, entity: EntityId, pose: &Pose) -> Option<Aabb> {
        self.thing(entity).body.as_ref().map(|body| body.bounds_at(pose))
    }

    /// The bounds of an entity's solid at a pose, in metres, if it has one.
    pub fn solid_bounds(&self, entity: EntityId, pose: &Pose) -> Option<Aabb> {
        self.thing(entity).solid.as_ref().map(|solid| solid.form.bounds(pose))
    }
}
