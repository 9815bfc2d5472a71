//! Taking things in hand, letting go of them, throwing them.

use glam::DVec3;

use crate::describe::{EntityId, EventKind, STRENGTH};
use crate::geometry::{Pose, gap};
use crate::model::{PlacedPart, Scene};
use crate::record::Refusal;
use crate::state::{BodyState, Cause, Event, Mode, State};

use super::ActionContext;

/// How far in front of the holder a thing is held, in metres from surface to surface.
const APART: f64 = 0.05;
/// What is let go of farther than this from where it was held, in metres, was put there: more than rounding, on the way
/// through the frames of what carries it, leaves over.
const PUT: f64 = 1e-6;

/// How something leaves a hand.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Release {
    /// Where, in the world.
    pub pose: Pose,
    /// How fast, in the world, in metres per second.
    pub velocity: DVec3,
    /// How fast it turns about Y, in radians per second.
    pub spin: f64,
}

impl ActionContext<'_> {
    /// Puts a thing into somebody's hands.
    pub fn grab(&mut self, what: EntityId, to: EntityId) -> Result<(), Refusal> {
        let scene = self.scene;
        self.state.may_grab(scene, what, to)?;
        if scene.thing(what).ownership.is_some() {
            self.own(what, to, true)?;
        }
        self.release(what);
        self.state.dismount(scene, what);
        let local = Pose::at(hold(scene, what, to));
        self.state.set_rides(what, Some(to));
        self.state.put(what, local);
        let stance = BodyState {
            mode: Mode::Carried,
            undecided: false,
            holder: Some(to),
            stirred: true,
            ..BodyState::default()
        };
        self.state.live_mut(what).stance = Some(Box::new(stance));
        self.state.decide_anew(to);
        self.disturb(what, Cause::Teleport);
        let event = Event { on: Some(what), who: Some(to), ..self.bare(EventKind::Grab) };
        self.send(event);
        Ok(())
    }

    /// Lets a thing out of somebody's hands.
    pub fn let_go(&mut self, what: EntityId, holder: EntityId, release: Option<Release>) {
        let (scene, now) = (self.scene, self.state.now);
        let pose = self.state.pose(scene, what, now);
        let (velocity, spin) = (DVec3::ZERO, 0.0);
        let release = release.unwrap_or(Release { pose, velocity, spin });
        self.state.set_rides(what, None);
        self.state.put(what, self.state.in_parent(scene, what, release.pose));
        if let Some(stance) = &mut self.state.live_mut(what).stance {
            stance.mode = Mode::Falls;
            stance.launch = Some(release.velocity.to_array());
            (stance.spin, stance.holder, stance.stirred) = (release.spin, Some(holder), true);
        }
        self.was_let_go(what, holder);
        self.state.decide_anew(holder);
        let cause = if release.pose.position.distance(pose.position) > PUT {
            Cause::Teleport
        } else {
            Cause::Move
        };
        self.disturb(what, cause);
        let event = Event { on: Some(what), who: Some(holder), ..self.bare(EventKind::Drop) };
        self.send(event);
    }

    /// Holds a thing at a place in the world from now on.
    pub fn hold_at(&mut self, what: EntityId, place: Pose) {
        let local = self.state.in_parent(self.scene, what, place);
        let stance = self.state.live_mut(what).stance.take();
        self.state.put(what, local);
        self.state.live_mut(what).stance = stance;
        self.disturb(what, Cause::Teleport);
    }

    /// Lets go of all that an entity and those below it hold.
    pub fn let_go_of_all(&mut self, holder: EntityId) {
        for entity in self.state.family(self.scene, holder) {
            let held: Vec<EntityId> = self.state.held_by(entity).collect();
            for what in held {
                self.let_go(what, entity, None);
            }
        }
    }
}

