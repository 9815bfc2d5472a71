//! Checking stats, effects, grants and pickups, and looking up their names.

use crate::describe::{
    Action, Alter, Effect, EffectId, Fault, Features, Field, Grant, LEG_STATS, Named, Piece,
    Reaction, SceneBuilder, SlotId, Stat, StatId, Text, WALK, is_placeholder, pieces, range,
};
use crate::model::{EffectSpec, door};

use super::resolver::Resolver;

impl Resolver {
    /// Reads the names of stats, slots and effects, and the tags that something gives.
    pub(crate) fn name_numbers(&mut self, scene: &SceneBuilder) {
        let kinds = scene.kinds.iter().map(|kind| &kind.features);
        for features in kinds.chain(scene.entities.iter().map(|entity| &entity.features)) {
            self.name_stats(features);
        }
        for effect in &scene.effects {
            self.effects.intern(&effect.name, EffectId);
        }
        self.gravity = scene.gravity;
        for name in LEG_STATS.into_iter().filter(|name| changes(scene, name)) {
            self.stats.intern(name, StatId);
        }
        for (.., action) in scene.reactions.iter().flat_map(Reaction::actions) {
            match action {
                Action::Tag { tag, .. } => self.given(tag),
                Action::Grant { grant, .. } => {
                    grant.tags.iter().for_each(|tag| self.given(tag));
                }
                _ => {}
            }
        }
    }

    /// Reads the names of stats and slots, and the tags that a pickup gives.
    pub(super) fn name_stats(&mut self, features: &Features) {
        for (name, _) in &features.stats {
            self.stats.intern(name, StatId);
        }
        for (name, _) in &features.slots {
            self.slots.intern(name, SlotId);
        }
        if features.body.as_ref().is_some_and(|body| body.walk.is_some()) {
            self.stats.intern(WALK, StatId);
        }
        for tag in features.pickup.iter().flat_map(|pickup| &pickup.grant.tags) {
            self.given(tag);
        }
    }

    fn given(&mut self, tag: &str) {
        let tag = self.tags.intern(tag);
        self.given_tags.insert(tag);
    }

    /// Checks the stats and the pickup described here.
    pub(crate) fn check_numbers(&mut self, features: &Features, field: &Field) {
        for (name, stat) in &features.stats {
            let field = field.key("stats").key(name);
            self.name(name, &field);
            let Stat { start, least, most } = *stat;
            self.range(field.key("start"), start, &range::AMOUNT);
            // Without `min` and `max` there is no end to it.
            if least != f64::NEG_INFINITY {
                self.range(field.key("min"), least, &range::AMOUNT);
            }
            if most != f64::INFINITY {
                self.range(field.key("max"), most, &range::AMOUNT);
            }
            let fits = most > least || most.is_nan() || least.is_nan();
            self.number(field.key("max"), most, fits, "a number above `min`");
            let fits = (least..=most).contains(&start) || !start.is_finite();
            self.number(field.key("start"), start, fits, "a number from `min` to `max`");
        }
        let Some(pickup) = &features.pickup else { return };
        let field = field.key("pickup");
        let faults = door::check_grant(&pickup.grant, &Field::ROOT, self);
        self.report(&field, faults);
        if let Some(seconds) = pickup.back_after {
            self.interval(field.key("back_after"), seconds);
        }
    }

    /// The stats of an entity, its walking speed among them.
    pub(crate) fn stats_of(&self, features: &Features) -> Box<[(StatId, Stat)]> {
        let legs = features.body.as_ref().filter(|body| body.walk.is_some());
        let legs = legs.into_iter().flat_map(|body| {
            let starts = [body.walk.unwrap_or(0.0), body.legs.jump, body.legs.step, self.gravity];
            LEG_STATS.into_iter().zip(starts)
        });
        let own = |name: &str| features.stats.iter().any(|(other, _)| other == name);
        let legs = legs.filter(|(name, _)| !own(name));
        let legs = legs.map(|(name, start)| (name, Stat { start, ..Stat::default() }));
        let stats = features.stats.iter().map(|(name, stat)| (name.as_str(), *stat)).chain(legs);
        let mut found: Vec<_> =
            stats.filter_map(|(name, stat)| Some((*self.stats.ids.get(name)?, stat))).collect();
        found.sort_unstable_by_key(|(id, _)| *id);
        found.into()
    }

    pub(crate) fn effects(&mut self, effects: &[Effect]) -> Vec<EffectSpec> {
        let mut specs = Vec::with_capacity(effects.len());
        for (index, effect) in effects.iter().enumerate() {
            let field = Field::ROOT.key("effect").key(&effect.name);
            self.name(&effect.name, &field);
            if effects[..index].iter().any(|other| other.name == effect.name) {
                let (name, first) = (effect.name.clone(), field.clone());
                self.error(field.clone(), Fault::Duplicate { what: Named::Effect, name, first });
            }
            if effect.alters.is_empty() {
                self.error(field.clone(), Fault::GivesNothing);
            }
            let mut alters = Vec::with_capacity(effect.alters.len());
            for (name, alter) in &effect.alters {
                let field = field.key("stats").key(name);
                let Alter { add, times, rate } = *alter;
                self.range(field.key("add"), add, &range::AMOUNT);
                self.range(field.key("rate"), rate, &range::AMOUNT);
                self.range(field.key("times"), times, &range::FACTOR);
                alters.extend(self.stat(name, &field).map(|stat| (stat, *alter)));
            }
            specs.push(EffectSpec {
                alters: alters.into(),
                seconds: effect.seconds.map(|seconds| self.seconds(field.key("seconds"), seconds)),
                while_detected: effect.while_detected,
                again: effect.again,
            });
        }
        specs
    }

    pub(crate) fn texts(&mut self, scene: &SceneBuilder) {
        for (key, text) in &scene.texts {
            for (language, text) in text.languages() {
                let field = Field::ROOT.key("texts").key(key);
                let field = if language.is_empty() { field } else { field.key(language) };
                for name in unknown_placeholders(text) {
                    self.error(field.clone(), Fault::Placeholder { name: name.into() });
                }
                let plain = Text::in_language(&scene.texts[key], &scene.language).is_some();
                if language.is_empty() && plain {
                    let (name, first) = (scene.language.clone(), field.clone());
                    self.error(field, Fault::Duplicate { what: Named::Text, name, first });
                }
            }
        }
    }
}

/// Whether an effect, an action or a gift changes a stat.
fn changes(scene: &SceneBuilder, stat: &str) -> bool {
    let gives = |grant: &Grant| grant.stats.contains_key(stat);
    let mut actions = scene.reactions.iter().flat_map(Reaction::actions);
    let kinds = scene.kinds.iter().map(|kind| &kind.features);
    let mut features = kinds.chain(scene.entities.iter().map(|entity| &entity.features));
    scene.effects.iter().any(|effect| effect.alters.contains_key(stat))
        || features.any(|it| it.pickup.as_ref().is_some_and(|pickup| gives(&pickup.grant)))
        || actions.any(|(.., action)| match action {
            Action::Stat { name, .. } => name == stat,
            Action::Grant { grant, .. } => gives(grant),
            _ => false,
        })
}

/// The names between braces that mean nothing.
fn unknown_placeholders(text: &str) -> impl Iterator<Item = &str> {
    pieces(text).filter_map(|piece| match piece {
        Piece::Name(name) if !is_placeholder(name) => Some(name),
        _ => None,
    })
}
