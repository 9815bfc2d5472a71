//! When an event, if a condition, do actions.

use std::hash::Hash;

use super::route::worded;
use super::{Action, Condition, Quantity, Trigger};

/// When an event, if a condition, do actions.
///
/// ```
/// use hazuro::scene::{Action, Condition, Reaction, Trigger};
/// let close = Reaction::on(Trigger::last_exit("sluice_pad"))
///     .after(2.0)
///     .then(Action::move_home("sluice_gate").over(1.2));
/// let toll = Reaction::on(Trigger::enter("toll_gate"))
///     .when(Condition::new("four tokens", |facts| facts.count("tokens") >= 4))
///     .once()
///     .then(Action::say("toll.paid"))
///     .otherwise(Action::say("toll.asks"));
/// let drip = Reaction::on(Trigger::enter("pump"))
///     .then(Action::add("drops", 1))
///     .every(0.5)
///     .until(Trigger::exit("pump"));
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Reaction {
    pub(crate) name: Option<String>,
    pub(crate) on: Vec<Trigger>,
    pub(crate) instead_of: Option<String>,
    pub(crate) order: i32,
    pub(crate) condition: Option<Condition>,
    pub(crate) after: Quantity,
    pub(crate) every: Option<Quantity>,
    pub(crate) times: Option<u64>,
    pub(crate) until: Vec<Trigger>,
    pub(crate) until_holds: Option<Condition>,
    pub(crate) limit: Option<u64>,
    pub(crate) cooldown: f64,
    pub(crate) per: Per,
    pub(crate) again: Again,
    pub(crate) pass_on: bool,
    pub(crate) sequences: Vec<Vec<Action>>,
    pub(crate) otherwise: Vec<Action>,
}

/// What a reaction does when its event happens again while it has not yet done everything.
///
/// ```
/// use hazuro::scene::{Action, Again, Reaction, Trigger};
/// // However often the bell is rung, the door shuts three seconds after the last time.
/// let shut = Reaction::on(Trigger::click("bell"))
///     .after(3.0)
///     .again(Again::Restart)
///     .then(Action::move_home("door"));
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub enum Again {
    /// It does it once more, beside what it is doing.
    #[default]
    Beside,
    /// It ends what it is doing and begins anew.
    Restart,
    /// Nothing.
    Ignore,
    /// It does it once more when it is done.
    Queue,
}

impl Again {
    /// All of them.
    pub const ALL: [Self; 4] = [Self::Beside, Self::Restart, Self::Ignore, Self::Queue];

    /// The word for it in files.
    pub fn word(self) -> &'static str {
        match self {
            Self::Beside => "beside",
            Self::Restart => "restart",
            Self::Ignore => "ignore",
            Self::Queue => "queue",
        }
    }
}

worded! {
    /// For whom by itself a reaction counts its limit and its cooldown, and is under way or not.
    ///
    /// ```
    /// use hazuro::scene::{Action, Again, Per, Reaction, Trigger};
    /// // Each door of the kind shuts three seconds after somebody was last before it.
    /// let shut = Reaction::on(Trigger::exit("kind:door"))
    ///     .after(3.0)
    ///     .again(Again::Restart)
    ///     .per(Per::Detector)
    ///     .then(Action::move_home("on.slot.leaf"));
    /// assert_eq!(shut.counts_per().word(), "detector");
    /// ```
    Per {
        /// For all together.
        #[default]
        All "all",
        /// For each subject.
        Subject "subject",
        /// For each detector.
        Detector "detector",
        /// For each subject with each detector.
        Both "both",
    }
}

impl Reaction {
    /// A reaction to this event that does nothing yet.
    pub fn on(trigger: Trigger) -> Self {
        Self {
            name: None,
            on: vec![trigger],
            instead_of: None,
            order: 0,
            condition: None,
            after: 0.0.into(),
            every: None,
            times: None,
            until: Vec::new(),
            until_holds: None,
            limit: None,
            cooldown: 0.0,
            per: Per::All,
            again: Again::default(),
            pass_on: false,
            sequences: vec![Vec::new()],
            otherwise: Vec::new(),
        }
    }

    /// And to this event.
    #[must_use]
    pub fn or(mut self, trigger: Trigger) -> Self {
        self.on.push(trigger);
        self
    }

    /// Give it a name, by which it can be stopped or replaced.
    #[must_use]
    pub fn named(self, name: impl Into<String>) -> Self {
        Self { name: Some(name.into()), ..self }
    }

    /// Where both this and the reaction of that name would react to an event, let only this one.
    /// So one entity of a kind can do otherwise than the rest.
    #[must_use]
    pub fn instead_of(self, name: impl Into<String>) -> Self {
        Self { instead_of: Some(name.into()), ..self }
    }

    /// Reactions to the same event happen in this order, the smaller number first; those of one
    /// number in the order of the scene. The default is 0.
    #[must_use]
    pub fn order(self, order: i32) -> Self {
        Self { order, ..self }
    }

    /// Only if this holds when the event happens.
    #[must_use]
    pub fn when(self, condition: Condition) -> Self {
        Self { condition: Some(condition), ..self }
    }

    /// Do this, at once, when everything but the condition would let it react.
    #[must_use]
    pub fn otherwise(mut self, action: impl Into<Action>) -> Self {
        self.otherwise.push(action.into());
        self
    }

