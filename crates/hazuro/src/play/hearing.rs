//! Which zones and touch detectors a witness hears of, and when: only where something has come
//! nearer than it ever was.

use glam::DVec3;

use crate::Time;
use crate::describe::{Detector, EntityId};
use crate::geometry::Aabb;
use crate::model::Scene;
use crate::state::State;
use crate::why::Witness;

use super::pending::REGIONS;

/// A hair that is left for what sweeps reckon otherwise, in metres.
pub(super) const HAIR: f64 = 1e-3;

/// Of how many pairs it is kept when they may be of interest again: it is begun anew in each run, which
/// may be a tick. Beyond, all pairs are tried.
const MOST_PAIRS: usize = 1 << 18;

/// What has been heard in one run of a play.
#[derive(Debug, Default)]
pub(super) struct Hearing {
    /// The detectors, and who may be their subjects, in order.
    pub regions: Vec<(EntityId, Detector)>,
    pub subjects: Vec<EntityId>,
    pub known: Vec<Known>,
    /// Of each detector and subject: how far both must have moved in all before they can be nearer
    /// than the witness cares for.
    pub quiet: Vec<f64>,
    /// Of each detector and subject: how often both had changed when they were stopped by a gate that
    /// only a change opens.
    pub refused: Vec<Option<u32>>,
}

/// What is known of an entity as of when it was last heard of.
#[derive(Clone, Debug)]
pub(super) struct Known {
    /// Its change; none before it was heard of.
    change: Option<u32>,
    /// Until when that is all; after that it moves otherwise.
    until: Time,
    moves: bool,
    /// The bounds of its body and solid, and of each of its [`REGIONS`].
    pub bounds: Aabb,
    pub regions: [Aabb; 2],
    /// How far any of the bounds have moved, all in all, in metres.
    pub moved: f64,
}

impl Hearing {
    /// Nothing has been heard yet: a run begins.
    pub fn clear(&mut self) {
        self.known.clear();
    }

    pub fn begin<W: Witness>(&mut self, scene: &Scene, witness: &W) {
        let nothing = Known {
            change: None,
            until: Time::MAX,
            moves: false,
            bounds: Aabb::EMPTY,
            regions: [Aabb::EMPTY; 2],
            moved: 0.0,
        };
        self.known.resize(scene.len(), nothing);
        let regions = scene.ids().flat_map(|on| REGIONS.map(|detector| (on, detector)));
        let is_there = |(on, detector): &(EntityId, Detector)| {
            scene.thing(*on).region(*detector).is_some() && witness.wants_of(*on)
        };
        self.regions = regions.filter(is_there).collect();
        self.subjects =
            scene.ids().filter(|id| scene.has_body(*id) || scene.is_solid(*id)).collect();
        self.quiet.clear();
        let pairs = self.regions.len() * self.subjects.len();
        let pairs = if pairs > MOST_PAIRS { 0 } else { pairs };
        self.quiet.resize(pairs, f64::NEG_INFINITY);
        self.refused.clear();
        self.refused.resize(pairs, None);
    }
}

impl Known {
    /// How often it has changed.
    pub fn changes(&self) -> u32 {
        self.change.unwrap_or_default()
    }

    /// Whether it can be otherwise than when it was last heard of, since it moves or has been
    /// changed since.
    pub fn is_news(&mut self, change: u32, moves_until: impl FnOnce() -> Time, now: Time) -> bool {
        if self.change != Some(change) || self.until <= now {
            self.change = Some(change);
            self.until = moves_until();
            self.moves = self.until < Time::MAX;
            return true;
        }
        self.moves
    }

    /// Where it goes from now until `until`.
    pub fn follow(&mut self, scene: &Scene, state: &State, entity: EntityId, until: Time) {
        let path = state.path(scene, entity, state.now, until);
        let thing = scene.thing(entity);
        let body = thing.body.as_ref().map(|body| body.bounds(&path));
        let solid = thing.solid.as_ref().map(|solid| solid.bounds(&path));
        let all = body.into_iter().chain(solid).fold(Aabb::EMPTY, |all, it| all.join(&it));
        let regions = REGIONS.map(|detector| {
            let region = thing.region(detector);
            region.map_or(Aabb::EMPTY, |region| region.bounds(&path))
        });
        let moved = shift(&self.bounds, &all)
            .max(shift(&self.regions[0], &regions[0]))
            .max(shift(&self.regions[1], &regions[1]));
        (self.bounds, self.regions, self.moved) = (all, regions, self.moved + moved);
    }
}

/// How far a point may have gone of which only old and new bounds are known.
fn shift(old: &Aabb, new: &Aabb) -> f64 {
    // What is endless stays where it is.
    let along = |old: f64, new: f64| if old == new { 0.0 } else { (old - new).abs() };
    let face = |old: DVec3, new: DVec3| {
        DVec3::new(along(old.x, new.x), along(old.y, new.y), along(old.z, new.z))
    };
    face(old.min, new.min).max(face(old.max, new.max)).length()
}
