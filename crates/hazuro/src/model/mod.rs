//! What a play reads: a scene with every name looked up and every number checked. It never changes while a
//! step runs; between two, a play may let it grow.

mod admission;
mod apart;
mod conversion;
pub(crate) mod door;
mod features;
mod girth;
mod group;
mod key;
mod kinds;
mod listeners;
mod lookup;
mod names;
mod senses;
mod thing;
mod walkers;

use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::sync::Arc;

use crate::describe::{
    Action, Allowance, Among, Detector, Effect, EffectId, Entity, EntityId, Fault, Floor, Kind,
    KindId, LayerNames, Named, Numbering, Reaction, ReactionId, SceneBuilder, SlotId, StatId,
    TagId, Text, nearest,
};
use crate::fast_hash::FastMap;
use crate::geometry::Pose;

pub(crate) use admission::Admission;
pub(crate) use apart::{Kinship, are_apart};
pub(crate) use conversion::{Conversion, Converted};
pub(crate) use door::{Faults, Names};
pub(crate) use group::{Group, Prospects, Subjects};
pub use key::EntityKey;
pub(crate) use listeners::{Call, Hearers, Listener, Listeners, Meant, Replaced, Wanted};
pub(crate) use names::{EffectSpec, LegStats, NameList};
pub(crate) use senses::{CameraSpec, LimitsSpec, Senses, eyes};
pub(crate) use thing::{
    BodySpec, Kin, KindSpec, Mover, OwnershipSpec, PlacedPart, Region, Role, RouteSpec, SolidSpec,
    SpawnerSpec, TargetRef, Thing, Wire, ZoneSpec,
};

/// A scene: everything there is before anything moves. Checked, and changed by nobody but a play that [adds](crate::Play::add) to it.
///
/// ```
/// use hazuro::{Scene, geometry::Shape, scene::{Action, Admit, Body, Entity, Reaction, Trigger, Zone}};
/// let scene = Scene::builder("Tide mill")
///     .entity(
///         Entity::new("miller")
///             .tags(["player"])
///             .at([0.0, 0.0, 8.0])
///             .body(Body::new(Shape::Capsule { radius: 0.3, height: 1.8 }).walk(3.0)),
///     )
///     .entity(
///         Entity::new("sluice_pad")
///             .zone(Zone::new(Shape::Box { size: [4.0, 2.0, 4.0] }))
///             .admit(Admit::tags(["player"])),
///     )
///     .reaction(Reaction::on(Trigger::enter("sluice_pad")).then(Action::add("visits", 1)))
///     .build()?;
/// let miller = scene.find("miller").unwrap();
/// assert_eq!(scene.name(miller), "miller");
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
#[derive(Clone, Debug)]
pub struct Scene {
    pub(crate) name: String,
    pub(crate) rate: u32,
    pub(crate) seed: u64,
    pub(crate) kinds: Vec<Kind>,
    /// Of each kind, what it gives with all that it builds on.
    pub(crate) kind_specs: Arc<[KindSpec]>,
    pub(crate) entities: Vec<Entity>,
    /// How many of the entities are described; the next are stock.
    pub(crate) described: usize,
    /// How many there were before any were added.
    pub(crate) built: usize,
    /// Of each kind, its stock, in order.
    pub(crate) stocks: Vec<Vec<EntityId>>,
    pub(crate) reactions: Vec<Reaction>,
    pub(crate) effects: Vec<Effect>,
    pub(crate) texts: BTreeMap<String, Text>,
    pub(crate) language: String,
    pub(crate) counts: BTreeMap<String, i64>,
    pub(crate) flags: BTreeMap<String, bool>,
    pub(crate) scripts: Vec<String>,
    // Looked up:
    pub(crate) numbering: Numbering,
    /// Shared with those who look names up while it is played.
    pub(crate) ids: Arc<HashMap<String, EntityId>>,
    pub(crate) tags: Vec<String>,
    pub(crate) given_tags: BTreeSet<TagId>,
    /// Those that the rule of a detector names.
    pub(crate) ruling_tags: BTreeSet<TagId>,
    pub(crate) stats: NameList<StatId>,
    pub(crate) effect_ids: NameList<EffectId>,
    pub(crate) slot_ids: NameList<SlotId>,
    pub(crate) leg_stats: LegStats,
    pub(crate) effect_specs: Vec<EffectSpec>,
    pub(crate) layers: LayerNames,
    pub(crate) things: Vec<Thing>,
    /// The parents of the things and whether they have children, side by side: asked most often.
    pub(crate) kin: Vec<Kin>,
    /// What has been converted, and to what: things are as converted.
    pub(crate) conversions: BTreeMap<EntityId, Conversion>,
    pub(crate) attached_solids: BTreeMap<EntityId, Vec<EntityId>>,
    pub(crate) conditional: Vec<EntityId>,
    pub(crate) gravity: f64,
    pub(crate) floor: Floor,
    pub(crate) allowances: Vec<Allowance>,
    /// The level ground below everything, if there is one: how high it lies.
    pub(crate) floor_height: Option<f64>,
    pub(crate) has_movers: bool,
    pub(crate) has_blocking_bodies: bool,
    pub(crate) widest_prompt: f64,
    pub(crate) has_pointers: bool,
    pub(crate) wires: Vec<Wire>,
    pub(crate) listeners: Listeners<ReactionId>,
    pub(crate) enders: Listeners<(ReactionId, bool)>,
    /// See [`Scene::mark`].
    pub(crate) mark: u64,
    /// The marks it had before it grew, and how many entities it had then.
    pub(crate) former: FastMap<u64, usize>,
}

