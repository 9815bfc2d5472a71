//! The structure of a scene file. Its schema is made from these types.

use std::collections::BTreeMap;

use hazuro::scene::EventKind;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::shape_keys::shaped;

shaped! {
    /// A shape that detects and blocks nothing.
    ZoneKeys {
        /// Report `inside` each time a subject has stayed for another so many seconds.
        inside_every: Option<f64>,
    }
}

shaped! {
    /// A shape that blocks bodies and stops rays.
    SolidKeys {}
}

shaped! {
    /// What makes an entity move by itself and be detected: one shape, or named parts.
    BodyKeys {
        /// Several named shapes instead of one.
        parts: Option<Vec<PartKeys>>,
        /// A walker's speed in metres a second; without it the body is driven.
        walk: Option<f64>,
    }
}

shaped! {
    /// A named shape of a body.
    PartKeys {
        /// Its name; needed.
        name: Option<String>,
        /// Its centre, from the body's origin.
        at: Option<[f64; 3]>,
        /// Degrees about Y, counter-clockwise from above.
        turn: Option<f64>,
        /// A quaternion, as in glTF.
        rotation: Option<[f64; 4]>,
    }
}

/// Who may set off a detector. A list is met by any of its words; every list must be met.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub(crate) struct AdmitKeys {
    /// Has one of these tags.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub tags: Vec<String>,
    /// Is of one of these kinds.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub kinds: Vec<String>,
    /// Has one of these names.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub names: Vec<String>,
    /// Is in one of these layers.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub layers: Vec<String>,
    /// Players only.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub players: Option<bool>,
    /// An expression over `who`, `on`, `count` and `time`, tested when somebody would be detected
    /// and after each action.
    #[serde(rename = "if", skip_serializing_if = "Option::is_none")]
    pub condition: Option<String>,
    /// But not who meets any of these lists.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub not: Option<RefuseKeys>,
}

/// Who may not set off a detector: who meets any of these lists.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub(crate) struct RefuseKeys {
    /// Has one of these tags.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub tags: Vec<String>,
    /// Is of one of these kinds.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub kinds: Vec<String>,
    /// Has one of these names.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub names: Vec<String>,
    /// Is in one of these layers.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub layers: Vec<String>,
}

