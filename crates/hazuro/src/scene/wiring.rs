//! Checking reactions and looking up every name in them.

use std::convert::Infallible;

use super::resolve::Resolver;
use super::{
    Action, Destination, Detector, EntityId, EventKind, Fault, Field, Lead, Listeners, Meant, Move,
    Pace, Reaction, ReactionId, SceneBuilder, Selector, Switch, Thing, Trigger, Turn, Wait, Wire,
};

/// The reactions to events, and what ends them.
#[derive(Debug, Default)]
pub(crate) struct Wiring {
    pub wires: Vec<Wire>,
    pub listeners: Listeners<ReactionId>,
    /// Which reactions an event ends, and whether only those to the same detector.
    pub enders: Listeners<(ReactionId, bool)>,
}

impl Resolver {
    pub(super) fn wiring(&mut self, scene: &SceneBuilder, things: &[Thing]) -> Wiring {
        let mut wiring = Wiring::default();
        for (index, reaction) in scene.reactions.iter().enumerate() {
            let field = Field::ROOT.key("reaction").item(index);
            let id = ReactionId(index as u32);
            for (number, trigger) in reaction.on.iter().enumerate() {
                let on = field.key("on");
                let on = if reaction.on.len() > 1 { on.item(number) } else { on };
                let detectors = self.trigger(scene, things, trigger, &on);
                let (stat, tag) = self.choosiness(trigger, &on);
                wiring.listeners.add(trigger, &detectors, (stat, tag), (reaction.order, id));
            }
            for (number, trigger) in reaction.until.iter().enumerate() {
                let until = field.key("until");
                let until = if reaction.until.len() > 1 { until.item(number) } else { until };
                let detectors = self.trigger(scene, things, trigger, &until);
                let (stat, tag) = self.choosiness(trigger, &until);
                let on = trigger.detectors();
                let same = on.is_some() && reaction.on.iter().any(|own| own.detectors() == on);
                wiring.enders.add(trigger, &detectors, (stat, tag), (0, (id, same)));
            }
            wiring.wires.push(self.wire(scene, things, reaction, &field));
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
                    let fault = Fault::Duplicate { what: "reaction", name: name.clone(), first };
                    self.error(field.key("name"), fault);
                }
            }
            let Some(name) = &reaction.instead_of else { continue };
            match named(name) {
                Some(other) => {
                    wiring.listeners.replace(ReactionId(other as u32), ReactionId(index as u32));
                }
                None => self.unknown_reaction(scene, name, &field.key("instead_of")),
            }
        }
    }

    fn unknown_reaction(&mut self, scene: &SceneBuilder, name: &str, field: &Field) {
        let names = scene.reactions.iter().filter_map(|reaction| reaction.name.as_deref());
        self.unknown("reaction", name, names, field);
    }

    fn wire(
        &mut self,
        scene: &SceneBuilder,
        things: &[Thing],
        reaction: &Reaction,
        field: &Field,
    ) -> Wire {
        let after = self.seconds(field.key("after"), reaction.after);
        let cooldown = self.seconds(field.key("cooldown"), reaction.cooldown);
        let every = reaction.every.map(|every| {
            let fits = (1e-3..=super::resolve::MAX_SECONDS).contains(&every);
            let need = "a number of seconds from 0.001 to 3000000";
            self.number(field.key("every"), every, fits, need);
            crate::Time::from_secs(every)
        });
        let several = reaction.sequences.len() > 1;
        let mut sequences = vec![Vec::new(); reaction.sequences.len()];
        let mut otherwise = Vec::new();
        for (key, number, place, action) in reaction.actions() {
            let field = field.key(key);
            let field = if several && key == "do" { field.item(number) } else { field };
            let found = self.action(scene, things, reaction, action, &field.item(place));
            let sequence = if key == "do" { &mut sequences[number] } else { &mut otherwise };
            sequence.push(found);
        }
        let waits = |action: &Action<Meant>| matches!(action, Action::Wait(_));
        let at_once =
            after == crate::Time::ZERO && every.is_none() && !sequences.iter().flatten().any(waits);
        let otherwise_waits = otherwise.iter().any(waits);
        Wire { after, every, cooldown, sequences, otherwise, at_once, otherwise_waits }
    }

    /// Looks up one action and checks what can be known of it.
    fn action(
        &mut self,
        scene: &SceneBuilder,
        things: &[Thing],
        reaction: &Reaction,
        action: &Action,
        field: &Field,
    ) -> Action<Meant> {
        let mut target = None;
        // A name that is not found is reported; going on finds the other wrong names too.
        let Ok(found) = action.try_map(|name, key, acted_on| {
            let meant = self.meant(name, acted_on, reaction, &field.key(key));
            target = target.or(meant.filter(|_| acted_on).map(|meant| (meant, key)));
            Ok::<_, Infallible>(meant.unwrap_or(Meant::Who))
        });
        self.numbers_of(action, field);
        match action {
            Action::Cue(name) => self.name(name, &field.key("cue")),
            Action::Count { name, .. } => self.name(name, &field.key("count")),
            Action::Flag { name, .. } => self.name(name, &field.key("flag")),
            Action::Tag { tag, .. } => self.name(tag, &field.key("with")),
            Action::Untag { tag, .. } => {
                self.tag(tag, &field.key("with"));
            }
            Action::Stat { name, .. } => {
                self.stat(name, &field.key("stat"));
            }
            Action::Effect { name, .. } | Action::EndEffect { name, .. } => {
                self.effect(name, &field.key(action.word()));
            }
            Action::Grant { grant, .. } => self.grant(grant, &field.key("grant")),
            Action::Spawn { kind, .. } => {
                self.kind(kind, &field.key("spawn"));
            }
            Action::Stop { name, .. }
                if !scene.reactions.iter().any(|other| other.name.as_ref() == Some(name)) =>
            {
                self.unknown_reaction(scene, name, &field.key("stop"));
            }
            Action::Send { event, .. } if event.detector().is_none() => {
                self.error(field.key("send"), Fault::NeverDetected { event: *event });
            }
            _ => {}
        }
        self.ability(scene, things, &found, target, field);
        found
    }

    fn numbers_of(&mut self, action: &Action, field: &Field) {
        match action {
            Action::Move(Move { over, to, .. }) => {
                self.seconds(field.key("over"), *over);
                if let Destination::By(way) = to {
                    self.coordinates(&field.key("by"), *way);
                }
            }
            Action::Lead(Lead { through, pace, .. }) => {
                self.pace(field, pace);
                if through.is_empty() {
                    self.error(field.key("through"), Fault::Nowhere);
                }
            }
            Action::Teleport(teleport) if teleport.to.is_empty() => {
                self.error(field.key("to"), Fault::Nowhere);
            }
            Action::Throw(throw) => {
                let fits = throw.velocity.iter().all(|along| along.abs() <= 1000.0);
                let most = throw.velocity.iter().fold(0.0_f64, |most, it| most.max(it.abs()));
                let need = "a speed up to 1000 metres a second along each axis";
                self.number(field.key("speed"), most, fits, need);
                let spin = throw.spin.to_degrees();
                let need = "a spin from -10000 to 10000 degrees a second";
                self.number(field.key("spin"), spin, spin.abs() <= 1e4, need);
            }
            Action::Turn(Turn { pace, by, .. }) => {
                let degrees = by.to_degrees();
                let need = "an angle from -180 to 180 degrees";
                self.number(field.key("by"), degrees, degrees.abs() <= 180.0 + 1e-9, need);
                match pace {
                    Pace::Over(seconds) => {
                        self.seconds(field.key("over"), *seconds);
                    }
                    Pace::Rate(rate) => {
                        let fits = (1e-3..=1e5).contains(&rate.to_degrees());
                        let need = "a rate from 0.001 to 100000 degrees a second";
                        self.number(field.key("rate"), rate.to_degrees(), fits, need);
                    }
                }
            }
            Action::Stat { change, .. } => {
                let (super::Change::Add(value) | super::Change::Set(value)) = *change;
                self.number(field.key("stat"), value, value.is_finite(), "a finite number");
            }
            Action::Wait(Wait::Seconds(seconds)) => {
                self.seconds(field.key("wait"), *seconds);
            }
            _ => {}
        }
    }

    /// Reports an action on something that cannot do it, where that can be known.
    fn ability(
        &mut self,
        scene: &SceneBuilder,
        things: &[Thing],
        action: &Action<Meant>,
        target: Option<(Meant, &'static str)>,
        field: &Field,
    ) {
        let word = action.word();
        if let Action::Spawn { kind, .. } = action {
            let stock = scene.kinds.iter().find(|other| other.name == *kind);
            if stock.is_some_and(|kind| kind.features.stock == 0) {
                let (name, need) = (kind.clone(), "a kind with a `stock`".into());
                self.error(field.key("spawn"), Fault::Unable { action: word, name, need });
            }
            return;
        }
        let Some((Meant::Entity(entity), key)) = target else { return };
        let thing = &things[entity.index()];
        let belongs = |other: usize| {
            let up = |entity: &EntityId| things[entity.index()].parent;
            let lineage = std::iter::successors(Some(EntityId(other as u32)), up);
            // Parents may be a circle, which is reported elsewhere.
            lineage.take(things.len()).any(|ancestor| ancestor == entity)
        };
        let any = |has: &dyn Fn(&Thing) -> bool| {
            things.iter().enumerate().any(|(other, thing)| has(thing) && belongs(other))
        };
        let need = match action {
            Action::Switch { switch: Switch::Solid, .. } if !any(&|it| it.solid.is_some()) => {
                "a solid".into()
            }
            Action::Switch { switch: Switch::Detect, .. }
                if !any(&|it| {
                    Detector::ALL.iter().any(|sort| sort.opens().is_some() && it.has(*sort))
                }) =>
            {
                "a detector".into()
            }
            Action::Stat { name, .. } => match self.stats.ids.get(name) {
                Some(stat) if thing.stat(*stat).is_none() => format!("the stat `{name}`"),
                _ => return,
            },
            Action::Effect { name, .. } => {
                let effect = scene.effects.iter().find(|effect| effect.name == *name);
                let stats = effect.into_iter().flat_map(|effect| effect.alters.keys());
                let ids: Vec<_> = stats.filter_map(|name| self.stats.ids.get(name)).collect();
                if ids.is_empty() || ids.iter().any(|stat| thing.stat(**stat).is_some()) {
                    return;
                }
                "a stat that the effect changes".into()
            }
            Action::Collect { .. } if thing.pickup.is_none() => "a pickup".into(),
            Action::Grab { .. } if thing.carry.is_none() => "a `carry`".into(),
            Action::Route { .. } if thing.route.is_none() => "a `route`".into(),
            Action::Walk { .. } if thing.mover.as_ref().is_none_or(|it| !it.walks) => {
                "legs to walk with".into()
            }
            Action::Jump(_) if thing.mover.as_ref().is_none_or(|it| it.legs.jump <= 0.0) => {
                "legs to jump with".into()
            }
            Action::Send { event, .. } => match event.detector() {
                Some(detector) if !thing.has(detector) => detector.noun(),
                _ => return,
            },
            _ => return,
        };
        let name = scene.entities[entity.index()].name.clone();
        self.error(field.key(key), Fault::Unable { action: word, name, need });
    }

    /// Who an action of a reaction means by `name`.
    fn meant(
        &mut self,
        name: &str,
        acted_on: bool,
        reaction: &Reaction,
        field: &Field,
    ) -> Option<Meant> {
        let (meant, role) = match name {
            "who" => (Meant::Who, "subject"),
            "on" => (Meant::On, "detector"),
            name => {
                let selector = Selector::from(name);
                return match selector {
                    Selector::Kind(kind) if acted_on => self.kind(&kind, field).map(Meant::Kind),
                    Selector::Tag(tag) if acted_on => self.tag(&tag, field).map(Meant::Tag),
                    Selector::Entity(name) => self.entity(&name, field).map(Meant::Entity),
                    _ => {
                        self.error(field.clone(), Fault::OnlyOne { name: name.into() });
                        None
                    }
                };
            }
        };
        // A cue hands on the subject and detector of the event that sent it, if there is one.
        let nobody =
            reaction.on.iter().map(Trigger::event).find(|event| *event == EventKind::Start);
        let Some(event) = nobody else { return Some(meant) };
        let fault = Fault::NobodyMeant { word: name.into(), event: event.word(), role };
        self.error(field.clone(), fault);
        None
    }

    /// Checks what a reaction waits for; the detectors meant.
    fn trigger(
        &mut self,
        scene: &SceneBuilder,
        things: &[Thing],
        trigger: &Trigger,
        field: &Field,
    ) -> Vec<EntityId> {
        let field = field.key(trigger.event().word());
        let (event, on, edge) = match trigger {
            Trigger::Cue(name) => {
                self.name(name, &field);
                return Vec::new();
            }
            Trigger::Start => return Vec::new(),
            Trigger::Detected { event, on, edge, .. } => (*event, on, *edge),
        };
        let Some(detector) = event.detector() else {
            self.error(field, Fault::NeverDetected { event });
            return Vec::new();
        };
        if edge && !event.is_opening() && !event.is_closing() {
            self.error(field.clone(), Fault::NoEdge { event });
        }
        let reported = self.errors.len();
        let meant = self.select(on, things, &field);
        // A tag may be given to whatever has such a detector, later.
        let later = match on {
            Selector::Tag(name) => {
                self.tags.ids.get(name).is_some_and(|tag| self.given_tags.contains(tag))
            }
            _ => false,
        };
        if self.errors.len() == reported
            && !later
            && !meant.iter().any(|entity| things[entity.index()].has(detector))
        {
            let relative =
                meant.first().and_then(|entity| relative_with(*entity, detector, things));
            let relative = relative.map(|entity| scene.entities[entity.index()].name.clone());
            let name = on.to_string();
            self.error(field, Fault::NoDetector { event, detector, name, relative });
        }
        meant
    }

    /// The stat and the tag that a trigger names.
    fn choosiness(
        &mut self,
        trigger: &Trigger,
        field: &Field,
    ) -> (Option<super::id::StatId>, Option<super::id::TagId>) {
        let field = field.key("of");
        let stat = trigger.stat_name().and_then(|name| {
            if trigger.event().detector() != Some(Detector::Stats) {
                self.error(field.clone(), Fault::NoStat { event: trigger.event() });
            }
            self.stat(name, &field)
        });
        let tag = match trigger.detectors() {
            Some(Selector::Tag(name)) => self.tags.ids.get(name).copied(),
            _ => None,
        };
        (stat, tag)
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
}

/// A child of `entity`, or else its parent, that has a detector.
fn relative_with(entity: EntityId, detector: Detector, things: &[Thing]) -> Option<EntityId> {
    let has = |entity: &EntityId| things[entity.index()].has(detector);
    let mut all = (0..things.len() as u32).map(EntityId);
    all.find(|other| things[other.index()].parent == Some(entity) && has(other))
        .or_else(|| things[entity.index()].parent.filter(has))
}
