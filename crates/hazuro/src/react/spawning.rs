//! Keeping a number of a kind in the play.

use glam::DVec3;

use crate::Time;
use crate::describe::{EntityId, RouteOrder};
use crate::geometry::Pose;
use crate::model::SpawnerSpec;
use crate::record::{Happening, Refusal, TakenBack};
use crate::state::{Cause, Scheduled, Spawned};

use super::ActionContext;

/// How often to try for a place inside a zone that does not fill its bounds.
const TRIES: u32 = 64;

impl ActionContext<'_> {
    /// A spawner looks after its own: at its `start` it brings out as many as are to be there first, later one at
    /// most.
    pub fn look_after(&mut self, spawner: EntityId, start: bool) {
        let scene = self.scene;
        let Some(spec) = &scene.thing(spawner).spawner else { return };
        let next = self.state.now + spec.every;
        self.state.put_off(next, Scheduled::Spawner(spawner));
        if self.state.switched_off_by(scene, spawner).is_some() {
            return;
        }
        let own = self.state.presence.spawned.iter().filter(|(_, spawned)| spawned.by == spawner);
        let own: Vec<(EntityId, Time)> = own.map(|(what, it)| (*what, it.since)).collect();
        let mut about = 0;
        for (what, since) in own {
            let old = spec.oldest.is_some_and(|oldest| self.state.now - since >= oldest);
            if self.state.live(what).removed {
                self.state.presence.spawned.remove(&what);
            } else if old || self.has_strayed(what, spec) {
                let why = if old { TakenBack::Old } else { TakenBack::Strayed };
                let (time, by) = (self.state.now, spawner);
                self.tell_of(Happening::TakenBack { time, what, by, why });
                self.remove(what);
                self.state.presence.spawned.remove(&what);
            } else {
                about += usize::from(self.state.live(what).taken.is_none());
            }
        }
        let missing = spec.keep.saturating_sub(about);
        for _ in 0..missing.min(if start { spec.first } else { 1 }) {
            let place = self.anywhere_in(spawner);
            let Ok(what) = self.bring_out(spec.kind, place) else { return };
            self.state
                .presence
                .spawned
                .insert(what, Spawned { by: spawner, since: self.state.now });
        }
    }

    fn has_strayed(&self, what: EntityId, spec: &SpawnerSpec) -> bool {
        let Some(bounds) = spec.bounds else { return false };
        let Some(zone) = &self.scene.thing(bounds).zone else { return false };
        let pose = |entity| self.state.pose(self.scene, entity, self.state.now);
        zone.form.distance_to_point(&pose(bounds), pose(what).position) > 0.0
    }

    /// Any place in a spawner's zone, turned anyhow.
    fn anywhere_in(&mut self, spawner: EntityId) -> Pose {
        let here = self.state.pose(self.scene, spawner, self.state.now);
        let turned = std::f64::consts::TAU * self.state.chance.next();
        let Some(zone) =
            self.scene.thing(spawner).zone.as_deref().filter(|it| !it.form.is_endless())
        else {
            return here;
        };
        let bounds = zone.form.bounds(&here);
        for _ in 0..TRIES {
            let share = DVec3::from_array([(); 3].map(|()| self.state.chance.next()));
            let position = bounds.min + (bounds.max - bounds.min) * share;
            if zone.form.distance_to_point(&here, position) == 0.0 {
                return Pose::at(position).turned(turned);
            }
        }
        here
    }

    /// Brings one of a kind's stock out to a place.
    pub fn bring_out(
        &mut self,
        kind: crate::describe::KindId,
        place: Pose,
    ) -> Result<EntityId, Refusal> {
        let what = self.state.first_in_stock(self.scene, kind);
        let what = what.ok_or_else(|| Refusal::OutOfStock(self.scene.stock(kind).count()))?;
        self.after.spawned = Some(what);
        self.come_in(what, Some(place));
        Ok(what)
    }

    /// Something comes into the play as at the start, at a place in the world or where it is described.
    pub fn come_in(&mut self, what: EntityId, at: Option<Pose>) {
        let whole: Vec<EntityId> = self.scene.whole(what).collect();
        for entity in &whole {
            self.begin_anew(*entity);
        }
        self.state.bring_into_play(self.scene, what);
        if let Some(at) = at {
            let pose = self.state.in_parent(self.scene, what, at);
            self.state.put(what, pose);
        }
        self.disturb(what, Cause::Appear);
        for entity in whole {
            self.set_going(entity);
        }
    }

    /// Sets going what goes by itself from the start.
    pub fn set_going(&mut self, what: EntityId) {
        let thing = self.scene.thing(what);
        if thing.spawner.is_some() {
            self.look_after(what, true);
        }
        if thing.route_starts() {
            // It has a route, so it can be set going.
            let _ = self.route(what, RouteOrder::Run);
        }
    }
}
