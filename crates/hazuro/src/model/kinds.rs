//! Of which kinds an entity is, which children are its own, and where it is described.

use crate::describe::{EntityId, Field, Kind};

use super::Scene;

impl Scene {
    /// The kinds of an entity as described, those that these build on included: the words of the first
    /// count most.
    pub fn kinds_of(&self, entity: EntityId) -> impl Iterator<Item = &Kind> {
        self.thing(entity).kinds.iter().map(|kind| &self.kinds[kind.0 as usize])
    }

    /// Whether an entity is of a kind of this name.
    pub fn is_of_kind(&self, entity: EntityId, kind: &str) -> bool {
        self.kinds_of(entity).any(|it| it.name() == kind)
    }

    /// Whether an entity is one of a kind's stock.
    pub fn is_stock(&self, entity: EntityId) -> bool {
        self.thing(entity).stocked
    }

    /// Whether an entity is a child that the description of its parent gives.
    pub fn is_made(&self, entity: EntityId) -> bool {
        self.entity(entity).made_for.is_some()
    }

    /// Where an entity is described: one of a stock with its kind; a child that its parent has from a kind
    /// with its parent.
    pub fn field(&self, entity: EntityId) -> Field {
        let thing = self.thing(entity);
        if let (Some(kind), true) = (thing.kinds.first(), thing.stocked) {
            return self.kinds[kind.0 as usize].field();
        }
        let Some(parent) = thing.parent.filter(|_| self.is_made(entity)) else {
            return Field::ROOT.key("entity").item(entity.index());
        };
        let (field, name) = (self.field(parent), self.entity(entity).own_name());
        let own = self.entity(parent).own_children().iter().any(|it| it.name() == name);
        if own { field.key("children").key(name) } else { field }
    }

    /// An entity and the children that its description gives it, and the children of those, parents before
    /// children.
    pub(crate) fn whole(&self, entity: EntityId) -> impl Iterator<Item = EntityId> {
        self.family(entity).filter(move |it| {
            let mut below = self.lineage(*it).take_while(|up| *up != entity);
            below.all(|up| self.is_made(up))
        })
    }
}
