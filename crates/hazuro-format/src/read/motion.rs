//! From the keys of what moves to its description.

use hazuro::scene::{Blocked, Carry, Field, Legs, Pace, Route, Spawner, Then, nearest};

use crate::keys::motion::{CarryKeys, RouteKeys, SpawnerKeys};
use crate::keys::scene::BodyKeys;
use crate::read::reader::Reader;

/// The legs that a body's keys describe.
pub(crate) fn legs(keys: &BodyKeys) -> Legs {
    let usual = Legs::default();
    Legs {
        jump: keys.jump.unwrap_or(usual.jump),
        step: keys.step.unwrap_or(usual.step),
        slope: keys.slope.map_or(usual.slope, f64::to_radians),
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
