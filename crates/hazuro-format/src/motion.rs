//! The tables of what moves: what can be carried, routes, spawners.

use hazuro::motion::{Easing, EasingError};
use hazuro::scene::{Blocked, Carry, Field, Owners, Ownership, Pace, Route, Spawner, Then};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::code::Code;
use crate::keys::one_or_many::Names;
use crate::keys::optional::optional;
use crate::read::Reader;
use crate::table::{Notation, Table, key_name, notation, table};

table! {
    /// Makes an entity with a body something to carry, throw and stack.
    CarryKeys of Carry {
        /// Its mass. A subject with the stat `strength` lifts what is no heavier than that.
        mass: f64,
        /// The share of its speed it keeps when it bounces, from 0 to 1.
        bounce: f64,
        /// The friction with the surface it slides on.
        friction: f64,
        /// Whether gravity acts on it.
        gravity: bool,
        /// Whether another subject may take it out of the holder's hands.
        snatch: bool,
        /// Where it is held, relative to the holder's origin. The default is in front of the holder.
        hold: Option<[f64; 3]>,
        /// From how far away a body can take it, in metres from body to body; an action takes it from
        /// anywhere.
        reach: f64,
    }
}

table! {
    /// Lets an entity belong to one body at a time.
    OwnershipKeys of Ownership {
        /// Which bodies may own it: `first` (the first that takes it), `host` (the one an action gives it to),
        /// `creator` (the one that brought it out), or a list of tags, each of which is a team.
        by: Owners as By,
        /// After how many seconds it is given back, counted from when its owner got it or let go of it.
        /// The default is never by time alone.
        keep: Option<f64>,
        /// Whether only its owner, and the owner's team, is sent news of it in a play of several players;
        /// nobody is while nobody owns it.
        secret: bool,
    }
}

/// A word, or the tags of teams.
pub(crate) struct By;

impl Notation<Owners> for By {
    type Written = Names;

    fn write(owners: &Owners) -> Names {
        match owners {
            Owners::Team(teams) => Names::Many(teams.clone()),
            other => {
                let word = Owners::WORDS.iter().find(|(owners, _)| owners == other);
                Names::One(word.map_or("", |(_, word)| word).to_owned())
            }
        }
    }

    fn read(written: &Names, reader: &mut Reader<'_>, field: &Field) -> Option<Owners> {
        match written {
            Names::Many(teams) => Some(Owners::Team(teams.clone())),
            Names::One(given) => {
                let all = Owners::WORDS.each_ref();
                let found = reader.one_of(given, &all, |(_, word)| word, field);
                found.map(|(owners, _)| owners.clone())
            }
        }
    }
}

optional! {
    /// Stops that an entity travels to one after another.
    RouteKeys {
        /// The entities whose places are its stops, in order; `home` is where it was placed.
        through: Vec<String>,
        /// Seconds for each leg. The default is 1.
        over: f64,
        /// Instead: at how many metres per second it goes.
        rate: f64,
        /// A CSS easing for each stretch.
        ease: String,
        /// How many seconds it waits at each stop.
        wait: f64,
        /// What it does at the last stop: `stop`, `back` or `around`. The default is `stop`.
        then: String,
        /// What it does when a body is in its way: `push`, `stop` or `back`. The
        /// default is `push`.
        blocked: String,
        /// Whether it starts moving when the play begins. The default is no.
        starts: bool,
    }
}

optional! {
    /// Keeps a number of a kind in the play, within the zone of its entity.
    SpawnerKeys {
        /// The kind, which needs a `stock`; needed.
        kind: String,
        /// How many there are to be; needed.
        keep: u32,
        /// How many of them are there to begin with; the others come one by one. The default is all.
        first: u32,
        /// Seconds between two checks whether one is missing. The default is 1.
        every: f64,
        /// The age in seconds at which one is taken back.
        oldest: f64,
        /// What has left the zone of this entity is taken back.
        bounds: String,
    }
}

impl Table for Route {
    type Keys = RouteKeys;

    fn keys(&self) -> RouteKeys {
        let (over, rate) = match self.pace {
            Pace::Over(seconds) => (Some(seconds), None),
            Pace::Rate(speed) => (None, Some(speed)),
        };
        RouteKeys {
            through: Some(self.through.clone()),
            over,
            rate,
            ease: (self.ease != Easing::Linear).then(|| self.ease.to_string()),
            wait: (self.wait != 0.0).then_some(self.wait),
            then: (self.then != Then::Stop).then(|| self.then.word().into()),
            blocked: (self.blocked != Blocked::Push).then(|| self.blocked.word().into()),
            starts: self.starts.then_some(true),
        }
    }

    fn read(keys: &RouteKeys, reader: &mut Reader<'_>, field: &Field) -> Option<Self> {
        let mut route = Self::through(keys.through.clone().unwrap_or_default());
        route.pace = match (keys.over, keys.rate) {
            (Some(_), Some(_)) => {
                let message = "`over` and `rate` say the same twice";
                reader.error(
                    &field.key("rate"),
                    Code::NoPartner,
                    message,
                    "keep the one that is meant",
                );
                return None;
            }
            (None, Some(speed)) => Pace::Rate(speed),
            (over, None) => over.map_or(route.pace, Pace::Over),
        };
        if let Some(ease) = &keys.ease {
            match ease.parse() {
                Ok(ease) => route.ease = ease,
                Err(error) => {
                    let error: EasingError = error;
                    let help = "as in ease = \"ease-in-out\"";
                    reader.error(&field.key("ease"), Code::BadEasing, &error.to_string(), help);
                    return None;
                }
            }
        }
        route.wait = keys.wait.unwrap_or_default();
        route.starts = keys.starts.unwrap_or_default();
        if let Some(given) = &keys.then {
            route.then = reader.one_of(given, Then::ALL, Then::word, &field.key("then"))?;
        }
        if let Some(given) = &keys.blocked {
            let field = field.key("blocked");
            route.blocked = reader.one_of(given, Blocked::ALL, Blocked::word, &field)?;
        }
        Some(route)
    }
}

impl Table for Spawner {
    type Keys = SpawnerKeys;

    fn keys(&self) -> SpawnerKeys {
        SpawnerKeys {
            kind: Some(self.kind.clone()),
            keep: Some(self.keep),
            first: self.first,
            every: (self.every.to_bits() != 1.0_f64.to_bits()).then_some(self.every),
            oldest: self.oldest,
            bounds: self.bounds.clone(),
        }
    }

    fn read(keys: &SpawnerKeys, reader: &mut Reader<'_>, field: &Field) -> Option<Self> {
        let (Some(kind), Some(keep)) = (&keys.kind, keys.keep) else {
            let key = if keys.kind.is_none() { "kind" } else { "keep" };
            let message = format!("the key `{key}` is missing here");
            reader.error(field, Code::MissingKey, &message, "as in { kind = \"reed\", keep = 9 }");
            return None;
        };
        let usual = Self::of(kind, keep);
        Some(Self {
            first: keys.first,
            every: keys.every.unwrap_or(usual.every),
            oldest: keys.oldest,
            bounds: keys.bounds.clone(),
            ..usual
        })
    }
}
