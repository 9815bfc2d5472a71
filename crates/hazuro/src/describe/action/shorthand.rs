//! The commonest actions, each as one call.

use std::f64::consts::{FRAC_PI_2, PI};

use crate::motion::Easing;

use crate::describe::{
    Aim, Destination, EventKind, Filling, Grant, HEALTH, Lead, Move, Pace, Quantity, RouteOrder,
    Teleport, Throw, Turn,
};

use super::{Action, Change, Switch, Wait};

impl Action {
    /// Switch an entity on.
    pub fn enable(what: impl Into<String>) -> Self {
        Self::switch(what, Switch::Enabled, Some(true))
    }

    /// Switch an entity off, and with it all its children.
    pub fn disable(what: impl Into<String>) -> Self {
        Self::switch(what, Switch::Enabled, Some(false))
    }

    /// Switch an entity over.
    pub fn toggle(what: impl Into<String>) -> Self {
        Self::switch(what, Switch::Enabled, None)
    }

    /// Make an entity visible.
    pub fn show(what: impl Into<String>) -> Self {
        Self::switch(what, Switch::Visible, Some(true))
    }

    /// Make an entity and its children invisible. They still detect and are detected.
    pub fn hide(what: impl Into<String>) -> Self {
        Self::switch(what, Switch::Visible, Some(false))
    }

    /// Let an entity and its children block bodies and stop rays, or not.
    pub fn solid(what: impl Into<String>, on: bool) -> Self {
        Self::switch(what, Switch::Solid, Some(on))
    }

    /// Let the detectors of an entity and its children detect, or not.
    pub fn detect(what: impl Into<String>, on: bool) -> Self {
        Self::switch(what, Switch::Detect, Some(on))
    }

    fn switch(what: impl Into<String>, switch: Switch, to: Option<bool>) -> Self {
        Self::Switch { what: what.into(), switch, to }
    }

    /// Give an entity a tag.
    pub fn tag(what: impl Into<String>, tag: impl Into<String>) -> Self {
        Self::Tag { what: what.into(), tag: tag.into() }
    }

    /// Take a tag away from an entity.
    pub fn untag(what: impl Into<String>, tag: impl Into<String>) -> Self {
        Self::Untag { what: what.into(), tag: tag.into() }
    }

