//! Bodies that a host tells where to be: most are passed over at once, the others looked at.

use crate::Time;
use crate::describe::{Detector, EntityId};
use crate::detect::{Pair, boundary_distance};
use crate::geometry::tree::Bounds;
use crate::geometry::{Aabb, Convex, Glide, Pose, Proof};
use crate::model::{BodySpec, Scene};
use crate::space::{Face, Indices};
use crate::state::{Cause, Origin, State, Told};
use crate::why::Witness;

use super::clearance::{HAIR, Near, RANGE, Room, Step};
use super::watch::Watch;
use super::{Play, intents};

impl Play {
    /// Takes in where bodies have been told to be.
    pub(super) fn take_told<W: Witness>(&mut self, witness: &mut W) {
        if !self.state.schedule.has_told() {
            return;
        }
        let told = self.state.schedule.take_told();
        let before = self.state.causes.now;
        for told in told.iter() {
            self.state.causes.now = Origin::Input(told.number);
            // A witness is to hear of everybody.
            if W::LISTENS || !self.goes_on(&told) {
                self.be_told(&told, witness);
            }
            self.settle_all(witness);
        }
        self.state.causes.now = before;
        self.look_at_told();
        self.state.schedule.give_back(told);
    }

    /// Lets a body go on that nothing can begin or cease to detect on its way. `false` if that is not
    /// known.
    fn goes_on(&mut self, told: &Told) -> bool {
        let Told { who, to, rotation, until, .. } = *told;
        let (scene, state, watch) = (&*self.scene, &mut self.state, &mut self.runtime.watch);
        let Some(place) = state.cast.lane.place(who) else { return false };
        if !watch.clearances.step(place, to, rotation, || state.cast.lane.turned(place)) {
            return false;
        }
        if !watch.rounds.is_empty() && watch.is_noticed(scene, state, (who, place)) {
            return false;
        }
        state.go_on(place, to, rotation, until);
        state.stir(who, Cause::Move);
        true
    }

    /// Sets out a body that is to be looked at.
    fn be_told<W: Witness>(&mut self, told: &Told, witness: &mut W) {
        let Told { who, to, rotation, until, .. } = *told;
        let (scene, state, watch) = (&*self.scene, &mut self.state, &mut self.runtime.watch);
        let known = state.cast.way(who).filter(|place| watch.clearances.knows(*place));
        let is_plain = known.is_some() || is_plain(scene, state, who);
        if W::LISTENS || !is_plain || state.is_gone(scene, who) {
            self.look_at_told();
            return self.apply_input(told.input(), witness);
        }
        if let Some(place) = known {
            state.go_on(place, to, rotation, until);
            watch.clearances.bind(place);
        } else {
            intents::drive(scene, state, who, told.target(), until);
        }
        state.stir(who, Cause::Move);
        // Looked at one after another, they find the way there better known.
        watch.told.push(who);
    }

    /// Looks at all that have been told where to be and could not simply go on.
    fn look_at_told(&mut self) {
        let watch = &mut self.runtime.watch;
        let mut told = std::mem::take(&mut watch.told);
        for who in told.drain(..) {
            watch.disturb(&self.scene, &self.state, who, Cause::Move);
        }
        watch.told = told;
    }
}

impl Watch {
    /// The step that a body makes, with its place in the lane, if it is one of those for which it is worth
    /// knowing the surroundings: straight, even, short, as a host makes one each tick; of no length if
    /// it says that the body has stayed where it is.
    pub(super) fn step_of(
        &self,
        scene: &Scene,
        state: &State,
        (entity, cause): (EntityId, Cause),
    ) -> Option<(usize, Step)> {
        let way = state.cast.way(entity)?;
        // What else has happened to it at this instant is yet to be told, wherever it is.
        let makes_steps = cause == Cause::Move
            && !state.live(entity).removed
            && (self.clearances.knows(way) || is_plain(scene, state, entity))
            && self.other_reason(entity, state.now).is_none();
        if !makes_steps {
            return None;
        }
        let (from, to) = (state.cast.pose(entity, state.now), state.cast.pose(entity, Time::MAX));
        let mut length = from.position.distance(to.position);
        if from.rotation != to.rotation {
            let body = scene.thing(entity).body.as_ref()?;
            length += body.carried_by_turn(from.rotation, to.rotation);
        }
        (length < RANGE / 4.0).then_some((way, Step { from, to, length }))
    }

    /// Whether anything asked in rounds may notice a body that makes steps in known surroundings.
    pub(super) fn is_noticed(
        &mut self,
        scene: &Scene,
        state: &State,
        (entity, place): (EntityId, usize),
    ) -> bool {
        // What senses itself, or can be used, matters in more ways than by being there.
        if scene.thing(entity).senses.is_some() || self.rounds.has(entity) {
            return true;
        }
        let rounds = &self.rounds;
        let ask = |within: &Aabb| rounds.may_notice((scene, state), entity, within);
        self.clearances.around(place).is_noticed(rounds.moves(), ask)
    }

    /// Looks at a body that makes a step: examines the zones whose boundary it may reach, or else finds
    /// what leeway it has.
    pub(super) fn look_at_step(
        &mut self,
        scene: &Scene,
        state: &State,
        entity: EntityId,
        (place, step): (usize, &Step),
    ) {
        let thing = scene.thing(entity);
        let Some(body) = &thing.body else { return };
        self.marks[entity.index()].until = Time::MAX;
        if !self.clearances.around(place).hold(step) {
            self.look_around(scene, state, (entity, body), (place, step));
        }
        let around = self.clearances.around(place);
        let mut near = std::mem::take(&mut around.near);
        let mut room = Room::new(body, step, around);
        let mut is_free = true;
        for near in &mut near {
            is_free &= self.passes(scene, state, (entity, step), near, &mut room);
        }
        // Whoever is in the way of walkers is seen by them, and who has company moves it.
        let matters = scene.has_movers() && body.blocks || !state.is_alone(scene, entity);
        if is_free && !matters {
            self.clearances.give(place, &room);
        }
        self.clearances.around(place).near = near;
    }

