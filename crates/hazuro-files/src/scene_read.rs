//! From the structure of a scene file to a scene.

use std::cell::OnceCell;
use std::collections::BTreeMap;
use std::path::Path;

use hazuro::Scene;
use hazuro::geometry::{Pose, Posed, Shape};
use hazuro::glam::DQuat;
use hazuro::scene::{
    Admit, Body, Entity, Field, Floor, Kind, Part, Reaction, SceneBuilder, SceneError, Text,
    Trigger, Zone,
};

use crate::access::{FileAccess, folder_of};
use crate::condition;
use crate::condition::Known;
use crate::detector_read;
use crate::finding::{Finding, Severity};
use crate::motion_read;
use crate::number_read;
use crate::one_or_many::TextKeys;
use crate::parse::parse;
use crate::scene_file::{
    AdmitKeys, BodyKeys, EntityKeys, FloorKeys, KindKeys, PartKeys, SceneKeys,
};
use crate::script::{self, Script, Scripts};
use crate::shape_keys::Given;
use crate::source::Source;
use crate::spans::Spans;

/// Gives a kind or an entity the features that its table lists.
macro_rules! apply_features {
    ($reader:ident, $owner:ident, $keys:ident, $field:ident) => {
        if let Some(enabled) = $keys.enabled {
            $owner = $owner.enabled(enabled);
        }
        if let Some(visible) = $keys.visible {
            $owner = $owner.visible(visible);
        }
        if let Some(scale) = $keys.scale {
            $owner = $owner.scale(scale);
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
        if let Some(keys) = &$keys.touch {
            if let Some(told) = $reader.touch(keys, &$field.key("touch")) {
                $owner = $owner.touch(told);
            }
        }
        if let Some(keys) = &$keys.pointer {
            if let Some(told) = $reader.pointer(keys, &$field.key("pointer")) {
                $owner = $owner.pointer(told);
            }
        }
        if let Some(keys) = &$keys.prompt {
            $owner = $owner.prompt(detector_read::prompt(keys));
        }
        if let Some(keys) = &$keys.interact {
            $owner = $owner.prompt(detector_read::interact(keys));
        }
        if let Some(keys) = &$keys.probe {
            if let Some(told) = $reader.probe(keys, &$field.key("probe")) {
                $owner = $owner.probe(told);
            }
        }
        if let Some(keys) = &$keys.footing {
            $owner = $owner.footing(detector_read::footing(keys));
        }
        if let Some(keys) = &$keys.sight {
            $owner = $owner.sight(detector_read::sight(keys));
        }
        if let Some(keys) = &$keys.seeker {
            if let Some(told) = $reader.seeker(keys, &$field.key("seeker")) {
                $owner = $owner.seeker(told);
            }
        }
        if let Some(keys) = &$keys.camera {
            if let Some(told) = $reader.camera(keys, &$field.key("camera")) {
                $owner = $owner.camera(told);
            }
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
            $owner = $owner.stat(name, number_read::stat(stat));
        }
        if let Some(keys) = &$keys.carry {
            $owner = $owner.carry(motion_read::carry(keys));
        }
        if let Some(keys) = &$keys.route {
            if let Some(told) = $reader.route(keys, &$field.key("route")) {
                $owner = $owner.route(told);
            }
        }
        if let Some(keys) = &$keys.spawner {
            if let Some(told) = $reader.spawner(keys, &$field.key("spawner")) {
                $owner = $owner.spawner(told);
            }
        }
        if let Some(pickup) = &$keys.pickup {
            $owner = $owner.pickup(number_read::pickup(pickup));
        }
        if $keys.prompt.is_some() && $keys.interact.is_some() {
            let help = "keep `prompt` if players shall be shown that they can use it";
            let message = "`prompt` and `interact` are two ways to use the same thing";
            $reader.error(&$field.key("interact"), "two-prompts", message, help);
        }
    };
}

/// Reads a scene, and the scripts it names from their files.
///
/// # Errors
/// Everything that is wrong with it, in the order of the text: at least one finding, all of
/// severity error.
pub fn read_scene(source: &Source) -> Result<Scene, Vec<Finding>> {
    let folder = folder_of(Path::new(source.name()));
    let read = |path: &Path| FileAccess::default().read(folder, path);
    read_scene_with(source, &read).map(|(scene, _)| scene)
}

/// Reads a scene and the scripts it names, which `file` reads from their paths.
///
/// # Errors
/// Everything that is wrong with them, the scripts first: at least one finding, all of severity
/// error.
pub fn read_scene_with(
    source: &Source,
    file: &dyn Fn(&Path) -> Result<Source, Finding>,
) -> Result<(Scene, Scripts), Vec<Finding>> {
    let keys: SceneKeys = parse(source).map_err(|finding| vec![finding])?;
    let mut reader = Reader::new(source, &keys);
    let folder = folder_of(Path::new(source.name()));
    let mut texts = Vec::new();
    for (index, name) in keys.scene.scripts.iter().enumerate() {
        match file(&folder.join(name)) {
            Ok(text) => texts.push(text),
            Err(finding) => {
                let field = Field::ROOT.key("scene").key("scripts").item(index);
                let usual = "`scripts` are paths from the folder of the scene";
                let help = finding.help().filter(|_| finding.code() == "outside");
                reader.error(&field, finding.code(), finding.message(), help.unwrap_or(usual));
            }
        }
    }
    let scripts = script::parse(texts)?;
    reader.functions = scripts.iter().flat_map(Script::functions).collect();
    let builder = reader.scene(&keys);
    let scene = builder.build();
    if let Err(errors) = &scene {
        for SceneError { field, fault } in errors {
            let finding = reader.finding(field, fault.code(), fault.to_string());
            let finding = match fault.cure() {
                Some(cure) => finding.with_help(cure),
                None => finding,
            };
            reader.findings.push(finding);
        }
    }
    match scene {
        Ok(scene) if reader.findings.is_empty() => {
            let scripts = Scripts::of(scripts, &scene)?;
            Ok((scene, scripts))
        }
        _ => {
            reader.findings.sort_by_key(Finding::start);
            Err(reader.findings)
        }
    }
}

pub(crate) struct Reader<'a> {
    source: &'a Source,
    /// Taken apart only if there is something to point at.
    spans: OnceCell<Option<Spans>>,
    pub findings: Vec<Finding>,
    /// What conditions may name.
    pub known: Known,
    /// The functions that may be called.
    pub functions: Vec<String>,
}

