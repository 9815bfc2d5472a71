//! The structure of an action: its verbs, and what goes with each.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::keys::literal::Literal;
use crate::keys::one_or_many::Names;
use crate::keys::quantity::QuantityKeys;
use crate::number::GrantKeys;

macro_rules! action_keys {
    (
        verbs {
            $($(#[$doc:meta])* $verb:ident $key:ident $(= $word:literal)?: $what:ty
                [$($partner:ident)*];)*
        }
        partners { $($(#[$about:meta])* $name:ident: $type:ty;)* }
    ) => {
        /// One thing done: one of the verbs, and what goes with it. `who` and `on` stand for the
        /// subject and the detector of the event, `on.slot.NAME` for what is in a slot of one of them.
        /// What is acted on may also be `kind:...` or `tag:...`. Where a number stands, a formula may.
        #[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
        #[serde(deny_unknown_fields)]
        pub(crate) struct ActionKeys {
            $($(#[$doc])*
            $(#[serde(rename = $word)])?
            #[serde(skip_serializing_if = "Option::is_none")]
            pub $key: Option<$what>,)*
            $($(#[$about])*
            #[serde(skip_serializing_if = "Option::is_none")]
            pub $name: Option<$type>,)*
        }

        /// What an action does.
        #[derive(Clone, Copy, Debug, PartialEq, Eq)]
        pub(crate) enum Verb {
            $($(#[$doc])* $verb,)*
        }

        impl Verb {
            /// All of them.
            pub const ALL: &[Self] = &[$(Self::$verb),*];

            /// Its key.
            pub fn word(self) -> &'static str {
                match self {
                    $(Self::$verb => action_keys!(@word $key $($word)?),)*
                }
            }

            /// The keys that go with it.
            pub fn partners(self) -> &'static [&'static str] {
                match self {
                    $(Self::$verb => &[$(stringify!($partner)),*],)*
                }
            }
        }

        impl ActionKeys {
            /// The verbs given.
            pub fn verbs(&self) -> Vec<Verb> {
                let given = [$((Verb::$verb, self.$key.is_some())),*];
                given.into_iter().filter(|(_, there)| *there).map(|(verb, _)| verb).collect()
            }

            /// What a verb names; empty if it names nothing.
            pub fn what(&self, verb: Verb) -> String {
                match verb {
                    $(Verb::$verb => self.$key.as_ref().map(What::what).unwrap_or_default(),)*
                }
            }

            /// The keys beside a verb, and whether each is given.
            pub fn partners(&self) -> impl Iterator<Item = (&'static str, bool)> + use<> {
                // Every partner of a verb is one of these.
                $($(let _ = &self.$partner;)*)*
                [$((stringify!($name), self.$name.is_some())),*].into_iter()
            }
        }
    };
    (@word $key:ident) => { stringify!($key) };
    (@word $key:ident $word:literal) => { $word };
}

action_keys! {
    verbs {
        /// Move an entity `to` another's place, `home` or `point`, or `by` so far.
        Move moved = "move": String [to by axis over ease];
        /// Put an entity where `to` is, at once.
        Teleport teleport: String [to choose keep free stand];
        /// Turn an entity about Y, `by` in degrees.
        Turn turn: String [by over rate ease];
        /// Turn an entity about Y towards `to`.
        Face face: String [to over rate ease];
        /// Let an entity follow `to` with its look, in both angles, until it is turned or halted.
        Aim aim: String [to rate pitch];
        /// Switch an entity on.
        Enable enable: String [];
        /// Switch an entity and its children off.
        Disable disable: String [];
        /// Switch an entity over.
        Toggle toggle: String [];
        /// Make an entity visible.
        Show show: String [];
        /// Make an entity and its children invisible.
        Hide hide: String [];
        /// Let an entity and its children block, or not: `set` true or false.
        Solid solid: String [set];
        /// Let the detectors of an entity and its children detect, or not: `set` true or false.
        Detect detect: String [set];
        /// Give an entity the tag `with`.
        Tag tag: String [with];
        /// Take the tag `with` from an entity.
        Untag untag: String [with];
        /// Change this count by `add` or `set`.
        Count count: String [add set of];
        /// Raise or lower this flag: `set` true or false; over if there is no `set`.
        Flag flag: String [set of];
        /// Put something else into this slot of `of`: `to` an entity, or `set` to a value.
        Fill fill: String [of to set];
        /// Empty this slot of `of`.
        Unfill unfill: String [of];
        /// Change this stat by `add` or `set`.
        Stat stat: String [add set of];
        /// Lower an entity's stat `health` `by` an amount.
        Hurt hurt: String [by];
        /// Raise an entity's stat `health` `by` an amount.
        Heal heal: String [by];
        /// Put this effect on whom it is `of`.
        Effect effect: String [of];
        /// End this effect on whom it is `of`.
        EndEffect end_effect: String [of];
        /// Let `to` collect this pickup.
        Collect collect: String [to];
        /// Show the text of this key, to everybody or `to` somebody.
        Say say: String [to];
        /// Send the cue of this name, maybe with another detector `on` or subject `who` than the event's.
        Cue cue: String [on who];
        /// Send this event by hand, `on` a detector, maybe of `who`.
        Send send: String [on who];
        /// Bring out one of the stock of this kind, `at` an entity.
        Spawn spawn: String [at];
        /// Take an entity and its children out of the play.
        Remove remove: String [];
        /// Make an entity and its children what and where they were at the start.
        Reset reset: String [];
        /// Make an entity a child of `to`, where it is now.
        Attach attach: String [to];
        /// Make an entity nobody's child, where it is now.
        Detach detach: String [];
        /// Let somebody walk to where `to` is.
        Walk walk: String [to];
        /// Let somebody stop walking, or something stop on its route.
        Halt halt: String [];
        /// Let somebody jump.
        Jump jump: String [];
        /// Set an entity going along its route, or let it go on.
        Run run: String [];
        /// Let an entity turn back along its route, from where it is.
        Reverse reverse: String [];
        /// Take somebody along some places, `through` these entities.
        Lead lead: String [through over rate ease];
        /// Put a thing into the hands of `to`.
        Grab grab: String [to];
        /// Let a thing belong to `to`.
        Own own: String [to];
        /// Let a thing belong to nobody.
        Disown disown: String [];
        /// Let go of a thing that is held; or make a holder let go.
        Drop drop: String [];
        /// Throw a thing that is held; or make a holder throw.
        Throw throw: String [speed spin];
        /// Give this `to` somebody.
        Grant grant: GrantKeys [to];
        /// Run the script function of this name.
        Call call: String [];
        /// End what the reaction of this name still has to do.
        Stop stop: String [of];
        /// Delay the actions after it by this many seconds, a number or a formula, or until this entity
        /// has arrived.
        Wait wait: Literal [];
    }
    partners {
        /// With `move`, `teleport`, `face`, `aim`, `attach`, `walk`: the entity meant; with `move` also
        /// `home`, or `point` for where a `drag` leads; with `teleport` maybe a list; with `grant`,
        /// `collect`, `grab` and `own`: who gets it; with `fill`: the entity for the slot; with `say`: who
        /// is shown it, or all of a kind or tag.
        to: Names;
        /// With `teleport` to several: `first`, `in_turn`, `random` or `nearest`. The
        /// default is `first`.
        choose: String;
        /// With `teleport`: what stays as it is, of `facing`, `speed` and `offset`, the place relative
        /// to the detector of the event.
        keep: Names;
        /// With `teleport`: only where there is room, else beside it or to the next.
        free: bool;
        /// With `teleport`: only where there is something to stand on.
        stand: bool;
        /// With `lead`: the entities whose places they are, in order.
        through: Vec<String>;
        /// With `throw`: how fast along the holder's axes, in metres per second; the holder faces -Z.
        speed: [QuantityKeys; 3];
        /// With `throw`: degrees per second about Y.
        spin: QuantityKeys;
        /// With `turn`: degrees, counter-clockwise from above; with `move`: metres along the axes of
        /// its parent; with `hurt` and `heal`: how much.
        by: ByKeys;
        /// With `move`: along which line in the world it goes, as `[1, 0, 0]`; of the way there only what lies
        /// along it. The default is all of it.
        axis: [QuantityKeys; 3];
        /// With `move`, `turn` and `face`: seconds the movement takes. The default is 0: at once.
        /// With `lead`: seconds for each leg. The default is 1.
        over: QuantityKeys;
        /// With `turn`, `face` and `aim`: degrees per second; with `lead`: metres per second.
        rate: QuantityKeys;
        /// With `aim`: how far down and up it looks, in degrees above level. The default is -90 to 90.
        pitch: [QuantityKeys; 2];
        /// With `move`, `turn` and `face`: a CSS easing, as `ease-in-out` or
        /// `cubic-bezier(0.2, 0, 0, 1)`.
        ease: String;
        /// With `tag` and `untag`: the tag.
        with: String;
        /// With `count` and `stat`: how much to add, which may be negative.
        add: Literal;
        /// With `count` and `stat`: the new value; with `flag`, `solid` and `detect`: true or false; with
        /// `fill`: the number (a formula, too), the text, or true or false for the slot.
        set: Literal;
        /// With `count`, `flag`, `fill`, `unfill`, `stat`, `effect` and `end_effect`: whose; a count or flag without it
        /// is the scene's. With `stop`: only for this subject.
        of: String;
        /// With `send` and `cue`: the detector.
        on: String;
        /// With `send` and `cue`: the subject.
        who: String;
        /// With `spawn`: the entity whose pose it takes.
        at: String;
    }
}

/// What is said with a verb.
trait What {
    /// The name it gives, if it gives one.
    fn what(&self) -> String;
}

impl What for String {
    fn what(&self) -> String {
        self.clone()
    }
}

impl What for GrantKeys {
    fn what(&self) -> String {
        String::new()
    }
}

impl What for Literal {
    fn what(&self) -> String {
        String::new()
    }
}

/// A number, or a way along three axes.
#[derive(Clone, Debug, Deserialize, Serialize, JsonSchema)]
#[serde(untagged, expecting = "a number, a formula or [x, y, z]")]
pub(crate) enum ByKeys {
    /// A number, or a formula that gives one.
    Amount(QuantityKeys),
    /// A way, in metres.
    Way([QuantityKeys; 3]),
}
