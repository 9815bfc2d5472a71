//! The structure of reactions in a scene file. Its schema is made from these types.

use std::collections::BTreeMap;

use hazuro::scene::EventKind;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::keys::literal::Literal;
use crate::keys::one_or_many::{Names, OneOrMany};
use crate::number::GrantKeys;

/// The keys of a trigger, one for each event of a detector.
macro_rules! trigger_keys {
    ($($(#[$doc:meta])* $event:ident $key:ident of $detector:ident $($edge:ident)*;)*) => {
        /// The event a reaction waits for: one of the keys, with whose detector it is, a name,
        /// `kind:...`, `tag:...` or a list of them; and `first` or `last` beside it.
        #[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
        #[serde(deny_unknown_fields)]
        pub(crate) struct TriggerKeys {
            /// The play begins: `start = true`.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub start: Option<bool>,
            $($(#[$doc])*
            #[serde(skip_serializing_if = "Option::is_none")]
            pub $key: Option<Names>,)*
            /// The cue of this name is sent.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub cue: Option<String>,
            /// With `stat`, `empty` and `full`: only of this stat.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub of: Option<String>,
            /// With an event that begins a detection: only when nobody was detected before.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub first: Option<bool>,
            /// With an event that ends a detection: only when nobody is detected any more, and
            /// that stays so while `after` lasts.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub last: Option<bool>,
        }

        impl TriggerKeys {
            /// The events of detectors that are named, and of which detectors.
            pub fn events(&self) -> impl Iterator<Item = (EventKind, &Names)> {
                let named = [$((EventKind::$event, &self.$key)),*];
                named.into_iter().filter_map(|(event, names)| Some((event, names.as_ref()?)))
            }

            /// The key of an event of a detector.
            pub fn event_mut(&mut self, event: EventKind) -> Option<&mut Option<Names>> {
                match event {
                    $(EventKind::$event => Some(&mut self.$key),)*
                    _ => None,
                }
            }
        }
    };
}

hazuro::for_each_event!(trigger_keys);

/// One thing done: one of the verbs, and what goes with it. `who` and `on` stand for the
/// subject and the detector of the event. What is acted on may also be `kind:...` or `tag:...`.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct ActionKeys {
    /// Move an entity `to` another's place, `home` or `point`, or `by` so far.
    #[serde(rename = "move", skip_serializing_if = "Option::is_none")]
    pub moved: Option<String>,
    /// Put an entity where `to` is, at once.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub teleport: Option<String>,
    /// Turn an entity about Y, `by` in degrees.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub turn: Option<String>,
    /// Turn an entity about Y towards `to`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub face: Option<String>,
    /// With `move`, `teleport`, `face`, `attach`, `walk`: the entity meant; with `move` also
    /// `home`, or `point` for where a `drag` leads; with `teleport` maybe a list; with `grant`,
    /// `collect` and `grab`: who gets it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub to: Option<Names>,
    /// With `teleport` to several: `first`, `in_turn`, `random` or `nearest`. The
    /// default is `first`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub choose: Option<String>,
    /// With `teleport`: what stays as it is, of `facing`, `speed` and `offset`, the place relative
    /// to the detector of the event.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub keep: Option<Names>,
    /// With `teleport`: only where there is room, else beside it or to the next.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub free: Option<bool>,
    /// With `teleport`: only where there is something to stand on.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub stand: Option<bool>,
    /// Let somebody walk to where `to` is.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub walk: Option<String>,
    /// Let somebody stop walking, or something stop on its route.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub halt: Option<String>,
    /// Let somebody jump.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub jump: Option<String>,
    /// Set an entity going along its route, or let it go on.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub run: Option<String>,
    /// Let an entity turn back along its route, from where it is.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub reverse: Option<String>,
    /// Take somebody along some places, `through` these entities.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub lead: Option<String>,
    /// With `lead`: the entities whose places they are, in order.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub through: Option<Vec<String>>,
    /// Put a thing into the hands of `to`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub grab: Option<String>,
    /// Let go of a thing that is held; or make a holder let go.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub drop: Option<String>,
    /// Throw a thing that is held; or make a holder throw.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub throw: Option<String>,
    /// With `throw`: how fast along the holder's axes, in metres per second; the holder faces -Z.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub speed: Option<[f64; 3]>,
    /// With `throw`: degrees per second about Y.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub spin: Option<f64>,
    /// With `turn`: degrees, counter-clockwise from above; with `move`: metres along the axes of
    /// its parent; with `hurt` and `heal`: how much.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub by: Option<ByKeys>,
    /// With `move`, `turn` and `face`: seconds the movement takes. The default is 0: at once.
    /// With `lead`: seconds for each leg. The default is 1.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub over: Option<f64>,
    /// With `turn` and `face`: degrees per second; with `lead`: metres per second.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rate: Option<f64>,
    /// With `move`, `turn` and `face`: a CSS easing, as `ease-in-out` or
    /// `cubic-bezier(0.2, 0, 0, 1)`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ease: Option<String>,
    /// Switch an entity on.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub enable: Option<String>,
    /// Switch an entity and its children off.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub disable: Option<String>,
    /// Switch an entity over.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub toggle: Option<String>,
    /// Make an entity visible.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub show: Option<String>,
    /// Make an entity and its children invisible.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hide: Option<String>,
    /// Let an entity and its children block, or not: `set` true or false.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub solid: Option<String>,
    /// Let the detectors of an entity and its children detect, or not: `set` true or false.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub detect: Option<String>,
    /// Give an entity the tag `with`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub tag: Option<String>,
    /// Take the tag `with` from an entity.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub untag: Option<String>,
    /// With `tag` and `untag`: the tag.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub with: Option<String>,
    /// Change this count by `add` or `set`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub count: Option<String>,
    /// Raise or lower this flag: `set` true or false; over if there is no `set`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub flag: Option<String>,
    /// Change this stat by `add` or `set`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub stat: Option<String>,
    /// With `count` and `stat`: how much to add, which may be negative.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub add: Option<Literal>,
    /// With `count` and `stat`: the new value; with `flag`, `solid` and `detect`: true or false.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub set: Option<Literal>,
    /// With `count`, `flag`, `stat`, `effect` and `end_effect`: whose; a count or flag without it
    /// is the scene's. With `stop`: only for this subject.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub of: Option<String>,
    /// Lower an entity's stat `health` `by` an amount.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hurt: Option<String>,
    /// Raise an entity's stat `health` `by` an amount.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub heal: Option<String>,
    /// Put this effect on whom it is `of`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub effect: Option<String>,
    /// End this effect on whom it is `of`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub end_effect: Option<String>,
    /// Give this `to` somebody.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub grant: Option<GrantKeys>,
    /// Let `to` collect this pickup.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub collect: Option<String>,
    /// Show the text of this key.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub say: Option<String>,
    /// Send the cue of this name.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cue: Option<String>,
    /// Send this event by hand, `on` a detector, maybe of `who`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub send: Option<String>,
    /// With `send`: the detector.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub on: Option<String>,
    /// With `send`: the subject.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub who: Option<String>,
    /// Bring out one of the stock of this kind, `at` an entity.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub spawn: Option<String>,
    /// With `spawn`: the entity whose pose it takes.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub at: Option<String>,
    /// Take an entity and its children out of the play.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub remove: Option<String>,
    /// Make an entity and its children what and where they were at the start.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub reset: Option<String>,
    /// Make an entity a child of `to`, where it is now.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub attach: Option<String>,
    /// Make an entity nobody's child, where it is now.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub detach: Option<String>,
    /// Run the script function of this name.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub call: Option<String>,
    /// End what the reaction of this name still has to do.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub stop: Option<String>,
    /// Delay the actions after it by this many seconds, or until this entity has arrived.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub wait: Option<Literal>,
}

/// When an event, if a condition, do actions.
#[derive(Clone, Debug, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct ReactionKeys {
    /// Its name, by which it can be stopped or replaced.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// The event it waits for, or a list of them.
    pub on: OneOrMany<TriggerKeys>,
    /// Findings of `check` that are no mistake here: by code, why not.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub allow: BTreeMap<String, String>,
    /// The name of another reaction, which it replaces where both would react.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub instead_of: Option<String>,
    /// Its place among the reactions to the same event, the smaller first. The
    /// default is 0.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub order: Option<i32>,
    /// An expression over `who`, `on`, `count`, `flag` and `time`, tested when the event happens.
    #[serde(rename = "if", skip_serializing_if = "Option::is_none")]
    pub condition: Option<String>,
    /// The delay in seconds between the event and the actions.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub after: Option<f64>,
    /// The period in seconds at which the actions repeat.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub every: Option<f64>,
    /// With `every`: how many times in all.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub times: Option<u64>,
    /// The event that ends what it still has to do for the same subject, or a list of them.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub until: Option<OneOrMany<TriggerKeys>>,
    /// An expression, tested when its waiting is over and at each beginning of `every`, that
    /// ends it.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub until_if: Option<String>,
    /// Only the first time.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub once: Option<bool>,
    /// The greatest number of times it runs.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub limit: Option<u64>,
    /// The cooldown in seconds after the event it last reacted to.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cooldown: Option<f64>,
    /// `once`, `limit`, `cooldown` and `again` are each subject's own.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub per_subject: Option<bool>,
    /// What happens when its event comes again before it is done: `beside`, `restart`, `ignore` or
    /// `queue`. The default is `beside`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub again: Option<String>,
    /// Leave the event of a pointer to the ancestors of what was pointed at too.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pass_on: Option<bool>,
    /// What to do, in order; or a list of such lists, all begun at the same time.
    #[serde(rename = "do")]
    pub actions: Vec<OneOrMany<ActionKeys>>,
    /// What to do, at once, when only `if` does not hold.
    #[serde(rename = "else", default, skip_serializing_if = "Vec::is_empty")]
    pub otherwise: Vec<ActionKeys>,
}

/// A number, or a way along three axes.
#[derive(Clone, Debug, Deserialize, Serialize, JsonSchema)]
#[serde(untagged, expecting = "a number or [x, y, z]")]
pub(crate) enum ByKeys {
    /// A number.
    Number(f64),
    /// A way, in metres.
    Way([f64; 3]),
}
