//! From the structure of a scene file to a scene.

use hazuro::Scene;
use hazuro::geometry::{Pose, Posed, Shape};
use hazuro::glam::DQuat;
use hazuro::motion::Easing;
use hazuro::scene::{
    Action, Admit, Body, Change, Destination, Entity, Field, Kind, Move, Part, Reaction,
    SceneError, Selector, Trigger, Zone,
};

use crate::condition;
use crate::finding::{Finding, Severity};
use crate::parse::parse;
use crate::scene_file::{
    ActionKeys, AdmitKeys, BodyKeys, EntityKeys, KindKeys, PartKeys, ReactionKeys, SceneKeys,
    TriggerKeys,
};
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
            $owner = $owner.admit(admit(rule));
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
    };
}

/// Reads a scene.
///
/// # Errors
/// Everything that is wrong with it, in the order of the text: at least one finding, all of
/// severity error.
pub fn read_scene(source: &Source) -> Result<Scene, Vec<Finding>> {
    let keys: SceneKeys = parse(source).map_err(|finding| vec![finding])?;
    let mut reader = Reader { source, spans: Spans::of(source), findings: Vec::new() };
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
        Ok(scene) if reader.findings.is_empty() => Ok(scene),
        _ => {
            reader.findings.sort_by_key(Finding::start);
            Err(reader.findings)
        }
    }
}

struct Reader<'a> {
    source: &'a Source,
    spans: Option<Spans>,
    findings: Vec<Finding>,
}

