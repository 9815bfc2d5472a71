//! An action said another way: each entity and each number of it turned into something else.

use std::convert::Infallible;

use super::range::{self, Range};
use super::{
    Action, Aim, Change, Destination, EntityId, Fault, Field, Filling, Formula, Lead, Move, Pace,
    Quantity, ResolvedAction, Teleport, Throw, Turn, Wait,
};

/// Which number of an action it is: where it stands and what will do for it.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Measure {
    /// The key it stands under in a scene file.
    pub key: &'static str,
    /// Which of several it is.
    item: Option<usize>,
    range: &'static Range,
    /// Whether it is an angle, in radians.
    is_angle: bool,
}

impl Measure {
    const fn new(key: &'static str, range: &'static Range) -> Self {
        Self { key, item: None, range, is_angle: false }
    }

    const fn angle(key: &'static str, range: &'static Range) -> Self {
        Self { is_angle: true, ..Self::new(key, range) }
    }

    const fn item(self, item: usize) -> Self {
        Self { item: Some(item), ..self }
    }

    /// Where it stands in the action.
    pub fn field(&self) -> Field {
        let field = Field::ROOT.key(self.key);
        self.item.map_or(field.clone(), |item| field.item(item))
    }

    /// The error, if a number will not do.
    pub fn check(&self, number: f64) -> Result<(), Fault> {
        if self.is_angle { self.range.check_radians(number) } else { self.range.check(number) }
    }
}

/// What becomes of the entities and numbers of an action.
pub(crate) trait Translate<T, N, C> {
    type Entity;
    type Number;
    type Count;
    type Error;

    /// An entity, the key it stands under in a scene file, and whether it is the one
    /// [acted on](Action::target).
    fn entity(
        &mut self,
        entity: &T,
        key: &'static str,
        acted_on: bool,
    ) -> Result<Self::Entity, Self::Error>;

    /// A number.
    fn number(&mut self, number: &N, measure: Measure) -> Result<Self::Number, Self::Error>;