    /// Make an entity like a kind, until it is [reverted](Self::revert): what the kind gives counts before what
    /// the entity has. It gets nothing that it has not got, and keeps its kinds, tags, stats and slots.
    ///
    /// ```
    /// use hazuro::{Play, Scene, geometry::Shape};
    /// use hazuro::scene::{Action, Body, Entity, Kind, Zone};
    /// let scene = Scene::builder("Yard")
    ///     .kind(Kind::new("flooded").zone(Zone::new(Shape::Box { size: [8.0, 2.0, 8.0] })))
    ///     .entity(Entity::new("puddle").zone(Zone::new(Shape::Box { size: [1.0; 3] })))
    ///     .entity(Entity::new("duck").at([3.0, 0.0, 0.0]).body(Body::new(Shape::Sphere { radius: 0.2 })))
    ///     .build()?;
    /// let mut play = Play::new(scene);
    /// play.step();
    /// assert!(play.occupants("puddle")?.is_empty());
    /// play.act(Action::convert("puddle", "flooded"))?;
    /// play.step();
    /// assert_eq!(play.occupants("puddle")?.len(), 1);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    pub fn convert(what: impl Into<String>, to: impl Into<String>) -> Self {
        Self::Convert { what: what.into(), to: to.into() }
    }

    /// Make an entity what it was before it was [converted](Self::convert).
    pub fn revert(what: impl Into<String>) -> Self {
        Self::Revert(what.into())
    }

    /// Add to a count of the scene.
    pub fn add(count: impl Into<String>, amount: impl Into<Quantity<i64>>) -> Self {
        Self::Count { name: count.into(), of: None, change: Change::Add(amount.into()) }
    }

    /// Set a count of the scene.
    pub fn set(count: impl Into<String>, value: impl Into<Quantity<i64>>) -> Self {
        Self::Count { name: count.into(), of: None, change: Change::Set(value.into()) }
    }

    /// Add to a count of an entity.
    pub fn add_to(
        of: impl Into<String>,
        count: impl Into<String>,
        amount: impl Into<Quantity<i64>>,
    ) -> Self {
        Self::Count { name: count.into(), of: Some(of.into()), change: Change::Add(amount.into()) }
    }

    /// Raise or lower a flag of the scene.
    pub fn flag(name: impl Into<String>, up: bool) -> Self {
        Self::Flag { name: name.into(), of: None, to: Some(up) }
    }

    /// Raise or lower a flag of an entity.
    pub fn flag_of(of: impl Into<String>, name: impl Into<String>, up: bool) -> Self {
        Self::Flag { name: name.into(), of: Some(of.into()), to: Some(up) }
    }

    /// Put something into a slot of an entity: a number, a formula, a text, true or false, or
    /// [`Filling::entity`].
    pub fn fill(of: impl Into<String>, slot: impl Into<String>, with: impl Into<Filling>) -> Self {
        Self::Fill { slot: slot.into(), of: of.into(), with: with.into() }
    }

    /// Empty a slot of an entity.
    pub fn unfill(of: impl Into<String>, slot: impl Into<String>) -> Self {
        Self::Fill { slot: slot.into(), of: of.into(), with: Filling::Nothing }
    }

    /// Change a stat of an entity.
    pub fn stat<N: Into<Quantity>>(
        of: impl Into<String>,
        name: impl Into<String>,
        change: Change<N>,
    ) -> Self {
        let change = match change {
            Change::Add(amount) => Change::Add(amount.into()),
            Change::Set(value) => Change::Set(value.into()),
        };
        Self::Stat { name: name.into(), of: of.into(), change }
    }

    /// Lower an entity's stat `health` by `by`.
    pub fn hurt(whom: impl Into<String>, by: impl Into<Quantity>) -> Self {
        Self::stat(whom, HEALTH, Change::Add(by.into().in_unit(-1.0)))
    }

    /// Raise an entity's stat `health` by `by`.
    pub fn heal(whom: impl Into<String>, by: impl Into<Quantity>) -> Self {
        Self::stat(whom, HEALTH, Change::Add(by.into()))
    }

    /// Put an effect on an entity.
    pub fn effect(name: impl Into<String>, of: impl Into<String>) -> Self {
        Self::Effect { name: name.into(), of: of.into() }
    }

    /// End an effect on an entity.
    pub fn end_effect(name: impl Into<String>, of: impl Into<String>) -> Self {
        Self::EndEffect { name: name.into(), of: of.into() }
    }

    /// Give an entity what a grant holds.
    pub fn grant(grant: Grant, to: impl Into<String>) -> Self {
        Self::Grant { grant, to: to.into() }
    }

    /// Let somebody collect a pickup.
    pub fn collect(what: impl Into<String>, to: impl Into<String>) -> Self {
        Self::Collect { what: what.into(), to: to.into() }
    }

    /// Show a text.
    pub fn say(key: impl Into<String>) -> Self {
        Self::Say { key: key.into(), to: None }
    }

    /// Show a text to somebody alone.
    pub fn say_to(to: impl Into<String>, key: impl Into<String>) -> Self {
        Self::Say { key: key.into(), to: Some(to.into()) }
    }

    /// Send a cue.
    pub fn cue(name: impl Into<String>) -> Self {
        Self::Cue { name: name.into(), on: None, who: None }
    }

    /// Send a cue with this subject, whatever the event.
    pub fn cue_of(who: impl Into<String>, name: impl Into<String>) -> Self {
        Self::Cue { name: name.into(), on: None, who: Some(who.into()) }
    }

    /// Send an event by hand.
    pub fn send(event: EventKind, on: impl Into<String>, who: impl Into<String>) -> Self {
        Self::Send { event, on: on.into(), who: Some(who.into()) }
    }

    /// Bring out one of a kind's stock.
    pub fn spawn(kind: impl Into<String>, at: impl Into<String>) -> Self {
        Self::Spawn { kind: kind.into(), at: at.into() }
    }

    /// Take an entity out of the play.
    pub fn remove(what: impl Into<String>) -> Self {
        Self::Remove(what.into())
    }

    /// Make an entity what and where it was at the start.
    pub fn reset(what: impl Into<String>) -> Self {
        Self::Reset(what.into())
    }

    /// Make an entity a child of another.
    pub fn attach(what: impl Into<String>, to: impl Into<String>) -> Self {
        Self::Attach { what: what.into(), to: to.into() }
    }

    /// Make an entity nobody's child.
    pub fn detach(what: impl Into<String>) -> Self {
        Self::Detach(what.into())
    }

    /// Run a function or routine.
    pub fn call(name: impl Into<String>) -> Self {
        Self::Call(name.into())
    }

    /// End what a reaction of this name still has to do.
    pub fn stop(name: impl Into<String>) -> Self {
        Self::Stop { name: name.into(), of: None }
    }

    /// Delay the actions after it by `seconds`.
    pub fn wait(seconds: impl Into<Quantity>) -> Self {
        Self::Wait(Wait::Seconds(seconds.into()))
    }

    /// Let the actions after it wait until an entity has arrived where it is going.
    pub fn wait_for(what: impl Into<String>) -> Self {
        Self::Wait(Wait::Arrival(what.into()))
    }
}

impl<T, N, C> From<Throw<T, N>> for Action<T, N, C> {
    fn from(throw: Throw<T, N>) -> Self {
        Self::Throw(throw)
    }
}

impl Action {
    /// Put a thing into somebody's hands.
    pub fn grab(what: impl Into<String>, to: impl Into<String>) -> Self {
        Self::Grab { what: what.into(), to: to.into() }
    }

    /// Let a thing belong to somebody.
    pub fn own(what: impl Into<String>, to: impl Into<String>) -> Self {
        Self::Own { what: what.into(), to: to.into() }
    }

