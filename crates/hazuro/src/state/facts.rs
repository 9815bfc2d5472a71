//! A state as conditions see it.

use glam::{DQuat, DVec3};

use crate::Time;
use crate::describe::{
    Detector, EntityId, Facts, Ground, Kind, Particulars, SlotSort, SlotValue, Struck, Switch,
};
use crate::model::Scene;

use super::{Event, State};

/// The present moment of a play, with the subject and the detector of an event.
pub(crate) struct Moment<'a> {
    pub scene: &'a Scene,
    pub state: &'a State,
    pub who: Option<EntityId>,
    pub on: Option<EntityId>,
    /// The event that is tested, if it is one.
    pub event: Option<&'a Event>,
}

impl Facts for Moment<'_> {
    fn name(&self, entity: EntityId) -> &str {
        self.scene.name(entity)
    }
    fn kinds(&self, entity: EntityId) -> Vec<&str> {
        self.scene.kinds_of(entity).map(Kind::name).collect()
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
        let effects = self.state.values.effects.get(&entity).into_iter().flatten();
        effects.map(|active| self.scene.effect_name(active.effect)).collect()
    }
    fn slot(&self, entity: EntityId, name: &str) -> Option<SlotValue<EntityId>> {
        self.state.slot(self.scene, entity, name).cloned()
    }
    fn slot_sort(&self, entity: EntityId, name: &str) -> Option<SlotSort> {
        self.scene.slot_sort(entity, name)
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
    fn own_switch(&self, entity: EntityId, switch: Switch) -> bool {
        self.state.live(entity).switches[switch as usize]
    }
    fn converted_to(&self, entity: EntityId) -> Option<&str> {
        self.state.presence.conversions.get(&entity).map(String::as_str)
    }
    fn holder(&self, thing: EntityId) -> Option<EntityId> {
        self.state.holder(thing)
    }
    fn owner(&self, thing: EntityId) -> Option<EntityId> {
        self.state.owner(thing)
    }
    fn held_by(&self, holder: EntityId) -> Vec<EntityId> {
        self.state.held_by(holder).collect()
    }
    fn mass(&self, entity: EntityId) -> Option<f64> {
        self.scene.thing(entity).carry.as_ref().map(|carry| carry.mass)
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
    fn rotation(&self, entity: EntityId) -> DQuat {
        self.state.pose(self.scene, entity, self.state.now).rotation
    }
    fn velocity(&self, entity: EntityId) -> DVec3 {
        self.state.velocity(self.scene, entity)
    }
    fn occupants(&self, zone: EntityId) -> Vec<EntityId> {
        self.state.detected(zone, Detector::Zone)
    }
    fn detected(&self, on: EntityId, detector: Detector) -> Vec<EntityId> {
        self.state.detected(on, detector)
    }
    fn detected_by(&self, who: EntityId, detector: Detector) -> Vec<EntityId> {
        let detects = |on: &EntityId| self.state.detected(*on, detector).contains(&who);
        let all = self.state.senses.occupancies.keys().filter(|(_, sort)| *sort == detector);
        let mut found: Vec<EntityId> = all.map(|(on, _)| *on).filter(detects).collect();
        found.sort_unstable();
        found
    }
    fn highlighted(&self, who: EntityId) -> Vec<EntityId> {
        self.state.highlighted(who)
    }
    fn particulars(&self) -> Particulars<'_> {
        let Some(event) = self.event else { return Particulars::default() };
        let part = event.who.zip(event.part).and_then(|(who, it)| self.scene.part_name(who, it));
        let meeting = event.meeting.filter(|meeting| meeting.normal.length_squared() > 0.0);
        Particulars {
            part,
            point: event.meeting.map(|meeting| meeting.point).or(event.at),
            normal: meeting.map(|meeting| meeting.normal),
            speed: event.meeting.map(|meeting| meeting.speed),
        }
    }
    fn parts_detected(&self, on: EntityId, detector: Detector, who: EntityId) -> Vec<&str> {
        self.state.parts_detected(self.scene, (on, detector), who)
    }
    fn struck(&self, probe: EntityId) -> Option<Struck<'_>> {
        self.state.struck(self.scene, probe)
    }
    fn zones_at(&self, place: DVec3) -> Vec<EntityId> {
        self.state.zones_at(self.scene, place)
    }
    fn ground(&self, body: EntityId) -> Option<Ground> {
        self.state.senses.stands.get(&body).map(|stand| stand.ground)
    }
    fn awareness(&self, watcher: EntityId, of: EntityId) -> f64 {
        self.state.senses.awareness.get(&(watcher, of)).map_or(0.0, |awareness| awareness.level)
    }
}