impl State {
    /// Whether somebody may take a thing; else why not.
    pub(crate) fn may_grab(
        &self,
        scene: &Scene,
        what: EntityId,
        to: EntityId,
    ) -> Result<(), Refusal> {
        let Some(carry) = scene.thing(what).carry.as_deref() else {
            return Err(Refusal::Lacks("a `carry`".into()));
        };
        // What is only carried about has none.
        if scene.mover(to).is_some_and(|mover| !mover.walks) || !scene.has_body(to) {
            return Err(Refusal::Lacks("hands".into()));
        }
        if [what, to].iter().any(|it| self.switched_off_by(scene, *it).is_some()) {
            return Err(Refusal::Gone);
        }
        if self.carriers(scene, to).any(|up| up == what) {
            return Err(Refusal::OwnChild);
        }
        if self.holder(what) == Some(to) {
            return Err(Refusal::HasAlready);
        }
        if scene.thing(what).ownership.is_some() {
            self.may_own(scene, what, to)?;
        }
        match self.holder(what) {
            Some(holder) if !carry.snatch => return Err(Refusal::InOtherHands(holder)),
            _ => {}
        }
        if let Some(held) = self.held_by(to).next() {
            return Err(Refusal::HandsFull(held));
        }
        let strength = scene.stat_id(STRENGTH).ok().and_then(|stat| self.stat(scene, to, stat));
        if let Some(strength) = strength.filter(|strength| *strength < carry.mass) {
            return Err(Refusal::TooHeavy { mass: carry.mass, strength });
        }
        Ok(())
    }

    /// Whether a thing is near enough to be taken by hand.
    pub(crate) fn within_reach(
        &self,
        scene: &Scene,
        what: EntityId,
        who: EntityId,
    ) -> Result<(), Refusal> {
        let Some(reach) = scene.thing(what).carry.as_ref().map(|carry| carry.reach) else {
            return Err(Refusal::Lacks("a `carry`".into()));
        };
        let distance = self.between(scene, what, who);
        if distance > reach { Err(Refusal::OutOfReach { distance, reach }) } else { Ok(()) }
    }

    /// How far two bodies are apart, in metres; from origin to origin if one of them has no body.
    fn between(&self, scene: &Scene, one: EntityId, other: EntityId) -> f64 {
        let pieces = |entity: EntityId| {
            let pose = self.pose(scene, entity, self.now);
            let parts = scene.thing(entity).body.iter().flat_map(|body| &body.parts);
            parts.flat_map(PlacedPart::pieces).map(move |(at, piece)| (pose * at, piece))
        };
        let all = pieces(one).flat_map(|(at, piece)| {
            pieces(other).map(move |(there, next)| gap(piece, &at, next, &there))
        });
        let origin = |entity| self.pose(scene, entity, self.now).position;
        let apart = || origin(one).distance(origin(other));
        all.reduce(f64::min).map_or_else(apart, |apart| apart.max(0.0))
    }

    /// In whose hands a thing is.
    pub(crate) fn holder(&self, what: EntityId) -> Option<EntityId> {
        let live = self.live(what);
        let held = live.stance.as_ref().is_some_and(|stance| stance.mode == Mode::Carried);
        live.rides.filter(|_| held)
    }

    /// What somebody holds.
    pub(crate) fn held_by(&self, holder: EntityId) -> impl Iterator<Item = EntityId> {
        self.riders_on(holder).filter(move |what| self.holder(*what) == Some(holder))
    }
}

/// Where a thing is held, from its holder, if there is room.
pub(crate) fn hold(scene: &Scene, what: EntityId, to: EntityId) -> DVec3 {
    let carry = scene.thing(what).carry.as_deref();
    carry.and_then(|it| it.hold).map_or_else(|| in_front(scene, what, to), DVec3::from)
}

/// The default place where a thing is held: in front of the holder, at half their height.
fn in_front(scene: &Scene, what: EntityId, to: EntityId) -> DVec3 {
    let bounds = |entity: EntityId| {
        scene.thing(entity).body.as_ref().map(|body| body.bounds_at(&Pose::IDENTITY))
    };
    let (Some(own), Some(holder)) = (bounds(what), bounds(to)) else { return DVec3::ZERO };
    let y = f64::midpoint(holder.min.y, holder.max.y) - f64::midpoint(own.min.y, own.max.y);
    DVec3::new(0.0, y, holder.min.z - APART - own.max.z)
}
