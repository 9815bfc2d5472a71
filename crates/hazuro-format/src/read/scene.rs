//! From the structure of a scene file to a scene.

use std::collections::BTreeMap;
use std::path::Path;

use hazuro::Scene;
use hazuro::scene::{
    Admit, Body, Entity, Field, Floor, Kind, Legs, Part, Prompt, Reaction, SceneBuilder,
    SceneError, Slot, SlotSort, Text, Trigger, WALK, Zone,
};

use crate::access::{FileAccess, folder_of};
use crate::finding::Finding;
use crate::keys::one_or_many::{Names, OneOrMany, TextKeys};
use crate::keys::scene::{
    AdmitKeys, BodyKeys, ChildKeys, EntityKeys, FloorKeys, KindKeys, NamedHere, PartKeys,
    SceneKeys, Shared,
};
use crate::language::{Known, Language, NoLanguage};
use crate::number::EffectKeys;
use crate::parse::parse;
use crate::read::reader::Reader;
use crate::source::Source;
use crate::table::Table;

/// Gives a kind or an entity what these tables describe.
macro_rules! apply_tables {
    ($reader:ident, $owner:ident, $keys:ident, $field:ident: $($key:ident),*) => {
        $(if let Some(keys) = &$keys.$key
            && let Some(described) = Table::read(keys, $reader, &$field.key(stringify!($key)))
        {
            $owner = $owner.$key(described);
        })*
    };
}

/// Gives a kind, an entity or a child the features that its table lists.
macro_rules! apply_features {
    ($reader:ident, $owner:ident, $keys:ident, $field:ident, [$($key:ident)*]) => {
        if let Some(enabled) = $keys.enabled {
            $owner = $owner.enabled(enabled);
        }
        if let Some(visible) = $keys.visible {
            $owner = $owner.visible(visible);
        }
        if let Some(scale) = $keys.scale {
            $owner = $owner.scale(scale);
        }
        for kind in $keys.kind.iter().flat_map(Names::all) {
            $owner = $owner.kind(kind);
        }
        for (name, child) in &$keys.children {
            let field = $field.key("children").key(name);
            $owner = $owner.child($reader.child(name, child, &field));
        }
        $owner = $owner.layers($keys.layers.clone());
        if let Some(zone) = &$keys.zone {
            if let Some(shape) = $reader.shape(zone.given(), &$field.key("zone")) {
                let described = Zone::new(shape);
                $owner = $owner.zone(match zone.inside_every {
                    Some(seconds) => described.inside_every(seconds),
                    None => described,
                });
            }
        }
        if let Some(rule) = &$keys.admit {
            let rule = $reader.admit(rule, &$field.key("admit"));
            $owner = $owner.admit(rule);
        }
        if let Some(solid) = &$keys.solid {
            if let Some(shape) = $reader.shape(solid.given(), &$field.key("solid")) {
                $owner = $owner.solid(shape);
            }
        }
        if let Some(body) = &$keys.body {
            if let Some(body) = $reader.body(body, &$field.key("body")) {
                $owner = $owner.body(body);
            }
        }
        apply_tables!($reader, $owner, $keys, $field: $($key),*);
        if let Some(keys) = &$keys.interact
            && let Some(prompt) = Prompt::read(keys, $reader, &$field.key("interact"))
        {
            $owner = $owner.prompt(Prompt { quiet: true, ..prompt });
        }
        let cooldown = ($keys.cooldown, $keys.cooldown_shared);
        if let Some(limits) = $reader.limits(cooldown, ($keys.once, $keys.limit), $field) {
            $owner = $owner.limits(limits);
        }
        if let Some(player) = $keys.player {
            $owner = $owner.player(player);
        }
        if let Some(highlight) = $keys.highlight {
            $owner = $owner.highlight(highlight);
        }
        for (name, stat) in &$keys.stats {
            let field = $field.key("stats").key(name);
            if let Some(stat) = Table::read(stat, $reader, &field) {
                $owner = $owner.stat(name, stat);
            }
        }
        for (name, keys) in &$keys.slots {
            match $reader.slot(keys, &$field.key("slots").key(name)) {
                Some(Slot::Filled(value)) => $owner = $owner.slot(name, value),
                Some(Slot::Needed(sort)) => $owner = $owner.needs_slot(name, sort),
                None => {}
            }
        }
        apply_tables!($reader, $owner, $keys, $field: camera, carry, ownership, route, spawner, pickup);
        if $keys.prompt.is_some() && $keys.interact.is_some() {
            let help = "keep `prompt` if players shall be shown that they can use it";
            let message = "`prompt` and `interact` are two ways to use the same thing";
            $reader.error(&$field.key("interact"), "two-prompts", message, help);
        }
    };
}