    /// An amount of a count, and the key it stands under in a scene file.
    fn count(&mut self, count: &C, key: &'static str) -> Result<Self::Count, Self::Error>;
}

/// Names the entities another way and leaves the numbers as they are.
struct Entities<F>(F);

impl<T, U, N: Clone, C: Clone, E, F> Translate<T, N, C> for Entities<F>
where
    F: FnMut(&T, &'static str, bool) -> Result<U, E>,
{
    type Entity = U;
    type Number = N;
    type Count = C;
    type Error = E;

    fn entity(&mut self, entity: &T, key: &'static str, acted_on: bool) -> Result<U, E> {
        (self.0)(entity, key, acted_on)
    }

    fn number(&mut self, number: &N, _: Measure) -> Result<N, E> {
        Ok(number.clone())
    }

    fn count(&mut self, count: &C, _: &'static str) -> Result<C, E> {
        Ok(count.clone())
    }
}

impl<T, N: Clone, C: Clone> Action<T, N, C> {
    /// The same action with its entities named another way. `find` also gets the key under which
    /// the entity stands in a scene file, and whether it is the one [acted on](Self::target).
    ///
    /// # Errors
    /// The first error of `find`.
    pub fn try_map<U, E>(
        &self,
        find: impl FnMut(&T, &'static str, bool) -> Result<U, E>,
    ) -> Result<Action<U, N, C>, E> {
        self.translate(&mut Entities(find))
    }
}

/// What an action becomes when it is said another way.
type Translated<X, T, N, C> = Result<
    Action<
        <X as Translate<T, N, C>>::Entity,
        <X as Translate<T, N, C>>::Number,
        <X as Translate<T, N, C>>::Count,
    >,
    <X as Translate<T, N, C>>::Error,
>;

impl<T, N, C> Action<T, N, C> {
    /// The same action said another way.
    pub(crate) fn translate<X: Translate<T, N, C>>(&self, to: &mut X) -> Translated<X, T, N, C> {
        let word = self.word();
        let what = |what: &T, to: &mut X| to.entity(what, word, true);
        let owner = |of: &Option<T>, to: &mut X| {
            of.as_ref().map(|of| to.entity(of, "of", true)).transpose()
        };
        Ok(match self {
            Self::Move(movement) => Action::Move(movement.translate(to)?),
            Self::Turn(turn) => Action::Turn(turn.translate(word, to)?),
            Self::Aim(aim) => Action::Aim(aim.translate(to)?),
            Self::Teleport(teleport) => Action::Teleport(teleport.translate(to)?),
            Self::Route { what: it, order } => Action::Route { what: what(it, to)?, order: *order },
            Self::Lead(lead) => Action::Lead(lead.translate(to)?),
            Self::Own { what: it, to: owner } => {
                Action::Own { what: what(it, to)?, to: to.entity(owner, "to", false)? }
            }
            Self::Disown(it) => Action::Disown(what(it, to)?),
            Self::Grab { what: it, to: holder } => {
                Action::Grab { what: what(it, to)?, to: to.entity(holder, "to", false)? }
            }
            Self::Drop(it) => Action::Drop(what(it, to)?),
            Self::Throw(throw) => Action::Throw(throw.translate(to)?),
            Self::Walk { what: it, to: goal } => {
                Action::Walk { what: what(it, to)?, to: to.entity(goal, "to", false)? }
            }
            Self::Halt(it) => Action::Halt(what(it, to)?),
            Self::Jump(it) => Action::Jump(what(it, to)?),
            Self::Switch { what: it, switch, to: on } => {
                Action::Switch { what: what(it, to)?, switch: *switch, to: *on }
            }
            Self::Tag { what: it, tag } => Action::Tag { what: what(it, to)?, tag: tag.clone() },
            Self::Untag { what: it, tag } => {
                Action::Untag { what: what(it, to)?, tag: tag.clone() }
            }
            Self::Count { name, of, change } => {
                let (name, of) = (name.clone(), owner(of, to)?);
                let change = change.translate(|amount, key| to.count(amount, key))?;
                Action::Count { name, of, change }
            }
            Self::Flag { name, of, to: up } => {
                Action::Flag { name: name.clone(), of: owner(of, to)?, to: *up }
            }
            Self::Fill { slot, of, with } => {
                let (slot, of) = (slot.clone(), to.entity(of, "of", true)?);
                Action::Fill { slot, of, with: with.translate(to)? }
            }
            Self::Stat { name, of, change } => {
                let (name, of) = (name.clone(), to.entity(of, "of", true)?);
                let measure = |key| Measure::new(key, &range::AMOUNT);
                let change = change.translate(|amount, key| to.number(amount, measure(key)))?;
                Action::Stat { name, of, change }
            }
            Self::Effect { name, of } => {
                Action::Effect { name: name.clone(), of: to.entity(of, "of", true)? }
            }
            Self::EndEffect { name, of } => {
                Action::EndEffect { name: name.clone(), of: to.entity(of, "of", true)? }
            }
            Self::Grant { grant, to: taker } => {
                Action::Grant { grant: grant.clone(), to: to.entity(taker, "to", true)? }
            }
            Self::Collect { what: it, to: taker } => {
                Action::Collect { what: what(it, to)?, to: to.entity(taker, "to", false)? }
            }
            Self::Say { key, to: hears } => {
                let hears = hears.as_ref().map(|it| to.entity(it, "to", true)).transpose()?;
                Action::Say { key: key.clone(), to: hears }
            }
            Self::Cue { name, on, who } => Action::Cue {
                name: name.clone(),
                on: on.as_ref().map(|on| to.entity(on, "on", false)).transpose()?,
                who: who.as_ref().map(|who| to.entity(who, "who", false)).transpose()?,
            },
            Self::Send { event, on, who } => Action::Send {
                event: *event,
                on: to.entity(on, "on", true)?,
                who: who.as_ref().map(|who| to.entity(who, "who", false)).transpose()?,
            },
            Self::Spawn { kind, at } => {
                Action::Spawn { kind: kind.clone(), at: to.entity(at, "at", false)? }
            }
            Self::Remove(it) => Action::Remove(what(it, to)?),
            Self::Reset(it) => Action::Reset(what(it, to)?),
            Self::Attach { what: it, to: parent } => {
                Action::Attach { what: what(it, to)?, to: to.entity(parent, "to", false)? }
            }
            Self::Detach(it) => Action::Detach(what(it, to)?),
            Self::Call(name) => Action::Call(name.clone()),
            Self::Stop { name, of } => Action::Stop { name: name.clone(), of: owner(of, to)? },
            Self::Wait(Wait::Seconds(seconds)) => {
                let measure = Measure::new(word, &range::PAUSE);
                Action::Wait(Wait::Seconds(to.number(seconds, measure)?))
            }
            Self::Wait(Wait::Arrival(it)) => Action::Wait(Wait::Arrival(what(it, to)?)),
        })
    }
}

impl<T: Clone> Action<T> {
    /// The same with its numbers as they are, if none of them is a formula.
    ///
    /// ```
    /// use hazuro::scene::{Action, Formula};
    /// assert!(Action::wait(1.0).fixed().is_some());
    /// assert!(Action::wait(Formula::new("long", |_| 9.0)).fixed().is_none());
    /// ```
    pub fn fixed(&self) -> Option<Action<T, f64, i64>> {
        self.translate(&mut Fixed).ok()
    }
}

impl<T> Action<T> {
    /// Its formulas, each with the key it stands under in a scene file.
    pub fn formulas(&self) -> Vec<(&'static str, Formula)> {
        let mut found = Formulas(Vec::new());
        let Ok(_) = self.translate(&mut found);
        found.0
    }
}

/// Finds formulas.
struct Formulas(Vec<(&'static str, Formula)>);

impl<T> Translate<T, Quantity, Quantity<i64>> for Formulas {
    type Entity = ();
    type Number = ();
    type Count = ();
    type Error = Infallible;

    fn entity(&mut self, _: &T, _: &'static str, _: bool) -> Result<(), Infallible> {
        Ok(())
    }

    fn number(&mut self, number: &Quantity, measure: Measure) -> Result<(), Infallible> {
        self.0.extend(number.formula().map(|formula| (measure.key, formula.clone())));
        Ok(())
    }

    fn count(&mut self, count: &Quantity<i64>, key: &'static str) -> Result<(), Infallible> {
        self.0.extend(count.formula().map(|formula| (key, formula.clone())));
        Ok(())
    }
}

/// Takes numbers that are no formulas.
struct Fixed;

impl<T: Clone> Translate<T, Quantity, Quantity<i64>> for Fixed {
    type Entity = T;
    type Number = f64;
    type Count = i64;
    type Error = ();

    fn entity(&mut self, entity: &T, _: &'static str, _: bool) -> Result<T, ()> {
        Ok(entity.clone())
    }

    fn number(&mut self, number: &Quantity, _: Measure) -> Result<f64, ()> {
        number.fixed().ok_or(())
    }

    fn count(&mut self, count: &Quantity<i64>, _: &'static str) -> Result<i64, ()> {
        count.fixed().ok_or(())
    }
}

impl ResolvedAction {
    /// The same with the bits of its numbers, for hashing.
    pub(crate) fn bits(&self) -> Action<EntityId, u64, i64> {
        let Ok(bits) = self.translate(&mut Bits);
        bits
    }
}

/// Turns numbers into their bits.
struct Bits;

impl Translate<EntityId, f64, i64> for Bits {
    type Entity = EntityId;
    type Number = u64;
    type Count = i64;
    type Error = Infallible;

    fn entity(&mut self, entity: &EntityId, _: &str, _: bool) -> Result<EntityId, Infallible> {
        Ok(*entity)
    }

    fn number(&mut self, number: &f64, _: Measure) -> Result<u64, Infallible> {
        // Zero is zero, whatever its sign.
        Ok((number + 0.0).to_bits())
    }

    fn count(&mut self, count: &i64, _: &str) -> Result<i64, Infallible> {
        Ok(*count)
    }
}

impl<A> Change<A> {
    /// `find` also gets the key under which the amount stands in a scene file.
    fn translate<B, E>(
        &self,
        mut find: impl FnMut(&A, &'static str) -> Result<B, E>,
    ) -> Result<Change<B>, E> {
        Ok(match self {
            Self::Add(amount) => Change::Add(find(amount, "add")?),
            Self::Set(value) => Change::Set(find(value, "set")?),
        })
    }
}

impl<T, N> Filling<T, N> {
    fn translate<C, X: Translate<T, N, C>>(
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
    fn translate<C, X: Translate<T, N, C>>(
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
    fn translate<C, X: Translate<T, N, C>>(
        &self,
        word: &'static str,
        to: &mut X,
    ) -> Result<Turn<X::Entity, X::Number>, X::Error> {
        let rate = Measure::angle("rate", &range::TURN_RATE);
        Ok(Turn {
            what: to.entity(&self.what, word, true)?,
            towards: self.towards.as_ref().map(|goal| to.entity(goal, "to", false)).transpose()?,
            by: to.number(&self.by, Measure::angle("by", &range::TURN))?,
            pace: self.pace.translate(rate, |number, measure| to.number(number, measure))?,
            ease: self.ease,
        })
    }
}

impl<T, N> Aim<T, N> {
    fn translate<C, X: Translate<T, N, C>>(
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
    fn translate<C, X: Translate<T, N, C>>(
        &self,
        to: &mut X,
    ) -> Result<Lead<X::Entity, X::Number>, X::Error> {
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
    fn translate<C, X: Translate<T, N, C>>(
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
    fn translate<N, C, X: Translate<T, N, C>>(
        &self,
        to: &mut X,
    ) -> Result<Teleport<X::Entity>, X::Error> {
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
