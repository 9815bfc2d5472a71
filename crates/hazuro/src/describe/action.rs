//! What a reaction does.

use super::{
    Aim, EntityId, EventKind, Filling, Grant, Lead, Move, Quantity, RouteOrder, Teleport, Throw,
    Turn,
};

/// One thing done. `T` is how it names entities, `N` and `C` are how its numbers and amounts of counts
/// are given: by words and maybe by formulas in a description, as they are once carried out
/// ([`ResolvedAction`]).
///
/// In a description two words stand for who is part of the event: `who`, the subject, and `on`,
/// the detector; `on.slot.gate` stands for what is in a slot of one of them. Whatever is acted on (not what it is acted on *with*) may also be `kind:...` or
/// `tag:...`: then it is done to each of them, in the scene's order.
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
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Action<T = String, N = Quantity, C = Quantity<i64>> {
    /// Move an entity to another's place or back home.
    Move(Move<T, N>),
    /// Put an entity at another's place at once; nothing between is swept.
    Teleport(Teleport<T>),
    /// Set an entity going along its route. Needs one that has a route.
    Route {
        /// What.
        what: T,
        /// What to do.
        order: RouteOrder,
    },
    /// Take somebody along some places.
    Lead(Lead<T, N>),
    /// Put a thing into somebody's hands. The thing must be one to carry, and the hands free.
    Grab {
        /// The thing.
        what: T,
        /// Who takes it.
        to: T,
    },
    /// Let a thing belong to somebody. The thing must be one that can be owned.
    Own {
        /// The thing.
        what: T,
        /// Whose it is then.
        to: T,
    },
    /// Let a thing belong to nobody. Who holds it lets go of it.
    Disown(T),
    /// Let go of a thing that is held; or make a holder let go.
    Drop(T),
    /// Throw a thing that is held; or make a holder throw.
    Throw(Throw<T, N>),
    /// Turn an entity about Y.
    Turn(Turn<T, N>),
    /// Let an entity follow another with its look.
    Aim(Aim<T, N>),
    /// Let somebody walk to another's place, around what is in the way. Needs a walker.
    Walk {
        /// The walker.
        what: T,
        /// Where to.
        to: T,
    },
    /// Let somebody stop walking, or something stop on its route, until it is set going again.
    Halt(T),
    /// Let somebody jump. Needs a walker that can jump, and stands.
    Jump(T),
    /// Switch an entity on or off, or over. Needs what the switch is of: a solid for
    /// [`Switch::Solid`], a detector for [`Switch::Detect`].
    Switch {
        /// What.
        what: T,
        /// Which of its switches.
        switch: Switch,
        /// On or off; over if it does not say.
        to: Option<bool>,
    },
    /// Give an entity a tag.
    Tag {
        /// Who or what.
        what: T,
        /// The tag.
        tag: String,
    },
    /// Take a tag away from an entity.
    Untag {
        /// Who or what.
        what: T,
        /// The tag.
        tag: String,
    },
    /// Change a count.
    Count {
        /// Which count; it is 0 until something changes it.
        name: String,
        /// Whose; the scene's if nobody's.
        of: Option<T>,
        /// How.
        change: Change<C>,
    },
    /// Change a flag.
    Flag {
        /// Which flag; it is down until something raises it.
        name: String,
        /// Whose; the scene's if nobody's.
        of: Option<T>,
        /// Up or down; over if it does not say.
        to: Option<bool>,
    },
    /// Put something else into a slot, or empty it. Needs an entity with such a slot, for that sort of
    /// thing.
    Fill {
        /// Which slot.
        slot: String,
        /// Whose.
        of: T,
        /// With what.
        with: Filling<T, N>,
    },
    /// Change a stat. Needs an entity that has it.
    Stat {
        /// Which stat.
        name: String,
        /// Whose.
        of: T,
        /// How. It stops at its least and at its most.
        change: Change<N>,
    },
    /// Put an effect on an entity. Needs one that has a stat the effect changes.
    Effect {
        /// Which effect.
        name: String,
        /// On whom.
        of: T,
    },
    /// End an effect, or all of its kind, on an entity.
    EndEffect {
        /// Which effect.
        name: String,
        /// On whom.
        of: T,
    },
    /// Give an entity counts, flags, stats, effects and tags. Needs the stats.
    Grant {
        /// What.
        grant: Grant,
        /// To whom.
        to: T,
    },
    /// Let somebody collect a pickup. Needs an entity that is one.
    Collect {
        /// The pickup.
        what: T,
        /// Who collects it.
        to: T,
    },
    /// Show a text.
    Say {
        /// The key of the text.
        key: String,
        /// To whom; to everybody if it does not say.
        to: Option<T>,
    },
    /// Send a cue.
    Cue {
        /// Its name.
        name: String,
        /// The detector that whoever hears it sees; that of the event if it does not say.
        on: Option<T>,
        /// The subject that whoever hears it sees; that of the event if it does not say.
        who: Option<T>,
    },
    /// Send an event by hand: whoever waits for it hears of it, and nothing else changes.
    Send {
        /// The event; it has the cause [`Cause::Hand`](crate::Cause::Hand).
        event: EventKind,
        /// The detector.
        on: T,
        /// The subject.
        who: Option<T>,
    },
    /// Bring out one of a kind's stock. Needs a kind with a stock.
    Spawn {
        /// The kind.
        kind: String,
        /// The entity whose pose it takes.
        at: T,
    },
    /// Take an entity and its children out of the play; what came from a stock goes back there.
    Remove(T),
    /// Make an entity and its children what and where they were at the start.
    Reset(T),
    /// Make an entity a child of another, where it is now: it moves along, and is off while the
    /// other is.
    Attach {
        /// What.
        what: T,
        /// To whom.
        to: T,
    },
    /// Make an entity nobody's child, where it is now.
    Detach(T),
    /// Run the function or routine of this name.
    Call(String),
    /// End what a reaction of this name still has to do.
    Stop {
        /// The reaction's name.
        name: String,
        /// Only for this subject; for all if it does not say.
        of: Option<T>,
    },
    /// Let the actions after it wait.
    Wait(Wait<T, N>),
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

/// The switches of an entity. Each is on only if it is on for all ancestors too.
///
/// ```
/// use hazuro::scene::{Action, Switch};
/// let open: Action = Action::Switch { what: "gate".into(), switch: Switch::Solid, to: Some(false) };
/// assert_eq!(open, Action::solid("gate", false));
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Switch {
    /// Whether it is there at all: for detectors, for rays, as a subject.
    Enabled,
    /// Whether it is shown.
    Visible,
    /// Whether its solid blocks.
    Solid,
    /// Whether its detectors detect.
    Detect,
}

impl Switch {
    /// All of them.
    pub const ALL: [Self; 4] = [Self::Enabled, Self::Visible, Self::Solid, Self::Detect];

    /// The word for it where it is asked for.
    pub fn word(self) -> &'static str {
        match self {
            Self::Enabled => "enabled",
            Self::Visible => "visible",
            Self::Solid => "solid",
            Self::Detect => "detect",
        }
    }
}

