//! What an entity is once it is converted to a kind.

use crate::describe::{Body, EntityId, Fault, Field};
use crate::model::{Converted, Scene, Thing, door};

use super::kinds::Kinds;
use super::resolver::Resolver;

impl Scene {
    /// What an entity is once it is converted to a kind: what that gives counts before what it has by
    /// itself. It keeps what no conversion changes, and the rhythm in which its zone tells `inside`, since
    /// stays go on.
    ///
    /// # Errors
    /// If there is no such kind, it gives what no conversion changes or what the entity has not got, or
    /// both together cannot be, as a shape that is too large for a scale.
    pub(crate) fn converted(&self, entity: EntityId, to: &str) -> Result<Converted, Fault> {
        let to = door::conversion(to, self)?;
        let itself = self.itself(entity);
        if let Some(need) = itself.lacks_for(&self.kind_specs[to.0 as usize].features) {
            let name = self.name(entity).into();
            return Err(Fault::Unable { action: "convert", name, need });
        }
        let described = self.entity(entity);
        let kinds = Kinds::new(&self.kinds, &self.kind_specs);
        let own = described.features.clone();
        let own = match kinds.features(&kinds.of(described)) {
            Some(given) => own.or(&given),
            None => own,
        };
        let mut whole = kinds.spec(to).features.clone().or(&own);
        if let (Some(body), Some(own)) = (&mut whole.body, &own.body)
            && body.walk.is_none()
        {
            **body = Body { walk: own.walk, legs: own.legs, ..(**body).clone() };
        }
        if let (Some(zone), Some(own)) = (&mut whole.zone, &own.zone) {
            zone.inside_every = own.inside_every;
        }
        let mut resolver = Resolver::beside(self);
        let thing = resolver.thing(&whole, itself.parent, (&Field::ROOT, true));
        if let Some(error) = resolver.errors.into_iter().next() {
            return Err(error.fault);
        }
        let Thing { children, kinds, tags, slots, slot_sorts, .. } = itself.clone();
        let (bearer, stocked) = (itself.bearer, itself.stocked);
        let thing = Thing { children, kinds, tags, slots, slot_sorts, bearer, stocked, ..thing };
        Ok(Converted { to, features: whole, thing })
    }
}
