//! What checks a description: it keeps all names, and what is wrong.

use std::cell::Cell;
use std::collections::{BTreeSet, HashMap};
use std::sync::Arc;

use crate::Time;
use crate::describe::{
    CHILD_MARK, EffectId, Entity, EntityId, Fault, Features, Field, KindId, LayerNames, Named,
    Numbering, Range, Reaction, ReactionId, SceneBuilder, SceneError, SlotId, StatId, TagId, range,
};
use crate::geometry::Pose;
use crate::model::{Faults, KindSpec, NameList, door};

use super::forms::Forms;

/// All tags that an entity or a kind has, in order of appearance.
#[derive(Default)]
pub(crate) struct Tags {
    pub(crate) names: Vec<String>,
    pub(crate) ids: HashMap<String, TagId>,
}

impl Tags {
    pub(crate) fn intern(&mut self, name: &str) -> TagId {
        *self.ids.entry(name.to_owned()).or_insert_with(|| {
            self.names.push(name.to_owned());
            TagId(self.names.len() as u32 - 1)
        })
    }
}

/// Entities as described, of which those from a number on are resolved now.
#[derive(Clone, Copy)]
pub(crate) struct Listed<'a> {
    pub before: &'a [Entity],
    pub new: &'a [Entity],
}

impl<'a> Listed<'a> {
    /// All at once.
    pub fn all(new: &'a [Entity]) -> Self {
        Self { before: &[], new }
    }

    /// The number of the first that is new.
    pub fn first(self) -> usize {
        self.before.len()
    }

    /// Those that are new, with their numbers.
    pub fn numbered(self) -> impl Iterator<Item = (usize, &'a Entity)> {
        (self.first()..).zip(self.new)
    }

    /// The name of one of them.
    pub fn name(self, index: usize) -> &'a str {
        let entity = self.before.get(index).unwrap_or_else(|| &self.new[index - self.first()]);
        &entity.name
    }

    /// Where one of them is described: among those that are new, from 0. A child that its parent has from
    /// its kind is described there.
    pub fn field(self, index: usize) -> Field {
        let place = index.checked_sub(self.first()).unwrap_or(index);
        let Some((entity, of)) = self.new.get(place).and_then(|it| Some((it, it.made_for?))) else {
            return Field::ROOT.key("entity").item(place);
        };
        let (field, name) = (self.field(self.first() + of as usize), entity.own_name());
        let own = self.new[of as usize].features.children.iter().any(|it| it.name == name);
        if own { field.key("children").key(name) } else { field }
    }
}

pub(crate) struct Resolver {
    pub(crate) numbering: Numbering,
    pub(crate) ids: Arc<HashMap<String, EntityId>>,
    pub(crate) kinds: HashMap<String, KindId>,
    pub(crate) tags: Tags,
    pub(crate) stats: NameList<StatId>,
    pub(crate) effects: NameList<EffectId>,
    pub(crate) slots: NameList<SlotId>,
    pub(crate) reactions: NameList<ReactionId>,
    /// The acceleration with which walkers fall.
    pub(crate) gravity: f64,
    /// Those that somebody may get while playing.
    pub(crate) given_tags: BTreeSet<TagId>,
    pub(crate) layers: LayerNames,
    /// Names in order, for suggestions that do not depend on hashing.
    pub(crate) names: Vec<String>,
    pub(crate) kind_names: Vec<String>,
    /// Of each kind, what it gives with all that it builds on.
    pub(super) kind_specs: Arc<[KindSpec]>,
    pub(crate) errors: Vec<SceneError>,
    pub(super) forms: Forms,
    /// For how many more names the nearest is looked for.
    pub(crate) suggestions: Cell<u32>,
}

/// For how many names that do not exist the nearest is looked for.
const SUGGESTIONS: u32 = 50;

impl Resolver {
    /// One that knows no names yet.
    pub(super) fn empty(numbering: Numbering) -> Self {
        Self {
            numbering,
            ids: Arc::default(),
            kinds: HashMap::new(),
            tags: Tags::default(),
            stats: NameList::default(),
            effects: NameList::default(),
            slots: NameList::default(),
            reactions: NameList::default(),
            gravity: SceneBuilder::GRAVITY,
            given_tags: BTreeSet::new(),
            layers: LayerNames::default(),
            names: Vec::new(),
            kind_names: Vec::new(),
            kind_specs: Arc::default(),
            errors: Vec::new(),
            forms: Forms::default(),
            suggestions: Cell::new(SUGGESTIONS),
        }
    }

