//! Numbers on an entity, what changes them for a time, and what is given and collected.

use std::collections::BTreeMap;
use std::hash::{Hash, Hasher};

/// The stat that `hurt` and `heal` change.
pub const HEALTH: &str = "health";
/// The stat that is a walker's speed, in metres per second. Every walker has it.
pub const WALK: &str = "walk";
/// The stat that is how high a walker jumps, in metres. Every walker has it if the scene changes it anywhere;
/// it starts at the `jump` of its legs, and counts at the moment of a jump.
pub const JUMP: &str = "jump";
/// The stat that is the highest step a walker takes, in metres. Every walker has it if the scene changes it
/// anywhere; it starts at the `step` of its legs.
pub const STEP: &str = "step";
/// The stat that is the acceleration with which a walker falls, in metres per second squared. Every walker has
/// it if the scene changes it anywhere; it starts at the scene's.
pub const GRAVITY: &str = "gravity";
/// The stats that legs go by.
pub(crate) const LEG_STATS: [&str; 4] = [WALK, JUMP, STEP, GRAVITY];

/// A number on an entity, as health or strength.
///
/// ```
/// use hazuro::scene::{Entity, Stat};
/// let health = Stat { start: 100.0, most: 100.0, ..Stat::default() };
/// let miller = Entity::new("miller").stat("health", health);
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Stat {
    /// The value at the start. The default is 0.
    pub start: f64,
    /// The smallest value. The default is 0.
    pub least: f64,
    /// The largest value. The default is no limit: infinity.
    pub most: f64,
}

impl Default for Stat {
    fn default() -> Self {
        Self { start: 0.0, least: 0.0, most: f64::INFINITY }
    }
}

/// A change to stats that ends by itself. What a stat is without its effects is kept apart from
/// them, so whatever ends in whatever order, what was there is there again, to the last bit.
///
/// ```
/// use hazuro::scene::{Alter, Effect, Stacking};
/// // Half as fast again for eight seconds; another mug begins the eight seconds anew.
/// let broth = Effect::new("broth").alter("walk", Alter::times(1.5)).seconds(8.0);
/// // Five health a second for as long as one stands in it.
/// let dust = Effect::new("dust").alter("health", Alter::rate(-5.0)).while_detected();
/// # let _ = (broth, dust, Stacking::Refresh);
/// ```
#[derive(Clone, Debug, PartialEq)]
pub struct Effect {
    pub(crate) name: String,
    pub(crate) alters: BTreeMap<String, Alter>,
    pub(crate) seconds: Option<f64>,
    pub(crate) while_detected: bool,
    pub(crate) again: Stacking,
}

/// What an [`Effect`] does to one stat: (what is there + `add`) x `times`, while what is there
/// changes by `rate`.
///
/// ```
/// use hazuro::scene::Alter;
/// let curse = Alter { add: -1.0, ..Alter::times(0.5) };
/// assert_eq!((curse.add, curse.times, curse.rate), (-1.0, 0.5, 0.0));
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Alter {
    /// Added. Sums of several come before factors.
    pub add: f64,
    /// Multiplied by, from 0.
    pub times: f64,
    /// How fast what is there changes, each second. What it has changed stays.
    pub rate: f64,
}

impl Default for Alter {
    /// Nothing changes.
    fn default() -> Self {
        Self { add: 0.0, times: 1.0, rate: 0.0 }
    }
}

/// What happens when an entity gets an effect that it already has.
///
/// ```
/// use hazuro::scene::{Alter, Effect, Stacking};
/// let stew = Effect::new("stew").alter("strength", Alter::add(1.0)).seconds(9.0);
/// assert_eq!(stew.stacking(), Stacking::Refresh);
/// assert_eq!(stew.again(Stacking::Extend).stacking().word(), "extend");
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub enum Stacking {
    /// Its time begins anew.
    #[default]
    Refresh,
    /// Its time is added to what is left.
    Extend,
    /// The entity has it twice.
    Add,
    /// Nothing.
    Ignore,
}

impl Stacking {
    /// All of them.
    pub const ALL: [Self; 4] = [Self::Refresh, Self::Extend, Self::Add, Self::Ignore];

    /// The word for it in files.
    pub fn word(self) -> &'static str {
        match self {
            Self::Refresh => "refresh",
            Self::Extend => "extend",
            Self::Add => "add",
            Self::Ignore => "ignore",
        }
    }
}

impl Alter {
    /// Nothing.
    pub const NOTHING: Self = Self { add: 0.0, times: 1.0, rate: 0.0 };

    /// Adds this amount.
    pub fn add(amount: f64) -> Self {
        Self { add: amount, ..Self::NOTHING }
    }

    /// Multiplies by this factor.
    pub fn times(factor: f64) -> Self {
        Self { times: factor, ..Self::NOTHING }
    }

    /// Changes it by this amount per second, which stays when the effect ends.
    pub fn rate(per_second: f64) -> Self {
        Self { rate: per_second, ..Self::NOTHING }
    }
}

