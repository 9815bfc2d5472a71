//! What an entity has been given: its own, or else its kind's.

use crate::describe::{Detector, EntityId, Fault, Features, Limits, Named, ReactionId};
use crate::geometry::{Aabb, Convex, Form, Pose, overlaps};

use super::Scene;
use super::thing::PlacedPart;

macro_rules! given {
    ($($(#[$about:meta])* $name:ident: $type:ty, $own:expr;)*) => {
        impl Scene {
            $($(#[$about])*
            pub fn $name(&self, entity: EntityId) -> Option<&$type> {
                let of: fn(&Features) -> Option<&$type> = $own;
                let kinds = self.kinds_of(entity).map(|kind| &kind.features);
                let own = self.features_now(entity).into_iter().chain([&self.entity(entity).features]);
                own.chain(kinds).find_map(of)
            })*
        }
    };
}

given! {
    /// The limits of an entity's detectors, its own or its kind's, if there are any.
    limits_of: Limits, |features| features.limits.as_ref();
}

macro_rules! tables {
    (
        values { $($value:tt)* }
        tables { $($(#[$what:meta])* $table:ident: $described:ty, $own:ident $of:ident
            $set:literal $get:literal $get_of:literal;)* }
    ) => {
        given! {
            $(#[doc = $get_of]
            $of: $described, |features| features.$table.as_deref();)*
        }
    };
}

crate::for_each_feature!(tables);

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
