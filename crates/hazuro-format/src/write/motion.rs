//! From the description of what moves to its keys.

use hazuro::motion::Easing;
use hazuro::scene::{Blocked, Body, Carry, Legs, Pace, Route, Spawner, Then};

use crate::keys::motion::{CarryKeys, RouteKeys, SpawnerKeys};
use crate::keys::scene::BodyKeys;

/// The keys for a body's legs.
pub(crate) fn legs(body: &Body, keys: BodyKeys) -> BodyKeys {
    let (legs, usual) = (body.walking_legs(), Legs::default());
    let other = |own: f64, usual: f64| (own.to_bits() != usual.to_bits()).then_some(own);
    let slope = other(legs.slope, usual.slope).map(super::degrees);
    BodyKeys {
        walk: body.walking_speed(),
        jump: other(legs.jump, usual.jump),
        step: other(legs.step, usual.step),
        slope,
        blocks: body.is_blocking().then_some(true),
        ..keys
    }
}

pub(crate) fn carry(carry: &Carry) -> CarryKeys {
    let usual = Carry::default();
    let other = |own: f64, usual: f64| (own.to_bits() != usual.to_bits()).then_some(own);
    CarryKeys {
        mass: other(carry.mass, usual.mass),
        bounce: other(carry.bounce, usual.bounce),
        friction: other(carry.friction, usual.friction),
        gravity: (!carry.gravity).then_some(false),
        snatch: carry.snatch.then_some(true),
        hold: carry.hold,
    }
}

pub(crate) fn route(route: &Route) -> RouteKeys {
    let (over, rate) = match route.pace {
        Pace::Over(seconds) => (Some(seconds), None),
        Pace::Rate(speed) => (None, Some(speed)),
    };
    RouteKeys {
        through: Some(route.through.clone()),
        over,
        rate,
        ease: (route.ease != Easing::Linear).then(|| route.ease.to_string()),
        wait: (route.wait != 0.0).then_some(route.wait),
        then: (route.then != Then::Stop).then(|| route.then.word().into()),
        blocked: (route.blocked != Blocked::Push).then(|| route.blocked.word().into()),
        starts: route.starts.then_some(true),
    }
}

pub(crate) fn spawner(spawner: &Spawner) -> SpawnerKeys {
    SpawnerKeys {
        kind: Some(spawner.kind.clone()),
        keep: Some(spawner.keep),
        every: (spawner.every.to_bits() != 1.0_f64.to_bits()).then_some(spawner.every),
        oldest: spawner.oldest,
        bounds: spawner.bounds.clone(),
    }
}
