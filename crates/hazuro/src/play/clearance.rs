//! Bodies that are moved by small steps, as by a host that says each tick where they are.
//!
//! Such a body knows the zones around it and how far it must at least walk before it can cross the
//! boundary of each. A turn counts as far as it carries any point of the body. A step that is shorter
//! than all of these is not looked at; another is looked at only where it may reach.

use glam::DQuat;
use smallvec::SmallVec;

use crate::describe::{Detector, EntityId};
use crate::geometry::{Aabb, Pose};
use crate::model::Scene;

/// How far around a body to look for zones, in metres.
pub(super) const MARGIN: f64 = 2.0;

/// One small step.
#[derive(Clone, Debug)]
pub(super) struct Step {
    pub from: Pose,
    /// How it is turned at the end.
    pub to: DQuat,
    /// How far it carries any point of the body at most, in metres.
    pub length: f64,
}

/// A zone near a body.
#[derive(Clone, Debug)]
pub(super) struct Known {
    pub on: (EntityId, Detector),
    /// How far the body will have walked when it may first cross the boundary.
    pub until: f64,
}

/// The steps of a body since its surroundings were last looked for.
#[derive(Clone, Debug)]
pub(super) struct Clearance {
    /// How it was turned at the end of the last step.
    rotation: DQuat,
    /// How far it has walked, in metres.
    pub walked: f64,
    /// How far it may walk until the surroundings must be looked for again; 0 if it does not
    /// stroll.
    range: f64,
    pub near: SmallVec<[Known; 4]>,
    /// Where it stays as long as its surroundings are known.
    within: Aabb,
    /// Whether anything asked in rounds may notice it there, as of so many moves of their reaches.
    noticed: Option<(u64, bool)>,
}

impl Clearance {
    /// Whether it may be noticed by what is asked in rounds, whose reaches have moved so often;
    /// `ask` finds out.
    pub fn is_noticed(&mut self, moves: u64, ask: impl FnOnce(&Aabb) -> bool) -> bool {
        match self.noticed {
            Some((known, noticed)) if known == moves => noticed,
            _ => {
                let noticed = ask(&self.within);
                self.noticed = Some((moves, noticed));
                noticed
            }
        }
    }

    /// Whether the surroundings are known.
    pub fn is_under_way(&self) -> bool {
        self.range > 0.0
    }

    /// Whether a step stays in the known surroundings.
    pub fn knows(&self, step: &Step) -> bool {
        self.walked + step.length < self.range && self.rotation == step.from.rotation
    }

    /// Takes a step in the known surroundings. How far it had walked before.
    pub fn walk(&mut self, step: &Step) -> f64 {
        self.rotation = step.to;
        let before = self.walked;
        self.walked += step.length;
        before
    }

    /// Begins anew, among these zones; it stays within some bounds as long as they are known.
    pub fn begin(&mut self, step: &Step, near: &[(EntityId, Detector)], within: Aabb) {
        (self.within, self.noticed) = (within, None);
        self.rotation = step.from.rotation;
        (self.walked, self.range) = (0.0, MARGIN);
        self.near.clear();
        self.near.extend(near.iter().map(|on| Known { on: *on, until: 0.0 }));
    }

    /// Forgets the surroundings.
    pub fn lose(&mut self) {
        self.range = 0.0;
    }
}

impl Default for Clearance {
    fn default() -> Self {
        Self {
            rotation: DQuat::IDENTITY,
            walked: 0.0,
            range: 0.0,
            near: SmallVec::new(),
            within: Aabb::EMPTY,
            noticed: None,
        }
    }
}

/// The strolls of all bodies.
#[derive(Clone, Debug, Default)]
pub(super) struct Clearances {
    clearances: Vec<Clearance>,
    /// The place of each entity's stroll; 0 is nobody's.
    places: Vec<u32>,
}

impl Clearances {
    /// For all bodies that carry nothing that detects or blocks and are carried by nobody.
    pub fn of(scene: &Scene) -> Self {
        // The first is nobody's.
        let mut clearances = Self { places: Vec::new(), clearances: vec![Clearance::default()] };
        clearances.grow(scene);
        clearances
    }

    /// For the bodies that have come into the scene, too.
    pub fn grow(&mut self, scene: &Scene) {
        for entity in scene.ids().skip(self.places.len()) {
            let makes_steps = scene.has_body(entity)
                && !scene.has_zone(entity)
                && !scene.is_solid(entity)
                && !scene.has(entity, Detector::Touch)
                && scene.attached_solids(entity).is_empty()
                && scene.parent(entity).is_none();
            self.places.push(if makes_steps { self.clearances.len() as u32 } else { 0 });
            if makes_steps {
                self.clearances.push(Clearance::default());
            }
            // Its owner carries something that blocks from now on.
            if let Some(owner) = scene.owner(entity).filter(|owner| *owner != entity)
                && scene.is_solid(entity)
                && let Some(place) = self.places.get_mut(owner.index())
            {
                *place = 0;
            }
        }
    }

    /// Whether an entity may stroll at all.
    pub fn may(&self, body: EntityId) -> bool {
        self.places[body.index()] != 0
    }

    pub fn get(&self, body: EntityId) -> &Clearance {
        &self.clearances[self.places[body.index()] as usize]
    }

    pub fn get_mut(&mut self, body: EntityId) -> &mut Clearance {
        &mut self.clearances[self.places[body.index()] as usize]
    }
}