impl Effect {
    /// An effect that does nothing yet, and does not end.
    pub fn new(name: impl Into<String>) -> Self {
        let (alters, again) = (BTreeMap::new(), Stacking::default());
        Self { name: name.into(), alters, seconds: None, while_detected: false, again }
    }

    /// Do this to a stat.
    #[must_use]
    pub fn alter(mut self, stat: impl Into<String>, alter: Alter) -> Self {
        self.alters.insert(stat.into(), alter);
        self
    }

    /// Ends after `seconds`.
    #[must_use]
    pub fn seconds(self, seconds: f64) -> Self {
        Self { seconds: Some(seconds), ..self }
    }

    /// End as soon as the detector of the event that began it no longer detects the subject.
    #[must_use]
    pub fn while_detected(self) -> Self {
        Self { while_detected: true, ..self }
    }

    /// What happens when an entity gets it that has it already.
    #[must_use]
    pub fn again(self, again: Stacking) -> Self {
        Self { again, ..self }
    }

    /// Its name.
    pub fn name(&self) -> &str {
        &self.name
    }

    /// What it does to which stats.
    pub fn alters(&self) -> &BTreeMap<String, Alter> {
        &self.alters
    }

    /// After how many seconds it ends, if by itself.
    pub fn duration(&self) -> Option<f64> {
        self.seconds
    }

    /// Whether it ends with the detection that began it.
    pub fn is_while_detected(&self) -> bool {
        self.while_detected
    }

    /// What happens when an entity gets it that has it already.
    pub fn stacking(&self) -> Stacking {
        self.again
    }
}

/// What somebody is given.
///
/// ```
/// use hazuro::scene::Grant;
/// let token = Grant::default().count("tokens", 1);
/// let poultice = Grant::default().stat("health", 30.0);
/// let sickle = Grant::default().tag("reaper");
/// ```
#[derive(Clone, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Grant {
    /// Added to counts of the scene.
    pub counts: BTreeMap<String, i64>,
    /// Added to counts of the receiver.
    pub own_counts: BTreeMap<String, i64>,
    /// Flags of the scene raised.
    pub flags: Vec<String>,
    /// Added to stats of the receiver.
    pub stats: BTreeMap<String, f64>,
    /// Effects put on the receiver.
    pub effects: Vec<String>,
    /// Tags given to the receiver.
    pub tags: Vec<String>,
    /// The entity put in the hands of the receiver. Nothing is given if they are full, or too
    /// weak.
    pub hands: Option<String>,
}

impl Grant {
    /// Also adds `amount` to the scene's count `name`.
    #[must_use]
    pub fn count(mut self, name: impl Into<String>, amount: i64) -> Self {
        self.counts.insert(name.into(), amount);
        self
    }

    /// Also adds `amount` to the receiver's own count `name`.
    #[must_use]
    pub fn own_count(mut self, name: impl Into<String>, amount: i64) -> Self {
        self.own_counts.insert(name.into(), amount);
        self
    }

    /// And raises a flag of the scene.
    #[must_use]
    pub fn flag(mut self, name: impl Into<String>) -> Self {
        self.flags.push(name.into());
        self
    }

    /// Also adds `amount` to the receiver's stat `name`.
    #[must_use]
    pub fn stat(mut self, name: impl Into<String>, amount: f64) -> Self {
        self.stats.insert(name.into(), amount);
        self
    }

    /// And an effect.
    #[must_use]
    pub fn effect(mut self, name: impl Into<String>) -> Self {
        self.effects.push(name.into());
        self
    }

    /// And a tag.
    #[must_use]
    pub fn tag(mut self, name: impl Into<String>) -> Self {
        self.tags.push(name.into());
        self
    }

    /// And puts an entity in the hands of the receiver, which must be one that can be carried.
    #[must_use]
    pub fn hands(mut self, thing: impl Into<String>) -> Self {
        self.hands = Some(thing.into());
        self
    }

    /// Whether it gives nothing at all.
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }
}

impl Hash for Grant {
    fn hash<H: Hasher>(&self, state: &mut H) {
        (&self.counts, &self.own_counts, &self.flags, &self.effects, &self.tags).hash(state);
        self.hands.hash(state);
        self.stats.len().hash(state);
        for (name, amount) in &self.stats {
            (name, (amount + 0.0).to_bits()).hash(state);
        }
    }
}

/// Something to collect. A subject that comes into its entity's zone collects it; then it and its
/// children are off, and hidden, until it comes back. A subject that would get nothing from it leaves it
/// lying.
///
/// ```
/// use hazuro::geometry::Shape;
/// use hazuro::scene::{Entity, Grant, Pickup, Zone};
/// let poultice = Entity::new("poultice")
///     .zone(Zone::new(Shape::Sphere { radius: 0.5 }))
///     .pickup(Pickup { grant: Grant::default().stat("health", 30.0), ..Pickup::default() });
/// ```
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Pickup {
    /// What it gives.
    pub grant: Grant,
    /// Seconds until it comes back. The default is never.
    pub back_after: Option<f64>,
    /// How many times each subject may collect it. The default is no limit.
    pub limit: Option<u64>,
}
