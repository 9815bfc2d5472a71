//! Checking a description and looking up every name in it.

use std::collections::{BTreeMap, HashMap};

use crate::Time;
use crate::geometry::Pose;

use super::admit::Lists;
use super::features::Features;
use super::id::{KindId, TagId};
use super::shapes::Use;
use super::{
    Admission, Admit, BodySpec, EntityId, Fault, Field, Kin, LayerNames, Layers, RESERVED_NAMES,
    Scene, SceneBuilder, SceneError, SceneErrors, SolidSpec, Thing, ZoneSpec, nearest,
};

/// The greatest distance, in metres, of anything from the origin of its frame.
pub(super) const MAX_COORDINATE: f64 = 1e6;
/// The longest span, in seconds, that a scene may name: about a month.
pub(super) const MAX_SECONDS: f64 = 3e6;

pub(super) fn resolve(scene: SceneBuilder) -> Result<Scene, SceneErrors> {
    let mut resolver = Resolver::new(&scene);
    resolver.numbers(&scene);
    let things = resolver.things(&scene);
    resolver.circles(&scene, &things);
    let wires = resolver.wires(&scene, &things);
    let listeners = resolver.listeners(&scene, &things);
    let Resolver { ids, tags, layers, errors, .. } = resolver;
    if !errors.is_empty() {
        return Err(SceneErrors(errors));
    }
    let mut things = things;
    for index in 0..things.len() {
        if let Some(parent) = things[index].parent {
            things[parent.index()].children.push(EntityId(index as u32));
        }
    }
    for index in 0..things.len() {
        let lineage = std::iter::successors(Some(EntityId(index as u32)), |entity| {
            things[entity.index()].parent
        });
        things[index].owner =
            lineage.into_iter().find(|entity| things[entity.index()].body.is_some());
    }
    let kin = |thing: &Thing| Kin { parent: thing.parent, childless: thing.children.is_empty() };
    let kin = things.iter().map(kin).collect();
    let mut limbs: BTreeMap<EntityId, Vec<EntityId>> = BTreeMap::new();
    let mut conditional = Vec::new();
    for (index, thing) in things.iter().enumerate() {
        let entity = EntityId(index as u32);
        if let Some(owner) = thing.owner.filter(|owner| thing.solid.is_some() && *owner != entity) {
            limbs.entry(owner).or_default().push(entity);
        }
        let senses = thing.senses.as_ref().map(|senses| &senses.admission);
        let rules = [senses, thing.zone.as_ref().map(|zone| &zone.admission)];
        if rules.into_iter().flatten().any(|rule| rule.condition.is_some()) {
            conditional.push(entity);
        }
    }
    let senses = || things.iter().filter_map(|thing| thing.senses.as_ref());
    let prompts = senses().filter_map(|senses| senses.prompt.as_ref());
    let widest = prompts.map(|prompt| prompt.told.reach + prompt.told.margin).fold(0.0, f64::max);
    let has_pointers = senses().any(|senses| senses.pointer.is_some());
    let SceneBuilder { title, rate, seed, kinds, entities, reactions, texts, counts } = scene;
    Ok(Scene {
        name: title,
        rate,
        seed,
        kinds,
        entities,
        reactions,
        texts,
        counts,
        ids,
        tags: tags.names,
        layers,
        things,
        kin,
        limbs,
        conditional,
        widest_prompt: widest,
        has_pointers,
        wires,
        listeners,
    })
}

/// All tags that an entity or a kind has, in order of appearance.
#[derive(Default)]
pub(super) struct Tags {
    names: Vec<String>,
    pub(super) ids: HashMap<String, TagId>,
}

impl Tags {
    fn intern(&mut self, name: &str) -> TagId {
        *self.ids.entry(name.to_owned()).or_insert_with(|| {
            self.names.push(name.to_owned());
            TagId(self.names.len() as u32 - 1)
        })
    }
}

pub(super) struct Resolver {
    ids: HashMap<String, EntityId>,
    kinds: HashMap<String, KindId>,
    pub(super) tags: Tags,
    pub(super) layers: LayerNames,
    /// Names in order, for suggestions that do not depend on hashing.
    names: Vec<String>,
    kind_names: Vec<String>,
    pub(super) errors: Vec<SceneError>,
}