/// Reads a scene without conditions and scripts.
///
/// ```
/// use hazuro_format::{Source, read_scene};
/// let scene = read_scene(&Source::new("yard.toml", "[[entity]]\nname = \"gate\"\n")).unwrap();
/// assert_eq!(scene.len(), 1);
/// let source = Source::new("yard.toml", "[[reaction]]\non = { cue = \"a\" }\nif = \"true\"\ndo = []\n");
/// assert_eq!(read_scene(&source).unwrap_err()[0].place().as_deref(), Some("yard.toml:3:7"));
/// ```
///
/// # Errors
/// Everything that is wrong with it, in the order of the text, each condition and script among it: at
/// least one finding, all of severity error.
pub fn read_scene(source: &Source) -> Result<Scene, Vec<Finding>> {
    let folder = folder_of(Path::new(source.name()));
    let file = |path: &Path| FileAccess::default().read(folder, path);
    read_scene_with(source, &mut NoLanguage, &file)
}

/// Reads a scene whose conditions and scripts are in this language; `file` reads a script from its path.
///
/// # Errors
/// Everything that is wrong with them, the scripts first: at least one finding, all of severity
/// error.
pub fn read_scene_with(
    source: &Source,
    language: &mut dyn Language,
    file: &dyn Fn(&Path) -> Result<Source, Finding>,
) -> Result<Scene, Vec<Finding>> {
    let keys: SceneKeys = parse(source).map_err(|finding| vec![finding])?;
    let folder = folder_of(Path::new(source.name()));
    let read = keys.scene.scripts.iter().map(|name| file(&folder.join(name)));
    let (mut scripts, mut unread) = (Vec::new(), Vec::new());
    for (index, script) in read.enumerate() {
        match script {
            Ok(script) => scripts.push(script),
            Err(finding) => unread.push((index, finding)),
        }
    }
    let provided = language.scripts(scripts)?;
    let mut known = known(&keys);
    known.counts.extend(provided.counts.iter().cloned());
    known.flags.extend(provided.flags.iter().cloned());
    let mut reader = Reader::new(source, &*language, known, provided);
    for (index, finding) in unread {
        let field = Field::ROOT.key("scene").key("scripts").item(index);
        let usual = "`scripts` are paths from the folder of the scene";
        let help = finding.help().filter(|_| finding.code() == "outside");
        reader.error(&field, finding.code(), finding.message(), help.unwrap_or(usual));
    }
    let scene = reader.scene(&keys).build();
    for SceneError { field, fault } in scene.as_ref().err().into_iter().flatten() {
        reader.fault(field, fault);
    }
    let mut findings = reader.findings;
    match scene {
        Ok(scene) if findings.is_empty() => {
            language.complete(&scene)?;
            Ok(scene)
        }
        _ => {
            findings.sort_by_key(Finding::start);
            Err(findings)
        }
    }
}

/// The counts, flags, stats and slots that a scene file names.
fn known(keys: &SceneKeys) -> Known {
    let mut known = Known::default();
    known.counts.extend(keys.scene.counts.keys().cloned());
    known.flags.extend(keys.scene.flags.keys().cloned());
    let done = keys.reaction.iter().flat_map(|reaction| {
        let done = reaction.actions.iter().flat_map(OneOrMany::all);
        done.chain(&reaction.otherwise)
    });
    for action in done {
        known.counts.extend(action.count.clone());
        known.flags.extend(action.flag.clone());
        if let Some(grant) = &action.grant {
            known.counts.extend(grant.counts.keys().chain(grant.own_counts.keys()).cloned());
            known.flags.extend(grant.flags.iter().cloned());
        }
    }
    let mut named = Vec::new();
    keys.kind.values().for_each(|kind| kind.all_named(&mut named));
    keys.entity.iter().for_each(|entity| entity.all_named(&mut named));
    let kinds = keys.kind.values().map(Shared::children);
    for children in kinds.chain(keys.entity.iter().map(Shared::children)) {
        name_children(&mut known, children);
    }
    // What walks has the stats of legs, if an effect changes them.
    known.stats.extend(keys.effect.values().flat_map(EffectKeys::stat_names).cloned());
    for NamedHere { stats, slots, pickup, body } in named {
        for (name, slot) in slots {
            if let Some(sort) = slot.sort() {
                known.name_slot(name, sort);
            }
        }
        known.stats.extend(stats.keys().cloned());
        if body.is_some_and(|body| body.walk.is_some()) {
            known.stats.insert(WALK.into());
        }
        if let Some(pickup) = pickup {
            let counts = pickup.counts.iter().chain(&pickup.own_counts).flatten();
            known.counts.extend(counts.map(|(name, _)| name.clone()));
            known.flags.extend(pickup.flags.iter().flatten().cloned());
        }
    }
    known
}

