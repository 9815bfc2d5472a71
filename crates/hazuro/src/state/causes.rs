//! What things came of: what is going on, and what last moved or switched each entity.

use crate::Time;
use crate::describe::EntityId;
use crate::model::Scene;

use super::{Cause, Origin, Scheduled, State};

/// What last stirred an entity, of one sort; the higher number is the later.
#[derive(Clone, Copy, Debug, Default, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Stir {
    number: u64,
    origin: Origin,
}

/// What entries come of.
#[derive(Clone, Debug, Default, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Causes {
    /// What is going on now comes of this; between instants of nothing.
    pub now: Origin,
    /// How many entries there have been.
    pub entries: u64,
    /// How often anything was stirred.
    stirs: u64,
    /// Of each entity, what last moved it.
    moved: Vec<Stir>,
    /// Of each entity, what last did anything else to it. Apart, since a host may move thousands each
    /// tick.
    changed: Vec<Stir>,
}

impl Causes {
    pub fn of(scene: &Scene) -> Self {
        let none = vec![Stir::default(); scene.len()];
        Self { moved: none.clone(), changed: none, ..Self::default() }
    }

    /// Whether they are of as many as `entities`.
    pub fn is_of(&self, entities: usize) -> bool {
        self.moved.len() == entities && self.changed.len() == entities
    }

    /// Lets there be more entities: `entities` in all.
    pub fn grow(&mut self, entities: usize) {
        self.moved.resize(entities, Stir::default());
        self.changed.resize(entities, Stir::default());
    }

    /// The entry that comes next, as an origin.
    pub fn next(&self) -> Origin {
        Origin::Entry(self.entries + 1)
    }
}

#[cfg(feature = "serde")]
super::delta::delta! {
    Causes as CausesPart {
        now: Origin,
        entries: u64,
        stirs: u64,
        moved: Vec<Stir>,
        changed: Vec<Stir>,
    } but {}
}

#[cfg(feature = "serde")]
impl Causes {
    /// Gives each entity another number, of `entities`.
    pub fn renumber(&mut self, entities: usize, numbers: &[EntityId]) {
        for stirs in [&mut self.moved, &mut self.changed] {
            let mut renumbered = vec![Stir::default(); entities];
            for (entity, stir) in numbers.iter().zip(&*stirs) {
                renumbered[entity.index()] = *stir;
            }
            *stirs = renumbered;
        }
    }
}

impl State {
    /// Puts something off that comes of what is going on now.
    pub(crate) fn put_off(&mut self, time: Time, item: Scheduled) {
        self.schedule.put(time, self.causes.now, item);
    }

    /// What is going on now does something to an entity.
    pub(crate) fn stir(&mut self, what: EntityId, cause: Cause) {
        let causes = &mut self.causes;
        causes.stirs += 1;
        let moved = matches!(cause, Cause::Move | Cause::Teleport);
        let last = if moved { &mut causes.moved } else { &mut causes.changed };
        last[what.index()] = Stir { number: causes.stirs, origin: causes.now };
    }

    /// What moved an entity, or what it goes along with, last.
    pub(crate) fn mover(&self, scene: &Scene, who: EntityId) -> Origin {
        self.last_stir(scene, [Some(who), None], Cause::Move)
    }

    /// What it comes of that a detector begins or ceases to detect somebody.
    pub(crate) fn what_brought(
        &self,
        scene: &Scene,
        on: EntityId,
        who: EntityId,
        cause: Cause,
    ) -> Origin {
        self.last_stir(scene, [Some(who), Some(on)], cause)
    }

    fn last_stir(&self, scene: &Scene, of: [Option<EntityId>; 2], cause: Cause) -> Origin {
        let moves = |entity: EntityId| self.cast.end(entity).is_some_and(|end| end >= self.now);
        let mut best = (false, Stir::default());
        for entity in of.into_iter().flatten() {
            for entity in self.lineage(scene, entity).chain(self.carriers(scene, entity)) {
                let Causes { moved, changed, .. } = &self.causes;
                let (moved, other) = (moved[entity.index()], changed[entity.index()]);
                let stir = match cause {
                    Cause::Move | Cause::Teleport => moved,
                    _ if other.number > moved.number => other,
                    // What is brought out begins somewhere.
                    _ => moved,
                };
                let rank = |(moves, stir): (bool, Stir)| (moves, stir.number);
                let found = (cause == Cause::Move && moves(entity), stir);
                if rank(found) > rank(best) && stir.number > 0 {
                    best = found;
                }
            }
        }
        best.1.origin
    }
}
