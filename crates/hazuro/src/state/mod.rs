//! Everything that lives in a play, as one value.
//!
//! A [`State`] can be cloned, compared and hashed. Handlers, conditions and caches stand beside
//! it, never in it, so going back to a moment is putting back its state.

mod body_state;
mod cast;
mod causes;
mod consistent;
mod contacts;
#[cfg(feature = "serde")]
mod delta;
mod detected;
mod event;
mod facts;
mod highlights;
mod input;
mod kin;
mod lane;
mod origin;
mod owned;
#[cfg(feature = "serde")]
pub(crate) mod pairs;
mod part;
mod place;
mod runs;
mod schedule;
mod senses;
mod stock;
mod told;
mod trips;
mod values;

use std::hash::{Hash, Hasher};

pub(crate) use body_state::{BodyState, Mode, Order};
#[cfg(feature = "serde")]
pub(crate) use cast::SavedLive;
pub(crate) use cast::{Cast, Live};
pub(crate) use causes::Causes;
#[cfg(feature = "serde")]
pub use delta::Delta;
pub(crate) use detected::{Senses, Stay};
pub use event::{Cause, Event};
pub(crate) use facts::Moment;
pub use input::{Button, Input, Spot, Target};
pub use origin::Origin;
pub(crate) use owned::Owned;
pub(crate) use runs::{Queued, Run, Runs, Scope, Thread};
pub(crate) use schedule::{Schedule, Scheduled};
pub(crate) use senses::{Awareness, DragState, KeyHold, PointerState, Stand, WHOLE};
pub use senses::{Meeting, Sighting};
use smallvec::SmallVec;
pub(crate) use stock::{Presence, Stock};
pub(crate) use told::Told;
pub(crate) use trips::{Aiming, HeldUp, Motion, Progress, Spawned, Trip};
pub use values::Reading;
pub(crate) use values::{Active, CountsAndFlags, StatTrack, Values, within};

use crate::describe::{Detector, EntityId, StatId, Switch, range};
use crate::fast_hash::Fnv;
use crate::model::{LimitsSpec, Scene};
use crate::{Chance, Time};

/// What a reaction or a detector remembers.
#[derive(Clone, Debug, Default, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Usage {
    pub times: u64,
    /// The cooldown is over from here on.
    pub ready_at: Time,
}

/// Of which scene a state is, by its [mark](Scene::mark). It tells nothing of the state itself.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct OfScene(pub u64);

impl Hash for OfScene {
    fn hash<H: Hasher>(&self, _: &mut H) {}
}

/// Everything that lives in a play, at one moment.
///
/// ```
/// use hazuro::{Play, Scene, scene::{Body, Entity}, geometry::Shape};
/// let ball = Body::new(Shape::Sphere { radius: 0.1 });
/// let scene = Scene::builder("Yard").entity(Entity::new("ball").body(ball)).build()?;
/// let mut play = Play::new(scene);
/// play.step();
/// let before = play.state().clone();
/// play.drive("ball", [1.0, 0.0, 0.0])?;
/// play.step();
/// assert_ne!(before.fingerprint(), play.state().fingerprint());
/// play.restore(before.clone())?;
/// assert_eq!(&before, play.state());
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Debug, Default, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct State {
    pub(crate) scene: OfScene,
    pub(crate) now: Time,
    pub(crate) started: bool,
    pub(crate) causes: Causes,
    /// Where all are and how they are switched.
    #[cfg_attr(feature = "serde", serde(rename = "live"))]
    pub(crate) cast: Cast,
    pub(crate) presence: Presence,
    pub(crate) senses: Senses,
    pub(crate) motion: Motion,
    pub(crate) values: Values,
    pub(crate) runs: Runs,
    /// What is going to happen.
    pub(crate) schedule: Schedule,
    /// Where chance has got to.
    pub(crate) chance: Chance,
    /// How many numbers have been given out to what must be told apart.
    pub(crate) numbers_so_far: u64,
}

impl State {
    pub(crate) fn new(scene: &Scene) -> Self {
        Self {
            scene: OfScene(scene.mark()),
            causes: Causes::of(scene),
            cast: scene.ids().map(|entity| Self::at_start(scene, entity)).collect(),
            presence: Presence {
                stocks: vec![Stock::default(); scene.stocks.len()],
                ..Presence::default()
            },
            values: Values {
                of_scene: CountsAndFlags {
                    counts: scene.counts().clone(),
                    flags: scene.flags().clone(),
                },
                ..Values::default()
            },
            runs: Runs {
                usage: vec![Usage::default(); scene.reactions().len()],
                ..Runs::default()
            },
            chance: Chance::new(scene.seed()),
            ..Self::default()
        }
    }

    /// How an entity is to begin with.
    pub(crate) fn at_start(scene: &Scene, entity: EntityId) -> Live {
        let thing = scene.thing(entity);
        let stance = thing.mover.is_some().then(Box::default);
        let switches = [thing.enabled, thing.visible, true, true];
        Live::new(scene.entity(entity).pose(), stance, switches, thing.stocked)
    }

    /// Goes along with a scene that has grown: what is new is out of the play, children by their parents.
    pub(crate) fn grow(&mut self, scene: &Scene) {
        let new = scene.ids().skip(self.cast.len());
        self.cast.extend(new.map(|entity| {
            let mut live = Self::at_start(scene, entity);
            live.removed = !scene.is_made(entity);
            live
        }));
        self.causes.grow(scene.len());
        self.scene = OfScene(scene.mark());
    }