/// A child is in the slot of its name, and its parent in its slot `parent`.
fn name_children(known: &mut Known, children: &BTreeMap<String, ChildKeys>) {
    for (name, child) in children {
        known.name_slot(name, SlotSort::Entity);
        known.name_slot("parent", SlotSort::Entity);
        name_children(known, &child.children);
    }
}

impl Reader<'_> {
    fn scene(&mut self, keys: &SceneKeys) -> SceneBuilder {
        let head = &keys.scene;
        let mut builder = Scene::builder(head.name.clone().unwrap_or_else(|| "Untitled".into()));
        if let Some(rate) = head.rate {
            builder = builder.rate(rate);
        }
        if let Some(seed) = head.seed {
            builder = builder.seed(seed);
        }
        if let Some(gravity) = head.gravity {
            builder = builder.gravity(gravity);
        }
        builder = match head.floor {
            None | Some(FloorKeys::There(true)) => builder,
            Some(FloorKeys::There(false)) => builder.floor(Floor::Missing),
            Some(FloorKeys::Height(height)) => builder.floor(Floor::At(height)),
        };
        // What a script changes is there from the start.
        for name in &self.provided.counts {
            builder = builder.count(name, 0);
        }
        for name in &self.provided.flags {
            builder = builder.flag(name, false);
        }
        for (name, value) in &head.counts {
            builder = builder.count(name, *value);
        }
        builder = head.scripts.iter().fold(builder, SceneBuilder::script);
        for (name, up) in &head.flags {
            builder = builder.flag(name, *up);
        }
        if let Some(language) = &head.language {
            builder = builder.language(language);
        }
        for (key, text) in &keys.texts {
            builder = builder.text(
                key,
                match text {
                    TextKeys::Plain(text) => Text::from(text.as_str()),
                    TextKeys::ByLanguage(all) => all
                        .iter()
                        .fold(Text::default(), |text, (language, it)| text.and(language, it)),
                },
            );
        }
        builder = allowed(builder, &Field::ROOT, &head.allow);
        for (name, effect) in &keys.effect {
            let field = Field::ROOT.key("effect").key(name);
            builder = builder.effect(effect.read(name, self, &field));
        }
        for (name, kind) in &keys.kind {
            let field = Field::ROOT.key("kind").key(name);
            builder = builder.kind(self.kind(name, kind, &field));
            builder = allowed(builder, &field, &kind.allow);
            builder = allowed_below(builder, &field, &kind.children);
        }
        for (index, entity) in keys.entity.iter().enumerate() {
            let field = Field::ROOT.key("entity").item(index);
            builder = builder.entity(self.entity(entity, &field));
            builder = allowed(builder, &field, &entity.allow);
            builder = allowed_below(builder, &field, &entity.children);
        }
        for (index, reaction) in keys.reaction.iter().enumerate() {
            let field = Field::ROOT.key("reaction").item(index);
            builder = allowed(builder, &field, &reaction.allow);
            if let Some(reaction) = self.reaction(reaction, &field) {
                builder = builder.reaction(reaction);
            } else {
                // Keeps the numbers of the reactions after it in step with the file.
                builder = builder.reaction(Reaction::on(Trigger::Start));
            }
        }
        builder
    }

    fn body(&mut self, keys: &BodyKeys, field: &Field) -> Option<Body> {
        let body = match &keys.parts {
            Some(parts) => {
                if keys.any.is_some() || keys.given().simple().next().is_some() {
                    let message = "a body has either one shape or parts";
                    self.error(
                        &field.key("parts"),
                        "one-shape",
                        message,
                        "make the shape a part too",
                    );
                }
                let parts: Vec<Part> = parts
                    .iter()
                    .enumerate()
                    .filter_map(|(index, part)| self.part(part, &field.key("parts").item(index)))
                    .collect();
                Body::of_parts(parts)
            }
            None => Body::new(self.shape(keys.given(), field)?),
        };
        if keys.walk.is_none() {
            let legs =
                [("jump", keys.jump), ("step", keys.step), ("slope", keys.slope)].into_iter();
            for (key, _) in legs.filter(|(_, value)| value.is_some()) {
                let message = format!("`{key}` is for who walks");
                let help = "add walk = speed, in metres a second";
                self.error(&field.key(key), "no-partner", &message, help);
            }
        }
        let body = body.legs(legs(keys)).blocks(keys.blocks.unwrap_or(false));
        Some(match keys.walk {
            Some(speed) => body.walk(speed),
            None => body,
        })
    }

    fn part(&mut self, keys: &PartKeys, field: &Field) -> Option<Part> {
        let Some(name) = &keys.name else {
            self.error(field, "missing-key", "the key `name` is missing here", "add `name = ...`");
            return None;
        };
        let shape = self.shape(keys.given(), field)?;
        let pose = self.pose((keys.at, keys.turn, keys.rotation), field);
        Some(Part::new(name, shape).at(pose))
    }

    fn admit(&mut self, keys: &AdmitKeys, field: &Field) -> Admit {
        let rule = |tags: &[String], kinds: &[String], names: &[String], layers: &[String]| {
            Admit::tags(tags).and_kinds(kinds).and_names(names).and_layers(layers)
        };
        let mut admitted = rule(&keys.tags, &keys.kinds, &keys.names, &keys.layers);
        if keys.players == Some(true) {
            admitted = admitted.players();
        }
        if let Some(condition) = self.admission(keys.condition.as_ref(), &field.key("if")) {
            admitted = admitted.when(condition);
        }
        match &keys.not {
            Some(not) => admitted.not(rule(&not.tags, &not.kinds, &not.names, &not.layers)),
            None => admitted,
        }
    }
}