    /// Let a thing belong to nobody.
    pub fn disown(what: impl Into<String>) -> Self {
        Self::Disown(what.into())
    }

    /// Let go of a thing; or make a holder let go.
    pub fn drop(what: impl Into<String>) -> Self {
        Self::Drop(what.into())
    }

    /// Throw a thing that is held; or make a holder throw.
    pub fn throw(what: impl Into<String>, velocity: [impl Into<Quantity>; 3]) -> Throw {
        Throw { what: what.into(), velocity: velocity.map(Into::into), spin: 0.0.into() }
    }
}

impl Action {
    /// Move an entity to where another one is. At once, unless [`Move::over`] says otherwise.
    pub fn move_to(what: impl Into<String>, to: impl Into<String>) -> Move {
        Move::of(what, Destination::Entity(to.into()))
    }

    /// Move an entity back to where it was placed in the scene.
    pub fn move_home(what: impl Into<String>) -> Move {
        Move::of(what, Destination::Home)
    }

    /// Move an entity to where the event is: of what a pointer does, the point under it; of a `drag`,
    /// where it holds the thing.
    pub fn move_to_point(what: impl Into<String>) -> Move {
        Move::of(what, Destination::Point)
    }

    /// Move an entity so far from where it is, in metres along the axes of its parent.
    pub fn move_by(what: impl Into<String>, way: [impl Into<Quantity>; 3]) -> Move {
        Move::of(what, Destination::By(way.map(Into::into)))
    }

    /// Put an entity at another's place at once.
    pub fn teleport(what: impl Into<String>, to: impl Into<String>) -> Teleport {
        Teleport::of(what.into(), to.into())
    }

    /// Let somebody walk to another's place.
    pub fn walk(what: impl Into<String>, to: impl Into<String>) -> Self {
        Self::Walk { what: what.into(), to: to.into() }
    }

    /// Let somebody stop walking.
    pub fn halt(what: impl Into<String>) -> Self {
        Self::Halt(what.into())
    }

    /// Let somebody jump.
    pub fn jump(what: impl Into<String>) -> Self {
        Self::Jump(what.into())
    }

    /// Turn an entity about Y towards another. At once, unless [`Turn::over`] or [`Turn::rate`]
    /// say otherwise.
    pub fn face(what: impl Into<String>, to: impl Into<String>) -> Turn {
        let (what, towards) = (what.into(), Some(to.into()));
        Turn { what, towards, by: 0.0.into(), pace: Pace::Over(0.0.into()), ease: Easing::Linear }
    }

    /// Let an entity follow another with its look, until it is turned or halted.
    pub fn aim(what: impl Into<String>, at: impl Into<String>) -> Aim {
        let pitch = [-FRAC_PI_2, FRAC_PI_2].map(Into::into);
        Aim { what: what.into(), at: at.into(), rate: PI.into(), pitch }
    }

    /// Turn an entity about Y by `by` radians, counter-clockwise from above.
    pub fn turn(what: impl Into<String>, by: impl Into<Quantity>) -> Turn {
        let (what, by, pace) = (what.into(), by.into(), Pace::Over(0.0.into()));
        Turn { what, towards: None, by, pace, ease: Easing::Linear }
    }
}

impl<T, N, C> From<Move<T, N>> for Action<T, N, C> {
    fn from(movement: Move<T, N>) -> Self {
        Self::Move(movement)
    }
}

impl<T, N, C> From<Turn<T, N>> for Action<T, N, C> {
    fn from(turn: Turn<T, N>) -> Self {
        Self::Turn(turn)
    }
}

impl<T, N, C> From<Aim<T, N>> for Action<T, N, C> {
    fn from(aim: Aim<T, N>) -> Self {
        Self::Aim(aim)
    }
}

impl<T, N, C> From<Lead<T, N>> for Action<T, N, C> {
    fn from(lead: Lead<T, N>) -> Self {
        Self::Lead(lead)
    }
}

impl Action {
    /// Set an entity going along its route, or let it go on.
    pub fn run(what: impl Into<String>) -> Self {
        Self::Route { what: what.into(), order: RouteOrder::Run }
    }

    /// Let an entity turn back along its route, from where it is.
    pub fn reverse(what: impl Into<String>) -> Self {
        Self::Route { what: what.into(), order: RouteOrder::Reverse }
    }

    /// Take somebody along some places, one second each unless [`Lead::over`] or [`Lead::rate`] say
    /// otherwise.
    pub fn lead<T: Into<String>>(
        what: impl Into<String>,
        through: impl IntoIterator<Item = T>,
    ) -> Lead {
        let through = through.into_iter().map(Into::into).collect();
        Lead { what: what.into(), through, pace: Pace::Over(1.0.into()), ease: Easing::Linear }
    }
}

impl<T, N, C> From<Teleport<T>> for Action<T, N, C> {
    fn from(teleport: Teleport<T>) -> Self {
        Self::Teleport(teleport)
    }
}
