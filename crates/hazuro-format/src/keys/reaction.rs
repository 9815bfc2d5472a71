//! The structure of reactions in a scene file. Its schema is made from these types.

use std::collections::BTreeMap;

use hazuro::scene::EventKind;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::action::ActionKeys;
use crate::keys::one_or_many::{Names, OneOrMany};
use crate::keys::quantity::QuantityKeys;

/// The keys of a trigger, one for each event of a detector.
macro_rules! trigger_keys {
    ($($(#[$doc:meta])* $event:ident $key:ident of $detector:ident $($edge:ident)*;)*) => {
        /// The event a reaction waits for: one of the keys, with whose detector it is, a name,
        /// `kind:...`, `tag:...`, `layer:...`, `*` for any, or a list of them; and `first` or
        /// `last` beside it.
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
            /// Only of these subjects: a name, `kind:...`, `tag:...`, `layer:...`, or a list of them.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub who: Option<Names>,
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
    /// An expression over `who`, `on`, `event`, `count`, `flag` and `time`, tested when the event happens.
    #[serde(rename = "if", skip_serializing_if = "Option::is_none")]
    pub condition: Option<String>,
    /// The delay in seconds between the event and the actions: a number, or a formula worked out at the
    /// event.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub after: Option<QuantityKeys>,
    /// The period in seconds at which the actions repeat: a number, or a formula worked out anew at each
    /// beginning.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub every: Option<QuantityKeys>,
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
    /// For whom by itself `once`, `limit`, `cooldown` and `again` count: each `subject`, each
    /// `detector`, `both`, or `all` together. The default is `all`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub per: Option<String>,
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