impl<'a> Reader<'a> {
    fn new(source: &'a Source, keys: &SceneKeys) -> Self {
        let spans = OnceCell::new();
        let (known, functions) = (Known::of(keys), Vec::new());
        Self { source, spans, findings: Vec::new(), known, functions }
    }

    fn spans(&self) -> Option<&Spans> {
        self.spans.get_or_init(|| Spans::of(self.source)).as_ref()
    }

    pub(crate) fn finding(
        &self,
        field: &Field,
        code: &'static str,
        message: impl Into<String>,
    ) -> Finding {
        let span = self.spans().map_or(0..0, |spans| spans.find(field));
        Finding::new(Severity::Error, code, message).at(self.source, span)
    }

    pub(crate) fn error(&mut self, field: &Field, code: &'static str, message: &str, help: &str) {
        let finding = self.finding(field, code, message).with_help(help);
        self.findings.push(finding);
    }

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
        let allowed = |builder: SceneBuilder, field: Field, all: &BTreeMap<String, String>| {
            all.iter().fold(builder, |it, (finding, why)| it.allow(field.clone(), finding, why))
        };
        builder = allowed(builder, Field::ROOT, &head.allow);
        for (name, effect) in &keys.effect {
            let field = Field::ROOT.key("effect").key(name);
            builder = builder.effect(self.effect(name, effect, &field));
        }
        for (name, kind) in &keys.kind {
            let field = Field::ROOT.key("kind").key(name);
            builder = allowed(builder.kind(self.kind(name, kind, &field)), field, &kind.allow);
        }
        for (index, entity) in keys.entity.iter().enumerate() {
            let field = Field::ROOT.key("entity").item(index);
            builder = allowed(builder.entity(self.entity(entity, &field)), field, &entity.allow);
        }
        for (index, reaction) in keys.reaction.iter().enumerate() {
            let field = Field::ROOT.key("reaction").item(index);
            builder = allowed(builder, field.clone(), &reaction.allow);
            if let Some(reaction) = self.reaction(reaction, &field) {
                builder = builder.reaction(reaction);
            } else {
                // Keeps the numbers of the reactions after it in step with the file.
                builder = builder.reaction(Reaction::on(Trigger::Start));
            }
        }
        builder
    }

    pub(crate) fn shape(&mut self, given: Given<'_>, field: &Field) -> Option<Shape> {
        let mut shapes: Vec<Shape> = given.simple().collect();
        if let Some(any) = given.any {
            let posed = any.iter().enumerate().map(|(index, keys)| {
                let field = field.key("any").item(index);
                let pose = self.pose((keys.at, keys.turn, keys.rotation), &field);
                let shape = self.shape(keys.given(), &field)?;
                Some(Posed { shape, pose })
            });
            // All are read, so that each mistake is found.
            let posed: Vec<Option<Posed>> = posed.collect();
            shapes.push(Shape::Any { shapes: posed.into_iter().collect::<Option<_>>()? });
        }
        if shapes.len() == 1 {
            return shapes.pop();
        }
        let message =
            if shapes.is_empty() { "a shape is missing here" } else { "one shape too many" };
        let help = "give one of: box = [x, y, z], sphere = { radius = r }, capsule, cylinder or \
                    cone = { radius = r, height = h }, hull = [[x, y, z], ...], half_space = true, \
                    heights = { spacing = s, rows = [...] }, mesh = { points = [...], triangles = \
                    [...] }, any = [{ box = ..., at = [x, y, z] }, ...]";
        self.error(field, "one-shape", message, help);
        None
    }

    fn pose(
        &mut self,
        (at, turn, rotation): (Option<[f64; 3]>, Option<f64>, Option<[f64; 4]>),
        field: &Field,
    ) -> Pose {
        let pose = Pose::from(at.unwrap_or_default());
        match (turn, rotation) {
            (Some(_), Some(_)) => {
                let message = "`turn` and `rotation` both say how it is turned";
                self.error(&field.key("rotation"), "two-rotations", message, "keep one of them");
                pose
            }
            (Some(degrees), None) => {
                if !degrees.is_finite() {
                    let help = "give degrees about Y, counter-clockwise from above";
                    self.error(&field.key("turn"), "bad-number", "this is no angle", help);
                    return pose;
                }
                pose.turned(degrees.to_radians())
            }
            (None, Some(numbers)) => {
                let rotation = DQuat::from_array(numbers);
                // What is a unit quaternion up to the digits written is meant to be one.
                let length = rotation.length();
                let rotation = if (length - 1.0).abs() < 1e-3 && (length - 1.0).abs() > 1e-12 {
                    rotation.normalize()
                } else {
                    rotation
                };
                Pose { rotation, ..pose }
            }
            (None, None) => pose,
        }
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
        let body = body.legs(motion_read::legs(keys)).blocks(keys.blocks.unwrap_or(false));
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

    fn kind(&mut self, name: &str, keys: &KindKeys, field: &Field) -> Kind {
        let mut kind = Kind::new(name).tags(keys.tags.clone()).stock(keys.stock.unwrap_or(0));
        apply_features!(self, kind, keys, field);
        kind
    }

    fn entity(&mut self, keys: &EntityKeys, field: &Field) -> Entity {
        let pose = self.pose((keys.at, keys.turn, keys.rotation), field);
        let mut entity = Entity::new(&keys.name).at(pose).tags(keys.tags.clone());
        if let Some(kind) = &keys.kind {
            entity = entity.kind(kind);
        }
        if let Some(parent) = &keys.parent {
            entity = entity.parent(parent);
        }
        apply_features!(self, entity, keys, field);
        entity
    }

    pub(crate) fn bad_expression(
        &mut self,
        field: &Field,
        text: &str,
        bad: &condition::BadExpression,
    ) {
        let finding = crate::expression::finding(self.source, self.spans(), field, text, bad);
        self.findings.push(finding);
    }

    fn admit(&mut self, keys: &AdmitKeys, field: &Field) -> Admit {
        let rule = |tags: &[String], kinds: &[String], names: &[String], layers: &[String]| {
            Admit::tags(tags).and_kinds(kinds).and_names(names).and_layers(layers)
        };
        let mut admitted = rule(&keys.tags, &keys.kinds, &keys.names, &keys.layers);
        if keys.players == Some(true) {
            admitted = admitted.players();
        }
        if let Some(condition) = self.condition(keys.condition.as_ref(), &field.key("if")) {
            admitted = admitted.when(condition);
        }
        match &keys.not {
            Some(not) => admitted.not(rule(&not.tags, &not.kinds, &not.names, &not.layers)),
            None => admitted,
        }
    }
}
