//! Where somebody on foot wants to go from here.

use glam::{DVec2, DVec3};

use crate::Time;
use crate::describe::EntityId;
use crate::state::{Order, Target};

use super::controller::{Controller, Desire, Halt};
use super::way;

/// How near is there, in metres.
const THERE: f64 = 1e-6;

/// How long somebody waits before looking for a way again.
const PATIENCE: Time = Time::from_nanos(250_000_000);

/// How far somebody who is followed may go before another way is looked for, in metres.
const ASTRAY: f64 = 0.2;

impl Controller<'_> {
    /// What it wants to do by its orders; `looks` for a way if it knows none.
    pub fn steer(&mut self, looks: bool) -> Desire {
        let Some(mut order) = self.stance.order.take() else { return Desire::default() };
        let desire = self.obey(&mut order, looks);
        if !order.to.is_empty() {
            self.stance.order = Some(order);
        }
        desire
    }

    fn obey(&mut self, order: &mut Order, looks: bool) -> Desire {
        let (state, scene, now) = (self.around.state(), self.around.scene(), self.around.now());
        let speed = state.walking_speed(scene, self.around.who).unwrap_or_default();
        let rest = Desire::default();
        while let Some(target) = order.to.front() {
            let place = target.pose(state, scene, self.pose).position;
            let follow = order.follow.filter(|_| order.to.len() == 1);
            if let Some(near) = follow {
                self.stance.wait = Some(now + PATIENCE);
                if self.over_ground(place).length() <= near {
                    order.sought = None;
                    return rest;
                }
            }
            // Whoever goes to somebody who moves goes where that is now.
            let astray = place.distance(order.goal) > ASTRAY;
            if astray && order.sought.is_some_and(|sought| sought + PATIENCE <= now) {
                order.sought = None;
            }
            let moves = match target {
                Target::Entity(entity) => state.is_moving(scene, *entity),
                _ => false,
            };
            if speed <= 0.0 {
                return rest;
            }
            let gave_up = order.way.is_empty() && !order.whole;
            let (stirs, under_way) = state.motion.stirs;
            let waited = order.sought.is_none_or(|sought| {
                let stirred = stirs != order.stirs || sought < under_way;
                gave_up && stirred && sought + PATIENCE <= now
            });
            if waited {
                if !looks {
                    return rest;
                }
                (order.goal, order.sought, order.stirs) = (place, Some(now), stirs);
                (order.way, order.whole) = if order.straight {
                    (vec![place], true)
                } else {
                    let way = way::find(&self.around, self.pose, place);
                    (way.points, way.whole)
                };
            }
            while let Some(next) = order.way.last() {
                let way = self.over_ground(*next);
                let length = way.length();
                if length > THERE {
                    let mut until = now + Time::from_secs(length / speed);
                    if moves {
                        until = until.min(now + PATIENCE);
                    }
                    let velocity = way * (speed / length);
                    let whole = until == now + Time::from_secs(length / speed);
                    let exactly = Some(way).filter(|_| whole);
                    return Desire { velocity, until: Some(until), exactly, ..rest };
                }
                order.way.pop();
            }
            if !order.whole {
                return self.give_up(order, None);
            }
            if follow.is_some() {
                return rest;
            }
            order.to.pop_front();
            (order.sought, order.reported) = (None, false);
        }
        rest
    }

    /// The way to a place, as seen from above.
    fn over_ground(&self, place: DVec3) -> DVec2 {
        let way = place - self.pose.position;
        DVec2::new(way.x, way.z)
    }

    /// It has bumped into something on its way: looks for another, or is there if it was that.
    pub fn bumps(&mut self, by: Option<EntityId>, before: Desire) -> Desire {
        let Some(mut order) = self.stance.order.take() else { return before };
        let (state, scene, now) = (self.around.state(), self.around.scene(), self.around.now());
        let wanted = match order.to.front() {
            Some(Target::Entity(wanted)) => Some(*wanted),
            _ => None,
        };
        let is_wanted =
            |by| wanted.is_some_and(|wanted| state.lineage(scene, by).any(|up| up == wanted));
        let desire = if by.is_some_and(is_wanted) && order.follow.is_none() {
            order.to.pop_front();
            (order.sought, order.reported) = (None, false);
            order.way.clear();
            self.obey(&mut order, true)
        } else if order.straight {
            // It goes along what is in the way, if that leads on at all.
            before
        } else if order.sought.is_none_or(|sought| sought + PATIENCE <= now) {
            let hopeful = std::mem::take(&mut order.whole);
            order.sought = None;
            let desire = self.obey(&mut order, true);
            if hopeful || order.whole {
                desire
            } else {
                // As near as it gets: there is no use in going elsewhere to be as far away.
                order.way.clear();
                self.give_up(&mut order, by)
            }
        } else {
            before
        };
        if !order.to.is_empty() {
            self.stance.order = Some(order);
        }
        desire
    }

    /// It gets no further; tells that once.
    pub fn is_stopped(&mut self, by: Option<EntityId>) -> Desire {
        let Some(mut order) = self.stance.order.take() else { return Desire::default() };
        order.way.clear();
        order.whole = false;
        let desire = self.give_up(&mut order, by);
        self.stance.order = Some(order);
        desire
    }

    fn give_up(&mut self, order: &mut Order, by: Option<EntityId>) -> Desire {
        self.stance.wait = Some(self.around.now() + PATIENCE);
        let by = by.or_else(|| {
            let to = DVec3 { y: self.pose.position.y, ..order.goal };
            self.around.in_way(self.pose, to).map(|hit| hit.entity)
        });
        let news = !std::mem::replace(&mut order.reported, true);
        let halt = news.then_some(Halt { by, goal: order.goal });
        Desire { halt, against: by, ..Desire::default() }
    }
}
