//! Checking a description and looking up every name in it.

mod aggregate;
mod children;
mod conversion;
mod detectors;
mod forms;
mod growth;
mod kinds;
mod known;
mod needs;
mod reactions;
mod resolver;
mod routes;
mod shapes;
mod slots;
mod stats;

use std::collections::{BTreeMap, BTreeSet};
use std::hash::{Hash, Hasher};
use std::sync::Arc;

use aggregate::{lowest, stock};
use children::add_children;
pub(crate) use detectors::{Owner, Resolve};
use kinds::Kinds;
use reactions::Wiring;
use resolver::Listed;
pub(crate) use resolver::Resolver;
pub(crate) use shapes::Use;

use crate::describe::{
    Admit, Detector, EntityId, Fault, Features, Field, Floor, KindId, Layers, Lists, MAX_KINDS,
    SceneBuilder, SceneErrors, Selector, TagId, range,
};
use crate::fast_hash::{FastMap, Fnv};
use crate::model::{Admission, BodySpec, LegStats, Mover, Scene, SolidSpec, Thing, ZoneSpec};

impl SceneBuilder {
    /// Checks the description and looks up every name in it.
    ///
    /// # Errors
    /// Everything that is wrong with it, in order.
    pub fn build(mut self) -> Result<Scene, SceneErrors> {
        // Nothing depends on the order of kinds; sorted, equal scenes look alike.
        self.kinds.sort_by(|one, other| one.name().cmp(other.name()));
        self.effects.sort_by(|one, other| one.name().cmp(other.name()));
        resolve(self)
    }
}

fn resolve(mut scene: SceneBuilder) -> Result<Scene, SceneErrors> {
    let (specs, mut errors) = kinds::prepare(&mut scene.kinds);
    let kinds = Kinds::new(&scene.kinds, &specs);
    errors.extend(add_children(&mut scene.entities, 0, &kinds).err());
    let described = scene.entities.len();
    let fits = stock(&scene.kinds, &mut scene.entities);
    errors.extend(add_children(&mut scene.entities, described, &kinds).err());
    let mut resolver = Resolver::new(&scene, Arc::clone(&specs));
    resolver.errors.splice(..0, errors);
    if !fits {
        let total = scene.kinds.iter().map(|kind| f64::from(kind.features.stock)).sum();
        resolver.range(Field::ROOT.key("kind"), total, &range::STOCK);
    }
    resolver.numbers(&scene);
    let sound_kinds = resolver.sound_kinds(&kinds);
    let entities = Listed::all(&scene.entities);
    let mut things = resolver.things((&kinds, &sound_kinds), entities);
    for (thing, entity) in things.iter_mut().zip(&scene.entities).skip(described) {
        thing.stocked = entity.made_for.is_none();
    }
    resolver.circles(entities, &things);
    resolver.areas(&scene.kinds, entities, &things);
    let effect_specs = resolver.effects(&scene.effects);
    let wiring = resolver.wiring(&scene, &things);
    let Resolver { numbering, ids, tags, stats, effects: effect_ids, slots: slot_ids, .. } =
        resolver;
    let Resolver { layers, errors, given_tags, .. } = resolver;
    if !errors.is_empty() {
        return Err(SceneErrors(errors));
    }
    let Wiring { wires, listeners, enders } = wiring;
    let SceneBuilder { title, rate, seed, kinds, entities, reactions, effects, .. } = scene;
    let SceneBuilder {
        texts, language, counts, flags, scripts, gravity, floor, allowances, ..
    } = scene;
    let mut scene = Scene {
        name: title,
        rate,
        seed,
        described,
        built: things.len(),
        stocks: vec![Vec::new(); kinds.len()],
        kinds,
        kind_specs: specs,
        entities,
        reactions,
        effects,
        texts,
        language,
        counts,
        flags,
        scripts,
        numbering,
        ids,
        tags: tags.names,
        given_tags,
        ruling_tags: BTreeSet::new(),
        stats,
        effect_ids,
        effect_specs,
        slot_ids,
        leg_stats: LegStats::default(),
        layers,
        things,
        kin: Vec::new(),
        conversions: BTreeMap::new(),
        attached_solids: BTreeMap::new(),
        conditional: Vec::new(),
        gravity,
        floor,
        allowances,
        floor_height: None,
        has_movers: false,
        has_blocking_bodies: false,
        widest_prompt: 0.0,
        has_pointers: false,
        wires,
        listeners,
        enders,
        mark: 0,
        former: FastMap::default(),
    };
    scene.take_up(0);
    scene.mark = mark(&scene);
    scene.floor_height = match floor {
        Floor::Lowest => Some(lowest(&scene)),
        Floor::At(height) => Some(height),
        Floor::Missing => None,
    };
    Ok(scene)
}

/// A number of all that is numbered.
fn mark(scene: &Scene) -> u64 {
    let mut hasher = Fnv::default();
    for entity in &scene.entities {
        (&entity.name, &entity.features.kinds).hash(&mut hasher);
    }
    (&scene.tags, &scene.stats.names, &scene.effect_ids.names).hash(&mut hasher);
    for (reaction, wire) in scene.reactions.iter().zip(&scene.wires) {
        (reaction.name(), wire.sequences.len()).hash(&mut hasher);
    }
    hasher.finish()
}