impl Reader<'_> {
    fn finding(&self, field: &Field, code: &'static str, message: impl Into<String>) -> Finding {
        let span = self.spans.as_ref().map_or(0..0, |spans| spans.find(field));
        Finding::new(Severity::Error, code, message).at(self.source, span)
    }

    fn error(&mut self, field: &Field, code: &'static str, message: &str, help: &str) {
        let finding = self.finding(field, code, message).with_help(help);
        self.findings.push(finding);
    }

    fn scene(&mut self, keys: &SceneKeys) -> hazuro::scene::SceneBuilder {
        let head = &keys.scene;
        let mut builder = Scene::builder(head.name.clone().unwrap_or_else(|| "Untitled".into()));
        if let Some(rate) = head.rate {
            builder = builder.rate(rate);
        }
        if let Some(seed) = head.seed {
            builder = builder.seed(seed);
        }
        for (name, value) in &head.counts {
            builder = builder.count(name, *value);
        }
        for (key, text) in &keys.texts {
            builder = builder.text(key, text);
        }
        for (name, kind) in &keys.kind {
            builder = builder.kind(self.kind(name, kind, &Field::ROOT.key("kind").key(name)));
        }
        for (index, entity) in keys.entity.iter().enumerate() {
            builder = builder.entity(self.entity(entity, &Field::ROOT.key("entity").item(index)));
        }
        let changed = keys.reaction.iter().flat_map(|reaction| &reaction.actions);
        let changed = changed.filter_map(|action| action.count.as_ref());
        let mut counts: Vec<&str> = head.counts.keys().chain(changed).map(String::as_str).collect();
        counts.sort_unstable();
        counts.dedup();
        for (index, reaction) in keys.reaction.iter().enumerate() {
            let field = Field::ROOT.key("reaction").item(index);
            if let Some(reaction) = self.reaction(reaction, &field, &counts) {
                builder = builder.reaction(reaction);
            } else {
                // Keeps the numbers of the reactions after it in step with the file.
                builder = builder.reaction(Reaction::on(Trigger::Start));
            }
        }
        builder
    }

    fn shape(&mut self, given: Given<'_>, field: &Field) -> Option<Shape> {
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
        let mut kind = Kind::new(name).tags(keys.tags.clone());
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

    fn reaction(
        &mut self,
        keys: &ReactionKeys,
        field: &Field,
        counts: &[&str],
    ) -> Option<Reaction> {
        let trigger = self.trigger(&keys.on, &field.key("on"));
        let mut reaction = Reaction::on(trigger.clone().unwrap_or(Trigger::Start))
            .after(keys.after.unwrap_or_default())
            .cooldown(keys.cooldown.unwrap_or_default());
        if keys.once == Some(true) {
            reaction = reaction.once();
        }
        if let Some(text) = &keys.condition {
            match condition::read(text, counts) {
                Ok(condition) => reaction = reaction.when(condition),
                Err(bad) => self.bad_expression(&field.key("if"), text, &bad),
            }
        }
        if keys.actions.is_empty() {
            let help = "add an action, as in do = [{ say = \"hello\" }]";
            self.error(&field.key("do"), "does-nothing", "this reaction does nothing", help);
        }
        for (index, action) in keys.actions.iter().enumerate() {
            if let Some(action) = self.action(action, &field.key("do").item(index)) {
                reaction = reaction.then(action);
            } else {
                // Keeps the numbers of the actions after it in step with the file.
                reaction = reaction.then(Action::set("nothing", 0));
            }
        }
        trigger.map(|_| reaction)
    }

    fn bad_expression(&mut self, field: &Field, text: &str, bad: &condition::BadExpression) {
        let finding =
            crate::expression::finding(self.source, self.spans.as_ref(), field, text, bad);
        self.findings.push(finding);
    }

    fn trigger(&mut self, keys: &TriggerKeys, field: &Field) -> Option<Trigger> {
        let TriggerKeys { start, cue, first, last, .. } = keys;
        let edge = first.or(*last).unwrap_or_default();
        let detected = keys.events().map(|(event, on)| {
            let on = Selector::from(on);
            Trigger::Detected { event, on, edge }
        });
        let others = [start.map(|_| Trigger::Start), cue.as_ref().map(Trigger::cue)];
        let given: Vec<Trigger> = detected.chain(others.into_iter().flatten()).collect();
        let [trigger] = given.as_slice() else {
            let message =
                if given.is_empty() { "no event is named here" } else { "one event too many" };
            let help = "give one of: start, enter, exit, inside, touch, untouch, hover, click, \
                        offer, accept, interact, hit, clear, land, lift_off, spot, lose, retarget, \
                        cue and so on";
            self.error(field, "one-event", message, help);
            return None;
        };
        let event = trigger.event();
        if *start == Some(false) {
            let help = "write start = true";
            self.error(&field.key("start"), "one-event", "`start = false` waits for nothing", help);
        }
        if first.is_some() && !event.is_opening() {
            let message = "`first` goes with an event that begins a detection, as `enter`";
            self.error(&field.key("first"), "no-partner", message, "did you mean `last`?");
        }
        if last.is_some() && !event.is_closing() {
            let message = "`last` goes with an event that ends a detection, as `exit`";
            self.error(&field.key("last"), "no-partner", message, "did you mean `first`?");
        }
        Some(trigger.clone())
    }

    fn action(&mut self, keys: &ActionKeys, field: &Field) -> Option<Action> {
        let verbs = [
            ("move", &keys.moved),
            ("teleport", &keys.teleport),
            ("enable", &keys.enable),
            ("disable", &keys.disable),
            ("toggle", &keys.toggle),
            ("show", &keys.show),
            ("hide", &keys.hide),
            ("count", &keys.count),
            ("say", &keys.say),
            ("cue", &keys.cue),
        ];
        let given: Vec<(&str, &String)> = verbs
            .into_iter()
            .filter_map(|(verb, value)| value.as_ref().map(|value| (verb, value)))
            .collect();
        let [(verb, value)] = given.as_slice() else {
            let message =
                if given.is_empty() { "no action is named here" } else { "one action too many" };
            let help = "give each action its own { ... }: move, teleport, enable, disable, toggle, \
                        show, hide, count, say or cue";
            self.error(field, "one-action", message, help);
            return None;
        };
        for (key, there, verbs) in [
            ("to", keys.to.is_some(), &["move", "teleport"][..]),
            ("over", keys.over.is_some(), &["move"]),
            ("ease", keys.ease.is_some(), &["move"]),
            ("add", keys.add.is_some(), &["count"]),
            ("set", keys.set.is_some(), &["count"]),
        ] {
            if there && !verbs.contains(verb) {
                let message = format!("`{key}` does not go with `{verb}`");
                let help = format!("it goes with {}", verbs.join(" and "));
                self.error(&field.key(key), "no-partner", &message, &help);
            }
        }
        let what = (*value).clone();
        Some(match *verb {
            "move" => Action::Move(Move {
                what,
                to: match self.destination(keys, field)?.as_str() {
                    "home" => Destination::Home,
                    name => Destination::Entity(name.into()),
                },
                over: keys.over.unwrap_or_default(),
                ease: self.ease(keys.ease.as_deref(), &field.key("ease"))?,
            }),
            "teleport" => Action::Teleport { what, to: self.destination(keys, field)? },
            "enable" => Action::Enable(what),
            "disable" => Action::Disable(what),
            "toggle" => Action::Toggle(what),
            "show" => Action::Show(what),
            "hide" => Action::Hide(what),
            "count" => {
                let change = match (keys.add, keys.set) {
                    (Some(amount), None) => Change::Add(amount),
                    (None, Some(value)) => Change::Set(value),
                    _ => {
                        let help = "as in { count = \"tokens\", add = 1 }";
                        self.error(
                            field,
                            "one-change",
                            "a count needs either `add` or `set`",
                            help,
                        );
                        return None;
                    }
                };
                Action::Count { name: what, change }
            }
            "say" => Action::Say(what),
            _ => Action::Cue(what),
        })
    }

    fn destination(&mut self, keys: &ActionKeys, field: &Field) -> Option<String> {
        if keys.to.is_none() {
            let help =
                "add `to = \"...\"`: the entity whose place it takes, or \"home\" with `move`";
            self.error(field, "missing-key", "the key `to` is missing here", help);
        }
        keys.to.clone()
    }

    fn ease(&mut self, text: Option<&str>, field: &Field) -> Option<Easing> {
        match text.unwrap_or("linear").parse() {
            Ok(ease) => Some(ease),
            Err(error) => {
                let finding = self.finding(field, "bad-easing", error.to_string());
                self.findings.push(finding);
                None
            }
        }
    }
}

fn admit(keys: &AdmitKeys) -> Admit {
    let rule = |tags: &[String], kinds: &[String], names: &[String], layers: &[String]| {
        Admit::tags(tags).and_kinds(kinds).and_names(names).and_layers(layers)
    };
    let admitted = rule(&keys.tags, &keys.kinds, &keys.names, &keys.layers);
    match &keys.not {
        Some(not) => admitted.not(rule(&not.tags, &not.kinds, &not.names, &not.layers)),
        None => admitted,
    }
}
