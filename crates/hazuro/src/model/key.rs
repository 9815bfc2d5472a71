//! What calls take that mean one entity.

use crate::describe::{EntityId, Fault, Named};

use super::Scene;

/// An entity, by name or by number: what calls that mean one entity take.
pub trait EntityKey {
    /// The entity meant, if the scene has it.
    fn find_in(&self, scene: &Scene) -> Option<EntityId>;
    /// What was given, for error messages.
    fn text(&self) -> String;
    /// What is wrong if the scene does not have it.
    #[doc(hidden)]
    fn fault(&self, scene: &Scene) -> Fault {
        scene.unknown_entity(self.text())
    }
}

impl EntityKey for EntityId {
    fn find_in(&self, scene: &Scene) -> Option<EntityId> {
        let is_own = *self == scene.numbering.entity(self.index());
        (is_own && self.index() < scene.len()).then_some(*self)
    }
    fn text(&self) -> String {
        format!("#{}", self.index())
    }
    fn fault(&self, _: &Scene) -> Fault {
        Fault::ForeignId { what: Named::Entity, number: self.index() }
    }
}

impl EntityKey for str {
    fn find_in(&self, scene: &Scene) -> Option<EntityId> {
        scene.find(self)
    }
    fn text(&self) -> String {
        self.into()
    }
}

impl<K: EntityKey + ?Sized> EntityKey for &K {
    fn find_in(&self, scene: &Scene) -> Option<EntityId> {
        (**self).find_in(scene)
    }
    fn text(&self) -> String {
        (**self).text()
    }
    fn fault(&self, scene: &Scene) -> Fault {
        (**self).fault(scene)
    }
}

impl EntityKey for String {
    fn find_in(&self, scene: &Scene) -> Option<EntityId> {
        self.as_str().find_in(scene)
    }
    fn text(&self) -> String {
        self.clone()
    }
}
