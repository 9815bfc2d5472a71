//! What an action needs of the entity it is done to.

use crate::describe::{
    Action, Detector, EntityId, Fault, Field, Filling, JUMP, MAX_DEPTH, Need, SceneBuilder,
    SlotSort, SlotValue, Switch,
};
use crate::model::door::Names;
use crate::model::{Role, TargetRef, Thing};

use super::resolver::Resolver;

impl Resolver {
    /// The entities that an action is done to, as far as they can be known: `on` is one of these.
    fn acted_on<'a>(
        things: &'a [Thing],
        target: TargetRef,
        detectors: &'a [EntityId],
    ) -> Box<dyn Iterator<Item = EntityId> + 'a> {
        let in_slot = move |of: &EntityId, slot| match things[of.index()].slot(slot) {
            Some(SlotValue::Entity(entity)) => Some(*entity),
            _ => None,
        };
        match target {
            TargetRef::Entity(entity) => Box::new(std::iter::once(entity)),
            TargetRef::Slot(Role::Entity(of), slot) => Box::new(in_slot(&of, slot).into_iter()),
            TargetRef::Slot(Role::On, slot) => {
                Box::new(detectors.iter().filter_map(move |of| in_slot(of, slot)))
            }
            TargetRef::Who
            | TargetRef::On
            | TargetRef::Kind(_)
            | TargetRef::Tag(_)
            | TargetRef::Slot(Role::Who, _) => Box::new(std::iter::empty()),
        }
    }

    /// Reports an action on something that cannot do it, where that can be known.
    pub(super) fn ability(
        &mut self,
        (scene, things): (&SceneBuilder, &[Thing]),
        action: &Action<TargetRef>,
        detectors: &[EntityId],
        field: &Field,
    ) {
        let word = action.word();
        if let Action::Spawn { kind, .. } = action {
            let stock = scene.kinds.iter().find(|other| other.name == *kind);
            if stock.is_some_and(|kind| kind.features.stock == 0) {
                let (name, need) = (kind.clone(), Need::Stock);
                self.error(field.key("spawn"), Fault::Unable { action: word, name, need });
            }
            return;
        }
        if let Action::Fill { slot, with: Filling::Text(name), .. } = action
            && let Some(id) = self.slots.ids.get(slot)
            && things.iter().filter_map(|it| it.slot_sort(*id)).all(|it| it == SlotSort::Entity)
        {
            self.entity(name, &field.key("set"));
        }
        let Some((target, key)) = action.target() else { return };
        let found = Self::acted_on(things, *target, detectors)
            .find_map(|entity| Some((entity, self.lack((scene, things), action, entity)?)));
        if let Some((entity, need)) = found {
            let name = scene.entities[entity.index()].name.clone();
            self.error(field.key(key), Fault::Unable { action: word, name, need });
        }
    }

    /// What an entity would need for an action to be done to it, if it lacks that.
    fn lack(
        &self,
        (scene, things): (&SceneBuilder, &[Thing]),
        action: &Action<TargetRef>,
        entity: EntityId,
    ) -> Option<Need> {
        let thing = &things[entity.index()];
        let unless = |has: bool, need: Need| (!has).then_some(need);
        let stat = |name: &str| self.stats.ids.get(name).and_then(|stat| thing.stat(*stat));
        match action {
            Action::Switch { switch: Switch::Solid, .. } => {
                unless(self.any_below(things, entity, |thing| thing.solid.is_some()), Need::Solid)
            }
            Action::Switch { switch: Switch::Detect, .. } => {
                let detects = |thing: &Thing| {
                    Detector::ALL.iter().any(|sort| sort.opens().is_some() && thing.has(*sort))
                };
                unless(self.any_below(things, entity, detects), Need::AnyDetector)
            }
            // A stat that no entity has is reported elsewhere.
            Action::Stat { name, .. } => {
                let known = self.stats.ids.contains_key(name);
                unless(!known || stat(name).is_some(), Need::Stat(name.clone()))
            }
            Action::Fill { slot, with, .. } => {
                let id = self.slots.ids.get(slot)?;
                thing.lacks_for_slot((slot, *id), with)
            }
            Action::Convert { to, .. } => thing.lacks_for(self.given(*self.kinds.get(to)?)),
            Action::Effect { name, .. } => {
                let effect = scene.effects.iter().find(|effect| effect.name == *name);
                let names = effect.into_iter().flat_map(|effect| effect.alters.keys());
                let mut known = names.filter(|name| self.stats.ids.contains_key(*name)).peekable();
                let has = known.peek().is_none() || known.any(|name| stat(name).is_some());
                unless(has, Need::StatOfEffect)
            }
            Action::Collect { .. } => unless(thing.pickup.is_some(), Need::Pickup),
            Action::Grab { .. } => unless(thing.carry.is_some(), Need::Carry),
            Action::Own { .. } | Action::Disown(_) => {
                unless(thing.ownership.is_some(), Need::Ownership)
            }
            Action::Route { .. } => unless(thing.route.is_some(), Need::Route),
            Action::Walk { .. } => {
                unless(thing.mover.as_ref().is_some_and(|mover| mover.walks), Need::Walking)
            }
            Action::Jump(_) => {
                let walker = thing.mover.as_ref().filter(|mover| mover.walks);
                // Who has the stat may be able to later.
                let jumps = walker.is_some_and(|it| it.legs.jump > 0.0 || stat(JUMP).is_some());
                unless(jumps, Need::Jumping)
            }
            Action::Send { event, .. } => {
                let detector = event.detector()?;
                unless(thing.has(detector), Need::Detector(detector))
            }
            // Whatever is acted on can have these done to it, or nothing is.
            Action::Move(_)
            | Action::Teleport(_)
            | Action::Lead(_)
            | Action::Drop(_)
            | Action::Throw(_)
            | Action::Turn(_)
            | Action::Aim(_)
            | Action::Halt(_)
            | Action::Switch { switch: Switch::Enabled | Switch::Visible, .. }
            | Action::Tag { .. }
            | Action::Untag { .. }
            | Action::Revert(_)
            | Action::Count { .. }
            | Action::Flag { .. }
            | Action::EndEffect { .. }
            | Action::Grant { .. }
            | Action::Say { .. }
            | Action::Cue { .. }
            | Action::Spawn { .. }
            | Action::Remove(_)
            | Action::Reset(_)
            | Action::Attach { .. }
            | Action::Detach(_)
            | Action::Call(_)
            | Action::Stop { .. }
            | Action::Wait(_) => None,
        }
    }

    /// Whether an entity, or one below it, is such a one.
    fn any_below(
        &self,
        things: &[Thing],
        entity: EntityId,
        is_such: impl Fn(&Thing) -> bool,
    ) -> bool {
        let belongs = |other: usize| {
            let up = |entity: &EntityId| things[entity.index()].parent;
            let lineage = std::iter::successors(Some(self.numbering.entity(other)), up);
            // Parents may be a circle, which is reported elsewhere.
            lineage.take(MAX_DEPTH + 1).any(|ancestor| ancestor == entity)
        };
        things.iter().enumerate().any(|(other, thing)| is_such(thing) && belongs(other))
    }
}
