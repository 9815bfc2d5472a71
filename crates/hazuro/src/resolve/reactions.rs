//! Checking reactions and looking up every name in them.

use crate::Time;
use crate::describe::{
    Action, Detector, EntityId, EventKind, Fault, Field, Named, Quantity, Range, Reaction,
    ReactionId, SceneBuilder, Selector, SlotSort, SlotValue, Trigger, range,
};
use crate::model::door::Names;
use crate::model::{
    Group, Listeners, Meant, Prospects, Role, Subjects, TargetRef, Thing, Wire, door,
};

use super::resolver::Resolver;

/// The reactions to events, and what ends them.
#[derive(Debug, Default)]
pub(crate) struct Wiring {
    pub wires: Vec<Wire>,
    pub listeners: Listeners<ReactionId>,
    /// Which reactions an event ends, and whether only those to the same detector.
    pub enders: Listeners<(ReactionId, bool)>,
}

impl Resolver {
    pub(crate) fn wiring(&mut self, scene: &SceneBuilder, things: &[Thing]) -> Wiring {
        let mut wiring = Wiring::default();
        for (index, reaction) in scene.reactions.iter().enumerate() {
            let field = Field::ROOT.key("reaction").item(index);
            let id = self.numbering.reaction(index);
            let mut detectors = Vec::new();
            for (number, trigger) in reaction.on.iter().enumerate() {
                let on = field.key("on");
                let on = if reaction.on.len() > 1 { on.item(number) } else { on };
                let meant = self.trigger(scene, things, trigger, &on);
                wiring.listeners.add(trigger, &meant, (reaction.order, id));
                detectors.extend(meant.detectors);
            }
            for (number, trigger) in reaction.until.iter().enumerate() {
                let until = field.key("until");
                let until = if reaction.until.len() > 1 { until.item(number) } else { until };
                let meant = self.trigger(scene, things, trigger, &until);
                let on = trigger.detectors();
                let same = on.is_some() && reaction.on.iter().any(|own| own.detectors() == on);
                wiring.enders.add(trigger, &meant, (0, (id, same)));
            }
            wiring.wires.push(self.wire((scene, things), (reaction, &detectors), &field));
        }
        self.names_of_reactions(scene, &mut wiring);
        wiring
    }

    /// Checks the names of reactions, and lets some replace others.
    fn names_of_reactions(&mut self, scene: &SceneBuilder, wiring: &mut Wiring) {
        let named = |name: &str| {
            scene.reactions.iter().position(|reaction| reaction.name.as_deref() == Some(name))
        };
        for (index, reaction) in scene.reactions.iter().enumerate() {
            let field = Field::ROOT.key("reaction").item(index);
            if let Some(name) = &reaction.name {
                self.name(name, &field.key("name"));
                if let Some(first) = named(name).filter(|first| *first < index) {
                    let first = Field::ROOT.key("reaction").item(first);
                    let fault =
                        Fault::Duplicate { what: Named::Reaction, name: name.clone(), first };
                    self.error(field.key("name"), fault);
                }
            }
            let Some(name) = &reaction.instead_of else { continue };
            if let Some(other) = named(name) {
                let [other, own] = [other, index].map(|index| self.numbering.reaction(index));
                wiring.listeners.replace(other, own);
            } else {
                let found = self.reaction(name);
                self.known(found, &field.key("instead_of"));
            }
        }
    }

    fn wire(
        &mut self,
        all: (&SceneBuilder, &[Thing]),
        (reaction, detectors): (&Reaction, &[EntityId]),
        field: &Field,
    ) -> Wire {
        let after = self.pause(field.key("after"), &reaction.after, &range::PAUSE);
        let cooldown = self.seconds(field.key("cooldown"), reaction.cooldown);
        let every = reaction.every.as_ref();
        let every = every.map(|it| self.pause(field.key("every"), it, &range::INTERVAL));
        let several = reaction.sequences.len() > 1;
        let mut sequences = vec![Vec::new(); reaction.sequences.len()];
        let mut otherwise = Vec::new();
        for (key, number, place, action) in reaction.actions() {
            let field = field.key(key);
            let field = if several && key == "do" { field.item(number) } else { field };
            let found = self.action(all, (reaction, detectors), action, &field.item(place));
            let sequence = if key == "do" { &mut sequences[number] } else { &mut otherwise };
            sequence.push(found);
        }
        let waits = |action: &Action<TargetRef>| matches!(action, Action::Wait(_));
        let at_once = after == Quantity::Fixed(Time::ZERO)
            && every.is_none()
            && !sequences.iter().flatten().any(waits);
        let otherwise_waits = otherwise.iter().any(waits);
        Wire { after, every, cooldown, sequences, otherwise, at_once, otherwise_waits }
    }

    /// How long something is put off.
    fn pause(&mut self, field: Field, seconds: &Quantity, range: &Range) -> Quantity<Time> {
        match seconds {
            Quantity::Fixed(seconds) => {
                self.range(field, *seconds, range);
                Quantity::Fixed(Time::from_secs(*seconds))
            }
            Quantity::Formula(formula) => Quantity::Formula(formula.clone()),
        }
    }