impl Resolver {
    /// Reads all names, so that each can be used before the place where it is given.
    fn new(scene: &SceneBuilder) -> Self {
        let mut resolver = Self {
            ids: HashMap::new(),
            kinds: HashMap::new(),
            tags: Tags::default(),
            layers: LayerNames::default(),
            names: scene.entities.iter().map(|entity| entity.name.clone()).collect(),
            kind_names: scene.kinds.iter().map(|kind| kind.name.clone()).collect(),
            errors: Vec::new(),
        };
        for (index, kind) in scene.kinds.iter().enumerate() {
            let field = Field::ROOT.key("kind").key(&kind.name);
            resolver.name(&kind.name, &field);
            let id = KindId(index as u32);
            if let Some(first) = resolver.kinds.insert(kind.name.clone(), id) {
                let first = Field::ROOT.key("kind").item(first.0 as usize);
                resolver.error(
                    field,
                    Fault::Duplicate { what: "kind", name: kind.name.clone(), first },
                );
            }
            for tag in &kind.features.tags {
                resolver.tags.intern(tag);
            }
            resolver.intern_layers(&kind.features, &Field::ROOT.key("kind").key(&kind.name));
        }
        for (index, entity) in scene.entities.iter().enumerate() {
            let field = Field::ROOT.key("entity").item(index).key("name");
            resolver.name(&entity.name, &field);
            if let Some(first) = resolver.ids.get(&entity.name) {
                let first = Field::ROOT.key("entity").item(first.index());
                let name = entity.name.clone();
                resolver.error(field, Fault::Duplicate { what: "entity", name, first });
            } else {
                resolver.ids.insert(entity.name.clone(), EntityId(index as u32));
            }
            for tag in &entity.features.tags {
                resolver.tags.intern(tag);
            }
            resolver.intern_layers(&entity.features, &Field::ROOT.key("entity").item(index));
        }
        resolver
    }

    fn intern_layers(&mut self, features: &Features, field: &Field) {
        for (index, layer) in features.layers.iter().enumerate() {
            if self.layers.intern(layer).is_none() {
                let fault = Fault::TooManyLayers { name: layer.clone() };
                self.error(field.key("layers").item(index), fault);
            }
        }
    }

    pub(super) fn error(&mut self, field: Field, fault: Fault) {
        self.errors.push(SceneError { field, fault });
    }

    pub(super) fn name(&mut self, name: &str, field: &Field) {
        let why = if name.is_empty() {
            "it is empty"
        } else if name.trim() != name || name.chars().any(char::is_control) {
            "it has space at an end or an unprintable character"
        } else if name.contains(':') {
            "a colon marks `kind:` and `tag:`"
        } else if RESERVED_NAMES.contains(&name) {
            "the word has a meaning in actions"
        } else {
            return;
        };
        self.error(field.clone(), Fault::BadName { name: name.into(), why });
    }

    pub(super) fn number(&mut self, field: Field, value: f64, fits: bool, need: &'static str) {
        if !fits {
            self.error(field, Fault::Number { value, need });
        }
    }

    pub(super) fn seconds(&mut self, field: Field, value: f64) -> Time {
        let fits = (0.0..=MAX_SECONDS).contains(&value);
        self.number(field, value, fits, "a number of seconds from 0 to 3000000");
        Time::from_secs(value)
    }

    fn numbers(&mut self, scene: &SceneBuilder) {
        let field = Field::ROOT.key("scene").key("rate");
        let fits = (1..=10_000).contains(&scene.rate);
        self.number(field, f64::from(scene.rate), fits, "a rate from 1 to 10000 ticks a second");
        for (key, text) in &scene.texts {
            for name in placeholders(text) {
                if name != "who" && name != "on" {
                    let field = Field::ROOT.key("texts").key(key);
                    self.error(field, Fault::Placeholder { name: name.into() });
                }
            }
        }
    }

    pub(super) fn pose(&mut self, field: &Field, key: &str, pose: &Pose) {
        for (axis, value) in pose.position.to_array().into_iter().enumerate() {
            let fits = value.abs() <= MAX_COORDINATE;
            let field = field.key(key).item(axis);
            self.number(field, value, fits, "a coordinate from -1000000 to 1000000 metres");
        }
        if !pose.is_valid() && pose.position.is_finite() {
            self.error(field.key("rotation"), Fault::Rotation);
        }
    }