/// A table with some keys of its own and those that kinds and entities share.
macro_rules! featured {
    ($(#[$about:meta])* $name:ident { $($(#[$doc:meta])* $field:ident: $type:ty,)* }) => {
        $(#[$about])*
        #[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
        #[serde(deny_unknown_fields)]
        pub(crate) struct $name {
            $($(#[$doc])* pub $field: $type,)*
            /// Words on it.
            #[serde(default, skip_serializing_if = "Vec::is_empty")]
            pub tags: Vec<String>,
            /// The layers it is in, of at most 64; `default` if none are given.
            #[serde(default, skip_serializing_if = "Vec::is_empty")]
            pub layers: Vec<String>,
            /// How many times as large its shapes are, from 0.001 to 1000.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub scale: Option<f64>,
            /// Whether it is on to begin with; true unless said otherwise.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub enabled: Option<bool>,
            /// Whether it is shown to begin with; true unless said otherwise.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub visible: Option<bool>,
            /// A shape that detects.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub zone: Option<ZoneKeys>,
            /// Who may set off its detectors; everybody unless said otherwise.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub admit: Option<AdmitKeys>,
            /// A shape that blocks.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub solid: Option<SolidKeys>,
            /// What makes it move by itself and be detected.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub body: Option<BodyKeys>,
            /// Who touches it.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub touch: Option<$crate::detector_file::TouchKeys>,
            /// What players do with a pointer.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub pointer: Option<$crate::detector_file::PointerKeys>,
            /// The offer to use it.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub prompt: Option<$crate::detector_file::PromptKeys>,
            /// Used without an offer.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub interact: Option<$crate::detector_file::PromptKeys>,
            /// A ray asked again and again.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub probe: Option<$crate::detector_file::ProbeKeys>,
            /// What it stands on.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub footing: Option<$crate::detector_file::FootingKeys>,
            /// A field of view.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub sight: Option<$crate::detector_file::SightKeys>,
            /// Keeps a target.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub seeker: Option<$crate::detector_file::SeekerKeys>,
            /// Through which the pointer of the player it belongs to points.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub camera: Option<$crate::detector_file::CameraKeys>,
            /// Seconds in which its detectors do not act again for the same subject.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub cooldown: Option<f64>,
            /// The cooldown is one for all; each subject has its own unless said otherwise.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub cooldown_shared: Option<bool>,
            /// Its detectors act only once.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub once: Option<bool>,
            /// So often each of its detectors acts; for ever unless said otherwise.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub limit: Option<u64>,
            /// Prompts are offered to it, and it points and presses.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub player: Option<bool>,
            /// What to highlight when it or something below it is offered.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub highlight: Option<bool>,
        }
    };
}

featured! {
    /// What entities of one sort share.
    KindKeys {}
}

featured! {
    /// Anything in a scene.
    EntityKeys {
        /// Its name, which no other entity has.
        name: String,
        /// The kind it is of.
        #[serde(skip_serializing_if = "Option::is_none")]
        kind: Option<String>,
        /// The entity it moves along with.
        #[serde(skip_serializing_if = "Option::is_none")]
        parent: Option<String>,
        /// Its place in its parent's frame, in metres; Y is up.
        #[serde(skip_serializing_if = "Option::is_none")]
        at: Option<[f64; 3]>,
        /// Degrees about Y, counter-clockwise from above.
        #[serde(skip_serializing_if = "Option::is_none")]
        turn: Option<f64>,
        /// A quaternion, as in glTF.
        #[serde(skip_serializing_if = "Option::is_none")]
        rotation: Option<[f64; 4]>,
    }
}

/// The keys of a trigger, one for each event of a detector.
macro_rules! trigger_keys {
    ($($(#[$doc:meta])* $key:ident $event:ident;)*) => {
        /// The event a reaction waits for: one of the keys, and `first` or `last` beside it.
        #[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
        #[serde(deny_unknown_fields)]
        pub(crate) struct TriggerKeys {
            /// The play begins: `start = true`.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub start: Option<bool>,
            $($(#[$doc])*
            #[serde(skip_serializing_if = "Option::is_none")]
            pub $key: Option<String>,)*
            /// The cue of this name is sent.
            #[serde(skip_serializing_if = "Option::is_none")]
            pub cue: Option<String>,
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
            pub fn events(&self) -> impl Iterator<Item = (EventKind, &str)> {
                let named = [$((EventKind::$event, &self.$key)),*];
                named.into_iter().filter_map(|(event, name)| Some((event, name.as_deref()?)))
            }

            /// The key of an event of a detector.
            pub fn event_mut(&mut self, event: EventKind) -> Option<&mut Option<String>> {
                match event {
                    $(EventKind::$event => Some(&mut self.$key),)*
                    _ => None,
                }
            }
        }
    };
}

trigger_keys! {
    /// A subject comes into this zone: a name, `kind:...` or `tag:...`.
    enter Enter;
    /// A subject leaves this zone.
    exit Exit;
    /// A subject has stayed in this zone for another `inside_every`.
    inside Inside;
    /// A subject begins to touch this.
    touch Touch;
    /// A subject touches this no more.
    untouch Untouch;
    /// A player's pointer comes over this.
    hover Hover;
    /// A player's pointer leaves this.
    unhover Unhover;
    /// A player presses a button over this.
    pointer_down PointerDown;
    /// A player lets go of a button over this.
    pointer_up PointerUp;
    /// A player clicks this.
    click Click;
    /// A player drags this.
    drag Drag;
    /// This is offered to a player.
    offer Offer;
    /// This is offered to a player no more.
    withdraw Withdraw;
    /// A player begins to hold the key of this prompt.
    hold Hold;
    /// A player has used this prompt.
    accept Accept;
    /// A player lets go of the key of this prompt too early.
    cancel Cancel;
    /// A player has used this, which makes no offers.
    interact Interact;
    /// A player tried to use this and lacks what it needs.
    refused Refused;
    /// This probe begins to hit something.
    hit Hit;
    /// This probe hits something no more.
    clear Clear;
    /// This body comes to stand on something.
    land Land;
    /// This body leaves what it stood on.
    lift_off LiftOff;
    /// This watcher notices somebody.
    spot Spot;
    /// This watcher forgets somebody.
    lose Lose;
    /// This seeker chooses another target, or none.
    retarget Retarget;
}

/// One thing done: one of the verbs, and what goes with it. `who` and `on` stand for the
/// subject and the detector of the event.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct ActionKeys {
    /// Move an entity `to` another's place or `home`.
    #[serde(rename = "move", skip_serializing_if = "Option::is_none")]
    pub moved: Option<String>,
    /// Put an entity where `to` is, at once.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub teleport: Option<String>,
    /// Turn an entity about Y towards `to`, at once.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub face: Option<String>,
    /// With `move`, `teleport` and `face`: the entity meant; with `move` also `home`, or `point`
    /// for where a `drag` leads.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub to: Option<String>,
    /// With `move`: how many seconds it takes; at once unless said otherwise.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub over: Option<f64>,
    /// With `move`: a CSS easing, as `ease-in-out` or `cubic-bezier(0.2, 0, 0, 1)`.
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
    /// Make an entity invisible.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub hide: Option<String>,
    /// Change this count by `add` or `set`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub count: Option<String>,
    /// With `count`: how much to add, which may be negative.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub add: Option<i64>,
    /// With `count`: the new value.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub set: Option<i64>,
    /// Show the text of this key.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub say: Option<String>,
    /// Send the cue of this name.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cue: Option<String>,
}

/// When an event, if a condition, do actions.
#[derive(Clone, Debug, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct ReactionKeys {
    /// The event it waits for.
    pub on: TriggerKeys,
    /// An expression over `who`, `on`, `count` and `time`, tested when the event happens.
    #[serde(rename = "if", skip_serializing_if = "Option::is_none")]
    pub condition: Option<String>,
    /// Wait so many seconds between the event and the actions.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub after: Option<f64>,
    /// Only the first time.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub once: Option<bool>,
    /// Not again until so many seconds after the event it last reacted to.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub cooldown: Option<f64>,
    /// Leave the event of a pointer to the ancestors of what was pointed at too.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub pass_on: Option<bool>,
    /// What to do, in order.
    #[serde(rename = "do")]
    pub actions: Vec<ActionKeys>,
}

/// What holds for the whole scene.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub(crate) struct HeadKeys {
    /// The scene's title.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub name: Option<String>,
    /// Ticks a second, from 1 to 10000; 60 unless said otherwise.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rate: Option<u32>,
    /// The number that all chance comes from; 1 unless said otherwise.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub seed: Option<u64>,
    /// Counts that do not start at 0, or that no action changes.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub counts: BTreeMap<String, i64>,
}

/// A scene: entities, kinds, reactions and texts.
#[derive(Clone, Debug, Default, Deserialize, Serialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub(crate) struct SceneKeys {
    /// What holds for the whole scene.
    pub scene: HeadKeys,
    /// What entities of one sort share, by name.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub kind: BTreeMap<String, KindKeys>,
    /// The entities; events of one instant are in this order.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub entity: Vec<EntityKeys>,
    /// The reactions; those to one event happen in this order.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub reaction: Vec<ReactionKeys>,
    /// Texts by key. `{who}` and `{on}` stand for the names of subject and detector.
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    pub texts: BTreeMap<String, String>,
}

/// The JSON Schema of scene files.
pub fn scene_schema() -> serde_json::Value {
    schemars::schema_for!(SceneKeys).to_value()
}
