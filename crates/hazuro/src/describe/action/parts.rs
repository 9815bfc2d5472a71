//! The parts of actions, said another way.

use crate::describe::range;
use crate::describe::{
    Aim, Destination, EventKind, Fault, Filling, Grant, Lead, Move, Pace, Teleport, Throw, Turn,
};

use super::{Change, Measure, Translate, Wait};

/// How a count changes.
pub(super) fn counts<T, N, C, X: Translate<T, N, C>>(
    change: &Change<C>,
    to: &mut X,
) -> Result<Change<X::Count>, X::Error> {
    Ok(match change {
        Change::Add(amount) => Change::Add(to.count(amount, "add")?),
        Change::Set(value) => Change::Set(to.count(value, "set")?),
    })
}

/// How a stat changes.
pub(super) fn stats<T, N, C, X: Translate<T, N, C>>(
    change: &Change<N>,
    to: &mut X,
) -> Result<Change<X::Number>, X::Error> {
    let measure = |key| Measure::new(key, &range::AMOUNT);
    Ok(match change {
        Change::Add(amount) => Change::Add(to.number(amount, measure("add"))?),
        Change::Set(value) => Change::Set(to.number(value, measure("set"))?),
    })
}

/// What is granted.
pub(super) fn granted<T, N, C, X: Translate<T, N, C>>(
    grant: &Grant,
    to: &mut X,
) -> Result<Grant, X::Error> {
    to.grant(grant)?;
    Ok(grant.clone())
}

/// Which event is sent.
#[expect(clippy::trivially_copy_pass_by_ref, reason = "as all that the table calls for a field")]
pub(super) fn sent<T, N, C, X: Translate<T, N, C>>(
    event: &EventKind,
    to: &mut X,
) -> Result<EventKind, X::Error> {
    if event.detector().is_none() {
        to.wrong(Fault::NeverDetected { event: *event }, "send")?;
    }
    Ok(*event)
}

impl<T, N> Wait<T, N> {
    pub(super) fn target(&self) -> Option<&T> {
        match self {
            Self::Seconds(_) => None,
            Self::Arrival(what) => Some(what),
        }
    }

    pub(super) fn translate<C, X: Translate<T, N, C>>(
        &self,
        to: &mut X,
    ) -> Result<Wait<X::Entity, X::Number>, X::Error> {
        Ok(match self {
            Self::Seconds(seconds) => {
                Wait::Seconds(to.number(seconds, Measure::new("wait", &range::PAUSE))?)
            }
            Self::Arrival(what) => Wait::Arrival(to.entity(what, "wait", true)?),
        })
    }
}

impl<T, N> Filling<T, N> {
    /// The word of the action.
    pub(super) fn verb(&self) -> &'static str {
        if matches!(self, Self::Nothing) { "unfill" } else { "fill" }
    }

    pub(super) fn translate<C, X: Translate<T, N, C>>(
        &self,
        to: &mut X,
    ) -> Result<Filling<X::Entity, X::Number>, X::Error> {
        Ok(match self {
            Self::Entity(entity) => Filling::Entity(to.entity(entity, "to", false)?),
            Self::Number(number) => {
                Filling::Number(to.number(number, Measure::new("set", &range::AMOUNT))?)
            }
            Self::Text(text) => Filling::Text(text.clone()),
            Self::Flag(up) => Filling::Flag(*up),
            Self::Nothing => Filling::Nothing,
        })
    }
}

impl<T, N> Move<T, N> {
    pub(super) fn translate<C, X: Translate<T, N, C>>(
        &self,
        to: &mut X,
    ) -> Result<Move<X::Entity, X::Number>, X::Error> {
        Ok(Move {
            what: to.entity(&self.what, "move", true)?,
            to: match &self.to {
                Destination::Home => Destination::Home,
                Destination::Point => Destination::Point,
                Destination::By(way) => {
                    Destination::By(along_axes(way, Measure::new("by", &range::COORDINATE), to)?)
                }
                Destination::Entity(goal) => Destination::Entity(to.entity(goal, "to", false)?),
            },
            axis: match &self.axis {
                Some(axis) => Some(along_axes(axis, Measure::new("axis", &range::COORDINATE), to)?),
                None => None,
            },
            over: to.number(&self.over, Measure::new("over", &range::SECONDS))?,
            ease: self.ease,
        })
    }
}