    fn things(&mut self, scene: &SceneBuilder) -> Vec<Thing> {
        // A kind nobody uses must be right too.
        let mut sound_kinds = Vec::with_capacity(scene.kinds.len());
        for kind in &scene.kinds {
            let field = Field::ROOT.key("kind").key(&kind.name);
            let before = self.errors.len();
            self.features(&kind.features, &field);
            sound_kinds.push(self.errors.len() == before);
        }
        let mut things = Vec::with_capacity(scene.entities.len());
        for (index, entity) in scene.entities.iter().enumerate() {
            let field = Field::ROOT.key("entity").item(index);
            self.pose(&field, "at", &entity.pose);
            let kind = entity.kind.as_ref().and_then(|name| self.kind(name, &field.key("kind")));
            let parent =
                entity.parent.as_ref().and_then(|name| self.entity(name, &field.key("parent")));
            let before = self.errors.len();
            self.features(&entity.features, &field);
            let sound =
                self.errors.len() == before && kind.is_none_or(|kind| sound_kinds[kind.0 as usize]);
            let merged =
                merge(kind.map(|kind| &scene.kinds[kind.0 as usize].features), &entity.features);
            things.push(self.thing(&merged, parent, kind, (&field, sound)));
        }
        things
    }

    /// Reports what is wrong with the features described here.
    fn features(&mut self, features: &Features, field: &Field) {
        for (index, tag) in features.tags.iter().enumerate() {
            self.name(tag, &field.key("tags").item(index));
        }
        let scale = features.scale.unwrap_or(1.0);
        let fits = (0.001..=1000.0).contains(&scale);
        self.number(field.key("scale"), scale, fits, "a factor from 0.001 to 1000");
        for (index, layer) in features.layers.iter().enumerate() {
            self.name(layer, &field.key("layers").item(index));
        }
        if let Some(zone) = &features.zone {
            self.zone(zone, scale, &field.key("zone"));
        }
        if let Some(admit) = &features.admit {
            self.admission(admit, &field.key("admit"));
        }
        if let Some(solid) = &features.solid {
            self.shape(&field.key("solid"), solid, scale, Use::Solid);
        }
        self.check_senses(features, scale, field);
        if let Some(body) = &features.body {
            self.body(body, scale, &field.key("body"));
        }
    }

    fn admission(&mut self, admit: &Admit, field: &Field) -> Admission {
        let lists = self.lists(&admit.lists, field);
        let not = self.lists(&admit.not, &field.key("not"));
        let admitted = self.admitted_layers(&admit.layers, field);
        let layers = if admit.layers.is_empty() { Layers::ALL } else { admitted };
        let not_layers = self.admitted_layers(&admit.not_layers, &field.key("not"));
        let (players, condition) = (admit.players, admit.condition.clone());
        Admission { lists, not, layers, not_layers, players, condition }
    }

    fn admitted_layers(&mut self, names: &[String], field: &Field) -> Layers {
        let mut layers = Layers::NONE;
        for (index, name) in names.iter().enumerate() {
            match self.layers.find(name) {
                Ok(layer) => layers = layers.and(layer),
                Err(fault) => self.error(field.key("layers").item(index), fault),
            }
        }
        layers
    }

    fn lists(
        &mut self,
        lists: &Lists<String, String, String>,
        field: &Field,
    ) -> Lists<TagId, KindId, EntityId> {
        let mut found = Lists::default();
        for (index, tag) in lists.tags.iter().enumerate() {
            found.tags.extend(self.tag(tag, &field.key("tags").item(index)));
        }
        for (index, kind) in lists.kinds.iter().enumerate() {
            found.kinds.extend(self.kind(kind, &field.key("kinds").item(index)));
        }
        for (index, name) in lists.names.iter().enumerate() {
            found.names.extend(self.entity(name, &field.key("names").item(index)));
        }
        found
    }

    /// Looks up merged features. What is wrong with them has been reported where it stands.
    fn thing(
        &mut self,
        features: &Features,
        parent: Option<EntityId>,
        kind: Option<KindId>,
        (field, sound): (&Field, bool),
    ) -> Thing {
        let reported = self.errors.len();
        let nowhere = Field::ROOT;
        let mut tags: Vec<TagId> = features.tags.iter().map(|tag| self.tags.intern(tag)).collect();
        tags.sort_unstable();
        tags.dedup();
        let admission = features
            .admit
            .as_ref()
            .map(|admit| self.admission(admit, &nowhere))
            .unwrap_or_default();
        let scale = features.scale.unwrap_or(1.0);
        let senses = self.senses(features, &admission, scale, &nowhere);
        let zone = features
            .zone
            .as_ref()
            .and_then(|zone| self.zone(zone, scale, &nowhere))
            .map(|(form, inside_every)| Box::new(ZoneSpec { form, admission, inside_every }));
        let solid = features
            .solid
            .as_ref()
            .and_then(|solid| self.shape(&nowhere, solid, scale, Use::Solid))
            .map(|form| Box::new(SolidSpec { form }));
        let parts = features.body.as_ref().map(|body| self.body(body, scale, &nowhere));
        let body = parts.map(|parts| BodySpec { parts });
        // All is reported already where it is described, but for what only the scale of the one
        // makes of the shapes of the other.
        let unscaled = self.errors.drain(reported..).next();
        if let Some(error) = unscaled.filter(|_| sound) {
            let at = match error.fault {
                Fault::NothingThere { detector } => field.key(detector.word()),
                _ => field.key("scale"),
            };
            self.error(at, error.fault);
        }
        let named = features.layers.iter().filter_map(|name| self.layers.find(name).ok());
        let layers = named.reduce(Layers::and).unwrap_or(Layers(1));
        Thing {
            layers,
            parent,
            children: Vec::new(),
            kind,
            tags: tags.into(),
            zone,
            body,
            solid,
            senses,
            owner: None,
            player: features.player.unwrap_or(false),
            highlight: features.highlight.unwrap_or(false),
            walk: features.body.as_ref().and_then(|body| body.walk),
            enabled: features.enabled.unwrap_or(true),
            visible: features.visible.unwrap_or(true),
        }
    }

