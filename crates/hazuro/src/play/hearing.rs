//! Which zones and touch detectors a witness hears of, and when: only where something has come
//! nearer than it ever was.

use glam::DVec3;

use crate::Time;
use crate::describe::{Detector, EntityId};
use crate::detect::{look, members};
use crate::geometry::Aabb;
use crate::model::Scene;
use crate::state::State;
use crate::why::{Chain, Witness};

use super::watch::{Mark, REGIONS, Watch};

/// A hair that is left for what sweeps reckon otherwise, in metres.
const HAIR: f64 = 1e-3;

/// Of how many pairs it is kept when they may be of interest again. Beyond, they are all tried.
const MOST_PAIRS: usize = 1 << 22;

/// What has been heard in one run of a play.
#[derive(Debug, Default)]
pub(super) struct Hearing {
    /// The detectors, and who may be their subjects, in order.
    regions: Vec<(EntityId, Detector)>,
    subjects: Vec<EntityId>,
    known: Vec<Known>,
    /// Of each detector and subject: how far both must have moved in all before they can be nearer
    /// than the witness cares for.
    quiet: Vec<f64>,
    /// Of each detector and subject: how often both had changed when they were stopped by a gate that
    /// only a change opens.
    refused: Vec<Option<u32>>,
}

/// What is known of an entity as of when it was last heard of.
#[derive(Clone, Debug)]
struct Known {
    /// Its change; none before it was heard of.
    change: Option<u32>,
    /// Until when that is all; after that it moves otherwise.
    until: Time,
    moves: bool,
    /// The bounds of its body and solid, and of each of its [`REGIONS`].
    bounds: Aabb,
    regions: [Aabb; 2],
    /// How far any of the bounds have moved, all in all, in metres.
    moved: f64,
}

impl Hearing {
    /// Nothing has been heard yet: a run begins.
    pub fn clear(&mut self) {
        self.known.clear();
    }

    fn begin(&mut self, scene: &Scene) {
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
        let is_there =
            |(on, detector): &(EntityId, Detector)| scene.thing(*on).region(*detector).is_some();
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
    fn changes(&self) -> u32 {
        self.change.unwrap_or_default()
    }

    /// Whether it can be otherwise than when it was last heard of, since it moves or has been
    /// changed since.
    fn is_news(&mut self, mark: &Mark, moves_until: impl FnOnce() -> Time, now: Time) -> bool {
        if self.change != Some(mark.change) || self.until <= now {
            self.change = Some(mark.change);
            self.until = moves_until();
            self.moves = self.until < Time::MAX;
            return true;
        }
        self.moves
    }

    /// Where it goes from now until `until`.
    fn follow(&mut self, scene: &Scene, state: &State, entity: EntityId, until: Time) {
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

impl Watch {
    /// Runs the gates of every pair that a witness asks for, from now until `until`, for it to
    /// hear.
    pub fn hear<W: Witness>(&mut self, scene: &Scene, state: &State, until: Time, witness: &mut W) {
        let hearing = &mut self.hearing;
        if hearing.known.is_empty() {
            hearing.begin(scene);
        }
        let Hearing { regions, subjects, known, quiet, refused } = hearing;
        let mut news: Vec<bool> = vec![false; known.len()];
        for (entity, (mark, known)) in scene.ids().zip(self.marks.iter().zip(known.iter_mut())) {
            let moves_until = || state.horizon(scene, entity);
            if known.is_news(mark, moves_until, state.now) {
                news[entity.index()] = true;
                known.follow(scene, state, entity, until);
            }
        }
        if !news.contains(&true) {
            return;
        }
        // Most stand still: for what does, only those who do not are looked at.
        let stirring = REGIONS.map(|detector| {
            let is_news = |who: &EntityId| {
                members(scene, detector, *who).iter().any(|member| news[member.index()])
            };
            let all = subjects.iter().enumerate().filter(|(_, who)| is_news(who));
            all.map(|(place, _)| place).collect::<Vec<usize>>()
        });
        let once = !witness.hears_again();
        let everybody: Vec<usize> = (0..subjects.len()).collect();
        for (row, &(on, detector)) in regions.iter().enumerate() {
            let Some(region) = scene.thing(on).region(detector) else { continue };
            let kind = usize::from(detector != REGIONS[0]);
            let near = if news[on.index()] { &everybody } else { &stirring[kind] };
            let own = &known[on.index()];
            for &place in near {
                let who = subjects[place];
                let loose = || region.solids && state.owner(scene, who).is_none();
                if !(scene.has_body(who) || loose()) {
                    continue;
                }
                let all = members(scene, detector, who);
                let both = || std::iter::once(own).chain(all.iter().map(|it| &known[it.index()]));
                let moved: f64 = both().map(|it| it.moved).sum();
                let changed = || both().fold(0, |sum: u32, it| sum.wrapping_add(it.changes()));
                let pair = row * subjects.len() + place;
                let (quiet, refused) = (quiet.get_mut(pair), refused.get_mut(pair));
                if quiet.as_ref().is_some_and(|quiet| moved < **quiet)
                    || refused.as_ref().is_some_and(|it| it.is_some_and(|it| it == changed()))
                {
                    continue;
                }
                let changed = changed();
                let chain = Chain::Detector { on, detector, who };
                if !witness.wants(&chain) {
                    continue;
                }
                let apart =
                    all.iter().map(|it| own.regions[kind].distance(&known[it.index()].bounds));
                let apart = apart.fold(f64::INFINITY, f64::min) - HAIR;
                let wanted = witness.wants_within(&chain);
                if apart <= 0.0 || apart < wanted {
                    look((scene, state), (on, detector, who), until, witness);
                    // It is still wanted however far off: so it was stopped before that counted.
                    let stopped = once && witness.wants_within(&chain) == f64::INFINITY;
                    if let Some(refused) = refused {
                        *refused = stopped.then_some(changed);
                    }
                } else if let Some(quiet) = quiet {
                    *quiet = moved + (apart - wanted.max(0.0));
                }
            }
        }
    }
}
