//! What several entities have in common, those included that come later.

use std::collections::BTreeSet;

use crate::describe::{Detector, EntityId, Fault, KindId, LayerNames, Layers, Selector, TagId};

use super::{KindSpec, Scene, Thing};

/// What several entities have in common.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Group {
    Kind(KindId),
    Tag(TagId),
    Layers(Layers),
    Any,
}

/// The subjects that a listener waits for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Subjects {
    One(EntityId),
    All(Group),
}

impl Subjects {
    /// Those that a selector means, given as entities and as what these have in common.
    pub fn of((entities, group): (Vec<EntityId>, Option<Group>)) -> Option<Self> {
        group.map(Self::All).or_else(|| entities.first().copied().map(Self::One))
    }

    /// Whether an entity with these tags now is one of them.
    pub fn has(self, scene: &Scene, entity: EntityId, tags: &[TagId]) -> bool {
        match self {
            Self::One(one) => one == entity,
            Self::All(Group::Tag(tag)) => tags.contains(&tag),
            Self::All(group) => group.has(scene.thing(entity)),
        }
    }
}

/// What is known of those who may come later: tags that something gives, and kinds.
pub(crate) struct Prospects<'a, T> {
    pub given: &'a BTreeSet<TagId>,
    pub kinds: &'a [KindSpec],
    pub layers: &'a LayerNames,
    /// Finds a tag by its name.
    pub tag: T,
}

impl Group {
    /// Whether something belongs to it as it is at the start.
    pub fn has(self, thing: &Thing) -> bool {
        match self {
            Self::Kind(kind) => thing.kinds.contains(&kind),
            Self::Tag(tag) => thing.tags.contains(&tag),
            Self::Layers(layers) => thing.layers.meet(layers),
            Self::Any => true,
        }
    }

    /// Whether something with such a detector may belong to it later: what is given a tag, or what is
    /// added and gets the detector from its kind.
    pub fn may_gain<T: Fn(&str) -> Option<TagId>>(
        self,
        prospects: &Prospects<'_, T>,
        detector: Detector,
    ) -> bool {
        let Prospects { given, kinds, layers, tag } = prospects;
        let belongs = |kind: &KindSpec| match self {
            Self::Kind(wanted) => kind.line.contains(&wanted),
            Self::Tag(wanted) => kind.features.tags.iter().any(|it| tag(it) == Some(wanted)),
            Self::Layers(wanted) => {
                let mut own = kind.features.layers.iter().filter_map(|it| layers.find(it).ok());
                own.any(|layer| layer.meet(wanted))
            }
            Self::Any => true,
        };
        let has = |kind: &KindSpec| belongs(kind) && kind.features.describes(detector);
        matches!(self, Self::Tag(tag) if given.contains(&tag)) || kinds.iter().any(has)
    }
}

impl Scene {
    /// The entities that a selector means, and what they have in common, unless one is named.
    pub(crate) fn select_group(
        &self,
        selector: &Selector,
    ) -> Result<(Vec<EntityId>, Option<Group>), Fault> {
        let group = match selector {
            Selector::Entity(name) => return Ok((vec![self.entity_id(name)?], None)),
            Selector::Kind(name) => Group::Kind(self.kind_id(name)?),
            Selector::Tag(name) => Group::Tag(self.tag_id(name)?),
            Selector::Layer(name) => Group::Layers(self.layers([name.as_str()])?),
            Selector::Any => Group::Any,
        };
        Ok((self.ids().filter(|entity| group.has(self.thing(*entity))).collect(), Some(group)))
    }

    /// Whether something with such a detector may belong to a group later.
    pub(crate) fn may_gain(&self, group: Group, detector: Detector) -> bool {
        let prospects = Prospects {
            given: &self.given_tags,
            kinds: &self.kind_specs,
            layers: &self.layers,
            tag: |name: &str| self.tag_id(name).ok(),
        };
        group.may_gain(&prospects, detector)
    }
}