    /// How fast an entity walks now, in metres per second, if it walks.
    pub(crate) fn walking_speed(&self, scene: &Scene, entity: EntityId) -> Option<f64> {
        scene.walking_speed(entity)?;
        self.stat(scene, entity, scene.leg_stats.walk?)
    }

    /// How high a walker jumps now, in metres.
    pub(crate) fn jump_height(&self, scene: &Scene, entity: EntityId) -> f64 {
        let legs = scene.mover(entity).map_or(0.0, |mover| mover.legs.jump);
        self.leg_stat(scene, entity, scene.leg_stats.jump)
            .map_or(legs, |it| range::LEG_HEIGHT.clamp(it))
    }

    /// The highest step that a walker takes now, in metres.
    pub(crate) fn step_height(&self, scene: &Scene, entity: EntityId) -> f64 {
        let legs = scene.mover(entity).map_or(0.0, |mover| mover.legs.step);
        self.leg_stat(scene, entity, scene.leg_stats.step)
            .map_or(legs, |it| range::LEG_HEIGHT.clamp(it))
    }

    /// The acceleration with which something falls now, in metres per second squared.
    pub(crate) fn gravity(&self, scene: &Scene, entity: EntityId) -> f64 {
        let own = self.leg_stat(scene, entity, scene.leg_stats.gravity);
        own.map_or(scene.gravity(), |it| range::GRAVITY.clamp(it))
    }

    /// A stat that legs go by, of a walker that has it.
    fn leg_stat(&self, scene: &Scene, entity: EntityId, stat: Option<StatId>) -> Option<f64> {
        let stat = stat?;
        scene.mover(entity).filter(|mover| mover.walks)?;
        self.stat(scene, entity, stat)
    }

    /// The present moment.
    pub fn now(&self) -> Time {
        self.now
    }

    /// A number that is the same for equal states, on any machine. It does not matter how the scene came
    /// to have its entities.
    pub fn fingerprint(&self) -> u64 {
        let mut hasher = Fnv::default();
        self.hash(&mut hasher);
        hasher.finish()
    }

    pub(crate) fn live(&self, entity: EntityId) -> &Live {
        self.cast.get(entity)
    }

    pub(crate) fn live_mut(&mut self, entity: EntityId) -> &mut Live {
        self.cast.get_mut(entity)
    }

    /// The first of the entity and its ancestors that is off or removed: what keeps it from
    /// being effective.
    pub(crate) fn switched_off_by(&self, scene: &Scene, entity: EntityId) -> Option<EntityId> {
        self.lineage(scene, entity).find(|entity| {
            let live = self.live(*entity);
            !live.is_on(Switch::Enabled) || live.taken.is_some() || live.removed
        })
    }

    /// Whether the entity or an ancestor has been taken out of the play, or is still in stock.
    pub(crate) fn is_gone(&self, scene: &Scene, entity: EntityId) -> bool {
        self.lineage(scene, entity).any(|entity| self.live(entity).removed)
    }

    /// The first of the entity and its ancestors whose switch is off, or that is off altogether.
    pub(crate) fn off_by(
        &self,
        scene: &Scene,
        entity: EntityId,
        switch: Switch,
    ) -> Option<EntityId> {
        self.lineage(scene, entity).find(|entity| {
            let live = self.live(*entity);
            let shown = switch == Switch::Visible;
            // What is merely off is still seen.
            !live.is_on(switch)
                || live.taken.is_some()
                || live.removed
                || (!shown && !live.is_on(Switch::Enabled))
        })
    }

    /// How often the detectors of an entity may act.
    pub(crate) fn limits(&self, scene: &Scene, on: EntityId) -> LimitsSpec {
        self.senses.limits.get(&on).copied().unwrap_or_else(|| scene.limits(on))
    }

    /// The stay of a whole subject.
    pub(crate) fn stay(&self, on: EntityId, detector: Detector, who: EntityId) -> Option<&Stay> {
        self.senses.occupancies.get(&(on, detector))?.stays.get(&(who, WHOLE))
    }

    /// Which parts of a subject are detected, or [`WHOLE`].
    pub(crate) fn parts_within(
        &self,
        on: EntityId,
        detector: Detector,
        who: EntityId,
    ) -> impl Iterator<Item = u32> {
        let stays = self.senses.occupancies.get(&(on, detector)).into_iter();
        let range = (who, 0)..=(who, WHOLE);
        stays.flat_map(move |found| found.stays.range(range.clone()).map(|((_, part), _)| *part))
    }

    /// Whom a detector knows of, told or not; each once, in order.
    pub(crate) fn known(&self, on: EntityId, detector: Detector) -> SmallVec<[EntityId; 4]> {
        let stays = self.senses.occupancies.get(&(on, detector)).into_iter();
        let mut known: SmallVec<_> =
            stays.flat_map(|found| found.stays.keys().map(|(who, _)| *who)).collect();
        known.dedup();
        known
    }

    /// Whom a detector detects; each once, in order.
    pub(crate) fn detected(&self, on: EntityId, detector: Detector) -> Vec<EntityId> {
        let stays = self.senses.occupancies.get(&(on, detector)).into_iter();
        let stays = stays.flat_map(|found| &found.stays).filter(|(_, stay)| !stay.silent);
        let mut detected: Vec<_> = stays.map(|((who, _), _)| *who).collect();
        detected.dedup();
        detected
    }
}