    /// Wait this many seconds between the event and the actions. A formula is worked out at the event.
    #[must_use]
    pub fn after(self, seconds: impl Into<Quantity>) -> Self {
        Self { after: seconds.into(), ..self }
    }

    /// Repeats the actions with this period, in seconds. A formula is worked out anew at each beginning.
    #[must_use]
    pub fn every(self, seconds: impl Into<Quantity>) -> Self {
        Self { every: Some(seconds.into()), ..self }
    }

    /// With [`every`](Self::every): how many times in all.
    #[must_use]
    pub fn times(self, times: u64) -> Self {
        Self { times: Some(times), ..self }
    }

    /// End what it still has to do when this happens to the same subject: with the same detector
    /// if that is among those it reacts to. A cue without a subject ends it for all.
    #[must_use]
    pub fn until(mut self, trigger: Trigger) -> Self {
        self.until.push(trigger);
        self
    }

    /// End it as soon as this holds at a beginning of [`every`](Self::every), or when its waiting
    /// is over.
    #[must_use]
    pub fn until_holds(self, condition: Condition) -> Self {
        Self { until_holds: Some(condition), ..self }
    }

    /// Only the first time.
    #[must_use]
    pub fn once(self) -> Self {
        self.limit(1)
    }

    /// The greatest number of times it runs.
    #[must_use]
    pub fn limit(self, times: u64) -> Self {
        Self { limit: Some(times), ..self }
    }

    /// Not again until this many seconds after the event it last reacted to.
    #[must_use]
    pub fn cooldown(self, seconds: f64) -> Self {
        Self { cooldown: seconds, ..self }
    }

    /// For whom by itself it counts limit and cooldown, and holds [`again`](Self::again).
    #[must_use]
    pub fn per(self, per: Per) -> Self {
        Self { per, ..self }
    }

    /// What to do when its event happens again while it is not done.
    #[must_use]
    pub fn again(self, again: Again) -> Self {
        Self { again, ..self }
    }

    /// Leave the event of a pointer to the ancestors of what was pointed at too. Without this,
    /// the first reaction to it stops it.
    #[must_use]
    pub fn pass_on(self) -> Self {
        Self { pass_on: true, ..self }
    }

    /// Then do this, after what it does already.
    #[must_use]
    pub fn then(mut self, action: impl Into<Action>) -> Self {
        if let Some(sequence) = self.sequences.last_mut() {
            sequence.push(action.into());
        }
        self
    }

    /// Begin another sequence of actions, which goes on beside the ones before.
    #[must_use]
    pub fn meanwhile(mut self) -> Self {
        self.sequences.push(Vec::new());
        self
    }

    /// Its name, if it has one.
    pub fn name(&self) -> Option<&str> {
        self.name.as_deref()
    }

    /// What it waits for: any of these.
    pub fn triggers(&self) -> &[Trigger] {
        &self.on
    }

    /// The name of the reaction it replaces, if it does.
    pub fn replaces(&self) -> Option<&str> {
        self.instead_of.as_deref()
    }

    /// Its place among the reactions to the same event.
    pub fn place(&self) -> i32 {
        self.order
    }

    /// Its condition, if it has one.
    pub fn condition(&self) -> Option<&Condition> {
        self.condition.as_ref()
    }

    /// How many seconds it waits.
    pub fn delay(&self) -> &Quantity {
        &self.after
    }

    /// How many seconds lie between two beginnings, if it does it again and again, and how often
    /// it does it at most.
    pub fn repetition(&self) -> (Option<&Quantity>, Option<u64>) {
        (self.every.as_ref(), self.times)
    }

    /// The events that end it.
    pub fn enders(&self) -> &[Trigger] {
        &self.until
    }

    /// The condition that ends it, if there is one.
    pub fn ending(&self) -> Option<&Condition> {
        self.until_holds.as_ref()
    }

    /// How often it happens, if not for ever.
    pub fn most_times(&self) -> Option<u64> {
        self.limit
    }

    /// Its cooldown in seconds.
    pub fn cooldown_seconds(&self) -> f64 {
        self.cooldown
    }

    /// For whom by itself it counts limit and cooldown, and holds what it does
    /// [again](Self::when_again).
    pub fn counts_per(&self) -> Per {
        self.per
    }

    /// What it does when its event happens again while it is not done.
    pub fn when_again(&self) -> Again {
        self.again
    }

    /// Whether it leaves the event of a pointer to ancestors too.
    pub fn passes_on(&self) -> bool {
        self.pass_on
    }

    /// What it does: one or several sequences, all begun at the same time.
    pub fn sequences(&self) -> &[Vec<Action>] {
        &self.sequences
    }

    /// What it does when only its condition keeps it from reacting.
    pub fn alternative(&self) -> &[Action] {
        &self.otherwise
    }

    /// All its actions, with the key they stand under in a scene file, the sequence and the place
    /// in it.
    pub fn actions(&self) -> impl Iterator<Item = (&'static str, usize, usize, &Action)> {
        let sequences = self.sequences.iter().enumerate();
        let done = sequences.flat_map(|(number, sequence)| {
            sequence.iter().enumerate().map(move |(place, action)| ("do", number, place, action))
        });
        let otherwise = self.otherwise.iter().enumerate();
        done.chain(otherwise.map(|(place, action)| ("else", 0, place, action)))
    }
}