    /// Reports each circle of parents once, at its first entity.
    fn circles(&mut self, scene: &SceneBuilder, things: &[Thing]) {
        let mut done = vec![false; things.len()];
        for start in 0..things.len() {
            let mut chain = Vec::new();
            let mut next = Some(start);
            while let Some(index) = next.filter(|index| !done[*index]) {
                done[index] = true;
                chain.push(index);
                next = things[index].parent.map(EntityId::index);
            }
            let Some(back) = next.and_then(|next| chain.iter().position(|index| *index == next))
            else {
                continue;
            };
            let circle = &chain[back..];
            let names = circle.iter().chain(circle.first());
            let names = names.map(|index| scene.entities[*index].name.clone()).collect();
            let field = Field::ROOT.key("entity").item(circle[0]).key("parent");
            self.error(field, Fault::ParentCircle { names });
        }
    }

    pub(super) fn entity(&mut self, name: &str, field: &Field) -> Option<EntityId> {
        let found = self.ids.get(name).copied();
        if found.is_none() {
            let nearest = nearest(name, self.names.iter().map(String::as_str));
            self.unknown("entity", name, nearest, field);
        }
        found
    }

    pub(super) fn kind(&mut self, name: &str, field: &Field) -> Option<KindId> {
        let found = self.kinds.get(name).copied();
        if found.is_none() {
            let nearest = nearest(name, self.kind_names.iter().map(String::as_str));
            self.unknown("kind", name, nearest, field);
        }
        found
    }

    pub(super) fn tag(&mut self, name: &str, field: &Field) -> Option<TagId> {
        let found = self.tags.ids.get(name).copied();
        if found.is_none() {
            let nearest = nearest(name, self.tags.names.iter().map(String::as_str));
            self.unknown("tag", name, nearest, field);
        }
        found
    }

    fn unknown(&mut self, what: &'static str, name: &str, nearest: Option<String>, field: &Field) {
        self.error(field.clone(), Fault::Unknown { what, name: name.into(), nearest });
    }
}

/// What an entity has: its own, and what its kind gives where it has none.
fn merge(kind: Option<&Features>, own: &Features) -> Features {
    let Some(kind) = kind else { return own.clone() };
    Features {
        tags: kind.tags.iter().chain(&own.tags).cloned().collect(),
        layers: if own.layers.is_empty() { kind.layers.clone() } else { own.layers.clone() },
        enabled: own.enabled.or(kind.enabled),
        visible: own.visible.or(kind.visible),
        scale: own.scale.or(kind.scale),
        zone: own.zone.as_ref().or(kind.zone.as_ref()).cloned(),
        admit: own.admit.as_ref().or(kind.admit.as_ref()).cloned(),
        solid: own.solid.as_ref().or(kind.solid.as_ref()).cloned(),
        body: own.body.as_ref().or(kind.body.as_ref()).cloned(),
        detectors: match (&own.detectors, &kind.detectors) {
            (Some(own), Some(kind)) => Some(Box::new((**own).clone().or(kind))),
            (own, kind) => own.as_ref().or(kind.as_ref()).cloned(),
        },
        limits: own.limits.or(kind.limits),
        camera: own.camera.as_ref().or(kind.camera.as_ref()).cloned(),
        player: own.player.or(kind.player),
        highlight: own.highlight.or(kind.highlight),
    }
}

/// The names between braces in a text.
fn placeholders(text: &str) -> impl Iterator<Item = &str> {
    text.split('{').skip(1).filter_map(|rest| rest.split_once('}').map(|(name, _)| name))
}