/// Two scenes are equal if they are described alike.
impl PartialEq for Scene {
    fn eq(&self, other: &Self) -> bool {
        self.name == other.name
            && (self.rate, self.seed) == (other.rate, other.seed)
            && self.kinds == other.kinds
            && self.entities == other.entities
            && self.reactions == other.reactions
            && self.effects == other.effects
            && (&self.texts, &self.language) == (&other.texts, &other.language)
            && (&self.counts, &self.flags) == (&other.counts, &other.flags)
            && (self.gravity, self.floor) == (other.gravity, other.floor)
            && (&self.scripts, &self.allowances) == (&other.scripts, &other.allowances)
    }
}

impl Scene {
    /// Starts the description of a scene of this title.
    pub fn builder(title: impl Into<String>) -> SceneBuilder {
        SceneBuilder::new(title)
    }

    /// The scene's title.
    pub fn title(&self) -> &str {
        &self.name
    }

    /// Ticks a second.
    pub fn rate(&self) -> u32 {
        self.rate
    }

    /// The number that all chance in a play comes from.
    pub fn seed(&self) -> u64 {
        self.seed
    }

    /// The acceleration of what falls, in metres per second squared.
    pub fn gravity(&self) -> f64 {
        self.gravity
    }

    /// The level ground below everything, as described.
    pub fn floor(&self) -> Floor {
        self.floor
    }

    /// How high the level ground below everything lies, if there is one.
    pub fn floor_height(&self) -> Option<f64> {
        self.floor_height
    }

    /// How many entities there are.
    pub fn len(&self) -> usize {
        self.entities.len()
    }

    /// Whether there is no entity.
    pub fn is_empty(&self) -> bool {
        self.entities.is_empty()
    }

    /// All entities, in order.
    pub fn ids(&self) -> impl Iterator<Item = EntityId> + use<> {
        self.numbering.entities(self.entities.len())
    }

    /// The entity of this name.
    pub fn find(&self, name: &str) -> Option<EntityId> {
        self.ids.get(name).copied()
    }

    /// The entity of this name or number.
    ///
    /// # Errors
    /// If there is none; the error has the nearest name that exists.
    pub fn entity_id(&self, key: impl EntityKey) -> Result<EntityId, Fault> {
        key.find_in(self).ok_or_else(|| key.fault(self))
    }

    /// The entity's name.
    pub fn name(&self, entity: EntityId) -> &str {
        &self.entities[entity.index()].name
    }

    /// The entity as described.
    pub fn entity(&self, entity: EntityId) -> &Entity {
        &self.entities[entity.index()]
    }

    /// Where an entity is in the world to begin with.
    pub fn pose(&self, entity: EntityId) -> Pose {
        let mut lineage = self.lineage(entity).map(|entity| self.entity(entity).pose());
        let own = lineage.next().unwrap_or(Pose::IDENTITY);
        lineage.fold(own, |pose, ancestor| ancestor * pose)
    }

    /// All kinds as described, in order.
    pub fn kinds(&self) -> &[Kind] {
        &self.kinds
    }

    /// All reactions as described, in order.
    pub fn reactions(&self) -> &[Reaction] {
        &self.reactions
    }

    /// A reaction as described.
    pub fn reaction(&self, reaction: ReactionId) -> &Reaction {
        &self.reactions[reaction.index()]
    }

    /// All texts by key.
    pub fn texts(&self) -> &BTreeMap<String, Text> {
        &self.texts
    }

    /// The names of the scripts whose functions it calls.
    pub fn scripts(&self) -> &[String] {
        &self.scripts
    }

    /// The language of texts that name none.
    pub fn language(&self) -> &str {
        &self.language
    }

    /// The text of a key in a language; none if there is no such text, or not in it.
    pub fn text(&self, key: &str, language: &str) -> Option<&str> {
        let text = self.texts.get(key)?;
        let own = || text.in_language("").filter(|_| language == self.language);
        text.in_language(language).or_else(own)
    }