/// Allows findings at a field: by code, why.
fn allowed(builder: SceneBuilder, field: &Field, all: &BTreeMap<String, String>) -> SceneBuilder {
    all.iter().fold(builder, |it, (finding, why)| it.allow(field.clone(), finding, why))
}

/// As [`allowed`], at the children of what is described at a field.
fn allowed_below(
    builder: SceneBuilder,
    field: &Field,
    children: &BTreeMap<String, ChildKeys>,
) -> SceneBuilder {
    children.iter().fold(builder, |builder, (name, child)| {
        let field = field.key("children").key(name);
        allowed_below(allowed(builder, &field, &child.allow), &field, &child.children)
    })
}

/// The legs that a body's keys describe.
fn legs(keys: &BodyKeys) -> Legs {
    let usual = Legs::default();
    Legs {
        jump: keys.jump.unwrap_or(usual.jump),
        step: keys.step.unwrap_or(usual.step),
        slope: keys.slope.map_or(usual.slope, f64::to_radians),
    }
}

macro_rules! kinds_and_entities {
    ($($(#[$about:meta])* $name:ident $key:ident $of:ident $set:literal;)*) => {
        impl Reader<'_> {
            fn kind(&mut self, name: &str, keys: &KindKeys, field: &Field) -> Kind {
                let mut kind = Kind::new(name).tags(keys.tags.clone()).stock(keys.stock.unwrap_or(0));
                for whom in keys.taken.iter().flat_map(Names::all) {
                    kind = kind.for_all(whom.as_str());
                }
                apply_features!(self, kind, keys, field, [$($key)*]);
                kind
            }

            fn entity(&mut self, keys: &EntityKeys, field: &Field) -> Entity {
                let pose = self.pose_if((keys.at, keys.turn, keys.rotation), field);
                let mut entity = Entity::new(&keys.name).tags(keys.tags.clone());
                if let Some(pose) = pose {
                    entity = entity.at(pose);
                }
                if let Some(parent) = &keys.parent {
                    entity = entity.parent(parent);
                }
                apply_features!(self, entity, keys, field, [$($key)*]);
                entity
            }

            fn child(&mut self, name: &str, keys: &ChildKeys, field: &Field) -> Entity {
                let pose = self.pose_if((keys.at, keys.turn, keys.rotation), field);
                let mut child = Entity::new(name).tags(keys.tags.clone());
                if let Some(pose) = pose {
                    child = child.at(pose);
                }
                apply_features!(self, child, keys, field, [$($key)*]);
                child
            }
        }
    };
}

hazuro::for_each_detector!(kinds_and_entities);