    /// Finds the zones around a body.
    fn look_around(
        &mut self,
        scene: &Scene,
        state: &State,
        (entity, body): (EntityId, &BodySpec),
        (place, step): (usize, &Step),
    ) {
        let mut found = std::mem::take(&mut self.near);
        found.clear();
        found.extend(self.inside_of(entity));
        found.dedup();
        let around = self.clearances.around(place);
        around.begin(step, body.reach());
        let bounds = around.bounds();
        // So that a zone that comes near finds it wherever it has gone meanwhile.
        self.indices.bodies.cover(entity, &bounds, RANGE);
        let layers = scene.thing(entity).layers.0;
        let Indices { zones, touches, .. } = &self.indices;
        for (index, detector) in [(zones, Detector::Zone), (touches, Detector::Touch)] {
            index.meeting_bounds(&bounds, layers, |face, bounds| {
                let on = face.entity;
                let inside = found.binary_search(&(on, detector)).is_ok();
                let pair = Pair { scene, state, on, detector, who: entity };
                if face.is_picky && !inside && pair.refusal().is_some() {
                    return;
                }
                let form = face.form.as_ref();
                let fills = form.is_some_and(|form| form.fills_bounds(&face.pose));
                let still = face.still;
                around.near.push(Near { on, detector, still, fills, inside, bounds, proof: None });
            });
        }
        // Who is farther away than it can be detected is looked at in any case.
        for &(on, detector) in &found {
            if !around.near.iter().any(|near| (near.on, near.detector) == (on, detector)) {
                let (still, fills, bounds) = (false, false, Bounds::EMPTY);
                let near = Near { on, detector, still, fills, inside: true, bounds, proof: None };
                around.near.push(near);
            }
        }
        self.near = found;
    }

    /// Whether a step surely does not cross the boundary of something near, and what leeway that
    /// leaves. If it may, its crossings are looked for.
    fn passes(
        &mut self,
        scene: &Scene,
        state: &State,
        (entity, step): (EntityId, &Step),
        near: &mut Near,
        room: &mut Room<'_>,
    ) -> bool {
        let passes = near.still
            && self.other_reason(near.on, state.now).is_none()
            && (room.passes(near)
                || self.passes_exactly((scene, state), (entity, step), near, room));
        if !passes {
            self.examine(scene, state, (near.on, near.detector, entity), Cause::Move);
        }
        passes
    }

    /// As [`passes`](Self::passes), by the shapes instead of their bounds.
    fn passes_exactly(
        &self,
        (scene, state): (&Scene, &State),
        (entity, step): (EntityId, &Step),
        near: &mut Near,
        room: &mut Room<'_>,
    ) -> bool {
        let index = match near.detector {
            Detector::Zone => &self.indices.zones,
            _ => &self.indices.touches,
        };
        let Some(Face { form: Some(form), pose, .. }) = index.face(near.on) else { return false };
        let of_parts = scene.thing(near.on).region(near.detector).is_none_or(|it| it.parts);
        if let (false, Some(body)) = (of_parts, &scene.thing(entity).body)
            && let (Some(zone), Some(piece)) = (single(form.pieces()), single(body.pieces()))
        {
            let is_proven = is_proven(near, (zone, *pose), (piece, step), room);
            let pair = || Pair { scene, state, on: near.on, detector: near.detector, who: entity };
            return is_proven || pair().refusal().is_some();
        }
        let on = (near.on, near.detector, form, pose);
        let (is_inside, distance) = boundary_distance(scene, state, on, (entity, &step.from));
        room.keep_near(distance);
        distance > step.length && is_inside == near.inside
    }
}

/// Whether something proves that a step does not cross the boundary of a zone at rest. It is kept for the
/// next step.
fn is_proven(
    near: &mut Near,
    ((offset, shape), pose): ((Pose, &Convex), Pose),
    ((at, piece), step): ((Pose, &Convex), &Step),
    room: &mut Room<'_>,
) -> bool {
    let zone = Glide { shape, offset, from: pose, to: pose };
    let body = Glide { shape: piece, offset: at, from: step.from, to: step.to };
    let mut holds = |proof: Proof| {
        let (distance, least) = proof.on_the_way(&zone, &body);
        let holds = least > HAIR && proof.is_contact() == near.inside;
        if holds {
            room.keep_near(distance);
        }
        holds
    };
    if near.proof.is_some_and(&mut holds) {
        return true;
    }
    near.proof = Proof::find(&zone, &body);
    near.proof.is_some_and(holds)
}

/// What there is one of, and no more.
fn single<T>(mut all: impl Iterator<Item = T>) -> Option<T> {
    let first = all.next()?;
    all.next().is_none().then_some(first)
}

/// Whether something has a body and nothing else by which it is found, and nothing carries it.
fn is_plain(scene: &Scene, state: &State, entity: EntityId) -> bool {
    let thing = scene.thing(entity);
    thing.body.is_some()
        && thing.zone.is_none()
        && thing.solid.is_none()
        && thing.mover.is_none()
        && !thing.has(Detector::Touch)
        && !thing.has(Detector::Prompt)
        && scene.attached_solids(entity).is_empty()
        && state.live(entity).rides.is_none()
        && state.parent(scene, entity).is_none()
}
