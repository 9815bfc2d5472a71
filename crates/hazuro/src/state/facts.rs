//! A state as conditions see it.

use glam::DVec3;

use crate::Time;
use crate::scene::{Detector, EntityId, Facts, Ground, Scene};

use super::State;

/// The present moment of a play, with the subject and the detector of an event.
pub(crate) struct Moment<'a> {
    pub scene: &'a Scene,
    pub state: &'a State,
    pub who: Option<EntityId>,
    pub on: Option<EntityId>,
}

impl Facts for Moment<'_> {
    fn scene(&self) -> &Scene {
        self.scene
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
        self.state.counts.get(name).copied().unwrap_or_default()
    }
    fn counts(&self) -> Vec<(String, i64)> {
        self.state.counts.iter().map(|(name, value)| (name.clone(), *value)).collect()
    }
    fn is_enabled(&self, entity: EntityId) -> bool {
        self.state.switched_off_by(self.scene, entity).is_none()
    }
    fn is_visible(&self, entity: EntityId) -> bool {
        self.state.live(entity).visible
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
