//! An action said another way: each entity and each number of it turned into something else, each name
//! looked at.

use std::convert::Infallible;

use crate::describe::range::Range;
use crate::describe::{EntityId, Fault, Field, Formula, Grant, Quantity};

use super::{Action, ResolvedAction};

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
    pub const fn new(key: &'static str, range: &'static Range) -> Self {
        Self { key, item: None, range, is_angle: false }
    }

    pub const fn angle(key: &'static str, range: &'static Range) -> Self {
        Self { is_angle: true, ..Self::new(key, range) }
    }

    pub const fn item(self, item: usize) -> Self {
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

    /// A name of something else than an entity, which stays as it is, and the key it stands under.
    fn name(&mut self, _what: Noun, _name: &str, _key: &'static str) -> Result<(), Self::Error> {
        Ok(())
    }

    /// What is granted, which stays as it is.
    fn grant(&mut self, _grant: &Grant) -> Result<(), Self::Error> {
        Ok(())
    }

    /// What is wrong with an action whatever it names, and the key at which.
    fn wrong(&mut self, _fault: Fault, _key: &'static str) -> Result<(), Self::Error> {
        Ok(())
    }
}

/// What an action names besides entities.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Noun {
    /// Something that begins with being named: a count, a flag, a cue.
    New,
    Tag,
    Slot,
    Stat,
    Effect,
    Kind,
    /// A kind to which something is converted.
    Conversion,
    Reaction,
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
