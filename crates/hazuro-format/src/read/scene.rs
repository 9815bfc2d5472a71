//! From the structure of a scene file to a scene.

use std::collections::BTreeMap;
use std::path::Path;

use hazuro::Scene;
use hazuro::scene::{
    Field, Floor, Reaction, SceneBuilder, SceneError, SlotSort, Text, Trigger, WALK,
};

use crate::access::{FileAccess, folder_of};
use crate::code::Code;
use crate::entity::{ChildKeys, NamedHere, Shared};
use crate::finding::Finding;
use crate::keys::one_or_many::{OneOrMany, TextKeys};
use crate::keys::scene::{FloorKeys, SceneKeys};
use crate::language::{Known, Language, NoLanguage};
use crate::number::EffectKeys;
use crate::parse::parse;
use crate::read::reader::Reader;
use crate::source::Source;

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
        let help = finding.help().filter(|_| finding.code() == Code::Outside);
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
            builder = builder.kind(kind.read(name, self, &field));
            builder = allowed(builder, &field, &kind.allow);
            builder = allowed_below(builder, &field, &kind.children);
        }
        for (index, entity) in keys.entity.iter().enumerate() {
            let field = Field::ROOT.key("entity").item(index);
            builder = builder.entity(entity.read(self, &field));
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
