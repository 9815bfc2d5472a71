//! From the keys of what moves to its description, and back.

use hazuro::motion::Easing;
use hazuro::scene::{Blocked, Body, Carry, Field, Legs, Pace, Route, Spawner, Then, nearest};

use crate::motion_file::{CarryKeys, RouteKeys, SpawnerKeys};
use crate::scene_file::BodyKeys;
use crate::scene_read::Reader;

/// The legs that a body's keys describe.
pub(crate) fn legs(keys: &BodyKeys) -> Legs {
    let usual = Legs::default();
    Legs {
        jump: keys.jump.unwrap_or(usual.jump),
        step: keys.step.unwrap_or(usual.step),
        slope: keys.slope.map_or(usual.slope, f64::to_radians),
    }
}

/// The keys for a body's legs.
pub(crate) fn write_legs(body: &Body, keys: BodyKeys) -> BodyKeys {
    let (legs, usual) = (body.walking_legs(), Legs::default());
    let other = |own: f64, usual: f64| (own.to_bits() != usual.to_bits()).then_some(own);
    let slope = other(legs.slope, usual.slope).map(crate::reaction_write::degrees);
    BodyKeys {
        walk: body.walking_speed(),
        jump: other(legs.jump, usual.jump),
        step: other(legs.step, usual.step),
        slope,
        blocks: body.is_blocking().then_some(true),
        ..keys
    }
}

pub(crate) fn carry(keys: &CarryKeys) -> Carry {
    let usual = Carry::default();
    Carry {
        mass: keys.mass.unwrap_or(usual.mass),
        bounce: keys.bounce.unwrap_or(usual.bounce),
        friction: keys.friction.unwrap_or(usual.friction),
        gravity: keys.gravity.unwrap_or(usual.gravity),
        snatch: keys.snatch.unwrap_or(usual.snatch),
        hold: keys.hold,
    }
}

pub(crate) fn write_carry(carry: &Carry) -> CarryKeys {
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

pub(crate) fn write_route(route: &Route) -> RouteKeys {
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

pub(crate) fn write_spawner(spawner: &Spawner) -> SpawnerKeys {
    SpawnerKeys {
        kind: Some(spawner.kind.clone()),
        keep: Some(spawner.keep),
        every: (spawner.every.to_bits() != 1.0_f64.to_bits()).then_some(spawner.every),
        oldest: spawner.oldest,
        bounds: spawner.bounds.clone(),
    }
}

/// The one of some words that is meant; else the nearest of them, and all of them.
pub(crate) fn word<T: Copy>(
    given: &str,
    all: &[T],
    word: impl Fn(T) -> &'static str,
) -> Result<T, String> {
    if let Some(found) = all.iter().find(|one| word(**one) == given) {
        return Ok(*found);
    }
    let words: Vec<&str> = all.iter().map(|one| word(*one)).collect();
    Err(match nearest(given, words.iter().copied()) {
        Some(nearest) => format!("did you mean `{nearest}`?"),
        None => format!("it is one of {}", words.join(", ")),
    })
}

impl Reader<'_> {
    pub(crate) fn route(&mut self, keys: &RouteKeys, field: &Field) -> Option<Route> {
        let mut route = Route::through(keys.through.clone().unwrap_or_default());
        route.pace = match (keys.over, keys.rate) {
            (Some(_), Some(_)) => {
                let message = "`over` and `rate` say the same twice";
                self.error(&field.key("rate"), "no-partner", message, "keep the one that is meant");
                return None;
            }
            (None, Some(speed)) => Pace::Rate(speed),
            (over, None) => over.map_or(route.pace, Pace::Over),
        };
        if let Some(ease) = &keys.ease {
            match ease.parse() {
                Ok(ease) => route.ease = ease,
                Err(error) => {
                    let error: hazuro::motion::EasingError = error;
                    let help = "as in ease = \"ease-in-out\"";
                    self.error(&field.key("ease"), "bad-easing", &error.to_string(), help);
                    return None;
                }
            }
        }
        route.wait = keys.wait.unwrap_or_default();
        route.starts = keys.starts.unwrap_or_default();
        if let Some(given) = &keys.then {
            route.then = self.one_of(given, Then::ALL, Then::word, &field.key("then"))?;
        }
        if let Some(given) = &keys.blocked {
            let field = field.key("blocked");
            route.blocked = self.one_of(given, Blocked::ALL, Blocked::word, &field)?;
        }
        Some(route)
    }

    fn one_of<T: Copy>(
        &mut self,
        given: &str,
        all: &[T],
        of: impl Fn(T) -> &'static str,
        field: &Field,
    ) -> Option<T> {
        match word(given, all, of) {
            Ok(found) => Some(found),
            Err(help) => {
                let message = format!("`{given}` is none of the words that can be here");
                self.error(field, "bad-value", &message, &help);
                None
            }
        }
    }

    pub(crate) fn spawner(&mut self, keys: &SpawnerKeys, field: &Field) -> Option<Spawner> {
        let (Some(kind), Some(keep)) = (&keys.kind, keys.keep) else {
            let key = if keys.kind.is_none() { "kind" } else { "keep" };
            let message = format!("the key `{key}` is missing here");
            self.error(field, "missing-key", &message, "as in { kind = \"reed\", keep = 9 }");
            return None;
        };
        let usual = Spawner::of(kind, keep);
        Some(Spawner {
            every: keys.every.unwrap_or(usual.every),
            oldest: keys.oldest,
            bounds: keys.bounds.clone(),
            ..usual
        })
    }
}
