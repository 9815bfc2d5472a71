//! Checking reactions and looking up every name in them.

use std::convert::Infallible;

use super::resolve::Resolver;
use super::{
    Action, Detector, EntityId, EventKind, Fault, Field, Listeners, Meant, Reaction, ReactionId,
    SceneBuilder, Selector, Thing, Trigger, Wire, nearest,
};

impl Resolver {
    pub(super) fn wires(&mut self, scene: &SceneBuilder, things: &[Thing]) -> Vec<Wire> {
        let mut wires = Vec::with_capacity(scene.reactions.len());
        for (index, reaction) in scene.reactions.iter().enumerate() {
            let field = Field::ROOT.key("reaction").item(index);
            self.trigger(scene, things, &reaction.on, &field.key("on"));
            wires.push(self.wire(scene, reaction, &field));
        }
        wires
    }

    fn wire(&mut self, scene: &SceneBuilder, reaction: &Reaction, field: &Field) -> Wire {
        let after = self.seconds(field.key("after"), reaction.after);
        let cooldown = self.seconds(field.key("cooldown"), reaction.cooldown);
        let event = reaction.on.event();
        let mut actions = Vec::with_capacity(reaction.actions.len());
        for (index, action) in reaction.actions.iter().enumerate() {
            let field = field.key("do").item(index);
            // A name that is not found is reported; going on finds the other wrong names too.
            let Ok(found) = action.try_map(|name, key| {
                let meant = self.meant(name, event, &field.key(key));
                Ok::<_, Infallible>(meant.unwrap_or(Meant::Who))
            });
            match action {
                Action::Move(movement) => {
                    self.seconds(field.key("over"), movement.over);
                }
                Action::Say(key) if !scene.texts.contains_key(key) => {
                    let nearest = nearest(key, scene.texts.keys().map(String::as_str));
                    let fault = Fault::Unknown { what: "text", name: key.clone(), nearest };
                    self.error(field.key("say"), fault);
                }
                Action::Cue(name) => self.name(name, &field.key("cue")),
                Action::Count { name, .. } => self.name(name, &field.key("count")),
                _ => {}
            }
            actions.push(found);
        }
        Wire { only_edge: reaction.on.only_edge(), after, cooldown, actions }
    }

    /// Who an action of a reaction to `event` means by `name`.
    fn meant(&mut self, name: &str, event: EventKind, field: &Field) -> Option<Meant> {
        let (meant, role) = match name {
            "who" => (Meant::Who, "subject"),
            "on" => (Meant::On, "detector"),
            name => return self.entity(name, field).map(Meant::Entity),
        };
        // A cue hands on the subject and detector of the event that sent it, if there is one.
        if event.detector().is_some() || event == EventKind::Cue {
            return Some(meant);
        }
        let fault = Fault::NobodyMeant { word: name.into(), event: event.word(), role };
        self.error(field.clone(), fault);
        None
    }

    fn trigger(
        &mut self,
        scene: &SceneBuilder,
        things: &[Thing],
        trigger: &Trigger,
        field: &Field,
    ) {
        let event = trigger.event().word();
        let field = field.key(event);
        match trigger {
            Trigger::Cue(name) => self.name(name, &field),
            Trigger::Start => {}
            Trigger::Detected { event, on, edge } => {
                let Some(detector) = event.detector() else {
                    self.error(field, Fault::NeverDetected { event: *event });
                    return;
                };
                if *edge && !event.is_opening() && !event.is_closing() {
                    self.error(field.clone(), Fault::NoEdge { event: *event });
                }
                let reported = self.errors.len();
                let meant = self.select(on, things, &field);
                if self.errors.len() == reported
                    && !meant.iter().any(|entity| things[entity.index()].has(detector))
                {
                    let relative =
                        meant.first().and_then(|entity| relative_with(*entity, detector, things));
                    let relative =
                        relative.map(|entity| scene.entities[entity.index()].name.clone());
                    let (event, name) = (*event, on.to_string());
                    self.error(field, Fault::NoDetector { event, detector, name, relative });
                }
            }
        }
    }

    fn select(&mut self, selector: &Selector, things: &[Thing], field: &Field) -> Vec<EntityId> {
        let all = (0..things.len() as u32).map(EntityId);
        match selector {
            Selector::Entity(name) => self.entity(name, field).into_iter().collect(),
            Selector::Kind(name) => self.kind(name, field).map_or_else(Vec::new, |kind| {
                all.filter(|entity| things[entity.index()].kind == Some(kind)).collect()
            }),
            Selector::Tag(name) => self.tag(name, field).map_or_else(Vec::new, |tag| {
                all.filter(|entity| things[entity.index()].tags.contains(&tag)).collect()
            }),
        }
    }

    pub(super) fn listeners(
        &mut self,
        scene: &SceneBuilder,
        things: &[Thing],
    ) -> Listeners<ReactionId> {
        let reported = self.errors.len();
        let mut listeners = Listeners::default();
        for (index, reaction) in scene.reactions.iter().enumerate() {
            let detectors = reaction.on.detectors().map(|on| self.select(on, things, &Field::ROOT));
            listeners.add(&reaction.on, &detectors.unwrap_or_default(), ReactionId(index as u32));
        }
        // The same names were looked up, and reported, with each reaction's trigger.
        self.errors.truncate(reported);
        listeners
    }
}

/// A child of `entity`, or else its parent, that has a detector.
fn relative_with(entity: EntityId, detector: Detector, things: &[Thing]) -> Option<EntityId> {
    let has = |entity: &EntityId| things[entity.index()].has(detector);
    let mut all = (0..things.len() as u32).map(EntityId);
    all.find(|other| things[other.index()].parent == Some(entity) && has(other))
        .or_else(|| things[entity.index()].parent.filter(has))
}