/// How a count or a stat changes. Counts stop at the ends of their range, stats at their least
/// and most.
///
/// ```
/// use hazuro::scene::{Action, Change};
/// let train = Action::stat("who", "strength", Change::Add(1.0));
/// let rest = Action::stat("who", "strength", Change::Set(5.0));
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Change<A = i64> {
    /// Add this much, which may be negative.
    Add(A),
    /// Make it this much.
    Set(A),
}

/// For what the actions after it wait.
///
/// ```
/// use hazuro::scene::{Action, Wait};
/// assert_eq!(Action::wait(2.0), Action::Wait(Wait::Seconds(2.0.into())));
/// assert_eq!(Action::wait_for("gate"), Action::Wait(Wait::Arrival("gate".into())));
/// ```
#[derive(Clone, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Wait<T = String, N = Quantity> {
    /// So many seconds.
    Seconds(N),
    /// Until this entity has arrived where it is going.
    Arrival(T),
}

/// The stat that `hurt` and `heal` change.
pub const HEALTH: &str = "health";
/// The stat that is a walker's speed, in metres per second. Who walks has it.
pub const WALK: &str = "walk";
/// The stat that is how high a walker jumps, in metres. Who walks has it if the scene changes it anywhere;
/// it starts at the `jump` of its legs, and counts at the moment of a jump.
pub const JUMP: &str = "jump";
/// The stat that is the highest step a walker takes, in metres. Who walks has it if the scene changes it
/// anywhere; it starts at the `step` of its legs.
pub const STEP: &str = "step";
/// The stat that is the acceleration with which a walker falls, in metres per second squared. Who walks has
/// it if the scene changes it anywhere; it starts at the scene's.
pub const GRAVITY: &str = "gravity";
/// The stats that legs go by.
pub(crate) const LEG_STATS: [&str; 4] = [WALK, JUMP, STEP, GRAVITY];

