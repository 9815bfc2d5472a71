//! What is going to happen: inputs, delayed reactions and the beats of `inside`.

use std::collections::{BTreeMap, VecDeque};

use crate::Time;
use crate::describe::{EntityId, StatId};

use super::told::{AllTold, Told};
use super::{Input, Origin, Target};

/// Something that will happen.
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) enum Scheduled {
    Input(Input),
    /// A reaction begins, its `after` or `every` being over.
    Poll {
        run: u64,
        round: u64,
    },
    /// A sequence of a reaction goes on.
    Resume {
        run: u64,
        thread: u64,
    },
    /// An effect ends.
    EffectEnd {
        on: EntityId,
        number: u64,
        until: Time,
    },
    /// A stat that changes steadily comes to its least or most.
    StatLimit {
        entity: EntityId,
        stat: StatId,
        turn: u64,
    },
    /// A pickup comes back.
    Respawn {
        pickup: EntityId,
        number: u64,
    },
    /// Something has come to a stop of its way, or has waited there.
    Trip {
        what: EntityId,
        turn: u64,
    },
    /// What is held up tries to go on.
    Retry {
        what: EntityId,
        number: u64,
    },
    /// Something turns on towards whom it follows with its look.
    Aim {
        what: EntityId,
        number: u64,
    },
    /// The time is over for which somebody may keep what they own.
    Disown {
        what: EntityId,
        number: u64,
    },
    /// A spawner looks after its own.
    Spawner(EntityId),
    /// A key has been held long enough.
    Held {
        player: EntityId,
        since: Time,
    },
    /// Another interval of a stay is over.
    IntervalTick {
        zone: EntityId,
        subject: EntityId,
        stay: u64,
        number: u64,
    },
}

/// When something is due. In one instant inputs come before what is detected, and what was put
/// off comes after it; otherwise in the order in which they were put here.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Due {
    pub time: Time,
    pub after_detection: bool,
    number: u64,
}

/// All that will happen, in order.
#[derive(Clone, Debug, Default, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Schedule {
    /// Where bodies are to be, as of when time goes on. Kept apart from the rest because a host may
    /// say it of thousands each tick.
    #[cfg_attr(feature = "serde", serde(default))]
    told: AllTold,
    /// Other inputs that are due as soon as time goes on, and all that came after the first of them.
    at_once: VecDeque<(u64, Input)>,
    /// Each with what it comes of.
    #[cfg_attr(feature = "serde", serde(with = "crate::state::pairs"))]
    items: BTreeMap<Due, (Origin, Scheduled)>,
    /// How many inputs have been given.
    inputs: u64,
    so_far: u64,
}

#[cfg(feature = "serde")]
super::delta::delta! {
    Schedule as SchedulePart {
        told: AllTold,
        at_once: VecDeque<(u64, Input)>,
        items: BTreeMap<Due, (Origin, Scheduled)>,
        inputs: u64,
        so_far: u64,
    } but {}
}

impl Schedule {
    pub fn put(&mut self, time: Time, origin: Origin, item: Scheduled) {
        let after_detection = !matches!(item, Scheduled::Input(_));
        let due = Due { time, after_detection, number: self.so_far };
        self.items.insert(due, (origin, item));
        self.so_far += 1;
    }

    /// Lets an input happen at this time, or as soon as time goes on from `now`.
    pub fn put_input(&mut self, time: Time, now: Time, input: Input) {
        let told = match input {
            Input::Drive { who, to, until } if time <= now => Some((who, to, until)),
            _ => None,
        };
        match told {
            Some((who, to, until)) => self.tell(now, who, to, until),
            None => self.put_other(time, now, input),
        }
    }

    /// Lets a body be told to be somewhere as soon as time goes on from `now`.
    pub fn tell(&mut self, now: Time, who: EntityId, to: Target, until: Time) {
        let place = match to {
            Target::Place(place) => Some((place, None)),
            Target::Pose(pose) => Some((pose.position, Some(pose.rotation))),
            // Where that is then is seen when it is its turn.
            Target::Entity(_) => None,
        };
        match place.filter(|_| self.at_once.is_empty() && !self.is_planned(now)) {
            Some((to, rotation)) => {
                self.told.push(&Told { number: self.inputs, who, to, rotation, until });
                self.inputs += 1;
            }
            None => self.put_other(now, now, Input::Drive { who, to, until }),
        }
    }

    fn put_other(&mut self, time: Time, now: Time, input: Input) {
        let number = self.inputs;
        self.inputs += 1;
        if time <= now && !self.is_planned(now) {
            self.at_once.push_back((number, input));
        } else {
            self.put(time.max(now), Origin::Input(number), Scheduled::Input(input));
        }
    }

    /// Whether something has long been planned for this very moment, which then comes first.
    fn is_planned(&self, now: Time) -> bool {
        self.next().is_some_and(|due| due.time <= now && !due.after_detection)
    }

    /// Whether any body has been told where to be.
    pub fn has_told(&self) -> bool {
        !self.told.is_empty()
    }

    /// Takes what bodies have been told, in that order, before what else is due as soon as time goes on.
    pub fn take_told(&mut self) -> AllTold {
        std::mem::take(&mut self.told)
    }

    /// Gives back the memory of what has been taken.
    pub fn give_back(&mut self, mut told: AllTold) {
        told.clear();
        if self.told.is_empty() {
            self.told = told;
        }
    }

    /// Takes the next other input that is due as soon as time goes on.
    pub fn take_at_once(&mut self) -> Option<(u64, Input)> {
        self.at_once.pop_front()
    }

    /// How many inputs have been given.
    pub fn inputs(&self) -> u64 {
        self.inputs
    }

    /// How much waits.
    pub fn len(&self) -> usize {
        self.told.len() + self.at_once.len() + self.items.len()
    }

    pub fn next(&self) -> Option<Due> {
        self.items.first_key_value().map(|(due, _)| *due)
    }

    pub fn take(&mut self) -> Option<(Due, Origin, Scheduled)> {
        let (due, (origin, item)) = self.items.pop_first()?;
        Some((due, origin, item))
    }
}
