//! A state as conditions see it.

use glam::DVec3;

use crate::Time;
use crate::describe::{Detector, EntityId, Facts, Ground, Kind, SlotValue, Switch};
use crate::model::Scene;

use super::State;

/// The present moment of a play, with the subject and the detector of an event.
pub(crate) struct Moment<'a> {
    pub scene: &'a Scene,
    pub state: &'a State,
    pub who: Option<EntityId>,
    pub on: Option<EntityId>,
}

impl Facts for Moment<'_> {
    fn name(&self, entity: EntityId) -> &str {
        self.scene.name(entity)
    }
    fn kind(&self, entity: EntityId) -> Option<&str> {
        self.scene.kind_of(entity).map(Kind::name)
    }
    fn find(&self, name: &str) -> Option<EntityId> {
        self.scene.find(name)
    }
    fn time(&self) -> Time {
        self.state.now
    }
    fn who(&self) -> Option<EntityId> {
        self.who
    }
    fn on(&self) -> Option<EntityId> {
        self.on
    }
    fn count(&self, name: &str) -> i64 {
        self.state.count(None, name)
    }
    fn flag(&self, name: &str) -> bool {
        self.state.flag(None, name)
    }
    fn count_of(&self, entity: EntityId, name: &str) -> i64 {
        self.state.count(Some(entity), name)
    }
    fn flag_of(&self, entity: EntityId, name: &str) -> bool {
        self.state.flag(Some(entity), name)
    }
    fn counts(&self, of: Option<EntityId>) -> Vec<(&str, i64)> {
        let values = self.state.values(of).into_iter();
        values.flat_map(|it| &it.counts).map(|(name, value)| (name.as_str(), *value)).collect()
    }
    fn flags(&self, of: Option<EntityId>) -> Vec<(&str, bool)> {
        let values = self.state.values(of).into_iter();
        values.flat_map(|it| &it.flags).map(|(name, value)| (name.as_str(), *value)).collect()
    }
    fn stat(&self, entity: EntityId, name: &str) -> Option<f64> {
        self.state.stat(self.scene, entity, self.scene.stat_id(name).ok()?)
    }
    fn stats(&self, entity: EntityId) -> Vec<(&str, f64)> {
        let stats = self.scene.stats_of(entity);
        let now = |id| Some((self.scene.stat_name(id), self.state.stat(self.scene, entity, id)?));
        stats.filter_map(|(id, _)| now(id)).collect()
    }
    fn effects(&self, entity: EntityId) -> Vec<&str> {
        let effects = self.state.effects.get(&entity).into_iter().flatten();
        effects.map(|active| self.scene.effect_name(active.effect)).collect()
    }
    fn slot(&self, entity: EntityId, name: &str) -> Option<SlotValue<EntityId>> {
        self.scene.slot(entity, name).cloned()
    }
    fn tags(&self, entity: EntityId) -> Vec<&str> {
        let tags = self.state.tags(self.scene, entity).iter();
        tags.map(|tag| self.scene.tag_name(*tag)).collect()
    }
    fn parent(&self, entity: EntityId) -> Option<EntityId> {
        self.state.parent(self.scene, entity)
    }
    fn is_enabled(&self, entity: EntityId) -> bool {
        self.state.switched_off_by(self.scene, entity).is_none()
    }
    fn is_visible(&self, entity: EntityId) -> bool {
        self.state.off_by(self.scene, entity, Switch::Visible).is_none()
    }
    fn is_on(&self, entity: EntityId, switch: Switch) -> bool {
        self.state.off_by(self.scene, entity, switch).is_none()
    }
    fn is_there(&self, entity: EntityId) -> bool {
        let there = |entity: EntityId| {
            let live = self.state.live(entity);
            !live.removed && live.taken.is_none()
        };
        self.state.lineage(self.scene, entity).all(there)
    }
    fn position(&self, entity: EntityId) -> DVec3 {
        self.state.pose(self.scene, entity, self.state.now).position
    }
    fn occupants(&self, zone: EntityId) -> Vec<EntityId> {
        self.state.detected(zone, Detector::Zone)
    }
    fn detected(&self, on: EntityId, detector: Detector) -> Vec<EntityId> {
        self.state.detected(on, detector)
    }
    fn ground(&self, body: EntityId) -> Option<Ground> {
        self.state.stands.get(&body).map(|stand| stand.ground)
    }
    fn awareness(&self, watcher: EntityId, of: EntityId) -> f64 {
        self.state.awareness.get(&(watcher, of)).map_or(0.0, |awareness| awareness.level)
    }
}