impl<T, N, C> Action<T, N, C> {
    /// The action's word in scene files.
    pub fn word(&self) -> &'static str {
        match self {
            Self::Move(_) => "move",
            Self::Teleport(_) => "teleport",
            Self::Route { order, .. } => order.word(),
            Self::Lead(_) => "lead",
            Self::Aim(_) => "aim",
            Self::Grab { .. } => "grab",
            Self::Own { .. } => "own",
            Self::Disown(_) => "disown",
            Self::Drop(_) => "drop",
            Self::Throw(_) => "throw",
            Self::Turn(Turn { towards: Some(_), .. }) => "face",
            Self::Turn(_) => "turn",
            Self::Walk { .. } => "walk",
            Self::Halt(_) => "halt",
            Self::Jump(_) => "jump",
            Self::Switch { switch, to, .. } => match (switch, to) {
                (Switch::Enabled, Some(true)) => "enable",
                (Switch::Enabled, Some(false)) => "disable",
                (Switch::Enabled, None) => "toggle",
                (Switch::Visible, Some(false)) => "hide",
                (Switch::Visible, _) => "show",
                (Switch::Solid, _) => "solid",
                (Switch::Detect, _) => "detect",
            },
            Self::Tag { .. } => "tag",
            Self::Untag { .. } => "untag",
            Self::Count { .. } => "count",
            Self::Flag { .. } => "flag",
            Self::Fill { with: Filling::Nothing, .. } => "unfill",
            Self::Fill { .. } => "fill",
            Self::Stat { .. } => "stat",
            Self::Effect { .. } => "effect",
            Self::EndEffect { .. } => "end_effect",
            Self::Grant { .. } => "grant",
            Self::Collect { .. } => "collect",
            Self::Say { .. } => "say",
            Self::Cue { .. } => "cue",
            Self::Send { .. } => "send",
            Self::Spawn { .. } => "spawn",
            Self::Remove(_) => "remove",
            Self::Reset(_) => "reset",
            Self::Attach { .. } => "attach",
            Self::Detach(_) => "detach",
            Self::Call(_) => "call",
            Self::Stop { .. } => "stop",
            Self::Wait(_) => "wait",
        }
    }

    /// Whom or what it acts on, if on an entity, and the key for that in a scene file.
    pub fn target(&self) -> Option<(&T, &'static str)> {
        let word = self.word();
        match self {
            Self::Move(Move { what, .. })
            | Self::Turn(Turn { what, .. })
            | Self::Teleport(Teleport { what, .. })
            | Self::Route { what, .. }
            | Self::Lead(Lead { what, .. })
            | Self::Aim(Aim { what, .. })
            | Self::Grab { what, .. }
            | Self::Own { what, .. }
            | Self::Disown(what)
            | Self::Drop(what)
            | Self::Throw(Throw { what, .. })
            | Self::Switch { what, .. }
            | Self::Tag { what, .. }
            | Self::Untag { what, .. }
            | Self::Collect { what, .. }
            | Self::Attach { what, .. }
            | Self::Walk { what, .. }
            | Self::Halt(what)
            | Self::Jump(what)
            | Self::Remove(what)
            | Self::Reset(what)
            | Self::Detach(what)
            | Self::Wait(Wait::Arrival(what)) => Some((what, word)),
            Self::Stat { of, .. }
            | Self::Fill { of, .. }
            | Self::Effect { of, .. }
            | Self::EndEffect { of, .. } => Some((of, "of")),
            Self::Count { of, .. } | Self::Flag { of, .. } | Self::Stop { of, .. } => {
                of.as_ref().map(|of| (of, "of"))
            }
            Self::Grant { to, .. } => Some((to, "to")),
            Self::Send { on, .. } => Some((on, "on")),
            Self::Say { to, .. } => to.as_ref().map(|to| (to, "to")),
            Self::Spawn { .. } | Self::Cue { .. } | Self::Call(_) | Self::Wait(_) => None,
        }
    }
}