    /// Lets one action in through the door, and checks what else can be known of it here.
    fn action(
        &mut self,
        (scene, things): (&SceneBuilder, &[Thing]),
        (reaction, detectors): (&Reaction, &[EntityId]),
        action: &Action,
        field: &Field,
    ) -> Action<TargetRef> {
        // A cue hands on the subject and detector of the event that sent it, if there is one.
        let nobody =
            reaction.on.iter().map(Trigger::event).find(|event| *event == EventKind::Start);
        let role = |word: &'static str| match nobody {
            Some(event) => {
                let role = if word == "on" { "detector" } else { "subject" };
                Err(Fault::NobodyMeant { word: word.into(), event: event.word(), role })
            }
            None => Ok(if word == "on" { TargetRef::On } else { TargetRef::Who }),
        };
        let (found, faults) = door::enter(action, self, role);
        // What is not found is no entity, so nothing more is said of what it can do.
        self.report(field, faults);
        self.slots_named(scene, things, &found, field);
        self.ability((scene, things), &found, detectors, field);
        found
    }

    /// Reports a slot of a named entity that does not hold an entity.
    fn slots_named(
        &mut self,
        scene: &SceneBuilder,
        things: &[Thing],
        action: &Action<TargetRef>,
        field: &Field,
    ) {
        let mut bad = Vec::new();
        let Ok(_) = action.try_map(|target, key, _| {
            if let TargetRef::Slot(Role::Entity(of), slot) = *target {
                let value = things[of.index()].slot(slot);
                if !matches!(value, Some(SlotValue::Entity(_))) {
                    bad.push((key, of, slot, value.map(SlotValue::sort)));
                }
            }
            Ok::<_, std::convert::Infallible>(())
        });
        for (at, of, slot, is) in bad {
            let name = scene.entities[of.index()].name.clone();
            let key = self.slots.names[slot.0 as usize].clone();
            self.error(field.key(at), Fault::Slot { name, key, is, need: SlotSort::Entity });
        }
    }

    /// Checks what a reaction waits for, and finds what it means.
    fn trigger(
        &mut self,
        scene: &SceneBuilder,
        things: &[Thing],
        trigger: &Trigger,
        field: &Field,
    ) -> Meant {
        let (of, who) = (field.key("of"), field.key("who"));
        let field = field.key(trigger.event().word());
        let (event, on, edge) = match trigger {
            Trigger::Cue(name) => {
                self.name(name, &field);
                return Meant::default();
            }
            Trigger::Start => return Meant::default(),
            Trigger::Detected { event, on, edge, .. } => (*event, on, *edge),
        };
        let Some(detector) = event.detector() else {
            self.error(field, Fault::NeverDetected { event });
            return Meant::default();
        };
        if edge && !event.is_opening() && !event.is_closing() {
            self.error(field.clone(), Fault::NoEdge { event });
        }
        let stat = trigger.stat_name().and_then(|name| {
            if detector != Detector::Stats {
                self.error(of.clone(), Fault::NoStat { event });
            }
            self.stat(name, &of)
        });
        let subjects = trigger.subjects().and_then(|subjects| {
            let found = self.select(subjects, things, &who)?;
            Subjects::of(found)
        });
        let Some((mut detectors, group)) = self.select(on, things, &field) else {
            return Meant { stat, subjects, ..Meant::default() };
        };
        if matches!(group, Some(Group::Any | Group::Layers(_))) {
            detectors.retain(|entity| things[entity.index()].has(detector));
        }
        if !detectors.iter().any(|entity| things[entity.index()].has(detector))
            && !group.is_some_and(|group| self.may_gain(group, detector))
        {
            let relative =
                detectors.first().and_then(|entity| self.relative_with(*entity, detector, things));
            let relative = relative.map(|entity| scene.entities[entity.index()].name.clone());
            let name = on.to_string();
            self.error(field, Fault::NoDetector { event, detector, name, relative });
        }
        Meant { detectors, group, stat, subjects }
    }

    /// Whether something with such a detector may belong to a group later.
    fn may_gain(&self, group: Group, detector: Detector) -> bool {
        let (given, layers, kinds) = (&self.given_tags, &self.layers, &*self.kind_specs);
        let tag = |name: &str| self.tags.ids.get(name).copied();
        group.may_gain(&Prospects { given, kinds, layers, tag }, detector)
    }

    /// The entities that a selector means, and what they have in common, unless one is named.
    fn select(
        &mut self,
        selector: &Selector,
        things: &[Thing],
        field: &Field,
    ) -> Option<(Vec<EntityId>, Option<Group>)> {
        let group = match selector {
            Selector::Entity(name) => return Some((vec![self.entity(name, field)?], None)),
            Selector::Kind(name) => Group::Kind(self.kind(name, field)?),
            Selector::Tag(name) => Group::Tag(self.tag(name, field)?),
            Selector::Layer(name) => {
                let found = self.layers.find(name);
                Group::Layers(self.known(found, field)?)
            }
            Selector::Any => Group::Any,
        };
        let all = self.numbering.entities(things.len());
        Some((all.filter(|it| group.has(&things[it.index()])).collect(), Some(group)))
    }

    /// A child of `entity`, or else its parent, that has a detector.
    fn relative_with(
        &self,
        entity: EntityId,
        detector: Detector,
        things: &[Thing],
    ) -> Option<EntityId> {
        let has = |entity: &EntityId| things[entity.index()].has(detector);
        let mut all = self.numbering.entities(things.len());
        all.find(|other| things[other.index()].parent == Some(entity) && has(other))
            .or_else(|| things[entity.index()].parent.filter(has))
    }
}