    /// Reads all names, so that each can be used before the place where it is given.
    pub(super) fn new(scene: &SceneBuilder, kind_specs: Arc<[KindSpec]>) -> Self {
        let numbering = Numbering::of(
            scene.entities.iter().map(|entity| entity.name.as_str()),
            scene.reactions.iter().map(Reaction::name),
        );
        let mut resolver = Self {
            names: scene.entities.iter().map(|entity| entity.name.clone()).collect(),
            kind_names: scene.kinds.iter().map(|kind| kind.name.clone()).collect(),
            kind_specs,
            ..Self::empty(numbering)
        };
        for (index, kind) in scene.kinds.iter().enumerate() {
            let field = kind.field();
            if !kind.of_child {
                resolver.given_name(&kind.name, &field);
            }
            let id = KindId(index as u32);
            if let Some(first) = resolver.kinds.insert(kind.name.clone(), id) {
                let first = Field::ROOT.key("kind").item(first.0 as usize);
                resolver.error(
                    field,
                    Fault::Duplicate { what: Named::Kind, name: kind.name.clone(), first },
                );
            }
            for tag in &kind.features.tags {
                resolver.tags.intern(tag);
            }
            resolver.intern_layers(&kind.features, &kind.field());
        }
        resolver.entities(Listed::all(&scene.entities));
        for (index, reaction) in scene.reactions.iter().enumerate() {
            if let Some(name) = &reaction.name {
                resolver.reactions.intern(name, |_| numbering.reaction(index));
            }
        }
        resolver.name_numbers(scene);
        resolver.name_children(Listed::all(&scene.entities));
        resolver
    }

    /// Reads the names of entities, and of their tags and layers.
    pub(super) fn entities(&mut self, entities: Listed<'_>) {
        for (index, entity) in entities.numbered() {
            let field = entities.field(index);
            match entity.made_for {
                None => self.given_name(&entity.name, &field.key("name")),
                Some(_) => self.name(&entity.name, &field),
            }
            if let Some(first) = self.ids.get(&entity.name) {
                let (first, name) = (entities.field(first.index()), entity.name.clone());
                self.error(
                    field.key("name"),
                    Fault::Duplicate { what: Named::Entity, name, first },
                );
            } else {
                let id = self.numbering.entity(index);
                Arc::make_mut(&mut self.ids).insert(entity.name.clone(), id);
            }
            for tag in &entity.features.tags {
                self.tags.intern(tag);
            }
            self.intern_layers(&entity.features, &field);
        }
    }

    fn intern_layers(&mut self, features: &Features, field: &Field) {
        for (index, layer) in features.layers.iter().enumerate() {
            if self.layers.intern(layer).is_none() {
                let fault = Fault::TooManyLayers { name: layer.clone() };
                self.error(field.key("layers").item(index), fault);
            }
        }
    }

    pub(crate) fn error(&mut self, field: Field, fault: Fault) {
        self.errors.push(SceneError { field, fault });
    }

    /// Reports a word that cannot be a name.
    pub(crate) fn name(&mut self, name: &str, field: &Field) {
        self.known(door::name(name), field);
    }

    /// Reports a word that an author cannot give as a name.
    pub(super) fn given_name(&mut self, name: &str, field: &Field) {
        if name.contains(CHILD_MARK) {
            let why = "`/` is between what has a child and the child";
            self.error(field.clone(), Fault::BadName { name: name.into(), why });
        } else {
            self.name(name, field);
        }
    }

    /// What was looked up; reports it if it was not found.
    pub(crate) fn known<T>(&mut self, found: Result<T, Fault>, field: &Field) -> Option<T> {
        found.map_err(|fault| self.error(field.clone(), fault)).ok()
    }

    /// Reports what was found to be wrong below a field.
    pub(crate) fn report(&mut self, field: &Field, faults: Faults) {
        let located = |(below, fault)| SceneError { field: field.join(&below), fault };
        self.errors.extend(faults.into_iter().map(located));
    }

    pub(crate) fn number(&mut self, field: Field, value: f64, fits: bool, need: &'static str) {
        if !fits {
            self.error(field, Fault::Number { value, need });
        }
    }

    /// Reports a number that will not do.
    pub(crate) fn range(&mut self, field: Field, value: f64, range: &Range) {
        if let Err(fault) = range.check(value) {
            self.error(field, fault);
        }
    }

    /// Reports an angle in radians that will not do.
    pub(crate) fn angle(&mut self, field: Field, radians: f64, range: &Range) {
        if let Err(fault) = range.check_radians(radians) {
            self.error(field, fault);
        }
    }

    pub(crate) fn seconds(&mut self, field: Field, value: f64) -> Time {
        self.range(field, value, &range::SECONDS);
        Time::from_secs(value)
    }

    /// As [`seconds`](Self::seconds), of what comes again and again.
    pub(crate) fn interval(&mut self, field: Field, value: f64) -> Time {
        self.range(field, value, &range::INTERVAL);
        Time::from_secs(value)
    }

    pub(crate) fn pose(&mut self, field: &Field, key: &str, pose: &Pose) {
        self.coordinates(&field.key(key), pose.position.to_array());
        if !pose.is_valid() && pose.position.is_finite() {
            self.error(field.key("rotation"), Fault::Rotation);
        }
    }

    pub(crate) fn coordinates(&mut self, field: &Field, place: [f64; 3]) {
        for (axis, value) in place.into_iter().enumerate() {
            self.range(field.item(axis), value, &range::COORDINATE);
        }
    }
}
