//! Deciding: what a body does from here, given what it touches and where it wants to go.

use glam::{DVec2, DVec3};
use smallvec::SmallVec;

use crate::Time;
use crate::describe::{Blocked, EntityId};
use crate::geometry::{Pose, ROUNDING};
use crate::space::Space;
use crate::state::Mode;

use super::ahead::APPROACH;
use super::contact::{Around, CONTACT, Contact, FIRM, SUPPORT};
use super::controller::{Controller, Course, Desire, Plan};
use super::load::mover_of;
use super::solve::{Bound, Solution, solve};
use super::tolerance::{AT_REST, PARTING, SLOWED, WORTHWHILE};

/// How long a body falls before it is looked at anew, in seconds.
const LONGEST_FALL: f64 = 4.0;

/// How long a body keeps going the same way when it is pushed, led along a wall, or carried.
const GLANCE: Time = Time::from_nanos(50_000_000);

/// Decides what a body does from now on; none if it does not move by itself.
pub(crate) fn decide(space: Space<'_>, who: EntityId) -> Option<Plan> {
    let mover = mover_of(space, who)?;
    let around = Around { space, who, mover: &mover, holder: None };
    let live = space.state.live(who);
    let mut stance = live.stance.as_deref()?.clone();
    let fresh = stance.undecided;
    (stance.undecided, stance.wait) = (false, None);
    let mut pose = space.state.pose(space.scene, who, space.state.now);
    if fresh {
        pose = depenetrated(&around, pose);
    }
    // Who has been led is given back at rest, and what is pushed keeps no speed.
    let keeps = stance.mode != Mode::Led
        && (around.mover.walks || stance.mode == Mode::Falls || stance.stirred);
    let travel = space.state.cast.travel(who).filter(|_| keeps);
    let own = travel.map_or(DVec3::ZERO, |travel| travel.velocity(around.now()));
    let mut controller = Controller { around, stance, pose, rides: live.rides, own };
    let launch = controller.stance.launch.take().map(DVec3::from);
    Some(match (launch, controller.stance.mode) {
        (Some(velocity), _) => controller.fall(velocity),
        (None, Mode::Falls) => controller.fall(own),
        _ => controller.stand(),
    })
}

/// What moves towards a body that touches it.
pub(crate) fn pressing(space: Space<'_>, who: EntityId) -> SmallVec<[EntityId; 1]> {
    let mover = mover_of(space, who);
    mover.map_or_else(SmallVec::new, |mover| {
        Around { space, who, mover: &mover, holder: None }.pressing()
    })
}

/// The pose lifted out of ground that the body has been put into, if that is no higher than a step.
fn depenetrated(around: &Around<'_>, pose: Pose) -> Pose {
    let step = around.step();
    let mut depenetrated = pose;
    for _ in 0..4 {
        let sunk = around.depths(&depenetrated);
        let lift = sunk
            .iter()
            .filter(|contact| around.is_walkable(contact.normal))
            .map(|contact| -contact.gap / contact.normal.y)
            .fold(0.0, f64::max);
        if lift == 0.0 {
            break;
        }
        depenetrated.position.y += lift;
    }
    let lifted = depenetrated.position.y - pose.position.y;
    if lifted > 0.0 && lifted <= step.max(0.01) { depenetrated } else { pose }
}