    /// All effects as described, by name.
    pub fn effects(&self) -> &[Effect] {
        &self.effects
    }

    /// The counts that do not start at 0, by name.
    pub fn counts(&self) -> &BTreeMap<String, i64> {
        &self.counts
    }

    /// The entities that are described, in order, but not those of a stock.
    pub fn described(&self) -> impl Iterator<Item = EntityId> {
        let added = self.ids().skip(self.built);
        let added = added.filter(|entity| self.lineage(*entity).all(|it| !self.thing(it).stocked));
        self.numbering.entities(self.described).chain(added)
    }

    /// Whether an entity was added while the scene was played.
    pub(crate) fn was_added(&self, entity: EntityId) -> bool {
        entity.index() >= self.built && !self.thing(entity).stocked
    }

    /// The names of an entity's tags, its kind's included.
    pub fn tags_of(&self, entity: EntityId) -> impl Iterator<Item = &str> {
        self.thing(entity).tags.iter().map(|tag| self.tags[tag.0 as usize].as_str())
    }

    /// An entity's parent.
    pub fn parent(&self, entity: EntityId) -> Option<EntityId> {
        self.kin[entity.index()].parent
    }

    /// An entity and its ancestors, from itself upwards.
    pub fn lineage(&self, entity: EntityId) -> impl Iterator<Item = EntityId> {
        std::iter::successors(Some(entity), |entity| self.parent(*entity))
    }

    /// An entity and all its descendants, parents before children.
    pub fn family(&self, entity: EntityId) -> impl Iterator<Item = EntityId> {
        let mut waiting = vec![entity];
        std::iter::from_fn(move || {
            let next = waiting.pop()?;
            waiting.extend(self.thing(next).children.iter().rev());
            Some(next)
        })
    }

    /// Whether the entity has no children.
    pub(crate) fn is_childless(&self, entity: EntityId) -> bool {
        self.kin[entity.index()].childless
    }

    /// Whether the entity has a zone, its own or its kind's.
    pub fn has_zone(&self, entity: EntityId) -> bool {
        self.thing(entity).zone.is_some()
    }

    /// Whether the entity has a detector of this sort, its own or its kind's.
    pub fn has(&self, entity: EntityId, detector: Detector) -> bool {
        self.thing(entity).has(detector)
    }

    /// Whether the entity has any detector.
    pub(crate) fn detects(&self, entity: EntityId) -> bool {
        let has = |sort: &Detector| sort.opens().is_some() && self.has(entity, *sort);
        Detector::ALL.iter().any(has)
    }

    /// What of a kind is, or was, in stock, in order.
    pub(crate) fn stock(&self, kind: KindId) -> impl Iterator<Item = EntityId> {
        self.stocks[kind.0 as usize].iter().copied()
    }

    /// Whether anything is ever a secret, see [`Ownership::secret`](crate::scene::Ownership::secret).
    pub fn has_secrets(&self) -> bool {
        self.ids().any(|id| self.is_secret(id))
    }

    /// Whether the entity is a secret of its owner, see [`Ownership::secret`](crate::scene::Ownership::secret);
    /// what is below it is kept with it.
    pub fn is_secret(&self, entity: EntityId) -> bool {
        self.thing(entity).ownership.as_ref().is_some_and(|spec| spec.secret)
    }

    /// Whether the entity is a player, by itself or by its kind.
    pub fn is_player(&self, entity: EntityId) -> bool {
        self.thing(entity).player
    }

    /// Whose body an entity is a part of: its own or that of its nearest ancestor with one. None
    /// for a loose thing.
    pub fn bearer(&self, entity: EntityId) -> Option<EntityId> {
        self.thing(entity).bearer
    }

    /// Whether the entity has a body, its own or its kind's.
    pub fn has_body(&self, entity: EntityId) -> bool {
        self.thing(entity).body.is_some()
    }

    /// Whether the entity is solid, by itself or by its kind.
    pub fn is_solid(&self, entity: EntityId) -> bool {
        self.thing(entity).solid.is_some()
    }

    /// Whether the entity is of one of these sorts.
    pub fn is_among(&self, entity: EntityId, sorts: Among) -> bool {
        (sorts.solids && self.is_solid(entity))
            || (sorts.bodies && self.has_body(entity))
            || (sorts.zones && self.has_zone(entity))
    }

    /// Whether the entity's own switch is on to begin with.
    pub fn starts_enabled(&self, entity: EntityId) -> bool {
        self.thing(entity).enabled
    }