impl Resolver {
    fn numbers(&mut self, scene: &SceneBuilder) {
        let field = Field::ROOT.key("scene").key("rate");
        self.range(field, f64::from(scene.rate), &range::TICKS);
        self.range(Field::ROOT.key("scene").key("gravity"), scene.gravity, &range::GRAVITY);
        if let Floor::At(height) = scene.floor {
            self.range(Field::ROOT.key("scene").key("floor"), height, &range::HEIGHT);
        }
        self.texts(scene);
    }

    /// Which kinds are right. One that nobody uses must be right, too.
    fn sound_kinds(&mut self, kinds: &Kinds<'_>) -> Vec<bool> {
        let mut sound = Vec::with_capacity(kinds.all.len());
        for kind in kinds.all {
            let field = kind.field();
            let before = self.errors.len();
            for name in &kind.features.kinds {
                self.kind(name, &field.key("kind"));
            }
            for whom in &kind.takes {
                self.taken(whom, &field.key("for"));
            }
            self.features(&kind.features, &field);
            let bases: Vec<KindId> =
                kind.features.kinds.iter().filter_map(|name| kinds.find(name)).collect();
            if let Some(given) = kinds.features(&bases) {
                // A child fills the slots of its kinds; what builds on a kind may have more.
                let first = kind.features.kinds.first().filter(|_| kind.of_child);
                self.own_slots(&kind.features, (first.map(String::as_str), &given), &field);
            }
            sound.push(self.errors.len() == before);
        }
        sound
    }

    /// Reports for whom a kind cannot be.
    fn taken(&mut self, whom: &Selector, field: &Field) {
        match whom {
            Selector::Tag(tag) => {
                self.tag(tag, field);
            }
            Selector::Kind(_) | Selector::Layer(_) => {
                self.error(field.clone(), Fault::NotTaken { whom: whom.to_string() });
            }
            Selector::Entity(_) | Selector::Any => {}
        }
    }

    /// Looks up entities. Of which kinds are right, what is wrong is said here.
    fn things(
        &mut self,
        (kinds, sound_kinds): (&Kinds<'_>, &[bool]),
        entities: Listed<'_>,
    ) -> Vec<Thing> {
        let mut things = Vec::with_capacity(entities.new.len());
        for (index, entity) in entities.numbered() {
            let field = entities.field(index);
            self.pose(&field, "at", &entity.pose());
            for name in &entity.features.kinds {
                self.kind(name, &field.key("kind"));
            }
            let named = kinds.of(entity);
            let line = kinds.line(&named);
            if line.len() > MAX_KINDS {
                let name = entity.name.clone();
                self.error(field.key("kind"), Fault::TooManyKinds { name });
            }
            let parent =
                entity.parent.as_ref().and_then(|name| self.entity(name, &field.key("parent")));
            let before = self.errors.len();
            self.features(&entity.features, &field);
            let sound_line = line.iter().all(|kind| sound_kinds[kind.0 as usize]);
            let sound = self.errors.len() == before && sound_line;
            let own = entity.features.clone();
            let merged = match kinds.features(&named) {
                Some(given) => {
                    let first = entity.features.kinds.first().map(String::as_str);
                    self.own_slots(&entity.features, (first, &given), &field);
                    own.or(&given)
                }
                None => own,
            };
            let thing = self.thing(&merged, parent, (&field, sound));
            things.push(Thing { kinds: line, ..thing });
        }
        self.share_slots(entities, &mut things);
        things
    }

    /// Reports what is wrong with the features described here.
    fn features(&mut self, features: &Features, field: &Field) {
        for (index, tag) in features.tags.iter().enumerate() {
            self.name(tag, &field.key("tags").item(index));
        }
        self.check_children(features, field);
        let scale = features.scale.unwrap_or(1.0);
        self.range(field.key("scale"), scale, &range::SCALE);
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
        let owner = Owner { features, scale, is_whole: false };
        self.senses(owner, &Admission::default(), field);
        self.check_numbers(features, field);
        self.check_slots(features, field);
        self.check_motion(features, field);
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
        let owner = Owner { features, scale, is_whole: true };
        let senses = self.senses(owner, &admission, &nowhere);
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
        let body = features.body.as_ref().map(|body| BodySpec {
            parts: self.body(body, scale, &nowhere),
            blocks: body.blocks || (features.carry.is_some() && body.walk.is_none()),
        });
        let walks = features.body.as_ref().filter(|body| body.walk.is_some());
        let legs = walks.map(|body| body.legs);
        let carry = features.carry.as_deref();
        let moves = legs.is_some() || carry.is_some();
        let mover = body.as_ref().filter(|_| moves).map(|body| Mover::of(body, legs, carry));
        let route = features.route.as_ref().and_then(|route| self.route(route, &nowhere));
        let spawner = features.spawner.as_ref().and_then(|it| self.spawner(it, &nowhere));
        let ownership = features.ownership.as_ref().and_then(|it| self.ownership(it, &nowhere));
        if carry.is_some() && body.is_none() {
            self.error(nowhere.clone(), Fault::NothingThere { detector: Detector::Carry });
        }
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
            kinds: Box::default(),
            tags: tags.into(),
            zone,
            body,
            solid,
            senses,
            stats: self.stats_of(features),
            slots: self.slots_of(features),
            slot_sorts: self.slot_sorts(features),
            pickup: features.pickup.clone(),
            carry: features.carry.clone(),
            ownership,
            route,
            spawner,
            stocked: false,
            bearer: None,
            player: features.player.unwrap_or(false),
            highlight: features.highlight.unwrap_or(false),
            mover: mover.map(Box::new),
            enabled: features.enabled.unwrap_or(true),
            visible: features.visible.unwrap_or(true),
        }
    }
}
