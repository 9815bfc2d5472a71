//! What a reaction does.

#[macro_use]
mod table;
mod change;
mod parts;
mod shorthand;
mod translate;

use super::{
    Aim, EntityId, EventKind, Filling, Grant, Lead, Move, Quantity, RouteOrder, Teleport, Throw,
    Turn,
};

pub use change::{Change, Switch, Wait};
use parts::{counts, granted, sent, stats};
pub(crate) use translate::{Measure, Noun, Translate};

actions! {
    /// One thing done. `T` is how it names entities, `N` and `C` are how its numbers and amounts of counts
    /// are given: by words and maybe by formulas in a description, as they are once carried out
    /// ([`ResolvedAction`]).
    ///
    /// In a description two words stand for who is part of the event: `who`, the subject, and `on`,
    /// the detector; `on.slot.gate` stands for what is in a slot of one of them. Whatever is acted on
    /// (not what it is acted on *with*) may also be `kind:...` or `tag:...`: then it is done to each of
    /// them, in the scene's order.
    ///
    /// ```
    /// use hazuro::motion::Easing;
    /// use hazuro::scene::Action;
    /// let open: Action = Action::move_to("sluice_gate", "sluice_raised")
    ///     .over(0.8)
    ///     .ease(Easing::EASE_IN_OUT)
    ///     .into();
    /// let pay = Action::add("tokens", 1);
    /// let hurt = Action::hurt("who", 5.0);
    /// let dark = Action::disable("kind:lamp");
    /// ```
    pub enum Action;

    /// Move an entity to another's place or back home.
    Move(movement: Move<T, N> = part) => "move";
    /// Put an entity at another's place at once; nothing between is swept.
    Teleport(teleport: Teleport<T> = part) => "teleport";
    /// Set an entity going along its route. Needs one that has a route.
    Route {
        /// What.
        what: T = acted,
        /// What to do.
        order: RouteOrder = plain,
    } => order.word();
    /// Take somebody along some places.
    Lead(lead: Lead<T, N> = part) => "lead";
    /// Put a thing into somebody's hands. The thing must be one to carry, and the hands free.
    Grab {
        /// The thing.
        what: T = acted,
        /// The body that takes it.
        to: T = other,
    } => "grab";
    /// Let a thing belong to somebody. The thing must be one that can be owned.
    Own {
        /// The thing.
        what: T = acted,
        /// Whose it is then.
        to: T = other,
    } => "own";
    /// Let a thing belong to nobody. Its holder lets go of it.
    Disown(what: T = acted) => "disown";
    /// Let go of a thing that is held; or make a holder let go.
    Drop(what: T = acted) => "drop";
    /// Throw a thing that is held; or make a holder throw.
    Throw(throw: Throw<T, N> = part) => "throw";
    /// Turn an entity about Y.
    Turn(turn: Turn<T, N> = part) => turn.word();
    /// Let an entity follow another with its look.
    Aim(aim: Aim<T, N> = part) => "aim";
    /// Let somebody walk to another's place, around what is in the way. Needs a walker.
    Walk {
        /// The walker.
        what: T = acted,
        /// Where to.
        to: T = other,
    } => "walk";
    /// Let somebody stop walking, or something stop on its route, until it is set going again.
    Halt(what: T = acted) => "halt";
    /// Let somebody jump. Needs a walker that can jump, and stands.
    Jump(what: T = acted) => "jump";
    /// Switch an entity on or off, or over. Needs what the switch is of: a solid for
    /// [`Switch::Solid`], a detector for [`Switch::Detect`].
    Switch {
        /// What.
        what: T = acted,
        /// Which of its switches.
        switch: Switch = plain,
        /// On or off; over if it does not say.
        to: Option<bool> = plain,
    } => switch.verb(*to);
    /// Give an entity a tag.
    Tag {
        /// The entity.
        what: T = acted,
        /// The tag.
        tag: String = named(Noun::Tag),
    } => "tag";
    /// Take a tag away from an entity.
    Untag {
        /// The entity.
        what: T = acted,
        /// The tag.
        tag: String = named(Noun::Tag),
    } => "untag";
    /// Make an entity like a kind: what that gives counts before what the entity has, until it is reverted.
    /// Needs an entity that has all that the kind gives.
    Convert {
        /// The entity.
        what: T = acted,
        /// The kind.
        to: String = named(Noun::Conversion),
    } => "convert";
    /// Make an entity what it was before it was converted.
    Revert(what: T = acted) => "revert";
    /// Change a count.
    Count {
        /// Which count; it is 0 until something changes it.
        name: String = named(Noun::New),
        /// Whose; the scene's if nobody's.
        of: Option<T> = maybe_acted,
        /// How.
        change: Change<C> = with(counts),
    } => "count";
    /// Change a flag.
    Flag {
        /// Which flag; it is down until something raises it.
        name: String = named(Noun::New),
        /// Whose; the scene's if nobody's.
        of: Option<T> = maybe_acted,
        /// Up or down; over if it does not say.
        to: Option<bool> = plain,
    } => "flag";
    /// Put something else into a slot, or empty it. Needs an entity with such a slot, for that sort of
    /// thing.
    Fill {
        /// Which slot.
        slot: String = named(Noun::Slot),
        /// Whose.
        of: T = acted,
        /// With what.
        with: Filling<T, N> = with(Filling::translate),
    } => with.verb();
    /// Change a stat. Needs an entity that has it.
    Stat {
        /// Which stat.
        name: String = named(Noun::Stat),
        /// Whose.
        of: T = acted,
        /// How. It stops at its least and at its most.
        change: Change<N> = with(stats),
    } => "stat";
    /// Put an effect on an entity. Needs one that has a stat the effect changes.
    Effect {
        /// Which effect.
        name: String = named(Noun::Effect),
        /// On whom.
        of: T = acted,
    } => "effect";
    /// End an effect, or all of its kind, on an entity.
    EndEffect {
        /// Which effect.
        name: String = named(Noun::Effect),
        /// On whom.
        of: T = acted,
    } => "end_effect";
    /// Give an entity counts, flags, stats, effects and tags. Needs the stats.
    Grant {
        /// What.
        grant: Grant = with(granted),
        /// To whom.
        to: T = acted,
    } => "grant";
    /// Let somebody collect a pickup. Needs an entity that is one.
    Collect {
        /// The pickup.
        what: T = acted,
        /// The collector.
        to: T = other,
    } => "collect";
    /// Show a text.
    Say {
        /// The key of the text.
        key: String = plain,
        /// To whom; to everybody if it does not say.
        to: Option<T> = maybe_acted,
    } => "say";
    /// Send a cue.
    Cue {
        /// Its name.
        name: String = named(Noun::New),
        /// The detector that the reactions to it see. The default is that of the event.
        on: Option<T> = maybe_other,
        /// The subject that the reactions to it see. The default is that of the event.
        who: Option<T> = maybe_other,
    } => "cue";
    /// Send an event by hand: the reactions to it run, and nothing else changes.
    Send {
        /// The event; it has the cause [`Cause::Hand`](crate::Cause::Hand).
        event: EventKind = with(sent),
        /// The detector.
        on: T = acted,
        /// The subject.
        who: Option<T> = maybe_other,
    } => "send";
    /// Bring out one of a kind's stock. Needs a kind with a stock.
    Spawn {
        /// The kind.
        kind: String = named(Noun::Kind),
        /// The entity whose pose it takes.
        at: T = other,
    } => "spawn";
    /// Take an entity and its children out of the play; what came from a stock goes back there.
    Remove(what: T = acted) => "remove";
    /// Make an entity and its children what and where they were at the start.
    Reset(what: T = acted) => "reset";
    /// Make an entity a child of another, where it is now: it moves along, and is off while the
    /// other is.
    Attach {
        /// What.
        what: T = acted,
        /// To whom.
        to: T = other,
    } => "attach";
    /// Make an entity nobody's child, where it is now.
    Detach(what: T = acted) => "detach";
    /// Run the function or routine of this name.
    Call(function: String = plain) => "call";
    /// End what a reaction of this name still has to do.
    Stop {
        /// The reaction's name.
        name: String = named(Noun::Reaction),
        /// Only for this subject; for all if it does not say.
        of: Option<T> = maybe_acted,
    } => "stop";
    /// Let the actions after it wait.
    Wait(wait: Wait<T, N> = maybe_part) => "wait";
}

/// An action as it is carried out: every entity and every number is known.
///
/// ```
/// use hazuro::{Happening, Play, Scene, scene::{Action, Change, Reaction, ResolvedAction, Trigger}};
/// let count = Reaction::on(Trigger::Start).then(Action::add("visits", 1));
/// let mut play = Play::new(Scene::builder("Yard").reaction(count).build()?);
/// let done = |entry: &hazuro::Entry| matches!(
///     &entry.what,
///     Happening::Did { action: ResolvedAction::Count { change: Change::Add(1), .. }, .. }
/// );
/// assert!(play.step().iter().any(done));
/// # Ok::<(), hazuro::scene::SceneErrors>(())
/// ```
pub type ResolvedAction = Action<EntityId, f64, i64>;