    /// Whether the rule of an entity's detectors admits a subject with the tags it has to begin
    /// with, whatever its condition. Without a detector, nobody.
    pub fn admits(&self, on: EntityId, subject: EntityId) -> bool {
        self.admission(on)
            .is_some_and(|rule| rule.refusal(self, (subject, &self.thing(subject).tags)).is_none())
    }

    /// Whether the rule of an entity's detectors admits a subject, or may do so once it has been
    /// given tags in the play.
    pub fn may_admit(&self, on: EntityId, subject: EntityId) -> bool {
        let own = &self.thing(subject).tags;
        let tags: Vec<TagId> = own.iter().copied().chain(self.given_tags.iter().copied()).collect();
        let rule = self.admission(on);
        rule.is_some_and(|rule| rule.refusal(self, (subject, &tags)).is_none())
            || self.admits(on, subject)
    }

    /// The name of a body's part.
    pub fn part_name(&self, body: EntityId, part: usize) -> Option<&str> {
        let parts = &self.thing(body).body.as_ref()?.parts;
        match part.checked_sub(parts.len()) {
            None => Some(parts[part].name.as_str()),
            // A solid that belongs to it.
            Some(limb) => self.attached_solids(body).get(limb).map(|limb| self.name(*limb)),
        }
    }

    pub(crate) fn thing(&self, entity: EntityId) -> &Thing {
        &self.things[entity.index()]
    }

    /// The rule on who may set off the detectors of an entity, if there is one.
    pub(crate) fn admission(&self, entity: EntityId) -> Option<&Admission> {
        let thing = self.thing(entity);
        let senses = thing.senses.as_ref().map(|senses| &senses.admission);
        senses.or_else(|| thing.zone.as_ref().map(|zone| &zone.admission))
    }

    /// How often the detectors of an entity may act.
    pub(crate) fn limits(&self, entity: EntityId) -> LimitsSpec {
        self.thing(entity).senses.as_ref().map_or(LimitsSpec::default(), |senses| senses.limits)
    }

    /// The solids that belong to a body, in order: its own and those below it that belong to no
    /// other.
    pub(crate) fn attached_solids(&self, body: EntityId) -> &[EntityId] {
        self.attached_solids.get(&body).map_or(&[], Vec::as_slice)
    }

    /// How far away the farthest-reaching prompt may be used, in metres; 0 if there is none.
    pub(crate) fn widest_prompt(&self) -> f64 {
        self.widest_prompt
    }

    /// Whether anything can be pointed at.
    pub(crate) fn has_pointers(&self) -> bool {
        self.has_pointers
    }

    /// By what a player is asked for prompts and pointers.
    pub(crate) fn reaches(&self) -> (f64, bool) {
        (self.widest_prompt, self.has_pointers)
    }

    /// Those whose detectors admit on a condition.
    pub(crate) fn conditional(&self) -> &[EntityId] {
        &self.conditional
    }

    pub(crate) fn wire(&self, reaction: ReactionId) -> &Wire {
        &self.wires[reaction.index()]
    }

    /// The reactions to an event, in order, and those that others replace.
    pub(crate) fn listening(
        &self,
        call: &Call<'_>,
        met: &dyn Fn(Wanted) -> bool,
    ) -> (Hearers<ReactionId>, Replaced<ReactionId>) {
        let mut all = self.listeners.to(call, met);
        let replaced = self.listeners.settle(&mut all, met);
        (all, replaced)
    }

    /// What is wrong with an action of a reaction of this scene: names that the scene does not
    /// have, numbers out of range. `who` and `on` may stand in it.
    pub fn faults_of(&self, action: &Action) -> Vec<Fault> {
        let role =
            |word: &'static str| Ok(if word == "on" { TargetRef::On } else { TargetRef::Who });
        let (_, faults) = door::enter(action, self, role);
        faults.into_iter().map(|(_, fault)| fault).collect()
    }

    /// The reactions that an event ends, and whether only those to the same detector.
    pub(crate) fn ending(
        &self,
        call: &Call<'_>,
        met: &dyn Fn(Wanted) -> bool,
    ) -> Hearers<(ReactionId, bool)> {
        self.enders.to(call, met)
    }

    /// A number that tells whether two scenes number the same things in the same way, so that a
    /// state of the one means the same in the other.
    pub(crate) fn mark(&self) -> u64 {
        self.mark
    }

    /// Whether a state of this mark is one that a play of this scene had, maybe before the scene grew.
    pub(crate) fn has_had(&self, mark: u64) -> bool {
        mark == self.mark || self.former.contains_key(&mark)
    }

    pub(crate) fn unknown_entity(&self, name: String) -> Fault {
        let nearest = nearest(&name, self.entities.iter().map(Entity::name));
        Fault::Unknown { what: Named::Entity, name, nearest }
    }
}