/// Three numbers, one for each axis.
fn along_axes<T, N, C, X: Translate<T, N, C>>(
    [x, y, z]: &[N; 3],
    measure: Measure,
    to: &mut X,
) -> Result<[X::Number; 3], X::Error> {
    let mut along = |axis, number| to.number(number, measure.item(axis));
    Ok([along(0, x)?, along(1, y)?, along(2, z)?])
}

impl<T, N> Turn<T, N> {
    /// The word of the action.
    pub(super) fn word(&self) -> &'static str {
        if self.towards.is_some() { "face" } else { "turn" }
    }

    pub(super) fn translate<C, X: Translate<T, N, C>>(
        &self,
        to: &mut X,
    ) -> Result<Turn<X::Entity, X::Number>, X::Error> {
        let rate = Measure::angle("rate", &range::TURN_RATE);
        Ok(Turn {
            what: to.entity(&self.what, self.word(), true)?,
            towards: self.towards.as_ref().map(|goal| to.entity(goal, "to", false)).transpose()?,
            by: to.number(&self.by, Measure::angle("by", &range::TURN))?,
            pace: self.pace.translate(rate, |number, measure| to.number(number, measure))?,
            ease: self.ease,
        })
    }
}

impl<T, N> Aim<T, N> {
    pub(super) fn translate<C, X: Translate<T, N, C>>(
        &self,
        to: &mut X,
    ) -> Result<Aim<X::Entity, X::Number>, X::Error> {
        let [least, most] = &self.pitch;
        let measure = Measure::angle("pitch", &range::PITCH);
        let pitch = [to.number(least, measure.item(0))?, to.number(most, measure.item(1))?];
        Ok(Aim {
            what: to.entity(&self.what, "aim", true)?,
            at: to.entity(&self.at, "to", false)?,
            rate: to.number(&self.rate, Measure::angle("rate", &range::TURN_RATE))?,
            pitch,
        })
    }
}

impl<N> Pace<N> {
    fn translate<M, E>(
        &self,
        rate: Measure,
        mut find: impl FnMut(&N, Measure) -> Result<M, E>,
    ) -> Result<Pace<M>, E> {
        Ok(match self {
            Self::Over(seconds) => {
                Pace::Over(find(seconds, Measure::new("over", &range::SECONDS))?)
            }
            Self::Rate(value) => Pace::Rate(find(value, rate)?),
        })
    }
}

impl<T, N> Lead<T, N> {
    pub(super) fn translate<C, X: Translate<T, N, C>>(
        &self,
        to: &mut X,
    ) -> Result<Lead<X::Entity, X::Number>, X::Error> {
        if self.through.is_empty() {
            to.wrong(Fault::Nowhere, "through")?;
        }
        let rate = Measure::new("rate", &range::TRAVEL_RATE);
        Ok(Lead {
            what: to.entity(&self.what, "lead", true)?,
            through: self
                .through
                .iter()
                .map(|stop| to.entity(stop, "through", false))
                .collect::<Result<_, X::Error>>()?,
            pace: self.pace.translate(rate, |number, measure| to.number(number, measure))?,
            ease: self.ease,
        })
    }
}

impl<T, N> Throw<T, N> {
    pub(super) fn translate<C, X: Translate<T, N, C>>(
        &self,
        to: &mut X,
    ) -> Result<Throw<X::Entity, X::Number>, X::Error> {
        let speed = Measure::new("speed", &range::THROW_SPEED);
        Ok(Throw {
            what: to.entity(&self.what, "throw", true)?,
            velocity: along_axes(&self.velocity, speed, to)?,
            spin: to.number(&self.spin, Measure::angle("spin", &range::SPIN))?,
        })
    }
}

impl<T> Teleport<T> {
    pub(super) fn translate<N, C, X: Translate<T, N, C>>(
        &self,
        to: &mut X,
    ) -> Result<Teleport<X::Entity>, X::Error> {
        if self.to.is_empty() {
            to.wrong(Fault::Nowhere, "to")?;
        }
        Ok(Teleport {
            what: to.entity(&self.what, "teleport", true)?,
            to: self
                .to
                .iter()
                .map(|place| to.entity(place, "to", false))
                .collect::<Result<_, X::Error>>()?,
            choose: self.choose,
            keep_facing: self.keep_facing,
            keep_speed: self.keep_speed,
            keep_offset: self.keep_offset,
            free: self.free,
            stand: self.stand,
        })
    }
}