impl Controller<'_> {
    /// Goes on through the air with a velocity in the world, or slides down what is steep.
    fn fall(mut self, velocity: DVec3) -> Plan {
        let around = self.around;
        if !around.mover.walks {
            return self.free_fall(velocity);
        }
        let contacts = around.contacts(&self.pose, CONTACT);
        let moving = |contact: &Contact| around.velocity_of(contact.by, contact.point);
        let comes = |contact: &Contact| (velocity - moving(contact)).dot(contact.normal) <= PARTING;
        if contacts.iter().any(|it| !it.held && around.is_walkable(it.normal) && comes(it)) {
            self.stance.mode = Mode::Stands;
            self.own = DVec3::ZERO;
            return self.stand();
        }
        let Some(velocity) = self.deflected(velocity, &contacts) else {
            return self.resolve_stuck(&contacts);
        };
        let mut acceleration = DVec3::NEG_Y * around.gravity();
        let mut leans: SmallVec<[Option<EntityId>; 2]> = SmallVec::new();
        for _ in 0..4 {
            for contact in &contacts {
                let rests = (velocity - moving(contact)).dot(contact.normal) <= PARTING;
                let into = acceleration.dot(contact.normal).min(0.0);
                if rests && into < 0.0 {
                    acceleration -= contact.normal * into;
                    leans.push(contact.by);
                }
            }
        }
        leans.sort_unstable();
        leans.dedup();
        self.rides = None;
        self.stance.mode = Mode::Falls;
        self.stance.stride.clear();
        self.stance.leans = leans;
        if velocity.length() < AT_REST && acceleration.length() < AT_REST {
            // Wedged in: as good as standing.
            self.stance.mode = Mode::Stands;
            return self.planned(Course::Still);
        }
        let until = self.now() + Time::from_secs(LONGEST_FALL);
        self.planned(Course::Arc { velocity, acceleration, until })
    }

    /// The velocity in the world, turned aside so that it leads into nothing that the body touches;
    /// none if it cannot give way.
    pub fn deflected(&self, velocity: DVec3, contacts: &[Contact]) -> Option<DVec3> {
        let mut velocity = velocity;
        let moving: SmallVec<[DVec3; 4]> = contacts
            .iter()
            .map(|contact| self.around.velocity_of(contact.by, contact.point))
            .collect();
        // What slides along several walls at once is deflected by each in turn.
        for _ in 0..200 {
            let mut worst: f64 = 0.0;
            for (contact, moving) in contacts.iter().zip(&moving) {
                let into = (velocity - moving).dot(contact.normal).min(0.0);
                velocity -= contact.normal * into;
                worst = worst.max(-into);
            }
            if worst < APPROACH / 4.0 {
                return Some(velocity);
            }
        }
        None
    }

    /// Can give way no more: what comes must stop.
    pub fn resolve_stuck(mut self, contacts: &[Contact]) -> Plan {
        let comes = |contact: &&Contact| {
            let moves = self.around.velocity_of(contact.by, contact.point);
            moves.dot(contact.normal) > ROUNDING
        };
        let stops: SmallVec<[EntityId; 1]> =
            contacts.iter().filter(comes).filter_map(|contact| contact.by).collect();
        if stops.is_empty() {
            self.stance.mode = Mode::Held;
            self.stance.wait = Some(self.now() + GLANCE);
        }
        self.rides = None;
        Plan { stops, ..self.planned(Course::Still) }
    }

    pub fn planned(&self, course: Course) -> Plan {
        let (stance, pose, rides) = (self.stance.clone(), self.pose, self.rides);
        Plan { pose, rides, course, stance, stops: SmallVec::new(), halt: None, settled: false }
    }

    /// How fast what carries the body moves there.
    pub fn carried(&self) -> DVec3 {
        self.around.velocity_of(self.rides, self.pose.position)
    }

    /// How fast the body moves in the world.
    pub fn velocity(&self) -> DVec3 {
        let turn = self.rides.map(|carrier| self.around.pose_of(Some(carrier), self.now()));
        self.carried() + turn.map_or(self.own, |pose| pose.rotation * self.own)
    }

    /// Stands or walks on what is below, or falls if there is nothing.
    fn stand(mut self) -> Plan {
        let around = self.around;
        if !around.mover.walks {
            return self.lie();
        }
        self.stance.mode = Mode::Stands;
        if !self.stance.stride.is_empty()
            && let Some(plan) = self.stride_on()
        {
            return plan;
        }
        let mut contacts = around.contacts(&self.pose, SUPPORT);
        let mut supports = self.supports(&contacts);
        let jumps = std::mem::take(&mut self.stance.jumps);
        if supports.is_empty() && !jumps {
            let desire = self.steer(false);
            if self.settles(desire.velocity) {
                contacts = around.contacts(&self.pose, SUPPORT);
                supports = self.supports(&contacts);
            }
            if supports.is_empty() {
                if let Some(plan) = self.step_down(desire.velocity) {
                    return plan;
                }
                let velocity = self.velocity();
                return self.fall(velocity);
            }
        }
        if jumps {
            // It stood when it was told to, be it between two bumps.
            let height = around.state().jump_height(around.scene(), around.who);
            let mut velocity = self.velocity();
            velocity.y += (2.0 * around.gravity() * height).sqrt();
            return self.fall(velocity);
        }
        let desire = self.steer(true);
        let ground = self.choose(&supports, desire.velocity);
        // What has come up a little into the body lifts it.
        if ground.gap < -SUPPORT / 2.0 {
            self.pose.position.y -= ground.gap / ground.normal.y;
        }
        self.rides = ground.by;
        self.walk(ground, &contacts, desire)
    }

    pub fn supports(&self, contacts: &[Contact]) -> SmallVec<[Contact; 4]> {
        let carries = |contact: &&Contact| {
            !contact.held && self.around.is_walkable(contact.normal) && contact.gap <= FIRM
        };
        contacts.iter().filter(carries).copied().collect()
    }

    /// Comes down by the hair's breadth that the ground has sunk below the feet, unless it falls
    /// away from there.
    pub fn settles(&mut self, wanted: DVec2) -> bool {
        let found = self.around.drop(self.pose, 4.0 * SUPPORT);
        let Some((depth, _, normal)) = found else { return false };
        if normal.y < 0.9999 && wanted != DVec2::ZERO {
            // On an edge, or where the ground bends down: is there more of it ahead?
            let (step, half) = (self.around.step(), self.around.mover.width / 2.0);
            let mut ahead = self.pose;
            let way = wanted.normalize_or_zero() * half;
            ahead.position += DVec3::new(way.x, step, way.y);
            let slope = half * self.around.mover.legs.slope.min(1.2).sin() * 2.0;
            if self.around.drop(ahead, 2.0 * step + slope).is_none() {
                return false;
            }
        }
        self.pose.position.y -= depth;
        true
    }

    /// What to stand on: where it goes up most along the way one wants to go; or else what one
    /// stands on already, or the flattest.
    pub fn choose(&self, supports: &[Contact], wanted: DVec2) -> Contact {
        let rises = |contact: &Contact| {
            let moves = self.around.velocity_of(contact.by, contact.point);
            let flat = DVec2::new(contact.normal.x, contact.normal.z);
            let rise = moves.y - flat.dot(wanted - DVec2::new(moves.x, moves.z)) / contact.normal.y;
            // A hair more or less is none.
            (rise * 1e6).round()
        };
        let known = |contact: &Contact| contact.by.is_some() && contact.by == self.rides;
        let best = supports.iter().copied().reduce(|best, next| {
            let key = |it: &Contact| (rises(it), known(it), (it.normal.y * 1e6).round());
            let (one, other) = (key(&best), key(&next));
            let more = other.0.total_cmp(&one.0).then(other.1.cmp(&one.1));
            if more.then(other.2.total_cmp(&one.2)).is_gt() { next } else { best }
        });
        best.unwrap_or(supports[0])
    }

    /// Walks on `ground` as it wants to, as far as what it touches lets it.
    pub fn walk(mut self, ground: Contact, contacts: &[Contact], mut desire: Desire) -> Plan {
        let carried = self.carried();
        let bounds = self.bounds(&ground, contacts, carried);
        let mut wanted = desire.velocity;
        let mut solved = solve(wanted, &bounds);
        let slowed = |solved: &Solution, wanted: DVec2| {
            solved.velocity.distance(wanted) > SLOWED * wanted.length()
        };
        if wanted != DVec2::ZERO && slowed(&solved, wanted) {
            // No walker steps onto what comes towards it.
            if bounds.iter().all(|bound| bound.pushes.abs() < ROUNDING)
                && let Some(plan) = self.step_up(wanted)
            {
                return plan;
            }
            let by = bounds.iter().find(|bound| bound.along.dot(wanted) < bound.least - ROUNDING);
            let by = by.map(|bound| bound.by);
            desire = self.bumps(by.flatten(), desire);
            wanted = desire.velocity;
            solved = solve(wanted, &bounds);
            let along = |solved: &Solution| {
                solved.velocity.dot(wanted) > WORTHWHILE * wanted.length_squared()
            };
            if wanted != DVec2::ZERO && slowed(&solved, wanted) && !along(&solved) {
                // Not even along it.
                desire = self.is_stopped(by.flatten());
                wanted = DVec2::ZERO;
                solved = solve(wanted, &bounds);
            }
        }
        let Solution { velocity, active, mut stuck } = solved;
        stuck |= active.iter().any(|index| self.yields(&bounds[*index]));
        let mut leans: SmallVec<[Option<EntityId>; 2]> = SmallVec::new();
        leans.push(ground.by);
        leans.extend(active.iter().map(|index| bounds[*index].by));
        if desire.halt.is_some() || wanted == DVec2::ZERO {
            let touches = |by: &EntityId| {
                let near = |contact: &Contact| contact.gap <= FIRM;
                contacts.iter().any(|contact| contact.by == Some(*by) && near(contact))
            };
            leans.extend(desire.against.filter(touches).map(Some));
        }
        leans.sort_unstable();
        leans.dedup();
        self.stance.leans = leans;
        let halt = desire.halt.take();
        if stuck {
            let mut stops: SmallVec<[EntityId; 1]> = bounds
                .iter()
                .filter(|bound| bound.pushes > ROUNDING)
                .filter_map(|bound| bound.by)
                .collect();
            if stops.is_empty() && carried.length() > ROUNDING {
                stops.extend(ground.by);
            }
            if stops.is_empty() {
                self.stance.mode = Mode::Held;
                self.stance.wait = Some(self.now() + GLANCE);
            }
            let mut plan = self.planned(Course::Still);
            plan.stops = stops;
            plan.halt = halt;
            return plan;
        }
        let flat = DVec2::new(ground.normal.x, ground.normal.z);
        let climb = -flat.dot(velocity) / ground.normal.y;
        let exact = velocity == wanted;
        let mut until = desire.until.filter(|_| exact);
        if !exact || self.is_carried_off(&ground) {
            let glance = self.now() + GLANCE;
            until = Some(until.map_or(glance, |until| until.min(glance)));
        }
        for index in &active {
            if let Some(end) = self.stretch_of(bounds[*index].by) {
                until = Some(until.map_or(end, |until| until.min(end)));
            }
        }
        if wanted != DVec2::ZERO {
            self.face(wanted);
        }
        let now = self.now();
        let course = match until {
            Some(until) if velocity != DVec2::ZERO && until > now => {
                let way = match desire.exactly.filter(|_| exact && desire.until == Some(until)) {
                    Some(way) => way,
                    None => velocity * (until - now).secs(),
                };
                let up = climb * way.length() / velocity.length();
                Course::Straight { way: DVec3::new(way.x, up, way.y), until }
            }
            _ => Course::Still,
        };
        let mut plan = self.planned(course);
        plan.halt = halt;
        plan
    }

    /// Whether what pushes the body is to stop for it instead.
    fn yields(&self, bound: &Bound) -> bool {
        let (scene, state, now) = (self.around.scene(), self.around.state(), self.now());
        let Some(by) = bound.by.filter(|_| bound.pushes > ROUNDING) else { return false };
        state.carriers(scene, by).any(|carrier| {
            state.cast.end(carrier).is_some_and(|end| end > now)
                && state
                    .motion
                    .trips
                    .get(&carrier)
                    .is_some_and(|trip| trip.blocked != Blocked::Push)
        })
    }

    /// Whether what the body stands on moves.
    fn is_carried_off(&self, ground: &Contact) -> bool {
        ground.by.is_some_and(|by| self.around.state().is_moving(self.around.scene(), by))
    }

    /// Until when an obstacle moves as it does now, if it moves.
    fn stretch_of(&self, by: Option<EntityId>) -> Option<Time> {
        let (state, scene, now) = (self.around.state(), self.around.scene(), self.now());
        let by = by.filter(|by| state.is_moving(scene, *by))?;
        let path = state.path(scene, by, now, state.horizon(scene, by));
        Some(path.segments()[0].end)
    }

    /// Turns the way it goes, if there is room for that.
    fn face(&mut self, wanted: DVec2) {
        let turned = self.pose.facing(DVec3::new(wanted.x, 0.0, wanted.y));
        if self.around.mover.round || turned == self.pose {
            self.pose = turned;
            return;
        }
        let deepest = |pose: &Pose| {
            let contacts = self.around.contacts(pose, 0.0);
            contacts.iter().map(|contact| contact.gap).fold(-2.0 * CONTACT, f64::min)
        };
        let sinks = self.around.depths(&turned).len() > self.around.depths(&self.pose).len();
        let fits = !sinks && deepest(&turned) >= deepest(&self.pose) - CONTACT;
        if fits && self.around.reaches(&turned) {
            self.pose = turned;
        }
    }

    /// What a velocity over the ground must keep to.
    fn bounds(
        &self,
        ground: &Contact,
        contacts: &[Contact],
        carried: DVec3,
    ) -> SmallVec<[Bound; 4]> {
        let flat = |normal: DVec3| DVec2::new(normal.x, normal.z);
        let touching = contacts.iter().filter(|contact| contact.gap <= CONTACT);
        let others = touching.filter(|it| it.by != ground.by || it.normal != ground.normal);
        let mut bounds: SmallVec<[Bound; 4]> = SmallVec::new();
        for contact in others {
            let comes = self.around.velocity_of(contact.by, contact.point) - carried;
            let normal = contact.normal;
            // Whoever goes along also goes up or down, as the ground does.
            let along = flat(normal) - flat(ground.normal) * (normal.y / ground.normal.y);
            let least = comes.dot(normal);
            let length = along.length();
            let pushes = self.around.velocity_of(contact.by, contact.point).dot(normal);
            if length > ROUNDING {
                let (along, least) = (along / length, least / length);
                bounds.push(Bound { along, least, by: contact.by, pushes });
            } else if least > AT_REST {
                // It comes down on the body, which cannot give way.
                bounds.push(Bound { along: DVec2::ZERO, least, by: contact.by, pushes });
            }
        }
        bounds
    }
}
